"""Build in the browser: the gate, ticks and sign-off, and a change that voids it."""

import pytest
from playwright.sync_api import Page, expect

from tests.browser.test_walk import named

pytestmark = pytest.mark.browser
GRAVEL, COMMUTER, HIRE = 5, 3, 4


def test_an_order_is_ticked_signed_and_voided_by_a_change(page: Page, demo: str) -> None:
    named(page, f"{demo}/jobs/{GRAVEL}/build")
    expect(page.get_by_role("button", name="Sign off", exact=True)).to_have_count(0)
    open_steps = page.locator(".tick[aria-pressed=false]")
    for left in range(open_steps.count(), 0, -1):
        expect(open_steps).to_have_count(left)
        open_steps.first.click()
    expect(open_steps).to_have_count(0)
    page.get_by_role("button", name="Sign off", exact=True).click()
    expect(page.locator(".stamp-stands")).to_contain_text("Signed off by")
    expect(page.locator(".stations a", has_text="Build")).to_contain_text("done")
    page.goto(f"{demo}/jobs/{GRAVEL}/intake")
    box = page.get_by_label("Rider's mass")
    box.fill("71")
    with page.expect_response(lambda r: r.url.endswith("/field")):
        box.press("Enter")
    page.goto(f"{demo}/jobs/{GRAVEL}/build")
    expect(page.locator(".stamp")).to_have_count(0)
    expect(page.locator(".signed-before")).to_contain_text("changed Rider's mass: 49.0 → 71")
    page.goto(f"{demo}/")
    expect(page.locator("tr", has_text="Gravel bike that grabs")).not_to_contain_text("signed off")


def test_what_is_unsafe_bars_the_ticks_until_the_part_comes_new(page: Page, demo: str) -> None:
    """The commuter: a piston of the front caliper is stuck. Nothing is ticked before the same caliper comes new. A heavy
    rider's rotors pass fade onset: that is answered for by name."""
    named(page, f"{demo}/jobs/{COMMUTER}/intake")
    box = page.get_by_label("Rider's mass")
    box.fill("130")
    with page.expect_response(lambda r: r.url.endswith("/field")):
        box.press("Enter")
    page.goto(f"{demo}/jobs/{COMMUTER}/measure?place=caliper")
    with page.expect_response(lambda r: r.url.endswith("/field")):
        page.locator("#f-front-pistons").select_option("stuck")
    page.goto(f"{demo}/jobs/{COMMUTER}/build")
    expect(page.locator(".gate-work")).to_contain_text("piston stuck: does not come back or does not move")
    expect(page.locator(".tick").first).to_be_disabled()
    page.locator(".gate-work").get_by_role("button", name="Into the order: new caliper").click()
    expect(page.locator(".gate-work")).to_have_count(0)
    page.goto(f"{demo}/jobs/{COMMUTER}/build?view=parts")
    renewals = page.get_by_role("group", name="New of the same model, or work done, front")
    expect(renewals.get_by_role("button", name="caliper")).to_have_attribute("aria-pressed", "true")
    expect(page.get_by_role("table", name="Parts")).to_contain_text("Brindewal Pull One")
    page.goto(f"{demo}/jobs/{COMMUTER}/build")
    page.locator(".tick").first.click()
    expect(page.locator(".tick").first).to_have_attribute("aria-pressed", "true")
    # what the ride asks beyond the brake is answered for by name, and printed
    gate = page.locator(".gate-name")
    gate.get_by_role("textbox").first.fill("rides at walking pace in town")
    gate.get_by_role("button", name="Answer for it").first.click()
    expect(page.locator(".gate-answered")).to_contain_text("rides at walking pace in town")


def test_work_mode_goes_on_offline_keeps_its_place_and_sends_its_ticks(page: Page, demo: str) -> None:
    """Two steps with the server, two without it, one skipped with a reason; the page opened anew stands where it was."""
    named(page, f"{demo}/jobs/{HIRE}/work")
    number, do, line = page.locator(".card:visible .card-n"), page.locator("[data-do]"), page.locator("[data-line]")
    expect(number).to_have_text("1")
    do.click()
    do.click()
    expect(number).to_have_text("3")
    expect(line).to_have_text("")
    page.context.set_offline(True)
    do.click()
    do.click()
    expect(line).to_contain_text("not reached: 2 kept here")
    page.get_by_role("button", name="Skip").first.click()
    page.get_by_label("Why it is skipped").fill("nothing to do here, seen")
    page.get_by_role("button", name="Skip it").click()
    expect(line).to_contain_text("3 kept here")
    expect(number).to_have_text("6")
    page.context.set_offline(False)
    expect(line).to_have_text("", timeout=15_000)
    page.goto(f"{demo}/jobs/{HIRE}/work")
    expect(page.locator(".card:visible .card-n")).to_have_text("6")
    page.get_by_role("button", name="Back").click()
    expect(page.locator(".card:visible [data-said]")).to_contain_text("nothing to do here, seen")
    page.goto(f"{demo}/jobs/{HIRE}/build")
    expect(page.locator(".tick[aria-pressed=true]")).to_have_count(5)
    expect(page.locator(".steps li.skipped")).to_contain_text("nothing to do here, seen")
    page.goto(f"{demo}/jobs/{HIRE}/work")
    while not page.locator("[data-do]").is_disabled():  # what must not be left out has no Skip
        if page.locator(".card:visible[data-needed]").count():
            break
        page.get_by_role("button", name="Next").click()
    expect(page.get_by_role("button", name="Skip").first).to_be_disabled()


def test_the_counter_counts_at_the_roadside_without_a_connection(page: Page, demo: str) -> None:
    page.set_viewport_size({"width": 390, "height": 844})
    page.clock.install()
    named(page, f"{demo}/jobs/{HIRE}/bedding/front")
    counter = page.locator("#counter")
    stops, pause = (int(counter.get_attribute(f"data-{name}")) for name in ("stops", "pause"))
    stop, stopped = page.locator("[data-stop]"), page.get_by_role("button", name="Stop done")
    page.context.set_offline(True)
    expect(stop).to_have_text("1")
    stopped.click()
    expect(stopped).to_be_disabled()
    expect(page.locator("[data-roll]")).to_have_text(f"{pause} s")
    for done in range(1, stops):
        page.clock.run_for(1000 * pause + 300)
        expect(stop).to_have_text(str(done + 1))
        stopped.click()
    page.clock.run_for(300)
    expect(stop).to_have_text("✓")
    expect(page.locator("[data-line]")).to_contain_text("not reached")
    page.context.set_offline(False)
    page.clock.run_for(5000)
    expect(page.locator("[data-line]")).to_have_text("", timeout=15_000)
    page.goto(f"{demo}/jobs/{HIRE}/build")
    expect(page.locator("#step-front-bed_in .tick")).to_have_attribute("aria-pressed", "true")


def test_the_parts_own_torque_overrides_the_usual_one(page: Page, demo: str) -> None:
    named(page, f"{demo}/jobs/{HIRE}/build?view=torques")
    row = page.locator("tr", has_text="rotor bolts").first
    row.get_by_role("textbox").fill("5,5")
    row.get_by_role("textbox").press("Enter")
    row = page.locator("tr.own", has_text="rotor bolts")
    expect(row).to_contain_text("5.5")
    expect(row).to_contain_text("usual 2.0–6.2")
    page.goto(f"{demo}/jobs/{HIRE}/build")
    expect(page.locator("#step-front-rotor_bolted")).to_contain_text("first to about 2.8 N·m, then 5.5 N·m")
    page.goto(f"{demo}/jobs/{HIRE}/build?view=torques")
    row.get_by_role("textbox").fill("400")
    row.get_by_role("textbox").press("Enter")
    expect(page.locator("#notice")).to_contain_text("80")
