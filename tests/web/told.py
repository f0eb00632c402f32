"""What a page tells, without its markup, entities and narrow spaces."""

import re
from html import unescape

from httpx import Response
from starlette.testclient import TestClient


def told(answer: Response) -> str:
    """The words of a page or piece in a row, each space a plain one."""
    text = unescape(re.sub(r"<[^>]+>", " ", answer.text))
    return re.sub(r"\s+", " ", text)


def told_at(client: TestClient, address: str, **query: str) -> str:
    """The words of the page at an address; the board's once its rows are worked out."""
    if address == "/":
        client.app.state.rows.catch_up()  # type: ignore[attr-defined]
    return told(client.get(address, params=query))


def entries_of(answer: Response) -> dict[str, str]:
    """What stands in the entries of a page's forms, by name."""
    tags = re.findall(r"<input\b[^>]*>", answer.text)
    attributes = (dict(re.findall(r'([\w-]+)="([^"]*)"', tag)) for tag in tags)
    return {a["name"]: unescape(a.get("value", "")) for a in attributes if "name" in a}
