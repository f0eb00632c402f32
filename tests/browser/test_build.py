"""Build in the browser: the gate, ticks and sign-off, and a change that voids it."""

import pytest
from playwright.sync_api import Page, expect

from tests.browser.test_walk import named

pytestmark = pytest.mark.browser
GRAVEL, COMMUTER = 5, 3


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
    renewals = page.get_by_role("group", name="New of the same model, or work done, front")
    expect(renewals.get_by_role("button", name="caliper")).to_have_attribute("aria-pressed", "true")
    expect(page.locator(".gate-work")).to_have_count(0)
    expect(page.locator(".parts-list")).to_contain_text("Brindewal Pull One")
    page.locator(".tick").first.click()
    expect(page.locator(".tick").first).to_have_attribute("aria-pressed", "true")
    # what the ride asks beyond the brake is answered for by name, and printed
    gate = page.locator(".gate-name")
    gate.get_by_role("textbox").first.fill("rides at walking pace in town")
    gate.get_by_role("button", name="Answer for it").first.click()
    expect(page.locator(".gate-answered")).to_contain_text("rides at walking pace in town")
