"""Torques: what each fastener of an order is tightened to, with tool and thread-lock.

The torque of a caliper's or adapter's bolt is read from the bolt that ``fit`` laid there, by its thread. The part's own
figure, from its marking or its sheet, stands in the job and overrides a figure here.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from clavis.core.fit.mounting import FittedBolt
from clavis.core.fit.stacks import Run
from clavis.core.job.document import Job, MarkedTorque
from clavis.core.parts.hubs import hub_row
from clavis.core.parts.models import Axis, Axle
from clavis.core.parts.mounts import End
from clavis.core.parts.threads import THREADS, Thread
from clavis.core.records import figure
from clavis.core.workshop.wheel_work import WheelWork

_TRADE = "usual figure of the trade; the marking on the part wins"
LOW_STRENGTH = "low strength, or pre-coated bolts"
MARKED = "only its marking or its maker’s sheet says"


class Fastener(StrEnum):
    """The kinds of fastener that an order tightens."""

    ROTOR_BOLTS = "rotor_bolts"
    LOCKRING = "lockring"
    M5 = "M5"
    M6 = "M6"
    M8 = "M8"
    LEVER_CLAMP = "lever_clamp"
    HOSE_NUT = "hose_nut"
    CABLE_CLAMP = "cable_clamp"
    BLEED_SCREW = "bleed_screw"
    PAD_PIN = "pad_pin"
    AXLE = "axle"


@dataclass(frozen=True, kw_only=True)
class TorqueRow:
    """One kind of fastener: its torque range, tool, thread-lock, and what else to mind. None where no figure serves for
    all makers: only the part's own does."""

    fastener: str
    low_nm: float | None = figure("nm", _TRADE, "from")
    high_nm: float | None = figure("nm", _TRADE, "to")
    usual_nm: float | None = figure("nm", _TRADE, "commonly")
    tool: str
    lock: str
    note: str
    steps: int = 1
    """tightened in so many goes; the first to half"""


TORQUE_ROWS: Mapping[Fastener, TorqueRow] = {
    Fastener.ROTOR_BOLTS: TorqueRow(
        fastener="rotor bolts", low_nm=2.0, high_nm=6.2, usual_nm=6.0, tool="T25 star key", lock=LOW_STRENGTH,
        note="every other bolt, twice round", steps=2,
    ),
    Fastener.LOCKRING: TorqueRow(
        fastener="lockring", low_nm=40.0, high_nm=40.0, usual_nm=40.0, tool="lockring tool", lock="none",
        note="hold the wheel upright",
    ),
    Fastener.M5: TorqueRow(
        fastener="M5 bolts", low_nm=6.0, high_nm=8.0, usual_nm=None, tool="4 mm hex or T25 star key", lock=LOW_STRENGTH,
        note="in turns",
    ),
    Fastener.M6: TorqueRow(
        fastener="M6 bolts", low_nm=6.0, high_nm=10.0, usual_nm=None, tool="5 mm hex or T25 star key",
        lock=LOW_STRENGTH, note="in turns",
    ),
    Fastener.M8: TorqueRow(
        fastener="M8 bolts", low_nm=12.0, high_nm=18.0, usual_nm=None, tool="6 mm hex", lock=LOW_STRENGTH,
        note="the engineer who releases the plate gives it",
    ),
    Fastener.LEVER_CLAMP: TorqueRow(
        fastener="lever clamp", low_nm=4.0, high_nm=6.0, usual_nm=None, tool="4 or 5 mm hex or T25 star key",
        lock="none", note="in turns; the bar's figure where it is lower",
    ),
    Fastener.HOSE_NUT: TorqueRow(
        fastener="hose nut", low_nm=None, high_nm=None, usual_nm=None, tool="8 mm spanner, slotted",
        lock="none", note=MARKED,
    ),
    Fastener.CABLE_CLAMP: TorqueRow(
        fastener="cable clamp", low_nm=6.0, high_nm=8.0, usual_nm=None, tool="5 mm hex", lock="none",
        note="the cable flat in its groove",
    ),
    Fastener.BLEED_SCREW: TorqueRow(
        fastener="bleed screws", low_nm=None, high_nm=None, usual_nm=None, tool="as the part asks", lock="none",
        note=MARKED,
    ),
    Fastener.PAD_PIN: TorqueRow(
        fastener="pad pin", low_nm=None, high_nm=None, usual_nm=None, tool="as the part asks", lock="none",
        note=f"{MARKED}; a pin that is pushed in has its clip",
    ),
    Fastener.AXLE: TorqueRow(
        fastener="axle", low_nm=12.0, high_nm=15.0, usual_nm=None, tool="as marked", lock="none",
        note="as marked on the axle",
    ),
}  # fmt: skip
BOLT_TORQUES: Mapping[Thread, TorqueRow] = {thread: TORQUE_ROWS[Fastener(thread)] for thread in THREADS}
RUN_WORDS: Mapping[Run, str] = {
    Run.CALIPER_TO_MOUNT: "caliper to the mount",
    Run.PART_TO_MOUNT: "adapter to the mount",
    Run.CROSSWISE: "through the tabs",
    Run.FROM_BELOW: "from below, through the stay",
    Run.PLATE_TO_CARRIER: "plate to its carrier",
    Run.CALIPER_TO_PART: "caliper to the adapter",
    Run.PLATE_TO_CALIPER: "plate to the caliper",
}


@dataclass(frozen=True)
class Fastening:
    """How one fastener is tightened: its row, with the tool and the thread-lock of the very part."""

    row: TorqueRow
    tool: str
    lock: str
    note: str


@dataclass(frozen=True)
class TorqueLine:
    """One line of the order's torques. ``key`` names it in the job, where the part's own figure is kept; ``places`` are
    those of the bolts it is for."""

    end: End
    kind: Fastener
    key: str
    fastening: Fastening
    words: str
    places: tuple[str, ...] = ()
    marked: MarkedTorque | None = None

    @property
    def low_nm(self) -> float | None:
        """The part's own figure where it is known, otherwise the trade's."""
        return self.marked.torque_nm if self.marked else self.fastening.row.low_nm

    @property
    def high_nm(self) -> float | None:
        return self.marked.torque_nm if self.marked else self.fastening.row.high_nm

    @property
    def last_nm(self) -> float | None:
        """What the last go is tightened to; None where only a range is known."""
        return self.marked.torque_nm if self.marked else self.fastening.row.usual_nm

    @property
    def first_nm(self) -> float | None:
        """What the first of several goes is tightened to: half."""
        last = self.last_nm
        return last / 2 if last is not None and self.fastening.row.steps > 1 else None

    @property
    def figures(self) -> tuple[float | None, ...]:
        return self.low_nm, self.high_nm, self.last_nm


def fastening_of(fitted: FittedBolt) -> Fastening:
    """Torque by the bolt's thread; tool and coat are the bolt's own where one is chosen."""
    row, bolt = BOLT_TORQUES[fitted.stack.thread], fitted.choice.bolt
    if bolt is None:
        return Fastening(row, row.tool, row.lock, row.note)
    lock = "its own coat, once; then low strength" if bolt.coated else "low strength"
    return Fastening(row, f"{bolt.drive} key", lock, row.note)


class _Lines:
    """Gathers the lines of one wheel, with what is marked on its parts."""

    def __init__(self, job: Job, end: End) -> None:
        self.job, self.end = job, end
        self.lines: list[TorqueLine] = []

    def add(
        self, kind: Fastener, fastening: Fastening, words: str, which: str = "", places: tuple[str, ...] = ()
    ) -> None:
        key = ":".join(part for part in (self.end.value, kind.value, which) if part)
        self.lines.append(TorqueLine(self.end, kind, key, fastening, words, places, self.job.marked.get(key)))

    def plain(self, kind: Fastener) -> None:
        row = TORQUE_ROWS[kind]
        self.add(kind, Fastening(row, row.tool, row.lock, row.note), row.fastener)

    def bolts(self, fitted: tuple[FittedBolt, ...]) -> None:
        """One line for the bolts of one joint that are tightened alike."""
        alike: dict[tuple[Run, Fastening], list[str]] = {}
        for bolt in fitted:
            alike.setdefault((bolt.run, fastening_of(bolt)), []).append(bolt.stack.place)
        seen: dict[Run, int] = {}
        for (run, fastening), places in alike.items():
            seen[run] = seen.get(run, 0) + 1
            which = run.value if seen[run] == 1 else f"{run.value}{seen[run]}"
            thread = next(b.stack.thread for b in fitted if b.run is run)
            words = f"{fastening.row.fastener}, {RUN_WORDS[run]}"
            self.add(Fastener(thread), fastening, words, which, tuple(places))


def _of_rotor(lines: _Lines, work: WheelWork) -> None:
    if work.bolted_rotor:
        lines.plain(Fastener.ROTOR_BOLTS)
    if work.splined and (work.six_bolt_on_splined or not work.bolted_rotor):
        seat, row = hub_row(work.hub, work.wheel.axle), TORQUE_ROWS[Fastener.LOCKRING]
        tool, note = (seat.tool, f"{seat.fastener}; {row.note}") if seat else (row.tool, row.note)
        lines.add(Fastener.LOCKRING, Fastening(row, tool, row.lock, note), row.fastener)


def torques_of(job: Job, work: WheelWork) -> tuple[TorqueLine, ...]:
    """Every fastener that the work on one wheel tightens."""
    lines = _Lines(job, work.end)
    if work.new(Axis.ROTOR):
        _of_rotor(lines, work)
    lines.bolts(work.tightened)
    if work.new(Axis.LEVER):
        lines.plain(Fastener.LEVER_CLAMP)
    if work.hydraulic and (work.changes.hose or work.line_parted):
        lines.plain(Fastener.HOSE_NUT)
    if work.changes.hose and not work.hydraulic:
        lines.plain(Fastener.CABLE_CLAMP)
    if work.changes.opens_line:
        lines.plain(Fastener.BLEED_SCREW)
    if work.changes.opens_line or work.changes.parts & {Axis.PAD, Axis.CALIPER}:
        lines.plain(Fastener.PAD_PIN)
    if work.opened and work.wheel.axle is not Axle.QUICK_RELEASE:
        lines.plain(Fastener.AXLE)
    return tuple(lines.lines)
