"""The registry of rooms: which function gathers what a room's page shows."""

import secrets
from collections.abc import Callable
from typing import Any

from clavis.web.shell.bench import Bench

Gather = Callable[[Bench], dict[str, Any]]
_GATHERS: dict[str, Gather] = {}
_FIELDS: dict[str, tuple[str, ...]] = {}


def gathers(name: str, fields: tuple[str, ...] = ()) -> Callable[[Gather], Gather]:
    """Mark a function as the one that gathers what a room's page shows; ``fields`` stand outside its live part, and
    follow by themselves where a change gives them another default."""

    def keep(function: Gather) -> Gather:
        _GATHERS[name] = function
        _FIELDS[name] = fields
        return function

    return keep


def context_of(name: str, b: Bench) -> dict[str, Any]:
    return _GATHERS[name](b)


def fields_of(name: str) -> tuple[str, ...]:
    return _FIELDS.get(name, ())


def new_page() -> str:
    """A name for one opened page, so that a page is never in conflict with itself."""
    return secrets.token_hex(8)
