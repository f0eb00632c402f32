"""Over a network: one signs in, an apprentice works and a mechanic signs, the owner lets others in, and who is signed out
loses nothing that was typed."""

import subprocess
import sys
from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.browser.conftest import start
from tests.browser.test_every_page import AXE, GRAVE, LOOKED

pytestmark = pytest.mark.browser
PASSWORD = "a long enough one"


@pytest.fixture(scope="module")
def shop(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """Address of a workshop that asks for sign-in, with an owner and an apprentice."""
    database = tmp_path_factory.mktemp("shop") / "shop.db"
    for name, role in (("Olga Example", "owner"), ("Adam Example", "apprentice")):
        clavis = [sys.executable, "-m", "clavis.cli", "account", "add", name, "--role", role]
        subprocess.run(
            [*clavis, "--password-stdin", "--database", str(database)], input=f"{PASSWORD}\n", text=True, check=True
        )
    process, address = start("serve", database, more=("--sign-in",))
    yield address
    process.terminate()
    process.wait(timeout=10)


def signed_in(page: Page, address: str, name: str) -> None:
    page.goto(f"{address}/parts")
    expect(page).to_have_url(f"{address}/sign-in?back=/parts")
    page.get_by_label("Name").fill(name)
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    expect(page).to_have_url(f"{address}/parts")


def test_the_owner_lets_somebody_in_and_names_are_the_accounts(shop: str, page: Page, browser: Browser) -> None:
    page.goto(shop)
    page.get_by_label("Name").fill("Olga Example")
    page.get_by_label("Password").fill("not this one")
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("alert")).to_have_text("Name and password do not go together.")
    expect(page.get_by_role("navigation", name="Main")).to_have_count(0)
    signed_in(page, shop, "Olga Example")
    page.get_by_role("link", name="Accounts").click()
    page.get_by_label("Name").last.fill("Mara Example")
    page.get_by_label("Password, at least 10 letters").fill(PASSWORD)
    page.locator(".new-account select").select_option("mechanic")
    page.get_by_role("button", name="Add account").click()
    expect(page.get_by_role("row", name="Mara Example")).to_be_visible()
    page.goto(shop)
    page.get_by_placeholder("Name of the new job").fill("A bike of the shop")
    page.get_by_role("button", name="New job").click()
    expect(page).to_have_url(f"{shop}/jobs/1/intake")
    page.goto(f"{shop}/jobs/1/history")
    expect(page.locator(".history")).to_contain_text("Olga Example")
    page.get_by_role("button", name="Sign out").click()
    page.goto(f"{shop}/jobs/1/intake")
    expect(page).to_have_url(f"{shop}/sign-in?back=/jobs/1/intake")


def test_an_apprentice_works_and_does_not_keep_the_catalogue(shop: str, page: Page) -> None:
    signed_in(page, shop, "Adam Example")
    expect(page.get_by_role("link", name="Accounts")).to_have_count(0)
    page.goto(f"{shop}/parts")
    expect(page.get_by_role("heading", level=1)).to_be_visible()
    expect(page.get_by_role("button", name="Add the standard shelf")).to_have_count(0)
    page.goto(f"{shop}/jobs/1/intake")
    box = page.locator("#f-rider-mass_kg")
    box.fill("81")
    with page.expect_response(lambda r: r.url.endswith("/field")) as answered:
        box.press("Tab")
    assert answered.value.ok
    page.goto(f"{shop}/jobs/1/history")
    expect(page.locator(".history")).to_contain_text("Adam Example")


def test_who_is_signed_out_meanwhile_loses_nothing(shop: str, browser: Browser) -> None:
    context = browser.new_context()
    page, other = context.new_page(), context.new_page()
    signed_in(page, shop, "Adam Example")
    page.goto(f"{shop}/jobs/1/intake")
    other.goto(shop)
    other.get_by_role("button", name="Sign out").click()
    expect(other.get_by_role("button", name="Sign in")).to_be_visible()
    box = page.locator("#f-rider-mass_kg")
    box.fill("77")
    box.press("Tab")
    expect(page.locator("#saving")).to_contain_text("you are signed out")
    signed_in(other, shop, "Adam Example")
    expect(page.locator("#saving[data-state=saved]")).to_be_visible()
    other.goto(f"{shop}/jobs/1/intake")
    expect(other.locator("#f-rider-mass_kg")).to_have_value("77")
    context.close()


def test_the_pages_of_the_door_are_fit_for_eye_and_hand(shop: str, page: Page) -> None:
    def stumbles(address: str) -> list[str]:
        page.goto(f"{shop}{address}")
        found: list[str] = page.evaluate(LOOKED)
        page.evaluate(AXE)
        return found + list(page.evaluate(GRAVE))

    context = page.context
    assert stumbles("/sign-in") == []
    signed_in(page, shop, "Olga Example")
    assert stumbles("/accounts") == []
    assert context.cookies()[0]["httpOnly"]
