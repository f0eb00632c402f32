"""The Ride page in the browser: a table read with chosen columns, points dragged and moved by key, a slope picked,
the rides of a job taken from the library and one of them made to decide."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.browser.test_path import say_name
from tests.formats.test_recordings import TABLE

pytestmark = pytest.mark.browser
GRAVEL, TANDEM = 5, 7


def section(page: Page, number: int, name: str) -> float:
    return float(page.locator(f"#f-rides-lane-sections-{number}-{name}").input_value())


def test_a_profile_is_dragged_into_shape(page: Page, demo: str) -> None:
    page.goto(f"{demo}/jobs/{GRAVEL}/ride")
    page.locator("[data-ask-name]").click()
    say_name(page)
    expect(page.locator(".handle")).to_have_count(5)
    expect(page.locator(".styles")).to_contain_text("Hardest second")
    row = page.locator(".loads tr.on")
    before = row.inner_text()
    length, gradient = section(page, 0, "length_m"), section(page, 0, "gradient_pct")

    box = page.locator(".handle").nth(1).bounding_box()
    assert box
    page.mouse.move(box["x"] + 8, box["y"] + 8)
    page.mouse.down()
    page.mouse.move(box["x"] - 60, box["y"] + 8, steps=4)
    with page.expect_response(lambda r: r.url.endswith("/point")) as answer:
        page.mouse.up()
    assert answer.value.status == 200
    expect(row).not_to_have_text(before)
    page.reload()
    assert section(page, 0, "length_m") < length - 100
    assert section(page, 0, "gradient_pct") > gradient

    # by key: ten metres to the right; the point keeps the focus through the new picture
    shorter = section(page, 0, "length_m")
    page.locator(".handle").nth(1).focus()
    with page.expect_response(lambda r: r.url.endswith("/point")):
        page.keyboard.press("ArrowRight")
    expect(page.locator(".handle").nth(1)).to_be_focused()
    page.reload()
    assert section(page, 0, "length_m") == pytest.approx(shorter + 10, abs=0.2)

    # a point dragged past its neighbour is refused in words and goes back
    box = page.locator(".handle").nth(1).bounding_box()
    assert box
    page.mouse.move(box["x"] + 8, box["y"] + 8)
    page.mouse.down()
    page.mouse.move(box["x"] + 700, box["y"] + 8, steps=4)
    page.mouse.up()
    expect(page.locator("#ride-message")).to_contain_text("at least 10 m long")
    back = page.locator(".handle").nth(1).bounding_box()
    assert back
    assert back["x"] == pytest.approx(box["x"], abs=1)

    # a slope picked on the profile, and the section cut there
    page.locator("[data-chart=ride] .u-over").first.click(position={"x": 300, "y": 40})
    expect(page.locator("#worst")).to_contain_text(re.compile(r"at \d\.\d km"))
    page.get_by_role("button", name="Cut here").click()
    expect(page.locator(".handle")).to_have_count(6)


def test_files_library_and_what_decides(page: Page, demo: str, tmp_path: Path) -> None:
    page.goto(f"{demo}/jobs/{TANDEM}/ride")
    page.locator("[data-ask-name]").click()
    say_name(page)
    table = tmp_path / "home.csv"
    table.write_bytes(TABLE)
    page.locator("#ride-file").set_input_files(table)
    expect(page.locator(".columns-form")).to_contain_text("home.csv: which column holds what?")
    page.locator("#col-elevation").select_option("")
    page.get_by_role("button", name="Import", exact=True).click()
    expect(page.locator("#columns-message")).to_contain_text("choose the elevation")
    page.locator("#col-elevation").select_option(label="Height (m)")
    page.get_by_role("button", name="Import", exact=True).click()
    expect(page.locator(".loads tr.on")).to_contain_text("Home")
    page.wait_for_load_state("load")

    page.locator("select[name=entry]").select_option(label="Lift day: 8 runs")
    page.get_by_role("button", name="Add", exact=True).click()
    expect(page.locator(".loads tr.on")).to_contain_text("recorded, 8 times over")
    page.wait_for_load_state("load")
    expect(page.locator(".ride-title")).to_contain_text("once of 8, 14 min between")
    expect(page.locator(".loads")).to_contain_text(re.compile(r"alone holds it|chock it"))
    page.get_by_role("button", name="Lift day: 8 runs decides").click()
    expect(page.get_by_role("button", name="Lift day: 8 runs decides")).to_have_attribute("aria-pressed", "true")
    page.wait_for_load_state("load")

    # a file that is dropped on the page is read like one that was chosen
    page.evaluate(
        """text => {
          const held = new DataTransfer();
          held.items.add(new File([text], 'dropped.gpx'));
          const dropped = new DragEvent('drop', { bubbles: true, cancelable: true, dataTransfer: held });
          document.querySelector('.loads').dispatchEvent(dropped);
        }""",
        "no track",
    )
    expect(page.locator("#ride-message")).to_contain_text("dropped.gpx: not readable as XML")
