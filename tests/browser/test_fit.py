"""Fit in the browser: post mount, IS rear, flat-mount fork, one that cannot be; layers, sizes, special mounts."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.test_walk import named

pytestmark = pytest.mark.browser
TANDEM, CARGO, GRAVEL, COMMUTER, FOLDING = 7, 6, 5, 3, 1


def lane(page: Page, end: str):
    return page.locator(f"[data-lane={end}]")


def test_a_post_mount_with_layers_sizes_and_zoom(page: Page, demo: str) -> None:
    named(page, f"{demo}/jobs/{TANDEM}/fit")
    front = lane(page, "front")
    expect(front.locator(".chain")).to_contain_text("P160–203")
    expect(front).to_contain_text("the packet says +40, its sizes make +43")
    svg = front.locator("svg[data-view]")
    expect(svg.locator(".d-now").first).to_be_visible()
    front.get_by_role("button", name="now").click()
    expect(svg.locator(".d-now").first).to_be_hidden()
    # sizes of what has the focus, and only then
    adapter = svg.locator(".d-adapter")
    adapter.focus()
    expect(front.locator("[data-told]")).to_contain_text("outward from the native 160 21.5")
    expect(svg.locator("[data-size-of=mount]:not(.always)").first).to_be_hidden()
    svg.locator(".d-mount").first.focus()
    expect(svg.locator("[data-size-of=mount]:not(.always)").first).to_be_visible()
    whole = svg.get_attribute("viewBox")
    page.keyboard.press("+")
    assert float(svg.get_attribute("viewBox").split()[2]) < float(whole.split()[2])
    page.keyboard.press("0")
    expect(svg).to_have_attribute("viewBox", re.compile(r"^-?\d"))
    # a change on the page leaves the way one looks at it
    page.locator("#f-front-spoke_gap_mm").fill("0.5")
    with page.expect_response(lambda r: r.url.endswith("/field")):
        page.locator("#f-front-spoke_gap_mm").press("Enter")
    expect(front.locator("h2")).to_contain_text("fails")
    expect(front.locator("#check-front-spokes")).to_contain_text("choose another caliper or wheel")
    expect(svg.locator(".d-now").first).to_be_hidden()


def test_an_is_rear_and_a_flat_mount_fork(page: Page, demo: str) -> None:
    page.goto(f"{demo}/jobs/{COMMUTER}/fit")
    rear = lane(page, "rear")
    expect(rear.locator(".chain")).to_contain_text("international standard, native 140")
    expect(rear.locator(".chain")).to_contain_text("S180/160")
    expect(rear.locator(".bolts tbody tr")).to_have_count(2)
    expect(rear.locator(".bolts")).to_contain_text("cup and cone 3.4 + caliper tab 8.0 + cup and cone 3.4")
    page.goto(f"{demo}/jobs/{GRAVEL}/fit")
    front = lane(page, "front")
    expect(front.locator(".chain")).to_contain_text("flat mount, fork, native 140")
    expect(front.locator(".bolts")).to_contain_text("M5 × 11 low")
    expect(front.locator("#check-front-pitch")).to_contain_text("holds")


def test_what_cannot_be_says_why_and_where_to_go(page: Page, demo: str) -> None:
    named(page, f"{demo}/jobs/{FOLDING}/measure?place=mount")
    page.locator("#f-front-native_rotor_mm").fill("180")
    with page.expect_response(lambda r: r.url.endswith("/field")):
        page.locator("#f-front-native_rotor_mm").press("Enter")
    page.goto(f"{demo}/jobs/{FOLDING}/fit")
    front = lane(page, "front")
    expect(front.locator("h2")).to_contain_text("fails")
    expect(front.locator(".chain-says")).to_contain_text("a caliper cannot move inward")
    expect(front.locator(".d-conflicts")).to_have_count(1)
    front.get_by_role("link", name="Special mount from measured holes").click()
    expect(page.locator(".special-cautions")).to_contain_text("qualified engineer")
    expect(page.locator(".special-live .empty")).to_contain_text("upper hole, rearward")


def test_a_special_plate_goes_from_paper_to_release(page: Page, demo: str) -> None:
    named(page, f"{demo}/jobs/{CARGO}/special?end=front")
    expect(page.locator(".plate svg")).to_be_visible()
    with page.expect_download() as taken:
        page.get_by_role("link", name="PDF").click()
    assert taken.value.suggested_filename.endswith(".pdf")
    stage = page.locator(".stage")
    stage.nth(0).locator("input").fill("100")
    stage.nth(0).get_by_role("button").click()
    expect(stage.nth(0)).to_contain_text("done")
    stage.nth(1).get_by_role("button").click()
    stage.nth(2).locator("[name=angle_off_deg]").fill("0")
    stage.nth(2).locator("[name=edge_off_mm]").fill("0.8")
    stage.nth(2).locator("[name=turns_free]").check()
    stage.nth(2).locator("[name=clears]").check()
    stage.nth(2).get_by_role("button").click()
    expect(stage.nth(2)).to_contain_text("0.8 mm over the rotor's edge")
    stage.nth(3).get_by_role("button").click()
    expect(page.locator("#f-special-front-out_mm")).to_have_value("-0.8")
    expect(stage.nth(0)).to_contain_text("the numbers have changed since")
    expect(page.locator(".special-cautions")).to_be_visible()
