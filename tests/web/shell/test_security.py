"""Guards: foreign changes, foreign hosts, sizes, headers; vendored assets are what the manifest says."""

import hashlib
import json
import re
from pathlib import Path

import pytest
from starlette.testclient import TestClient

WEB = Path(__file__).parents[3] / "src" / "clavis" / "web"
VENDOR = WEB / "vendor"


@pytest.mark.parametrize(
    ("headers", "passes"),
    [
        ({"sec-fetch-site": "same-origin"}, True),
        ({"sec-fetch-site": "cross-site"}, False),
        ({"sec-fetch-site": "same-site"}, False),
        ({"sec-fetch-site": "none"}, False),
        ({"sec-fetch-site": "cross-site", "origin": "http://testserver"}, False),
        ({"origin": "http://testserver"}, True),
        ({"origin": "http://elsewhere"}, False),
        ({"origin": "null"}, False),
        ({}, False),
    ],
)
def test_a_change_must_come_from_our_own_page(client: TestClient, headers: dict[str, str], passes: bool) -> None:
    del client.headers["sec-fetch-site"]
    answer = client.post("/jobs", data={"title": "x"}, headers=headers)
    assert answer.status_code == (303 if passes else 403)


def test_a_foreign_host_is_refused(client: TestClient) -> None:
    assert client.get("/", headers={"host": "evil.example"}).status_code == 400


def test_every_answer_carries_the_policy(client: TestClient) -> None:
    for path in ("/", "/jobs/7/choose", "/static/shell/shell.css", "/nowhere"):
        headers = client.get(path).headers
        policy = headers["content-security-policy"]
        assert "script-src 'self'" in policy
        assert "unsafe" not in policy
        assert headers["x-content-type-options"] == "nosniff"
    refused = client.post("/jobs", data={}, headers={"sec-fetch-site": "cross-site"})
    assert "default-src 'none'" in refused.headers["content-security-policy"]


def test_who_only_looks_whether_a_page_is_there_is_told_what_reading_would_be(client: TestClient) -> None:
    """A monitor or a proxy asks so."""
    for path in ("/alive", "/", "/static/shell/shell.css", "/jobs/7/export", "/nowhere", "/jobs/999999/choose"):
        read, looked = client.get(path), client.head(path)
        assert looked.status_code == read.status_code, path
        assert looked.headers.get("content-type") == read.headers.get("content-type")
    assert client.head("/jobs/7/field").status_code == 405  # what changes something is not looked at


def test_no_page_has_inline_script_or_style(client: TestClient) -> None:
    for path in (
        "/",
        "/parts",
        "/keys",
        *(f"/jobs/7/{s}" for s in ("intake", "measure", "ride", "choose", "fit", "build")),
    ):
        page = client.get(path).text
        assert not re.search(r"<script(?![^>]*(src=|application/json))", page), path
        assert not re.search(r"\sstyle\s*=", page), path
        assert not re.search(r"\son[a-z]+\s*=", page), path
        assert "http://" not in page.replace("http://www.w3.org", ""), path


def test_a_body_too_large_is_answered_and_not_kept(client: TestClient) -> None:
    answer = client.post("/jobs", data={"title": "x" * 3_200_000})
    assert answer.status_code == 413
    assert "larger than 3 MB" in answer.text


def test_vendored_assets_are_what_the_manifest_says() -> None:
    rows = json.loads((VENDOR / "manifest.json").read_text(encoding="utf-8"))["assets"]
    listed = {row["file"] for row in rows}
    there = {
        p.relative_to(VENDOR).as_posix() for p in VENDOR.rglob("*")
        if p.is_file() and p.name != "manifest.json" and p.parent.name != "licences"
    }  # fmt: skip
    assert listed == there
    for row in rows:
        assert hashlib.sha256((VENDOR / row["file"]).read_bytes()).hexdigest() == row["sha256"], row["file"]
        assert row["version"]
        assert row["licence"]
        assert (VENDOR / row["licence_file"]).stat().st_size > 200


def test_styles_and_scripts_ask_for_nothing_from_outside() -> None:
    for path in [p for kind in ("css", "js", "html") for p in WEB.glob(f"[!v]*/*.{kind}")]:
        text = path.read_text(encoding="utf-8")
        assert not re.search(r"(https?:)?//[a-z0-9-]+\.[a-z]", text.replace("http://www.w3.org", "")), path.name


def test_no_template_does_arithmetic() -> None:
    """Numbers are made in the core; a template that multiplies would be a second place for them."""
    for path in WEB.rglob("*.html"):
        for inside in re.findall(r"\{\{(.*?)\}\}|\{%(.*?)%\}", path.read_text(encoding="utf-8"), re.S):
            code = re.sub(r"([\"']).*?\1", "", "".join(inside))
            assert not re.search(r"\w\s*[*/]\s*\w|\w\s-\s\w", code), f"{path.name}: {code.strip()}"
            assert not re.search(r"[\w)]\s\+\s[\w(]", code.replace("k + 1", "")), f"{path.name}: {code.strip()}"
