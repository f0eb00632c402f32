"""Setups side by side: what is fitted, what is proposed and up to four that were pinned, and why one wins."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

from clavis.core.evaluation.evaluate import Evaluation, SetupName, SetupResult, WheelResult, evaluate_setup
from clavis.core.evaluation.open_points import least_margin
from clavis.core.evaluation.rides import rides_of
from clavis.core.evaluation.wear import YearOfWear, year_of_wear
from clavis.core.job.document import Job, Pin, Proposal, School
from clavis.core.job.pick import Pick
from clavis.core.parts.mounts import End
from clavis.core.physics.forces import Feel
from clavis.core.physics.heat import Node
from clavis.core.physics.road import Track
from clavis.core.selection.schools import HEAT_MARGINS, Standing, quiet_score, row_of_school, together
from clavis.core.sentences import Words, say
from clavis.core.verdicts import Margin, Verdict

FITTED, PROPOSED = "fitted", "proposed"


@dataclass(frozen=True)
class SetupColumn:
    """One setup of the comparison. ``picks`` are None for what is fitted."""

    key: str
    name: str
    setup: SetupResult
    years: Mapping[End, YearOfWear]
    picks: Mapping[End, Pick] | None = None
    pinned: bool = False

    @property
    def whole(self) -> bool:
        """Both wheels could be computed."""
        return len(self.setup.wheels) == len(End)

    def verdict(self, about: End | None = None) -> Verdict:
        """Of the whole bike, or of one wheel."""
        return self.setup.verdict if about is None else self.setup.verdict_at(about)

    @property
    def least(self) -> float | None:
        """The least relative margin of both wheels."""
        return min((w.smallest for w in self.setup.wheels.values()), default=None) if self.whole else None

    def standing(self, about: End | None = None) -> Standing | None:
        """Both wheels as the schools look at them, or one of them; None where a wheel is missing."""
        if not self.whole:
            return None
        wheels = [w for end, w in self.setup.wheels.items() if about in (None, end)]
        both = together([standing_of(w) for w in wheels])
        return replace(both, mass_g=self.setup.mass_g, price=self.setup.price)

    def least_at(self, about: End | None = None) -> tuple[End, Margin] | None:
        """The wheel and the margin that is the least, of both wheels or of one."""
        known = [
            (end, m)
            for end, w in self.setup.wheels.items()
            for m in w.margins
            if about in (None, end) and m.relative is not None
        ]
        return min(known, key=lambda x: x[1].relative or 0.0, default=None) if self.whole else None


@dataclass(frozen=True)
class ComparedRow:
    """One figure over all columns; ``values`` by wheel or, under None, of the whole bike. ``best`` are the columns that
    are best in it; none where all are the same."""

    label: str
    unit: str
    decimals: int | None
    values: tuple[tuple[float | None, ...], ...]
    ends: tuple[End | None, ...]
    best: tuple[frozenset[int], ...]


@dataclass(frozen=True)
class Comparison:
    """Columns in order, their figures, and which column the job's school would take, with why."""

    columns: tuple[SetupColumn, ...]
    rows: tuple[ComparedRow, ...]
    winner: int | None
    why: tuple[Words, ...]
    none_will_do: bool = False
    """all of them fail: none is recommended"""


def standing_of(w: WheelResult) -> Standing:
    """One wheel of a setup as the schools look at it; mass and price are told of the whole bike."""
    return Standing(
        verdict=w.verdict,
        smallest=w.smallest,
        coolest=least_margin(m for m in w.margins if m.key in HEAT_MARGINS),
        mass_g=0.0,
        price=0.0,
        grabby=w.forces.feel is Feel.GRABBY,
        finger_target_n=w.forces.finger_target_n,
        tiring_n=w.forces.hand.tiring_n(w.forces.finger_target_n),
        quiet=quiet_score(w.setup.pad),
    )


def pin_name(setup: SetupResult, bike: str) -> str:
    """A short name of a setup: its rotors and its calipers."""
    front, rear = setup.wheels.get(End.FRONT), setup.wheels.get(End.REAR)
    if front is None or rear is None:
        return bike
    rotors = f"{front.setup.rotor.model} / {rear.setup.rotor.model}"
    calipers = dict.fromkeys((front.setup.caliper.model, rear.setup.caliper.model))
    return f"{rotors}, {' / '.join(calipers)}"[:80]


def column_of(
    key: str,
    name: str,
    setup: SetupResult,
    job: Job,
    evaluation: Evaluation,
    tracks: Mapping[str, Track],
    picks: Mapping[End, Pick] | None,
    pinned: bool = False,
) -> SetupColumn:
    """A setup as a column, with a year of all the job's rides on it."""
    situation = evaluation.situation
    rides = rides_of(job, evaluation, tracks, setup)
    years = (
        {}
        if situation is None
        else {end: year_of_wear(w, rides, situation.parameters) for end, w in setup.wheels.items()}
    )
    return SetupColumn(key, name, setup, years, picks, pinned)


def setups_of(job: Job, evaluation: Evaluation, tracks: Mapping[str, Track]) -> tuple[SetupColumn, ...]:
    """Fitted, proposed where it is not pinned as it stands, and every pin."""
    situation = evaluation.situation
    if situation is None:
        return ()

    def column(
        key: str, name: str, setup: SetupResult, pin: Pin | Proposal | None, pinned: bool = False
    ) -> SetupColumn:
        own = job if pin is None else _with(job, pin)
        picks = None if pin is None else {end: pin.of(end) for end in End}
        return column_of(key, name, setup, own, evaluation, tracks, picks, pinned)

    out = []
    if evaluation.fitted:
        out.append(column(FITTED, "as fitted", evaluation.fitted, None))
    picks = {(pin.front, pin.rear) for pin in job.pins}
    proposal = job.proposal
    if evaluation.proposed and (proposal.front, proposal.rear) not in {*picks, (Pick(), Pick())}:
        out.append(column(PROPOSED, "proposed now", evaluation.proposed, proposal))
    for pin in job.pins:
        setup = evaluate_setup(_with(job, pin), SetupName.PROPOSED, evaluation.mountings, situation, tracks)
        out.append(column(pin.id, pin.name, setup, pin, pinned=True))
    return tuple(out)


def _with(job: Job, pin: Pin | Proposal) -> Job:
    proposal = Proposal(front=pin.front, rear=pin.rear, bedded=job.proposal.bedded)
    return job.model_copy(update={"proposal": proposal})


Of = Callable[[WheelResult], float | None]


def _margin_pct(key: str) -> Of:
    def value(w: WheelResult) -> float | None:
        margin = next((m for m in w.margins if m.key == key), None)
        return None if margin is None or margin.value is None else margin.value * 100

    return value


# Label, unit, decimals, figure of a wheel, and whether more of it is better.
WHEEL_ROWS: tuple[tuple[str, str, int | None, Of, bool], ...] = (
    ("Rotor, peak", "c", 0, lambda w: float(w.heat.peak_c[Node.ROTOR]), False),
    ("Fluid, peak", "c", 0, lambda w: w.heat.fluid_peak_c, False),
    ("Force margin", "pct", 0, _margin_pct("reserve"), True),
    ("Force along the way", "pct", 0, _margin_pct("fade"), True),
    ("Finger at the target stop", "n", 0, lambda w: w.forces.finger_target_n, False),
    ("Lever travel", "mm", 0, lambda w: w.forces.travel.total_mm, False),
    ("Cool again after", "min", 0, lambda w: None if w.heat.cool_s is None else w.heat.cool_s / 60, False),
)
BIKE_ROWS: tuple[tuple[str, str, int | None, Callable[[SetupColumn], float | None], bool], ...] = (
    ("Stop on the flat", "m", 0, lambda c: c.setup.stop_flat.distance_m if c.setup.stop_flat else None, False),
    ("Stop on the steepest", "m", 0, lambda c: c.setup.stop_steep.distance_m if c.setup.stop_steep else None, False),
    ("Brakes weigh", "g", 0, lambda c: c.setup.mass_g if c.whole else None, False),
    ("New parts", "price", 0, lambda c: c.setup.price if c.whole else None, False),
)
YEAR_ROWS: tuple[tuple[str, Callable[[YearOfWear], float | None]], ...] = (
    ("Pads last", lambda y: y.pad_weeks),
    ("Rotor lasts", lambda y: y.rotor_weeks),
)
SAME = 0.005
"""values nearer than this share are the same"""


def _best(values: Sequence[float | None], more: bool) -> frozenset[int]:
    known = {k: v for k, v in enumerate(values) if v is not None}
    if len(known) <= 1:
        return frozenset()
    top = max(known.values()) if more else min(known.values())
    reach = SAME * max(abs(top), 1e-9)
    best = frozenset(k for k, v in known.items() if abs(v - top) <= reach)
    return frozenset() if len(best) == len(known) else best


def _rows(columns: Sequence[SetupColumn]) -> tuple[ComparedRow, ...]:
    out = []
    for label, unit, decimals, of_wheel, more in WHEEL_ROWS:
        values = tuple(
            tuple(of_wheel(c.setup.wheels[end]) if end in c.setup.wheels else None for c in columns) for end in End
        )
        out.append(ComparedRow(label, unit, decimals, values, tuple(End), tuple(_best(v, more) for v in values)))
    for label, of_year in YEAR_ROWS:
        values = tuple(tuple(of_year(c.years[end]) if end in c.years else None for c in columns) for end in End)
        out.append(ComparedRow(label, "weeks", 0, values, tuple(End), tuple(_best(v, True) for v in values)))
    for label, unit, decimals, of_bike, more in BIKE_ROWS:
        own = tuple(of_bike(c) for c in columns)
        out.append(ComparedRow(label, unit, decimals, (own,), (None,), (_best(own, more),)))
    return tuple(out)


def _told(column: SetupColumn, about: End | None) -> Words:
    """What sets a column's verdict: the gravest of what is open, or where it holds its least margin."""
    points = [p for p in column.setup.points if about in (None, p.end) and p.verdict is not Verdict.HOLDS]
    if points:
        return points[0].told
    at = column.least_at(about)
    return say("least margin {margin}, {end}", margin=at[1].words(), end=at[0]) if at else "no margin known"


def _why_none(columns: Sequence[SetupColumn], about: End | None) -> tuple[Words, ...]:
    """What speaks against each of them."""
    words = "{name}: {verdict}; {told}."
    return tuple(say(words, name=c.name, verdict=c.verdict(about), told=_told(c, about)) for c in columns)


def _why(columns: Sequence[SetupColumn], winner: int, school: School, about: End | None) -> tuple[Words, ...]:
    """What speaks for the winner against each of the others, in words with numbers."""
    row, won = row_of_school(school), columns[winner]
    out: list[Words] = [say("{title} asks for {words}.", title=row.title, words=row.words)]
    standing = won.standing(about)
    if standing is not None:
        words = "{name}: {verdict}; {told}."
        out.append(say(words, name=won.name, verdict=standing.verdict, told=_told(won, about)))
    for k, other in enumerate(columns):
        theirs = other.standing(about)
        if k == winner or theirs is None:
            continue
        lighter, dearer = other.setup.mass_g - won.setup.mass_g, won.setup.price - other.setup.price
        mass = say("{by_g:.0} {way}", by_g=abs(lighter), way="heavier" if lighter > 0 else "lighter")
        money = say("{by_price:.0} {way}", by_price=abs(dearer), way="cheaper" if dearer > 0 else "dearer")
        words = "{name}: {verdict}; {told}; {mass}, {money}."
        out.append(
            say(
                words, name=other.name, verdict=theirs.verdict, told=_told(other, about),
                mass=mass if abs(lighter) >= 1 else "as heavy", money=money if abs(dearer) >= 1 else "as dear",
            )
        )  # fmt: skip
    return tuple(out)


def compare(job: Job, evaluation: Evaluation, tracks: Mapping[str, Track]) -> Comparison:
    """All setups of a job side by side; the winner is the school's of the job, among those that could be computed."""
    return side_by_side(job, setups_of(job, evaluation, tracks))


def side_by_side(job: Job, columns: tuple[SetupColumn, ...], about: End | None = None) -> Comparison:
    """Columns with their figures, and which of them the job's school takes, with why: by both wheels, or by the one
    that the comparison is about. What fails is never taken."""
    key = row_of_school(job.wishes.school).key
    whole = {k: standing for k, c in enumerate(columns) if (standing := c.standing(about)) is not None}
    passing = {k: s for k, s in whole.items() if columns[k].verdict(about) is not Verdict.FAILS}
    winner = min(passing, key=lambda k: key(passing[k]), default=None) if len(columns) > 1 else None
    if winner is not None:
        return Comparison(columns, _rows(columns), winner, _why(columns, winner, job.wishes.school, about))
    none_will_do = len(columns) > 1 and all(c.verdict(about) is Verdict.FAILS for c in columns)
    return Comparison(columns, _rows(columns), None, _why_none(columns, about) if none_will_do else (), none_will_do)
