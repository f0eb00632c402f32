"""Real files, damaged as discs, cables and people damage them: cut short, changed, doubled, with pieces of themselves in
the wrong place, and, where they are JSON or ZIP, whole but with odd values. Seeds are fixed, so that a failure comes
again. ``python -m tests.damage 2000`` reads so many of each kind of file."""

import io
import json
import random
import re
import sys
import zipfile
from collections.abc import Callable, Iterator
from copy import deepcopy
from dataclasses import dataclass
from pathlib import Path
from traceback import extract_tb
from typing import Any

import numpy as np
from PIL import Image

from clavis.core.errors import ClavisError
from clavis.core.job.document import Ride
from clavis.core.keeping.bike import KeptBike
from clavis.core.parts.catalogue import Catalogue
from clavis.core.physics.recording import Recording
from clavis.formats import (
    gpx_out,
    job_file,
    log_csv,
    parts_file,
    photographs,
    readings_csv,
    recordings_csv,
    recordings_fit,
    recordings_xml,
    ride_logs,
    rides_file,
)
from clavis.store import archive, bikes, database, jobs, looking_after, people, photos
from tests.bikes import CATALOGUE, file_of, own_job
from tests.formats.test_recordings import RIDE, fit, tcx, trackpoint

Dice = random.Random
ODD_NUMBERS = (b"9" * 20, b"9" * 400, b"1e308", b"-1", b"0", b"nan", b"inf", b"-0.0", b"1e-320", b"", b"2026", b"1,5")
ODD_VALUES: tuple[Any, ...] = (
    None, True, 0, -1, 10**18, 10**400, 1.5, 1e308, -1e-320, "", "x", "é" * 300, "2026-02-30", "front", [], [[]], {},
    {"a": 1}, ["x", 1, None], "\x00", "1", 2**63, "\u202e", [0] * 60,
)  # fmt: skip


def _piece(data: bytes, dice: Dice) -> tuple[int, int]:
    begin = dice.randrange(len(data))
    return begin, min(len(data), begin + 1 + int(dice.expovariate(1 / 40)))


def _cut_short(data: bytes, dice: Dice) -> bytes:
    return data[: dice.randrange(len(data))]


def _bytes_changed(data: bytes, dice: Dice) -> bytes:
    changed = bytearray(data)
    for _ in range(dice.choice((1, 1, 2, 8))):
        changed[dice.randrange(len(changed))] = dice.randrange(256)
    return bytes(changed)


def _left_out(data: bytes, dice: Dice) -> bytes:
    begin, end = _piece(data, dice)
    return data[:begin] + data[end:]


def _doubled(data: bytes, dice: Dice) -> bytes:
    begin, end = _piece(data, dice)
    return data[:end] + data[begin:end] * dice.choice((1, 1, 50)) + data[end:]


def _misplaced(data: bytes, dice: Dice) -> bytes:
    begin, end = _piece(data, dice)
    at = dice.randrange(len(data))
    return data[:at] + data[begin:end] + data[at:]


def _zeros(data: bytes, dice: Dice) -> bytes:
    begin, end = _piece(data, dice)
    return data[:begin] + bytes(end - begin) + data[end:]


def _other_number(data: bytes, dice: Dice) -> bytes:
    numbers = list(re.finditer(rb"\d+(\.\d+)?", data))
    if not numbers:
        return _bytes_changed(data, dice)
    for number in sorted(dice.sample(numbers, min(len(numbers), dice.choice((1, 1, 3)))), key=lambda n: -n.start()):
        data = data[: number.start()] + dice.choice(ODD_NUMBERS) + data[number.end() :]
    return data


def _line_moved(data: bytes, dice: Dice) -> bytes:
    lines = data.split(b"\n")
    lines.insert(dice.randrange(len(lines)), lines.pop(dice.randrange(len(lines))))
    return b"\n".join(lines)


RAW = (_cut_short, _bytes_changed, _left_out, _doubled, _misplaced, _zeros, _other_number, _line_moved)


def _places(tree: Any) -> Iterator[tuple[Any, Any]]:
    """Every container of a JSON tree with each of its keys or numbers."""
    inside = list(tree.items() if isinstance(tree, dict) else enumerate(tree) if isinstance(tree, list) else ())
    for key, value in inside:
        yield tree, key
        yield from _places(value)


def odd_json(data: bytes, dice: Dice) -> bytes:
    """Whole JSON with a value, or a few, that nobody meant; or one left out, or one under another's name."""
    tree = json.loads(data)
    for _ in range(dice.choice((1, 1, 1, 4))):
        places = list(_places(tree))
        if not places:
            break
        inside, key = dice.choice(places)
        what = dice.random()
        if what < 0.15 and isinstance(inside, dict):
            del inside[key]
        elif what < 0.25 and isinstance(inside, dict):
            inside[dice.choice(("x", "id", "kind", "version", ""))] = inside.pop(key)
        elif what < 0.4:
            other, place = dice.choice(places)
            inside[key] = json.loads(json.dumps(other[place]))
        else:
            inside[key] = deepcopy(dice.choice(ODD_VALUES))
    return json.dumps(tree).encode()


def odd_zip(data: bytes, dice: Dice) -> bytes:
    """A whole ZIP, one file of which is damaged, left out, or packed in another way."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w") as new:
        chosen = dice.choice(old.namelist())
        for name in old.namelist():
            inside = old.read(name)
            if name == chosen:
                if dice.random() < 0.1:
                    continue
                inside = odd_json(inside, dice) if name.endswith(".json") and dice.random() < 0.8 else raw(inside, dice)
            new.writestr(name, inside, dice.choice((zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED, zipfile.ZIP_LZMA)))
    return out.getvalue()


def raw(data: bytes, dice: Dice) -> bytes:
    """Damaged as bytes, whatever stands in them."""
    return dice.choice(RAW)(data, dice) if data else b"\x00"


Damage = Callable[[bytes, Dice], bytes]


@dataclass(frozen=True)
class Reader:
    """One kind of file: a real one, what reads it, and what damages it."""

    real: bytes
    read: Callable[[bytes], object]
    damages: tuple[Damage, ...] = (raw,)

    def damaged(self, seed: int) -> bytes:
        """The file of this seed."""
        dice = random.Random(seed)
        return dice.choice(self.damages)(self.real, dice)


def fault_of(reader: Reader, data: bytes) -> str:
    """What a reader stumbled over; empty where it read the file or refused it in words."""
    try:
        reader.read(data)
    except ClavisError as error:
        words = str(error.said)
        return "" if words and "\n" not in words and len(words) < 700 else f"refused with no fit words: {words!r:.300}"
    except Exception as error:
        places = [f"{f.filename.rpartition('/')[2]}:{f.lineno}" for f in extract_tb(error.__traceback__)]
        return f"{type(error).__name__}: {error!s:.160} at {' '.join(places[-4:])}"
    return ""


def _ridden(found: Recording) -> Recording:
    """What came in holds nothing that is no number."""
    track = found.track
    for column in (track.distance_m, track.elevation_m, track.time_s):
        if column is not None and not np.isfinite(column).all():
            raise AssertionError("a track with what is no number was taken")
    return found


def _picture(kind: str) -> bytes:
    out = io.BytesIO()
    shades = np.random.default_rng(1).integers(0, 255, (48, 64, 3), dtype=np.uint8)
    image = Image.fromarray(shades)
    exif = Image.Exif()
    exif[0x0112] = 6
    image.save(out, kind, exif=exif)
    return out.getvalue()


LOG = b"time s,speed km/h,front brake,rear brake,front rotor C\n" + b"".join(
    b"%d,%d,%d,%d,%d\n" % (k, 30 - k % 5, k % 7 > 3, k % 5 > 3, 20 + k) for k in range(90)
)
WAY = b"distance km,elevation m,time s\n" + b"".join(b"%.3f,%.1f,%d\n" % (k / 50, 400 - k, k) for k in range(90))
READINGS = b"day,odometer_km,wheel,part,mm,other_mm,gauge,who\n" + (
    b"2026-05-01,1200,front,pad,2.1,2.0,pad_gauge,Tess\n" * 6
)
ENTRIES = b"day,odometer_km,wheel,what,why,who\n" + b"2026-05-01,1200,front,pads renewed,worn,Tess\n" * 6
TESS = jobs.Author("Tess Bench", "damage")


def workshop(folder: Path) -> Path:
    """A small workshop in a file: somebody with a bike, a job, a ride, parts and a photograph."""
    path = folder / "small.db"
    engine = database.open_engine(path)
    with database.sessions(engine)() as session, database.writing(session):
        person = people.add(session, people.PersonData("Ada Low", "", ""), "Tess")
        bike = bikes.add(session, KeptBike(name="Own tourer"), "Tess", person)
        photos.add(session, bike, None, photos.decoded(_picture("JPEG")), "from the left", "Tess")
        few = Catalogue.of([p for p in CATALOGUE.every() if p.id in own_job().part_ids()])
        jobs.keep_new_parts(session, few.every())
        jobs.lay_down(session, own_job(), TESS, bike_id=bike)
    engine.dispose()
    return path


def readers(folder: Path) -> dict[str, Reader]:
    """Every kind of file that comes from outside."""
    base = workshop(folder)
    engine = database.open_engine(base)
    with database.sessions(engine)() as session:
        packed = archive.written(session)
    engine.dispose()
    few = [p for p in CATALOGUE.every() if p.id in own_job().part_ids()]
    job = own_job()
    rides: tuple[Ride, ...] = job.rides
    gpx = gpx_out.write_gpx("Hill", gpx_out.track_of_sections(rides[0]))

    def table(data: bytes) -> object:
        return _ridden(recordings_csv.read_csv(data, recordings_csv.look_at_csv(data).guess))

    def log(data: bytes) -> object:
        return ride_logs.read_log(data, ride_logs.look_at_log(data).guess)

    def parts(kind: str) -> Callable[[bytes], object]:
        return lambda data: parts_file.read_rows(data, kind)

    def take(data: bytes) -> None:
        here = folder / "taken.db"
        here.unlink(missing_ok=True)
        opened = database.open_engine(here)
        try:
            with database.sessions(opened)() as session:
                archive.take(session, io.BytesIO(data), TESS)
        finally:
            opened.dispose()

    def bring_back(data: bytes) -> None:
        copy, here = folder / "copy.db", folder / "here.db"
        copy.write_bytes(data)
        here.unlink(missing_ok=True)
        looking_after.restore(copy, here, jobs.now())

    as_json = (raw, odd_json, odd_json, odd_json)
    return {
        "gpx": Reader(gpx.encode(), lambda d: _ridden(recordings_xml.read_gpx(io.BytesIO(d)))),
        "tcx": Reader(
            tcx("".join(trackpoint(k) for k in range(60))), lambda d: _ridden(recordings_xml.read_tcx(io.BytesIO(d)))
        ),
        "fit": Reader(fit(RIDE, {20}), lambda d: _ridden(recordings_fit.read_fit(io.BytesIO(d)))),
        "way as a table": Reader(WAY, table),
        "logged ride": Reader(LOG, log),
        "readings": Reader(READINGS, readings_csv.parse),
        "log of a bike": Reader(ENTRIES, log_csv.parse),
        "parts as JSON": Reader(parts_file.write_json(few).encode(), parts(""), as_json),
        "parts as a table": Reader(parts_file.write_csv(few, "rotor").encode(), parts("rotor")),
        "rides": Reader(rides_file.write(rides, {}).encode(), rides_file.parse, as_json),
        "job": Reader(job_file.to_json(file_of(job, shelf=Catalogue.of(few))).encode(), job_file.parse, as_json),
        "archive": Reader(packed, take, (raw, odd_zip, odd_zip, odd_zip)),
        "copy of a database": Reader(base.read_bytes(), bring_back),
        **{f"photograph {kind}": Reader(_picture(kind), photographs.read) for kind in ("JPEG", "PNG", "WEBP")},
    }


def main(each: int) -> int:
    """Read, tell what stumbled, and end with how much that was."""
    import tempfile

    wrong = 0
    with tempfile.TemporaryDirectory() as folder:
        for name, reader in readers(Path(folder)).items():
            faults: dict[str, list[int]] = {}
            for seed in range(each):
                if fault := fault_of(reader, reader.damaged(seed)):
                    faults.setdefault(re.sub(r"\d+", "9", fault.split(" at ")[0])[:60], []).append(seed)
                    if len(faults[re.sub(r"\d+", "9", fault.split(" at ")[0])[:60]]) == 1:
                        sys.stdout.write(f"   {name}, seed {seed}: {fault}\n")
            count = sum(map(len, faults.values()))
            wrong += count
            sys.stdout.write(f"{name}: {each} read, {count} stumbled\n")
            sys.stdout.flush()
    return min(wrong, 100)


if __name__ == "__main__":
    sys.exit(main(int(sys.argv[1]) if len(sys.argv) > 1 else 1000))
