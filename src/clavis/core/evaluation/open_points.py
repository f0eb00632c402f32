"""The one list of open points: what is wrong, unknown or to be watched about a setup.

Head line, board, sheet, candidates, comparison, parts list, order and sign-off all show this list, filtered, never
one of their own. It is put together of three sorts of rows, each with its own table: checks of the fit
(``fit.checks``), conditions of what stays (``findings``) and margins over the ride (``margins``).
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from enum import StrEnum

from clavis.core.evaluation.conditions import Condition, FindingKind, On, conditions_of, kept_on
from clavis.core.evaluation.margins import Judged
from clavis.core.evaluation.situation import Lack
from clavis.core.fit.checks import CheckResult
from clavis.core.fit.mounting import FitCase
from clavis.core.job.renewal import Renewal
from clavis.core.parts.figures import Figures
from clavis.core.parts.links import Link
from clavis.core.parts.models import AXES, AnyPart, Fork, Frame
from clavis.core.parts.mounts import End
from clavis.core.physics.forces import Hand, Limiter, ReachedForces, WheelForces
from clavis.core.sentences import NOTHING, Sentence, Value, Words, joined, say
from clavis.core.verdicts import Margin, Severity, Verdict, worst


class Matter(StrEnum):
    """What sort of thing is open."""

    TOGETHER = "together"
    """parts that do not go together, or are not known to"""
    CONDITION = "condition"
    """the state of a part that stays"""
    RIDE = "ride"
    """what the ride asks of this brake and this rider"""
    MISSING = "missing"
    """an entry without which nothing can be told"""
    TRIAL = "trial"
    """what the trial fit tells"""


@dataclass(frozen=True)
class OpenPoint:
    """One thing that is wrong, unknown or to be watched. ``code`` names the row it comes from; ``settles`` is the field
    of the job that would settle it, empty where an act does."""

    code: str
    end: End | None
    link: Link | None
    severity: Severity
    matter: Matter
    label: Words
    words: Words
    settles: str = ""
    voids: bool = False
    """a wheel about which this is open has no figures"""
    waivable: bool = False
    """a named person may answer for it, though it is not known"""
    cure: Renewal | None = None
    """what in an order does away with it"""

    @property
    def key(self) -> str:
        """What an answer for it is kept under."""
        place = self.settles.rpartition(".")[2] if self.matter is Matter.MISSING else ""
        return f"{self.end or 'bike'}:{self.code}{'.' if place else ''}{place}".replace(".", "-")

    @property
    def verdict(self) -> Verdict:
        return self.severity.verdict

    @property
    def told(self) -> Sentence:
        """The point with its wheel, as it stands in a list of both."""
        if self.end is None:
            return say("{words}", words=self.words)
        return say("{end}: {words}", end=self.end, words=self.words)

    @property
    def grave(self) -> bool:
        """Wrong, not merely unknown or to be watched."""
        return self.severity in (Severity.STOP, Severity.FAILS)


_GRAVITY = list(Severity)
OF_VERDICT = {Verdict.FAILS: Severity.FAILS, Verdict.UNKNOWN: Severity.UNKNOWN, Verdict.TIGHT: Severity.TIGHT}


def gravest_first(points: Iterable[OpenPoint]) -> tuple[OpenPoint, ...]:
    """By severity, what nobody may answer for first; parts that do not go together before what the ride asks of them,
    and that in the order of its rows."""
    matters, margins = list(Matter), list(MARGIN_ROWS)

    def place(point: OpenPoint) -> tuple[int, bool, int, int]:
        told = margins.index(point.code) if point.code in MARGIN_ROWS else 0
        return _GRAVITY.index(point.severity), point.waivable, matters.index(point.matter), told

    return tuple(sorted(points, key=place))


def verdict_of(points: Iterable[OpenPoint]) -> Verdict:
    """What a list of open points makes of a setup: none open holds."""
    return worst([Verdict.HOLDS, *(p.verdict for p in points)])


def point_of_check(end: End, result: CheckResult) -> OpenPoint | None:
    """None where the check holds."""
    row = result.row
    if result.verdict is Verdict.HOLDS:
        return None
    severity, matter = OF_VERDICT[result.verdict], Matter.TOGETHER
    if result.at_trial:
        severity, matter = Severity.NOTE, Matter.TRIAL
    elif result.verdict is Verdict.FAILS and row.unsafe:
        severity = Severity.STOP
    words = result.words if result.verdict is Verdict.FAILS else say("{l}: {w}", l=row.label, w=result.words)
    return OpenPoint(
        row.key, end, row.link, severity, matter, row.label, words, f"{end.value}.{row.ask}" if result.ask else ""
    )


def point_of_condition(condition: Condition) -> OpenPoint:
    row = condition.row
    words = say("{about}: {reason}", about=row.about, reason=condition.reason)
    settles = f"{condition.end.value}.{row.settles}" if row.settles else ""
    return OpenPoint(
        row.key, condition.end, row.link, row.severity, Matter.CONDITION, row.about, words, settles, row.voids,
        row.waivable, row.cure,
    )  # fmt: skip


def kept_by(case: FitCase) -> frozenset[On]:
    """What of a wheel stays as it is under a brake that is asked about."""
    beds_in = Renewal.BED_IN in case.renew
    return kept_on(case.new, new_hose=case.new_hose, opens_line=case.opens_line, beds_in=beds_in)


def conditions_open(case: FitCase, passes_over: frozenset[str] = frozenset()) -> tuple[OpenPoint, ...]:
    """Conditions of what stays on a wheel, but for those in ``passes_over``; what is good is not open."""
    kept = kept_by(case)
    found = [
        point_of_condition(c)
        for c in conditions_of(case.wheel, case.new)
        if c.row.on in kept and c.row.kind is not FindingKind.KEEP and c.row.key not in passes_over
    ]
    usual = _usual_figures(case)
    return tuple(found if usual is None else [*found, usual])


CHECKED_ON_A_PART: Mapping[str, str] = {
    "rotor": "thickness, minimum, track",
    "caliper": "pistons, pad shape, slot, metal under its bolts",
    "lever": "bore, hose fitting",
    "pad": "shape, compound",
    "adapter": "sizes, heights, thread",
    "fork": "mount, thread and its depth",
    "frame": "mount, thread and its depth",
}
"""what of a part whose figures are not its own is held against the part, by its kind"""
LINK_OF_PART: Mapping[str, Link] = dict.fromkeys(("adapter", "fork", "frame"), Link.CALIPER)
"""where parts that are no link themselves are told"""


def _usual_figures(case: FitCase) -> OpenPoint | None:
    """Parts that have the usual figures of their kind, not their own: what holds, holds if the part is so. They are
    named, so that an answer is for these parts and no others."""
    parts: list[AnyPart] = [part for axis in AXES if (part := case.brake.of(axis))]
    parts += case.chain.parts if case.chain is not None else ()
    carrying = case.wheel.carrying
    parts += [carrying] if isinstance(carrying, Fork | Frame) else []
    usual = [part for part in parts if part.figures is not Figures.STATED]
    if not usual:
        return None
    checked = [say("{part} ({what})", part=p.name, what=CHECKED_ON_A_PART[p.kind]) for p in usual]
    words = say("usual figures, not the part’s own, check the part: {parts}", parts=joined(checked, "; "))
    fields = ((p, "carrying_id" if p is carrying else f"{p.kind}_id") for p in usual)
    settles = next((field for p, field in fields if p.id == getattr(case.wheel.entered, field)), "")
    link = LINK_OF_PART.get(usual[0].kind) or Link(usual[0].kind)
    return OpenPoint(
        "usual_figures", case.wheel.end, link, Severity.UNSEEN, Matter.CONDITION, "usual figures", words,
        settles and f"{case.wheel.end.value}.{settles}",
    )  # fmt: skip


def missing_points(lacks: Iterable[Lack], end: End | None) -> tuple[OpenPoint, ...]:
    """Entries without which nothing can be told."""
    return tuple(
        OpenPoint("missing", end, None, Severity.UNKNOWN, Matter.MISSING, lack.words, lack.words, lack.path)
        for lack in lacks
    )


@dataclass(frozen=True, kw_only=True)
class MarginRow:
    """How one margin is told: its link on the sheet, what it says where it fails and where it is tight (``by`` is the
    margin, ``short`` how far it is beyond, ``needed`` what is asked for), and the field that tells where it is
    unknown."""

    link: Link
    fails: str
    tight: str
    settles: str = ""


MARGIN_ROWS: Mapping[str, MarginRow] = {
    "boil": MarginRow(
        link=Link.LINE,
        fails="the fluid boils{where}: {short_k:.0} above its boiling point",
        tight="fluid {by_k:.0} below boiling, {needed_k:.0} asked for",
        settles="fluid_age_y",
    ),
    "sandwich": MarginRow(
        link=Link.ROTOR,
        fails="the sandwich rotor passes its limit by {short_k:.0}",
        tight="sandwich rotor {by_k:.0} below its limit, {needed_k:.0} asked for",
    ),
    "rotor": MarginRow(
        link=Link.ROTOR,
        fails="the rotor passes fade onset by {short_k:.0}",
        tight="rotor {by_k:.0} below fade onset, {needed_k:.0} asked for",
    ),
    "fade": MarginRow(
        link=Link.PAD,
        fails="force along the way is {short_pct:.0} short where the pads are weakest",
        tight="force margin along the way {by_pct:.0}, {needed_pct:.0} asked for",
    ),
    "travel": MarginRow(
        link=Link.LEVER,
        fails="the lever meets the bar, {short_mm:.0} before the target stop",
        tight="lever clearance to the bar {by_mm:.0}, {needed_mm:.0} asked for",
        settles="lever_reach_mm",
    ),
    "reserve": MarginRow(
        link=Link.HAND,
        fails="force is {must_short_pct:.0} short of its part of what every bicycle must reach ({must}): {limiter}",
        tight="force margin {by_pct:.0}, {needed_pct:.0} asked for ({target}): {limiter}",
    ),
    "ground": MarginRow(link=Link.ROAD, fails="{label}", tight="{label}"),
}
"""in the order in which they are told: what takes the brake away before what weakens it, heat before force, because
power cures no heat"""


def point_of_margin(
    end: End, margin: Margin, link: Link | None = None, told: Mapping[str, Value] | None = None, tight: str = ""
) -> OpenPoint | None:
    """None where the margin holds; ``link`` where another link than the margin's own gives first; ``told`` are further
    places of its words, ``tight`` others where it is tight."""
    if margin.verdict is Verdict.HOLDS:
        return None
    row, verdict = MARGIN_ROWS[margin.key], margin.verdict
    unit, scale = ("pct", 100.0) if margin.unit == "ratio" else (margin.unit, 1.0)
    words: Words = margin.why_unknown
    if margin.value is not None:
        by = scale * margin.value
        values = {f"by_{unit}": by, f"short_{unit}": -by, f"needed_{unit}": scale * margin.needed}
        words = say(
            row.fails if verdict is Verdict.FAILS else tight or row.tight, label=margin.label, **values, **(told or {})
        )
    settles = f"{end.value}.{row.settles}" if row.settles and verdict is Verdict.UNKNOWN else ""
    return OpenPoint(margin.key, end, link or row.link, OF_VERDICT[verdict], Matter.RIDE, margin.label, words, settles)


def drag_note(end: End, drag_n: float, comfortable_n: float) -> OpenPoint | None:
    """A force that a hand cannot hold for long: to be watched on a long descent, no limit of the brake."""
    if drag_n <= comfortable_n:
        return None
    words = say(
        "holding the drag asks {drag_n:.0} of the hand; {comfortable_n:.0} is comfortable for long",
        drag_n=drag_n, comfortable_n=comfortable_n,
    )  # fmt: skip
    return OpenPoint("drag", end, Link.HAND, Severity.NOTE, Matter.RIDE, "hand in the drag", words)


LEAST_FASTER_KMH = 1.0


def faster_than_rated(top_kmh: float, rated_kmh: float | None) -> OpenPoint | None:
    """A motor that helps beyond what it is marked for: how many times the energy of a stop that is, and what ends
    there. Energy goes with the square of the speed."""
    if rated_kmh is None or top_kmh < rated_kmh + LEAST_FASTER_KMH:
        return None
    words = say(
        "ridden up to {top_kmh:.0}, marked for {rated_kmh:.0}: a stop from there has {times:.1} times the energy; "
        "approval, insurance and the makers’ word for frame and brakes end at what is marked, and so may the law",
        top_kmh=top_kmh, rated_kmh=rated_kmh, times=(top_kmh / rated_kmh) ** 2,
    )  # fmt: skip
    return OpenPoint("rated_speed", None, Link.ROAD, Severity.NOTE, Matter.RIDE, "faster than marked", words)


WARPS_FROM_K = 250.0
"""a ring of one piece that gets so much hotter than its arms may warp (judged)"""


def warp_note(end: End, hotter_k: float | None) -> OpenPoint | None:
    """A rotor in one piece whose ring gets far hotter than its arms: the ring wants to grow, and they hold it."""
    if hotter_k is None or hotter_k < WARPS_FROM_K:
        return None
    words = say(
        "the ring gets {hotter_k:.0} hotter than its arms: in one piece it may warp, a floating one grows freely",
        hotter_k=hotter_k,
    )  # fmt: skip
    return OpenPoint("warp", end, Link.ROTOR, Severity.NOTE, Matter.RIDE, "rotor may warp", words)


def cannot_stop(gradient: float, reached: ReachedForces, needed_n: float) -> OpenPoint:
    """The whole bike does not come to a stop on a slope: with how much of the force that gravity asks, and what limits
    the wheel that should give most."""
    words = "it cannot be stopped on the steepest slope, {slope_pct:.0}: {reached_n:.0} of {needed_n:.0}; {limiter}"
    most = max(reached.wheel_force_n, key=lambda end: reached.wheel_force_n[end])
    told = say(
        words, slope_pct=100 * gradient, reached_n=reached.total_n, needed_n=needed_n,
        limiter=LIMITER_WORDS[reached.limited_by[most]],
    )  # fmt: skip
    return OpenPoint("stopping", None, Link.ROAD, Severity.FAILS, Matter.RIDE, "stopping", told)


def distinct(points: Iterable[OpenPoint]) -> tuple[OpenPoint, ...]:
    """Gravest first; of several that one entry settles only the gravest is told."""
    told: dict[tuple[object, ...], OpenPoint] = {}
    for k, point in enumerate(gravest_first(points)):
        told.setdefault((point.settles,) if point.settles else (k,), point)
    return tuple(told.values())


LIMITING_LINK: Mapping[Limiter, Link] = {
    Limiter.HAND: Link.HAND,
    Limiter.FRICTION: Link.PAD,
    Limiter.GRIP: Link.ROAD,
    Limiter.CONTROL: Link.ROAD,
    Limiter.PITCH_OVER: Link.ROAD,
}
"""the link that a limiter marks"""
LIMITER_WORDS: Mapping[Limiter, str] = {
    Limiter.HAND: "the hand gives too little, even with the pads at their best",
    Limiter.FRICTION: "friction is enough when warm, not when hot",
    Limiter.GRIP: "the tyre's grip sets the limit",
    Limiter.CONTROL: "so strong that this rider must hold back",
    Limiter.PITCH_OVER: "pitch-over sets the limit",
    Limiter.NONE: "nothing limits it",
}


TAKES_ALL = "stops, but takes all of this hand{when}: {short_pct:.0} short ({target})"
MADE_UP = "{alone_short_pct:.0} short of its part of what every bicycle must reach; the other wheel makes up for it"


def _of_stopping(end: End, margin: Margin, forces: WheelForces) -> OpenPoint | None:
    """The two bars of stopping in words, at the link that gives first."""
    limiter, must, alone = forces.limiter, forces.must, forces.must_alone
    told: dict[str, Value] = {
        "target": forces.reserve_of.name if forces.reserve_of else NOTHING,
        "when": " when hot" if limiter is Limiter.FRICTION else NOTHING,
    }
    tight = TAKES_ALL if margin.value is not None and margin.value < 0 else ""
    if must is not None and must < 0 and forces.must_of is not None:
        limiter = Limiter.HAND if forces.available_work_n < forces.must_of.force_n else Limiter.FRICTION
        told |= {"must": forces.must_of.name, "must_short_pct": -100 * must}
    elif alone is not None and alone < 0:
        tight = MADE_UP
        told |= {"alone_short_pct": -100 * alone}
    return point_of_margin(end, margin, LIMITING_LINK.get(limiter), told | {"limiter": LIMITER_WORDS[limiter]}, tight)


def points_of_ride(end: End, judged: Judged, hand: Hand, boils_at_m: float | None = None) -> tuple[OpenPoint, ...]:
    """What the ride asks of one wheel and does not get, or gets with less to spare than was asked for. A lack of force
    is marked at the link that gives first."""
    forces = judged.forces
    where = NOTHING if boils_at_m is None else say(" after {at_km:.1}", at_km=boils_at_m / 1000)
    told: dict[str, Value] = {"where": where}
    points = [_of_stopping(end, m, forces) if m.key == "reserve" else point_of_margin(end, m, told=told)
              for m in judged.margins]  # fmt: skip
    points.append(drag_note(end, forces.finger_drag_n, hand.comfortable_n))
    points.append(warp_note(end, judged.hotter_k))
    return tuple(p for p in points if p is not None)


def least_margin(margins: Iterable[Margin], *, wrong: bool = False) -> float:
    """The least relative margin of those that are known; −1 where something else than a margin is ``wrong``."""
    known = [m.relative for m in margins if m.relative is not None]
    return min([*known, -1.0]) if wrong else min(known, default=0.0)


def wrong_beside_ride(points: Iterable[OpenPoint]) -> bool:
    """Whether anything is wrong that no margin measures."""
    return any(p.grave and p.matter is not Matter.RIDE for p in points)


def why_words(points: Iterable[OpenPoint], margins: Iterable[Margin]) -> Words:
    """What sets a verdict: the gravest of what is open, or where nothing is the least margin."""
    first = next(iter(points), None)
    if first is not None and first.severity not in (Severity.NOTE, Severity.UNSEEN):
        return first.words
    known = [m for m in margins if m.relative is not None]
    return min(known, key=lambda m: m.relative or 0.0).words() if known else NOTHING
