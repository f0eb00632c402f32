"""How much memory an answer holds, so that what is kept can be bounded in bytes."""

import ctypes
import gc
from sys import getsizeof
from types import BuiltinFunctionType, FunctionType, ModuleType

import numpy as np

from clavis.core.parts.catalogue import Catalogue
from clavis.core.physics.road import Track

ARENA_MAX, ARENAS = -8, 2
"""glibc's ``M_ARENA_MAX``: by itself it gives every thread a heap of its own, each with holes"""
MMAP_THRESHOLD, LARGE_BYTES = -3, 1 << 18
"""glibc's ``M_MMAP_THRESHOLD``: what is larger has pages of its own, which go back as soon as it is free; by itself it
learns to take large tables from the heaps, where they leave holes"""


def _c_library() -> ctypes.CDLL | None:
    try:
        library = ctypes.CDLL("libc.so.6")
    except OSError:  # another system, which has its own ways
        return None
    return library if hasattr(library, "mallopt") and hasattr(library, "malloc_trim") else None


def share_heaps() -> None:
    """Called before threads begin: they share a few heaps, without holes of large tables; with twenty people that is a
    quarter of the memory."""
    if (library := _c_library()) is not None:
        library.mallopt(ARENA_MAX, ARENAS)
        library.mallopt(MMAP_THRESHOLD, LARGE_BYTES)


def give_back() -> None:
    """What is free goes back to the system."""
    if (library := _c_library()) is not None:
        library.malloc_trim(0)


COMMON = (type, ModuleType, FunctionType, BuiltinFunctionType)
"""of the program, not of an answer"""
SHARED = (Catalogue, Track)
"""kept as answers of their own, and only named by others"""


def held_bytes(answer: object) -> int:
    """Memory in bytes of an answer and of everything that it alone leads to; what two answers share is counted with
    each, so that the sum is an upper bound."""
    total, todo = 0, [answer]
    seen: dict[int, object] = {}  # by their place in memory, and held, so that no other object takes it meanwhile
    while todo:
        fresh: list[object] = []
        for thing in todo:
            if id(thing) in seen or isinstance(thing, COMMON) or (isinstance(thing, SHARED) and thing is not answer):
                continue
            seen[id(thing)] = thing
            total += thing.nbytes if isinstance(thing, np.ndarray) else getsizeof(thing)
            fresh.append(thing)
        todo = gc.get_referents(*fresh)
    return total
