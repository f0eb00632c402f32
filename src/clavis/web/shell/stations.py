"""The registry of rooms: which function gathers what a room's page shows."""

import secrets
from collections.abc import Callable
from typing import Any

from clavis.web.shell.bench import Bench

Gather = Callable[[Bench], dict[str, Any]]
_GATHERS: dict[str, Gather] = {}


def station(name: str) -> Callable[[Gather], Gather]:
    """Mark a function as the one that gathers what a room's page shows."""

    def keep(function: Gather) -> Gather:
        _GATHERS[name] = function
        return function

    return keep


def context_of(name: str, b: Bench) -> dict[str, Any]:
    return _GATHERS[name](b)


def new_page() -> str:
    """A name for one opened page, so that a page is never in conflict with itself."""
    return secrets.token_hex(8)
