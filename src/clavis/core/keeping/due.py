"""What bikes need: one list, unsafe first, with the reason and what to order."""

from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise

from clavis.core.dates import as_date, date, years_between
from clavis.core.job.renewal import Renewal
from clavis.core.keeping.bike import KeptBike, PartLife
from clavis.core.keeping.distance import odometer_points
from clavis.core.keeping.wear_estimate import Crossing
from clavis.core.keeping.wear_state import (
    USUAL,
    Lines,
    Months,
    WearNeed,
    WearState,
    condemned_by,
    condemns,
    passes,
    wear_states,
)
from clavis.core.parts.fluids import AGES_OVER_Y, FLUID_GRADES, gathers_water
from clavis.core.parts.mounts import End
from clavis.core.physics.heat import BoilingPoint, boiling_point
from clavis.core.sentences import NOTHING, Words, say


class Urgency(StrEnum):
    """How a due item stands, gravest first."""

    UNSAFE = "unsafe"
    REPLACE = "replace"
    PLAN = "plan"
    CHECK = "check"
    ASK = "ask"


RANK = {urgency: k for k, urgency in enumerate(Urgency)}


@dataclass(frozen=True)
class Due:
    """One thing a bike needs. ``key`` names it for good: the same thing bears the same name at every look."""

    key: str
    urgency: Urgency
    end: End | None
    about: str
    """what it is, in a word or two: front pads, fluid"""
    why: Words
    order: PartLife | None = None
    """the part to be ordered anew"""
    left_km: Crossing | None = None
    by: Months | None = None
    """when it is to be done, told as months; None where nobody knows"""


_WHAT = {Renewal.PAD: "pads", Renewal.ROTOR: "rotor", Renewal.BLEED: "fluid", Renewal.BOLTS: "bolts"}


def about(life: PartLife) -> str:
    return f"{life.end.value} {_WHAT.get(life.what, life.what.value)}"


def _wear_words(s: WearState) -> Words:
    newest = s.newest
    condemned = condemned_by(s.readings, s.life)
    if condemned is not None:
        if s.life.what is Renewal.PAD:
            return say("read {mm:.2}: down to the backing plate", mm=condemned.mm)
        return say("read {mm:.2}, minimum {minimum_mm:.2}", mm=condemned.mm, minimum_mm=s.life.replace_mm)
    if s.need is WearNeed.ASK:
        return _asked(s)
    now = s.now_mm
    if now is None or s.replace_mm is None:
        return "not enough is known"
    if newest is not None and newest.mm <= s.replace_mm and passes(newest, s.life):
        return say("read {mm:.2}, to be replaced at {line_mm:.2}", mm=newest.mm, line_mm=s.replace_mm)
    words = "about {now_mm:.2} left, between {low_mm:.2} and {high_mm:.2}; to be replaced at {line_mm:.2}"
    return say(words, now_mm=now[1], low_mm=max(now[0], 0.0), high_mm=now[2], line_mm=s.replace_mm)


def _asked(s: WearState) -> Words:
    newest = s.newest
    if s.life.what is Renewal.ROTOR and s.life.replace_mm is None:
        return "the rotor's minimum is not known: read its marking"
    if newest is not None and not passes(newest, s.life) and not condemns(newest, s.life):
        return say("read {mm:.2} with a vernier, which bridges the hollow: read it with a micrometer", mm=newest.mm)
    if newest is not None:
        return "read, but at a distance that nobody wrote down"
    return "never read"


def _of_wear(s: WearState) -> Due | None:
    if s.need is WearNeed.WATCH:
        return None
    urgency = Urgency(s.need.value)
    buys = urgency in (Urgency.UNSAFE, Urgency.REPLACE, Urgency.PLAN)
    order = s.life if buys else None
    return Due(
        f"{s.life.id}-wear", urgency, s.life.end, about(s.life), _wear_words(s), order, s.left_km, s.replace_by
    )  # fmt: skip


@dataclass(frozen=True)
class Filling:
    """The fluid of a wheel's line: its age in years and where it boils now; None where not known."""

    life: PartLife
    age_y: float | None
    boiling: BoilingPoint

    @property
    def counts_as_c(self) -> float | None:
        """Where it is taken to boil, °C: of unknown age as the wet figure of its grade; never as fresh."""
        if self.boiling.boiling_c is not None or self.life.grade is None:
            return self.boiling.boiling_c
        return FLUID_GRADES[self.life.grade].wet_c

    @property
    def over_age(self) -> bool:
        return self.age_y is not None and self.age_y >= AGES_OVER_Y


def filling_of(life: PartLife, today: date) -> Filling | None:
    """A filling as it is today; None where its grade is not known."""
    if life.what is not Renewal.BLEED or life.grade is None:
        return None
    age_y = None if life.fitted is None else years_between(as_date(life.fitted.day), today)
    family = FLUID_GRADES[life.grade].family
    return Filling(life, age_y, boiling_point(family, life.grade, age_y, life.water_seen, life.boils_c, 0.0))


def fillings_of(bike: KeptBike, today: date) -> tuple[Filling, ...]:
    """The fluid of both lines, as it is today."""
    lives = (bike.on_it(end, Renewal.BLEED) for end in End)
    return tuple(found for life in lives if life is not None and (found := filling_of(life, today)) is not None)


def _of_fluid(bike: KeptBike, today: date) -> Iterator[Due]:
    for end in End:
        life = bike.on_it(end, Renewal.BLEED)
        filling = filling_of(life, today) if life is not None else None
        if life is None or filling is None:
            continue
        if life.water_seen:
            why = say("water was seen in it: it boils at {boils_c:.0}", boils_c=filling.boiling.boiling_c)
            yield Due(f"{life.id}-age", Urgency.REPLACE, end, about(life), why, life)
        elif filling.age_y is None:
            words = "nobody knows how old it is: a bleed settles it; until then it counts as boiling at {boils_c:.0}"
            why = say(words, boils_c=filling.counts_as_c)
            yield Due(f"{life.id}-age", Urgency.ASK, end, about(life), why)
        elif filling.over_age:
            why = say(
                "{age_y:.1} old: {water}; it boils at {boils_c:.0} now",
                age_y=filling.age_y, water=gathers_water(life.grade), boils_c=filling.boiling.boiling_c,
            )  # fmt: skip
            yield Due(f"{life.id}-age", Urgency.REPLACE, end, about(life), why, life)


def _of_bolts(bike: KeptBike) -> Iterator[Due]:
    """New bolts are tightened once more after the first ride."""
    for end in End:
        life = bike.on_it(end, Renewal.BOLTS)
        if life is None or life.fitted is None:
            continue
        done = any(
            e.tightened and e.end in (end, None) and e.day >= life.fitted.day for e in bike.entries
        )  # fmt: skip
        if not done:
            why = "new: tightened once more after the first ride, by the parts' own torques"
            yield Due(f"{life.id}-torque", Urgency.CHECK, end, about(life), why)


def _of_odometer(bike: KeptBike, *, waited_for: bool) -> Words:
    """What is to be asked of the distances in a bike's book; nothing where they are in order, or where none is read and
    nothing waits for one."""
    points = odometer_points(bike)
    if not points:
        return "never read: without a distance nothing is forecast" if waited_for else NOTHING
    back = next(((a, b) for a, b in pairwise(points) if b[1] < a[1]), None)
    if back is None:
        return NOTHING
    words = "{less_km:.0} on {later}, and {more_km:.0} on {earlier}: mistyped, or a new one?"
    (earlier, more_km), (later, less_km) = back
    return say(words, earlier=earlier.isoformat(), later=later.isoformat(), more_km=more_km, less_km=less_km)


def due_of(
    bike: KeptBike, today: date, lines: Lines = USUAL, states: tuple[WearState, ...] | None = None
) -> tuple[Due, ...]:
    """Everything a bike needs, gravest first, then the soonest; ``states`` are its wear, where that was worked out."""
    found = [due for s in states or wear_states(bike, today, lines) if (due := _of_wear(s)) is not None]
    found += [*_of_fluid(bike, today), *_of_bolts(bike)]
    odometer = _of_odometer(bike, waited_for=bool(found))
    if odometer:
        found.append(Due("odometer", Urgency.ASK, None, "odometer", odometer))
    return tuple(sorted(found, key=lambda d: (RANK[d.urgency], d.left_km.middle_km if d.left_km else 1e9, d.key)))
