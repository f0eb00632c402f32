"""Choose and Parts in the browser: pin and compare by key, what nothing holds, a line of the catalogue set right."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.browser.test_walk import named
from tests.store.test_catalogue import HEAD, ONE

pytestmark = pytest.mark.browser
TANDEM, HIRE = 7, 4


def test_two_setups_are_pinned_and_compared_by_key(page: Page, demo: str) -> None:
    named(page, f"{demo}/jobs/{HIRE}/choose")
    expect(page.locator(".sheet")).to_be_visible()
    page.keyboard.press("p")
    expect(page.locator("#pinned")).to_contain_text("Compare 1")
    page.keyboard.press("f")
    with page.expect_response(lambda r: r.url.endswith("/step")):
        page.keyboard.press("-")
    page.keyboard.press("p")
    expect(page.locator("#pinned")).to_contain_text("Compare 2")
    page.keyboard.press("c")
    page.wait_for_url(re.compile(r"/compare$"))
    expect(page.locator("[data-chart=compare] canvas")).to_have_count(4)  # the ride and the cooling, front and rear
    expect(page.locator(".compare-table thead .letter")).to_have_text(["A", "B", "C"])
    expect(page.locator(".compare-sure").first).to_contain_text("of 10")
    expect(page.locator(".compare-why")).to_contain_text("for this rider")
    page.get_by_role("button", name="Propose").last.click()
    page.wait_for_url(re.compile(r"/choose$"))


def test_the_answer_its_price_and_its_reason_stand_first(page: Page, demo: str) -> None:
    """At 1280 × 800 without scrolling; proposed by one button, and then it says so."""
    page.set_viewport_size({"width": 1280, "height": 800})
    named(page, f"{demo}/jobs/{TANDEM}/choose")
    answer = page.locator(".answer-first")
    expect(answer.locator(".answer-head")).to_contain_text(re.compile(r"Recommended.*kr of 600", re.DOTALL))
    expect(answer.locator("dd").first).to_contain_text("203 × ")
    expect(answer.locator(".answer-why")).to_contain_text("front: rotor")
    expect(page.locator(".answer-others details")).to_have_count(4)
    for place in (".answer-head", ".answer-why", ".answer-others"):
        box = page.locator(place).bounding_box()
        assert box
        assert box["y"] + box["height"] < 420
    answer.get_by_role("button", name="Propose").click()
    expect(page.locator(".answer-first .is-it")).to_have_text("proposed")
    expect(page.locator("#f-proposal-front-rotor_id")).to_have_value(re.compile("203"))


def test_what_holds_is_kept(page: Page, demo: str) -> None:
    page.goto(f"{demo}/jobs/5/choose")
    expect(page.locator(".answer-head")).to_contain_text("Keep what is on it, buy nothing")
    expect(page.locator(".answer-first dd")).to_have_text(["stays as it is", "stays as it is"])


def test_the_tandem_is_told_that_nothing_holds(page: Page, demo: str) -> None:
    page.goto(f"{demo}/jobs/{TANDEM}/choose?view=ladder")
    expect(page.locator(".short")).to_contain_text(
        re.compile(r"Nothing in the catalogue holds with all the margins asked for on the front; [\d\s]+ are tight")
    )
    expect(page.locator(".short .caution")).to_have_count(0)  # it stops, and does not boil
    expect(page.locator("#ladder-rear tbody tr")).to_have_count(10)


def test_views_are_opened_by_key(page: Page, demo: str) -> None:
    """How tall each is, when all of it is there, is looked at with every page."""
    page.goto(f"{demo}/jobs/{TANDEM}/choose")
    for key, view in (("a", "ride"), ("d", "candidates"), ("t", "tradeoffs"), ("w", "flips"), ("l", "ladder"),
                      ("e", "refused"), ("z", "sizes"), ("c", "compare"), ("s", "choose")):  # fmt: skip
        page.keyboard.press(key)
        page.wait_for_url(re.compile(f"{view}$"))
        page.wait_for_load_state("load")
        expect(page.locator(".answer-head")).to_contain_text("Recommended")


def test_the_ride_is_scrubbed_by_keyboard(page: Page, demo: str) -> None:
    """From mark to mark and moment to moment; the reading follows, without scrolling."""
    page.set_viewport_size({"width": 1280, "height": 800})
    page.goto(f"{demo}/jobs/{TANDEM}/choose?view=ride&show=fitted")
    where, boils = page.locator("[data-where]"), page.locator('[data-told="front-boils"]')
    expect(page.locator(".moments-chart canvas")).to_have_count(2)
    slider = page.get_by_role("slider", name="Moment of the ride")
    box = slider.bounding_box()
    assert box
    assert box["y"] + box["height"] <= 800
    slider.focus()
    page.keyboard.press("Home")
    expect(where).to_contain_text("0.00 km, 0:00 min after the start")
    expect(page.locator('[data-told="front-rotor"]')).to_have_text(re.compile(r"2\d.°C"))
    expect(boils).to_have_text(re.compile(r"2.\d\d\d.m"))
    for _ in range(3):
        page.keyboard.press("PageUp")
    page.keyboard.press("ArrowRight")
    expect(where).not_to_contain_text("0.00 km")
    expect(slider).to_have_attribute("aria-valuetext", re.compile(r"km, .* min after the start, .*km/h"))
    page.keyboard.press("End")
    expect(boils).to_have_text("boils")
    hottest = page.locator(".mark-hottest").first
    hottest.click()
    expect(page.locator("[data-mark-words]")).to_contain_text("front: rotor 490")
    expect(page.locator('[data-told="front-rotor"]')).to_have_text(re.compile("490"))
    slider.press("Home")
    page.get_by_role("button", name="Play the ride").click()
    expect(page.get_by_role("button", name="Pause")).to_be_visible()
    expect(where).not_to_contain_text("0.00 km")
    page.get_by_role("button", name="Pause").click()
    expect(page.get_by_role("button", name="Play the ride")).to_be_visible()


def test_a_line_of_the_catalogue(page: Page, demo: str, tmp_path: Path) -> None:
    named(page, f"{demo}/parts/line/q-disc-160")
    page.locator("#f-price").fill("a lot")
    page.get_by_role("button", name="Save this rotor").click()
    expect(page.locator("#f-price-error")).to_contain_text("allowed is a number")
    expect(page.locator("#f-price")).to_have_value("a lot")
    page.locator("#f-price").fill("17.5")
    page.get_by_role("button", name="Save this rotor").click()
    expect(page.locator(".catalogue")).to_contain_text("17.50")
    page.wait_for_load_state("load")
    file = tmp_path / "list.csv"
    file.write_text(HEAD + ONE + ONE.replace("x-one", "x-two").replace("180", "wide"), encoding="utf-8")
    page.locator("#parts-file").set_input_files(file)
    expect(page.locator(".plan")).to_contain_text("list.csv: 1 new, 0 changed, 0 as they are, 1 bad")
    page.get_by_role("button", name="Import 1 good row").click()
    expect(page.locator(".catalogue")).to_contain_text("Haldrick One")


def test_a_part_is_found_by_typing_and_stepped_by_arrow_with_the_hand_where_it_was(page: Page, demo: str) -> None:
    named(page, f"{demo}/jobs/{HIRE}/choose")
    box = page.get_by_role("combobox", name=re.compile("^Front rotor"))
    box.focus()
    page.keyboard.type("fell 20")
    option = page.locator(".offers:not([hidden]) [role=option].at")
    expect(option).to_contain_text("Haldrick Fell 200")
    with page.expect_response(lambda r: r.url.endswith("/swap")):
        page.keyboard.press("Enter")
    expect(box).to_have_value("Fell 200")
    expect(box).to_be_focused()
    with page.expect_response(lambda r: r.url.endswith("/step")):
        page.keyboard.press("ArrowDown")
    expect(box).not_to_have_value("Fell 200")
    expect(box).to_be_focused()
    with page.expect_response(lambda r: r.url.endswith("/step")):
        page.keyboard.press("ArrowUp")
    expect(box).to_have_value("Fell 200")
    page.keyboard.type("zzz")
    expect(page.locator(".offers:not([hidden])")).to_contain_text("No rotor is called that.")
    page.keyboard.press("Escape")
    expect(box).to_have_value("Fell 200")
    page.get_by_role("link", name="wet", exact=True).click()
    page.wait_for_load_state("load")
    expect(page.locator(".look-words")).to_have_text("only looked at, not saved: back to the job")
    page.locator(".look-words").click()
    page.wait_for_load_state("load")
    expect(page.locator(".look-words")).to_have_count(0)


def test_what_the_ranking_says_is_looked_into_and_a_pair_is_proposed(page: Page, demo: str) -> None:
    named(page, f"{demo}/jobs/{HIRE}/choose?view=tradeoffs")
    lane = page.locator(".view-lane").first
    expect(lane.locator(".scatter .front-dot").first).to_be_visible()
    before = lane.locator(".scatter").inner_html()
    lane.get_by_label("across shows").select_option("price")
    expect(lane.locator(".scatter .axis").first).to_contain_text("new parts")
    assert lane.locator(".scatter").inner_html() != before
    lane.locator("details summary").click()
    expect(lane.locator("tbody tr").first).to_be_visible()
    page.keyboard.press("w")
    expect(lane).to_contain_text("In the")
    page.keyboard.press("e")
    lane.locator(".refused li summary").first.click()
    expect(lane.locator(".refused li li").first).to_be_visible()
    page.keyboard.press("d")
    pair = page.locator(".pairing tr", has_text="equal sizes")
    names = [pair.locator("b").nth(k).inner_text() for k in (0, 1)]
    with page.expect_response(lambda r: r.url.endswith("/pairing") and r.request.method == "POST"):
        pair.get_by_role("button", name="Propose both").click()
    page.keyboard.press("s")
    for end, name in zip(("front", "rear"), names, strict=True):
        expect(page.locator(f"#f-proposal-{end}-rotor_id")).to_have_attribute("title", name)


def test_two_pistons_or_four_are_argued_over_this_ride(page: Page, demo: str) -> None:
    named(page, f"{demo}/jobs/{HIRE}/compare?about=pistons&end=front")
    expect(page.locator("[data-chart=compare] canvas")).to_have_count(4)
    expect(page.locator(".compare-why")).to_contain_text("not the number of pistons")
    expect(page.locator(".compare-table thead .letter")).to_have_text(["A", "B"])
    expect(page.locator(".compare-sure").first).to_contain_text("of 10")
    page.get_by_role("link", name="drag or pulse").click()
    page.wait_for_load_state("load")
    expect(page.locator(".compare")).to_contain_text("as recorded")
    page.get_by_role("link", name="diameter or thickness").click()
    page.wait_for_load_state("load")
    page.get_by_role("button", name="Propose").last.click()
    page.wait_for_url(re.compile(r"/choose$"))


def test_what_is_drawn_elsewhere_does_not_take_the_hand_away(page: Page, demo: str) -> None:
    """After a change the hand is put back once; a place beneath that is drawn later leaves what is being typed."""
    named(page, f"{demo}/jobs/{HIRE}/choose")
    rotor, pad = page.locator("#f-proposal-front-rotor_id"), page.locator("#f-proposal-front-pad_id")
    rotor.focus()
    with page.expect_response(lambda r: r.url.endswith("/step")):
        rotor.press("ArrowDown")
    expect(rotor).to_be_focused()
    expect(rotor).not_to_have_value("Heavy 200")
    pad.fill("P4")
    expect(page.locator(".offers:not([hidden]) [role=option].at")).to_be_visible()
    page.evaluate("document.body.dispatchEvent(new CustomEvent('htmx:oobAfterSwap', { bubbles: true }))")
    expect(pad).to_be_focused()
    expect(pad).to_have_value("P4")


def test_the_sheet_with_its_courses_is_one_page_of_paper(page: Page, demo: str) -> None:
    named(page, f"{demo}/jobs/{TANDEM}/choose")
    expect(page.locator(".course canvas")).to_have_count(2)
    paper = page.pdf(format="A4")
    assert len(re.findall(rb"/Type /Page\b", paper)) == 1
    page.emulate_media(media="print")
    page.set_viewport_size({"width": 718, "height": 1046})  # within the margins of the sheet
    for canvas in page.locator(".course canvas").all():
        box = canvas.bounding_box()
        assert box and box["width"] > 200 and box["x"] + box["width"] <= 718
