"""Reading and writing one place of a job's document, named by a dotted path.

A segment that meets a list picks the item with that ``id``, or by position: ``rides.pass.sections.2.speed_kmh``.
"""

from copy import deepcopy
from typing import Any

from clavis.core.entries import place_in
from clavis.core.errors import QuantityError

KEYED = frozenset({"ticks", "replies", "cleared", "marked", "attended"})
"""records kept by key: None takes one out"""


def _find(items: list[Any], segment: str) -> int | None:
    for k, item in enumerate(items):
        if isinstance(item, dict) and item.get("id") == segment:
            return k
    return place_in(segment, len(items))


def read(document: Any, path: str) -> Any:
    """The value at ``path``, or None where there is none."""
    for segment in path.split(".") if path else []:
        if isinstance(document, list):
            k = _find(document, segment)
            document = None if k is None else document[k]
        elif isinstance(document, dict):
            document = document.get(segment)
        else:
            return None
    return document


def write(document: dict[str, Any], path: str, value: Any) -> dict[str, Any]:
    """A copy of ``document`` with ``value`` at ``path``. None takes an item out of a list, or a record kept by key
    away.

    Raises QuantityError for a path that leads nowhere.
    """
    if not path:
        return deepcopy(value)
    copy = deepcopy(document)
    *parents, last = path.split(".")
    place: Any = copy
    for segment in parents:
        if isinstance(place, list):
            k = _find(place, segment)
            place = None if k is None else place[k]
        else:
            place = place.get(segment) if isinstance(place, dict) else None
        if place is None:
            raise QuantityError("field", path, "a field of the job")
    if isinstance(place, list):
        k = _find(place, last)
        if value is None:
            if k is not None:
                del place[k]
        elif k is None:
            place.append(value)
        else:
            place[k] = value
    elif value is None and parents and parents[-1] in KEYED:
        place.pop(last, None)
    else:
        place[last] = value
    return copy
