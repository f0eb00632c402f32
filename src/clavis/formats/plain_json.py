"""JSON from outside, read in plain words."""

import json
from typing import Any


def _no_constants(name: str) -> float:
    raise ValueError(f"{name} is not a number that JSON knows")


def parse_json(data: bytes) -> Any:
    """JSON from outside. Raises ValueError in plain words."""
    try:
        return json.loads(data, parse_constant=_no_constants)
    except RecursionError:
        raise ValueError("not readable: nested too deeply") from None
    except UnicodeDecodeError:
        raise ValueError("not readable: the text is not UTF-8") from None
    except json.JSONDecodeError as error:
        raise ValueError(f"not JSON: line {error.lineno}, column {error.colno}: {error.msg}") from None
    except ValueError as error:
        raise ValueError(f"not JSON: {error}") from None
