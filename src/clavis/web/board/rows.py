"""What the board shows of one job, made once from its answers and kept: words are kept as they are said, to be told in
each reader's units."""

from typing import Any

from clavis.core.evaluation.conditions import FindingKind
from clavis.core.evaluation.parts_list import over_budget
from clavis.core.sentences import Words, packed, say
from clavis.core.verdicts import Verdict
from clavis.core.wording.labels import choice_word
from clavis.core.workshop.sign_off import Validity
from clavis.core.workshop.supply import waits_for
from clavis.web.shell.bench import Bench
from clavis.web.shell.rooms import address_of
from clavis.web.shell.station_states import StationState, StationView

WAITS = frozenset({StationState.LACKS, StationState.CONFLICT})
_GRADE = {Verdict.FAILS: 1, Verdict.UNKNOWN: 2, Verdict.TIGHT: 3, Verdict.HOLDS: 4}
NOTHING_SHOWN: dict[str, Any] = {
    "problem": "", "rider": "", "complaint": "", "fitted": "", "fitted_words": "", "stop": "", "waits": [],
    "proposed": "", "proposed_words": "", "price": None, "over": 0.0, "signed": "", "signed_words": "",
    "found": [],
}  # fmt: skip
"""every place of a row; one that was not worked out yet has nothing in them"""
TOLD_LATER = frozenset({FindingKind.STOP, FindingKind.REPLACE})
"""what a bike's book tells of a job years after: what was unsafe, and what had to be replaced"""
MOST_FOUND = 4
UNSAFE = 0
"""before every verdict"""


def grade_of(b: Bench) -> int:
    """How a job stands among others, the gravest first: unsafe as it is, then by the verdict of what is proposed, or
    of what is on it."""
    if b.stops:
        return UNSAFE
    judged = b.head.setup if b.has_proposal else b.head.fitted
    return _GRADE[judged.verdict if judged else Verdict.UNKNOWN]


def shown_of(b: Bench) -> dict[str, Any]:
    """A row of the board as plain data."""
    head, told = b.head, [f for f in b.findings if f.kind in TOLD_LATER][:MOST_FOUND]
    shown = NOTHING_SHOWN | {
        "rider": _kept(head.rider),
        "complaint": _kept(head.complaint),
        "fitted": (head.fitted.verdict if head.fitted else Verdict.UNKNOWN).value,
        "fitted_words": _kept(head.fitted_words),
        "stop": _kept(say("{end}, {about}", end=b.stops[0].end, about=b.stops[0].about)) if b.stops else "",
        "waits": _waits(b),
        "found": [_kept(say("{end}, {about}: {reason}", end=f.end, about=f.about, reason=f.reason)) for f in told],
    }
    if b.has_proposal:
        shown["proposed"] = (head.setup.verdict if head.setup else Verdict.UNKNOWN).value
        shown["proposed_words"] = _kept(head.setup_words)
        if head.setup is not None:
            shown["price"] = head.setup.price
            shown["over"] = over_budget(head.setup.price, b.job.wishes.budget_price)
    elif b.job.signed_off is not None:
        stands = b.signed.validity is Validity.STANDS
        words = say("{who}, {day}", who=b.job.signed_off.who, day=b.job.signed_off.at[:10]) if stands else b.signed.why
        shown |= {"signed": b.signed.validity.value, "signed_words": _kept(words)}
    return shown


def _kept(words: Words) -> Any:
    return packed(words, choice_word)


def _waits(b: Bench) -> list[dict[str, Any]]:
    """What a job waits for, each with the page that it opens on: parts first, then the first station that lacks
    something."""
    found = []
    parts = waits_for(b.supply)
    if parts:
        found.append({"what": "parts", "words": _kept(parts), "at": f"/jobs/{b.opened.id}/build"})
    lacks: StationView | None = next((s for s in b.stations if s.state in WAITS), None)
    if lacks is not None:
        found.append({"what": lacks.station.value, "words": _kept(lacks.words), "at": _where(b, lacks)})
    return found


def _where(b: Bench, lacks: StationView) -> str:
    """The very place that is lacking, where there is one; else the station's page."""
    return address_of(b.opened.id, lacks.at) if lacks.at else f"/jobs/{b.opened.id}/{lacks.station.value}"
