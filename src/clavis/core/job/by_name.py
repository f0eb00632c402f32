"""What somebody did or answered for by name, in a job's document: it is made by who does it, then, and nothing else of
the job brings it back."""

from typing import Any

from clavis.core.job.paths import KEYED

BY_NAME = frozenset(
    {"cleared", "ticks", "marked", "attended", "accepted", "calibration", "template", "dummy", "checked", "released",
     "exchanged"}
)  # fmt: skip
"""fields that hold one, or several by key"""


def is_act(value: Any) -> bool:
    """Whether a value of a document says who did something, and when. A record with a name of its own, a run, a set of
    readings, tells what happened instead.

    >>> is_act({"who": "Tess", "at": "2026-11-01T10:00", "reason": "rider knows"}), is_act({"who": "Tess"})
    (True, False)
    """
    return isinstance(value, dict) and "who" in value and "at" in value and "id" not in value


def holds_acts_alone(path: str) -> bool:
    """Whether what stands at a path is an act, or acts by key.

    >>> [holds_acts_alone(p) for p in ("cleared.front:oil", "special.front.released", "front.rotor_id")]
    [True, True, False]
    """
    return bool(set(path.split(".")[-2:]) & BY_NAME)


def without_returning(then: Any, now: Any) -> Any:
    """A document of another time as it may be brought back: with no act in it that does not stand today, at the same
    place, as it stood then.

    >>> mara = {"who": "Mara", "at": "2026-11-01T10:00"}
    >>> without_returning({"title": "x", "cleared": {"a": mara, "b": mara}}, {"title": "y", "cleared": {"b": mara}})
    {'title': 'x', 'cleared': {'b': {'who': 'Mara', 'at': '2026-11-01T10:00'}}}
    """
    if is_act(then):
        return then if then == now else None
    if isinstance(then, dict):
        beside = now if isinstance(now, dict) else {}
        found = {name: without_returning(value, beside.get(name)) for name, value in then.items()}
        return {
            name: {key: act for key, act in value.items() if act is not None} if name in KEYED and value else value
            for name, value in found.items()
        }
    if isinstance(then, list):
        named = {item["id"]: item for item in now or () if isinstance(item, dict) and "id" in item} if then else {}
        return [without_returning(item, named.get(item.get("id")) if isinstance(item, dict) else item) for item in then]
    return then
