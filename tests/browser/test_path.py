"""One bike from intake to printed order, out as a file and into an empty database: the whole way in the browser."""

import json
import re
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Locator, Page, Route, expect

from clavis.demo.roads import RIDES

pytestmark = pytest.mark.browser


def pressed(page: Page, key: str) -> None:
    """A key on a page that is loaded: before, nobody listens."""
    page.wait_for_load_state()
    page.keyboard.press(key)


def say_name(page: Page, name: str = "Tess") -> None:
    page.locator("#name-dialog input[name=name]").fill(name)
    page.get_by_role("button", name="Save name").click()
    expect(page.locator(".who")).to_have_text(name)
    page.wait_for_load_state("load")  # a key pressed before the scripts listen would be lost


def unfold(page: Page, box: Locator) -> None:
    """Open what a field is folded into."""
    folded = page.locator("details.more:not([open])", has=box)
    if folded.count():
        folded.locator("summary").click()


def put(page: Page, path: str, value: str) -> None:
    """Type or choose a value in the field of one path and wait until it is kept."""
    box = page.locator("#f-" + path.replace(".", "-"))
    unfold(page, box)
    if box.get_attribute("role") == "combobox":
        box.fill(value)
        expect(page.locator(".offers:not([hidden]) [role=option].at")).to_be_visible()
        with page.expect_response(lambda r: r.url.endswith("/swap")) as swapped:
            box.press("Enter")
        assert swapped.value.status == 200, swapped.value.text()
        return
    with page.expect_response(lambda r: r.url.endswith("/field") and r.request.method == "POST") as kept:
        if box.evaluate("e => e.tagName") == "SELECT":
            box.select_option(value)
        else:
            box.fill(value)
            box.press("Tab")
    assert kept.value.status == 200, kept.value.text()


def go(page: Page, station: str) -> None:
    """To a station, until its scripts listen: a press before that would be lost."""
    page.locator(f'.stations a[href$="/{station}"]').click()
    page.wait_for_url(re.compile(f"/{station}(\\?|$)"))
    page.wait_for_load_state("load")


def turn_to(page: Page, key: str, view: str) -> None:
    """To a view of Choose by its key, until its scripts listen."""
    page.keyboard.press(key)
    page.wait_for_url(re.compile(view))
    page.wait_for_load_state("load")


def figures(page: Page) -> list[str]:
    return [re.sub(r"\s+", " ", t).strip() for t in page.locator(".sheet .fig").all_inner_texts()]


WALK = {
    "mount": {
        "mount_spacing_mm": "74.2", "bolt_direction": "along_post", "native_rotor_mm": "160", "max_rotor_mm": "203",
        "thread_material": "light_alloy",
    },
    "hub": {"hub": "six_bolt", "axle": "mm12"},
    "rotor": {"rotor_id": "q-disc-160", "rotor_points_mm": "1.71 1.7 1.72 1.71 1.72 1.71"},
    "pads": {"pad_id": "u-k2-resin", "pad_inner_mm": "1.6", "pad_outer_mm": "1.7", "pad_state": "good"},
    "caliper": {"caliper_id": "u-two-22"},
    "lever": {"lever_id": "u-blade-b", "fluid_grade": "mineral", "fluid_boils_c": "120"},
}  # fmt: skip


def walk(page: Page) -> None:
    """Measure both wheels, place by place, by the walk's own way on."""
    for place, fields in WALK.items():
        expect(page.locator(f"#drawn[data-place={place}] svg")).to_be_visible()
        for end in ("front", "rear"):
            for name, value in fields.items():
                if name == "rotor_points_mm":
                    page.locator(f"#points-in-{end}").fill(value)
                    with page.expect_response(lambda r: "/points/" in r.url):
                        page.locator(f"#points-in-{end}").press("Enter")
                else:
                    put(page, f"{end}.{name}", value)
        if place != "lever":
            page.locator('[data-go="n"]').click()


def test_the_whole_path(page: Page, demo: str, empty: str, browser: Browser, tmp_path: Path) -> None:
    # a new job; the name is asked at this first change and the change then goes its way
    page.goto(demo)
    page.get_by_placeholder("Name of the new job").fill("Browser bike")
    page.get_by_role("button", name="New job").click()
    say_name(page)
    page.wait_for_url(re.compile(r"/jobs/9/intake"))
    expect(page.locator("#live")).to_contain_text("Still needed for the first figures: bike kind, rider mass")

    # intake
    put(page, "bike.kind", "trail")
    put(page, "rider.mass_kg", "181 lb")
    expect(page.locator("#f-rider-mass_kg")).to_have_value("181 lb")
    expect(page.locator("#live")).to_contain_text("Deceleration limit")
    put(page, "rider.name", "Hedda Brook")
    expect(page.locator("#head")).to_contain_text("Hedda Brook on a trail bike")
    put(page, "bike.top_speed_kmh", "42")
    put(page, "conditions.surface", "hardpack")
    page.get_by_role("button", name="fades", exact=True).click()
    expect(page.locator("#head h1")).to_contain_text("Fades")

    # a mistake is answered beside the field, with the text kept
    box = page.locator("#f-rider-kit_mass_kg")
    unfold(page, box)
    box.fill("a lot")
    box.press("Tab")
    error = page.locator("#f-rider-kit_mass_kg-error")
    expect(error).to_contain_text("allowed is a number")
    expect(page.locator("#f-rider-kit_mass_kg")).to_have_value("a lot")
    put(page, "rider.kit_mass_kg", "5")
    expect(error).to_have_count(0)

    # ride: a bad file is refused where it was given, a good one becomes the ride
    go(page, "ride")
    bad = tmp_path / "bad.gpx"
    bad.write_text("no track", encoding="utf-8")
    page.locator("#ride-file").set_input_files(bad)
    expect(page.locator("#ride-message")).to_contain_text("bad.gpx: not readable as XML")
    page.locator("#ride-file").set_input_files(RIDES / "lift-trail.gpx")
    expect(page.locator(".loads tr.on")).to_contain_text("Lift trail")
    expect(page.locator("[data-chart=ride] canvas")).to_have_count(2)
    expect(page.locator(".loads")).to_contain_text("To be braked")

    # measure
    go(page, "measure")
    walk(page)
    page.goto(page.url.split("?")[0] + "?place=rotor")
    expect(page.locator("#told-front")).to_contain_text("0.20 mm above its minimum")
    expect(page.locator("#rotor-rear .readings li.thinnest")).to_have_text("1.70")

    # choose: the sheet, a step by key, a candidate
    go(page, "choose")
    expect(page.locator(".sheet .pill")).to_have_text(
        ["hand", "lever", "line", "caliper", "pad", "rotor", "wheel", "road"]
    )
    before = figures(page)
    assert len(before) > 30
    page.keyboard.press("f")
    with page.expect_response(lambda r: r.url.endswith("/step")):
        page.keyboard.press("+")
    expect(page.locator("#f-proposal-front-rotor_id")).not_to_have_value("")
    expect(page.locator(".which")).to_contain_text("proposed")
    assert figures(page) != before
    turn_to(page, "d", r"view=candidates$")
    lane = page.locator(".view-lane").nth(1)
    with page.expect_response(lambda r: r.url.endswith("/pick")):
        lane.locator(".school.own .candidate button").first.click()
    turn_to(page, "s", r"/choose$")
    expect(page.locator("#f-proposal-rear-pad_id")).not_to_have_value("")
    put(page, "proposal.front.rotor_id", "Quernmark Plain 203")
    put(page, "proposal.front.pad_id", "K2 Sinter")
    page.locator(".sheet .fig").first.click()
    expect(page.locator("#why")).to_contain_text("How sure")
    page.keyboard.press("Escape")
    expect(page.locator("#why")).to_be_empty()

    # fit: the one right adapter and its bolts, drawn
    go(page, "fit")
    front = page.locator(".fit-lane").first
    expect(front).to_contain_text("Quernmark P160–203")
    expect(front.locator(".bolts")).to_contain_text("M6 × 18")
    expect(front.locator(".drawing svg .d-adapter polygon")).to_have_count(1)

    # build: the order, its parts and torques by their keys, and the page to print
    go(page, "build")
    first = page.locator(".steps .tick").first
    first.click()
    expect(page.locator(".steps li").first).to_contain_text("Tess")
    pressed(page, "a")
    expect(page.get_by_role("table", name="Parts")).to_contain_text("Quernmark Plain 203")
    pressed(page, "t")
    expect(page.locator(".torques")).to_contain_text("T25 star key")
    pressed(page, "q")
    page.get_by_role("link", name="Print page").first.click()
    expect(page.locator(".paper")).to_contain_text("Quernmark Plain 203")
    page.emulate_media(media="print")
    expect(page.locator(".top")).to_be_hidden()
    expect(page.locator(".paper")).to_be_visible()
    assert page.pdf(format="A4").startswith(b"%PDF")
    page.emulate_media(media="screen")

    # take the job away and read it back where nothing was
    page.goto(f"{demo}/jobs/9/choose")
    expect(page.locator(".sheet")).to_be_visible()
    shown = figures(page)
    with page.expect_download() as download:
        page.get_by_role("link", name="Export").click()
    file = tmp_path / "job.json"
    download.value.save_as(file)
    assert json.loads(file.read_text(encoding="utf-8"))["job"]["title"] == "Browser bike"
    page.goto(empty)
    page.locator("#job-file").set_input_files(file)  # the name is known: cookies do not part ports
    page.wait_for_url(re.compile(r"/jobs/1/choose"))
    assert figures(page) == shown


def test_nothing_typed_is_lost_by_undo_history_and_back(page: Page, demo: str) -> None:
    page.goto(f"{demo}/jobs/5/intake")
    page.locator(".who").click()
    say_name(page)
    put(page, "rider.mass_kg", "55")
    put(page, "bike.mass_kg", "11")
    page.get_by_role("link", name="History").click()
    expect(page.locator("tbody tr").first).to_contain_text("Bike's mass")
    page.go_back()
    expect(page.locator("#f-bike-mass_kg")).to_have_value("11")
    page.get_by_role("button", name="Undo").click()
    expect(page.locator("#f-bike-mass_kg")).to_have_value("8.9")
    expect(page.locator("#f-rider-mass_kg")).to_have_value("55")


def test_two_people_on_one_job(page: Page, demo: str, browser: Browser) -> None:
    page.goto(f"{demo}/jobs/4/intake")
    page.locator(".who").click()
    say_name(page, "Tess")
    other = browser.new_context().new_page()
    other.goto(f"{demo}/jobs/4/intake")
    other.locator(".who").click()
    say_name(other, "Maud")
    put(page, "rider.mass_kg", "91")
    box = other.locator("#f-rider-mass_kg")
    box.fill("77")
    box.press("Tab")
    expect(other.locator("#f-rider-mass_kg-error")).to_contain_text("Tess changed this in the meantime: now “91”")
    expect(other.locator("#f-rider-mass_kg")).to_have_value("77")
    other.get_by_role("button", name="Save mine").click()
    expect(other.locator("#f-rider-mass_kg-error")).to_have_count(0)
    page.reload()
    expect(page.locator("#f-rider-mass_kg")).to_have_value("77")
    other.context.close()


def test_the_answer_and_the_sheet_down_to_the_rotor_are_seen_without_scrolling(page: Page, demo: str) -> None:
    """The answer stands first since; wheel and road follow below the fold of the job with the longest head."""
    page.goto(f"{demo}/jobs/7/choose")
    expect(page.locator(".answer-first")).to_be_visible()
    rotor = page.locator(".sheet .link-rotor").bounding_box()
    assert rotor is not None
    assert rotor["y"] + rotor["height"] <= 800


def test_stations_by_digit_and_help(page: Page, demo: str) -> None:
    page.goto(f"{demo}/jobs/7/intake")
    page.keyboard.press("4")
    page.wait_for_url(re.compile("/jobs/7/choose"))
    page.keyboard.press("?")
    page.wait_for_url(re.compile("/keys"))
    page.keyboard.press("b")
    expect(page.get_by_role("heading", name="Jobs")).to_be_visible()


def test_a_late_chance_is_dropped_with_its_sheet(page: Page, demo: str) -> None:
    held: list[Route] = []
    page.goto(f"{demo}/jobs/7/intake")
    page.locator(".who").click()
    say_name(page)

    def hold(route: Route) -> None:
        held.append(route)

    page.route("**/sure/proposed/front/chance", hold)
    page.goto(f"{demo}/jobs/7/choose")
    expect(page.locator(".sheet")).to_be_visible()
    page.wait_for_timeout(400)
    assert len(held) == 1
    with page.expect_response(lambda r: r.url.endswith("/step")):
        page.get_by_role("button", name="rotor one down, front").click()
    expect(page.locator("#f-proposal-front-rotor_id")).not_to_have_value("b-load-203")
    held[0].fulfill(body="<span>of an older sheet</span>")
    page.wait_for_timeout(300)
    expect(page.locator(".lane-head").first).not_to_contain_text("of an older sheet")
