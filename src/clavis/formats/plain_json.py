"""JSON from outside, read in plain words."""

import json
from typing import Any

MOST_PARTS = 20_000
"""of the catalogue that one file holds"""


def _no_constants(name: str) -> float:
    raise ValueError(f"{name} is not a number that JSON knows")


def parse_json(data: bytes) -> Any:
    """JSON from outside. Raises ValueError in plain words."""
    try:
        found = json.loads(data, parse_constant=_no_constants)
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
