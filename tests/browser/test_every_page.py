"""Every page as eye and hand meet it: nothing cut off, nothing over another, no target too small, nothing that axe-core
calls serious; in both themes on the bench, upright, at twice the size and at the bike."""

from pathlib import Path

import axe_playwright_python
import pytest
from playwright.sync_api import Browser, Page

from clavis.web.build.views import BuildView
from clavis.web.choose.views import View
from clavis.web.prove.views import ProveView

pytestmark = pytest.mark.browser

LOOKED = (Path(__file__).parent / "looked.js").read_text(encoding="utf-8")
AXE = (Path(axe_playwright_python.__file__).parent / "axe.min.js").read_text(encoding="utf-8")
GRAVE = """() => axe.run(document, {resultTypes: ["violations"]}).then((told) => told.violations
  .filter((v) => ["serious", "critical"].includes(v.impact))
  .map((v) => `${v.id}: ${v.nodes.slice(0, 3).map((n) => `${n.target.join(" ")} (${n.any[0]?.message ?? ""})`).join("; ")}`))"""

TANDEM = 7
HOUSE = (
    "/", "/?search=tandem", "/due", "/bikes", "/bikes/1", "/bikes/4", "/people/1", "/parts", "/parts?kind=adapter",
    "/parts?kind=fork", "/parts/line/u-two-22", "/parts/new/rotor", "/rides", "/rules", "/keys",
    "/guide/choose", "/guide/glossary", "/kept/job/7", "/kept/bike/4",
)  # fmt: skip
STATIONS = (
    "intake", "guide", "ride", "fit", "special", "work", "keep", "history", "compare", "papers/quote", "papers/handover",
    *(f"build?view={view.value}" for view in BuildView), *(f"prove?view={view.value}" for view in ProveView),
    *(f"choose?view={view.value}" for view in View if view is not View.COMPARE),
)  # fmt: skip
PLACES = tuple(f"measure?place={place}" for place in ("mount", "hub", "rotor", "pads", "caliper", "lever", "room"))
OF_JOB = tuple(f"/jobs/{TANDEM}/{page}" for page in (*STATIONS, *PLACES))
MAIN = tuple(
    f"/jobs/{TANDEM}/{page}"
    for page in ("intake", "measure?place=rotor", "ride", "choose", "fit", "build", "prove", "keep")
)
IN_THE_DARK = (
    "/", "/bikes/4", "/people/1", "/parts?kind=adapter", "/rides", "/rules", "/guide/choose", "/kept/job/7", *MAIN,
    f"/jobs/{TANDEM}/choose?view=candidates", f"/jobs/{TANDEM}/choose?view=tradeoffs", f"/jobs/{TANDEM}/build?view=torques",
    f"/jobs/{TANDEM}/prove?view=result",
)  # fmt: skip
"""pages that are read in both themes: between them they show whatever there is to show"""
AT_THE_BIKE = tuple(f"/jobs/{TANDEM}/{page}" for page in (*PLACES, "work", "bedding/front", "prove?view=runs"))


def opened(browser: Browser, address: str, size: tuple[int, int], **how) -> Page:
    context = browser.new_context(
        viewport={"width": size[0], "height": size[1]}, bypass_csp=True, reduced_motion="reduce", **how
    )
    context.add_cookies([{"name": "clavis_who", "value": "Tess", "url": address}])
    page = context.new_page()
    page.set_default_timeout(60_000)
    return page


CONTRAST = """() => axe.run(document, {runOnly: ["color-contrast", "link-in-text-block"], resultTypes: ["violations"]})
  .then((told) => told.violations.flatMap((v) => v.nodes.map((n) => `${v.id}: ${n.target.join(" ")} ${n.any[0]?.message}`)))"""
LATE = ("/choose", "/compare", "/prove", "/build", "/measure", "/ride")
"""pages that send for pieces of theirs when they are there"""


def arrived(page: Page, address: str) -> None:
    page.goto(address)
    page.wait_for_load_state("networkidle" if any(part in address for part in LATE) else "load")


MOST_TALL_PX = 1600


def seen(page: Page, address: str, *, axe: bool) -> list[str]:
    """What an eye would stumble over on a page, and what axe-core finds grave; in the dark, its contrast."""
    arrived(page, address)
    found = page.evaluate(LOOKED)
    if (
        "/choose?" in address
        and axe
        and (tall := page.evaluate("document.documentElement.scrollHeight")) > MOST_TALL_PX
    ):
        found.append(f"{tall} px tall: more than two screens")
    if axe:
        page.evaluate(AXE)
        found += page.evaluate(GRAVE)
    if axe and any(address.endswith(path) for path in IN_THE_DARK):
        page.emulate_media(color_scheme="dark")
        found += [f"in the dark, {told}" for told in page.evaluate(CONTRAST)]
        page.emulate_media(color_scheme="light")
    if axe and any(address.endswith(path) for path in HOUSE):
        found += [f"turned upright, {told}" for told in turned(page)]
    return found


def turned(page: Page) -> list[str]:
    """The same page on a tablet that is turned upright, for a finger."""
    hand, size = page.context.new_cdp_session(page), page.viewport_size
    assert size
    hand.send("Emulation.setTouchEmulationEnabled", {"enabled": True, "maxTouchPoints": 1})
    page.set_viewport_size({"width": 800, "height": 1280})
    assert page.evaluate("matchMedia('(pointer: coarse)').matches")
    found: list[str] = page.evaluate(LOOKED)
    hand.send("Emulation.setTouchEmulationEnabled", {"enabled": False})
    page.set_viewport_size(size)
    hand.detach()
    return found


def stumbles(browser: Browser, address: str, size: tuple[int, int], paths: tuple[str, ...], *, axe: bool = True, **how):
    page = opened(browser, address, size, **how)
    try:
        found = {path: told for path in paths if (told := seen(page, address + path, axe=axe))}
    finally:
        page.context.close()
    return found


@pytest.mark.parametrize("paths", [HOUSE, OF_JOB], ids=["house", "job"])
def test_on_the_bench(browser: Browser, demo: str, paths: tuple[str, ...]) -> None:
    assert stumbles(browser, demo, (1280, 800), paths) == {}


def test_upright_on_a_tablet(browser: Browser, demo: str) -> None:
    """Stations as they are opened there; pages of the house are turned upright where they are looked at."""
    assert stumbles(browser, demo, (800, 1280), MAIN, axe=False, has_touch=True) == {}


def test_at_twice_the_size(browser: Browser, demo: str) -> None:
    """A zoom of 200 % halves the window: no page is wider than it."""
    assert stumbles(browser, demo, (640, 400), (*HOUSE[2::4], *MAIN), axe=False) == {}


def test_at_the_bike(browser: Browser, demo: str) -> None:
    assert stumbles(browser, demo, (390, 844), AT_THE_BIKE, axe=False, has_touch=True, is_mobile=True) == {}


def _name_is_asked(page: Page) -> None:
    page.context.clear_cookies()
    page.reload()
    page.locator("[data-ask-name]").click()


def _working(page: Page) -> None:
    page.locator("[hx-get*='/why/']").first.click()
    page.locator("#why h2").wait_for()


def _part_in_passing(page: Page) -> None:
    page.locator(".btn-add").first.click()
    page.get_by_role("button", name="Add this").click()
    page.locator("#why .problem").first.wait_for()


def _refused_entry(page: Page) -> None:
    page.locator("#f-rider-mass_kg").fill("a lot")
    page.locator("#f-rider-mass_kg").press("Tab")
    page.locator(".has-error").first.wait_for()


def _without_network(page: Page) -> None:
    page.route("**/field", lambda route: route.abort("internetdisconnected"))
    page.locator("#f-rider-mass_kg").fill("81")
    page.locator("#f-rider-mass_kg").press("Tab")
    page.locator("#saving[data-state=not]").wait_for()


def _tour(page: Page) -> None:
    page.get_by_role("button", name="Tour in six steps").click()
    page.locator(".tour").wait_for()


def _fitting(page: Page) -> None:
    page.locator("details.fitting summary").click()
    page.locator(".fitting-form select").first.wait_for()


STATES = (
    (f"/jobs/{TANDEM}/choose", _working), (f"/jobs/{TANDEM}/measure?place=rotor", _part_in_passing),
    (f"/jobs/{TANDEM}/intake", _refused_entry), (f"/jobs/{TANDEM}/intake", _without_network), ("/bikes/4", _fitting),
    ("/", _tour), ("/", _name_is_asked),
)  # fmt: skip


def test_in_every_state(browser: Browser, demo: str) -> None:
    """What opens over a page or beside it, and what it says when something goes wrong."""
    found = {}
    page = opened(browser, demo, (1280, 800))
    for path, reach in STATES:
        page.goto(demo + path)
        reach(page)
        page.evaluate(AXE)
        if told := page.evaluate(GRAVE):
            found[reach.__name__] = told
        page.unroute_all()
    page.context.close()
    assert found == {}


GREY_IN_THE_DARK = """<style>@media (prefers-color-scheme: dark) { body { background: #222 } p { color: #333 } }</style>
<p>Grey on grey by night alone</p>"""


def test_what_is_wrong_by_night_alone_is_found_out(browser: Browser) -> None:
    page = browser.new_page(viewport={"width": 1280, "height": 800})
    page.set_content(f"<!doctype html><html lang='en'><title>Night</title><body>{GREY_IN_THE_DARK}")
    page.evaluate(AXE)
    assert page.evaluate(CONTRAST) == []
    page.emulate_media(color_scheme="dark")
    assert any(told.startswith("color-contrast") for told in page.evaluate(CONTRAST))
    page.close()


BROKEN = {
    "cut": "<div style='width:60px;overflow:hidden;white-space:nowrap'>Nobody can read the end of this</div>",
    "over": "<p style='margin:0'>One line</p><p style='margin:-18px 0 0'>Another</p>",
    "wide": "<div style='width:2000px'>As wide as a barn</div>",
    "beyond": "<div style='position:absolute;left:1240px;white-space:nowrap'>Beyond the edge of it</div>",
    "small": "<button style='height:12px;font-size:8px;padding:0'>x</button>",
}


@pytest.mark.parametrize("what", list(BROKEN))
def test_a_page_that_is_broken_on_purpose_is_found_out(browser: Browser, what: str) -> None:
    page = browser.new_page(viewport={"width": 1280, "height": 800})
    page.set_content(f"<!doctype html><html lang='en'><title>Broken</title><body>{BROKEN[what]}</body></html>")
    assert any(told.startswith(what) for told in page.evaluate(LOOKED))
    page.set_content("<!doctype html><html lang='en'><title>Whole</title><body><p>All is well.</p></body></html>")
    assert page.evaluate(LOOKED) == []
    page.close()


FAINT = """() => {
  const light = (colour) => { const [r, g, b] = colour.match(/[\\d.]+/g).map((v) => v / 255)
    .map((v) => (v <= 0.03928 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4)); return 0.2126 * r + 0.7152 * g + 0.0722 * b; };
  return [...document.querySelectorAll(".drawn svg text:not(.on-dark)")].flatMap((text) => {
    const paper = getComputedStyle(text.ownerSVGElement).backgroundColor, ink = getComputedStyle(text).fill;
    if (paper === "rgba(0, 0, 0, 0)") return [`${text.textContent}: no paper`];
    const [a, b] = [light(paper), light(ink)].sort((x, y) => y - x);
    return (a + 0.05) / (b + 0.05) < 4.5 ? [`${text.textContent}: ${ink} on ${paper}`] : [];
  });
}"""
"""axe-core does not look at the words of a drawing"""


def test_drawings_are_on_paper_in_the_dark_as_well(browser: Browser, demo: str) -> None:
    page = opened(browser, demo, (1280, 800), color_scheme="dark")
    faint = {}
    for path in PLACES:
        page.goto(f"{demo}/jobs/{TANDEM}/{path}")
        assert page.locator(".drawn svg text").count() > 2
        if told := page.evaluate(FAINT):
            faint[path] = told
    page.context.close()
    assert faint == {}
