"""The one door for bikes: acts of many at once, history, lists; the search takes whatever is typed."""

import threading
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlalchemy.orm import Session

from clavis.core.job.document import Job
from clavis.core.keeping.bike import KeptBike, LogEntry
from clavis.core.records import next_id
from clavis.store import bikes, database, due_list, jobs, people, search
from clavis.store.jobs import NotThereError, RefusedError

TESS = jobs.Author("Tess", "p")


def writes(what: str) -> bikes.Act:
    def act(bike: KeptBike) -> KeptBike:
        row = LogEntry(id=next_id("entry-", (e.id for e in bike.entries)), day="2026-11-29", what=what)
        return bike.model_copy(update={"entries": (*bike.entries, row)})

    return act


def test_acts_of_many_at_the_same_bike_are_all_kept(tmp_path: Path) -> None:
    engine = database.open_engine(tmp_path / "a.db")
    with database.sessions(engine)() as session:
        number = bikes.create_bike(session, KeptBike(name="Roadster"), "Tess")
    refused: list[str] = []

    def busy(who: int) -> None:
        with database.sessions(engine)() as session:
            for k in range(10):
                try:
                    bikes.change(session, number, writes(f"{who}-{k}"), f"Hand {who}", "entry")
                except RefusedError as error:
                    refused.append(str(error))

    hands = [threading.Thread(target=busy, args=(who,)) for who in range(4)]
    for hand in hands:
        hand.start()
    for hand in hands:
        hand.join()
    with database.sessions(engine)() as session:
        kept = bikes.open_bike(session, number)
        assert len(kept.bike.entries) == 40 - len(refused)
        assert len({entry.id for entry in kept.bike.entries}) == len(kept.bike.entries)
        assert kept.version == 1 + len(kept.bike.entries) and len(bikes.history(session, number)) == kept.version
    assert not refused  # each was carried out on what the others left
    engine.dispose()


def test_an_act_that_cannot_be_is_refused_and_nothing_is_kept(session: Session) -> None:
    number = bikes.create_bike(session, KeptBike(name="Roadster"), "Tess")
    with pytest.raises(RefusedError):
        bikes.change(session, number, lambda b: b.model_copy(update={"weekly_km": -4.0}), "Tess", "week")
    session.rollback()
    assert bikes.open_bike(session, number).version == 1
    same = bikes.change(session, number, lambda b: b, "Tess", "nothing")
    assert same.version == 1 and len(bikes.history(session, number)) == 1
    with pytest.raises(NotThereError):
        bikes.change(session, 99, writes("x"), "Tess", "x")


def test_undo_walks_back_act_by_act_and_is_itself_an_act(session: Session) -> None:
    number = bikes.create_bike(session, KeptBike(name="Roadster"), "Tess")
    bikes.change(session, number, writes("one"), "Tess", "entry: one")
    bikes.change_field(session, number, 2, "Tess", "fleet", "Post", "Fleet")
    bikes.archive(session, number, "Tess", archived=True)  # which an undo steps over
    bikes.undo(session, number, "Tess")
    opened = bikes.open_bike(session, number)
    assert opened.bike.fleet == "" and len(opened.bike.entries) == 1
    assert bikes.history(session, number)[0].words == "undone: Fleet: Post"
    bikes.undo(session, number, "Tess")
    assert bikes.open_bike(session, number).bike.entries == ()
    with pytest.raises(RefusedError, match="nothing to undo"):
        bikes.undo(session, number, "Tess")


def test_every_job_is_about_a_bike_that_bears_its_name(session: Session) -> None:
    number = jobs.create_job(session, Job(title="Green tourer"), TESS)
    bike_id = jobs.open_job(session, number).bike_id
    assert bike_id is not None and bikes.open_bike(session, bike_id).bike.name == "Green tourer"
    second = jobs.create_job(session, Job(title="Green tourer, again"), TESS, bike_id=bike_id)
    assert [job.id for job in bikes.jobs_of(session, bike_id)] == [second, number]
    with pytest.raises(RefusedError, match="jobs about this bike"):
        bikes.erase(session, bike_id)


def test_a_fleet_at_a_glance_has_every_bike_of_it_once(demo_session: Session) -> None:
    fleet = due_list.fleet_at_a_glance(demo_session, "Lift hire")
    assert len(fleet) == 6 == dict(due_list.fleets(demo_session))["Lift hire"]
    ranks = [list(due_list.Urgency).index(bike.gravest) if bike.gravest else 9 for bike in fleet]
    assert ranks == sorted(ranks)
    assert due_list.fleet_at_a_glance(demo_session, "none such") == []
    in_all = sum(due_list.counts(demo_session).values())
    assert in_all == due_list.items(demo_session)[1] > sum(due_list.counts(demo_session, "Lift hire").values())


def test_what_is_to_be_ordered_counts_what_is_due_in_time(demo_session: Session) -> None:
    everything = dict(due_list.to_order(demo_session))
    soon = dict(due_list.to_order(demo_session, until=bikes.today().isoformat()))
    assert set(soon) <= set(everything) and sum(soon.values()) <= sum(everything.values())
    assert soon["p-p2-resin"] == 2  # both pads of the one that is down to the plate


@settings(max_examples=60, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.text(max_size=40))
def test_whatever_is_typed_the_search_answers(demo_session: Session, typed: str) -> None:
    found = search.found(demo_session, typed, 5, "bike")
    assert len(found) <= 5
    assert bool(search.asked_for(typed)) or found == []


@pytest.mark.parametrize("letters", [2, 4, 6])
def test_everything_is_found_by_the_beginning_of_its_first_word(demo_session: Session, letters: int) -> None:
    for number, name in bikes.names(demo_session):
        hits = search.found(demo_session, name[:letters], 200, "bike")
        assert ("bike", str(number)) in {(hit.kind, hit.ref) for hit in hits}, name


def test_accents_and_case_do_not_matter(session: Session) -> None:
    number = bikes.create_bike(session, KeptBike(name="Élan Größe"), "Tess")
    people.of_bike(session, number, people.read("Zoë Ångström", "", "zoe@lane.example"), "Tess")
    for typed in ("elan", "ÉLAN", "größe angst", "zoe", "zoe@lane"):
        kinds = ("bike", "person")
        assert any(search.found(session, typed.split()[0], 5, kind) for kind in kinds), typed
