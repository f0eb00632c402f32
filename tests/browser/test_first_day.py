"""The first day of a workshop: from nothing, by the standard shelf, to an order for a bike that is in no demo, with the
entries counted."""

import re

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.browser.test_path import unfold

pytestmark = pytest.mark.browser

MOST_ENTRIES = 20
"""so many make an answer for two wheels"""


class Entries:
    """Fields of a job as a hand fills them, and how many."""

    def __init__(self, page: Page) -> None:
        self.page, self.count = page, 0

    def fill(self, path: str, text: str) -> None:
        box = self.page.locator(f"#f-{path.replace('.', '-')}")
        unfold(self.page, box)  # looked for, not entered
        with self.page.expect_response(re.compile(r"/jobs/\d+/(field|points)")):
            if box.evaluate("box => box.tagName") == "SELECT":
                box.select_option(text)
            else:
                box.fill(text)
                box.press("Tab")
        self.count += 1

    def press(self, name: str | re.Pattern[str], within: Page | Locator | None = None) -> None:
        with self.page.expect_response(lambda answer: answer.request.method == "POST"):
            (within or self.page).get_by_role("button", name=name).first.click()
        self.count += 1

    def step(self, name: str) -> None:
        with self.page.expect_response(lambda answer: answer.request.method == "POST"):
            self.page.locator(f"[data-step={name}]").first.click()
        self.count += 1


def test_from_nothing_to_an_order(page: Page, empty: str) -> None:
    page.goto(empty)
    expect(page.get_by_text("Begin with a new job")).to_be_visible()
    page.get_by_role("button", name=re.compile("Add the standard shelf")).click()
    page.locator("#name-dialog input[name=name]").fill("Nell")
    page.get_by_role("button", name="Save name").click()
    expect(page.get_by_role("button", name=re.compile("Add the standard shelf"))).to_have_count(0)
    page.fill("#title", "Trekking bike, folded")
    page.get_by_role("button", name="New job").click()
    page.wait_for_url(re.compile(r"/jobs/\d+/intake"))
    job = page.url.rpartition("/")[0]

    hand = Entries(page)
    hand.fill("rider.mass_kg", "78")
    hand.fill("bike.kind", "folding")
    page.goto(f"{job}/measure?place=mount")
    hand.fill("front.carrying_id", "std-fork-post-mount-160")
    hand.fill("front.max_rotor_mm", "203")
    hand.fill("rear.carrying_id", "std-frame-post-mount-160")
    hand.fill("rear.max_rotor_mm", "203")
    for place, part in (
        ("rotor", "std-rotor-160-18-plain-six-bolt"), ("pads", "std-pad-two-piston-resin"),
        ("caliper", "std-unknown-two-piston-caliper-post-mount-mineral"), ("lever", "std-unknown-lever-flat-bar-mineral"),
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
    answer = page.get_by_role("region", name="The answer")
    expect(answer.locator(".answer-head")).to_contain_text("Recommended")
    hand.press("Propose", answer.locator(".answer-head"))
    expect(page.locator("#head p", has_text="proposed")).to_contain_text("both wheels hold")
    hand.step("rotor-up-front")
    expect(page.locator("#f-proposal-front-rotor_id")).to_have_value(re.compile("180|200|203"))
    expect(page.locator("#head p", has_text="proposed")).to_contain_text("both wheels hold")
    assert hand.count <= MOST_ENTRIES, hand.count

    page.goto(f"{job}/build")
    expect(page.get_by_role("heading", name=re.compile("Work order"))).to_be_visible()
    expect(page.locator(".gate-work")).to_have_count(0)  # nothing of it is known not to go together
    expect(page.get_by_text("usual figures, not the part’s own").first).to_be_visible()
    page.goto(f"{job}/papers/order")
    page.emulate_media(media="print")
    told = page.locator("body").inner_text()
    assert "folded" in told
    rows = page.get_by_role("row").filter(has_text="front").all_inner_texts()
    parts = [" ".join(row.split()) for row in rows]
    rotor = next(row for row in parts if "rotor" in row)
    size = re.search(r"rotor (\d+)", rotor)
    assert size and any("adapter" in row and f"160 to {size[1]}" in row for row in parts), parts
    bolts = [int(found[1]) for row in parts if (found := re.search(r"M6 × \d+.* (\d) [\d.]+$", row))]
    assert sum(bolts) == 4, parts  # two to the mount, two to the caliper, each with its length
    pdf = page.request.get(f"{job}/papers/order.pdf")
    assert pdf.status == 200 and pdf.body().startswith(b"%PDF")
