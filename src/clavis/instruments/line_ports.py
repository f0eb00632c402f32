"""Instruments on a line: a serial port, or a socket that stands for one (pyserial tells them apart by the address).

A line is opened when it is first asked, kept open while it is used, and closed when it has not been for a while or has
failed. One at a time asks."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from threading import Lock
from time import monotonic
from typing import Any

from clavis.core.sentences import say
from clavis.instruments.line_protocol import (
    LONGEST_LINE,
    InstrumentError,
    LineReading,
    RoadInstrument,
    about_line,
    parse_line,
)

BAUD = 9600
FIRST_S, LINE_S, TABLE_S = 10.0, 2.0, 30.0
"""so long a line is waited for: the first of an instrument that may still be waking up, every other, and the head of a
table that a logger has yet to put together"""
IDLE_S = 60.0
MOST_BYTES = 64_000_000
"""of a logger's table"""
CHUNK = 512
"""bytes of it that a line brings within ``LINE_S``, so that only one that has stopped runs out of time"""


@dataclass
class _Line:
    port: Any
    asked_at: float
    awake: bool = False
    lock: Lock = field(default_factory=Lock)


class InstrumentPorts:
    """The instruments of a workshop by kind, each with its address: at most one line for each."""

    def __init__(self, addresses: Mapping[str, str]) -> None:
        known = {kind.value for kind in RoadInstrument}
        self.addresses = {RoadInstrument(kind): url for kind, url in addresses.items() if kind in known and url}
        self._lines: dict[RoadInstrument, _Line] = {}
        self._lock = Lock()

    def has(self, kind: RoadInstrument) -> bool:
        return kind in self.addresses

    def read(self, kind: RoadInstrument, about: Mapping[str, str]) -> LineReading:
        """One reading, taken while the instrument is held. Raises InstrumentError where there is none, in words."""
        return parse_line(self._asked(kind, about, "hold").decode("utf-8", "replace"), kind)

    def download(self, kind: RoadInstrument, about: Mapping[str, str]) -> bytes:
        """A logger's whole table: first a line with its length in bytes, then the bytes. Raises InstrumentError."""
        head = self._asked(kind, about, "download", then=self._rest)
        if not head:
            raise InstrumentError(say("the {kind} sent nothing", kind=kind.value))
        return head

    def _rest(self, port: Any, head: bytes) -> bytes:
        word, _, length = head.decode("utf-8", "replace").strip().partition(" ")
        if word != "bytes" or not length.isdecimal() or int(length) > MOST_BYTES:
            raise InstrumentError("the logger sent no table")
        data, port.timeout = bytearray(), LINE_S
        while len(data) < int(length):
            more = port.read(min(CHUNK, int(length) - len(data)))
            if not more:
                raise InstrumentError("the logger stopped in the middle of its table")
            data += more
        return bytes(data)

    def _asked(self, kind: RoadInstrument, about: Mapping[str, str], command: str, then: Any = None) -> bytes:
        import serial

        if kind not in self.addresses:
            raise InstrumentError(say("no {kind} is connected", kind=kind.value))
        line = self._line(kind)
        with line.lock:
            try:
                line.port.reset_input_buffer()
                line.port.write(f"{about_line(about)}\n{command}\n".encode())
                line.port.timeout = TABLE_S if then is not None else LINE_S if line.awake else FIRST_S
                answer = bytes(line.port.read_until(size=LONGEST_LINE))
                line.awake = bool(answer)
                out = then(line.port, answer) if then is not None and answer else answer
                line.port.write(b"release\n")
            except (serial.SerialException, OSError) as error:
                self._closed(kind)
                raise InstrumentError(
                    say("the {kind} does not answer: {why}", kind=kind.value, why=str(error)[:80])
                ) from None
            except InstrumentError:
                self._closed(kind)  # what still comes of a broken table belongs to no later answer
                raise
        if not answer:
            raise InstrumentError(say("the {kind} is silent: is it on?", kind=kind.value))
        if answer.startswith(b"error "):
            words = answer.decode("utf-8", "replace").removeprefix("error ").strip()
            raise InstrumentError(say("the {kind} says: {words}", kind=kind.value, words=words[:120]))
        return bytes(out)

    def _line(self, kind: RoadInstrument) -> _Line:
        import serial

        with self._lock:
            for other, idle in list(self._lines.items()):
                if monotonic() - idle.asked_at > IDLE_S and other is not kind and not idle.lock.locked():
                    self._lines.pop(other).port.close()
            found = self._lines.get(kind)
            if found is None:
                try:
                    port = serial.serial_for_url(
                        self.addresses[kind], baudrate=BAUD, timeout=LINE_S, write_timeout=LINE_S
                    )
                except (serial.SerialException, OSError, ValueError):
                    raise InstrumentError(say("no {kind} answers where it should be", kind=kind.value)) from None
                found = self._lines[kind] = _Line(port, monotonic())
            found.asked_at = monotonic()
            return found

    def _closed(self, kind: RoadInstrument) -> None:
        with self._lock:
            line = self._lines.pop(kind, None)
        if line is not None:
            line.port.close()

    def close(self) -> None:
        for kind in list(self._lines):
            self._closed(kind)
