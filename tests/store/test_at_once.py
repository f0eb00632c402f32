"""Two hands at the same instant, everywhere something is written that rests on what was read: both are kept, or one is
told; none is lost, and none ends in a fault."""

import threading
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest
from sqlalchemy import Engine, text
from sqlalchemy.orm import Session

from clavis.core.job.document import Job
from clavis.core.workshop.supply import Need, Supplied, SupplyLine
from clavis.store import catalogue, database, jobs, shelf, workshop
from clavis.store.database import writing
from tests.bikes import fork

PAIRS = 40


@pytest.fixture
def engine(tmp_path: Path) -> Iterator[Engine]:
    opened = database.open_engine(tmp_path / "a.db")
    yield opened
    opened.dispose()


def at_once(engine: Engine, *acts: Callable[[Session], object]) -> list[object]:
    """What each act gave, all begun at the same instant; an error is what it gave as well."""
    begin, given = threading.Barrier(len(acts)), [None] * len(acts)  # type: list[object]

    def do(place: int) -> None:
        with database.sessions(engine)() as session:
            session.execute(text("select 1"))  # each has its connection, as a request that has read has
            begin.wait()
            try:
                given[place] = acts[place](session)
            except Exception as error:
                given[place] = error

    hands = [threading.Thread(target=do, args=(k,)) for k in range(len(acts))]
    for hand in hands:
        hand.start()
    for hand in hands:
        hand.join()
    return given


def author(name: str) -> jobs.Author:
    return jobs.Author(name, name)


def test_one_field_by_two_hands_is_the_firsts_and_the_second_is_told(engine: Engine) -> None:
    with database.sessions(engine)() as session:
        number = jobs.create_job(session, Job(title="A bike"), author("Maud"))
    for k in range(PAIRS):
        with database.sessions(engine)() as session:
            base = jobs.version_of(session, number) or 0

        def to(value: float, who: str, base: int = base) -> Callable[[Session], object]:
            return lambda s: jobs.change(s, number, base, author(who), "rider.mass_kg", value)

        given = at_once(engine, to(60.0 + k, "Maud"), to(61.5 + k, "Tess"))
        kept = [g for g in given if isinstance(g, jobs.Opened)]
        refused = [g for g in given if isinstance(g, jobs.ConflictError)]
        assert (len(kept), len(refused)) == (1, 1), given
        with database.sessions(engine)() as session:
            now = jobs.open_job(session, number)
            assert now.job.rider.mass_kg == kept[0].job.rider.mass_kg and now.version == base + 1


def test_two_fields_of_one_page_are_both_kept(engine: Engine) -> None:
    with database.sessions(engine)() as session:
        number = jobs.create_job(session, Job(title="A bike"), author("Maud"))
    for k in range(PAIRS):
        with database.sessions(engine)() as session:
            base = jobs.version_of(session, number) or 0

        def to(path: str, value: float, base: int = base) -> Callable[[Session], object]:
            return lambda s: jobs.change(s, number, base, author("Maud"), path, value)

        given = at_once(engine, to("rider.mass_kg", 60.0 + k), to("bike.mass_kg", 10.0 + k / 10))
        assert all(isinstance(g, jobs.Opened) for g in given), given
        with database.sessions(engine)() as session:
            job = jobs.open_job(session, number).job
            assert (job.rider.mass_kg, job.bike.mass_kg) == (60.0 + k, 10.0 + k / 10)


def test_a_line_of_the_catalogue_changed_by_two_is_the_firsts(engine: Engine) -> None:
    with database.sessions(engine)() as session, writing(session):
        catalogue.keep(session, fork(), "Maud", base=0)
    for k in range(PAIRS):
        with database.sessions(engine)() as session:
            part, base = catalogue.find(session, fork().id)

        def priced(price: float, who: str, base: int = base) -> Callable[[Session], object]:
            def act(session: Session) -> object:
                with writing(session):
                    return catalogue.keep(session, fork().model_copy(update={"price": price}), who, base)

            return act

        given = at_once(engine, priced(100.0 + k, "Maud"), priced(200.0 + k, "Tess"))
        assert sorted(map(str, given)) == sorted(["True", next(str(g) for g in given if g is not True)]), given
        assert sum(isinstance(g, jobs.ConflictError) for g in given) == 1
        with database.sessions(engine)() as session:
            assert catalogue.find(session, part.id)[1] == base + 1
            assert len(catalogue.history(session, part.id)) == k + 2


def test_a_line_from_the_future_hides_no_later_change(engine: Engine) -> None:
    """A clock that was wrong once: the count still moves with every change."""
    with database.sessions(engine)() as session, writing(session):
        catalogue.keep(session, fork(), "Maud")
    with database.sessions(engine)() as session:
        session.execute(text("update part set changed_at = '2099-01-01 00:00:00.000000'"))
        session.commit()
        before = jobs.catalogue_stamp(session)
        with writing(session):
            catalogue.keep(session, fork().model_copy(update={"price": 1.0}), "Tess")
        assert jobs.catalogue_stamp(session) > before


def test_pieces_are_set_aside_once(engine: Engine) -> None:
    """Two press at once: the job gets what it needs, and no more leaves the shelf."""
    with database.sessions(engine)() as session:
        with writing(session):
            catalogue.keep(session, fork(), "Maud")
        shelf.count(session, fork().id, 5, "Maud")
        number = jobs.create_job(session, Job(title="A bike"), author("Maud"))
    line = SupplyLine(Need(fork().id, "fork", 2, None), Supplied(), 5)
    given = at_once(engine, *[lambda s: shelf.set_aside(s, number, [line], "Maud")] * 4)
    with database.sessions(engine)() as session:
        assert sum(g for g in given if isinstance(g, int)) == 2, given
        assert shelf.stock(session)[fork().id] == 3 and shelf.supplied(session, number)[fork().id].taken == 2


def test_settings_of_the_workshop_by_two_are_both_kept(engine: Engine) -> None:
    given = at_once(
        engine,
        lambda s: workshop.set_terms(s, {"name": "At the lock"}, "Maud"),
        lambda s: workshop.set_terms(s, {"hourly_price": 60.0}, "Tess"),
    )
    assert not [g for g in given if isinstance(g, Exception)], given
    with database.sessions(engine)() as session:
        assert (workshop.terms(session).name, workshop.terms(session).hourly_price) == ("At the lock", 60.0)


def test_who_waits_too_long_for_another_write_is_told_so(engine: Engine, monkeypatch: pytest.MonkeyPatch) -> None:
    with database.sessions(engine)() as first, database.sessions(engine)() as second:
        number = jobs.create_job(first, Job(title="A bike"), author("Maud"))
        second.execute(text("pragma busy_timeout = 50"))
        database.alone(first)
        with pytest.raises(Exception) as caught:
            jobs.change(second, number, 1, author("Tess"), "rider.mass_kg", 70.0)
        trouble = database.trouble_of(caught.value)
        assert trouble is not None and trouble.passing and "busy" in str(trouble)
        first.rollback()
        second.rollback()
        assert jobs.change(second, number, 1, author("Tess"), "rider.mass_kg", 70.0).version == 2
