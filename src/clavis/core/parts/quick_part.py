"""A part put into the catalogue from the few figures that are known of it: the rest is taken from the part of the
standard shelf that is most like it, and said to be so.

QUICK is the table: for each kind what is asked, what has to be known, and by what the likeness is judged. What a maker
alone can state (minimum thickness, largest rotor, boiling point) is never taken over: the shelf leaves it unknown.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from clavis.core.errors import QuantityError
from clavis.core.parts.figures import Figures
from clavis.core.parts.models import PARTS, AnyPart, parse_part
from clavis.core.parts.standard_shelf import ANY_MAKE, standard_shelf
from clavis.core.sentences import say


@dataclass(frozen=True, kw_only=True)
class QuickRow:
    """``needed`` is asked and has to be answered; ``asked`` may stay empty. ``same`` must agree with the shelf's part,
    ``near`` is as close to it as the shelf has one."""

    needed: tuple[str, ...]
    asked: tuple[str, ...]
    same: tuple[str, ...] = ()
    near: tuple[str, ...] = ()


QUICK: Mapping[str, QuickRow] = {
    "rotor": QuickRow(needed=("diameter_mm", "interface"),
                      asked=("thickness_mm", "minimum_mm", "construction", "resin_only"),
                      same=("interface", "construction"), near=("diameter_mm", "thickness_mm")),
    "caliper": QuickRow(needed=("mount", "fluid", "pad_shape"), asked=("bores_mm", "slot_mm"), same=("mount", "fluid")),
    "lever": QuickRow(needed=("fluid", "bar"), asked=("bore_mm", "ratio"), same=("fluid", "bar"), near=("bore_mm",)),
    "pad": QuickRow(needed=("shape", "compound"), asked=("material_mm", "area_mm2"), same=("compound",)),
    "fork": QuickRow(needed=("mount",), asked=("native_mm", "max_rotor_mm", "thread_material"),
                     same=("mount", "native_mm")),
    "frame": QuickRow(needed=("mount",), asked=("native_mm", "max_rotor_mm", "thread_material"),
                      same=("mount", "native_mm")),
    "fluid": QuickRow(needed=("grade",), asked=("dry_c",), same=("grade",)),
}  # fmt: skip
"""an adapter is not among them: the shelf has one for every legal pair of sizes, and its heights are the part's own"""


@dataclass(frozen=True)
class QuickPart:
    """A part made so: what of it was told, and what it has from which part of the shelf."""

    part: AnyPart
    like: AnyPart
    borrowed: tuple[str, ...]
    """fields that rest on the shelf's part"""


_NEVER_SAID = frozenset({"kind", "id", "maker", "model", "figures", "retired"})


def _distance(row: QuickRow, told: Mapping[str, Any], part: AnyPart) -> tuple[int, float]:
    """How unlike a part of the shelf is: figures that must agree and do not, then by how much the others are off."""
    other = sum(name in told and getattr(part, name) != told[name] for name in row.same)
    off = sum(abs(getattr(part, name) - told[name]) for name in row.near if name in told and getattr(part, name))
    return other, float(off)


@lru_cache(maxsize=len(PARTS))
def _of_kind(kind: str) -> tuple[AnyPart, ...]:
    return tuple(p for p in standard_shelf() if p.kind == kind and p.figures is not Figures.STAND_IN)


def quick_part(
    kind: str, told: Mapping[str, Any], maker: str, model: str, taken: Iterable[str] = (), number: str = ""
) -> QuickPart:
    """A catalogue line from what is known of a part.

    Parameters
    ----------
    kind : str
        One of QUICK.
    told : mapping
        Its known figures by field, as plain values; missing ones are left out.
    maker, model : str
        As on the part; a maker that is not known is any make.
    taken : iterable of str
        Part numbers of the catalogue.
    number : str
        Its own part number; made of its name where there is none.

    Raises
    ------
    QuantityError
        Where something that has to be known is missing, or the shelf has nothing like it.
    ValidationError
        Where the figures do not go together.
    """
    row = QUICK[kind]
    if not model:
        raise QuantityError("Model", "nothing", "the name on the part, or what the workshop calls it")
    missing = next((name for name in row.needed if told.get(name) in (None, "")), None)
    if missing is not None:
        raise QuantityError(missing, "nothing", "an answer: without it the part stands for nothing")
    plain = {name: getattr(value, "value", value) for name, value in told.items() if value not in (None, "", ())}
    must = [n for n in row.needed if n in row.same]
    fitting = [p for p in _of_kind(kind) if all(getattr(p, n) == plain[n] for n in must)]
    if not fitting:
        raise QuantityError(kind, "these figures", "a kind of which the standard shelf has a usual one")
    like = min(fitting, key=lambda p: (*_distance(row, plain, p), p.id))
    if "native_mm" in row.asked and "native_mm" not in plain and getattr(like, "native_mm", None) is not None:
        told_by = say("the rotor that a {mount} is made for", mount=plain["mount"])
        raise QuantityError("Native size", "nothing", told_by)  # told or unknown, never the shelf's
    given = like.model_dump(mode="json") | plain
    given |= {"id": number or part_number(maker, model, taken), "maker": maker or ANY_MAKE, "model": model}
    given["figures"] = Figures.TYPICAL.value
    part = parse_part(given)
    usual = [n for n in PARTS[kind].model_fields if n not in _NEVER_SAID and n not in plain]
    return QuickPart(part, like, tuple(n for n in usual if getattr(part, n) not in (None, (), False, "")))


def part_number(maker: str, model: str, taken: Iterable[str] = ()) -> str:
    """A part number of its name that is not taken.

    >>> part_number("Any", "Rotor 200 × 1.9", {"any-rotor-200-1.9"})
    'any-rotor-200-1.9-2'
    """
    words = "".join(c if c.isascii() and (c.isalnum() or c == ".") else " " for c in f"{maker} {model}".lower()).split()
    there = set(taken)
    stem = "-".join(words)[:50].strip("-.") or "part"
    return next(name for k in range(1, 10_000) if (name := stem if k == 1 else f"{stem}-{k}") not in there)
