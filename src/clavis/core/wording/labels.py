"""The trade's words for every field and choice, in one place. Pages, errors and files that speak use these."""

from collections.abc import Mapping
from enum import Enum

from clavis.core.evaluation.conditions import FindingKind
from clavis.core.job.document import (
    BikeHeld,
    Complaint,
    Grit,
    HandSize,
    Reply,
    ShareBy,
    Skill,
    SpeedFrom,
    TorqueFrom,
    Use,
    Wish,
)
from clavis.core.job.renewal import Renewal
from clavis.core.job.special_mount import CaliperBolts, MountBolts
from clavis.core.job.wheel import (
    FittedBrake,
    LeverFeel,
    LimitSource,
    LineRuns,
    LineState,
    PistonState,
    Presence,
    RotorColour,
    RotorFace,
    Seen,
)
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.figures import FIGURES
from clavis.core.parts.fluids import FLUID_GRADES, Fluid
from clavis.core.parts.models import (
    Adapter,
    AnyPart,
    Axle,
    Caliper,
    Construction,
    HubInterface,
    Lever,
    Pad,
    Rotor,
    Washers,
)
from clavis.core.parts.mounts import (
    ADAPTER_WORDS,
    MOUNT_ROWS,
    AdapterKind,
    BoltDirection,
    BoltStyle,
    CaliperMount,
    End,
    MountKind,
    SpacingTool,
    ThreadMaterial,
)
from clavis.core.physics.bike import BikeKind, Surface
from clavis.core.physics.descent import Style
from clavis.core.physics.forces import Feel
from clavis.core.physics.friction import PadState
from clavis.core.physics.infrared import SURFACES
from clavis.core.records import HasWords
from clavis.core.selection.arguments import Argument
from clavis.core.selection.schools import SCHOOLS
from clavis.core.units import System

# What differs from the plain value with its underscores read as spaces.
_SPECIAL: tuple[tuple[Enum, str], ...] = (
    (BikeKind.ENDURO, "enduro or downhill"),
    (BikeKind.CARGO, "long cargo"),
    (BikeKind.CROSS_COUNTRY, "cross-country"),
    (Use.CROSS_COUNTRY, "cross-country"),
    (Surface.LOOSE, "loose or mud"),
    (Skill.NOVICE, "beginner"),
    (ShareBy.RIDER, "the rider's habit"),
    (ShareBy.AXLE_LOAD, "axle load"),
    (Style.DRAG, "drags: long and steady"),
    (Style.PULSE, "pulses: lets go between"),
    (HandSize.SMALL, "small hands"),
    (HandSize.USUAL, "usual hands"),
    (Complaint.LONG_LEVER, "lever goes long"),
    (Complaint.TO_THE_BAR, "pulls to the bar"),
    (Complaint.GRABS, "grabs or locks"),
    (Complaint.WET_NOISE, "noisy in the wet"),
    (Complaint.RUBS, "rubs when sprinting"),
    (Complaint.WEARS_PADS, "wears pads fast"),
    (Complaint.DISCOLOURED, "rotor discoloured"),
    (Complaint.BENT, "rotor bent"),
    (Complaint.CONVERSION, "wants discs"),
    (Axle.QUICK_RELEASE, "quick-release"),
    (Axle.MM12, "12 mm through"),
    (Axle.MM15, "15 mm through"),
    (Axle.MM20, "20 mm through"),
    (HubInterface.SIX_BOLT, "six-bolt"),
    (HubInterface.SPLINED, "splined, lockring"),
    (ThreadMaterial.LIGHT_ALLOY, "aluminium or magnesium"),
    (BoltDirection.ALONG_POST, "along the post"),
    (BoltDirection.CROSSWISE, "crosswise, like the axle"),
    (BoltDirection.INTO_LEG, "into the fork leg's face"),
    (BoltDirection.THROUGH_STAY, "through the chainstay, from below"),
    (LeverFeel.NOT_CHECKED, "not checked"),
    (LeverFeel.PUMPS_UP, "firm after pumping"),
    (PadState.NOT_CHECKED, "not checked"),
    (PadState.GOOD, "good face"),
    (PadState.GLAZED, "glazed, shiny"),
    (PadState.OILED, "oil on them"),
    (PadState.METAL, "down to metal"),
    (SpeedFrom.PLANNED, "planned from the speed held"),
    (SpeedFrom.RECORDED, "as recorded"),
    (Grit.NONE, "none"),
    (Grit.SOME, "some: pads wear twice as fast"),
    (Grit.MUCH, "much: four times as fast"),
    (Washers.CUP_CONE, "cup-and-cone pairs"),
    (MountBolts.THROUGH_TAB, "through a tab, into the plate"),
    (MountBolts.INTO_BOSS, "through the plate, into a boss"),
    (CaliperBolts.THROUGH_EAR, "through its ear, into the plate"),
    (CaliperBolts.INTO_EAR, "through the plate, into its ear"),
    (CaliperMount.OWN, "bolts of its own, crosswise"),
    (BoltStyle.THROUGH, "bolted through with the caliper's own bolts"),
    (BoltStyle.FOUR_HOLE, "four holes: two bolts to the mount, two to the caliper"),
    (BoltStyle.SIDE, "two bolts from the side, two to the caliper"),
    (BoltStyle.PLATE, "its own bolts to the mount and to the caliper"),
    (Construction.ONE_PIECE, "one piece"),
    (Fluid.DOT, "DOT"),
    (Fluid.NONE, "cable"),
    (Feel.WEAK, "weak: cannot reach the limit"),
    *((row.school, row.title.lower()) for row in SCHOOLS),
    *((figures, row.words) for figures, row in FIGURES.items()),
    (Presence.MISSING, "not there"),
    (FittedBrake.DISC, "disc brake"),
    (FittedBrake.RIM, "rim brake"),
    (FittedBrake.OTHER, "another kind, or none"),
    (LimitSource.MARKED, "marked on fork or frame"),
    (LimitSource.DOCUMENT, "the maker's document"),
    (LimitSource.MAKER_ANSWER, "the maker's answer"),
    (LimitSource.REFUSED, "maker refuses any larger"),
    (SpacingTool.TAPE, "tape or rule"),
    (SpacingTool.GAUGE, "caliper gauge"),
    (Seen.NOT_CHECKED, "not checked"),
    (RotorFace.NOT_CHECKED, "not checked"),
    (RotorFace.OILED, "oil on it"),
    (RotorColour.NOT_CHECKED, "not checked"),
    (PistonState.NOT_CHECKED, "not checked"),
    (PistonState.EVEN, "move evenly"),
    (PistonState.LAZY, "one lags"),
    (PistonState.STUCK, "one is stuck"),
    (LineState.NOT_CHECKED, "not checked"),
    (LineState.WORN, "worn or kinked"),
    (LineRuns.INSIDE, "through frame or fork"),
    (BikeHeld.STAND, "in the stand"),
    (BikeHeld.INVERTED, "upside down"),
    (TorqueFrom.MARKING, "marked on the part"),
    (TorqueFrom.SHEET, "the maker's sheet"),
    (Wish.LIGHT, "weight matters"),
    (Wish.QUIET, "quiet"),
    (Wish.WET_DAYS, "wet days"),
    (Wish.KEEP_PARTS, "keep what is there"),
    (Wish.LOOKS, "looks"),
    (Reply.NOT_KNOWN, "not known"),
    (Renewal.PAD, "pads"),
    (Renewal.HOSE, "hose or cable"),
    (Renewal.BED_IN, "bed in"),
    (FindingKind.STOP, "stop, unsafe"),
    (FindingKind.MEASURE, "look or measure"),
    (Argument.DIAMETER, "diameter or thickness"),
    (Argument.PISTONS, "two pistons or four"),
    (Argument.COMPOUND, "compounds"),
    (Argument.STYLE, "drag or pulse"),
    (System.METRIC, "metric"),
    (System.IMPERIAL, "imperial"),
)
# Keyed by type as well: members of two enumerations are equal when their values are.
_CHOICES = {(type(member), member.value): text for member, text in _SPECIAL}


RENEWAL_ACTS: dict[Renewal, str] = {
    Renewal.ROTOR: "the same rotor new",
    Renewal.CALIPER: "the same caliper new",
    Renewal.LEVER: "the same lever new",
    Renewal.PAD: "the same pads new",
    Renewal.ADAPTER: "the adapter that belongs there",
    Renewal.BOLTS: "new bolts",
    Renewal.HOSE: "a new hose, or cable and housing",
    Renewal.BLEED: "fresh fluid, bled",
    Renewal.BED_IN: "bedded in again",
}
"""what is done on a wheel beside other models of part"""


def choice_word(value: Enum) -> str:
    """An enumerated value in the trade's words."""
    if isinstance(value, MountKind):
        return MOUNT_ROWS[value].words
    if isinstance(value, AdapterKind):
        return ADAPTER_WORDS[value]
    return _CHOICES.get((type(value), value.value), str(value.value).replace("_", " "))


_TABLES: dict[str, Mapping[str, HasWords]] = {"compound": COMPOUNDS, "grade": FLUID_GRADES, "fluid_grade": FLUID_GRADES,
                                            "read_on": SURFACES}  # fmt: skip
"""fields whose values are keys of a table, by the last part of their name"""


def value_word(field: str, value: object) -> str:
    """A value of a field in the trade's words: an enumerated one, or the key of a table."""
    table = _TABLES.get(field.rsplit(".", 1)[-1])
    if table is not None and value in table:
        return table[str(value)].words
    return choice_word(value) if isinstance(value, Enum) else str(value)


# Labels of the job's fields by the last part of their path.
FIELDS: dict[str, str] = {
    "title": "Name of the job",
    "stay.state": "State",
    "stay.promised_on": "Promised for",
    "stay.mechanic": "Mechanic",
    "stay.odometer_km": "Odometer, as it came in",
    "rider.name": "Rider",
    "rider.mass_kg": "Rider's mass",
    "rider.kit_mass_kg": "Clothing and pack",
    "rider.fingers": "Fingers on the lever",
    "rider.hands": "Hands",
    "rider.skill": "Skill",
    "rider.style": "How the brake is used",
    "rider.share_by": "Braking shared by",
    "rider.front_share_pct": "Share at the front",
    "bike.kind": "Kind of bike",
    "bike.use": "Use",
    "bike.mass_kg": "Bike's mass",
    "bike.wheelbase_m": "Wheelbase",
    "bike.rear_to_cg_m": "Centre of gravity, ahead",
    "bike.cg_height_m": "Centre of gravity, height",
    "bike.drag_area_m2": "Drag area",
    "bike.rolling_ratio": "Rolling resistance",
    "bike.wheel_radius_mm": "Loaded rolling radius",
    "bike.tyre_size": "Tyre size",
    "bike.tread": "Tyre tread",
    "bike.assisted": "Assisted",
    "bike.cutoff_switches": "Cut-off in the levers",
    "bike.bar": "Handlebar",
    "bike.top_speed_kmh": "Top speed, as it really is",
    "bike.rated_speed_kmh": "Motor helps up to, as marked",
    "bike.regen_end": "Regeneration at wheel",
    "bike.regen_share_pct": "Regeneration share",
    "bike.regen_limit_w": "Regeneration, at most",
    "bike.third_brake_share_pct": "Third brake's share",
    "load.luggage_kg": "Luggage",
    "load.luggage_ahead_m": "Luggage ahead of rear contact",
    "load.luggage_height_m": "Luggage above ground",
    "load.passengers_kg": "Passengers",
    "load.passengers_ahead_m": "Passengers ahead of rear contact",
    "load.passengers_height_m": "Passengers above ground",
    "load.trailer_kg": "Unbraked trailer",
    "conditions.surface": "Surface",
    "conditions.rain": "Rain: pads wet",
    "conditions.ambient_c": "Air temperature",
    "conditions.head_wind_kmh": "Head wind",
    "complaints": "Complaint",
    "complaint_end": "Wheel complained of",
    "replies": "Answers in the guide",
    "cleared": "Answered for",
    "typed": "As typed",
    "sign_off": "Sign-off",
    "taken_back": "Sign-off undone",
    "signed_off": "Sign-off",
    "renew": "New of the same",
    "complaint_words": "In the rider's words",
    "wishes.school": "Priority",
    "wishes.budget_price": "Budget",
    "wishes.wants": "What matters",
    "wishes.note": "Wishes in words",
    "wheel.fitted_brake": "Brake that is on it",
    "wheel.mount_there": "Disc mount",
    "wheel.mount_named": "Mount, by its picture",
    "wheel.mount_spacing_mm": "Bolt spacing",
    "wheel.spacing_tool": "Spacing read with",
    "wheel.bolt_direction": "Bolts run",
    "wheel.native_rotor_mm": "Native rotor",
    "wheel.max_rotor_mm": "Largest rotor allowed",
    "wheel.limit_source": "Limit comes from",
    "front.carrying_id": "Fork",
    "rear.carrying_id": "Frame",
    "wheel.carrying_id": "Fork or frame",
    "wheel.no_adapter": "No adapter on it",
    "wheel.thread_material": "Thread of the mount",
    "wheel.hole_depth_mm": "Full thread depth",
    "wheel.tab_mm": "IS tab or chainstay",
    "wheel.lower_depth_mm": "Thread depth, lower",
    "wheel.lower_tab_mm": "Tab or stay, lower",
    "wheel.upper_hole_mm": "Axle to upper hole",
    "wheel.lower_hole_mm": "Axle to lower hole",
    "wheel.upper_bolt_mm": "Bolt on it, upper",
    "wheel.lower_bolt_mm": "Bolt on it, lower",
    "wheel.edge_radius_mm": "Axle to nearest metal",
    "wheel.spoke_gap_mm": "Caliper to spokes",
    "wheel.hose_slack_mm": "Hose slack",
    "wheel.hub_there": "Seat for a rotor",
    "wheel.hub": "Hub",
    "wheel.axle": "Axle",
    "wheel.hub_play": "Play in the hub",
    "wheel.film_compound": "Pads that ran on it before, if other",
    "wheel.tyre_tread": "Tyre's tread, if not the bike's",
    "wheel.tyre_left": "Tread left",
    "wheel.rotor_id": "Rotor",
    "wheel.rotor_points_mm": "Thickness, point by point",
    "wheel.rotor_runout_mm": "Run-out",
    "wheel.rotor_minimum_mm": "Minimum, as marked on it",
    "wheel.rotor_lip_mm": "Lip at the edge",
    "wheel.rotor_cracks": "Cracks",
    "wheel.rotor_grooves": "Grooves",
    "wheel.rotor_face": "Track",
    "wheel.rotor_colour": "Colour",
    "wheel.rotor_instrument": "Read with",
    "wheel.caliper_id": "Caliper",
    "wheel.lever_id": "Lever",
    "wheel.pad_id": "Pads",
    "wheel.pad_inner_mm": "Inner pad, material",
    "wheel.pad_outer_mm": "Outer pad, material",
    "wheel.pad_taper_mm": "Taper of one pad",
    "wheel.pistons": "Pistons",
    "wheel.bore_read_mm": "Largest piston, read",
    "wheel.slot_read_mm": "Slot, read",
    "wheel.caliper_centred": "Rotor centred in slot",
    "wheel.line_state": "Hose or housing",
    "wheel.line_runs": "Hose or housing runs",
    "wheel.lever_reach_mm": "Reach, blade to bar",
    "wheel.lever_bite_mm": "Bite, blade to bar",
    "wheel.pad_state": "Face of the pads",
    "wheel.adapter_id": "Adapter",
    "wheel.lever_feel": "Feel of the lever",
    "wheel.fluid_id": "Bottle of fluid",
    "wheel.fluid_grade": "Fluid",
    "wheel.fluid_age_y": "Age of the fluid",
    "wheel.fluid_boils_c": "Boils at, by its maker",
    "wheel.since": "Came new",
    "wheel.trial": "Trial fit",
    "wheel.read_by": "Read by",
    "trial.name": "Name",
    "trial.speed_kmh": "Speed",
    "trial.surface": "Ground",
    "trial.gradient_pct": "Downhill",
    "trial.blocks": "Blocks of four",
    "trial.from_c": "Clock starts at",
    "trial.to_c": "Clock stops at",
    "trial.after_s": "Read after the stop",
    "trial.read_on": "Thermometer looks at",
    "trial.set_to_ratio": "Set to emissivity",
    "trial.matters": "Smallest difference that matters",
    "trial.spread": "Scatter of the runs",
    "run.distance_m": "Stopped after",
    "run.spots_c": "Spots, as shown",
    "run.cool_s": "Cooling took",
    "run.finger_n": "Force at the lever",
    "run.time_s": "Time to the end",
    "run.speed_kmh": "Speed at the line",
    "run.after_s": "After the stop",
    "run.start_c": "Rotor before, as shown",
    "run.air_c": "Air",
    "run.tyre_bar": "Tyre pressure",
    "heat_set.name": "Name",
    "heat_set.read_on": "Thermometer looks at",
    "heat_set.set_to_ratio": "Set to emissivity",
    "heat_set.around_c": "Surroundings it mirrors",
    "heat_set.spot_mm": "Spot, across",
    "calibration": "Calibration",
    "wheel.water_seen": "Water seen",
    "ride.name": "Name",
    "ride.hold_kmh": "Speed held",
    "ride.speed_from": "Speed",
    "ride.smoothing_m": "Height smoothed over",
    "ride.height_known_m": "Heights known to ±",
    "ride.speed_smoothing_s": "Speed smoothed over",
    "ride.from_m": "Ridden from",
    "ride.to_m": "Ridden to",
    "ride.laps": "Laps",
    "ride.rest_min": "Between laps",
    "ride.start_elevation_m": "Top, above sea level",
    "ride.times_a_year": "Times a year",
    "ride.grit": "Wet grit",
    "ride.mended": "Mended in the recording",
    "section.length_m": "Length",
    "section.gradient_pct": "Gradient",
    "section.speed_kmh": "Speed wanted",
    "section.corner_kmh": "Corner at its end",
    "section.stand_s": "Time standing",
    "section.surface": "Surface",
    "proposal.bedded": "judged as bedded in",
    "special.upper_x_mm": "Upper hole, rearward",
    "special.upper_y_mm": "Upper hole, up",
    "special.lower_x_mm": "Lower hole, rearward",
    "special.lower_y_mm": "Lower hole, up",
    "special.third_x_mm": "Third hole, rearward",
    "special.third_y_mm": "Third hole, up",
    "special.caliper_id": "Caliper it is for",
    "special.rotor_mm": "Rotor",
    "special.pitch_mm": "Caliper's bolts, pitch",
    "special.line_to_edge_mm": "Bolt line to pads' edge",
    "special.pad_angle_deg": "Pads above horizontal",
    "special.mount_face_mm": "Rotor to mount's face",
    "special.caliper_face_mm": "Rotor to caliper's face",
    "special.material": "Plate of",
    "special.thickness_mm": "Plate's thickness",
    "special.rim_mm": "Holes to the edge",
    "special.mount_bolts": "Plate is held",
    "special.mount_thread": "Bolts to the mount",
    "special.tab_mm": "Tab under the head",
    "special.boss_depth_mm": "Thread of the boss",
    "special.boss_material": "Boss of",
    "special.caliper_bolts": "Caliper is held",
    "special.caliper_thread": "Caliper's bolts",
    "special.ear_mm": "Caliper's ear",
    "special.counterbore_mm": "Counterbores, depth",
    "special.out_mm": "Corrected outward",
    "special.turn_deg": "Corrected turn",
    "special.template": "Template on the bike",
    "special.dummy": "Dummy fitted",
    "special.checked": "Dummy checked",
    "special.released": "Released",
    "pins": "Pinned setups",
    "keeps.front": "Parts that stay, front",
    "keeps.rear": "Parts that stay, rear",
    "decisive_ride": "Decisive ride",
    "target_decel_g": "Target stop",
}
# Labels of a catalogue line's fields.
PART_FIELDS: dict[str, str] = {
    "id": "Part number",
    "maker": "Maker",
    "model": "Model",
    "price": "Price",
    "mass_g": "Mass",
    "retired": "Retired",
    "figures": "Its figures",
    "diameter_mm": "Diameter",
    "thickness_mm": "Thickness, new",
    "minimum_mm": "Minimum, as marked",
    "interface": "Hub",
    "construction": "Construction",
    "carrier_material": "Arms inside the track",
    "track_mm": "Braking track, height",
    "resin_only": "Marked for resin pads only",
    "rivet_out_mm": "Rivets stand out by",
    "mount": "Mount",
    "fluid": "Line",
    "bores_mm": "Piston bores, one side",
    "pad_shape": "Pad shape",
    "slot_mm": "Slot, thickest rotor",
    "tab_mm": "Tab under the bolt's head",
    "rivet_room_mm": "Room for rivets",
    "rivet_radius_mm": "Rivets reach out to",
    "body_in_mm": "Body reaches in by",
    "moving_pads": "Pads that move",
    "phenolic": "Phenolic pistons",
    "arm_ratio": "Arm ratio, clamp over pull",
    "pull": "Cable pull",
    "fitting": "Hose fitting",
    "washers": "Washers at its bolts",
    "washer_pair_mm": "One cup-and-cone pair",
    "inboard_mm": "Stands toward the spokes by",
    "ratio": "Ratio",
    "bore_mm": "Master bore",
    "shape": "Pad shape",
    "compound": "Compound",
    "material_mm": "Material of one pad",
    "height_mm": "Height of the face",
    "area_mm2": "Area of one pad, mm²",
    "finned": "Fins",
    "adapter_kind": "Kind",
    "from_mm": "From native size",
    "fits": "Serves, end:rotor",
    "style": "Bolted",
    "upper_mm": "Height, upper bolt",
    "lower_mm": "Height, lower bolt",
    "flange_mm": "Metal under the mount bolts",
    "thread_depth_mm": "Thread for the caliper's bolts",
    "pitch_mm": "Pitch of its holes",
    "hole_mm": "Diameter of its holes",
    "counterbore_mm": "Counterbores",
    "head_room_mm": "Depth for their heads",
    "around_mm": "Carries round the rotor by",
    "carrier": "Carries a flip plate",
    "label": "The packet says",
    "thread": "Thread",
    "length_mm": "Length under the head",
    "head": "Head",
    "head_height_mm": "Height of the head",
    "head_mm": "Diameter of the head",
    "drive": "Drive",
    "thread_mm": "Threaded length",
    "coated": "Thread-locking coat",
    "role": "Role",
    "bar": "For which bar",
    "native_mm": "Native rotor",
    "max_rotor_mm": "Largest rotor allowed",
    "axle": "Axle",
    "thread_material": "Thread of the mount",
    "hole_depth_mm": "Full thread depth",
    "assisted": "Released for assisted bikes",
    "grade": "Grade",
    "dry_c": "Boils at, fresh",
    "volume_ml": "Volume, ml",
    "lever_fitting": "Fitting at the lever",
    "caliper_fitting": "Fitting at the caliper",
    "end": "End",
    "rim_mm": "Bead seat",
}
_FAMILIES = {"front": "wheel", "rear": "wheel", "proposal": "wheel", "rides": "ride", "trials": "trial",
             "heat_sets": "heat_set"}  # fmt: skip
END_WORDS: dict[End, str] = {End.FRONT: "Front", End.REAR: "Rear"}


def part_words(part: AnyPart) -> str:
    """What tells a part from its neighbours on the shelf, in a few words."""
    if isinstance(part, Rotor):
        return f"{part.diameter_mm:g} × {part.thickness_mm:g}, {choice_word(part.interface)}"
    if isinstance(part, Pad):
        return f"{part.shape}, {COMPOUNDS[part.compound].words}{', fins' if part.finned else ''}"
    if isinstance(part, Caliper):
        bores = " + ".join(f"{bore:g}" for bore in part.bores_mm)
        held = f"{choice_word(part.mount)}, {choice_word(part.fluid)}"
        return f"{held}, {'pistons ' + bores if bores else 'cable'}, pads {part.pad_shape}"
    if isinstance(part, Lever):
        return f"{choice_word(part.fluid)}, ratio {part.ratio:g}, {choice_word(part.bar)} bar"
    if isinstance(part, Adapter):
        sizes = ", ".join(dict.fromkeys(f"{f.rotor_mm:g}" for f in part.fits))
        return f"{ADAPTER_WORDS[part.adapter_kind]} to {sizes}"
    return ""


MOST_WORDS = 6
"""words that a part is looked for by; more are left out"""


def called(part: AnyPart, typed: str) -> bool:
    """Whether a part's name or figures have every word that was typed, capital letters or not."""
    words = typed.lower().split()[:MOST_WORDS]
    text = f"{part.name}, {part_words(part)}".lower() if words else ""
    return all(word in text for word in words)


def field_word(path: str) -> str:
    """The label of a field of the job, by its dotted path."""
    if path in FIELDS:
        return FIELDS[path]
    head, *rest = path.split(".")
    last = rest[-1] if rest else head
    if "runs" in rest:
        return FIELDS.get(f"run.{last}", "Run")
    if "sections" in rest:
        return FIELDS.get(f"section.{last}", "Section")
    return FIELDS.get(f"{_FAMILIES.get(head, head)}.{last}", last.replace("_", " "))


KEPT_BY_KEY = {
    "ticks": "a tick on the order",
    "marked": "a torque as marked",
    "held": "how the bike is held",
    "accepted": "the customer's word",
}


LISTED = {"trials": "a trial", "heat_sets": "a set of readings", "logs": "a logged ride"}
"""records of the road, each with its own name"""


def place_word(path: str) -> str:
    """Where a change was made, for the history: wheel first where there is one."""
    head = path.split(".", maxsplit=1)[0]
    if not path:
        return "the job"
    if path in FIELDS:
        return field_word(path)
    if path in {end.value for end in End}:
        return f"{path} wheel"
    if head == "trials" and "runs" in path.split("."):
        return "a run of a trial"
    if path.count(".") == 1 and head in LISTED:
        return LISTED[head]
    if head in KEPT_BY_KEY:
        return KEPT_BY_KEY[head]
    if head == "special" and path.count(".") > 1:
        return f"special mount, {path.split('.')[1]}: {field_word(path).lower()}"
    if head == "pins":
        return "a pinned setup"
    if path.startswith("proposal."):
        end = path.split(".")[1]
        return f"proposed {end}: {field_word(path).lower()}" if path.count(".") > 1 else f"proposed {end} setup"
    return f"{head}: {field_word(path).lower()}" if head in ("front", "rear") else field_word(path)
