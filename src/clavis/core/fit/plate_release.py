"""The way of a special plate from holes to metal: template, dummy, check, correction, release by a named engineer.

What was done holds for one geometry: a changed number begins again at paper.
"""

from dataclasses import dataclass
from enum import StrEnum

from clavis.core.fit.special_plate import Plate, plate_of
from clavis.core.job.special_mount import DummyChecked, SpecialMount, Tried
from clavis.core.parts.models import Bolt
from clavis.core.parts.mounts import PAD_EDGE_LIMIT_MM, End
from clavis.core.sentences import NOTHING, Sentence, Words, joined, say
from clavis.core.verdicts import Verdict

RULER_MM, RULER_TOLERANCE_MM = 100.0, 0.4
ANGLE_LIMIT_DEG = 1.0
SPECIAL_CAUTIONS: tuple[str, ...] = (
    "This plate carries the whole braking force. It has to be designed, calculated and released by a qualified engineer: "
    "what stands here is geometry, not strength.",
    "The makers' approval of fork, frame and caliper and the road law of the place come first; without them it is not "
    "ridden on a road.",
    "Paper and plastic are for holding and looking only: no wheel is braked on them.",
)


class Stage(StrEnum):
    """The way from holes to metal, in order."""

    TEMPLATE = "template"
    DUMMY = "dummy"
    CHECK = "check"
    CORRECTION = "correction"
    RELEASE = "release"


@dataclass(frozen=True)
class StageView:
    """How one stage stands: done for this geometry or not, whether it may be done now, and why not."""

    stage: Stage
    done: bool
    open: bool
    words: Words


def ruler_wrong(ruler_mm: float) -> Sentence:
    """What a printed ruler that is not as long as it should be means; nothing where it is."""
    if abs(ruler_mm - RULER_MM) <= RULER_TOLERANCE_MM + 1e-9:
        return NOTHING
    words = "the ruler reads {ruler_mm:g} instead of {wanted_mm:g}: the printer scales, print again at 100 %"
    return say(words, ruler_mm=ruler_mm, wanted_mm=RULER_MM)


def _edge_off(c: DummyChecked) -> bool:
    return abs(c.edge_off_mm) > PAD_EDGE_LIMIT_MM + 1e-9


def _turned(c: DummyChecked) -> bool:
    return abs(c.angle_off_deg) > ANGLE_LIMIT_DEG + 1e-9


def check_fails(c: DummyChecked) -> tuple[Words, ...]:
    """What the check on the bike found wrong, in words; empty where the dummy stands right."""
    out: list[Words] = []
    if _edge_off(c):
        side = "over" if c.edge_off_mm > 0 else "short of"
        out.append(say("pads {off_mm:.1} {side} the rotor's edge", off_mm=abs(c.edge_off_mm), side=side))
    if _turned(c):
        out.append(say("pads turned by {off_deg:+.1}", off_deg=c.angle_off_deg))
    if not c.turns_free:
        out.append("the wheel does not turn free")
    if not c.clears:
        out.append("leg, stays, spokes or hose do not clear")
    return tuple(out)


@dataclass(frozen=True)
class Taken:
    """What a correction moves the caliper and turns it by."""

    edge_mm: float
    angle_deg: float


def taken_off(checked: DummyChecked) -> Taken:
    """The opposite of what the dummy showed."""
    return Taken(-checked.edge_off_mm, -checked.angle_off_deg)


def corrected(m: SpecialMount) -> dict[str, float]:
    """Values of the correction fields that take off what the dummy showed; for ``door.change(beside=…)``."""
    assert m.checked is not None
    off = taken_off(m.checked)
    return {"out_mm": round(m.out_mm + off.edge_mm, 3), "turn_deg": round(m.turn_deg + off.angle_deg, 3)}


def stages_of(m: SpecialMount, plate: Plate | None) -> tuple[StageView, ...]:
    """Every stage in order. What was done for another geometry counts no longer: a changed hole begins again."""

    def now(tried: Tried | None) -> bool:
        return plate is not None and tried is not None and tried.given_here and tried.geometry == plate.geometry

    template, dummy, check, release = (now(t) for t in (m.template, m.dummy, m.checked, m.released))
    given = m.released
    elsewhere = plate is not None and given is not None and given.geometry == plate.geometry and not given.given_here
    release = release and given is not None and not given.elsewhere
    wrong = check_fails(m.checked) if check and m.checked else ()
    right = check and not wrong
    movable = bool(wrong) and m.checked is not None and (_edge_off(m.checked) or _turned(m.checked))
    grave = (Verdict.FAILS, Verdict.UNKNOWN)
    grave_checks = [c for c in plate.checks if c.verdict in grave] if plate else []
    blocked = joined(say("{label}: {words}", label=c.label, words=c.words) for c in grave_checks)

    def first(*cases: tuple[object, Words]) -> Words:
        return next((words for holds, words in cases if holds), "")

    changed = any(t is not None and not now(t) for t in (m.template, m.dummy, m.checked, m.released))
    print_it = "print at 100 %, measure the ruler, lay it on the axle"
    return (
        StageView(
            Stage.TEMPLATE, template, plate is not None,
            first((not template and changed, f"{print_it}; the numbers have changed since: do it again"), (True, print_it)),
        ),
        StageView(
            Stage.DUMMY, dummy, template,
            first((template, "print the plate in plastic, fit it with the bolts of the sums"), (True, "the template comes first")),
        ),
        StageView(
            Stage.CHECK, right, dummy,
            first((wrong, joined(wrong)), (dummy, "read angle, edge and clearances on the bike"), (True, "the dummy comes first")),
        ),
        StageView(
            Stage.CORRECTION, right, movable,
            first(
                (right, "nothing to correct"),
                (movable, "take off what was read, then template and dummy again"),
                (wrong, "nothing that a shift would cure: another pad angle, rotor or caliper; nothing is filed"),
                (True, "the check comes first"),
            ),
        ),
        StageView(
            Stage.RELEASE, release, right and not blocked,
            first(
                (release, "released"),
                (elsewhere, "its release came with a file and holds where it was given: it is released here by name"),
                (blocked, say("not as long as: {why}", why=blocked)),
                (right, "a qualified engineer designs, calculates and releases it by name"),
                (True, "a dummy that stands right comes first"),
            ),
        ),
    )  # fmt: skip


def released_plate(m: SpecialMount, end: End, stock: list[Bolt]) -> Plate | None:
    """The plate, where an engineer has released exactly this geometry and nothing speaks against it."""
    plate = plate_of(m, end, stock)
    if plate is None or m.released is None:
        return None
    stages = {s.stage: s for s in stages_of(m, plate)}
    return plate if stages[Stage.RELEASE].done and stages[Stage.CHECK].done else None
