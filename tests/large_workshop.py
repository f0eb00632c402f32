"""A workshop of many years, written straight into the tables: bikes with their books, jobs with their histories, rows of
the board. For the benchmark, and smaller for the tests that count queries."""

import json
import random
from datetime import timedelta
from pathlib import Path

from sqlalchemy import insert, select

from clavis.core.job.document import StayState
from clavis.core.job.renewal import Renewal
from clavis.core.keeping.bike import KeptBike, Moment, OdometerReading, PartLife, WearReading
from clavis.core.parts.mounts import End
from clavis.demo import world
from clavis.store import bikes, database, jobs
from clavis.store.tables import BikeRow, BoardRow, ChangeRow, JobRow, PersonRow
from clavis.web.app import create_app
from clavis.web.shell.settings import Settings

FIRST = ("Ada", "Bram", "Cleo", "Dov", "Edda", "Finn", "Gil", "Hesper", "Ida", "Jory", "Kit", "Lorna", "Mauve", "Nye")
LAST = ("Aldous", "Birch", "Corran", "Dray", "Elver", "Fenn", "Garrow", "Hale", "Imber", "Jessop", "Kestle", "Lorne")
KINDS = ("tourer", "commuter", "gravel bike", "longtail", "trail bike", "folding bike")
STATES = (*[StayState.HANDED_OVER] * 60, *[StayState.ARCHIVED] * 35, StayState.ON_THE_BENCH, StayState.BOOKED,
          StayState.READY, StayState.WAITS_FOR_PARTS)  # fmt: skip


def book(number: int, dice: random.Random, readings: int) -> KeptBike:
    """A bike's book of so many readings, over several sets of pads on both wheels."""
    today, weekly = bikes.today(), dice.uniform(20, 150)
    years = 4.0
    lives, reads, odometer = [], [], []
    each = max(readings // 8, 1)
    for end in End:
        for pads in range(4):
            begun = today - timedelta(days=365 * years * (4 - pads) / 4)
            ended = today - timedelta(days=365 * years * (3 - pads) / 4)
            km = weekly / 7 * (begun - (today - timedelta(days=365 * years))).days
            life = PartLife(
                id=f"life-{len(lives) + 1}", end=end, what=Renewal.PAD, part_id="u-k2-resin", name="Ulvorn K2 resin",
                compound="resin", new_mm=2.5, expected_mm_per_km=0.3e-3, rotor_mm_per_km=0.03e-3,
                fitted=Moment(day=begun.isoformat(), km=round(km), who="Tess"),
                removed=Moment(day=ended.isoformat(), km=round(km + weekly * 52), who="Tess") if pads < 3 else None,
            )  # fmt: skip
            lives.append(life)
            for k in range(each):
                day = begun + (ended - begun) * (k + 1) / (each + 1)
                gone = weekly / 7 * (day - begun).days
                reads.append(WearReading(
                    id=f"read-{len(reads) + 1}", life=life.id, day=day.isoformat(), km=round(km + gone),
                    mm=round(max(2.5 - dice.uniform(0.25, 0.6) * gone / 1000, 0.2), 1), gauge="pad_gauge", who="Tess",
                ))  # fmt: skip
    for k in range(8):
        day = today - timedelta(days=365 * years * (8 - k) / 8)
        odometer.append(OdometerReading(id=f"odo-{k}", day=day.isoformat(), km=round(weekly * 52 * years * k / 8)))
    fleet = f"Fleet {number % 20}" if number % 4 == 0 else ""
    name = f"{dice.choice(LAST)}’s {dice.choice(KINDS)} {number}"
    return KeptBike(
        name=name, frame_number=f"FN-{number:05}", fleet=fleet, lives=tuple(lives), readings=tuple(reads),
        odometer=tuple(odometer),
    )  # fmt: skip


def laid(path: Path, bikes_: int, jobs_: int, readings: int, steps: int = 8) -> Path:
    """A database at ``path`` with so many bikes, jobs, and readings of each bike; jobs with so many steps of history."""
    engine = database.open_engine(path)
    dice = random.Random(18)
    with database.sessions(engine)() as session:
        world.fill_if_empty(session)
        demo = [o.job for o in jobs.all_jobs(session)]
    app = create_app(Settings(database=path, allowed_hosts=["testserver"], background=False))
    app.state.rows.catch_up()
    with database.sessions(engine)() as session:
        shown = {row.job_id: (row.shown, row.grade) for row in session.scalars(select(BoardRow))}
        stamp = app.state.rows.stamp(session)
        first_bike = max(session.scalars(select(BikeRow.id))) + 1
        first_job = max(session.scalars(select(JobRow.id))) + 1
        now = jobs.now()
        session.execute(insert(PersonRow), [
            {"id": 1000 + k, "name": f"{dice.choice(FIRST)} {dice.choice(LAST)} {k}", "phone": f"0555 {k:05}",
             "email": f"rider{k}@lane.example", "who": "Tess", "changed_at": now} for k in range(bikes_)
        ])  # fmt: skip
        for start in range(0, bikes_, 200):
            rows = []
            for k in range(start, min(start + 200, bikes_)):
                kept = book(k, dice, readings)
                rows.append({
                    "id": first_bike + k, "version": 1, "document": kept.model_dump(mode="json"), "person_id": 1000 + k,
                    "name": kept.name, "frame_number": kept.frame_number, "fleet": kept.fleet, "archived": False,
                    "due_stamp": "", "created_at": now, "changed_at": now - timedelta(minutes=k),
                })  # fmt: skip
            session.execute(insert(BikeRow), rows)
        for start in range(0, jobs_, 500):
            _jobs(
                session,
                range(start, min(start + 500, jobs_)),
                demo,
                shown,
                (first_job, first_bike, bikes_, steps),
                stamp,
                dice,
            )
        session.commit()
    engine.dispose()
    app.state.rows.catch_up()
    app.state.engine.dispose()
    return path


def _jobs(session, numbers, demo, shown, sizes, stamp, dice) -> None:
    first_job, first_bike, bikes_, steps = sizes
    rows, board, history = [], [], []
    now = jobs.now()
    for k in numbers:
        job = demo[k % len(demo)]
        state = dice.choice(STATES)
        title = f"{dice.choice(LAST)} {dice.choice(KINDS)} {k}"
        document = json.loads(job.model_dump_json()) | {"title": title}
        document["stay"] = document["stay"] | {"state": state.value, "mechanic": dice.choice(FIRST[:4])}
        at = now - timedelta(hours=k)
        number = first_job + k
        rows.append({"id": number, "version": steps, "document": document, "demo": False,
                     "bike_id": first_bike + k % bikes_, "created_at": at, "changed_at": at})  # fmt: skip
        words, grade = shown[k % 7 + 1]
        board.append({"job_id": number, "version": steps, "stamp": stamp, "state": state.value, "promised_on": "",
                      "mechanic": document["stay"]["mechanic"], "title": title, "grade": grade, "changed_at": at,
                      "shown": words})  # fmt: skip
        history += [
            {"job_id": number, "version": v + 1, "who": "Tess", "page": "p", "at": at, "path": "rider.mass_kg" if v else "",
             "before": 70.0 + v, "after": 71.0 + v, "undoes": None} for v in range(steps)
        ]  # fmt: skip
    session.execute(insert(JobRow), rows)
    session.execute(insert(BoardRow), board)
    session.execute(insert(ChangeRow), history)
