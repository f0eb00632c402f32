"""From a job into the bike's own record: what was found on it, what was read, and what a signed order put there."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from clavis.core.dates import as_date, years_before
from clavis.core.errors import ClavisError
from clavis.core.evaluation.wear import YearOfWear
from clavis.core.job.document import Complaint, Job
from clavis.core.job.renewal import Renewal, Renewals
from clavis.core.job.resolved_wheel import minimum_thickness_mm
from clavis.core.job.wheel import Instrument, Wheel
from clavis.core.keeping.bike import BikeVisit, KeptBike, LogEntry, Moment, PartLife, WearReading
from clavis.core.keeping.distance import WearPerKm, wear_per_km, weekly_distance
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.models import Pad, Rotor
from clavis.core.parts.mounts import End
from clavis.core.physics.friction import PadState
from clavis.core.records import next_id
from clavis.core.sentences import say

TRACKED = (
    Renewal.PAD, Renewal.ROTOR, Renewal.CALIPER, Renewal.LEVER, Renewal.ADAPTER, Renewal.BOLTS, Renewal.HOSE,
    Renewal.BLEED,
)  # fmt: skip
"""what has a life on a bike; bedding in is work that leaves nothing there"""
FOUND = (Renewal.PAD, Renewal.ROTOR, Renewal.CALIPER, Renewal.LEVER, Renewal.ADAPTER)
"""what a wheel says is on it, whether or not anybody knows since when"""

Paces = Mapping[End, YearOfWear]
"""what the model expects of each wheel in a year of the job's rides; a wheel without figures is left out"""


@dataclass(frozen=True)
class VisitNote:
    """One visit of a bike: its name, its job, when, at what distance, and by whom."""

    name: str
    job: int | None
    day: str
    who: str
    km: float | None = None

    def moment(self, why: str = "") -> Moment:
        return Moment(day=self.day, km=self.km, who=self.who, why=why[:300], visit=self.name)


def _part_id(wheel: Wheel, what: Renewal) -> str | None:
    return getattr(wheel, f"{what.value}_id", None) if what in FOUND else None


def _described(wheel: Wheel, what: Renewal, catalogue: Catalogue, pace: WearPerKm) -> dict[str, Any]:
    """What is known of the part that is on a wheel."""
    part_id = _part_id(wheel, what)
    part = catalogue.by_id(part_id) if part_id else None
    told: dict[str, Any] = {"part_id": part_id, "name": part.name[:120] if part else ""}
    if isinstance(part, Rotor):
        told |= {"new_mm": part.thickness_mm, "replace_mm": wheel.rotor_minimum_mm or minimum_thickness_mm(part)}
        told |= {"expected_mm_per_km": pace.rotor_mm}
    if isinstance(part, Pad):
        told |= {"new_mm": part.material_mm, "compound": part.compound}
        told |= {"expected_mm_per_km": pace.pad_mm}
        told |= {"rotor_mm_per_km": pace.rotor_mm}
    if what is Renewal.BLEED:
        told |= {"grade": wheel.fluid_grade, "boils_c": wheel.fluid_boils_c, "water_seen": wheel.water_seen}
    return told


def _life(bike: KeptBike, end: End, what: Renewal, fitted: Moment | None, told: Mapping[str, Any]) -> PartLife:
    return PartLife(id=next_id("life-", (life.id for life in bike.lives)), end=end, what=what, fitted=fitted, **told)


def _with(bike: KeptBike, **changed: Any) -> KeptBike:
    return KeptBike.model_validate(bike.model_dump() | changed)


def _replaced(bike: KeptBike, life: PartLife, **changed: Any) -> KeptBike:
    other = life.model_copy(update=changed)
    return _with(bike, lives=tuple(other if x.id == life.id else x for x in bike.lives))


def taken_stock(bike: KeptBike, job: Job, catalogue: Catalogue, paces: Paces, visit: VisitNote) -> KeptBike:
    """The bike with what a job found on it, and with what was read there. A part that is already in the book goes on
    living; another one found in its place ends the life of the one before, on a day that nobody knows better than the
    visit's. Taking stock twice changes nothing."""
    for end in End:
        wheel, pace = job.wheel(end), _pace(bike, paces.get(end))
        for what in FOUND:
            bike = _found(bike, end, what, _described(wheel, what, catalogue, pace), visit, wheel)
        bike = _read(_filled(bike, end, wheel, catalogue, visit), end, wheel, visit)
    return bike


def _pace(bike: KeptBike, year: YearOfWear | None) -> WearPerKm:
    return WearPerKm() if year is None else wear_per_km(year, weekly_distance(bike))


def _filled(bike: KeptBike, end: End, wheel: Wheel, catalogue: Catalogue, visit: VisitNote) -> KeptBike:
    """The fluid that a job found in a line: since when, where its age was stated; with water, where that was seen."""
    if wheel.fluid_grade is None:
        return bike
    there, age_y = bike.on_it(end, Renewal.BLEED), wheel.fluid_age_y
    day = None if age_y is None else years_before(as_date(visit.day), age_y).isoformat()
    since = None if day is None else Moment(day=day, who=visit.who, why="by its age, as stated")
    if there is None:
        told = _described(wheel, Renewal.BLEED, catalogue, WearPerKm())
        return _with(bike, lives=(*bike.lives, _life(bike, end, Renewal.BLEED, since, told)))
    water_seen = there.water_seen or wheel.water_seen
    return _replaced(bike, there, water_seen=water_seen, fitted=there.fitted or since)


def _found(bike: KeptBike, end: End, what: Renewal, told: dict[str, Any], visit: VisitNote, wheel: Wheel) -> KeptBike:
    if told["part_id"] is None:
        return bike
    there = bike.on_it(end, what)
    if there is not None and there.part_id == told["part_id"]:
        paces = {k: told[k] for k in ("expected_mm_per_km", "rotor_mm_per_km") if told.get(k) is not None}
        unknown = {k: v for k, v in paces.items() if getattr(there, k) is None}
        return _replaced(bike, there, **unknown) if unknown else bike
    if there is not None:
        bike = _replaced(bike, there, removed=visit.moment("another was found in its place"))
    since = wheel.came_new(what)
    fitted = Moment(day=since.day, why="by an order that was signed off") if since is not None else None
    return _with(bike, lives=(*bike.lives, _life(bike, end, what, fitted, told)))


def _read(bike: KeptBike, end: End, wheel: Wheel, visit: VisitNote) -> KeptBike:
    """The thicknesses that stand in the job, where a hand or a gauge has read them. One that a job told before is not
    told again."""
    found: list[tuple[Renewal, dict[str, Any]]] = []
    untouched = wheel.came_new(Renewal.PAD) is not None and wheel.pad_state is PadState.NEW
    if wheel.pad_material_mm is not None and not untouched:
        both = [mm for mm in (wheel.pad_inner_mm, wheel.pad_outer_mm) if mm is not None]
        found.append((Renewal.PAD, {"mm": min(both), "other_mm": max(both) if len(both) > 1 else None,
                                    "gauge": "pad_gauge"}))  # fmt: skip
    if wheel.rotor_thinnest_mm is not None:
        gauge = "vernier" if wheel.rotor_instrument is Instrument.VERNIER else "micrometer"
        found.append((Renewal.ROTOR, {"mm": wheel.rotor_thinnest_mm, "gauge": gauge}))
    for what, told in found:
        life = bike.on_it(end, what)
        if life is not None and not any(r.mm == told["mm"] and r.visit == visit.name for r in bike.read_of(life)):
            name = next_id("read-", (r.id for r in bike.readings))
            row = WearReading(
                id=name, life=life.id, day=visit.day, km=visit.km, who=visit.who, visit=visit.name, **told
            )  # fmt: skip
            bike = _with(bike, readings=(*bike.readings, row))
    return bike


_DONE = {
    Renewal.BOLTS: "bolts of caliper and adapter, new",
    Renewal.HOSE: "hose or housing, new",
    Renewal.BLEED: "fresh fluid and a full bleed",
    Renewal.ADAPTER: "adapter",
}


def fitted_anew(
    bike: KeptBike, job: Job, catalogue: Catalogue, paces: Paces, visit: VisitNote, came: Mapping[End, Renewals],
    why: str = "", complaints: tuple[Complaint, ...] = (),
) -> KeptBike:  # fmt: skip
    """The bike with what a signed order put on it: what was there ends its life, what came new begins one, each with an
    entry of its own under the visit. ``job`` is the job as it is after the order."""
    for end in End:
        wheel = job.wheel(end)
        for what in TRACKED:
            if what in came.get(end, frozenset()):
                told = _described(wheel, what, catalogue, _pace(bike, paces.get(end)))
                bike = _new_life(bike, end, what, told, visit, why)
    if not any(v.id == visit.name for v in bike.visits):
        noted = BikeVisit(id=visit.name, day=visit.day, job=visit.job, complaints=complaints, who=visit.who)
        bike = _with(bike, visits=(*bike.visits, noted))
    return bike


def _new_life(bike: KeptBike, end: End, what: Renewal, told: dict[str, Any], visit: VisitNote, why: str) -> KeptBike:
    before = bike.on_it(end, what)
    if before is not None:
        bike = _replaced(bike, before, removed=visit.moment(why))
    gone = what is Renewal.ADAPTER and told["part_id"] is None
    if not gone:
        bike = _with(bike, lives=(*bike.lives, _life(bike, end, what, visit.moment(why), told)))
    name = told["name"] or _DONE.get(what, what.value)
    off = f", {before.name} off" if before is not None and before.name and before.name != told["name"] else ""
    again = ", the same model new" if before is not None and told["name"] and before.name == told["name"] else ""
    words = f"{name} off" if gone else f"{name} fitted{off}{again}" if told["name"] else name
    entry = LogEntry(
        id=next_id("entry-", (e.id for e in bike.entries)), day=visit.day, km=visit.km, end=end, what=words[:200],
        renewal=what, why=why[:300], who=visit.who, visit=visit.name,
    )  # fmt: skip
    return _with(bike, entries=(*bike.entries, entry))


class FittingError(ClavisError):
    """A part that cannot have been fitted then."""


BY_HAND = (*FOUND, Renewal.HOSE, Renewal.BLEED)
"""what may have been fitted without an order: by the rider, on the road, in another workshop"""


def fitted_by_hand(
    bike: KeptBike, end: End, what: Renewal, wheel: Wheel, catalogue: Catalogue, moment: Moment
) -> KeptBike:
    """The bike with one part that came without an order: what was there ends its life, and the log tells it under its
    day. ``wheel`` names the part, or the filling. Raises FittingError where it would have come before what it
    replaces."""
    before = bike.on_it(end, what)
    since = before.fitted if before is not None else None
    if since is not None and moment.day < since.day:
        raise FittingError(say("What it replaces was fitted on {day}: that is later.", day=since.day))
    if since is not None and moment.km is not None and since.km is not None and moment.km < since.km:
        raise FittingError(say("What it replaces was fitted at {km:.0}: that is further.", km=since.km))
    told = _described(wheel, what, catalogue, WearPerKm())
    if before is not None and before.part_id is not None and before.part_id == told["part_id"]:
        known = ("expected_mm_per_km", "rotor_mm_per_km")
        told |= {name: getattr(before, name) for name in known if name in told}  # the model said it of the same part
    visit = VisitNote(f"day-{moment.day}", None, moment.day, moment.who, moment.km)
    return _new_life(bike, end, what, told, visit, moment.why)


def without_visit(bike: KeptBike, name: str) -> KeptBike:
    """The bike as if a visit's order had not been signed: what it put on is off again, what it took off is on. What was
    read then stays read, on what it was read on."""
    begun = {life.id for life in bike.lives if life.fitted is not None and life.fitted.visit == name}
    lives = tuple(
        life.model_copy(update={"removed": None}) if life.removed is not None and life.removed.visit == name else life
        for life in bike.lives
        if life.id not in begun
    )
    return _with(
        bike,
        lives=lives,
        readings=tuple(r for r in bike.readings if r.life not in begun),
        entries=tuple(e for e in bike.entries if e.visit != name),
        visits=tuple(v for v in bike.visits if v.id != name),
    )
