"""What a person types, read as a quantity: numbers with or without a unit, in the unit that is stored."""

import re

from clavis.core.errors import QuantityError
from clavis.core.units import KINDS, System

_NUMBER = re.compile(r"^\s*([-+]?\d[\d\s.,']*)\s*(.*?)\s*$")


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
