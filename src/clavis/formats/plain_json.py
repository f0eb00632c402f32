"""JSON from outside, read in plain words."""

import json
from typing import Any

MOST_PARTS = 20_000
"""of the catalogue that one file holds"""
MOST_OBJECTS, MOST_VALUES = 250_000, 600_000
"""of one text, the points of tracks apart: the largest catalogue has 380,000 values. What checks fields keeps every
error: ten million values in the wrong place took 4 GB."""
TRACKS = "tracks"


def _no_constants(name: str) -> float:
    raise ValueError(f"{name} is not a number that JSON knows")


def _ensure_small(found: Any) -> None:
    """Raises ValueError where there are more values than any file of ours holds. Points of tracks bound themselves."""
    values, left = 0, [found]
    tracks = found.get(TRACKS) if isinstance(found, dict) else None
    while left:
        holder = left.pop()
        if isinstance(holder, dict):
            inside = list(holder.values())
            if holder is tracks:
                values += len(inside) + sum(len(track) for track in inside if isinstance(track, dict))
                inside = []
        else:
            inside = holder if isinstance(holder, list) else []
        values += len(inside)
        if values > MOST_VALUES:
            raise ValueError(f"it holds more than {MOST_VALUES:,} values")
        left.extend(value for value in inside if isinstance(value, dict | list))


def parse_json(data: bytes) -> Any:
    """JSON from outside. Raises ValueError in plain words."""
    if data.count(b"{") + data.count(b"[") > MOST_OBJECTS:
        raise ValueError(f"not readable: it holds more than {MOST_OBJECTS:,} objects and lists")
    try:
        found = json.loads(data, parse_constant=_no_constants)
        _ensure_small(found)
        if b"\\u0000" in data:
            raise ValueError("a text of it holds the letter nought")
        if b"\\ud" in data.lower():  # what cannot be written again is not taken
            json.dumps(found, ensure_ascii=False).encode()
        return found
    except UnicodeEncodeError:
        raise ValueError("not readable: a text of it holds half a letter") from None
    except RecursionError:
        raise ValueError("not readable: nested too deeply") from None
    except UnicodeDecodeError:
        raise ValueError("not readable: the text is not UTF-8") from None
    except json.JSONDecodeError as error:
        raise ValueError(f"not JSON: line {error.lineno}, column {error.colno}: {error.msg}") from None
    except ValueError as error:
        raise ValueError(f"not JSON: {error}") from None
