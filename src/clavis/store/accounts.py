"""Accounts of a workshop whose pages are reached over a network: who may come in, as what, and for how long.

A password is kept as its Argon2 hash alone, a session as the hash of the token that the browser holds. Nobody's account
is deleted: their name stands on histories and sign-offs; it is switched off.
"""

import secrets
from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum
from hashlib import sha256
from unicodedata import category, normalize

from argon2 import PasswordHasher
from argon2.exceptions import Argon2Error, InvalidHashError
from confusable_homoglyphs import confusables
from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from clavis.store import jobs
from clavis.store.database import writing
from clavis.store.tables import AccountRow, DeviceRow, SessionRow

LEAST_LETTERS, MOST_LETTERS = 10, 200
"""of a password: length is what makes it hard to guess"""
LEAST_BESIDE = 6
"""letters of it that are not the name's"""
LEAST_SCORE = 2
"""of zxcvbn, 0 to 4: below it a password is among those that are tried first"""
SESSION = timedelta(hours=12)
IDLE = timedelta(hours=3)
"""a session that nobody used for so long has ended"""
SEEN_EVERY = timedelta(minutes=5)
MOST_ACCOUNTS = 500
MOST_DEVICES = 30
"""of one account that are known; the longest unseen is forgotten"""
DEVICE = timedelta(days=400)
HASHER = PasswordHasher()
LOOPBACK = frozenset({"127.0.0.1", "::1", "localhost"})


def over_network(host: str, *, behind_proxy: bool) -> bool:
    """Whether pages that are served at an address of this machine are reached from others: then nobody comes in without
    an account."""
    return behind_proxy or host not in LOOPBACK


class Role(StrEnum):
    """What somebody may do: each what those before it may, and more."""

    APPRENTICE = "apprentice"
    MECHANIC = "mechanic"
    OWNER = "owner"


ROLES = tuple(Role)
MAY: dict[Role, str] = {
    Role.APPRENTICE: "works on jobs; a mechanic signs them off",
    Role.MECHANIC: "also signs off, releases, and changes catalogue and workshop",
    Role.OWNER: "also keeps accounts and erases",
}


@dataclass(frozen=True)
class Account:
    """Somebody who may come in."""

    id: int
    name: str
    role: Role
    active: bool

    def may(self, least: Role) -> bool:
        return ROLES.index(self.role) >= ROLES.index(least)


def _account(row: AccountRow) -> Account:
    role = Role(row.role) if row.role in set(Role) else Role.APPRENTICE
    return Account(row.id, row.name, role, row.active)


def folded(name: str) -> str:
    """A name as it is looked for, whatever the case and the way its letters were typed.

    >>> folded("ÅSA  O\u0308berg") == folded(" åsa Öberg "), folded("Straße") == folded("STRASSE")
    (True, True)
    """
    return normalize("NFKC", normalize("NFKC", " ".join(name.split())).casefold())


def _looks(name: str) -> str:
    """A folded name with every letter that looks like a Latin one as that one: two that look alike are one."""
    like = confusables.is_confusable(name, greedy=True, preferred_aliases=["latin"]) or []
    letters = {found["character"]: found["homoglyphs"][0]["c"] for found in like}
    return "".join(letters.get(letter, letter) for letter in name).casefold()


def _hashed(password: str, name: str) -> str:
    from zxcvbn import zxcvbn  # its lists take a while

    if not LEAST_LETTERS <= len(password) <= MOST_LETTERS:
        raise jobs.RefusedError("password", f"Password: between {LEAST_LETTERS} and {MOST_LETTERS} letters")
    beside = folded(password)
    for word in folded(name).replace("-", " ").split():
        beside = beside.replace(word, "")
    if sum(map(str.isalnum, beside)) < LEAST_BESIDE:
        raise jobs.RefusedError("password", "Password: not the name")
    if zxcvbn(password[:72], user_inputs=folded(name).split())["score"] < LEAST_SCORE:
        raise jobs.RefusedError("password", "Password: this one is among those that are tried first; take another")
    return HASHER.hash(password)


def _named(name: str) -> str:
    told = normalize("NFC", " ".join(name.split()))
    if not 2 <= len(told) <= 40:
        raise jobs.RefusedError("name", "Name: between 2 and 40 letters")
    if any(category(letter)[0] == "C" for letter in told):
        raise jobs.RefusedError("name", "Name: it holds a letter that cannot be seen")
    if confusables.is_dangerous(told):
        raise jobs.RefusedError("name", "Name: it mixes letters of several scripts that look alike")
    return told


def _of_name(session: Session, name: str) -> AccountRow | None:
    return session.scalar(select(AccountRow).where(AccountRow.folded == folded(name)))


def add(session: Session, name: str, password: str, role: Role, who: str) -> Account:
    """A new account. Raises RefusedError for a name that is taken, or looks like one that is, and for a password that
    is too easy."""
    told = _named(name)
    hashed = _hashed(password, told)
    with writing(session):
        taken = session.execute(select(AccountRow.name, AccountRow.folded)).all()
        like = next((row.name for row in taken if _looks(row.folded) == _looks(folded(told))), None)
        if like is not None:
            words = f"“{told}” has an account already" if folded(like) == folded(told) else f"it looks like “{like}”"
            raise jobs.RefusedError("name", words)
        if len(taken) >= MOST_ACCOUNTS:
            raise jobs.RefusedError("name", f"there are {MOST_ACCOUNTS} accounts already")
        row = AccountRow(
            name=told, folded=folded(told), password_hash=hashed, role=role.value, active=True, who=who[:40],
            changed_at=jobs.now(),
        )  # fmt: skip
        session.add(row)
        session.flush()
        return _account(row)


def every(session: Session) -> list[Account]:
    """By name."""
    return [_account(row) for row in session.scalars(select(AccountRow).order_by(AccountRow.folded))]


def has_owner(session: Session) -> bool:
    """Whether somebody could let others in."""
    query = select(AccountRow.id).where(AccountRow.role == Role.OWNER.value, AccountRow.active.is_(True)).limit(1)
    return session.scalar(query) is not None


def _row(session: Session, account_id: int) -> AccountRow:
    row = session.get(AccountRow, account_id, populate_existing=True)
    if row is None:
        raise jobs.NotThereError(f"there is no account {account_id}")
    return row


def find(session: Session, name: str) -> Account:
    """Raises NotThereError."""
    row = _of_name(session, name)
    if row is None:
        raise jobs.NotThereError(f"“{name[:40]}” has no account")
    return _account(row)


def change(
    session: Session, account_id: int, who: str, *, role: Role | None = None, active: bool | None = None,
    password: str | None = None,
) -> Account:  # fmt: skip
    """Another role or password, or switched off or on; all sessions of the account end. Raises NotThereError, and
    RefusedError where no owner would be left."""
    hashed = None if password is None else _hashed(password, _row(session, account_id).name)
    with writing(session):
        row = _row(session, account_id)
        row.role = row.role if role is None else role.value
        row.active = row.active if active is None else active
        row.password_hash = hashed or row.password_hash
        row.who, row.changed_at = who[:40], jobs.now()
        session.flush()
        if not has_owner(session):
            raise jobs.RefusedError("role", "one owner must be left who can let others in")
        session.execute(delete(SessionRow).where(SessionRow.account_id == account_id))
        if hashed is not None:
            session.execute(delete(DeviceRow).where(DeviceRow.account_id == account_id))
        return _account(row)


def checked(session: Session, name: str, password: str) -> Account | None:
    """The account of a name and its password; None where they do not go together. It takes as long for a name that
    nobody has."""
    row = _of_name(session, name)
    try:
        HASHER.verify(row.password_hash if row is not None else _nobodys(), password[:MOST_LETTERS])
    except (Argon2Error, InvalidHashError):
        return None
    return _account(row) if row is not None and row.active else None


_nobodys_hash: list[str] = []


def _nobodys() -> str:
    if not _nobodys_hash:
        _nobodys_hash.append(HASHER.hash(secrets.token_urlsafe(20)))
    return _nobodys_hash[0]


def _mark(token: str) -> str:
    return sha256(token.encode()).hexdigest()


def begin_session(session: Session, account: Account) -> str:
    """A new session; the token that the browser keeps. Those that have ended are taken out."""
    token, now = secrets.token_urlsafe(32), jobs.now()
    with writing(session):
        session.execute(
            delete(SessionRow).where((SessionRow.begun_at < now - SESSION) | (SessionRow.seen_at < now - IDLE))
        )
        session.add(SessionRow(token_mark=_mark(token), account_id=account.id, begun_at=now, seen_at=now))
    return token


def of_token(session: Session, token: str, now: datetime) -> Account | None:
    """Whose session a token is; None where it has ended, or its account is switched off."""
    found = session.execute(
        select(SessionRow, AccountRow)
        .join(AccountRow, AccountRow.id == SessionRow.account_id)
        .where(SessionRow.token_mark == _mark(token))
    ).first()
    if found is None or not found[1].active:
        return None
    row, account = found
    if row.begun_at < now - SESSION or row.seen_at < now - IDLE:
        return None
    if row.seen_at < now - SEEN_EVERY:
        with writing(session):
            row.seen_at = now
    return _account(account)


def end_session(session: Session, token: str) -> None:
    with writing(session):
        session.execute(delete(SessionRow).where(SessionRow.token_mark == _mark(token)))


def knows_device(session: Session, name: str, token: str) -> bool:
    """Whether a browser has signed in with this account before: its right password is never made to wait for what
    others try elsewhere."""
    query = (
        select(DeviceRow.token_mark)
        .join(AccountRow, AccountRow.id == DeviceRow.account_id)
        .where(AccountRow.folded == folded(name), DeviceRow.token_mark == _mark(token))
    )
    return bool(token) and session.scalar(query) is not None


def remember_device(session: Session, account: Account, token: str) -> str:
    """Know a browser from now on; the token that it keeps. One that is known, with any account, keeps its own."""
    with writing(session):
        known = session.scalar(select(DeviceRow.token_mark).where(DeviceRow.token_mark == _mark(token)).limit(1))
        if known is None:  # what a browser brings of itself may be another's
            token = secrets.token_urlsafe(32)
        row = session.get(DeviceRow, (account.id, _mark(token)))
        if row is None:
            row = DeviceRow(account_id=account.id, token_mark=_mark(token))
            session.add(row)
        row.seen_at = jobs.now()
        session.flush()
        of_account = select(DeviceRow.token_mark).where(DeviceRow.account_id == account.id)
        kept = of_account.order_by(DeviceRow.seen_at.desc()).limit(MOST_DEVICES)
        session.execute(delete(DeviceRow).where(DeviceRow.account_id == account.id, DeviceRow.token_mark.not_in(kept)))
    return token


def end_every_session(session: Session) -> None:
    """As part of a larger step: who was signed in signs in again."""
    session.execute(delete(SessionRow))
