"""Measure and the complaint guide in the browser: keyboard, drawings, gauges, unsafe findings."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.test_path import go, put, say_name

pytestmark = pytest.mark.browser

TANDEM, HIRE, TOURER = 7, 4, 2


def named(page: Page, address: str) -> None:
    page.goto(address)
    page.locator(".who").click()
    say_name(page)


def test_the_field_in_hand_lights_its_dimension(page: Page, demo: str) -> None:
    page.goto(f"{demo}/jobs/{TANDEM}/measure")
    expect(page.locator("#drawn .tile.told-front .tile-name")).to_have_text("Post mount")
    page.locator("#f-rear-mount_spacing_mm").focus()
    expect(page.locator("#drawn .lit")).to_have_count(4)
    expect(page.locator("#in-hand")).to_have_text("In hand: rear, bolt spacing")
    page.locator("#f-rear-tab_mm").focus()
    assert page.locator("#drawn .lit").evaluate_all("all => all.map(d => d.dataset.dim)") == ["tab_mm", "tab_mm"]


def test_a_rotor_by_keyboard_alone(page: Page, demo: str) -> None:
    named(page, f"{demo}/jobs/{TANDEM}/measure?place=rotor")
    page.get_by_role("button", name="start again").first.click()
    expect(page.locator("#rotor-front .readings li")).to_have_count(0)
    entry = page.locator("#points-in-front")
    entry.focus()
    for n, reading in enumerate(("1.66", "1.64", "1.65", "1.63", "1.66", "1.65"), 1):
        page.keyboard.type(reading)
        page.keyboard.press("Enter")
        expect(page.locator("#rotor-front .rotor-point.read")).to_have_count(n)
        expect(entry).to_have_value("")
        expect(entry).to_be_focused()
    expect(page.locator("#told-front")).to_contain_text("1.63 mm, minimum 1.50")
    expect(page.locator("#told-front")).to_contain_text("0.03 mm, even")
    page.keyboard.type("thin")
    page.keyboard.press("Enter")
    expect(page.locator("#rotor-front .problem")).to_contain_text("a number")
    expect(entry).to_have_value("thin")


def test_a_gauge_sends_into_the_field_in_hand(page: Page, demo: str) -> None:
    named(page, f"{demo}/jobs/{TANDEM}/measure?place=mount")
    page.locator("#gauge-kind").select_option("caliper_gauge")
    page.get_by_role("button", name="Send").click()
    expect(page.locator("#notice")).to_contain_text("Put the cursor into the field")
    page.locator("#f-rear-hole_depth_mm").focus()
    page.keyboard.press("Alt+g")
    expect(page.locator("#f-rear-hole_depth_mm")).to_have_value(re.compile(r"^1[3-6](\.\d+)?$"))
    page.locator("#gauge-kind").select_option("micrometer")
    page.locator("#f-rear-tab_mm").focus()
    page.keyboard.press("Alt+g")
    expect(page.locator("#notice")).to_contain_text("does not reach this")
    expect(page.locator("#f-rear-tab_mm")).to_have_value("")


def test_an_unsafe_finding_stays_until_it_is_mended(page: Page, demo: str) -> None:
    named(page, f"{demo}/jobs/{HIRE}/measure?place=pads")
    put(page, "rear.pad_state", "oiled")
    expect(page.locator("#stops")).to_contain_text("rear, pads oiled")
    go(page, "build")
    expect(page.locator("#stops")).to_contain_text("Unsafe to ride")
    page.locator("#stops a").first.click()
    expect(page.locator("#told-rear")).to_contain_text("burning or washing does not bring them back")
    put(page, "rear.pad_state", "good")
    expect(page.locator("#stops")).to_be_empty()
    put(page, "rear.pad_state", "metal")
    expect(page.locator("#stops")).to_contain_text("pads at metal")
    expect(page.locator("#stops")).to_contain_text("rotor has met bare metal")


def test_an_answer_in_the_guide_reorders_the_causes(page: Page, demo: str) -> None:
    named(page, f"{demo}/jobs/{HIRE}/intake")
    page.locator("#causes a").click()
    first = page.locator(".causes .name").first
    expect(first).to_have_text("Glazed pads")
    question = page.locator(".checks li", has_text="One finger sits in the blade").first
    question.get_by_role("button", name="No", exact=True).click()
    reach = page.locator(".cause", has_text="Reach, angle").first
    expect(reach.locator(".standing")).to_have_text("likely")
    expect(reach.locator(".moved")).to_contain_text("▲")
    expect(reach.locator(".evidence")).to_contain_text("one finger sits in the blade")
    expect(page.locator(".because")).to_contain_text("no")
    page.get_by_role("button", name="Undo").click()
    expect(page.locator(".cause", has_text="Reach, angle").first.locator(".standing")).to_have_text("open")


def test_a_conversion_is_told_in_parts_and_money(page: Page, demo: str) -> None:
    page.goto(f"{demo}/jobs/{TOURER}/measure")
    expect(page.locator(".conversion")).to_contain_text("because the hubs take no rotor")


def test_the_walk_and_the_guide_fit_their_screens(page: Page, demo: str) -> None:
    for width, height in ((1280, 800), (800, 1280)):
        page.set_viewport_size({"width": width, "height": height})
        for place in ("mount", "hub", "rotor", "pads", "caliper", "lever"):
            page.goto(f"{demo}/jobs/{TANDEM}/measure?place={place}")
            assert page.evaluate("document.documentElement.scrollWidth") <= width, place
        page.goto(f"{demo}/jobs/{HIRE}/guide")
        assert page.evaluate("document.documentElement.scrollWidth") <= width
    page.set_viewport_size({"width": 1280, "height": 800})
    page.goto(f"{demo}/jobs/{TANDEM}/measure?place=rotor")
    told = page.locator("#told-front .said").bounding_box()
    assert told is not None
    assert told["y"] + told["height"] <= 800
