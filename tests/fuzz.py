"""Odd requests at every route: what the served description of the routes names is asked for with values that nobody
meant. Seeds are fixed, so that a failure comes again. ``make fuzz`` asks 20,000 of them; ``python -m tests.fuzz 20000 700``
asks others."""

import random
import sys
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from traceback import extract_tb
from typing import Any

from fastapi import FastAPI
from fastapi.openapi.utils import get_openapi
from starlette.testclient import TestClient

ODD_TEXTS = (
    "", " ", "0", "-1", "1", "2", "7", "front", "rear", "x", "true", "on", "²", "٣", "9" * 25, "-" + "9" * 400, "1e309",
    "nan", "inf", "-inf", "1e-400", "0x10", "1_000", "1,5", "1.5.2", "日本", "é" * 200, "a" * 5000, "\x00", "\ufeff",
    "../../etc/passwd", "%00", "%2e%2e", "' or 1=1 --", "<script>alert(1)</script>", "=1+1", "{}", "[]", "null",
    '{"a": 1}', "[[[[", "2026-02-30", "9999-12-31", "0001-01-01", "-5", "1/0", "\u202e", "\ud7ff", "😀", "\r\nX: y",
    "rider.mass_kg", "rides.pass.sections.0.speed_kmh", "front.rotor_id", "signed_off", "signed_before", "proposal.front",
    "special.front.release", "stay.state", "archived", "title", "id", "..", "a.b.c.d", ".", "rides", "typed", "ticks.x",
)  # fmt: skip
"""values for any place"""
HEADERS: tuple[dict[str, str], ...] = (
    {}, {}, {}, {"hx-request": "true"}, {"hx-request": "true", "hx-current-url": "http://["},
    {"hx-current-url": "http://testserver/jobs/7/choose?view=ladder&weather=wet&age=worn"},
    {"hx-current-url": "\xff\xfe"}, {"hx-current-url": "http://x/jobs/7/prove?show=%zz&place=%00"},
    {"cookie": "clavis_units=imperial; clavis_who=%00%FF; clavis_tour=9"}, {"if-none-match": "*"}, {"range": "bytes=9-1"},
    {"accept": "application/json"}, {"content-type": "application/json"}, {"x-forwarded-host": "evil"},
)  # fmt: skip
FILES: tuple[tuple[str, bytes], ...] = (
    ("a.gpx", b"<gpx><trk><trkseg/></trk></gpx>"), ("a.gpx", b"<!DOCTYPE x [<!ENTITY a 'b'>]><gpx>&a;</gpx>"),
    ("a.fit", b"\x0e\x10\x00\x00\x10\x00\x00\x00.FIT\x00\x00"), ("a.csv", b"a;b\n1;2\n3;4\n"), ("a.json", b"{"),
    ("a.json", b'{"format": "clavis-job", "version": 3, "job": {"title": "\\ud800"}}'), ("a.json", b"[" * 5000),
    ("a.jpg", b"\xff\xd8\xff\xe0" + b"\x00" * 64), ("", b""), ("x" * 300, b"\x00\x01"), ("a.zip", b"PK\x03\x04"),
    ("a.csv", "Ø;μ\n".encode("utf-16")), ("a.json", b'{"format": "clavis-rides", "version": 1e999}'),
)  # fmt: skip


@dataclass(frozen=True)
class Route:
    """One method of one address, with the names of what it takes."""

    method: str
    path: str
    query: tuple[str, ...]
    form: tuple[str, ...]
    files: tuple[str, ...]


def routes_of(app: FastAPI) -> list[Route]:
    """What the generated description names."""
    described = get_openapi(title="Clavis", version="0", routes=app.routes)
    schemas = described.get("components", {}).get("schemas", {})
    found = []
    for path, methods in described["paths"].items():
        for method, told in methods.items():
            query = tuple(p["name"] for p in told.get("parameters", ()) if p["in"] == "query")
            form: dict[str, Any] = {}
            for content in told.get("requestBody", {}).get("content", {}).values():
                schema = content.get("schema", {})
                name = schema.get("$ref", "").rpartition("/")[2]
                form |= schemas.get(name, schema).get("properties", {})
            files = tuple(
                n for n, s in form.items() if s.get("format") == "binary" or "contentMediaType" in s
            )  # fmt: skip
            found.append(Route(method.upper(), path, query, tuple(n for n in form if n not in files), files))
    return found


def _value(dice: random.Random, name: str) -> str:
    if dice.random() < 0.3:
        known = {"job_id": "12345678", "bike_id": "123456", "end": "fr", "room": "cmi", "page": "0p", "base": "19"}
        usual = {"c": "choose", "m": "measure", "i": "intake", "f": "front", "r": "rear"}
        letter = dice.choice(known.get(name, "1"))
        return usual.get(letter, letter)
    return dice.choice(ODD_TEXTS)


def requests(routes: list[Route], seed: int) -> Iterator[dict[str, Any]]:
    """Without an end: as the client takes them."""
    dice = random.Random(seed)
    while True:
        route = dice.choice(routes)
        path = route.path
        for name in [part.split("}")[0] for part in path.split("{")[1:]]:
            plain = name.partition(":")[0]
            value = _value(dice, plain) if dice.random() < 0.5 else _plausible(dice, plain)
            path = path.replace("{" + name + "}", _quoted(value))
        sent: dict[str, Any] = {"method": route.method, "url": path, "headers": dice.choice(HEADERS)}
        names = [*route.query, *(["anything"] if dice.random() < 0.1 else [])]
        sent["params"] = {name: _value(dice, name) for name in names if dice.random() < 0.7}
        if route.method == "POST":
            form = {name: _value(dice, name) for name in (*route.form, "page", "base") if dice.random() < 0.8}
            if dice.random() < 0.05:
                sent["content"] = dice.choice((b"\xff" * 90, b"a=%zz&b=%ed%a0%80", b"{", b"--x\r\n"))
            else:
                sent["data"] = form
            if route.files and dice.random() < 0.9:
                sent["files"] = {name: dice.choice(FILES) for name in route.files}
        yield sent


def _plausible(dice: random.Random, name: str) -> str:
    if name.endswith("_id") or name in ("number", "version", "job", "page"):
        return str(dice.randint(1, 9))
    if name in ("end", "source", "lane"):
        return dice.choice(("front", "rear"))
    return dice.choice(("front", "rotor", "rider.mass_kg", "front.rotor_id", "title", "rides", "1", "choose"))


def _quoted(value: str) -> str:
    from urllib.parse import quote

    return quote(value, safe="") or "-"


def wrong_of(client: TestClient, seed: int, count: int) -> list[tuple[dict[str, Any], int, str]]:
    """The requests of a seed that were answered by a fault."""
    found = []
    for k, sent in enumerate(requests(routes_of(client.app), seed)):  # type: ignore[arg-type]
        if k == count:
            break
        try:
            answer = client.request(**sent)
        except Exception as error:  # a fault of ours comes through: the client raises it
            places = [f"{f.filename.rpartition('/')[2]}:{f.lineno}" for f in extract_tb(error.__traceback__)]
            if any("clavis" in f.filename and "/src/" in f.filename for f in extract_tb(error.__traceback__)):
                found.append((sent, 500, f"{type(error).__name__}: {error!s:.160} at {' '.join(places[-4:])}"))
            continue  # else it is what the client itself will not send
        if answer.status_code >= 500:
            found.append((sent, answer.status_code, answer.text[:200]))
    return found


def main(count: int = 20_000, first_seed: int = 0) -> int:
    """Ask, tell what failed, and end with how much that was; other seeds ask other things."""
    import logging
    import shutil
    import tempfile

    from clavis.demo import world
    from clavis.store import database
    from tests.conftest import browserlike

    logging.disable(logging.CRITICAL)
    folder = Path(tempfile.mkdtemp())
    engine = database.open_engine(folder / "demo.db")
    with database.sessions(engine)() as session:
        world.fill_if_empty(session)
    engine.dispose()
    wrong = []
    for at in range(max(count // 500, 1)):
        seed = first_seed + at
        copy = folder / f"{seed}.db"
        shutil.copy(folder / "demo.db", copy)
        client = browserlike(copy)
        wrong += wrong_of(client, seed, min(count, 500))
        client.app.state.engine.dispose()  # type: ignore[attr-defined]
        copy.unlink()
        sys.stdout.write(f"{(at + 1) * 500} asked, {len(wrong)} answered by a fault\n")
        sys.stdout.flush()
    for sent, status, words in wrong[:60]:
        sys.stdout.write(f"{status} {sent}\n   {words}\n")
    shutil.rmtree(folder, ignore_errors=True)
    return min(len(wrong), 100)


if __name__ == "__main__":
    sys.exit(main(*map(int, sys.argv[1:3])))
