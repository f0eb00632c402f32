"""Instruments of the road: their lines, ports that fail as such do, and stand-ins on ports of their own."""

import socket
import threading
from collections.abc import Iterator, Mapping

import pytest

from clavis.core.job.document import Job
from clavis.core.job.trials import Question, Trial, TrialKind, TrialSide
from clavis.core.parts.mounts import End
from clavis.core.physics.road import Track
from clavis.core.proving.prediction import predict, side_on_ride
from clavis.instruments.line_ports import InstrumentPorts
from clavis.instruments.line_protocol import InstrumentError, NotHeldError, RoadInstrument, parse_line
from clavis.instruments.line_server import RoadServer
from clavis.instruments.road_truth import CoolingBike, RoadTruth
from clavis.instruments.stand_in_road import StandIn, World
from tests.bikes import CATALOGUE
from tests.core.proving.test_calibration import JOB

A = TrialSide(name="a")
B = TrialSide(name="b", source="picked", front=JOB.proposal.front, rear=JOB.proposal.rear)
TRIAL = Trial(id="stop", name="s", question=Question.STOPS_SHORTER, kind=TrialKind.STOP, a=A, b=B, matters=0.3)
BIKE = JOB.model_copy(update={"trials": (TRIAL,)})


def bike(number: int) -> tuple[Job, Mapping[str, Track]]:
    if number != 7:
        raise NotHeldError("there is no such bike")
    return BIKE, {}


STAND_IN = StandIn(World(bike, CATALOGUE))


def serve(kind: RoadInstrument) -> tuple[RoadServer, str]:
    server = RoadServer(kind, "127.0.0.1", 0, lambda: STAND_IN)
    threading.Thread(target=server.serve_forever, kwargs={"poll_interval": 0.02}, daemon=True).start()
    return server, f"socket://127.0.0.1:{server.server_address[1]}"


@pytest.fixture(scope="module")
def ports() -> Iterator[InstrumentPorts]:
    servers = {kind: serve(kind) for kind in RoadInstrument}
    opened = InstrumentPorts({kind.value: url for kind, (_, url) in servers.items()})
    yield opened
    opened.close()
    for server, _ in servers.values():
        server.shutdown()
        server.server_close()


RUN = {"job": "7", "trial": "stop", "place": "0"}


def test_a_tape_reads_one_stop_with_its_speed_and_always_the_same(ports: InstrumentPorts) -> None:
    first, again = (ports.read(RoadInstrument.TAPE, {**RUN, "side": "A"}) for _ in range(2))
    assert first == again
    assert first.also["speed"] == pytest.approx(25, abs=2.5)
    other = ports.read(RoadInstrument.TAPE, {**RUN, "side": "B"})
    assert other.value != first.value


def test_stops_scatter_about_the_true_bike(ports: InstrumentPorts) -> None:
    true = predict(RoadTruth.of(BIKE.seed).job(BIKE), TRIAL, CATALOGUE, {}).of_question
    values = []
    for place in range(30):
        found = ports.read(RoadInstrument.TAPE, {**RUN, "side": "A", "place": str(place)})
        values.append(found.value * (25 / found.also["speed"]) ** 2)
    assert sum(values) / 30 == pytest.approx(true.a, abs=3 * true.spread / 30**0.5 + 0.05)


def test_a_thermometer_falls_with_the_time_since_the_stop(ports: InstrumentPorts) -> None:
    hot, cooler = (
        ports.read(RoadInstrument.THERMOMETER, {"job": "7", "end": "front", "after": after}).value
        for after in ("10", "240")
    )
    truth = side_on_ride(RoadTruth.of(BIKE.seed).job(BIKE), None, A, CATALOGUE, {})
    true = CoolingBike.after(truth, BIKE.conditions.ambient_c).rotor_c(End.FRONT, 11.5)
    assert hot == pytest.approx(true, rel=0.12)
    assert cooler < hot - 50


def test_a_logger_sends_its_whole_table(ports: InstrumentPorts) -> None:
    table = ports.download(RoadInstrument.LOGGER, {"job": "7"})
    assert table.startswith(b"time (s),speed (km/h)")
    assert table.count(b"\n") > 100


@pytest.mark.parametrize(
    ("kind", "about", "says"),
    [
        (RoadInstrument.TAPE, {"job": "9", "trial": "stop", "side": "A"}, "there is no such bike"),
        (RoadInstrument.TAPE, {"job": "7"}, "no run is said"),
        (RoadInstrument.STOPWATCH, {**RUN, "side": "A"}, "not measured with it"),
        (RoadInstrument.THERMOMETER, {}, "no bike is said"),
    ],
)
def test_what_an_instrument_cannot_read_it_says(
    ports: InstrumentPorts, kind: RoadInstrument, about: dict[str, str], says: str
) -> None:
    with pytest.raises(InstrumentError, match=says):
        ports.read(kind, about)


def test_an_instrument_that_is_not_there_or_silent_or_talks_nonsense() -> None:
    with pytest.raises(InstrumentError, match="no tape is connected"):
        InstrumentPorts({}).read(RoadInstrument.TAPE, {})
    with socket.socket() as closed:
        closed.bind(("127.0.0.1", 0))
        gone = f"socket://127.0.0.1:{closed.getsockname()[1]}"
    with pytest.raises(InstrumentError, match="answers where it should be"):
        InstrumentPorts({"tape": gone}).read(RoadInstrument.TAPE, {})
    with pytest.raises(InstrumentError, match="answers where it should be"):
        InstrumentPorts({"tape": "nonsense://x"}).read(RoadInstrument.TAPE, {})
    for text in ("tape far m", "tape 5 kg", "stopwatch 5 s", "", "tape"):
        with pytest.raises(InstrumentError):
            parse_line(text, RoadInstrument.TAPE)
    assert parse_line("thermometer 248 F; set=0.95", RoadInstrument.THERMOMETER).value == pytest.approx(120)


def test_a_silent_line_is_said_to_be_silent(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("clavis.instruments.line_ports.FIRST_S", 0.1)
    with socket.create_server(("127.0.0.1", 0)) as mute:
        ports = InstrumentPorts({"tape": f"socket://127.0.0.1:{mute.getsockname()[1]}"})
        with pytest.raises(InstrumentError, match="silent: is it on"):
            ports.read(RoadInstrument.TAPE, {})
        ports.close()


def test_an_instrument_that_came_back_is_read_again() -> None:
    server, url = serve(RoadInstrument.TAPE)
    ports = InstrumentPorts({"tape": url})
    assert ports.read(RoadInstrument.TAPE, {**RUN, "side": "A"}).value > 0
    for line in list(ports._lines.values()):
        line.port.close()  # as when its cable is pulled
    with pytest.raises(InstrumentError):
        ports.read(RoadInstrument.TAPE, {**RUN, "side": "A"})
    assert ports.read(RoadInstrument.TAPE, {**RUN, "side": "A"}).value > 0
    ports.close()
    server.shutdown()
    server.server_close()


class SlowLogger:
    """A port that brings a few bytes at a time, as a serial line does; and stops where its table ends."""

    def __init__(self, table: bytes, breaks_at: int | None = None) -> None:
        self.left = f"bytes {len(table)}\n".encode() + table[:breaks_at]
        self.timeout, self.closed = 0.0, False

    def reset_input_buffer(self) -> None:
        pass

    def write(self, _line: bytes) -> None:
        pass

    def read_until(self, size: int) -> bytes:
        head, _, self.left = self.left.partition(b"\n")
        return (head + b"\n")[:size]

    def read(self, length: int) -> bytes:
        at_most = min(length, int(960 * self.timeout))
        found, self.left = self.left[:at_most], self.left[at_most:]
        return found

    def close(self) -> None:
        self.closed = True


def test_a_long_table_comes_over_a_slow_line_and_a_broken_one_closes_it(monkeypatch: pytest.MonkeyPatch) -> None:
    table = b"time (s),speed (km/h)\n" + b"1.0,20.0\n" * 3000
    ports = InstrumentPorts({"logger": "socket://nowhere"})
    port = SlowLogger(table)
    monkeypatch.setattr("serial.serial_for_url", lambda *_a, **_k: port)
    assert ports.download(RoadInstrument.LOGGER, {}) == table
    assert not port.closed
    ports.close()
    port = SlowLogger(table, breaks_at=5000)
    with pytest.raises(InstrumentError, match="stopped in the middle"):
        ports.download(RoadInstrument.LOGGER, {})
    assert port.closed


def test_a_line_in_use_is_not_taken_for_idle(ports: InstrumentPorts, monkeypatch: pytest.MonkeyPatch) -> None:
    ports.read(RoadInstrument.TAPE, {**RUN, "side": "A"})
    busy = ports._lines[RoadInstrument.TAPE]
    monkeypatch.setattr("clavis.instruments.line_ports.IDLE_S", -1.0)
    with busy.lock:
        ports._line(RoadInstrument.STOPWATCH)
        assert ports._lines[RoadInstrument.TAPE] is busy
    ports._line(RoadInstrument.STOPWATCH)
    assert RoadInstrument.TAPE not in ports._lines


def test_a_thermometer_at_a_trial_reads_what_its_run_heated(ports: InstrumentPorts) -> None:
    """A drag at walking pace and one at speed heat the same rotor differently: it is not the job's ride that counts."""
    read = []
    for speed_kmh in (8.0, 25.0):
        drag = TRIAL.model_copy(
            update={"question": Question.RUNS_COOLER, "kind": TrialKind.DRAG_DESCENT, "speed_kmh": speed_kmh}
        )
        job = BIKE.model_copy(update={"trials": (drag,)})
        stand_in = StandIn(World(lambda _number, job=job: (job, {}), CATALOGUE))
        line = stand_in.line(RoadInstrument.THERMOMETER, {**RUN, "side": "A", "end": "front", "after": "20"})
        read.append(parse_line(line, RoadInstrument.THERMOMETER).value)
    assert abs(read[0] - read[1]) > 15
