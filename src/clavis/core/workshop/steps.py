"""The steps of an order in the order of the work, each with its caution."""

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

from clavis.core.parts.models import Axis, Axle
from clavis.core.workshop.wheel_work import WheelWork

_ROTOR, _CALIPER, _LEVER, _PAD = Axis.ROTOR, Axis.CALIPER, Axis.LEVER, Axis.PAD


class Topic(StrEnum):
    """The parts of the work, in order."""

    BEFORE = "before"
    OFF = "off"
    ROTOR = "rotor"
    MOUNT = "mount"
    LINE = "line"
    PADS = "pads"
    CENTRE = "centre"
    FINISH = "finish"


@dataclass(frozen=True, kw_only=True)
class StepRow:
    """One step of the order. ``when`` decides whether it stands; ``caution`` stands with it."""

    key: str
    topic: Topic
    words: str
    when: Callable[[WheelWork], bool]
    caution: str = ""


def _always(_w: WheelWork) -> bool:
    return True


def _opened(w: WheelWork) -> bool:
    """Something of the wheel's brake is taken apart, not only filled or bedded in."""
    return w.set_anew or bool(w.changes.parts)


JOINED = frozenset({_LEVER, _CALIPER})
STEPS: tuple[StepRow, ...] = (
    StepRow(
        key="battery",
        topic=Topic.BEFORE,
        words="Switch the bike off and take the battery out.",
        when=lambda w: w.assisted,
        caution="The motor can pull while hands are at the wheel.",
    ),
    StepRow(
        key="cool",
        topic=Topic.BEFORE,
        words="Let the rotor cool; note how the old adapter, washers and bolts sat.",
        when=_always,
        caution="Rotors burn skin for many minutes after a ride.",
    ),
    StepRow(
        key="wheel_out",
        topic=Topic.BEFORE,
        words="Take the wheel out; put a spacer between the pads.",
        when=_opened,
        caution="Pull no lever without a rotor or spacer between the pads.",
    ),
    StepRow(
        key="pistons",
        topic=Topic.BEFORE,
        words="Push the pistons back with the old pads in; look for a lazy piston and even it out.",
        when=lambda w: w.friction and not w.new(_CALIPER) and w.hydraulic,
        caution="New pads do not push pistons back: a tool on bare pistons chips them.",
    ),
    StepRow(
        key="line_off",
        topic=Topic.OFF,
        words="Take the old hose, or cable and housing, off lever and caliper; catch what runs out.",
        when=lambda w: w.changes.hose or bool(w.changes.parts & JOINED),
        caution="DOT fluid attacks paint and skin. No fluid near pads and rotor: take them away first.",
    ),
    StepRow(
        key="lever_off",
        topic=Topic.OFF,
        words="Take the old lever off the bar; note its cut-off plug and how it is wired, where it has one.",
        when=lambda w: w.new(_LEVER),
    ),
    StepRow(
        key="caliper_off",
        topic=Topic.OFF,
        words="Unbolt the old caliper; lay its bolts and washers out in the order they came.",
        when=lambda w: w.new(_CALIPER) or w.changes.adapter,
    ),
    StepRow(
        key="adapter_off",
        topic=Topic.OFF,
        words=(
            "Unbolt the old adapter; note which side was up and keep it apart: it is not used again with this rotor."
        ),
        when=lambda w: w.changes.adapter and w.setup.wheel.adapter is not None,
    ),
    StepRow(
        key="rotor_off",
        topic=Topic.ROTOR,
        words="Take the old rotor off; clean the hub's face.",
        when=lambda w: w.new(_ROTOR),
    ),
    StepRow(
        key="rotor_on",
        topic=Topic.ROTOR,
        words=(
            "Fit the rotor with its arrow in the direction of rotation. Turn it to the end of its play opposite"
            " to the wheel's rotation, then tighten in a star pattern in two steps."
        ),
        when=lambda w: w.new(_ROTOR) and not w.splined,
        caution="No fingers on the track.",
    ),
    StepRow(
        key="rotor_spline",
        topic=Topic.ROTOR,
        words="Slide the rotor on, arrow in the direction of rotation; tighten the lockring.",
        when=lambda w: w.new(_ROTOR) and w.splined,
        caution="No fingers on the track.",
    ),
    StepRow(
        key="rotor_runout",
        topic=Topic.ROTOR,
        words="Turn the wheel past a fixed point: the new rotor runs true.",
        when=lambda w: w.new(_ROTOR),
    ),
    StepRow(
        key="rotor_clean",
        topic=Topic.ROTOR,
        words="Clean the track with isopropyl alcohol and a clean cloth.",
        when=lambda w: w.friction or w.changes.beds_in,
        caution="No spray of any kind near the brake.",
    ),
    StepRow(
        key="adapter",
        topic=Topic.MOUNT,
        words=("Trial-fit the adapter, arrow and “up” as marked, with two bolts; spin the wheel before full assembly."),
        when=lambda w: w.fit.chain.adapter is not None and w.caliper_moves,
        caution="One adapter only. If it does not sit flat, stop: it is the wrong one for this mount.",
    ),
    StepRow(
        key="special_plate",
        topic=Topic.MOUNT,
        words=(
            "Fit the released plate with its spacers; compare its number with the released drawing; spin the "
            "wheel before full assembly."
        ),
        when=lambda w: w.fit.plate is not None and w.caliper_moves,
        caution="Only the part that the engineer released. Paper and plastic carry no braking.",
    ),
    StepRow(
        key="caliper",
        topic=Topic.MOUNT,
        words="Fit the caliper with the bolts listed for each place; washers in the order they came.",
        when=lambda w: w.caliper_moves,
        caution=("A bolt of another stack is not used again. A caliper that fouls is not filed: choose another part."),
    ),
    StepRow(
        key="lever_on",
        topic=Topic.LINE,
        words=("Clamp the new lever to the bar so that it turns before it breaks; the marking on it gives the torque."),
        when=lambda w: w.new(_LEVER),
    ),
    StepRow(
        key="line_on",
        topic=Topic.LINE,
        words="Fit the new hose with its own olives and inserts, cut square, bar turned fully to both sides.",
        when=lambda w: w.changes.hose and w.hydraulic,
        caution="Too short a hose pulls out at full lock.",
    ),
    StepRow(
        key="cable_on",
        topic=Topic.LINE,
        words=(
            "Cut the housing square with the bar turned fully to both sides, open its liner, fit ferrules; pull"
            " the cable tight and clamp it without lifting the arm."
        ),
        when=lambda w: w.changes.hose and not w.hydraulic,
        caution="A cable that has been clamped once is not clamped again.",
    ),
    StepRow(
        key="pads_in",
        topic=Topic.PADS,
        words="Fit the pads with their spring; pin, then clip.",
        when=lambda w: w.new(_PAD) or w.new(_CALIPER),
        caution="Pads that have met oil are thrown away; nothing brings them back.",
    ),
    StepRow(
        key="bleed",
        topic=Topic.LINE,
        words="Bleed from the caliper upward until no bubbles come; fluid of the right family only.",
        when=lambda w: w.changes.opens_line,
        caution=("Take pads and rotor away first. DOT fluid attacks paint and skin. Mineral and DOT never mix."),
    ),
    StepRow(
        key="leaks",
        topic=Topic.LINE,
        words="Hold the lever hard for half a minute: no drop at lever, hose ends or caliper.",
        when=lambda w: w.changes.opens_line,
    ),
    StepRow(
        key="cable_centre",
        topic=Topic.CENTRE,
        words=(
            "Run the fixed pad out until it sets the rotor mid-slot; hold the lever, tighten, back the fixed "
            "pad off until the wheel turns free."
        ),
        when=lambda w: w.set_anew and w.one_pad_moves,
        caution="A lever that bottoms means that the pads stand too far out.",
    ),
    StepRow(
        key="centre",
        topic=Topic.CENTRE,
        words=("Wheel in, bike on the ground. Hold the lever, tighten the caliper in turns, then check by eye."),
        when=lambda w: w.set_anew and not w.one_pad_moves,
    ),
    StepRow(
        key="cutoff",
        topic=Topic.FINISH,
        words="Connect the motor's cut-off switch again and test it.",
        when=lambda w: w.assisted and w.cutoff and w.new(_LEVER),
        caution=("A lever without the switch leaves the motor pulling against the brake: the new one must carry it."),
    ),
    StepRow(
        key="pump",
        topic=Topic.FINISH,
        words=(
            "Check that the rotor runs centred, then pump the lever until it is firm; pull it hard twice and hold it."
        ),
        when=_always,
        caution="A lever that stays soft or sinks is not ridden: find out why.",
    ),
    StepRow(
        key="quick_release",
        topic=Topic.FINISH,
        words="Set the quick-release lever opposite the rotor, or prove that it cannot reach it.",
        when=lambda w: w.wheel.axle is Axle.QUICK_RELEASE and _opened(w),
        caution="A lever in the rotor stops the wheel at once.",
    ),
    StepRow(
        key="lever_set",
        topic=Topic.FINISH,
        words="Set angle, reach and contact for one finger in the blade's hook.",
        when=_always,
    ),
    StepRow(
        key="bed_in",
        topic=Topic.FINISH,
        words="Bed in as the plan below says, this wheel alone.",
        when=lambda w: w.changes.beds_in,
        caution="On a closed road, or one without traffic. Full power comes only after it.",
    ),
)

CAUTIONS: tuple[str, ...] = (
    "A brake job that is wrong kills. A qualified mechanic releases the bike, by the makers' words and local law.",
    "Torques and lengths here are the trade's usual ones: the marking on the part and the maker's document win.",
    "Temperatures and forces are estimates from typical figures.",
)


@dataclass(frozen=True)
class OrderedStep:
    """A step as it stands in this order; ``key`` is what a tick is kept under."""

    key: str
    row: StepRow
    number: int


def steps_of(work: WheelWork) -> tuple[OrderedStep, ...]:
    """The steps that apply to one wheel, numbered."""
    rows = sorted((row for row in STEPS if row.when(work)), key=lambda row: list(Topic).index(row.topic))
    return tuple(OrderedStep(f"{work.end.value}:{row.key}", row, n) for n, row in enumerate(rows, 1))
