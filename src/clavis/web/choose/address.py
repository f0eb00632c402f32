"""The query of a page's address: how its words are changed."""

from collections.abc import Mapping
from urllib.parse import urlencode


def address(asked: Mapping[str, str], name: str, value: str) -> str:
    """The query of the page that is open with one word of it changed, or taken out where ``value`` is empty."""
    words = {k: v for k, v in asked.items() if k != name} | ({name: value} if value else {})
    return f"?{urlencode(words)}"
