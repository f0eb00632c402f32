"""A logged ride: events by hand, shares, power against the work done, and sensors that were exchanged."""

from dataclasses import replace

import numpy as np
import pytest

from clavis.core.errors import ProfileError
from clavis.core.evaluation.evaluate import evaluate
from clavis.core.job.trials import TrialSide
from clavis.core.parts.mounts import End
from clavis.core.proving.prediction import side_on_ride
from clavis.core.proving.ride_log import BrakingKind, LogData, events_of, log_study
from clavis.formats.ride_logs import LogChoice, LogColumn, checksum, look_at_log, pack, read_log, unpack
from clavis.instruments.stand_in_road import logged
from tests.bikes import CATALOGUE, own_job
from tests.core.proving.test_calibration import JOB


def by_hand() -> LogData:
    """Ten a second: on both for 2 s from 10 to 4 m/s; a touch of 0.2 s; 12 s of dragging at 6 m/s behind; a stop."""
    clock = np.arange(0, 40, 0.1)
    speed = np.full(len(clock), 10.0)
    front, rear = np.zeros(len(clock)), np.zeros(len(clock))

    def at(a: float, b: float) -> slice:
        return slice(round(a * 10), round(b * 10))

    front[at(2, 4)] = rear[at(2, 4)] = 1
    speed[at(2, 4)] = np.linspace(10, 4, 20)
    speed[at(4, 30)] = 6.0
    rear[at(6, 6.2)] = 1
    rear[at(10, 22)] = 1
    rear[at(15, 15.3)] = 0  # let go for a moment: one drag
    front[at(30, 34)] = 1
    speed[at(30, 34)] = np.linspace(6, 0, 40)
    speed[at(34, 40)] = 0.0
    return LogData(clock, speed, {End.FRONT: front, End.REAR: rear}, by_pressure=False)


def test_events_by_hand() -> None:
    snub, drag, stop = events_of(by_hand(), None)
    assert [e.kind for e in (snub, drag, stop)] == [BrakingKind.SNUB, BrakingKind.DRAG, BrakingKind.STOP]
    assert (snub.start_s, snub.length_s) == pytest.approx((2.0, 2.0))
    assert snub.from_kmh == pytest.approx(36.0)
    assert drag.length_s == pytest.approx(12.0)
    assert drag.on_s == pytest.approx({End.FRONT: 0.0, End.REAR: 11.7})
    assert stop.to_ms < 1
    assert stop.energy_kj is None


def test_shares_of_time_where_there_is_no_pressure() -> None:
    fitted = evaluate(JOB, CATALOGUE, {})
    study = log_study(by_hand(), fitted.situation, fitted.fitted.wheels)
    assert not study.share_by_energy
    front, rear = 2.0 + 3.3, 2.0 + 0.2 + 11.7  # above walking pace; the short touch counts as time
    assert study.front_share == pytest.approx(front / (front + rear), abs=0.02)
    assert study.longest_drag_s == pytest.approx(12.0)
    assert study.mean_w is None
    assert str(study.kinds).replace("\u00a0", " ") == "1 drag, 1 snub, 1 stop"


SIDE = side_on_ride(JOB, None, TrialSide(name="as it is"), CATALOGUE, {})


def table(**more: bool) -> bytes:
    return logged(SIDE.setup, 5, **more)


def read(data: bytes) -> LogData:
    return read_log(data, look_at_log(data).guess)


def test_a_logger_tells_the_ride_that_was_ridden() -> None:
    """Share, energy and temperatures come back as the bike had them, from a table with noise."""
    study = log_study(read(table()), SIDE.situation, SIDE.setup.wheels)
    assert study.share_by_energy
    assert study.front_share == pytest.approx(SIDE.situation.sharing.front_share, abs=0.04)
    assert study.heat_share == pytest.approx(study.front_share, abs=0.15)
    assert not study.asked
    braked = sum(e.energy_kj for e in study.events)
    assert braked == pytest.approx(SIDE.setup.load.braked_kj, rel=0.06)
    for end in End:
        assert study.peak_c[end] == pytest.approx(SIDE.setup.wheels[end].heat.course_c[:, 1].max(), abs=6)


def test_exchanged_sensors_are_asked_about_and_not_mended() -> None:
    """The front of this bike does four fifths of the work; its sensor is on the rear."""
    uneven = side_on_ride(
        own_job(rider=JOB.rider.model_copy(update={"front_share_pct": 80}), rides=JOB.rides, decisive_ride=None), None,
        TrialSide(name="as it is"), CATALOGUE, {},
    )  # fmt: skip
    data = read(logged(uneven.setup, 5)).exchanged()
    study = log_study(data, uneven.situation, uneven.setup.wheels)
    assert "are the temperature sensors swapped?" in str(study.asked)
    assert study.front_share > 0.6 > study.heat_share
    mended = log_study(data.exchanged(), uneven.situation, uneven.setup.wheels)
    assert not mended.asked
    assert data.exchanged().rotor_c[End.FRONT] is data.rotor_c[End.REAR]


def test_kept_and_read_again_it_is_the_same() -> None:
    data = read(table())
    again = unpack(pack(data))
    assert checksum(again) == checksum(data)
    assert again.by_pressure
    assert checksum(replace(data, by_pressure=False)) != checksum(data)
    bare = unpack(pack(by_hand()))
    assert bare.elevation_m is None
    assert bare.rotor_c is None


CSV = b"clock;v (mph);front brake;rear brake\n0:00;10;on;off\n0:01;10,5;on;on\n" + b"".join(
    f"0:{k:02d};9;off;off\n".encode() for k in range(2, 14)
)


def test_a_table_with_other_units_and_words() -> None:
    look = look_at_log(CSV)
    assert look.guess.columns[LogColumn.FRONT] == 2
    columns = {**look.guess.columns, LogColumn.TIME: 0, LogColumn.SPEED: 1}
    units = {**look.guess.units, LogColumn.TIME: "h:m:s or date", LogColumn.SPEED: "mph"}
    data = read_log(CSV, LogChoice(columns, units))
    assert data.speed_ms[:2] == pytest.approx([4.4704, 4.69392])
    assert data.brake[End.REAR].tolist()[:3] == [0, 1, 0]
    assert not data.by_pressure


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (CSV.replace(b"10,5", b"fast"), "line 3, column 2: “fast” is not a number"),
        (CSV.replace(b"0:01;", b"0:00;"), "row 2: the time does not go on"),
        (CSV.replace(b"10,5", b"900"), "is out of range"),
        (CSV.split(b"0:05")[0], "at the least"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused_with_its_line(data: bytes, says: str) -> None:
    look = look_at_log(CSV)
    columns = {**look.guess.columns, LogColumn.TIME: 0, LogColumn.SPEED: 1}
    units = {**look.guess.units, LogColumn.TIME: "h:m:s or date", LogColumn.SPEED: "mph"}
    with pytest.raises(ProfileError, match=says):
        read_log(data, LogChoice(columns, units))


def test_a_column_that_is_needed_and_brakes_told_alike() -> None:
    look = look_at_log(CSV)
    with pytest.raises(ProfileError, match="choose a column for: time, speed"):
        read_log(CSV, look.guess)
    columns = {**look.guess.columns, LogColumn.TIME: 0, LogColumn.SPEED: 1}
    units = {**look.guess.units, LogColumn.REAR: "bar"}
    with pytest.raises(ProfileError, match="told alike"):
        read_log(CSV, LogChoice(columns, units))
