"""The real application in a process of its own, driven in Debian's Chromium."""

import os
import re
import shutil
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect, sync_playwright

from clavis.store import jobs, looking_after

PATIENCE_MS = 60_000  # a slow machine is not a fault
expect.set_options(timeout=PATIENCE_MS)

ARGUMENTS = [
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync", "--font-render-hinting=none",
]  # fmt: skip


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def launch(
    command: str, database: Path, *, instruments: bool = False, more: tuple[str, ...] = ()
) -> tuple[subprocess.Popen[bytes], str]:
    """``clavis demo`` or ``clavis serve`` on a free port, with the stand-ins of the road only where they are wanted; it
    may not answer yet."""
    port = _free_port()
    process = subprocess.Popen(
        [sys.executable, "-m", "clavis.cli", command, "--database", str(database), *more],
        env={**os.environ, **({} if instruments else {"CLAVIS_INSTRUMENTS": "{}"}), "PORT": str(port)},
        stdout=subprocess.DEVNULL,
    )
    return process, f"http://127.0.0.1:{port}"


def answering(process: subprocess.Popen[bytes], address: str) -> tuple[subprocess.Popen[bytes], str]:
    """Waits until it answers."""
    for _ in range(300):
        try:
            urllib.request.urlopen(f"{address}/alive", timeout=2)
            return process, address
        except OSError:
            if process.poll() is not None:
                raise RuntimeError(f"clavis ended with {process.returncode}") from None
            time.sleep(0.1)
    process.kill()
    raise RuntimeError("clavis did not answer")


def start(
    command: str, database: Path, *, instruments: bool = False, more: tuple[str, ...] = ()
) -> tuple[subprocess.Popen[bytes], str]:
    """One that answers."""
    return answering(*launch(command, database, instruments=instruments, more=more))


def chromium() -> str:
    """Debian's Chromium, by preference the one that never had a screen: the same pages for a quarter less work."""
    path = shutil.which("chromium-headless-shell") or shutil.which("chromium")
    assert path, "chromium is missing: run  make chromium"
    return path


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        opened = playwright.chromium.launch(executable_path=chromium(), args=ARGUMENTS)
        yield opened
        opened.close()


@pytest.fixture(scope="session")
def served_demo(tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[str, Path, Path]]:
    """Address and database of an application with the demo world, and a copy of that as it began."""
    folder = tmp_path_factory.mktemp("demo")
    here, begun = folder / "demo.db", folder / "begun.db"
    process, address = start("demo", here)
    looking_after.copy(here, begun)
    yield address, here, begun
    process.terminate()
    process.wait(timeout=10)


@pytest.fixture(scope="module")
def demo(served_demo: tuple[str, Path, Path]) -> str:
    """Address of an application with the demo world as it began: what another module left behind is gone."""
    address, here, begun = served_demo
    looking_after.restore(begun, here, jobs.now())
    return address


@pytest.fixture(scope="module")
def empty(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """Address of an application that started empty."""
    process, address = start("serve", tmp_path_factory.mktemp("empty") / "clavis.db")
    yield address
    process.terminate()
    process.wait(timeout=10)


@pytest.fixture
def page(browser: Browser) -> Iterator[Page]:
    """A fresh browser profile at the design size. Any script error or refused resource fails the test."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, accept_downloads=True)
    context.set_default_timeout(PATIENCE_MS)
    opened = context.new_page()
    problems: list[str] = []
    opened.on("pageerror", lambda error: problems.append(str(error)))
    opened.on("console", lambda m: problems.append(m.text) if m.type == "error" else None)
    yield opened
    context.close()
    # a refused entry or a busy Clavis is an answer, not a fault; nor is a request that is not waited for any more
    expected = (
        r"(status of|Status Error Code) (4|503)|^htmx:(afterRequest|sendAbort|sendError),|ERR_INTERNET_DISCONNECTED"
    )
    assert [p for p in problems if not re.search(expected, p)] == []
