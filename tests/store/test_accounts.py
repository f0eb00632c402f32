"""Accounts: one owner is always left, passwords are hashed, sessions end."""

from datetime import timedelta

import pytest
from sqlalchemy import text
from sqlalchemy.orm import Session

from clavis.store import accounts, jobs
from clavis.store.accounts import IDLE, SEEN_EVERY, SESSION, Role

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
