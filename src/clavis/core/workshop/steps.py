"""The steps of an order in the order of the work: what is done, why, with what, how long it takes, and its caution.

One table. A row of a topic that is done once for the bike stands where any of its wheels asks for it.
"""

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

from clavis.core.parts.models import Axis, Axle
from clavis.core.records import figure
from clavis.core.workshop.torques import Fastener
from clavis.core.workshop.wheel_work import WheelWork

_ROTOR, _CALIPER, _LEVER, _PAD = Axis.ROTOR, Axis.CALIPER, Axis.LEVER, Axis.PAD
_F = Fastener


class Topic(StrEnum):
    """The parts of the work, in order."""

    PREPARE = "prepare"
    OFF = "off"
    ROTOR = "rotor"
    MOUNT = "mount"
    LINE = "line"
    PADS = "pads"
    CENTRE = "centre"
    SET = "set"
    CHECKS = "checks"
    ROAD = "road"
    AFTER = "after"


ONCE_FOR_THE_BIKE = frozenset({Topic.PREPARE, Topic.CHECKS, Topic.AFTER})
_JUDGED = "judged, a practised hand in a stand; the workshop's own minutes win"


@dataclass(frozen=True, kw_only=True)
class StepRow:
    """One step. ``when`` decides whether it stands; ``caution`` stands with it; ``fastens`` are the kinds of fastener
    that it tightens; ``needed`` may never be skipped; ``source`` is where the act and its caution come from."""

    key: str
    topic: Topic
    words: str
    why: str
    when: Callable[[WheelWork], bool]
    minutes: float = figure("min", _JUDGED)
    tool: str = ""
    caution: str = ""
    fastens: tuple[Fastener, ...] = ()
    needed: bool = False
    source: str = "the trade's practice; the maker's instructions for the part win"


def _always(_w: WheelWork) -> bool:
    return True


def _opened(w: WheelWork) -> bool:
    return w.opened


STEPS: tuple[StepRow, ...] = (
    StepRow(
        key="switch_off", topic=Topic.PREPARE, minutes=1, needed=True,
        words="Switch the bike off and take the battery out.",
        why="The motor must not turn a wheel that hands are in.",
        when=lambda w: w.assisted,
        caution="The motor can pull while hands are at the wheel.",
    ),
    StepRow(
        key="held", topic=Topic.PREPARE, minutes=2, tool="repair stand",
        words="Hold the bike by its seat post in the stand, steady, the wheel free to turn.",
        why="A caliper is centred by eye, and a bike that sways cannot be.",
        when=lambda w: not w.inverted,
    ),
    StepRow(
        key="held_inverted", topic=Topic.PREPARE, minutes=2, tool="mat",
        words="Stand the bike on its saddle and bars, on something soft, levers free of the floor.",
        why="Upside down everything that is marked “up” points to the floor.",
        when=lambda w: w.inverted,
        caution="Pull no lever of an open or unbled line while the bike stands so: air goes to the caliper.",
    ),
    StepRow(
        key="cool", topic=Topic.PREPARE, minutes=1,
        words="Let the rotors cool before a hand is near.",
        why="They stay hot long after they look cold.",
        when=lambda w: w.was_disc,
        caution="Rotors burn skin for many minutes after a ride.",
    ),
    StepRow(
        key="clean_round", topic=Topic.PREPARE, minutes=4, tool="brush, water, cloth",
        words="Clean round caliper, hub and lever before anything is opened.",
        why="Grit that falls into an open line or under a mount stays there.",
        when=_opened,
        caution="No spray of any kind near the brake.",
    ),
    StepRow(
        key="wheel_out", topic=Topic.OFF, minutes=2,
        words="Take the wheel out; put a spacer between the pads where they stay.",
        why="Pistons that are pulled without a rotor come out of their seals.",
        when=_opened,
        caution="Pull no lever without a rotor or spacer between the pads.",
    ),
    StepRow(
        key="rim_off", topic=Topic.OFF, minutes=8,
        words="Take the old brake off the wheel with its cable, housing and lever; close its holes.",
        why="Two brakes on one wheel pull against each other's travel.",
        when=lambda w: w.converts,
    ),
    StepRow(
        key="pistons_back", topic=Topic.OFF, minutes=4, tool="plastic tyre lever",
        words="Push the pistons back with the old pads in; look for a lazy piston and even it out.",
        why="New pads are thicker than the worn ones, and the old ones shield the pistons from the tool.",
        when=lambda w: w.friction and w.was_disc and not w.new(_CALIPER) and w.hydraulic,
        caution="New pads do not push pistons back: a tool on bare pistons chips them.",
    ),
    StepRow(
        key="pads_out", topic=Topic.OFF, minutes=2,
        words="Take the pads out: clip, pin, then both pads with their spring; lay them away from fluid.",
        why="Fluid or dirt on a pad that stays ruins it.",
        when=lambda w: w.was_disc and not w.new(_CALIPER) and (w.new(_PAD) or w.changes.opens_line),
    ),
    StepRow(
        key="line_off", topic=Topic.OFF, minutes=5, tool="8 mm spanner or 5 mm hex key, cloth",
        words="Take the old hose, or cable and housing, off lever and caliper; catch what runs out.",
        why="Lever and caliper come off only with their line open.",
        when=lambda w: w.was_disc and (w.changes.hose or w.new(_CALIPER) or w.new(_LEVER)),
        caution="DOT fluid attacks paint and skin. No fluid near pads and rotor: take them away first.",
    ),
    StepRow(
        key="caliper_off", topic=Topic.OFF, minutes=3, tool="5 mm hex key or T25",
        words="Unbolt the old caliper; lay its bolts and washers out in the order and the way up they came.",
        why="The order of the washers is easy to see now and hard to guess later.",
        when=lambda w: w.was_disc and (w.new(_CALIPER) or w.changes.adapter or w.changes.bolts),
    ),
    StepRow(
        key="adapter_off", topic=Topic.OFF, minutes=2,
        words="Unbolt the old adapter; note which side was up and keep it apart: it is not used with this rotor again.",
        why="Two adapters look alike a size apart.",
        when=lambda w: w.changes.adapter and w.setup.wheel.adapter is not None,
    ),
    StepRow(
        key="lever_off", topic=Topic.OFF, minutes=3,
        words="Take the old lever off the bar; note its cut-off plug and how it is wired, where it has one.",
        why="The new plug goes where the old one was.",
        when=lambda w: w.was_disc and w.new(_LEVER),
    ),
    StepRow(
        key="wheel_new", topic=Topic.ROTOR, minutes=20, tool="cassette tool, tyre levers",
        words="Move tyre, tube and at the rear the sprockets over to the new wheel.",
        why="The old hub has no seat for a rotor.",
        when=lambda w: w.changes.wheel,
        caution="A tyre that needs tools to seat is looked at again at full pressure.",
    ),
    StepRow(
        key="rotor_off", topic=Topic.ROTOR, minutes=4,
        words="Take the old rotor off; clean the hub's face.",
        why="A grain under the rotor makes it wobble.",
        when=lambda w: w.new(_ROTOR) and w.was_disc and not w.changes.wheel,
    ),
    StepRow(
        key="hub_adapter", topic=Topic.ROTOR, minutes=3, fastens=(_F.LOCKRING,),
        words="Slide the six-bolt adapter on the splines until it seats; tighten its lockring.",
        why="A six-bolt rotor goes on a splined hub with it, never the other way round.",
        when=lambda w: w.six_bolt_on_splined,
    ),
    StepRow(
        key="rotor_bolted", topic=Topic.ROTOR, minutes=8, fastens=(_F.ROTOR_BOLTS,),
        words=(
            "Fit the rotor with its arrow in the direction of rotation. Set all six bolts loosely, turn the rotor back "
            "against the direction of rotation until it bears on its bolts, then tighten every other bolt, twice round."
        ),
        why="Braking pushes the rotor that way: play left there is taken up by the first hard stop, with a knock.",
        when=lambda w: w.new(_ROTOR) and w.bolted_rotor,
        caution="No fingers on the track. A round or stripped head is replaced, not used again.",
    ),
    StepRow(
        key="rotor_lockring", topic=Topic.ROTOR, minutes=4, fastens=(_F.LOCKRING,),
        words="Slide the rotor on its splines, arrow in the direction of rotation; tighten the lockring.",
        why="The splines carry the braking, the lockring only keeps the rotor on them.",
        when=lambda w: w.new(_ROTOR) and not w.bolted_rotor,
        caution="No fingers on the track.",
    ),
    StepRow(
        key="rotor_true", topic=Topic.ROTOR, minutes=3, tool="dial gauge or a fixed point",
        words="Turn the wheel past a fixed point: the new rotor runs true.",
        why="A rotor that wobbles rubs, and pushes the pistons back at every turn.",
        when=lambda w: w.new(_ROTOR),
    ),
    StepRow(
        key="rotor_clean", topic=Topic.ROTOR, minutes=2, tool="isopropyl alcohol, clean cloth",
        words="Clean the track with isopropyl alcohol and a clean cloth.",
        why="New rotors come with a film against rust, old ones carry the film of the old compound.",
        when=lambda w: w.beds_in,
        caution="No spray of any kind near the brake.",
    ),
    StepRow(
        key="mount_clean", topic=Topic.MOUNT, minutes=2, tool="cloth, straight edge",
        words="Clean the faces and threads of the mount: bare, flat, no ridge of paint.",
        why="A caliper on a ridge of paint settles, and its bolts come loose.",
        when=lambda w: w.caliper_moves,
        caution="A mount that is not flat or not square is faced by a workshop that has the tool for it.",
    ),
    StepRow(
        key="adapter_up", topic=Topic.MOUNT, minutes=4,
        words="Trial-fit the adapter, arrow and “up” as marked, with two bolts; spin the wheel before full assembly.",
        why="The part in the box may be the wrong one for this frame.",
        when=lambda w: w.on_adapter and not w.inverted,
        caution="One adapter only. If it does not sit flat, stop: it is the wrong one for this mount.",
    ),
    StepRow(
        key="adapter_inverted", topic=Topic.MOUNT, minutes=4,
        words=(
            "Trial-fit the adapter with two bolts: the bike stands upside down, so “up” points to the floor; the arrow "
            "still points the way the wheel rolls forward. Spin the wheel before full assembly."
        ),
        why="Fitted by eye on an upturned bike, this is the part that ends the wrong way round.",
        when=lambda w: w.on_adapter and w.inverted,
        caution="One adapter only. If it does not sit flat, stop: it is the wrong one for this mount.",
    ),
    StepRow(
        key="special_plate", topic=Topic.MOUNT, minutes=10,
        words=(
            "Fit the released plate with its spacers; compare its number with the released drawing; spin the "
            "wheel before full assembly."
        ),
        why="The drawing is what the engineer answers for.",
        when=lambda w: w.fit.plate is not None and w.caliper_moves,
        caution="Only the part that the engineer released. Paper and plastic carry no braking.",
    ),
    StepRow(
        key="caliper_on", topic=Topic.MOUNT, minutes=5, fastens=(_F.M5, _F.M6, _F.M8),
        words=(
            "Fit the caliper with the bolts listed for each place, washers in the order they came; leave those that it "
            "is centred by just loose."
        ),
        why="Each bolt was chosen for its own stack: too long bites into the fork, too short hangs on three threads.",
        when=lambda w: w.caliper_moves,
        caution="A bolt of another stack is not used again. A caliper that fouls is not filed: choose another part.",
    ),
    StepRow(
        key="lever_on", topic=Topic.LINE, minutes=4, fastens=(_F.LEVER_CLAMP,),
        words="Clamp the new lever to the bar so that it turns before it breaks.",
        why="In a fall a lever that turns is a lever that is left.",
        when=lambda w: w.new(_LEVER),
        caution="On a carbon bar the bar's own figure counts where it is the lower one.",
    ),
    StepRow(
        key="cutoff_plug", topic=Topic.LINE, minutes=3,
        words="Connect the motor's cut-off switch again, like plug to like plug, its wire clear of the steerer.",
        why="A plug in the wrong socket leaves one lever without its switch.",
        when=lambda w: w.assisted and w.cutoff and w.new(_LEVER),
        caution="A lever without the switch leaves the motor pulling against the brake: the new one must carry it.",
    ),
    StepRow(
        key="line_looked", topic=Topic.LINE, minutes=1,
        words="Look whether the line runs through frame or fork. If it does, draw the new one in with the old.",
        why="Nobody has noted it, and a hose lost in a frame is an hour.",
        when=lambda w: w.changes.hose and w.inside is None,
    ),
    StepRow(
        key="hose_drawn", topic=Topic.LINE, minutes=15, tool="joining pin or thread",
        words="Draw the new hose in with the old one, both without their ends; fit its ends afterwards.",
        why="Assembled ends do not pass the frame's holes.",
        when=lambda w: w.changes.hose and w.hydraulic and w.inside is True,
        caution="An assembled set runs outside, or is taken apart by its maker's instructions.",
    ),
    StepRow(
        key="housing_drawn", topic=Topic.LINE, minutes=10, tool="guide tube or thread",
        words="Draw the new housing in with the old one, or over a guide left in the frame.",
        why="A housing pushed in blind kinks at the first bend.",
        when=lambda w: w.changes.hose and not w.hydraulic and w.inside is True,
    ),
    StepRow(
        key="hose_on", topic=Topic.LINE, minutes=10, fastens=(_F.HOSE_NUT,), tool="hose cutter",
        words=(
            "Cut the new hose square, bar turned fully to both sides and the caliper where it now stands; fit it with "
            "its own olives and inserts."
        ),
        why="The caliper may have moved outward: the old length is no measure.",
        when=lambda w: w.changes.hose and w.hydraulic,
        caution="Too short a hose pulls out at full lock. A crushed olive is not used a second time.",
    ),
    StepRow(
        key="hose_joined", topic=Topic.LINE, minutes=8, fastens=(_F.HOSE_NUT,), tool="hose cutter",
        words="Cut the end of the hose square; join it with a new olive and insert.",
        why="An olive seals once, on the hose it was pressed to.",
        when=lambda w: not w.changes.hose and w.hydraulic and w.line_parted,
        caution="Look again that the hose reaches with the bar turned fully to both sides: each cut takes some of it.",
    ),
    StepRow(
        key="housing_on", topic=Topic.LINE, minutes=10, fastens=(_F.CABLE_CLAMP,), tool="cable cutter, awl",
        words=(
            "Cut the housing square with the bar turned fully to both sides and the caliper where it now stands, open "
            "its liner, fit a ferrule at each end; draw the cable in, pull it tight, clamp it without lifting the arm."
        ),
        why="A lifted arm has used up pad travel before the lever is touched.",
        when=lambda w: w.changes.hose and not w.hydraulic,
        caution="A cable that has been clamped once is not clamped again.",
    ),
    StepRow(
        key="turned_up", topic=Topic.LINE, minutes=2,
        words="Turn the bike the right way up before the line is filled.",
        why="Bubbles rise: lever above caliper, or they rise the wrong way.",
        when=lambda w: w.inverted and w.changes.opens_line,
    ),
    StepRow(
        key="bleed_full", topic=Topic.LINE, minutes=20, fastens=(_F.BLEED_SCREW,), tool="bleed kit, bleed block",
        words=(
            "Bleed the whole line, from the caliper up to the lever, until no bubbles come; fluid of the right family "
            "only. A prefilled quick-connect set needs this only where its maker says so."
        ),
        why="The line was open, or its fluid is old; air rises to the lever's reservoir.",
        when=lambda w: w.changes.opens_line and not w.lever_end_only,
        caution="Pads and rotor away first. DOT fluid attacks paint and skin. Mineral and DOT never mix.",
    ),
    StepRow(
        key="bleed_lever", topic=Topic.LINE, minutes=8, fastens=(_F.BLEED_SCREW,), tool="bleed cup, bleed block",
        words=(
            "Bleed at the lever alone: only its end was open. Work the lever slowly until no bubbles come; if it is "
            "not firm then, bleed the whole line from the caliper up."
        ),
        why="What air there is sits at the end that was opened, next to the reservoir.",
        when=lambda w: w.changes.opens_line and w.lever_end_only,
        caution="Pads and rotor away first. DOT fluid attacks paint and skin. Mineral and DOT never mix.",
    ),
    StepRow(
        key="leaks", topic=Topic.LINE, minutes=2, tool="bleed block", needed=True,
        words="Block between the pistons, hold the lever hard for half a minute: no drop at lever, hose or caliper.",
        why="A joint that weeps now lets go in a hard stop.",
        when=lambda w: w.changes.opens_line,
        caution="Wipe every trace of fluid off, and clean with isopropyl alcohol, before the pads go in.",
    ),
    StepRow(
        key="pads_in", topic=Topic.PADS, minutes=3, fastens=(_F.PAD_PIN,),
        words="Fit the pads with their spring; pin, then clip.",
        why="The clip is what is left when the pin works loose.",
        when=lambda w: w.new(_PAD) or w.new(_CALIPER) or w.changes.opens_line,
        caution="Pads that have met oil are thrown away; nothing brings them back.",
    ),
    StepRow(
        key="wheel_in", topic=Topic.CENTRE, minutes=2, fastens=(_F.AXLE,),
        words="Put the wheel in, rotor between the pads before the axle is closed.",
        why="A rotor pushed against the edge of a pad bends.",
        when=_opened,
    ),
    StepRow(
        key="quick_release", topic=Topic.CENTRE, minutes=1, needed=True,
        words="Set the quick-release lever opposite the rotor, or prove that it cannot reach it.",
        why="Closed on the rotor's side it can swing into the rotor.",
        when=lambda w: w.opened and w.wheel.axle is Axle.QUICK_RELEASE,
        caution="A lever in the rotor stops the wheel at once.",
    ),
    StepRow(
        key="cable_centre", topic=Topic.CENTRE, minutes=6, fastens=(_F.M5, _F.M6, _F.M8),
        words=(
            "Run the fixed pad out until it sets the rotor mid-slot; hold the lever, tighten the caliper, then back "
            "the fixed pad off until the wheel turns free."
        ),
        why="One pad moves: the other has to stand where the rotor runs.",
        when=lambda w: w.set_anew and w.one_pad_moves,
        caution="A lever that bottoms means that the pads stand too far out.",
    ),
    StepRow(
        key="centre", topic=Topic.CENTRE, minutes=5, fastens=(_F.M5, _F.M6, _F.M8),
        words="Loosen the caliper, hold the lever, tighten its bolts in turns; let go and look through the gap.",
        why="Both pads must lift off alike, or one drags and wears alone.",
        when=lambda w: w.set_anew and not w.one_pad_moves,
    ),
    StepRow(
        key="cable_taken_up", topic=Topic.CENTRE, minutes=2,
        words="Take up the cable at its adjuster until the lever bites early; the arm stays down at rest.",
        why="Pads are not set by the cable: it only takes up its own slack.",
        when=lambda w: w.set_anew and not w.hydraulic,
        caution="A lever that reaches the bar is not ridden.",
    ),
    StepRow(
        key="pump", topic=Topic.SET, minutes=2, needed=True,
        words="See that the rotor runs centred, then pump the lever until it is firm; pull it hard twice and hold it.",
        why="The pistons have to come out to the new place before the first stop needs them.",
        when=_always,
        caution="A lever that stays soft or sinks is not ridden: find out why.",
    ),
    StepRow(
        key="lever_set", topic=Topic.SET, minutes=3,
        words="Set angle, reach and contact for one finger in the blade's hook.",
        why="A finger at the end of the blade has the leverage that was paid for.",
        when=_always,
    ),
    StepRow(
        key="on_ground", topic=Topic.CHECKS, minutes=3, fastens=(_F.AXLE,), needed=True,
        words="Bike on its wheels: open each axle, let the wheel seat, close it again; the rotors still run free.",
        why="A wheel that was closed hanging may sit crooked, and the rotor with it.",
        when=_opened,
    ),
    StepRow(
        key="torques_read", topic=Topic.CHECKS, minutes=4, tool="torque wrench", needed=True,
        words="Read every fastener of the table of torques again with the wrench.",
        why="The one that was forgotten is always the one that was interrupted.",
        when=_opened,
        caution="The marking on a part wins over every figure here.",
    ),
    StepRow(
        key="cutoffs_tested", topic=Topic.CHECKS, minutes=3, needed=True,
        words="Battery in, bike on; rear wheel off the ground, each lever in turn cuts the motor.",
        why="Both levers, whichever was worked on: a loose plug does not show.",
        when=lambda w: w.assisted and w.cutoff,
        caution="Hands and sleeves away from the wheel.",
    ),
    StepRow(
        key="walking", topic=Topic.CHECKS, minutes=4, needed=True,
        words=(
            "At walking pace, each brake alone, then both: the lever is firm and far from the bar, the wheel turns "
            "free, no scrape, no oil, no loose bolt."
        ),
        why="What fails here fails at walking pace.",
        when=_always,
    ),
    StepRow(
        key="bed_in", topic=Topic.ROAD, minutes=20,
        words="Bed in as the plan says, this wheel alone.",
        why="Force comes with the film of pad on the track, not before.",
        when=lambda w: w.beds_in,
        caution="On a closed road, or one without traffic. Full power comes only after it.",
    ),
    StepRow(
        key="lever_again", topic=Topic.AFTER, minutes=4, tool="torque wrench",
        words="After bedding in: set reach and contact again, and read the torques of caliper and rotor once more.",
        why="The bite point has moved out, and what was going to settle has settled.",
        when=lambda w: w.beds_in,
    ),
)  # fmt: skip
LAYS_BOLTS = "caliper_on"
"""the step at which the bolts of caliper and adapter are laid, each for its place"""

CAUTIONS: tuple[str, ...] = (
    "A brake job that is wrong kills. A qualified mechanic releases the bike, by the makers' words and local law.",
    "Torques and lengths here are the trade's usual ones: the marking on the part and the maker's document win.",
    "Temperatures and forces are estimates from typical figures.",
)
