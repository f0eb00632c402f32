"""The one place for units: which unit a field carries, and how it is written. What is typed is read in ``entries``.

Inside, a quantity is stored in the unit its name ends with (``mass_kg``, ``max_rotor_mm``). People may
read and type other units; conversion happens here and nowhere else.
"""

from dataclasses import dataclass
from enum import StrEnum

NBSP = "\u00a0"
KMH_PER_MS = 3.6
MM_PER_M = 1000.0
KELVIN_AT_0_C = 273.15


class System(StrEnum):
    """The reader's preferred units."""

    METRIC = "metric"
    IMPERIAL = "imperial"


@dataclass(frozen=True)
class Unit:
    """A unit as written, with ``base = value * factor + offset`` into the stored unit; ``one`` is what it is called
    where there is one of it, if that differs."""

    sign: str
    factor: float = 1.0
    offset: float = 0.0
    decimals: int = 0
    one: str = ""


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
    "n": Kind(Unit("N"), Unit("lbf", 4.4482216, decimals=1), (Unit("kgf", 9.80665),)),
    "pct": _same(Unit("%", decimals=1)),
    "w": _same(Unit("W"), Unit("kW", 1000)),
    "kj": _same(Unit("kJ", decimals=0), Unit("MJ", 1000)),
    "mj": _same(Unit("MJ", decimals=0), Unit("kJ", 0.001)),
    "bar": Kind(Unit("bar", decimals=1), Unit("psi", 0.0689476), (Unit("MPa", 10),)),
    "s": _same(Unit("s", decimals=1), Unit("min", 60), Unit("h", 3600)),
    "min": _same(Unit("min", decimals=0), Unit("h", 60)),
    "h": _same(Unit("h", decimals=0), Unit("min", 1 / 60)),
    "y": _same(Unit("years", decimals=1, one="year"), Unit("y"), Unit("year"), Unit("months", 1 / 12)),
    "weeks": _same(Unit("weeks", decimals=0, one="week")),
    "m2": Kind(Unit("m²", decimals=3), Unit("ft²", 0.09290304, decimals=2)),
    "mm2": Kind(Unit("mm²"), Unit("in²", _INCH**2, decimals=2)),
    "mm3": Kind(Unit("mm³"), Unit("in³", _INCH**3, decimals=3)),
    "mm3_per_bar": Kind(Unit("mm³/bar", decimals=1), Unit("in³/psi", _INCH**3 / 0.0689476, decimals=6)),
    "ml": Kind(Unit("ml"), Unit("fl oz", 29.5735296, decimals=1)),
    "deg": _same(Unit("°", decimals=1)),
    "j_k": Kind(Unit("J/K", decimals=1), Unit("J/°F", 1.8, decimals=1)),
    "w_k": Kind(Unit("W/K", decimals=3), Unit("W/°F", 1.8, decimals=3)),
    "w_m2k": Kind(Unit("W/m²K", decimals=1), Unit("W/ft²°F", 1.8 / 0.09290304, decimals=2)),
    "w_mk": Kind(Unit("W/mK", decimals=1), Unit("W/ft°F", 1.8 / 0.3048, decimals=2)),
    "j_kgk": Kind(Unit("J/kgK"), Unit("J/lb°F", 1.8 / _LB)),
    "kg_m3": Kind(Unit("kg/m³"), Unit("lb/ft³", _LB / 0.3048**3)),
    "mm3_mj": Kind(Unit("mm³/MJ"), Unit("in³/MJ", _INCH**3, decimals=4)),
    "pct_100k": Kind(Unit("% per 100 K", decimals=0), Unit("% per 100 °F", 1.8, decimals=1)),
    "k_s": Kind(Unit("K/s", decimals=2), Unit("°F/s", 5 / 9, decimals=2)),
    "ms2": Kind(Unit("m/s²", decimals=2), Unit("ft/s²", 0.3048, decimals=1)),
    "price": _same(Unit("", decimals=2)),
    "ratio": _same(Unit("", decimals=2)),
    "count": _same(Unit("")),
}

_LONGEST_SUFFIX = max(key.count("_") for key in KINDS) + 1


def unit_of(field: str) -> str | None:
    """The unit suffix of a field's name: ``rider.mass_kg`` gives ``kg``; None where the name carries none."""
    parts = field.rsplit(".", 1)[-1].split("_")
    ends = ("_".join(parts[-n:]) for n in range(min(_LONGEST_SUFFIX, len(parts)), 0, -1))
    return next((end for end in ends if end in KINDS), None)


def kind_of(field: str) -> str:
    """The kind of quantity that a field holds, by the unit suffix of its name; a bare name gives ``ratio``."""
    return unit_of(field) or "ratio"


def as_exact(kind: str, system: System, metric_decimals: int) -> int:
    """Decimals in the reader's unit that tell as much as so many in the metric one.

    >>> as_exact("mm", System.IMPERIAL, 2)
    4
    """
    row = KINDS[kind]
    return max(row.unit(system).decimals + metric_decimals - row.metric.decimals, 0)


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
    return "unknown" if value is None else _with_unit(number(value, kind, system, decimals), kind, system)


def millimetres(value: float | None, system: System, decimals: int | None = None) -> str:
    """What is bolted and drawn is sold and made in millimetres; who reads inches is shown both.

    >>> millimetres(140.0, System.IMPERIAL, 0).replace(NBSP, " ")
    '140 mm (5.51 in)'
    """
    told = show(value, "mm", System.METRIC, decimals)
    if value is None or system is System.METRIC:
        return told
    places = KINDS["mm"].metric.decimals if decimals is None else decimals
    return f"{told} ({show(value, 'mm', system, places + 2)})"


def show_short(value: float | None, kind: str, system: System = System.METRIC) -> str:
    """Number and unit with no more decimals than the value has: 1.8 mm, 2 years."""
    if value is None:
        return "unknown"
    text = number(value, kind, system, KINDS[kind].unit(system).decimals + 1)
    return _with_unit(text.rstrip("0").rstrip(".") if "." in text else text, kind, system)


def _with_unit(text: str, kind: str, system: System) -> str:
    unit = KINDS[kind].unit(system)
    mark = unit.one if unit.one and text == "1" else unit.sign
    return f"{text}{'' if mark in ('%', '°', '') else NBSP}{mark}"


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


def show_signed(value: float, kind: str, system: System = System.METRIC, decimals: int | None = None) -> str:
    """A difference with sign and unit, kept together on a line; what rounds to nothing is 0. Beyond all bounds it is
    told so, never as a number."""
    if value in (float("inf"), float("-inf")):
        return "no limit" if value > 0 else "unlimited"
    mark = sign(kind, system)
    tight = "" if mark in ("°", "") else NBSP
    return f"{signed(value, kind, system, decimals) or '0'}{tight}{mark}"
