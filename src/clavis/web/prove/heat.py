"""Timed temperatures after a ride, and the calibration of the job's model from them."""

from dataclasses import dataclass
from typing import Annotated, Any

import numpy as np
from fastapi import Form, HTTPException
from starlette.responses import HTMLResponse, Response

from clavis.core.errors import ClavisError, QuantityError
from clavis.core.job.document import SHORTEST_REASON
from clavis.core.job.trials import MOST_HEAT_SETS, MOST_TIMED, Calibrated, HeatSet, TimedReading, TrialSide
from clavis.core.parts.mounts import End
from clavis.core.proving.calibration import UNKNOWNS, Calibration, HeatGroup, calibrate, rotor_courses
from clavis.core.proving.temperatures import SAME_START_C, CoolingFrom, HeatStudy, cooling_from, exchanged, heat_study
from clavis.core.records import next_id
from clavis.core.sentences import NOTHING, Words
from clavis.store import calibrations, jobs, ride_library
from clavis.web.prove.heat_pictures import HeatPicture, course_picture, reading_picture
from clavis.web.prove.instruments import connected
from clavis.web.prove.kept import left_out_for
from clavis.web.prove.sides import side_choices
from clavis.web.prove.views import ProveView, heat_set_of
from clavis.web.shell import routes
from clavis.web.shell.bench import Bench
from clavis.web.shell.form_fields import FieldSpec
from clavis.web.shell.rooms import Room
from clavis.web.shell.routes import APPRENTICE, mechanic
from clavis.web.shell.templates import text_of
from clavis.web.shell.visit import ChangeDep

router = routes.router()


def study_kept(b: Bench, heat_set: HeatSet) -> HeatStudy:
    return b.kept("heat study", lambda: heat_study(b.job, heat_set, b.catalogue, b.tracks), heat_set.id)


@dataclass(frozen=True)
class Calibrating:
    """The accepted sets together, and what a fit of them says."""

    studies: tuple[HeatStudy, ...]
    found: Calibration | None
    problem: Words
    swapped: Words

    def newer_than(self, kept: Calibrated | None) -> bool:
        """Other sets are accepted than the calibration that stands was made of."""
        used = {s.heat_set.id for s in self.studies if s.group is not None}
        return kept is None or (kept.from_job is None and set(kept.sets) != used)

    @property
    def readings(self) -> int:
        return sum(len(s.group.readings) for s in self.studies if s.group is not None)


def _calibrating(b: Bench) -> Calibrating:
    studies = tuple(study_kept(b, s) for s in b.job.heat_sets if s.accepted is not None and s.accepted.given_here)
    groups = [s.group for s in studies if s.group is not None and s.group.readings]
    if not groups:
        return Calibrating(studies, None, NOTHING, NOTHING)
    try:
        found = calibrate(groups)
    except ClavisError as error:
        return Calibrating(studies, None, error.said, NOTHING)
    return Calibrating(studies, found, NOTHING, exchanged(groups, found))


def _before_and_after(b: Bench, fit: Calibrating) -> list[tuple[HeatStudy, HeatPicture]]:
    """Each accepted set with its picture, in this reader's units: a fit is kept for all of them."""
    if fit.found is None:
        return []
    return [
        (s, reading_picture(s, _courses(s.group, fit.found), b.reading.system))
        for s in fit.studies
        if s.group is not None
    ]


def _courses(group: HeatGroup, found: Calibration | None) -> dict[End, tuple[Any, Any, Any]]:
    """Clock, the model before and after, of every wheel that was read."""
    unknowns = np.zeros((2, len(UNKNOWNS)))
    if found is not None:
        unknowns[1] = found.x[: len(UNKNOWNS)]
    out = {}
    for end in sorted({r.end for r in group.readings}, key=list(End).index):
        clock, rotor_c = rotor_courses(group, end, unknowns)
        out[end] = (clock, rotor_c[0], rotor_c[1] if found is not None else None)
    return out


def calibrating_kept(b: Bench) -> Calibrating:
    return b.kept("calibrating", lambda: _calibrating(b))


def _same_start(b: Bench) -> dict[str, Any]:
    """Every rotor of both setups, cooling from one temperature."""
    air = b.job.conditions.ambient_c
    found: list[tuple[str, CoolingFrom]] = []
    for setup in b.evaluation.setups.values():
        for end, w in setup.wheels.items():
            course = cooling_from(w, SAME_START_C, air)
            if course is not None and (setup.name.value == "fitted" or b.has_proposal):
                found.append((f"{setup.name.value}, {end.value}: {w.setup.rotor.name}", course))
    return {"same_start": found, "same_start_c": SAME_START_C,
            "same_start_picture": course_picture(found, b.reading.system) if found else None}  # fmt: skip


def shown(b: Bench, view: ProveView) -> dict[str, Any]:
    """What the two views of temperatures need."""
    if view is ProveView.CALIBRATION:
        offered = () if b.job.learnt else calibrations.offered(b.session, b.opened.id, b.job)
        fit = calibrating_kept(b)
        pictures = _before_and_after(b, fit)
        return {
            "calibrating": fit,
            "pictures": pictures,
            "calibration": b.job.learnt,
            "elsewhere": b.job.calibration,
            "offered": offered,
        }
    heat_set = heat_set_of(b)
    study = None if heat_set is None else study_kept(b, heat_set)
    picture = None
    if study is not None and study.group is not None and study.group.readings:
        picture = reading_picture(study, _courses(study.group, None), b.reading.system)
    return {
        "heat_set": heat_set, "study": study, "picture": picture, "shortest": SHORTEST_REASON,
        "most_sets": MOST_HEAT_SETS, "instruments": connected(b.instruments, ["shown"]), **_same_start(b),
    }  # fmt: skip


def _set_named(b: Bench, set_id: str) -> HeatSet:
    found = next((s for s in b.job.heat_sets if s.id == set_id), None)
    if found is None:
        raise HTTPException(404, "There is no such set of readings any more. Reload to see it.")
    return found


@router.post("/jobs/{job_id}/heat", dependencies=APPRENTICE)
def begin(c: ChangeDep, name: Annotated[str, Form(max_length=80)] = "") -> Response:
    """Begin a set of readings after a ride."""
    if len(c.bench.job.heat_sets) >= MOST_HEAT_SETS:
        raise HTTPException(422, f"A job keeps {MOST_HEAT_SETS} sets of readings; remove one first.")
    at, ride = jobs.moment(), c.bench.job.ride
    words = name.strip() or f"After {ride.name if ride else 'the ride'}, {at[:10]}"
    set_id = ride_library.free_id(words, (s.id for s in c.bench.job.heat_sets))
    made = HeatSet(id=set_id, name=words[:80], who=c.author.who, at=at, setup=TrialSide(name="as fitted"))
    c.or_refused(lambda: c.keep_newest(f"heat_sets.{set_id}", made.model_dump(mode="json")))
    return c.gone_to(f"prove?view=temperatures&set={set_id}")


@router.post("/jobs/{job_id}/heat/{set_id}/remove", dependencies=APPRENTICE)
def remove(c: ChangeDep, set_id: str) -> Response:
    _set_named(c.bench, set_id)
    c.or_refused(lambda: c.keep_newest(f"heat_sets.{set_id}", None))
    return c.gone_to("prove?view=temperatures")


@router.post("/jobs/{job_id}/heat/{set_id}/set", dependencies=APPRENTICE)
def set_choice(
    c: ChangeDep,
    set_id: str,
    what: Annotated[str, Form(pattern="^(ride_id|setup)$")],
    value: Annotated[str, Form(max_length=40)] = "",
) -> Response:
    """After which ride, and with which setup, the readings were taken."""
    _set_named(c.bench, set_id)
    kept: Any = value or None
    if what == "setup":
        side = next((s.side for s in side_choices(c.bench.job) if s.key == value), None)
        if side is None:
            raise HTTPException(404, "There is no such setup on this job any more. Reload to see it.")
        kept = side.model_dump(mode="json")
    return c.answered(c.or_refused(lambda: c.keep_newest(f"heat_sets.{set_id}.{what}", kept)), Room.PROVE)


@router.post("/jobs/{job_id}/heat/{set_id}/readings", dependencies=APPRENTICE)
def add(
    c: ChangeDep,
    set_id: str,
    end: Annotated[End, Form()],
    after: Annotated[str, Form(max_length=20)] = "",
    shown_text: Annotated[str, Form(alias="shown", max_length=20)] = "",
) -> Response:
    """One reading: which wheel, how long after the stop, what the thermometer showed."""
    heat_set = _set_named(c.bench, set_id)
    if len(heat_set.readings) >= MOST_TIMED:
        raise HTTPException(422, f"A set keeps {MOST_TIMED} readings.")
    refused: dict[str, str] = {}
    values: dict[str, float] = {}
    for name, text in (("after_s", after), ("read_c", shown_text)):
        spec = FieldSpec.of(name, TimedReading.model_fields[name])
        try:
            values[name] = spec.read(text, c.system, {"after_s": "time", "read_c": "reading"}[name])
        except QuantityError as error:
            refused[name] = c.reading.told(error.said)
    if refused:
        form = c.piece(
            "prove/reading_form.html",
            422,
            heat_set=heat_set,
            end=end,
            after=after,
            shown=shown_text,
            refused=refused,
            instruments=connected(c.bench.instruments, ["shown"]),
        )
        return HTMLResponse(text_of(form), 422)
    made = TimedReading(id=next_id("t", (r.id for r in heat_set.readings)), end=end, **values)
    path = f"heat_sets.{set_id}.readings.{made.id}"
    now = c.or_refused(lambda: c.keep_newest(path, made.model_dump(mode="json")))
    other = End.REAR if end is End.FRONT else End.FRONT
    form = c.piece(
        "prove/reading_form.html",
        b=now,
        heat_set=heat_set,
        end=other,
        after="",
        shown="",
        refused={},
        instruments=connected(now.instruments, ["shown"]),
    )
    return HTMLResponse(text_of(form) + c.followed(now, Room.PROVE))


@router.post("/jobs/{job_id}/heat/{set_id}/readings/{reading_id}/out", dependencies=APPRENTICE)
def leave_out(
    c: ChangeDep, set_id: str, reading_id: str, reason: Annotated[str, Form(max_length=200)] = ""
) -> Response:
    """A reading is not counted, for a reason; without one it counts again."""
    if all(r.id != reading_id for r in _set_named(c.bench, set_id).readings):
        raise HTTPException(404, "There is no such reading any more. Reload to see it.")
    kept = left_out_for(reason)
    path = f"heat_sets.{set_id}.readings.{reading_id}.left_out"
    return c.answered(c.or_refused(lambda: c.keep_newest(path, kept)), Room.PROVE)


@router.post("/jobs/{job_id}/heat/{set_id}/accept", dependencies=mechanic("a mechanic accepts readings that calibrate"))
def accept(c: ChangeDep, set_id: str, back: Annotated[bool, Form()] = False) -> Response:
    """Somebody accepts a set by name: it may calibrate. Refused while its readings are no single decay."""
    heat_set = _set_named(c.bench, set_id)
    if not back and not study_kept(c.bench, heat_set).may_calibrate:
        raise HTTPException(409, "These readings are no single decay yet: leave out the odd ones with a reason first.")
    word = None if back else c.author.tick().model_dump()
    return c.answered(c.or_refused(lambda: c.keep_newest(f"heat_sets.{set_id}.accepted", word)), Room.PROVE)


@router.post("/jobs/{job_id}/calibration", dependencies=mechanic("a mechanic accepts a calibration"))
def take(c: ChangeDep) -> Response:
    """The calibration takes effect, by name."""
    b = c.bench
    found = calibrating_kept(b)
    groups = [s.group for s in found.studies if s.group is not None and s.group.readings]
    if found.found is None or found.found.refused:
        raise HTTPException(409, "There is no calibration that the readings bear out.")
    readings = [r for g in groups for r in g.readings]
    at = jobs.moment()
    sets = tuple(s.heat_set.id for s in found.studies if s.group is not None)
    kept = found.found.accepted(readings, sets, c.author.who, at)
    now = c.or_refused(lambda: c.keep_newest("calibration", kept.model_dump(mode="json")))
    calibrations.offer(c.session, now.opened.id, now.job, found.studies[0].heat_set.setup)
    return c.answered(now, Room.PROVE)


@router.post("/jobs/{job_id}/calibration/back", dependencies=mechanic("a mechanic takes a calibration back"))
def undo(c: ChangeDep) -> Response:
    """The calibration is undone; its readings stay."""
    now = c.or_refused(lambda: c.keep_newest("calibration", None))
    calibrations.withdraw(c.session, c.job_id)
    return c.answered(now, Room.PROVE)


@router.post("/jobs/{job_id}/calibration/from/{other}", dependencies=mechanic("a mechanic accepts a calibration"))
def take_over(c: ChangeDep, other: int) -> Response:
    """What was learnt on another bike of the same kind and parts is taken over, by name."""
    found = next((o for o in calibrations.offered(c.session, c.job_id, c.bench.job) if o.job_id == other), None)
    if found is None:
        raise HTTPException(404, "That calibration stands no more.")
    at = jobs.moment()
    kept = found.calibrated.model_copy(update={"who": c.author.who, "at": at, "from_job": other, "sets": ()})
    return c.answered(c.or_refused(lambda: c.keep_newest("calibration", kept.model_dump(mode="json"))), Room.PROVE)
