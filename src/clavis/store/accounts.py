"""Accounts of a workshop whose pages are reached over a network: who may come in, as what, and for how long.

A password is kept as its Argon2 hash alone, a session as the hash of the token that the browser holds. Nobody's account
is deleted: their name stands on histories and sign-offs; it is switched off.
"""

import secrets
from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum
from hashlib import sha256

from argon2 import PasswordHasher
from argon2.exceptions import Argon2Error, InvalidHashError
from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from clavis.store import jobs
from clavis.store.database import writing
from clavis.store.tables import AccountRow, SessionRow

LEAST_LETTERS, MOST_LETTERS = 10, 200
"""of a password: length is what makes it hard to guess"""
SESSION = timedelta(hours=12)
IDLE = timedelta(hours=3)
"""a session that nobody used for so long has ended"""
SEEN_EVERY = timedelta(minutes=5)
MOST_ACCOUNTS = 500
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


def _hashed(password: str) -> str:
    if not LEAST_LETTERS <= len(password) <= MOST_LETTERS:
        raise jobs.RefusedError("password", f"Password: between {LEAST_LETTERS} and {MOST_LETTERS} letters")
    return HASHER.hash(password)


def _named(name: str) -> str:
    told = " ".join(name.split())
    if not 2 <= len(told) <= 40:
        raise jobs.RefusedError("name", "Name: between 2 and 40 letters")
    return told


def add(session: Session, name: str, password: str, role: Role, who: str) -> Account:
    """A new account. Raises RefusedError for a name that is taken or a password that is too short."""
    told, hashed = _named(name), _hashed(password)
    with writing(session):
        if session.scalar(select(AccountRow.id).where(func.lower(AccountRow.name) == told.lower())) is not None:
            raise jobs.RefusedError("name", f"“{told}” has an account already")
        if (session.scalar(select(func.count(AccountRow.id))) or 0) >= MOST_ACCOUNTS:
            raise jobs.RefusedError("name", f"there are {MOST_ACCOUNTS} accounts already")
        row = AccountRow(
            name=told, password_hash=hashed, role=role.value, active=True, who=who[:40], changed_at=jobs.now()
        )
        session.add(row)
        session.flush()
        return _account(row)


def every(session: Session) -> list[Account]:
    """By name."""
    return [_account(row) for row in session.scalars(select(AccountRow).order_by(func.lower(AccountRow.name)))]


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
    row = session.scalar(select(AccountRow).where(func.lower(AccountRow.name) == " ".join(name.split()).lower()))
    if row is None:
        raise jobs.NotThereError(f"“{name[:40]}” has no account")
    return _account(row)


def change(
    session: Session, account_id: int, who: str, *, role: Role | None = None, active: bool | None = None,
    password: str | None = None,
) -> Account:  # fmt: skip
    """Another role or password, or switched off or on; all sessions of the account end. Raises NotThereError, and
    RefusedError where no owner would be left."""
    hashed = None if password is None else _hashed(password)
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
        return _account(row)


def checked(session: Session, name: str, password: str) -> Account | None:
    """The account of a name and its password; None where they do not go together. It takes as long for a name that
    nobody has."""
    row = session.scalar(select(AccountRow).where(func.lower(AccountRow.name) == " ".join(name.split()).lower()))
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
