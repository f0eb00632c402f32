"""What is typed is not lost: without a network it is sent again, a page that is left sends it, one that crashed has it
still; letters are switched off; undo says what it was; the tour goes its way."""

import re
from collections.abc import Callable

import pytest
from playwright.sync_api import Page, Response, Route, expect

from tests.browser.conftest import PATIENCE_MS
from tests.browser.test_path import unfold
from tests.browser.test_walk import named

pytestmark = pytest.mark.browser
FOLDING, HIRE = 1, 4


def held_back(page: Page, address: str) -> list[Route]:
    """Requests to it wait here, as they come."""
    held: list[Route] = []

    def came(route: Route) -> None:
        held.append(route)

    page.route(address, came)
    return held


def until(page: Page, there: Callable[[], bool]) -> None:
    """Waits for what is seen here and not on the page."""
    for _ in range(PATIENCE_MS // 20):
        if there():
            return
        page.wait_for_timeout(20)
    raise AssertionError("it did not come")


def of_field(name: str) -> Callable[[Response], bool]:
    return lambda answer: answer.url.endswith("/field") and name in (answer.request.post_data or "")


def test_without_a_network_it_says_so_and_sends_it_again(page: Page, demo: str) -> None:
    named(page, f"{demo}/jobs/{HIRE}/intake")
    box, saving = page.locator("#f-rider-mass_kg"), page.locator("#saving")

    def cut(route: Route) -> None:
        route.abort("internetdisconnected")

    page.route("**/field", cut)
    page.route("**/alive", cut)
    box.fill("93")
    box.press("Tab")
    expect(saving).to_contain_text("Not saved: Clavis does not answer")
    expect(box).to_have_value("93")
    page.unroute("**/field")
    page.unroute("**/alive")
    with page.expect_response(re.compile(r"/field$")) as answer:
        pass
    assert answer.value.status == 200
    expect(saving).to_have_text("saved")
    page.reload()
    expect(page.locator("#f-rider-mass_kg")).to_have_value("93")


@pytest.mark.parametrize("status", [503, 401], ids=["busy", "signed out"])
def test_what_is_not_taken_stays_where_it_was_typed(page: Page, demo: str, status: int) -> None:
    named(page, f"{demo}/jobs/{HIRE}/intake")
    box, saving = page.locator("#f-rider-kit_mass_kg"), page.locator("#saving")
    unfold(page, box)
    page.route("**/field", lambda route: route.fulfill(status=status, body="<p class=problem>not now</p>"))
    box.fill(f"{status / 100:g}")
    box.press("Tab")
    expect(saving).to_contain_text("Not saved")
    expect(box).to_have_value(f"{status / 100:g}")
    page.unroute("**/field")
    expect(saving).to_have_text("saved")
    page.reload()
    expect(box).to_have_value(f"{status / 100:g}")


def test_a_page_that_is_left_takes_what_was_typed_along(page: Page, demo: str) -> None:
    named(page, f"{demo}/jobs/{HIRE}/intake")
    box = page.locator("#f-complaint_words")
    box.fill("squeals at the lift, from the second lap on")
    page.goto(f"{demo}/due")  # without leaving the field
    page.goto(f"{demo}/jobs/{HIRE}/intake")
    expect(box).to_have_value("squeals at the lift, from the second lap on")


def test_a_page_that_crashed_has_it_still(page: Page, demo: str) -> None:
    named(page, f"{demo}/jobs/{HIRE}/intake")
    page.evaluate("navigator.sendBeacon = () => false")
    box = page.locator("#f-complaint_words")
    box.fill("and then the power went")
    page.goto(f"{demo}/due")
    with page.expect_response(re.compile(r"/field$")):
        page.goto(f"{demo}/jobs/{HIRE}/intake")
    expect(box).to_have_value("and then the power went")
    page.reload()
    expect(box).to_have_value("and then the power went")


def test_undo_by_its_key_says_what_it_was_and_offers_redo(page: Page, demo: str) -> None:
    named(page, f"{demo}/jobs/{FOLDING}/intake")
    box = page.locator("#f-rider-mass_kg")
    before = box.input_value()
    box.fill("71")
    with page.expect_response(re.compile(r"/field$")):
        box.press("Tab")
    page.locator("h1").first.click()
    page.keyboard.press("u")
    told = page.locator(".said-once")
    expect(told).to_contain_text("Undone: Rider's mass")
    expect(box).to_have_value(before)
    told.get_by_role("button", name="Redo").click()
    expect(page.locator(".said-once")).to_contain_text("again")
    expect(box).to_have_value("71")


def test_letters_are_switched_off(page: Page, demo: str) -> None:
    named(page, f"{demo}/keys")
    page.get_by_role("button", name="Switch them off").click()
    page.goto(f"{demo}/jobs/{FOLDING}/intake")
    page.locator("h1").first.click()
    page.keyboard.press("4")
    page.keyboard.press("b")
    expect(page).to_have_url(re.compile(rf"/jobs/{FOLDING}/intake$"))
    page.goto(f"{demo}/keys")
    page.get_by_role("button", name="Switch them on").click()
    page.goto(f"{demo}/jobs/{FOLDING}/intake")
    page.locator("h1").first.click()
    page.keyboard.press("h")
    expect(page).to_have_url(re.compile("/guide/intake$"))


def test_the_tour_goes_its_way_in_six_steps_and_can_be_skipped(page: Page, demo: str) -> None:
    named(page, demo)
    page.get_by_role("button", name="Tour in six steps").click()
    tour = page.get_by_role("complementary", name="Tour")
    seen = []
    for k in range(1, 7):
        expect(tour).to_contain_text(f"{k} of 6")
        seen.append(page.url.rpartition("/")[2])
        if k < 6:
            tour.get_by_role("button", name="Next").click()
    assert seen == ["", "intake", "measure", "choose", "build", "keep"]
    tour.get_by_role("button", name="Done").click()
    expect(tour).to_have_count(0)
    page.goto(demo)
    expect(page.get_by_role("button", name="Tour in six steps")).to_have_count(0)  # once offered is enough
    page.goto(f"{demo}/guide")
    page.get_by_role("button", name="Tour in six steps").click()
    tour.get_by_role("button", name="Skip the tour").click()
    expect(tour).to_have_count(0)


def test_the_hand_stays_where_it_was_when_its_part_is_drawn_anew(page: Page, demo: str) -> None:
    named(page, f"{demo}/jobs/{HIRE}/intake")
    for path, name in ((f"/jobs/{HIRE}/intake", "noisy in the wet"), (f"/jobs/{HIRE}/build?view=parts", "bleed")):
        page.goto(demo + path)
        button = page.get_by_role("button", name=name, exact=True).first
        button.focus()
        pressed = button.get_attribute("aria-pressed")
        with page.expect_response(lambda answer: answer.request.method == "POST"):
            page.keyboard.press("Enter")
        expect(button).not_to_have_attribute("aria-pressed", pressed or "")
        expect(button).to_be_focused()


def test_what_was_entered_without_a_network_outlives_a_reload_and_overwrites_nobody(page: Page, demo: str) -> None:
    """A choice and a tick are sent again from another page too, with the version that their page showed."""
    named(page, f"{demo}/jobs/{FOLDING}/intake")

    def cut(route: Route) -> None:
        route.abort("internetdisconnected")

    page.route("**/field", cut)
    page.route("**/alive", cut)
    box = page.locator("#f-bike-assisted")
    was = box.is_checked()
    box.set_checked(not was)
    expect(page.locator("#saving")).to_contain_text("Not saved")
    page.unroute_all()
    with page.expect_response(re.compile(r"/field$")) as answer:
        page.goto(f"{demo}/due")
    assert answer.value.status == 200 and "base=" in (answer.value.request.post_data or "").replace(
        'name="base"', "base="
    )
    page.goto(f"{demo}/jobs/{FOLDING}/intake")
    expect(box).to_be_checked(checked=not was)
    box.set_checked(was)


def test_a_form_that_was_not_sent_has_its_text_again(page: Page, demo: str) -> None:
    named(page, f"{demo}/bikes/4")
    what = page.locator("form.write-entry input[name=what]")
    what.fill("pistons evened out")
    page.reload()
    expect(what).to_have_value("pistons evened out")
    page.get_by_role("button", name="Add to the log").click()
    expect(page.locator(".book-log")).to_contain_text("pistons evened out")
    expect(what).to_have_value("")
    page.reload()
    expect(what).to_have_value("")


def test_a_button_that_was_lost_is_said_to_be_pressed_again(page: Page, demo: str) -> None:
    named(page, f"{demo}/jobs/{FOLDING}/intake")
    page.route("**/toggle/**", lambda route: route.abort("internetdisconnected"))
    page.get_by_role("button", name="drags", exact=True).click()
    expect(page.locator("#saving")).to_have_text("Not done: Clavis does not answer. Press it again.")
    page.unroute_all()
    page.get_by_role("button", name="drags", exact=True).click()
    expect(page.locator("#saving")).to_have_text("saved")


def test_what_a_hand_does_before_the_scripts_listen_is_done_once_they_do(page: Page, demo: str) -> None:
    """On a slow machine the page stands there before its scripts: an entry, a button, a key."""
    named(page, f"{demo}/jobs/{HIRE}/intake")
    held: list[Route] = []
    holding = True

    def came(route: Route) -> None:
        if holding:
            held.append(route)
        else:
            route.continue_()

    def listened() -> None:
        while held:
            held.pop().continue_()

    page.route("**/vendor/htmx.min.js", came)
    page.goto(f"{demo}/jobs/{HIRE}/intake", wait_until="commit")
    share, skill = page.locator("#f-rider-front_share_pct"), page.locator("#f-rider-skill")
    share.wait_for(state="attached")
    unfold(page, share)
    share.fill("57")
    share.press("Tab")
    unfold(page, skill)
    skill.select_option("expert")
    with page.expect_response(of_field("skill")), page.expect_response(of_field("front_share_pct")):
        listened()
    expect(page.locator("#saving")).to_have_text("saved")
    page.goto(f"{demo}/jobs/{HIRE}/choose", wait_until="commit")
    page.locator(".sheet").first.wait_for()
    page.keyboard.press("d")
    holding = False
    listened()
    page.wait_for_url(re.compile("view=candidates"))
    page.goto(f"{demo}/jobs/{HIRE}/intake")
    expect(share).to_have_value("57")
    expect(skill).to_have_value("expert")


def test_a_press_while_some_scripts_listen_and_some_do_not_is_one_press(page: Page, demo: str) -> None:
    """What answers a button at once is there before what sends it."""
    named(page, f"{demo}/jobs/{FOLDING}/intake")
    held = held_back(page, "**/shell/charts.js")
    page.goto(f"{demo}/jobs/{FOLDING}/intake", wait_until="commit")
    button = page.get_by_role("button", name="rubs when sprinting", exact=True)
    until(page, lambda: bool(held) and page.evaluate("typeof uPlot === 'function'"))
    page.wait_for_timeout(100)  # the house's own script stands after it
    was = button.get_attribute("aria-pressed")
    button.click()
    with page.expect_response(re.compile("/toggle/")):
        held[0].continue_()
    now = "false" if was == "true" else "true"
    expect(button).to_have_attribute("aria-pressed", now)
    page.unroute("**/shell/charts.js")
    page.reload()
    expect(button).to_have_attribute("aria-pressed", now)


def test_what_is_typed_is_not_drawn_over_by_the_answer_to_another_entry(page: Page, demo: str) -> None:
    """The kind of bike says the usual mass and height: to the fields that nobody is typing into."""
    named(page, f"{demo}/jobs/{HIRE}/intake")
    kind, mass, height = (page.locator(f"#f-bike-{name}") for name in ("kind", "mass_kg", "cg_height_m"))
    unfold(page, mass)
    unfold(page, height)
    answers = held_back(page, "**/field")
    kind.select_option("road")
    mass.fill("13.5")
    mass.press("Tab")
    height.focus()
    height.fill("1.05")
    until(page, lambda: len(answers) == 2)
    of_kind, of_mass = answers
    with page.expect_response(re.compile("/field$")):
        of_kind.continue_()
    expect(page.locator("#f-bike-wheelbase_m")).not_to_have_value("1.15")
    expect(mass).to_have_value("13.5")
    expect(height).to_have_value("1.05")
    expect(page.locator("#saving")).to_have_text("saving …")
    of_mass.continue_()
    expect(page.locator("#saving")).to_have_text("saved")
    height.press("Tab")
    until(page, lambda: len(answers) == 3)
    with page.expect_response(re.compile("/field$")):
        answers[2].continue_()
    page.reload()
    expect(mass).to_have_value("13.5")
    expect(height).to_have_value("1.05")


def test_an_answer_whose_button_is_gone_is_heard_of(page: Page, demo: str) -> None:
    named(page, f"{demo}/jobs/{FOLDING}/intake")
    held = held_back(page, "**/toggle/**")
    button = page.get_by_role("button", name="drags", exact=True)
    button.click()
    expect(page.locator("#saving")).to_have_text("saving …")
    until(page, lambda: bool(held))
    button.evaluate("button => { button.outerHTML = button.outerHTML; }")
    held[0].continue_()
    expect(page.locator("#saving")).to_have_text("saved")
