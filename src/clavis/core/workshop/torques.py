"""Torques: what each fastener of an order is tightened to, with tool and thread-lock.

The torque of a caliper's or adapter's bolt is read from the bolt that ``fit`` laid there, by its thread. The marking
on a part always wins over a figure here.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from clavis.core.fit.mounting import FittedBolt
from clavis.core.parts.hubs import hub_row
from clavis.core.parts.models import Axis, Axle
from clavis.core.parts.mounts import End
from clavis.core.parts.threads import Thread
from clavis.core.records import figure
from clavis.core.workshop.wheel_work import WheelWork

_TRADE = "usual figure of the trade; the marking on the part wins"
LOW_STRENGTH = "low strength, or pre-coated bolts"


@dataclass(frozen=True, kw_only=True)
class TorqueRow:
    """One kind of fastener: its torque range, tool, thread-lock, and what else to mind."""

    fastener: str
    low_nm: float = figure("nm", _TRADE, "from")
    high_nm: float = figure("nm", _TRADE, "to")
    tool: str
    lock: str
    note: str


TORQUE_ROWS: Mapping[str, TorqueRow] = {
    "rotor_bolts": TorqueRow(
        fastener="rotor bolts", low_nm=2.0, high_nm=6.2, tool="T25 star key", lock=LOW_STRENGTH,
        note="commonly about 6; star pattern, two steps; the marking wins",
    ),
    "lockring": TorqueRow(
        fastener="lockring", low_nm=40.0, high_nm=40.0, tool="lockring tool", lock="none",
        note="hold the wheel upright; the marking wins",
    ),
    "axle": TorqueRow(
        fastener="axle", low_nm=12.0, high_nm=15.0, tool="as marked", lock="none", note="as marked on the axle",
    ),
}  # fmt: skip
BOLT_TORQUES: Mapping[Thread, TorqueRow] = {
    "M5": TorqueRow(
        fastener="M5 bolts", low_nm=6.0, high_nm=8.0, tool="4 mm hex or T25 star key", lock=LOW_STRENGTH,
        note="the marking wins",
    ),
    "M6": TorqueRow(
        fastener="M6 bolts", low_nm=6.0, high_nm=10.0, tool="5 mm hex or T25 star key", lock=LOW_STRENGTH,
        note="the marking wins",
    ),
    "M8": TorqueRow(
        fastener="M8 bolts", low_nm=12.0, high_nm=18.0, tool="6 mm hex", lock=LOW_STRENGTH,
        note="the engineer who releases the plate gives it",
    ),
}  # fmt: skip


@dataclass(frozen=True)
class Fastening:
    """How one fastener is tightened: its row, with the tool and the thread-lock of the very part."""

    row: TorqueRow
    tool: str
    lock: str
    note: str


@dataclass(frozen=True)
class TorqueLine:
    """One line of the order's torques; ``places`` are those of the bolts it is for."""

    end: End
    fastening: Fastening
    places: tuple[str, ...] = ()


def fastening_of(fitted: FittedBolt) -> Fastening:
    """Torque by the bolt's thread; tool and coat are the bolt's own where one is chosen."""
    row, bolt = BOLT_TORQUES[fitted.stack.thread], fitted.choice.bolt
    if bolt is None:
        return Fastening(row, row.tool, row.lock, row.note)
    lock = "its own coat, once; then low strength" if bolt.coated else "low strength"
    return Fastening(row, f"{bolt.drive} key", lock, row.note)


def _of_bolts(end: End, bolts: Iterable[FittedBolt]) -> list[TorqueLine]:
    """One line for all bolts that are tightened alike."""
    alike: dict[Fastening, list[str]] = {}
    for fitted in bolts:
        alike.setdefault(fastening_of(fitted), []).append(fitted.stack.place)
    return [TorqueLine(end, fastening, tuple(places)) for fastening, places in alike.items()]


def _of_rotor(work: WheelWork) -> Fastening:
    seat = hub_row(work.wheel.hub, work.wheel.axle)
    row = TORQUE_ROWS["lockring" if work.splined else "rotor_bolts"]
    if not work.splined or seat is None:
        return Fastening(row, row.tool, row.lock, row.note)
    return Fastening(row, seat.tool, row.lock, f"{seat.fastener}; {row.note}")


def torques_of(work: WheelWork) -> tuple[TorqueLine, ...]:
    """Every fastener that the work on one wheel tightens."""
    lines = [TorqueLine(work.end, _of_rotor(work))] if work.new(Axis.ROTOR) else []
    if work.caliper_moves:
        lines += _of_bolts(work.end, work.fit.fitted_bolts)
    if work.wheel.axle is not Axle.QUICK_RELEASE:
        row = TORQUE_ROWS["axle"]
        lines.append(TorqueLine(work.end, Fastening(row, row.tool, row.lock, row.note)))
    return tuple(lines)
