"""A stand-in on a port of its own: a small process that speaks the line protocol as a real instrument would. It loads
what it reads from when it is first asked."""

import contextlib
import socketserver
from collections.abc import Callable, Mapping
from functools import cached_property
from typing import Protocol

from clavis.instruments.line_protocol import NotHeldError, RoadInstrument, read_about


class Readings(Protocol):
    """What a stand-in reads from."""

    def line(self, kind: RoadInstrument, about: Mapping[str, str]) -> str:
        """One reading as the instrument sends it. Raises NotHeldError."""
        ...

    def table(self, about: Mapping[str, str]) -> bytes:
        """A logger's whole table. Raises NotHeldError."""
        ...


class _Handler(socketserver.StreamRequestHandler):
    """One line at a time; what is not understood is passed over, as instruments do."""

    server: "RoadServer"

    def handle(self) -> None:
        about: dict[str, str] = {}
        logger = self.server.kind is RoadInstrument.LOGGER
        with contextlib.suppress(ConnectionError):  # whoever asked has gone
            for raw in self.rfile:
                line = raw.decode("utf-8", "replace").strip()
                if line.startswith("about"):
                    about = read_about(line)
                elif line == ("download" if logger else "hold"):
                    self._answer(about)

    def _answer(self, about: Mapping[str, str]) -> None:
        kind, stand_in = self.server.kind, self.server.stand_in
        try:
            if kind is RoadInstrument.LOGGER:
                table = stand_in.table(about)
                self.wfile.write(f"bytes {len(table)}\n".encode() + table)
            else:
                self.wfile.write(f"{stand_in.line(kind, about)}\n".encode())
        except NotHeldError as error:
            self.wfile.write(f"error {error}\n".encode())


class RoadServer(socketserver.ThreadingTCPServer):
    """One instrument on a port of its own."""

    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, kind: RoadInstrument, host: str, port: int, make: Callable[[], Readings]) -> None:
        self.kind, self._make = kind, make
        super().__init__((host, port), _Handler)

    @cached_property
    def stand_in(self) -> Readings:
        return self._make()
