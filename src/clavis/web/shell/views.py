"""Views of one page: each reached by its tab or its key, with its word in the address."""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Generic, TypeVar
from urllib.parse import urlencode

V = TypeVar("V", bound=StrEnum)


def address(asked: Mapping[str, str], name: str, value: str) -> str:
    """The query of the page that is open with one word of it changed, or taken out where ``value`` is empty."""
    words = {k: v for k, v in asked.items() if k != name} | ({name: value} if value else {})
    return f"?{urlencode(words)}"


@dataclass(frozen=True)
class ViewRow(Generic[V]):
    """A view, what its tab is called, and the key that opens it."""

    view: V
    word: str
    key: str
    about: str


@dataclass(frozen=True)
class Tab(Generic[V]):
    row: ViewRow[V]
    address: str
    current: bool


def view_in(asked: Mapping[str, str], first: V) -> V:
    """The view that the address of the page asks for; the first where it asks for none that there is."""
    views = type(first)
    wanted = asked.get("view", "")
    return views(wanted) if wanted in {v.value for v in views} else first
