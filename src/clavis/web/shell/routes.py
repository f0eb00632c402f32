"""Routes of the house. Each says at itself who may ask for it, and whether it is long work; one that does not say who
may cannot be made. Numbers in addresses stand as they are written here, or there is no such page."""

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

from fastapi import APIRouter, HTTPException, Request
from fastapi.dependencies.models import Dependant
from fastapi.params import Depends
from fastapi.routing import APIRoute
from starlette.routing import Match
from starlette.types import Receive, Scope, Send

from clavis.store.accounts import Account, Role

_CANONICAL = re.compile(r"0|[1-9][0-9]{0,14}")
"""a number as an address of ours has it: no sign, space, dot, leading nought or other script's digits"""


@dataclass(frozen=True)
class Needs:
    """The dependency that guards a route: the ``least`` role that may ask for it, and in words for whom it is. None:
    everybody, also who has not signed in."""

    least: Role | None
    words: str = ""

    def __call__(self, request: Request) -> None:
        if self.least is None or not request.app.state.settings.asks_for_sign_in:
            return
        account: Account | None = getattr(request.state, "account", None)
        if account is None:  # the door has turned them away already
            raise HTTPException(401, "Sign in first.")
        if not account.may(self.least):
            raise HTTPException(403, f"Not with this account: {self.words}.")


def _long_work() -> None:
    """The dependency that marks an answer as long work: it stands in the queue, and gives way to pages and changes."""


Who = Sequence[Any]
"""what a route's ``dependencies`` are told"""
ANYBODY: Who = (Depends(Needs(None)),)
"""sign-in itself, and what opens by a secret of its own"""
APPRENTICE: Who = (Depends(Needs(Role.APPRENTICE)),)
"""everybody who has signed in"""
LONG = Depends(_long_work)


def mechanic(words: str) -> Who:
    """For a mechanic or the owner; ``words`` say what a mechanic does."""
    return (Depends(Needs(Role.MECHANIC, words)),)


def owner(words: str) -> Who:
    """For the owner alone; ``words`` say what the owner does."""
    return (Depends(Needs(Role.OWNER, words)),)


def _numbers(dependant: Dependant) -> Iterator[str]:
    """The names of all that an address must have as a number, for the route or what it depends on."""
    yield from (p.name for p in dependant.path_params if p.field_info.annotation is int)
    for inner in dependant.dependencies:
        yield from _numbers(inner)


class HouseRoute(APIRoute):
    """A route that says who may. Raises TypeError where it does not."""

    def __init__(self, path: str, endpoint: Any, **more: Any) -> None:
        super().__init__(path, endpoint, **more)
        told = [depends.dependency for depends in self.dependencies]
        needs = [found for found in told if isinstance(found, Needs)]
        if len(needs) != 1:
            raise TypeError(f"the route {path} does not say who may ask for it")
        self.needs = needs[0]
        self.long = _long_work in told
        self.numbers = tuple(_numbers(self.dependant))

    def matches(self, scope: Scope) -> tuple[Match, Scope]:
        match, child = super().matches(scope)
        if match is not Match.NONE:
            given = child["path_params"]
            if not all(_CANONICAL.fullmatch(given[name]) for name in self.numbers):
                return Match.NONE, {}
        return match, child

    async def handle(self, scope: Scope, receive: Receive, send: Send) -> None:
        state = scope["app"].state
        if self.long:
            await state.long_queue.answer(super().handle, scope, receive, send)
            return
        with state.answers.courtesy.answering(changes=scope["method"] != "GET"):
            await super().handle(scope, receive, send)


def router() -> APIRouter:
    """What a module of a station hangs its routes on."""
    return APIRouter(route_class=HouseRoute)
