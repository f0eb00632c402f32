"""The first day of a workshop: from nothing, by the standard shelf, to an order for a bike that is in no demo, with the
entries counted."""

import re

import pytest
from playwright.sync_api import Page, expect

pytestmark = pytest.mark.browser

MOST_ENTRIES = 20
"""so many make an answer for two wheels"""


class Entries:
    """Fields of a job as a hand fills them, and how many."""

    def __init__(self, page: Page) -> None:
        self.page, self.count = page, 0

    def fill(self, path: str, text: str) -> None:
        box = self.page.locator(f"#f-{path.replace('.', '-')}")
        with self.page.expect_response(re.compile(r"/jobs/\d+/(field|points)")):
            if box.evaluate("box => box.tagName") == "SELECT":
                box.select_option(text)
            else:
                box.fill(text)
                box.press("Tab")
        self.count += 1

    def press(self, name: str | re.Pattern[str]) -> None:
        with self.page.expect_response(lambda answer: answer.request.method == "POST"):
            self.page.get_by_role("button", name=name).first.click()
        self.count += 1


def test_from_nothing_to_an_order(page: Page, empty: str) -> None:
    page.goto(empty)
    expect(page.get_by_text("Begin with a new job")).to_be_visible()
    page.get_by_role("button", name=re.compile("Add the standard shelf")).click()
    page.locator("#name-dialog input[name=name]").fill("Nell")
    page.get_by_role("button", name="Save name").click()
    expect(page.get_by_role("button", name=re.compile("Add the standard shelf"))).to_have_count(0)
    page.fill("#title", "Trekking bike, weak front")
    page.get_by_role("button", name="New job").click()
    page.wait_for_url(re.compile(r"/jobs/\d+/intake"))
    job = page.url.rpartition("/")[0]

    hand = Entries(page)
    hand.fill("rider.mass_kg", "84")
    hand.fill("bike.kind", "touring")
    hand.press("weak")
    hand.fill("load.luggage_kg", "12")

    for end in ("front", "rear"):
        page.goto(f"{job}/measure?place=mount")
        hand.fill(f"{end}.mount_named", "post_mount")
        hand.fill(f"{end}.native_rotor_mm", "160")
        hand.fill(f"{end}.max_rotor_mm", "180")
        if end == "front":
            for place, part in (
                ("rotor", "std-rotor-160-18-plain-six-bolt"), ("pads", "std-pad-two-piston-resin"),
                ("caliper", "std-unknown-two-piston-caliper-post-mount-mineral"),
                ("lever", "std-unknown-lever-flat-bar-mineral"),
            ):  # fmt: skip
                page.goto(f"{job}/measure?place={place}")
                hand.fill(f"front.{place.rstrip('s')}_id", part)
            page.goto(f"{job}/measure?place=hub")
            hand.fill("front.hub", "six_bolt")
            page.goto(f"{job}/measure?place=lever")
            hand.fill("front.fluid_boils_c", "200")
            hand.press(re.compile("copy to the other wheel"))
    page.goto(f"{job}/ride")
    hand.press(re.compile("^Stop"))
    page.wait_for_selector("[data-chart=ride]")
    page.goto(f"{job}/choose")
    expect(page.get_by_role("region", name="The answer")).to_contain_text("Keep what is on it")
    with page.expect_response(lambda answer: answer.request.method == "POST"):
        page.locator("[data-step=rotor-up-front]").first.click()
    hand.count += 1
    expect(page.locator("#head")).to_contain_text("proposed")
    assert hand.count <= MOST_ENTRIES
    page.goto(f"{job}/build")
    expect(page.get_by_role("heading", name=re.compile("Work order"))).to_be_visible()
    barred = page.locator(".gate-work")
    expect(barred).to_have_count(0)  # nothing of it is known not to go together
    expect(page.get_by_text("usual figures, not the part’s own").first).to_be_visible()
