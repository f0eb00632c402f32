"""The board of a workshop: kept rows, brought up to date beside the pages; states, filters, sorting, search; a job that
cannot be read does not take the others with it."""

import json
import re
import time

import pytest
from sqlalchemy import select, text
from starlette.testclient import TestClient

from clavis.core.job.document import Job
from clavis.store import board, database, jobs
from clavis.store.tables import BoardRow
from clavis.web.app import create_app
from clavis.web.shell.settings import Settings
from tests.web.test_pages import TANDEM, field
from tests.web.told import told, told_at

TITLES = re.compile(r'<th scope="row"><a href="/jobs/(\d+)/choose">')


def listed(client: TestClient, **query: str) -> list[int]:
    return [int(n) for n in TITLES.findall(client.get("/", params=query).text)]


def caught_up(client: TestClient) -> int:
    return client.app.state.rows.catch_up()


def test_rows_follow_a_change_of_the_job_and_of_the_catalogue(client: TestClient) -> None:
    caught_up(client)
    assert caught_up(client) == 0  # all is up to date
    field(client, TANDEM, "rider.mass_kg", "40")
    assert "hx-trigger" in client.get("/board/rows").text  # it is being worked out, and asked for again
    assert caught_up(client) == 1
    assert 'hx-get="/board/rows' not in client.get("/board/rows").text
    before = told_at(client, "/")
    with client.app.state.sessions() as session:
        part = jobs.read_catalogue(session).by_id("q-disc-180")
        assert part is not None
        jobs.keep_part(session, part.model_copy(update={"price": 99.0}))
        session.commit()
    assert caught_up(client) == 7  # every bike that is here; what was handed over stands as it was judged
    assert told_at(client, "/") != "" and before


def test_other_rules_make_every_row_here_anew(client: TestClient, monkeypatch: pytest.MonkeyPatch) -> None:
    caught_up(client)
    monkeypatch.setattr("clavis.web.board.row_keeper.rules_mark", lambda: "another mark")
    assert caught_up(client) == 7


def test_an_older_row_never_takes_the_place_of_a_newer(client: TestClient) -> None:
    caught_up(client)
    with client.app.state.sessions() as session:
        board.keep(session, TANDEM, 9, "stamp", 1, {"fitted": "holds"})
        board.keep(session, TANDEM, 3, "stamp", 1, {"fitted": "fails"})
        assert session.scalar(select(BoardRow.shown).where(BoardRow.job_id == TANDEM)) == {"fitted": "holds"}
    assert caught_up(client) == 1  # and a row that cannot be brought up to date holds nobody up


def test_what_is_set_aside_or_ordered_reaches_the_board(client: TestClient) -> None:
    caught_up(client)
    with client.app.state.sessions() as session:
        session.execute(text("insert into supply (job_id, part_id, taken, ordered, arrived, promised, number, who, changed_at) "
                             "values (7, 'b-load-203', 0, 2, 0, '', '', 'Tess', '2026-01-01')"))  # fmt: skip
        session.commit()
    assert caught_up(client) == 1
    assert "waits for" in told_at(client, "/")


@pytest.mark.parametrize(
    "document",
    ['{"title": 7}', "{}", '{"rider": {"mass_kg": 1e12}}', '{"wings": 2}', '{"rides": "none"}', "[]", "null"],
)
def test_a_job_that_cannot_be_read_stands_alone(client: TestClient, document: str) -> None:
    with client.app.state.sessions() as session:
        session.execute(text("update job set document = :d, version = version + 1 where id = 3"), {"d": document})
        session.commit()
    caught_up(client)
    page = client.get("/")
    assert page.status_code == 200 and "Tandem for the long pass" in page.text
    if document != "{}":
        assert "This job cannot be read" in page.text
    assert client.get("/", params={"sort": "worst"}).status_code == 200
    assert client.get("/parts").status_code == 200 and client.get("/due").status_code == 200


def test_states_filters_sorting_and_pages(client: TestClient) -> None:
    assert 8 not in listed(client) and listed(client, shown="handed_over") == [8]
    client.post("/board/7/state", data={"value": "archived"})
    assert 7 not in listed(client) and listed(client, shown="archived") == [7]
    client.post("/board/6/promised_on", data={"value": "2031-01-02"})
    client.post("/board/5/promised_on", data={"value": "2030-01-02"})
    by_day = listed(client, sort="promised")
    assert by_day.index(5) < by_day.index(6) < by_day.index(1)  # without a day stands last
    field(client, 4, "stay.mechanic", "Rolf")
    assert set(listed(client, mechanic="Rolf")) >= {4} and 5 not in listed(client, mechanic="Rolf")
    assert listed(client, sort="name") == sorted(
        listed(client), key=lambda n: client.get(f"/jobs/{n}/export").json()["job"]["title"].lower()
    )
    bad = client.post("/board/6/promised_on", data={"value": "tomorrow"})
    assert bad.status_code == 422 and "a day, as 2026-11-29" in told(bad)
    assert client.post("/board/6/state", data={"value": "flown"}).status_code == 422
    assert client.post("/board/99/state", data={"value": "ready"}).status_code == 404
    for odd in ("-1", "x", "9" * 40):
        assert client.get("/", params={"page": odd, "sort": odd, "shown": odd}).status_code == 200


def test_more_than_a_page_is_paged(client: TestClient) -> None:
    with client.app.state.sessions() as session:
        for k in range(board.PAGE):
            jobs.create_job(session, Job(title=f"Filler {k:03}"), jobs.Author("Tess", "p"))
    first, second = listed(client), listed(client, page="1")
    assert len(first) == board.PAGE and len(second) == 7 and not set(first) & set(second)
    assert f"{board.PAGE + 7} jobs, page 1 of 2" in told_at(client, "/")


@pytest.mark.parametrize(
    ("typed", "found"),
    [
        ("tand", 7),
        ("fennimore", 7),
        ("LH-0014", 4),
        ("lh 0014", 4),
        ("oakeshott", 3),
        ("0555 0142", 3),
        ("lever long quarter", 7),
        ("ТАНДЕМ", None),
        ('"; drop table job', None),
        ("*", None),
        ("' OR 1=1 --", None),
    ],
)
def test_search_finds_jobs_by_their_bikes_people_and_words(client: TestClient, typed: str, found: int | None) -> None:
    numbers = listed(client, search=typed)
    assert (found in numbers) if found else numbers in ([], listed(client))


def test_search_finds_bikes_people_and_parts_beside_the_jobs(client: TestClient) -> None:
    page = told_at(client, "/", search="ulvorn line 160")
    assert "Parts" in page and "Ulvorn Line 160" in page
    page = client.get("/", params={"search": "hesper"}).text
    assert "People" in page and "/people/" in page
    assert "Hire bike no. 12" in told_at(client, "/", search="hire 12")


def test_the_thread_beside_the_pages_does_it_by_itself(client: TestClient) -> None:
    path = client.app.state.settings.database
    settings = Settings(database=path, allowed_hosts=["testserver"], background=True)
    with TestClient(create_app(settings)) as running:
        running.cookies.set("clavis_who", "Tess")
        for _ in range(300):
            if "the fluid boils" in running.get("/").text:
                break
            time.sleep(0.1)
        assert "the fluid boils" in running.get("/").text
    copies = list((path.parent / "backups").glob("clavis-*.db"))
    assert len(copies) == 1  # and a copy of the day was made
    engine = database.open_engine(copies[0])
    with database.sessions(engine)() as session:
        assert len(jobs.all_jobs(session)) == 8
    engine.dispose()


def test_only_what_is_archived_is_erased(client: TestClient) -> None:
    assert client.post("/jobs/1/erase", data={"page": "p"}).status_code == 409
    client.post("/board/1/state", data={"value": "archived"})
    assert client.post("/jobs/1/erase", data={"page": "p"}).status_code == 200
    assert client.get("/jobs/1/intake").status_code == 404 and 1 not in listed(client, shown="archived")
    assert listed(client, search="folding") == []


def test_a_job_turns_out_to_be_about_a_known_bike(client: TestClient) -> None:
    number = int(client.post("/jobs", data={"title": "Hire again"}).headers["location"].split("/")[2])
    form = {"page": "p", "room": "keep"}
    several = client.post(f"/jobs/{number}/keep/bike", data=form | {"words": "hire"})
    assert several.status_code == 409 and "Type a frame number" in told(several)
    assert client.post(f"/jobs/{number}/keep/bike", data=form | {"words": "zeppelin"}).status_code == 409
    assert client.post(f"/jobs/{number}/keep/bike", data=form | {"words": "LH-0012"}).status_code == 200
    assert "Hire bike no. 12" in told_at(client, f"/jobs/{number}/keep")
    assert json.loads(client.get(f"/jobs/{number}/export").content)["job"]["title"] == "Hire again"
