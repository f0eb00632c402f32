"""Accounts: one owner is always left, passwords are hashed, sessions end."""

from datetime import timedelta

import pytest
from sqlalchemy import func, select, text
from sqlalchemy.orm import Session

from clavis.store import accounts, jobs
from clavis.store.accounts import IDLE, SEEN_EVERY, SESSION, Role
from clavis.store.tables import DeviceRow

pytestmark = pytest.mark.usefixtures("quick_hash")
PASSWORD = "a long enough one"


def test_a_password_is_kept_as_its_hash_alone(session: Session) -> None:
    accounts.add(session, "  Ada   Example ", PASSWORD, Role.OWNER, "cli")
    kept = session.execute(text("select name, password_hash from account")).one()
    assert (
        kept.name == "Ada Example"
        and kept.password_hash.startswith("$argon2id$")
        and PASSWORD not in kept.password_hash
    )
    assert accounts.checked(session, "ada example", PASSWORD) is not None
    assert accounts.checked(session, "Ada Example", PASSWORD + "x") is None
    assert accounts.checked(session, "Nobody", PASSWORD) is None


@pytest.mark.parametrize(
    ("name", "password", "words"),
    [
        ("A", PASSWORD, "Name"),
        ("Ada", "short", "Password"),
        ("Ada", "x" * 201, "Password"),
        ("ADA", PASSWORD, "already"),
    ],
)
def test_what_is_no_account_is_refused(session: Session, name: str, password: str, words: str) -> None:
    if words == "already":
        accounts.add(session, "Ada", PASSWORD, Role.OWNER, "cli")
    with pytest.raises(jobs.RefusedError, match=words):
        accounts.add(session, name, password, Role.MECHANIC, "cli")


def test_one_owner_is_left(session: Session) -> None:
    ada = accounts.add(session, "Ada", PASSWORD, Role.OWNER, "cli")
    for change in ({"role": Role.MECHANIC}, {"active": False}):
        with pytest.raises(jobs.RefusedError, match="one owner"):
            accounts.change(session, ada.id, "cli", **change)
    assert accounts.has_owner(session)
    bob = accounts.add(session, "Bob", PASSWORD, Role.OWNER, "cli")
    accounts.change(session, ada.id, "cli", active=False)
    assert accounts.checked(session, "Ada", PASSWORD) is None and accounts.checked(session, "Bob", PASSWORD) == bob


def test_a_session_ends_by_itself_and_with_what_it_rests_on(session: Session) -> None:
    ada = accounts.add(session, "Ada", PASSWORD, Role.OWNER, "cli")
    begun = jobs.now()
    token = accounts.begin_session(session, ada)
    assert token not in str(session.execute(text("select * from session")).all())
    assert accounts.of_token(session, token, begun) == ada
    assert accounts.of_token(session, token + "x", begun) is None
    assert accounts.of_token(session, token, begun + IDLE + timedelta(minutes=1)) is None
    step = begun
    while step < begun + SESSION - SEEN_EVERY * 3:  # who works all day stays in, to the end of the session
        step += SEEN_EVERY * 2
        assert accounts.of_token(session, token, step) == ada
    assert accounts.of_token(session, token, begun + SESSION + timedelta(minutes=1)) is None
    token = accounts.begin_session(session, ada)
    accounts.change(session, ada.id, "cli", password="another long one")
    assert accounts.of_token(session, token, jobs.now()) is None
    token = accounts.begin_session(session, ada)
    accounts.end_session(session, token)
    assert accounts.of_token(session, token, jobs.now()) is None


def test_roles_may_what_those_before_them_may() -> None:
    made = {role: accounts.Account(1, "x", role, True) for role in Role}
    assert [made[Role.MECHANIC].may(least) for least in Role] == [True, True, False]
    assert [made[Role.APPRENTICE].may(least) for least in Role] == [True, False, False]
    assert all(made[Role.OWNER].may(least) for least in Role)


@pytest.mark.parametrize(
    ("name", "typed"),
    [("Åsa Öberg", "åsa öberg"), ("Éva Kovács", "E\u0301VA KOVÁCS"), ("Øyvind Ås", "øyvind  ås"), ("Ольга", "ольга")],
)
def test_a_name_of_any_letters_comes_in(session: Session, name: str, typed: str) -> None:
    accounts.add(session, name, PASSWORD, Role.MECHANIC, "cli")
    found = accounts.checked(session, typed, PASSWORD)
    assert found is not None and found.name == name and accounts.find(session, typed).name == name
    with pytest.raises(jobs.RefusedError, match="has an account already"):
        accounts.add(session, typed, PASSWORD, Role.APPRENTICE, "cli")


@pytest.mark.parametrize(
    ("name", "why"),
    [("Ol\u200bga", "cannot be seen"), ("Olga\u202e", "cannot be seen"), ("\u041elga", "look alike"), ("\u0421\u043e\u0441\u043e", "looks like"),
     ("coco", "already"), ("O", "between 2 and 40")],
)  # fmt: skip
def test_a_name_that_passes_for_another_is_refused(session: Session, name: str, why: str) -> None:
    accounts.add(session, "Coco", PASSWORD, Role.OWNER, "cli")
    with pytest.raises(jobs.RefusedError, match=why):
        accounts.add(session, name, PASSWORD, Role.APPRENTICE, "cli")


@pytest.mark.parametrize(
    "password",
    ["short", "1234567890", "qwertyuiop", "password123", "Olga Owner", "olgaowner", "olga-olga-olga", "ÖLGA-OWNER"],
)
def test_a_password_that_is_tried_first_is_refused(session: Session, password: str) -> None:
    with pytest.raises(jobs.RefusedError, match="Password"):
        accounts.add(session, "Olga Owner" if "Ö" not in password else "Ölga-Owner", password, Role.OWNER, "cli")
    made = accounts.add(session, "Olga Owner", PASSWORD, Role.OWNER, "cli")
    with pytest.raises(jobs.RefusedError, match="Password"):
        accounts.change(session, made.id, "cli", password=password if "Ö" not in password else "olgaowner")


def test_another_password_makes_its_browsers_unknown(session: Session) -> None:
    made = accounts.add(session, "Olga Owner", PASSWORD, Role.OWNER, "cli")
    token = accounts.remember_device(session, made, "")
    assert accounts.knows_device(session, "olga owner", token) and not accounts.knows_device(session, "Olga Owner", "")
    for _ in range(accounts.MOST_DEVICES + 3):
        accounts.remember_device(session, made, "")
    assert session.scalar(select(func.count()).select_from(DeviceRow)) == accounts.MOST_DEVICES
    accounts.change(session, made.id, "cli", password=PASSWORD + " of late")
    assert session.scalar(select(func.count()).select_from(DeviceRow)) == 0
