"""Logged rides: read from a table whose columns a person chooses, or downloaded from a logger; and what they tell."""

from collections.abc import Mapping
from typing import Annotated, Any

from fastapi import Form, HTTPException, UploadFile
from starlette.responses import Response

from clavis.core import entries
from clavis.core.errors import ProfileError
from clavis.core.job.trials import MOST_LOGS, RideLog
from clavis.core.proving.prediction import side_on_ride
from clavis.core.proving.ride_log import LogData, LogStudy, log_study
from clavis.core.sentences import Words, say
from clavis.formats.ride_logs import LOG_UNITS, LogChoice, LogColumn, look_at_log, read_log
from clavis.instruments.line_protocol import InstrumentError, RoadInstrument
from clavis.store import jobs, ride_library, ride_logs
from clavis.web.prove.views import log_of
from clavis.web.shell import routes
from clavis.web.shell.bench import Bench
from clavis.web.shell.readers import FormDep, name_of
from clavis.web.shell.rooms import Room
from clavis.web.shell.routes import APPRENTICE
from clavis.web.shell.security import message
from clavis.web.shell.visit import Change, ChangeDep

router = routes.router()
MOST_EVENTS = 40
"""the longest are told one by one"""


def _study(b: Bench, log: RideLog) -> LogStudy | Words:
    """What a log tells, or why it tells nothing."""
    side = side_on_ride(b.job, None, log.setup, b.catalogue, b.tracks)
    if side.situation is None or side.setup is None:
        return side.problem
    try:
        data = ride_logs.read(b.session, log.data_id)
    except jobs.NotThereError as error:
        return error.said
    return log_study(data.exchanged() if log.exchanged else data, side.situation, side.setup.wheels)


def shown(b: Bench) -> dict[str, Any]:
    """What the view of logged rides needs."""
    log = log_of(b)
    found = None if log is None else b.kept("log", lambda: _study(b, log), log.id)
    study = found if isinstance(found, LogStudy) else None
    events = sorted(study.events, key=lambda e: -e.length_s)[:MOST_EVENTS] if study else []
    return {
        "log": log, "study": study, "log_problem": "" if study else found or "",
        "events": sorted(events, key=lambda e: e.start_s), "most_logs": MOST_LOGS,
        "has_logger": b.instruments.has(RoadInstrument.LOGGER),
    }  # fmt: skip


def _refused(c: Change, words: Words) -> Response:
    return message(c.reading.told(words), 422)


@router.post("/jobs/{job_id}/logs/file", dependencies=APPRENTICE)
def add_file(c: ChangeDep, file: UploadFile) -> Response:
    """A table asks for its columns first."""
    name = name_of(file, "log")
    try:
        look = look_at_log(file.file.read())
    except ProfileError as error:
        return _refused(c, say("{name}: {why}", name=name, why=error.said))
    return c.piece("prove/log_columns.html", name=name, look=look, columns=LogColumn, table_units=LOG_UNITS)


def _choice(typed: Mapping[str, str], headings: int) -> LogChoice:
    columns: dict[LogColumn, int | None] = {}
    units: dict[LogColumn, str] = {}
    for column in LogColumn:
        key = column.value.replace(" ", "_")
        text, unit = typed.get(key, ""), typed.get(f"{key}_unit", "")
        columns[column] = entries.place_in(text, headings)
        if (text and columns[column] is None) or (unit and unit not in LOG_UNITS[column]):
            raise ProfileError("this choice of columns is not of this table")
        units[column] = unit or next(iter(LOG_UNITS[column]))
    return LogChoice(columns, units)


@router.post("/jobs/{job_id}/logs/table", dependencies=APPRENTICE)
def add_table(c: ChangeDep, file: UploadFile, form: FormDep) -> Response:
    """The table with the columns that were chosen becomes a logged ride of the job."""
    name = name_of(file, "log")
    typed = {key: str(value) for key, value in form.items() if isinstance(value, str)}
    data = file.file.read()
    try:
        return _kept(c, name.rsplit(".", 1)[0], read_log(data, _choice(typed, len(look_at_log(data).headings))))
    except ProfileError as error:
        c.session.rollback()
        return _refused(c, say("{name}: {why}", name=name, why=error.said))


@router.post("/jobs/{job_id}/logs/download", dependencies=APPRENTICE)
def download(c: ChangeDep) -> Response:
    """What the connected logger holds."""
    try:
        table = c.bench.instruments.download(RoadInstrument.LOGGER, {"job": str(c.job_id)})
        return _kept(c, f"Logged {jobs.now():%Y-%m-%d %H:%M}", read_log(table, look_at_log(table).guess))
    except (InstrumentError, ProfileError) as error:
        c.session.rollback()
        return _refused(c, error.said)


def _kept(c: Change, name: str, data: LogData) -> Response:
    if len(c.bench.job.logs) >= MOST_LOGS:
        raise HTTPException(422, f"A job keeps {MOST_LOGS} logged rides; remove one first.")
    log_id = ride_library.free_id(name, (log.id for log in c.bench.job.logs))
    made = RideLog(
        id=log_id, name=name[:80] or "Logged ride", data_id=ride_logs.keep(c.session, data), who=c.author.who,
        at=jobs.moment(),
    )  # fmt: skip
    c.or_refused(lambda: c.keep_newest(f"logs.{log_id}", made.model_dump(mode="json")))
    return c.gone_to(f"prove?view=log&log={log_id}")


def _named(b: Bench, log_id: str) -> RideLog:
    found = next((log for log in b.job.logs if log.id == log_id), None)
    if found is None:
        raise HTTPException(404, "There is no such logged ride any more. Reload to see it.")
    return found


@router.post("/jobs/{job_id}/logs/{log_id}/remove", dependencies=APPRENTICE)
def remove(c: ChangeDep, log_id: str) -> Response:
    _named(c.bench, log_id)
    c.or_refused(lambda: c.keep_newest(f"logs.{log_id}", None))
    return c.gone_to("prove?view=log")


@router.post("/jobs/{job_id}/logs/{log_id}/exchanged", dependencies=APPRENTICE)
def exchanged(c: ChangeDep, log_id: str, back: Annotated[bool, Form()] = False) -> Response:
    """Somebody says by name that the temperature sensors are on each other's wheel, or takes that back."""
    _named(c.bench, log_id)
    word = None if back else c.author.tick().model_dump()
    return c.answered(c.or_refused(lambda: c.keep_newest(f"logs.{log_id}.exchanged", word)), Room.PROVE)
