"""Templates: what every one of them may use, and a sentence told in its reader's units wherever one is put on a
page."""

from collections.abc import Iterable
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

from fastapi import Request
from jinja2 import Environment, FileSystemLoader, StrictUndefined, pass_context
from jinja2.runtime import Context
from starlette.responses import HTMLResponse

from clavis.core import units, verdicts
from clavis.core.parts.mounts import End
from clavis.core.physics.heat import Node
from clavis.core.sentences import Sentence, Words, unpacked
from clavis.core.units import System
from clavis.core.wording.glossary import TERMS, term_of
from clavis.core.wording.labels import END_WORDS, choice_word, field_word, place_word, value_word
from clavis.core.wording.sentences import render as render_words
from clavis.store.tables import told_moment
from clavis.web.shell.help_pages import help_of
from clavis.web.shell.mathml import mathml
from clavis.web.shell.readers import Reader
from clavis.web.shell.rooms import Station, address_of
from clavis.web.shell.settings import Settings
from clavis.web.shell.tour_steps import TOUR, tour_of


@pass_context
def _in_reader_units(context: Context, value: object) -> object:
    """A sentence that a template puts on the page is told in the reader's units."""
    return render_words(value, context.get("system", System.METRIC)) if isinstance(value, Sentence) else value


@pass_context
def _told(context: Context, value: Words) -> str:
    """Words as text, to be worked on by other filters."""
    return render_words(value, context.get("system", System.METRIC))


@pass_context
def _capital(context: Context, value: Words) -> str:
    """Words with a capital letter; the rest stays as it is."""
    text = _told(context, value)
    return text[:1].upper() + text[1:]


@pass_context
def _told_together(context: Context, values: Iterable[Words], between: str = "; ") -> str:
    return between.join(_told(context, value) for value in values)


def _wheel_of(path: str) -> str:
    """The wheel that a field belongs to, for who hears its label and does not see the lane; empty for other fields."""
    end = path.removeprefix("proposal.").removeprefix("special.").partition(".")[0]
    return end if end in {e.value for e in End} else ""


def _environment() -> Environment:
    env = Environment(
        loader=FileSystemLoader(Path(__file__).parents[1]), autoescape=True, undefined=StrictUndefined,
        trim_blocks=True, lstrip_blocks=True, finalize=_in_reader_units,
    )  # fmt: skip
    env.globals.update(
        End=End,
        Node=Node,
        Station=Station,
        address_of=address_of,
        help_of=help_of,
        tour_of=tour_of,
        wheel_of=_wheel_of,
        tour_length=len(TOUR),
        term_of=term_of,
        TERMS=TERMS,
        END_WORDS=END_WORDS,
        SHAPES=verdicts.SHAPES,
        MEANINGS=verdicts.MEANINGS,
    )
    env.filters.update(
        moment=told_moment,
        told=_told,
        size="{:g}".format,
        together=_told_together,
        cap=_capital,
        word=choice_word,
        kind=lambda block: type(block).__name__,
        value_word=value_word,
        field_word=field_word,
        place_word=place_word,
        kept_words=unpacked,
        mathml=mathml,
    )
    return env


TEMPLATES = _environment()


def page_address(request: Request) -> str:
    """Path and query of the page that is open: the one asked for, or the one on which a change was made."""
    try:
        opened = urlsplit(request.headers.get("hx-current-url") or str(request.url))
    except ValueError:  # whoever sends what is no address is on the page that was asked for
        opened = urlsplit(request.url.path)
    return f"{opened.path}?{opened.query}" if opened.query else opened.path


def _context(request: Request, reading: Reader, more: dict[str, Any]) -> dict[str, Any]:
    system = reading.system
    settings: Settings = request.app.state.settings
    return {
        "request": request, "here": page_address(request), "reading": reading, "system": system, "settings": settings,
        "show": lambda v, kind, decimals=None: units.show(v, kind, system, decimals),
        "number": lambda v, kind, decimals=None: units.number(v, kind, system, decimals),
        "sign": lambda kind: units.sign(kind, system),
        "signed": lambda v, kind, decimals=None: units.signed(v, kind, system, decimals),
        # what is bolted and drawn is sold and made in millimetres: an imperial reader is shown both
        "mm_show": lambda v, decimals=None: units.millimetres(v, system, decimals),
        "mm_number": lambda v, decimals=None: units.number(v, "mm", System.METRIC, decimals),
        "mm_signed": lambda v, decimals=None: units.signed(v, "mm", System.METRIC, decimals),
        "currency": settings.currency,
        "field_oob": False, **more,
    }  # fmt: skip


def render(request: Request, reading: Reader, template: str, status: int = 200, **more: Any) -> HTMLResponse:
    return HTMLResponse(TEMPLATES.get_template(template).render(_context(request, reading, more)), status)


def text_of(response: HTMLResponse) -> str:
    """A rendered piece as text, to be put together with others."""
    return bytes(response.body).decode()
