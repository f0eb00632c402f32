"""The steps of an order in the order of the work, each with its caution."""

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

from clavis.core.parts.models import Axis, Axle
from clavis.core.workshop.wheel_work import WheelWork

_ROTOR, _LEVER, _PAD = Axis.ROTOR, Axis.LEVER, Axis.PAD


class Topic(StrEnum):
    """The parts of the work, in order."""

    BEFORE = "before"
    ROTOR = "rotor"
    PADS = "pads"
    MOUNT = "mount"
    LINE = "line"
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
        when=_always,
        caution="Pull no lever without a rotor or spacer between the pads.",
    ),
    StepRow(
        key="pistons",
        topic=Topic.PADS,
        words="Push the pistons back with the old pads in; look for a lazy piston and even it out.",
        when=lambda w: bool(w.changes.parts & {_PAD, _ROTOR}),
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
            "Fit the rotor with its arrow in the direction of rotation. Turn it to the end of its play "
            "opposite to the wheel's rotation, then tighten in a star pattern in two steps."
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
        key="rotor_clean",
        topic=Topic.ROTOR,
        words="Clean the track with isopropyl alcohol and a clean cloth.",
        when=lambda w: bool(w.changes.parts & {_PAD, _ROTOR}),
        caution="No spray of any kind near the brake.",
    ),
    StepRow(
        key="pads_in",
        topic=Topic.PADS,
        words="Fit the pads with their spring; pin, then clip.",
        when=lambda w: w.new(_PAD),
        caution="Pads that have met oil are thrown away; nothing brings them back.",
    ),
    StepRow(
        key="adapter",
        topic=Topic.MOUNT,
        words=("Trial-fit the adapter, arrow and “up” as marked, with two bolts; spin the wheel before full assembly."),
        when=lambda w: w.fit.chain.adapter is not None and w.changes.moves_caliper,
        caution="One adapter only. If it does not sit flat, stop: it is the wrong one for this mount.",
    ),
    StepRow(
        key="special_plate",
        topic=Topic.MOUNT,
        words=(
            "Fit the released plate with its spacers; compare its number with the released drawing; spin the "
            "wheel before full assembly."
        ),
        when=lambda w: w.fit.plate is not None and w.changes.moves_caliper,
        caution="Only the part that the engineer released. Paper and plastic carry no braking.",
    ),
    StepRow(
        key="caliper",
        topic=Topic.MOUNT,
        words="Fit the caliper with the bolts listed for each place; washers in the order they came.",
        when=lambda w: w.changes.moves_caliper,
        caution=("A bolt of another stack is not used again. A caliper that fouls is not filed: choose another part."),
    ),
    StepRow(
        key="cable_centre",
        topic=Topic.MOUNT,
        words=(
            "Run the fixed pad out until it sets the rotor mid-slot; hold the lever, tighten, back the fixed "
            "pad off until wheel turns free. Take up the cable without lifting the arm."
        ),
        when=lambda w: w.one_pad_moves,
        caution="A lever that bottoms means that the pads stand too far out.",
    ),
    StepRow(
        key="centre",
        topic=Topic.MOUNT,
        words="Wheel in, bike on the ground. Hold the lever, tighten the caliper in turns, then check by eye.",
        when=lambda w: not w.one_pad_moves,
    ),
    StepRow(
        key="bleed",
        topic=Topic.LINE,
        words="Bleed from the caliper upward until no bubbles come; fluid of the right family only.",
        when=lambda w: w.changes.opens_line,
        caution="DOT fluid attacks paint and skin. Mineral and DOT never mix.",
    ),
    StepRow(
        key="cutoff",
        topic=Topic.LINE,
        words="Connect the motor's cut-off switch again and test it.",
        when=lambda w: w.assisted and w.cutoff and w.new(_LEVER),
        caution=("A lever without the switch leaves the motor pulling against the brake: the new one must carry it."),
    ),
    StepRow(
        key="pump",
        topic=Topic.FINISH,
        words="Check that the rotor runs centred, then pump the lever until it is firm.",
        when=_always,
    ),
    StepRow(
        key="quick_release",
        topic=Topic.FINISH,
        words="Set the quick-release lever opposite the rotor, or prove that it cannot reach it.",
        when=lambda w: w.wheel.axle is Axle.QUICK_RELEASE,
        caution="A lever in the rotor stops the wheel at once.",
    ),
    StepRow(
        key="lever_set",
        topic=Topic.FINISH,
        words="Set angle, reach and contact for one finger in the blade's hook.",
        when=_always,
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
