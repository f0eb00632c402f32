"""Job files: taken away and read back they give the same answers; bad ones are refused and change nothing."""

import json
from pathlib import Path

import jsonschema
import pytest
from sqlalchemy.orm import Session

from clavis.core.parts.catalogue import Catalogue
from clavis.formats import job_file
from clavis.formats.answers import Answers, answers_of
from clavis.formats.rides_file import RidesFile
from clavis.store import database, job_transfer, jobs
from clavis.store.tables import JobRow, PartRow, TrackRow
from tests.bikes import file_of, own_job

WHO = jobs.Author("Maud", "p")
SCHEMAS = Path(__file__).parents[2] / "docs" / "formats"


def tandem_file(session: Session) -> job_file.JobFile:
    tandem = next(o for o in jobs.all_jobs(session) if o.job.title.startswith("Tandem"))
    return job_transfer.write_job(session, tandem.id)


def test_every_demo_job_gives_the_same_answers_in_an_empty_database(demo_session: Session, tmp_path: Path) -> None:
    engine = database.open_engine(tmp_path / "other.db")
    with database.sessions(engine)() as other:
        for opened in jobs.all_jobs(demo_session):
            text = job_file.to_json(job_transfer.write_job(demo_session, opened.id))
            number = job_transfer.keep(other, job_file.parse(text.encode()), WHO)
            back = job_transfer.write_job(other, number)
            assert answers_of(back) == answers_of(job_transfer.write_job(demo_session, opened.id))
            assert back.job == job_file.marked_as_imported(opened.job)


def test_a_job_takes_along_what_it_uses_of_a_large_catalogue(demo_session: Session) -> None:
    """Twenty of every line, dearer and of other names: the file is no larger for it, and its answers are those that
    the whole catalogue gives."""
    catalogue = jobs.read_catalogue(demo_session)
    many = Catalogue.of(
        part.model_copy(update={"id": f"{part.id[:50]}-{k}" if k else part.id, "price": part.price * (1 + k / 9)})
        for part in catalogue.every()
        for k in range(20)
    )
    for opened in jobs.all_jobs(demo_session):
        job, tracks = opened.job, jobs.tracks_of(demo_session, opened.job.rides)
        small, large = (job_file.file_of(job, tracks, shelf) for shelf in (catalogue, many))
        assert {part.id for part in small.parts} == {part.id for part in large.parts}
        assert job.part_ids() <= {part.id for part in small.parts}
        whole = small.model_copy(update={"parts": [p for p in many.every() if not p.retired or p.id in job.part_ids()]})
        assert answers_of(large) == answers_of(whole)


def test_the_published_schemas_are_the_models() -> None:
    for name, model in (("job-v3", job_file.JobFile), ("answers-v2", Answers), ("rides-v1", RidesFile)):
        published = json.loads((SCHEMAS / f"{name}.schema.json").read_text(encoding="utf-8"))
        assert published == json.loads(json.dumps(model.model_json_schema())), f"run: make schemas ({name})"


def test_files_and_answers_obey_their_schemas(demo_session: Session) -> None:
    file = tandem_file(demo_session)
    jsonschema.validate(json.loads(job_file.to_json(file)), job_file.JobFile.model_json_schema())
    jsonschema.validate(answers_of(file), Answers.model_json_schema())


def own_raw() -> dict:
    return json.loads(job_file.to_json(file_of(own_job())))


def broken(*steps: str | int, value=None, drop: bool = False) -> bytes:
    raw = own_raw()
    place = raw
    for step in steps[:-1]:
        place = place[step]
    if drop:
        del place[steps[-1]]
    else:
        place[steps[-1]] = value
    return json.dumps(raw).encode()


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "not JSON: line 1"),
        (b"\xff\xfe\x00", "not UTF-8"),
        (b"[1, 2", "not JSON: line 1, column"),
        (b'{"a": NaN}', "NaN is not a number"),
        (b"[" * 100000, "nested too deeply"),
        (b"[]", "format: not a Clavis job file"),
        (b"{}", "format: not a Clavis job file"),
        (broken("version", value=4), "version: 4 is not known"),
        (broken("version", drop=True), "version: None is not known"),
        (broken("job", drop=True), "job: it is missing"),
        (broken("job", "rider", value=3), "job.rider"),
        (broken("job", "rider", "mass_kg", value=-80), "job.rider.mass_kg: wanted: at least 20 .given: -80."),
        (broken("job", "rider", "mass_kg", value="heavy"), "job.rider.mass_kg"),
        (broken("job", "front", "max_rotor_mm", value=900), "job.front.max_rotor_mm: wanted: at most 260"),
        (broken("job", "colour", value="red"), "job.colour"),
        (b'{"format":"clavis-job","job":{"rides":[' + b"{}," * 300_000 + b"{}]}}", "more than 250,000 objects"),
        (broken("job", "rides", value=[1] * 700_000), "more than 600,000 values"),
        (broken("job", "rides", value=[1] * 9000), r"9,\d\d\d things of it are wrong$"),
        (broken("tracks", value={f"{k:064d}": 1 for k in range(2)}), r"tracks.0{64}: .*wanted|and \d+ more"),
        (broken("tracks", value={"0" * 64: {"distance_m": [""] * 9000, "elevation_m": [""] * 9000}}), r"distance_m.0: .* \(and \d+ more\)$"),
        (broken("job", "seed", value=1e400), "not JSON|job.seed"),
        (broken("job", "decisive_ride", value="moon"), "decisive ride is not among"),
        (broken("job", "front", "rotor_id", value="no-such"), "uses part no-such, which the file does not carry"),
        (broken("parts", 0, "kind", value="engine"), "parts.0"),
        (broken("parts", 1, "price", value=-1), "parts.1"),
        (broken("job", "rides", 0, "sections", 0, "gradient_pct", value=300), "gradient_pct"),
        (broken("tracks", value={"0" * 64: {"distance_m": [0, 50, 90], "elevation_m": [3, 2, 1], "time_s": None}}), "does not match"),
        (broken("tracks", value={"0" * 64: {"distance_m": [0, 90, 50], "elevation_m": [3, 2, 1], "time_s": None}}), "backward"),
    ],
)  # fmt: skip
def test_bad_files_name_the_field(data: bytes, words: str) -> None:
    with pytest.raises(job_file.JobFileError, match=words) as caught:
        job_file.parse(data)
    assert "\n" not in str(caught.value)


def test_a_part_that_differs_is_kept_under_its_own_name(demo_session: Session) -> None:
    raw = json.loads(job_file.to_json(tandem_file(demo_session)))
    part = next(p for p in raw["parts"] if p["id"] == "q-disc-180")
    part["thickness_mm"], part["minimum_mm"] = 2.6, 1.6
    file = job_file.parse(json.dumps(raw).encode())
    expected = answers_of(file)
    number = job_transfer.keep(demo_session, file, WHO)
    job = jobs.open_job(demo_session, number).job
    assert job.front.rotor_id is not None
    assert job.front.rotor_id.startswith("q-disc-180~")
    assert demo_session.get(PartRow, "q-disc-180").document["thickness_mm"] == 1.8
    answers = answers_of(job_transfer.write_job(demo_session, number))
    for end in ("front", "rear"):
        ours, theirs = (a["setups"]["fitted"]["wheels"][end] for a in (answers, expected))
        assert ours["peak_c"] == theirs["peak_c"]


def test_reading_twice_keeps_one_track_and_two_jobs(demo_session: Session) -> None:
    before = demo_session.query(TrackRow).count(), demo_session.query(JobRow).count()
    file = tandem_file(demo_session)
    job_transfer.keep(demo_session, file, WHO)
    job_transfer.keep(demo_session, file, WHO)
    assert demo_session.query(TrackRow).count() == before[0]
    assert demo_session.query(JobRow).count() == before[1] + 2


def test_a_file_of_version_1_is_brought_up() -> None:
    raw = json.loads(job_file.to_json(file_of(own_job())))
    raw["version"] = 1
    for end in ("front", "rear"):
        wheel = raw["job"][end]
        del wheel["rotor_points_mm"], wheel["pad_inner_mm"], wheel["pad_outer_mm"]
        wheel |= {"rotor_thinnest_mm": 1.66, "pad_material_mm": 1.4}
    job = job_file.parse(json.dumps(raw).encode()).job
    assert job.front.rotor_points_mm == (1.66,)  # one reading stays one: it passes no rotor by itself
    assert (job.rear.pad_inner_mm, job.rear.pad_outer_mm) == (1.4, 1.4)
    raw["job"] = "none"
    with pytest.raises(job_file.JobFileError, match="version: 1 is not known"):
        job_file.parse(json.dumps(raw).encode())
