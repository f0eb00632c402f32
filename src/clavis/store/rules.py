"""A mark of the core's own text: another one whenever a rule is another. What was worked out and kept is then made
anew."""

from functools import lru_cache
from hashlib import sha256
from importlib.resources import files
from importlib.resources.abc import Traversable


@lru_cache(maxsize=1)
def rules_mark() -> str:
    """The same for the same text of the core; read once in a program's life."""
    mark = sha256()
    for room in _in_order(files("clavis.core")):
        for page in [room] if room.is_file() else _in_order(room):
            if page.name.endswith(".py"):
                mark.update(page.read_bytes())
    return mark.hexdigest()[:16]


def _in_order(folder: Traversable) -> list[Traversable]:
    return sorted(folder.iterdir(), key=lambda at: at.name)
