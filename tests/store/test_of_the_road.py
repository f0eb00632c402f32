"""What was learnt on the road and is kept beside jobs: calibrations for like bikes, logged rides under their checksum."""

import pytest
from sqlalchemy.orm import Session

from clavis.core.job.trials import Calibrated, Learnt, SetupFrom, TrialSide
from clavis.core.parts.models import AnyPart
from clavis.core.physics.bike import BikeKind
from clavis.formats.ride_logs import checksum
from clavis.store import calibrations, history, jobs, ride_logs
from clavis.store.tables import RideLogRow
from tests.bikes import CATALOGUE, own_job
from tests.core.proving.test_ride_log import by_hand

AUTHOR = jobs.Author("Tess", "p")
LEARNT = Calibrated(
    who="Tess", at="2026-01-02T10:00", convection_ratio=Learnt(value=1.1, sigma=0.05), rotor_to_carrier_ratio=Learnt(value=1, sigma=0.1),
    airflow_ratio=Learnt(value=1, sigma=0.1), front_share=Learnt(value=0.5, sigma=0.02), readings=10, missed_before_k=20,
    missed_after_k=4,
)  # fmt: skip
FITTED = TrialSide(name="as fitted")
JOB = own_job()


def kept(session: Session, **more: object) -> int:
    part: AnyPart
    for part in CATALOGUE.every():
        jobs.keep_part(session, part)
    return jobs.create_job(session, JOB.model_copy(update=more), AUTHOR)


def test_a_like_bike_is_offered_what_another_learnt(session: Session) -> None:
    first = kept(session, calibration=LEARNT)
    calibrations.offer(session, first, jobs.open_job(session, first).job, FITTED)
    second = jobs.create_job(session, JOB, AUTHOR)
    (offered,) = calibrations.offered(session, second, JOB)
    assert (offered.job_id, offered.calibrated) == (first, LEARNT)
    assert calibrations.offered(session, first, JOB) == ()  # not to itself


@pytest.mark.parametrize(
    "more",
    [
        {"bike": JOB.bike.model_copy(update={"kind": BikeKind.CARGO})},
        {"bike": JOB.bike.model_copy(update={"assisted": True})},
        {"front": JOB.front.model_copy(update={"pad_id": "u-k2-resin"}), "proposal": JOB.proposal.model_copy(update={"front": JOB.rear and JOB.proposal.rear})},
        {"rear": JOB.rear.model_copy(update={"rotor_id": "q-disc-203"})},
    ],
)  # fmt: skip
def test_an_unlike_bike_is_not(session: Session, more: dict[str, object]) -> None:
    first = kept(session, calibration=LEARNT)
    calibrations.offer(session, first, jobs.open_job(session, first).job, FITTED)
    assert calibrations.offered(session, first + 1, JOB.model_copy(update=more)) == ()


def test_a_bike_that_is_proposed_like_it_is_offered_it_too(session: Session) -> None:
    first = kept(session, calibration=LEARNT)
    ridden = TrialSide(name="p", source=SetupFrom.PICKED, front=JOB.proposal.front, rear=JOB.proposal.rear)
    calibrations.offer(session, first, jobs.open_job(session, first).job, ridden)
    assert len(calibrations.offered(session, first + 1, JOB)) == 1
    bare = JOB.model_copy(update={"proposal": type(JOB.proposal)()})
    assert calibrations.offered(session, first + 1, bare) == ()


def test_what_is_undone_or_withdrawn_is_offered_no_more(session: Session) -> None:
    first = kept(session, calibration=LEARNT)
    opened = jobs.open_job(session, first)
    calibrations.offer(session, first, opened.job, FITTED)
    jobs.change(session, first, opened.version, AUTHOR, "calibration", None)
    assert calibrations.offered(session, first + 1, JOB) == ()
    history.undo(session, first, AUTHOR)
    assert calibrations.offered(session, first + 1, JOB) == ()  # what somebody accepted is accepted anew
    now = jobs.version_of(session, first) or 0
    jobs.change(session, first, now, AUTHOR, "calibration", LEARNT.model_dump(mode="json"))
    assert len(calibrations.offered(session, first + 1, JOB)) == 1
    calibrations.withdraw(session, first)
    calibrations.withdraw(session, first)
    assert calibrations.offered(session, first + 1, JOB) == ()


def test_a_job_that_accepted_none_offers_none(session: Session) -> None:
    first = kept(session)
    calibrations.offer(session, first, JOB, FITTED)
    assert calibrations.offered(session, first + 1, JOB) == ()


def test_a_calibration_voids_a_sign_off_and_runs_do_not(session: Session) -> None:
    """A sign-off rests on the model as it was."""
    from clavis.core.job.document import SignOff

    first = kept(session, signed_off=SignOff(who="Tess", at="2026-01-02T10:00"))
    opened = jobs.open_job(session, first)
    heat_set = {"id": "s", "name": "s", "who": "Tess", "at": "2026-01-02T10:00"}
    after = jobs.change(session, first, opened.version, AUTHOR, "heat_sets.s", heat_set)
    assert after.job.signed_off is not None
    after = jobs.change(session, first, after.version, AUTHOR, "calibration", LEARNT.model_dump(mode="json"))
    assert after.job.signed_off is None
    assert after.job.signed_before[-1].path == "calibration"


def test_a_logged_ride_kept_twice_is_kept_once(session: Session) -> None:
    data = by_hand()
    name = ride_logs.keep(session, data)
    assert ride_logs.keep(session, data) == name == checksum(data)
    assert session.query(RideLogRow).count() == 1
    assert ride_logs.read(session, name).time_s.tolist() == data.time_s.tolist()
    with pytest.raises(jobs.NotThereError, match="did not come with its job"):
        ride_logs.read(session, "0" * 64)
