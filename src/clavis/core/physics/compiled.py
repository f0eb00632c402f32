"""Compiling by numba: how every loop of the physics is compiled, once, and kept.

``clavis warm`` compiles at set-up. Why compiled: docs/decisions/003-compiled-heat-loop.md.
"""

from collections.abc import Callable
from typing import Any, TypeVar, cast

import numba

F = TypeVar("F", bound=Callable[..., Any])

_LOOSE = {"nsz", "arcp", "contract", "reassoc"}  # not nnan, ninf: infinities are meant


def compiled(function: F) -> F:
    """A loop over arrays, compiled at its first use; the result is kept on disk."""
    return cast(F, numba.njit(cache=True, nogil=True, error_model="numpy", fastmath=_LOOSE)(function))


def inlined(function: F) -> F:
    """Put into the loop that calls it, so that the loop stays straight."""
    return cast(F, numba.njit(inline="always", error_model="numpy", fastmath=_LOOSE)(function))
