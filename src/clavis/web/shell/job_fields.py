"""Fields of a job as its pages show and read them."""

import heapq
from dataclasses import dataclass, replace
from typing import Any

from clavis.core import units
from clavis.core.errors import QuantityError
from clavis.core.evaluation.situation import default_of, default_words
from clavis.core.inspection.likely_parts import likely, likely_words
from clavis.core.job import paths
from clavis.core.job.document import Job
from clavis.core.job.maker_data import STATED
from clavis.core.job.resolved_wheel import ResolvedWheel, resolve_wheel
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.models import AnyPart
from clavis.core.parts.mounts import End
from clavis.core.parts.quick_part import QUICK
from clavis.core.sentences import NOTHING
from clavis.core.units import System
from clavis.core.wording.labels import called, field_word, part_words
from clavis.store.jobs import RefusedError
from clavis.web.shell.form_fields import FieldSpec, FieldView, Option, spec_at

PART_KINDS = {
    "rotor_id": "rotor",
    "caliper_id": "caliper",
    "lever_id": "lever",
    "pad_id": "pad",
    "adapter_id": "adapter",
    "fluid_id": "fluid",
}
"""fields that name a part, and the kind of part"""


def part_kind(path: str) -> str | None:
    """The kind of part that a field names: at the front a fork carries the caliper, at the rear a frame. None for a
    field that names none."""
    last = path.rsplit(".", 1)[-1]
    if last == "carrying_id":
        return "fork" if path.startswith(End.FRONT.value) else "frame"
    return PART_KINDS.get(last)


OTHERS = "others in the catalogue"
MOST_LISTED = 200
"""parts in one list; beyond it they are found by typing"""


@dataclass(frozen=True)
class PartsListed:
    """Parts to choose among, and how many of those that have the words are not listed."""

    options: tuple[Option, ...]
    more: int


def parts_listed(
    kind: str, catalogue: Catalogue, chosen: str | None, wheel: ResolvedWheel | None, typed: str = ""
) -> PartsListed:
    """Parts of one kind that have every word ``typed``: those that can be meant beside what is known of the wheel, then
    the others; the chosen one whatever it is called."""
    rows = [p for p in catalogue.of_kind(kind).values() if p.id == chosen or (not p.retired and called(p, typed))]
    told = NOTHING if wheel is None else likely_words(wheel, kind)

    def other(part: AnyPart) -> bool:
        return bool(told) and wheel is not None and not likely(wheel, part)

    def place(part: AnyPart) -> tuple[bool, float, str]:
        return other(part), part.diameter_mm if part.kind == "rotor" else 0.0, part.name

    listed = heapq.nsmallest(MOST_LISTED, rows, key=lambda part: (part.id != chosen, place(part)))
    options = (Option(p.id, part_label(p), OTHERS if other(p) else told) for p in sorted(listed, key=place))
    return PartsListed(tuple(options), len(rows) - len(listed))


def part_label(part: AnyPart) -> str:
    return ", ".join(filter(None, (part.name, part_words(part))))


def _placeholder(path: str, spec: FieldSpec) -> str:
    """What stands in an empty entry."""
    of_wheel = path.startswith(("front.", "rear."))
    if part_kind(path):
        last = path.rsplit(".", 1)[-1]
        return "as fitted" if path.startswith("proposal.") else "not named" if last in STATED else "not measured"
    if spec.kind == "numbers":
        return "not measured"
    if spec.kind == "choice" and spec.optional:
        return (
            "as the job's"
            if ".sections." in path or path.startswith("trials.")
            else "not measured"
            if of_wheel
            else "not entered"
        )
    return "not measured" if spec.kind == "number" and of_wheel else ""


def field_view(job: Job, path: str, catalogue: Catalogue, system: System, typed: str = "") -> FieldView:
    """A field with its present value, and of its parts those that have every word ``typed``. Raises QuantityError where
    there is no such field."""
    spec = spec_at(Job, path)
    value, label = paths.read(job.model_dump(mode="json"), path), field_word(path)
    kind = part_kind(path)
    if kind is not None:
        end = path.partition(".")[0]
        wheel = resolve_wheel(job, End(end), catalogue) if end in {e.value for e in End} else None
        listed = parts_listed(kind, catalogue, value, wheel, typed)
        adds = kind if kind in QUICK else ""
        placeholder = _placeholder(path, spec)
        view = FieldView(path, label, "part", value or "", placeholder=placeholder, adds=adds)
        return replace(view, options=listed.options, more=listed.more)
    empty, default = _placeholder(path, spec), None
    if spec.kind == "number" and value is None:
        default = default_of(job, path)
        empty = empty if default is None else units.entry(round(default, 4), spec.quantity, system)
    text, unit = _as_typed(job, path, spec, value, system), spec.unit(system)
    source = _source(job, path) if default is None else default_words(job, path)
    return FieldView(path, label, spec.kind, text, unit, spec.options, empty, default is not None, source=source)


def _as_typed(job: Job, path: str, spec: FieldSpec, value: Any, system: System) -> str:
    """A kept value as it was typed, where in the reader's own unit it would be an odd number: 165 lb, not 74.8427."""
    text, typed = spec.text_of(value, system), job.typed.get(path)
    if typed is None or value is None or len(text.partition(".")[2]) <= TIDY_DECIMALS:
        return text
    try:
        return typed if spec.read(typed, system, "") == value else text
    except QuantityError:
        return text


def worth_keeping(path: str, text: str, kept: Any, system: System) -> bool:
    """Whether a text says more than the number it was read as, so that it is shown again."""
    spec = spec_at(Job, path)
    if spec.kind != "number" or kept is None or not any(c.isalpha() or c in "'\"/" for c in text):
        return False
    return len(spec.text_of(kept, system).partition(".")[2]) > TIDY_DECIMALS


TIDY_DECIMALS = 2


def _source(job: Job, path: str) -> str:
    end, _, field = path.partition(".")
    return job.wheel(End(end)).read_by.get(field, "") if end in {e.value for e in End} else ""


def read_field(path: str, text: str, system: System, currency: str = "") -> Any:
    """What was typed, as the plain value that the job's document keeps. Raises RefusedError with the reason.

    An empty entry is *not entered* where that is possible.
    """
    try:
        return spec_at(Job, path).read(text, system, field_word(path), currency)
    except QuantityError as error:
        raise RefusedError(path, error.said) from None


def read_readings(path: str, text: str, system: System) -> list[float]:
    """Readings typed in a row for a field that keeps several. Raises QuantityError."""
    return spec_at(Job, path).read_numbers(text, system, field_word(path))
