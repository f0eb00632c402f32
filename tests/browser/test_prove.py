"""Station 7 as it is used: planned, recorded with a stand-in that is held, read, calibrated, undone."""

import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import start
from tests.browser.test_walk import named

pytestmark = pytest.mark.browser


@pytest.fixture(scope="module")
def road(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """The demo world with the stand-ins of the road, each a process of its own."""
    process, address = start("demo", tmp_path_factory.mktemp("road") / "demo.db", instruments=True)
    yield address
    process.terminate()
    process.wait(timeout=10)


def test_from_the_question_to_the_answer(page: Page, road: str) -> None:
    named(page, road)
    page.goto(f"{road}/jobs/4/prove?new=1")
    offers = page.locator(".offers-of-trials")
    expect(offers).to_contain_text("B stops 1.33 m shorter")
    offers.get_by_role("button", name="Plan").first.click()
    expect(page.locator(".how-many")).to_contain_text("24 runs, 6 blocks of four")
    page.wait_for_load_state()
    page.keyboard.press("o")
    form = page.locator("#run-form")
    expect(form).to_contain_text("Run 1")

    # held by the mouse: live meanwhile, taken when it is let go, kept by Enter
    hold = form.locator("[data-hold]")
    hold.hover()
    page.mouse.down()
    expect(form.locator("output")).to_have_text(re.compile(r"\d\.\d\d\sm"))
    page.mouse.up()
    expect(form.locator("[name=distance_m]")).to_have_value(re.compile(r"^\d\.\d+$"))
    expect(form.locator("[name=speed_kmh]")).to_have_value(re.compile(r"^2\d\.\d$"))
    page.keyboard.press("Enter")
    expect(form).to_contain_text("Run 2")

    # by the keyboard alone; what cannot be read stays as typed
    expect(form.locator("[name=distance_m]")).to_be_focused()
    page.keyboard.type("far")
    page.keyboard.press("Enter")
    expect(form.locator("[aria-invalid]")).to_be_focused()
    expect(form.locator("[name=distance_m]")).to_have_value("far")
    form.locator("[name=distance_m]").fill("6.4")
    page.keyboard.press("Enter")
    expect(form).to_contain_text("Run 3")
    expect(page.locator(".runs-table tbody tr")).to_have_count(2)

    # the space bar holds it too
    form.locator("[data-hold]").focus()
    page.keyboard.down(" ")
    expect(form.locator("output")).to_have_text(re.compile(r"\d\.\d\d\sm"))
    page.keyboard.up(" ")
    expect(form.locator("[name=distance_m]")).to_have_value(re.compile(r"^\d\.\d+$"))

    page.goto(f"{road}/jobs/4/prove?trial=stops-shorter&view=result")
    expect(page.locator(".trial-answer")).to_contain_text("B stops 1.21 m shorter")
    expect(page.locator(".run-dot")).to_have_count(25)


def test_readings_calibration_and_undo(page: Page, road: str) -> None:
    named(page, road)
    page.goto(f"{road}/jobs/7/prove?view=temperatures")
    form = page.locator("#reading-form")
    form.get_by_role("button", name="Stopped now").click()
    hold = form.locator("[data-hold]")
    hold.hover()
    page.mouse.down()
    expect(form.locator("output")).to_have_text(re.compile(r"\d+\.\d\s°C"))
    page.mouse.up()
    expect(form.locator("[name=shown]")).to_have_value(re.compile(r"^\d"))
    form.get_by_role("button", name="Save").click()
    rows = page.locator(".readings-table tbody tr")
    expect(rows).to_have_count(11)
    rows.last.locator("summary").click()
    rows.last.locator("[name=reason]").fill("held too far away")
    rows.last.get_by_role("button", name="Leave out").click()
    expect(rows.last).to_contain_text("held too far away")

    page.get_by_role("button", name="Accept these readings").click()
    expect(page.locator(".accept-set")).to_contain_text("Accepted by Tess")
    page.wait_for_load_state()
    page.keyboard.press("c")
    expect(page.locator(".estimates")).to_contain_text("Share at the front")
    expect(page.locator(".head .tag")).to_have_count(0)
    page.get_by_role("button", name="Accept the calibration").click()
    expect(page.locator(".head .tag")).to_have_text("calibrated")
    page.get_by_role("button", name="Undo the calibration").click()
    expect(page.locator(".head .tag")).to_have_count(0)


def test_a_logged_ride_from_the_logger(page: Page, road: str) -> None:
    named(page, road)
    page.goto(f"{road}/jobs/5/prove?view=log")
    page.get_by_role("button", name="Download from the logger").click()
    expect(page.locator(".log-figures")).to_contain_text("of the energy, by pressure")
    expect(page.locator(".log-events tbody tr").first).to_be_visible()
