"""Copies while a database is in use, bringing one back, a copy every day, what is not well, and everything as one archive."""

import gc
import io
import json
import sqlite3
import threading
import weakref
import zipfile
from datetime import UTC, date, datetime
from pathlib import Path
from threading import Thread
from time import sleep

import pytest
from PIL import Image
from sqlalchemy import text
from sqlalchemy.orm import Session

from clavis.core.job.document import Job
from clavis.core.keeping.bike import KeptBike
from clavis.formats import job_file, photographs
from clavis.formats.job_file import JobFile
from clavis.store import accounts, archive, bikes, database, jobs, looking_after, people, photos, search
from clavis.store.accounts import Role
from clavis.store.looking_after import BackupError

TESS = jobs.Author("Tess", "p")
NOW = datetime(2026, 11, 29, 6, 0, tzinfo=UTC)


def filled(path: Path, titles: tuple[str, ...] = ("One", "Two")) -> Path:
    engine = database.open_engine(path)
    with database.sessions(engine)() as session:
        for title in titles:
            jobs.create_job(session, Job(title=title), TESS)
    engine.dispose()
    return path


def titles(path: Path) -> list[str]:
    engine = database.open_engine(path)
    with database.sessions(engine)() as session:
        found = sorted(o.job.title for o in jobs.all_jobs(session))
    engine.dispose()
    return found


def test_a_copy_is_whole_while_others_write(tmp_path: Path) -> None:
    """A writer goes on through the copy; the copy is sound, and holds every job that was kept before it began."""
    path = filled(tmp_path / "a.db")
    engine = database.open_engine(path)
    stop, kept = threading.Event(), []

    def write() -> None:
        with database.sessions(engine)() as session:
            while not stop.is_set() and len(kept) < 400:
                kept.append(jobs.create_job(session, Job(title=f"Job {len(kept)}"), TESS))

    writer = threading.Thread(target=write)
    writer.start()
    while len(kept) < 20:
        pass
    before = len(kept)
    looking_after.copy(path, tmp_path / "copy.db")
    stop.set()
    writer.join()
    engine.dispose()
    assert len(titles(tmp_path / "copy.db")) >= 2 + before
    assert looking_after.check(tmp_path / "copy.db") == []
    assert (tmp_path / "copy.db").stat().st_mode & 0o077 == 0


def test_nothing_half_written_bears_the_name(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = filled(tmp_path / "a.db")
    with pytest.raises(BackupError, match="exists already"):
        looking_after.copy(path, path)
    with pytest.raises(BackupError, match="is not there"):
        looking_after.copy(tmp_path / "none.db", tmp_path / "b.db")
    monkeypatch.setattr("clavis.store.file_copies.os.fsync", lambda _: (_ for _ in ()).throw(OSError("disk full")))
    with pytest.raises(BackupError, match="disk full"):
        looking_after.copy(path, tmp_path / "b.db")
    assert sorted(p.name for p in tmp_path.iterdir() if not p.name.startswith("a.db")) == []


def test_a_copy_is_brought_back_in_place_of_what_is_there(tmp_path: Path) -> None:
    path = filled(tmp_path / "a.db")
    looking_after.copy(path, tmp_path / "copy.db")
    engine = database.open_engine(path)  # somebody has it open
    with database.sessions(engine)() as session:
        jobs.create_job(session, Job(title="Three"), TESS)
    before = looking_after.restore(tmp_path / "copy.db", path, NOW)
    with database.sessions(engine)() as session:
        assert sorted(o.job.title for o in jobs.all_jobs(session)) == ["One", "Two"]
    engine.dispose()
    assert before is not None and titles(before) == ["One", "Three", "Two"]


def test_what_is_no_copy_is_not_brought_back(tmp_path: Path) -> None:
    path = filled(tmp_path / "a.db")
    (tmp_path / "letter.db").write_bytes(b"Dear Tess, " * 100)
    damaged = tmp_path / "damaged.db"
    looking_after.copy(path, damaged)
    data = bytearray(damaged.read_bytes())
    data[4096 * 3 : 4096 * 6] = b"\xff" * 4096 * 3
    damaged.write_bytes(data)
    newer = tmp_path / "newer.db"
    looking_after.copy(path, newer)
    with sqlite3.connect(newer) as connection:
        connection.execute("update alembic_version set version_num = '9999'")
    for wrong in ("letter.db", "damaged.db", "newer.db", "none.db"):
        with pytest.raises(BackupError):
            looking_after.restore(tmp_path / wrong, path, NOW)
        assert titles(path) == ["One", "Two"]


def test_a_copy_every_day_for_a_fortnight(tmp_path: Path) -> None:
    path, folder = filled(tmp_path / "a.db"), tmp_path / "backups"
    (tmp_path / "backups").mkdir()
    (folder / "mine.db").write_text("not Clavis's to take away")
    for day in range(1, 21):
        assert looking_after.daily(path, folder, date(2026, 11, day)) == folder / f"clavis-2026-11-{day:02}.db"
        assert looking_after.daily(path, folder, date(2026, 11, day)) is None
    names = sorted(p.name for p in folder.iterdir())
    assert names == [f"clavis-2026-11-{day:02}.db" for day in range(7, 21)] + ["mine.db"]
    assert looking_after.daily(tmp_path / "none.db", folder, date(2026, 12, 24)) is None


def test_a_clock_that_is_wrong_once_takes_no_copy_with_it(tmp_path: Path) -> None:
    """A start a year ahead, starts behind, and a workshop that was shut for half a year: the copies stay, and it is
    told."""
    path, folder = filled(tmp_path / "a.db"), tmp_path / "copies"
    for day in range(1, 15):
        looking_after.daily(path, folder, date(2026, 11, day))
    assert looking_after.clock_trouble(folder, date(2026, 11, 15)) == ""
    before = {p.name for p in folder.iterdir()}
    looking_after.daily(path, folder, date(2027, 11, 15))
    assert len(before & {p.name for p in folder.iterdir()}) == 13  # one for the one that came
    assert "2026-11-14" in looking_after.clock_trouble(folder, date(2027, 11, 15))
    looking_after.daily(path, folder, date(2026, 11, 15))
    assert "2027-11-15" in looking_after.clock_trouble(folder, date(2026, 11, 15))
    assert len(before & {p.name for p in folder.iterdir()}) == 13  # those of the fortnight stay, however many there are
    assert looking_after.clock_trouble(tmp_path / "none", date(2026, 11, 15)) == ""


def test_what_is_not_well_is_said(tmp_path: Path) -> None:
    path = filled(tmp_path / "a.db")
    assert looking_after.check(path) == []
    with sqlite3.connect(path) as connection:
        connection.execute("""update job set document = '{"title": 7}' where id = 1""")
        connection.execute("update job set bike_id = 99 where id = 2")
        connection.execute("delete from board_row where job_id = 2")
        connection.execute("delete from search_entry where kind = 'bike' and ref = '1'")
    told = {(t.where, t.what) for t in looking_after.check(path)}
    assert ("job 2", "refers to a bike that is not there") in told
    assert ("job 2", "does not stand on the board") in told
    assert ("search", "knows 1 of 2 bikes") in told
    assert any(where == "job 1" and "title" in what for where, what in told)
    with pytest.raises(BackupError):
        looking_after.check(tmp_path / "none.db")
    assert not (tmp_path / "none.db").exists()


def picture(**more: object) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (900, 600), (120, 30, 30)).save(out, "JPEG", **more)
    return out.getvalue()


def test_everything_goes_out_as_one_archive_and_comes_in_again(demo_session: Session, tmp_path: Path) -> None:
    number = next(n for n, name in bikes.names(demo_session) if name.startswith("Commuter"))
    photos.add(demo_session, number, None, photos.decoded(picture()), "as it came", "Tess")
    demo_session.commit()
    data = archive.written(demo_session)
    names = zipfile.ZipFile(io.BytesIO(data)).namelist()
    assert {
        "manifest.json",
        "people.json",
        "parts.json",
        "stock.json",
        "rides.json",
        "jobs/1.json",
        "history/1.json",
    } <= set(names)
    engine = database.open_engine(tmp_path / "new.db")
    with database.sessions(engine)() as other:
        taken = archive.take(other, io.BytesIO(data), TESS)
        assert (taken.jobs, taken.photos) == (8, 1)
        assert len(jobs.all_jobs(other)) == len(jobs.all_jobs(demo_session))
        was = {name: bikes.open_bike(demo_session, n) for n, name in bikes.names(demo_session)}
        now = {name: bikes.open_bike(other, n) for n, name in bikes.names(other)}
        assert {name: b.bike for name, b in now.items()} == {name: b.bike for name, b in was.items()}
        for name, opened in was.items():
            assert (now[name].person and now[name].person.name) == (opened.person and opened.person.name)
            assert len(bikes.jobs_of(other, now[name].id)) == len(bikes.jobs_of(demo_session, opened.id))
        assert len(photos.of_bike(other, now["Commuter on cable discs"].id)) == 1
        assert search.found(other, "Oakeshott", 5, "person")
        assert not looking_after.check(tmp_path / "new.db")
    engine.dispose()


@pytest.mark.parametrize("wrong", ["letter", "empty", "other", "job", "bomb"])
def test_an_archive_that_is_none_is_refused_whole(session: Session, wrong: str) -> None:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        if wrong != "empty":
            kind = "clavis-archive" if wrong != "other" else "something"
            made.writestr("manifest.json", json.dumps({"format": kind, "version": 1}))
        made.writestr("bikes/1.json", json.dumps({"format": "clavis-bike", "version": 1, "bike": {"name": "Kept?"}}))
        if wrong == "job":
            made.writestr("jobs/1.json", "{")
        if wrong == "bomb":
            made.writestr("people.json", b"[" + b" " * 70_000_000 + b"]")
    data = b"PK, said the fox" if wrong == "letter" else out.getvalue()
    with pytest.raises(archive.ArchiveError):
        archive.take(session, io.BytesIO(data), TESS)
    session.rollback()
    assert bikes.names(session) == []


def test_a_person_can_be_erased(session: Session) -> None:
    number = bikes.create_bike(session, KeptBike(name="Roadster"), "Tess")
    people.of_bike(session, number, people.read("Una Selby", "0555 0190", ""), "Tess")
    person = bikes.open_bike(session, number).person
    assert person is not None and [h.title for h in search.found(session, "selby", 5, "person")] == ["Una Selby"]
    assert people.erase(session, person.id) == 1
    assert bikes.open_bike(session, number).person is None and search.found(session, "selby", 5, "person") == []
    left = session.execute(text("select count(*) from person")).scalar()
    assert left == 0
    with pytest.raises(jobs.NotThereError):
        people.erase(session, person.id)


def test_a_photograph_keeps_its_picture_and_nothing_else(session: Session) -> None:
    exif = Image.Exif()
    exif[0x010F], exif[0x0112] = "Secret camera", 6  # the maker; turned by a quarter
    data = picture(exif=exif, comment=b"home address")
    number = bikes.create_bike(session, KeptBike(name="Roadster"), "Tess")
    photo = photos.add(session, number, None, photos.decoded(data), "front, as it came", "Tess")
    assert photos.add(session, number, None, photos.decoded(data), "again", "Tess") == photo
    kept = photos.picture(session, number, photo, small=False)
    assert b"Secret" not in kept and b"home address" not in kept
    again = Image.open(io.BytesIO(kept))
    assert not again.getexif() and again.size == (600, 900)  # upright
    assert max(Image.open(io.BytesIO(photos.picture(session, number, photo, small=True))).size) == 320
    for wrong in (b"", b"GIF89a", b"<svg onload=alert(1)>", data[:200]):
        with pytest.raises(jobs.RefusedError):
            photos.add(session, number, None, photos.decoded(wrong), "", "Tess")
    out = io.BytesIO()
    Image.new("1", (12_000, 12_000)).save(out, "PNG")  # small as a file, large in memory
    with pytest.raises(jobs.RefusedError, match="60 million"):
        photos.add(session, number, None, photos.decoded(out.getvalue()), "", "Tess")
    with pytest.raises(jobs.RefusedError, match="25 million"):  # decoded whole, as a JPEG of that size is not
        out = io.BytesIO()
        Image.new("L", (6_000, 5_000)).save(out, "PNG")
        photos.decoded(out.getvalue())
    photos.remove(session, number, photo)
    assert photos.of_bike(session, number) == []


def test_a_picture_is_decoded_before_anybody_has_to_wait(session: Session, tmp_path: Path) -> None:
    """While one is decoded others write; two are not decoded at the same time."""
    out, at_once, most = io.BytesIO(), 0, 0
    Image.new("RGB", (400, 300)).save(out, "PNG")
    real = photographs._read

    def read(data: bytes) -> photographs.Photograph:
        nonlocal at_once, most
        at_once += 1
        most = max(most, at_once)
        sleep(0.01)
        found = real(data)
        at_once -= 1
        return found

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(photographs, "_read", read)
        threads = [Thread(target=photographs.read, args=(out.getvalue(),)) for _ in range(4)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
    assert most == 1 and not session.in_transaction()


@pytest.mark.parametrize("name", ["people.json", "jobs/1.json", "parts.json", "bikes/1.json"])
def test_a_small_archive_that_unpacks_to_much_is_refused(session: Session, name: str) -> None:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        made.writestr("manifest.json", '{"format": "clavis-archive", "version": 1}')
        made.writestr(name, b"[" + b"0," * 20_000_000 + b"0]")
    with pytest.raises(archive.ArchiveError, match="unpacks to far more"):
        archive.take(session, io.BytesIO(out.getvalue()), jobs.Author("Tess", "p"))


def test_jobs_of_an_archive_are_not_held_together(
    demo_session: Session, session: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    whole, read = archive.written(demo_session), []
    held: list[weakref.ref[JobFile]] = []
    parse = job_file.parse

    def watched(data: bytes) -> JobFile:
        gc.collect()
        read.append(sum(one() is not None for one in held))
        found = parse(data)
        held.append(weakref.ref(found))
        return found

    monkeypatch.setattr(job_file, "parse", watched)
    taken = archive.take(session, io.BytesIO(whole), jobs.Author("Tess", "p"))
    assert len(read) == 2 * taken.jobs > 10
    assert max(read) <= 1


def test_a_copy_that_is_brought_back_signs_nobody_in(tmp_path: Path) -> None:
    path, backup = filled(tmp_path / "a.db"), tmp_path / "copy.db"
    engine = database.open_engine(path)
    with database.sessions(engine)() as opened:
        token = accounts.begin_session(opened, accounts.add(opened, "Olga", "a long enough one", Role.OWNER, "cli"))
        looking_after.copy(path, backup)
        accounts.end_session(opened, token)
    looking_after.restore(backup, path, datetime(2026, 12, 2))
    with database.sessions(engine)() as opened:
        assert accounts.of_token(opened, token, jobs.now()) is None and accounts.has_owner(opened)
    engine.dispose()
