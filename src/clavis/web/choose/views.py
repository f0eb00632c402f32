"""The views of Choose: one page, each reached by its tab or its key, with its word in the address."""

from enum import StrEnum

from clavis.core.evaluation.evaluate import SetupName
from clavis.web.shell.bench import Bench
from clavis.web.shell.views import Tab, ViewRow, address, view_in


class View(StrEnum):
    SHEET = "sheet"
    RIDE = "ride"
    SIZES = "sizes"
    COMPOUNDS = "compounds"
    CANDIDATES = "candidates"
    COMPARE = "compare"
    TRADEOFFS = "tradeoffs"
    FLIPS = "flips"
    LADDER = "ladder"
    REFUSED = "refused"


VIEWS: tuple[ViewRow[View], ...] = (
    ViewRow(View.SHEET, "Sheet", "s", "force and heat at every link, front and rear"),
    ViewRow(View.RIDE, "Along the ride", "a", "any moment of the ride: temperatures, friction, finger, way to boiling"),
    ViewRow(View.SIZES, "Sizes", "z", "what each size of rotor would do, and what the hand can"),
    ViewRow(View.COMPOUNDS, "Compounds", "m", "friction of each compound cold, wet and at this ride’s heat"),
    ViewRow(View.CANDIDATES, "Candidates", "d", "every combination, ranked by the five priorities"),
    ViewRow(View.COMPARE, "Compare", "c", "what is pinned, in columns"),
    ViewRow(View.TRADEOFFS, "Trade-offs", "t", "mass, price, margin and the rest against each other"),
    ViewRow(View.FLIPS, "Sensitivity", "w", "the mass, slope or rain at which another would be taken"),
    ViewRow(View.LADDER, "Ladder", "l", "from service to a whole brake: what each step gains"),
    ViewRow(View.REFUSED, "Refused", "e", "what cannot be fitted, and why"),
)


def view_of(b: Bench) -> View:
    """The view that the address of the page asks for; the sheet where it asks for none that there is."""
    return view_in(b.asked, View.SHEET)


def setup_shown(b: Bench, show: str) -> SetupName:
    """The setup that a view is about: the fitted one where ``show`` asks for it, else that of the page."""
    return SetupName.FITTED if show == SetupName.FITTED else b.shown


def setup_addresses(b: Bench) -> dict[str, str]:
    """Where each setup is looked at; what is proposed needs no word in the address."""
    return {w.value: address(b.asked, "show", "fitted" if w is SetupName.FITTED else "") for w in SetupName}


def tabs(b: Bench, current: View) -> tuple[Tab[View], ...]:
    """Every view with its address; how the sheet is looked at goes along, a comparison's question does not."""
    page = f"/jobs/{b.opened.id}"
    asked = {k: v for k, v in b.asked.items() if k not in ("about", "end")}

    def to(view: View) -> str:
        if view is View.COMPARE:
            return f"{page}/compare"
        query = address(asked, "view", "" if view is View.SHEET else view.value)
        return f"{page}/choose{query if query != '?' else ''}"

    return tuple(Tab(row, to(row.view), row.view is current) for row in VIEWS)
