"""The views of Build: one page, each reached by its tab or its key, with its word in the address."""

from enum import StrEnum

from clavis.web.shell.bench import Bench
from clavis.web.shell.views import Tab, ViewRow, address, view_in


class BuildView(StrEnum):
    ORDER = "order"
    PARTS = "parts"
    TORQUES = "torques"
    BEDDING = "bedding"
    PAPERS = "papers"


VIEWS: tuple[ViewRow[BuildView], ...] = (
    ViewRow(BuildView.ORDER, "Order of work", "o", "every step, in the order it is done"),
    ViewRow(BuildView.PARTS, "Parts", "a", "what is bought, down to washers, with its price"),
    ViewRow(BuildView.TORQUES, "Torques", "t", "every fastener that the work tightens, and the part’s own figure"),
    ViewRow(BuildView.BEDDING, "Bedding in", "e", "how each wheel is bedded in, by itself"),
    ViewRow(
        BuildView.PAPERS,
        "Quote and papers",
        "q",
        "what it costs, who accepts it; what goes on paper",
    ),
)


def view_of(b: Bench) -> BuildView:
    """The view that the address of the page asks for; the order where it asks for none that there is."""
    return view_in(b.asked, BuildView.ORDER)


def tabs(b: Bench, current: BuildView) -> tuple[Tab[BuildView], ...]:
    """Every view with its address."""

    def to(view: BuildView) -> str:
        query = address(b.asked, "view", "" if view is BuildView.ORDER else view.value)
        return f"/jobs/{b.opened.id}/build{query if query != '?' else ''}"

    return tuple(Tab(row, to(row.view), row.view is current) for row in VIEWS)
