"""The one place for units: which unit a field carries, how it is read from typing, how it is written.

Inside, a quantity is stored in the unit its name ends with (``mass_kg``, ``max_rotor_mm``). People may
read and type other units; conversion happens here and nowhere else.
"""

import re
from dataclasses import dataclass
from enum import StrEnum

from clavis.core.errors import QuantityError

NBSP = "\u00a0"
KMH_PER_MS = 3.6
PA_PER_BAR = 1e5
MM_PER_M = 1000.0
KELVIN_AT_0_C = 273.15


class System(StrEnum):
    """The reader's preferred units."""

    METRIC = "metric"
    IMPERIAL = "imperial"


@dataclass(frozen=True)
class Unit:
    """A unit as written, with ``base = value * factor + offset`` into the stored unit."""

    sign: str
    factor: float = 1.0
    offset: float = 0.0
    decimals: int = 0


@dataclass(frozen=True)
class Kind:
    """A kind of quantity: its stored unit, its imperial twin, and what else may be typed."""

    metric: Unit
    imperial: Unit
    others: tuple[Unit, ...] = ()

    def unit(self, system: System) -> Unit:
        return self.metric if system is System.METRIC else self.imperial


def _same(unit: Unit, *others: Unit) -> Kind:
    return Kind(unit, unit, others)


_LB, _INCH, _MILE = 0.45359237, 25.4, 1.609344

# One row per stored unit; the key is the suffix of a field's name.
KINDS: dict[str, Kind] = {
    "kg": Kind(Unit("kg", decimals=1), Unit("lb", _LB, decimals=1), (Unit("g", 0.001), Unit("st", 14 * _LB))),
    "g": Kind(Unit("g"), Unit("oz", _LB * 1000 / 16, decimals=1), (Unit("kg", 1000), Unit("lb", _LB * 1000))),
    "mm": Kind(
        Unit("mm", decimals=1), Unit("in", _INCH, decimals=3), (Unit("cm", 10), Unit("m", 1000), Unit('"', _INCH))
    ),
    "m": Kind(
        Unit("m", decimals=2),
        Unit("ft", 0.3048, decimals=2),
        (Unit("mm", 0.001), Unit("cm", 0.01), Unit("km", 1000), Unit("mi", _MILE * 1000), Unit("in", 0.0254)),
    ),
    "km": Kind(Unit("km", decimals=1), Unit("mi", _MILE, decimals=1), (Unit("m", 0.001),)),
    "kmh": Kind(Unit("km/h", decimals=1), Unit("mph", _MILE, decimals=1), (Unit("m/s", KMH_PER_MS), Unit("kmh"))),
    "c": Kind(Unit("°C"), Unit("°F", 5 / 9, -32 * 5 / 9), (Unit("C"), Unit("F", 5 / 9, -32 * 5 / 9))),
    "k": Kind(Unit("K"), Unit("°F", 5 / 9), ()),  # a difference of temperatures
    "nm": Kind(
        Unit("N·m", decimals=1), Unit("lbf·in", 0.112984829, decimals=0), (Unit("Nm"), Unit("lbf·ft", 1.3558179))
    ),
    "n": _same(Unit("N"), Unit("lbf", 4.4482216), Unit("kgf", 9.80665)),
    "pct": _same(Unit("%", decimals=1)),
    "w": _same(Unit("W"), Unit("kW", 1000)),
    "kj": _same(Unit("kJ", decimals=0), Unit("MJ", 1000)),
    "mj": _same(Unit("MJ", decimals=0), Unit("kJ", 0.001)),
    "bar": _same(Unit("bar", decimals=1), Unit("MPa", 10), Unit("psi", 0.0689476)),
    "s": _same(Unit("s", decimals=1), Unit("min", 60), Unit("h", 3600)),
    "min": _same(Unit("min", decimals=0), Unit("h", 60)),
    "y": _same(Unit("years", decimals=1), Unit("y"), Unit("year"), Unit("months", 1 / 12)),
    "weeks": _same(Unit("weeks", decimals=0)),
    "m2": _same(Unit("m²", decimals=3)),
    "deg": _same(Unit("°", decimals=1)),
    "jpk": _same(Unit("J/K", decimals=1)),
    "wpk": _same(Unit("W/K", decimals=3)),
    "ms2": _same(Unit("m/s²", decimals=2)),
    "price": _same(Unit("", decimals=2)),
    "ratio": _same(Unit("", decimals=2)),
    "count": _same(Unit("")),
}

_NUMBER = re.compile(r"^\s*([-+]?\d[\d\s.,']*)\s*(.*?)\s*$")


def kind_of(field: str) -> str:
    """The unit suffix of a field's name: ``rider.mass_kg`` gives ``kg``; a bare name gives ``ratio``."""
    suffix = field.rsplit(".", 1)[-1].rsplit("_", 1)[-1]
    return suffix if suffix in KINDS else "ratio"


def _plain_number(text: str) -> float:
    compact = re.sub(r"[\s']", "", text)
    if "," in compact and "." not in compact:
        compact = compact.replace(",", ".") if compact.count(",") == 1 else compact.replace(",", "")
    else:
        compact = compact.replace(",", "")
    return float(compact)


def parse(text: str, kind: str, system: System = System.METRIC, name: str = "value") -> float:
    """What a person typed, in the stored unit of ``kind``.

    ``165 lb`` in a kg field gives 74.84; a bare number is taken in the reader's own ``system``. A comma is
    a decimal comma unless a point stands too.

    Raises QuantityError when there is no number, or a unit that does not belong to the kind.
    """
    row = KINDS[kind]
    known = [row.metric, row.imperial, *row.others]
    signs = " or ".join(dict.fromkeys(u.sign for u in known if u.sign)) or "no unit"
    found = _NUMBER.match(text)
    if not found:
        raise QuantityError(name, f"“{text.strip()[:40]}”", f"a number ({signs})")
    try:
        number = _plain_number(found[1])
    except ValueError:
        raise QuantityError(name, f"“{text.strip()[:40]}”", f"a number ({signs})") from None
    sign = found[2]
    unit = row.unit(system)
    if sign:
        folded = sign.lower().rstrip(".").replace("lbs", "lb")
        match = [u for u in known if u.sign.lower() == folded]
        if not match:
            raise QuantityError(name, f"“{text.strip()[:40]}”", f"a number in {signs}")
        unit = match[0]
    return number * unit.factor + unit.offset


def convert(value: float, kind: str, system: System) -> float:
    """A stored value as a number in the reader's unit."""
    unit = KINDS[kind].unit(system)
    return (value - unit.offset) / unit.factor


def stored(value: float, kind: str, system: System = System.METRIC) -> float:
    """A number in the reader's unit as the stored value: the other way round than ``convert``."""
    unit = KINDS[kind].unit(system)
    return value * unit.factor + unit.offset


def number(value: float | None, kind: str, system: System = System.METRIC, decimals: int | None = None) -> str:
    """The number alone, rounded to what the measurement bears; an en dash where there is none."""
    if value is None:
        return "–"
    places = KINDS[kind].unit(system).decimals if decimals is None else decimals
    text = f"{convert(value, kind, system):,.{places}f}".replace(",", "\u202f")
    if places == 0 and text == "-0":
        text = "0"
    return text.replace("-", "−")


def sign(kind: str, system: System = System.METRIC) -> str:
    """The unit as written beside a number."""
    return KINDS[kind].unit(system).sign


def show(value: float | None, kind: str, system: System = System.METRIC, decimals: int | None = None) -> str:
    """Number and unit, kept together on a line; ``unknown`` where there is no value."""
    if value is None:
        return "unknown"
    mark = sign(kind, system)
    tight = "" if mark in ("%", "°", "") else NBSP
    return f"{number(value, kind, system, decimals)}{tight}{mark}"


def entry(value: float | None, kind: str, system: System = System.METRIC) -> str:
    """A stored value as it stands in an entry box: short, without grouping, nothing lost to rounding."""
    if value is None:
        return ""
    return f"{round(convert(value, kind, system), 4):.12g}"


def signed(value: float | None, kind: str, system: System = System.METRIC, decimals: int | None = None) -> str:
    """A difference with its sign always written; empty where it rounds to nothing."""
    if value is None:
        return ""
    unit = KINDS[kind].unit(system)
    places = unit.decimals if decimals is None else decimals
    scaled = value / unit.factor
    if round(scaled, places) == 0:
        return ""
    return f"{'+' if scaled > 0 else '−'}{abs(scaled):,.{places}f}".replace(",", "\u202f")
