"""Write docs/screenshots afresh from the demo world: one current picture of each main view."""

import sys
import tempfile
from base64 import b64encode
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT))
TARGET = ROOT / "docs" / "screenshots"
TANDEM, CARGO, GRAVEL, HIRE, COMMUTER, FOLDING = 7, 6, 5, 4, 3, 1

from tests.browser.conftest import ARGUMENTS, chromium, start  # noqa: E402


def shoot(page: Page, address: str, name: str, path: str, *, wait: str = "") -> None:
    page.goto(address + path)
    page.wait_for_load_state("networkidle")
    if wait:
        page.wait_for_selector(wait)
    page.wait_for_timeout(400)
    page.screenshot(path=TARGET / f"{name}.png")


def typed(page: Page, address: str, job: int, path: str, value: str) -> None:
    """One field of a job, as its page sends it."""
    form = {"path": path, "value": value, "base": "9999", "room": "measure", "page": "p"}
    answer = page.request.post(f"{address}/jobs/{job}/field", form=form, headers={"sec-fetch-site": "same-origin"})
    assert answer.ok, answer.text()


def gate(page: Page, address: str) -> None:
    """The gate at each severity, one under the other: barred, to be settled, to be answered for, answered, signed,
    void."""
    pieces: list[bytes] = []

    def keep(selector: str) -> None:
        page.wait_for_selector(selector)
        pieces.append(page.locator(selector).first.screenshot())

    typed(page, address, COMMUTER, "front.pistons", "stuck")
    page.goto(f"{address}/jobs/{COMMUTER}/build")
    keep(".gate-work")
    typed(page, address, COMMUTER, "front.pistons", "even")
    page.goto(f"{address}/jobs/{HIRE}/build")
    keep(".gate-signing")
    typed(page, address, COMMUTER, "rider.mass_kg", "130")  # whose rotors pass fade onset
    page.goto(f"{address}/jobs/{COMMUTER}/build")
    keep(".gate-name")
    page.locator(".gate-name input").first.fill("ridden in town alone, told the rider")
    page.locator(".gate-name button[type=submit]").first.click()
    keep(".gate-answered")
    page.goto(f"{address}/jobs/{GRAVEL}/build")
    open_steps = page.locator(".tick[aria-pressed=false]")
    for left in range(open_steps.count(), 0, -1):
        open_steps.first.click()
        page.wait_for_function("left => document.querySelectorAll('.tick[aria-pressed=false]').length < left", arg=left)
    page.get_by_role("button", name="Sign off", exact=True).click()
    keep(".stamp")
    typed(page, address, GRAVEL, "rider.mass_kg", "71")
    page.goto(f"{address}/jobs/{GRAVEL}/build")
    keep(".signed-before")
    pictures = "".join(
        f'<p><img src="data:image/png;base64,{b64encode(piece).decode()}"></p>' for piece in pieces
    )  # fmt: skip
    page.set_content(f"<main style='background:#fff;padding:16px;width:1248px'>{pictures}</main>")
    page.locator("main").screenshot(path=TARGET / "gate.png")


def main() -> None:
    TARGET.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder, sync_playwright() as playwright:
        process, address = start("demo", Path(folder) / "demo.db")
        browser = playwright.chromium.launch(executable_path=chromium(), args=ARGUMENTS)
        context = browser.new_context(viewport={"width": 1280, "height": 800})
        context.add_cookies([{"name": "clavis_who", "value": "Tess", "url": address}])
        page = context.new_page()
        page.goto(f"{address}/?search=tandem")  # the rows are worked out beside the pages
        page.wait_for_selector(".jobs .verdict", timeout=60_000)
        page.wait_for_timeout(3000)
        shoot(page, address, "board", "/", wait=".jobs .verdict")
        shoot(page, address, "due", "/due")
        shoot(page, address, "parts", f"/parts?fits={TANDEM}-front")
        shoot(page, address, "rules", "/rules?table=causes")
        shoot(page, address, "guide", f"/jobs/{HIRE}/guide")
        shoot(page, address, "measure", f"/jobs/{FOLDING}/measure?place=rotor")
        for station in ("intake", "ride", "choose", "fit", "build"):
            shoot(page, address, station, f"/jobs/{TANDEM}/{station}")
        shoot(page, address, "keep", f"/jobs/{COMMUTER}/keep", wait=".wear-picture")
        shoot(page, address, "prove", f"/jobs/{HIRE}/prove?view=result", wait=".run-picture svg")
        shoot(page, address, "special", f"/jobs/{CARGO}/special?end=front", wait=".plate svg")
        moment = ".moments-chart canvas"
        shoot(page, address, "along-the-ride", f"/jobs/{TANDEM}/choose?view=ride&show=fitted", wait=moment)
        shoot(page, address, "candidates", f"/jobs/{CARGO}/choose?view=candidates", wait=".pairing td")
        page.goto(f"{address}/jobs/{HIRE}/choose")
        for key in ("p", "f", "-", "p"):
            page.keyboard.press(key)
            page.wait_for_timeout(900)
        page.goto(f"{address}/jobs/{HIRE}/compare")
        page.wait_for_selector(".compare-sure .sub")
        page.wait_for_timeout(900)
        page.screenshot(path=TARGET / "compare.png")
        page.goto(f"{address}/jobs/{TANDEM}/work")
        for _ in range(15):
            page.locator("[data-next]").click()
        page.screenshot(path=TARGET / "work.png")
        gate(page, address)
        browser.close()
        process.terminate()
        process.wait(timeout=10)


if __name__ == "__main__":
    main()
