"""Speed in the browser, measured and reported, never asserted: part of ``make bench``."""

import pytest
from playwright.sync_api import Page

from tests.browser.test_walk import named

PAINTED = """([way]) => new Promise((done) => {
  const start = performance.now();
  const painted = (event) => {
    if (event.target.id !== "live") return;
    document.removeEventListener("htmx:oobAfterSwap", painted);
    requestAnimationFrame(() => requestAnimationFrame(() => done(performance.now() - start)));
  };
  document.addEventListener("htmx:oobAfterSwap", painted);
  document.body.dispatchEvent(new KeyboardEvent("keydown", { key: way, bubbles: true }));
})"""


@pytest.mark.parametrize("busy", [False, True], ids=["quiet", "while candidates are ranked"])
def test_a_nudge_from_key_to_painted_figures(benchmark, page: Page, demo: str, busy: bool) -> None:
    """Budget: under 200 ms in the browser, two frames after the sheet was drawn anew; uncached: every
    nudge is a new version of the job."""
    named(page, f"{demo}/jobs/7/choose")
    page.wait_for_selector(".sheet")
    if not busy:
        page.wait_for_selector("#ladder-rear tbody", timeout=60_000)
        page.wait_for_timeout(1500)
    ways = iter(["-", "-", "+", "+"] * 10_000)
    told: list[float] = []

    def nudge() -> None:
        told.append(page.evaluate(PAINTED, [next(ways)]))

    benchmark.pedantic(nudge, rounds=3 if busy else 20)
    benchmark.extra_info["painted_ms"] = sorted(told)[len(told) // 2]
    print(f"\nkey to painted: median {sorted(told)[len(told) // 2]:.0f} ms, most {max(told):.0f} ms")
