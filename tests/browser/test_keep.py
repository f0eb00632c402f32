"""Station 8 as it is used: a bike of last year comes back and goes to its new order; readings and what follows; the board
found by typing, and brought up to date while it is looked at; undo that says what it does."""

import io
import re
from pathlib import Path

import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from tests.browser.test_path import go, pressed, put, say_name

pytestmark = pytest.mark.browser

READ = {
    "pads": {"pad_inner_mm": "1.2", "pad_outer_mm": "1.3", "pad_state": "good"},
    "caliper": {"pistons": "even", "line_state": "good", "caliper_centred": "yes"},
    "lever": {"lever_feel": "firm"},
    "rotor": {"rotor_cracks": "no", "rotor_face": "clean"},
}


def act(page: Page, button: str) -> None:
    """A button of the book, until the book is drawn anew."""
    with page.expect_response(lambda r: r.request.method == "POST") as done:
        page.get_by_role("button", name=button).click()
    assert done.value.status == 200, done.value.text()


def test_a_returning_bike_goes_from_last_years_job_to_its_new_order(page: Page, demo: str) -> None:
    page.goto(demo)
    page.locator("#search").fill("vane")
    expect(page.locator(".board-found")).to_contain_text("Hesper Vane")
    expect(page.locator(".jobs")).to_contain_text("Steel tourer, last year’s service")  # handed over, and found
    page.locator(".board-found a", has_text="Hesper Vane").click()
    page.get_by_role("link", name="Steel tourer, last year’s service").first.click()
    expect(page.locator("#book")).to_contain_text("plan front pads")
    expect(page.locator(".wear-picture")).to_have_count(3)
    page.wait_for_load_state("load")
    page.get_by_role("button", name="New job for this bike").click()
    say_name(page)
    page.wait_for_url(re.compile(r"/jobs/9/intake"))
    expect(page.locator("#f-rider-name")).to_have_value("Hesper Vane")
    expect(page.locator("#stations")).not_to_contain_text("lacks rider")

    # today's look at it: nothing of last year's stands for today
    go(page, "measure")
    for place, fields in READ.items():
        page.goto(f"{demo}/jobs/9/measure?place={place}")
        page.wait_for_load_state("load")
        for end in ("front", "rear"):
            for name, value in fields.items():
                put(page, f"{end}.{name}", value)
            if place == "rotor":
                page.locator(f"#points-in-{end}").fill("1.74 1.73 1.74 1.75 1.74 1.73")
                with page.expect_response(lambda r: "/points/" in r.url):
                    page.locator(f"#points-in-{end}").press("Enter")

    # what was read goes into the book, at the distance at which it came
    go(page, "keep")
    put(page, "stay.odometer_km", "15900")
    with page.expect_response(lambda r: r.url.endswith("/keep/stock")) as stocked:
        page.get_by_role("button", name="Update the bike from this job").click()
    assert stocked.value.status == 200
    expect(page.locator("#book")).to_contain_text("plan front pads")
    expect(page.locator(".wear-box").first).to_contain_text("2 readings")

    # the same pads new, in front; the order says so, and can be printed
    go(page, "build")
    page.locator(".renewals button", has_text="pads").first.click()
    expect(page.locator("#head")).to_contain_text("proposed")
    page.goto(f"{demo}/jobs/9/build?view=parts")
    expect(page.locator("#live")).to_contain_text("Ulvorn K2 Semi")
    papers = page.request.get(f"{demo}/jobs/9/papers/order.pdf")
    assert papers.status == 200 and papers.body().startswith(b"%PDF")


def test_readings_move_the_forecast_and_a_photograph_is_kept(page: Page, demo: str, tmp_path: Path) -> None:
    page.goto(demo + "/due?fleet=Lift+hire")
    page.get_by_role("link", name="Hire bike no. 13").first.click()
    page.wait_for_load_state("load")
    answer = page.locator(".wear-answer").first
    before = answer.inner_text()
    page.locator("input[name=km]").first.fill("2500")
    page.get_by_label("front pads, thinnest").fill("1.2")
    page.get_by_role("button", name="Save readings").click()
    say_name(page)
    expect(page.locator(".book-due")).to_contain_text("plan front pads")
    expect(answer).not_to_have_text(before)
    page.get_by_label("front pads, thinnest").fill("a hair")
    page.get_by_role("button", name="Save readings").click()
    expect(page.locator("#book [role=alert]")).to_contain_text("front pads")
    expect(page.get_by_label("front pads, thinnest")).to_have_value("a hair")  # nothing typed is lost
    picture = tmp_path / "front.png"
    Image.new("RGB", (1200, 900), (20, 90, 70)).save(picture)
    page.locator(".book-photos input[type=file]").set_input_files(picture)
    act(page, "Save photograph")
    shown = page.locator(".book-photos img")
    expect(shown).to_have_count(1)
    assert page.evaluate("e => e.decode().then(() => e.naturalWidth)", shown.element_handle()) == 320
    whole = page.request.get(page.locator(".book-photos li a").get_attribute("href") and demo + str(
        page.locator(".book-photos li a").get_attribute("href")))  # fmt: skip
    assert Image.open(io.BytesIO(whole.body())).size == (1200, 900)


def test_the_board_follows_a_change_and_undo_says_what_it_takes_back(page: Page, demo: str) -> None:
    page.goto(demo + "/jobs/7/measure?place=rotor")
    page.wait_for_load_state("load")
    put_first = page.locator("#f-front-rotor_cracks")
    put_first.select_option("yes")
    say_name(page)
    expect(page.locator("#stops")).to_contain_text("Unsafe to ride")
    page.goto(demo)
    first = page.locator(".jobs tbody tr").first
    expect(first).to_contain_text("unsafe to ride")  # worked out beside the page, and drawn when it is there
    page.goto(demo + "/jobs/7/measure?place=rotor")
    expect(page.locator("[data-undo]")).to_have_attribute("title", re.compile("front: cracks: .* → yes"))
    pressed(page, "u")
    expect(page.locator("#others")).to_contain_text("Undone: front: cracks")
    page.locator("[data-redo]").click()
    expect(page.locator("#others")).to_contain_text("Done again: front: cracks")
    page.goto(demo + "/")
    row = page.locator(".jobs tbody tr", has_text="Tandem")
    with page.expect_response(lambda r: "/board/7/state" in r.url):
        row.get_by_label("State of Tandem").select_option("ready")
    page.goto(demo + "/?shown=ready")
    expect(page.locator(".jobs")).to_contain_text("Tandem for the long pass")
