"""Who reads a page, in which units, and who makes a change."""

from dataclasses import dataclass
from typing import Annotated
from urllib.parse import unquote

from fastapi import Depends, Form, HTTPException, Request, UploadFile
from starlette.datastructures import FormData

from clavis.core.sentences import Words
from clavis.core.units import System
from clavis.core.wording.sentences import render as render_words
from clavis.store import jobs
from clavis.store.accounts import Account, Role

WHO_COOKIE, UNITS_COOKIE, SAID_COOKIE = "clavis_who", "clavis_units", "clavis_said"
KEYS_COOKIE, TOUR_COOKIE = "clavis_keys", "clavis_tour"


@dataclass(frozen=True)
class Reader:
    """Who reads, in which units."""

    who: str
    system: System
    said: str = ""
    """what was done by the last request, to be said once on the page that follows it"""
    letters: bool = True
    """keys of a single letter or sign do something"""
    tour: int = 0
    """the step of the tour that is on; 0 where none is"""
    signed_in: Role | None = None
    """as what they have signed in; None on the machine itself, where nobody is asked"""
    toured: bool = False
    """the tour was begun once in this browser: it is offered in the guide alone from then on"""

    @property
    def mechanic(self) -> bool:
        """May do what a mechanic may; what is not for this reader is not offered on pages."""
        return self.signed_in is not Role.APPRENTICE

    @property
    def owner(self) -> bool:
        return self.signed_in in (None, Role.OWNER)

    def told(self, words: Words) -> str:
        """Words in the reader's units."""
        return render_words(words, self.system)


def reader(request: Request) -> Reader:
    chosen = request.cookies.get(UNITS_COOKIE, System.METRIC.value)
    system = System(chosen) if chosen in {s.value for s in System} else System.METRIC
    said = unquote(request.cookies.get(SAID_COOKIE, ""))[:200]
    who, step = unquote(request.cookies.get(WHO_COOKIE, ""))[:40].strip(), request.cookies.get(TOUR_COOKIE, "")
    letters = request.cookies.get(KEYS_COOKIE) != "off"
    account: Account | None = getattr(request.state, "account", None)
    tour, toured = int(step) if step in set("123456") else 0, bool(step)
    if account is not None:
        return Reader(account.name, system, said, letters, tour, account.role, toured)
    asked = request.app.state.settings.asks_for_sign_in
    return Reader("" if asked else who, system, said, letters, tour, None, toured)


ReaderDep = Annotated[Reader, Depends(reader)]


def author(reading: ReaderDep, page: Annotated[str, Form(max_length=32)] = "") -> jobs.Author:
    """Who makes a change; asked for once per browser."""
    if not reading.who:
        raise HTTPException(428, "Say your name first: it stands on the history, ticks and sign-offs.")
    return jobs.Author(reading.who, page or "none")


AuthorDep = Annotated[jobs.Author, Depends(author)]


async def typed_form(request: Request) -> FormData:
    """Everything a form sends, for routes whose fields are those of a table."""
    return await request.form()


def local(path: str) -> str:
    """An address of these pages alone; the board for any other."""
    return path if path.startswith("/") and not path.startswith(("//", "/\\")) and path.isprintable() else "/"


def name_of(file: UploadFile, unnamed: str) -> str:
    """A file's name as it is shown: without the folders that some browsers send along."""
    return (file.filename or unnamed).replace("\\", "/").rsplit("/", 1)[-1][:60]


FormDep = Annotated[FormData, Depends(typed_form)]
