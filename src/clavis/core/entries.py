"""What a person types, read as a quantity: numbers with or without a unit, in the unit that is stored.

What can mean two things is never taken for one of them: it is refused, with what it can mean.
"""

import re

from clavis.core.dates import as_date
from clavis.core.errors import QuantityError
from clavis.core.units import KINDS, Kind, System, Unit

MOST_DIGITS = 9
LARGEST = 2**31 - 1
"""of numbers that name a row, or a version of one"""


def place_in(text: str, count: int) -> int | None:
    """A place in a list of so many, as a page sends it back; None for anything else.

    >>> place_in("2", 3), place_in("3", 3), place_in("²", 3), place_in("9" * 5000, 3)
    (2, None, None, None)
    """
    place = int(text) if text.isdecimal() and len(text) <= MOST_DIGITS else count
    return place if place < count else None


_SPACES = " \u00a0\u202f'’"
_NUMBER = re.compile(rf"^([-+−]?)\s*(\d[\d.,{_SPACES}]*?)\s*([^\d\s.,{_SPACES}].*)?$")
_FRACTION = re.compile(r"^(?:(\d+)\s+)?(\d+)/(\d+)\s*(.*)$")
_FEET = re.compile(r"^(\d+)\s*(?:'|′|ft)\s*(?:(\d+(?:[.,]\d+)?)\s*(?:\"|″|''|in)?)?$")
_GROUPED = re.compile(rf"^\d{{1,3}}(?:[{_SPACES}]\d{{3}})+(?:[.,]\d+)?$")
_FOOT_MM, _INCH_MM = 304.8, 25.4


def _readings(text: str) -> tuple[float, ...]:
    """What digits with points, commas and spaces can mean; none where they mean nothing.

    >>> _readings("1.200,50"), _readings("1 200"), _readings("2,100"), _readings("1,2,3")
    ((1200.5,), (1200.0,), (2.1, 2100.0), ())
    """
    if any(space in text for space in _SPACES):
        if not _GROUPED.match(text):
            return ()
        text = re.sub(rf"[{_SPACES}]", "", text)
    marks = [c for c in text if c in ".,"]
    if not marks:
        return (float(text),)
    groups = re.split(r"[.,]", text)
    whole = all(len(g) == 3 for g in groups[1:]) and 1 <= len(groups[0]) <= 3
    if len(set(marks)) == 2:
        grouped = marks[-1] not in marks[:-1] and all(len(g) == 3 for g in groups[1:-1]) and len(groups[0]) <= 3
        return (float("".join(groups[:-1]) + "." + groups[-1]),) if grouped and groups[-1] else ()
    if len(marks) > 1:
        return (float("".join(groups)),) if whole else ()
    decimal = float(f"{groups[0]}.{groups[1] or '0'}")
    if marks[0] == "," and whole and groups[0] != "0":
        return decimal, float("".join(groups))
    return (decimal,)


def _unit(row: Kind, sign: str, system: System, currency: str) -> Unit | None:
    """The unit that was typed, or the reader's own where none was; None where it does not belong to the kind."""
    own = row.unit(system)
    if not sign or (currency and sign.lower().strip(".") == currency.lower().strip(".")):
        return own
    folded = sign.lower().rstrip(".").replace("lbs", "lb")
    return next((u for u in (row.metric, row.imperial, *row.others) if u.sign.lower() == folded), None)


def parse(
    text: str,
    kind: str,
    system: System = System.METRIC,
    name: str = "value",
    *,
    low: float | None = None,
    high: float | None = None,
    currency: str = "",
) -> float:
    """What a person typed, in the stored unit of ``kind``.

    ``165 lb`` in a kg field gives 74.84; a bare number is taken in the reader's own ``system``. ``1.200,50``, ``1 200``
    and ``1'200`` are read as people write them; a comma before three digits is a decimal comma or parts thousands: of
    the two the one that lies between ``low`` and ``high`` is meant, and where that does not tell, neither. Feet and
    inches (5'10) are read where a length is asked for, fractions (1/8) as inches; a sum may carry its ``currency``.

    Raises QuantityError when there is no number, a unit that does not belong to the kind, or two ways to read it.
    """
    row = KINDS[kind]
    known = [row.metric, row.imperial, *row.others]
    signs = " or ".join(dict.fromkeys(u.sign for u in known if u.sign)) or currency or "no unit"
    refused = QuantityError(name, f"“{text.strip()[:40]}”", f"a number ({signs})")
    text = text.strip()
    feet = _FEET.match(text) if kind in ("m", "mm") else None
    if feet:
        inches = float((feet[2] or "0").replace(",", "."))
        return (float(feet[1]) * _FOOT_MM + inches * _INCH_MM) / (1000 if kind == "m" else 1)
    parts = _FRACTION.match(text)
    if parts:
        return _fraction(parts, kind, system, name)
    found = _NUMBER.match(text)
    if not found:
        raise refused
    unit = _unit(row, (found[3] or "").strip(), system, currency if kind == "price" else "")
    if unit is None:
        raise QuantityError(name, f"“{text[:40]}”", f"a number in {signs}")
    ways = [(-1 if found[1] in "-−" and found[1] else 1) * number for number in _readings(found[2].strip())]
    if not ways:
        raise refused
    stored = [number * unit.factor + unit.offset for number in ways]
    within = [
        value
        for value in stored
        if (low is None or value >= low) and (high is None or value <= high) and (low, high) != (None, None)
    ]
    if len(stored) == 1 or len(within) == 1:
        return (within or stored)[0]
    meant = " or ".join(f"{number:g}" for number in ways)
    raise QuantityError(name, f"“{text[:40]}”", f"{meant}, typed so that it can mean one thing")


def _fraction(parts: re.Match[str], kind: str, system: System, name: str) -> float:
    """An inch fraction, for lengths: elsewhere, and without its unit for who reads millimetres, nobody knows."""
    whole, over, under, sign = parts[1], int(parts[2]), int(parts[3]), parts[4].strip().lower()
    inches = int(whole or 0) + over / under if under else 0.0
    length = kind in ("m", "mm")
    if not under or not length or (sign not in ("in", '"', "″") and (sign or system is System.METRIC or kind == "m")):
        typed = f"{whole + ' ' if whole else ''}{over}/{under}{' ' + sign if sign else ''}"
        allowed = f"a decimal number, or inches with their sign: {inches:.4g} in" if length else "a decimal number"
        raise QuantityError(name, f"“{typed[:40]}”", allowed)
    return inches * _INCH_MM / (1000 if kind == "m" else 1)


BEAD_SEATS_MM = {
    "29": 622,
    "28": 622,
    "700": 622,
    "700c": 622,
    "27.5": 584,
    "650b": 584,
    "26": 559,
    "24": 507,
    "20": 406,
}
"""bead seats of the sizes that are marked with a decimal width (ISO 5775); 28 × 1 1/2 and its like are others"""
_MARKED = re.compile(r"^(\d{2,3}(?:[.,]5)?[bc]?)\s*[x×*]\s*(\d{1,2}(?:[.,]\d{1,3})?)\s*c?\s*\"?$")
_ISO = re.compile(r"^(\d{2,3})\s*[-–]\s*(\d{3})$")
_WIDTH_IN_INCHES_BELOW = 6.0


def tyre_size(text: str, name: str = "tyre size") -> str:
    """A tyre's marked size as width and bead seat in mm; empty where nothing was typed.

    Raises QuantityError for a size that is no tyre's, or that can mean several.

    >>> tyre_size("28x1.75"), tyre_size("700 x 40C"), tyre_size("47-622")
    ('44-622', '40-622', '47-622')
    """
    text = text.strip().lower()
    iso, marked = _ISO.match(text), _MARKED.match(text)
    if not text:
        return ""
    if iso:
        return f"{iso[1]}-{iso[2]}"
    seat = BEAD_SEATS_MM.get(marked[1].replace(",", ".")) if marked else None
    if marked is None or seat is None:
        raise QuantityError(name, f"“{text[:30]}”", "width and bead seat in mm as on the tyre's wall, such as 47-622")
    width = float(marked[2].replace(",", "."))
    width_mm = round(width * _INCH_MM if width < _WIDTH_IN_INCHES_BELOW else width)
    return f"{width_mm}-{seat}"


def text(entered: str, label: str) -> str:
    """A text as it was typed, without blanks around it. Raises QuantityError where it holds what no keyboard types.

    >>> text("  Tandem, blue ", "title")
    'Tandem, blue'
    """
    told = entered.strip()
    if any(ord(letter) < ord(" ") and letter not in "\n\r\t" for letter in told):
        raise QuantityError(label, "a letter that cannot be seen", "plain text")
    return told


def day(text: str, name: str = "day") -> str:
    """A day of the calendar as it is kept. Raises QuantityError.

    >>> day(" 2026-11-29 ")
    '2026-11-29'
    """
    try:
        return as_date(text.strip()).isoformat()
    except ValueError:
        raise QuantityError(name, f"“{text.strip()[:20]}”", "a day, as 2026-11-29") from None
