"""The views of Prove: one page, each reached by its tab or its key; which trial and which set of readings stand in the
address beside it."""

from enum import StrEnum

from clavis.core.job.trials import HeatSet, RideLog, Trial
from clavis.web.shell.bench import Bench
from clavis.web.shell.views import Tab, ViewRow, address, view_in


class ProveView(StrEnum):
    PLAN = "plan"
    RUNS = "runs"
    RESULT = "result"
    TEMPERATURES = "temperatures"
    CALIBRATION = "calibration"
    LOG = "log"


VIEWS: tuple[ViewRow[ProveView], ...] = (
    ViewRow(
        ProveView.PLAN,
        "Plan",
        "l",
        "what is asked, how many runs, in which order, with which pauses",
    ),
    ViewRow(ProveView.RUNS, "Runs", "o", "the runs, one by one, as they are ridden"),
    ViewRow(ProveView.RESULT, "Result", "e", "what the runs show, and what they do not"),
    ViewRow(ProveView.TEMPERATURES, "Temperatures", "t", "timed readings after a ride, worked back to the stop"),
    ViewRow(ProveView.CALIBRATION, "Calibration", "c", "the job’s model moved by accepted readings"),
    ViewRow(ProveView.LOG, "Logged ride", "g", "brakings, shares and temperatures of a ride that a logger kept"),
)
OF_ONE_TRIAL = frozenset({ProveView.PLAN, ProveView.RUNS, ProveView.RESULT})


def view_of(b: Bench) -> ProveView:
    """The view that the address of the page asks for; the plan where it asks for none that there is."""
    return view_in(b.asked, ProveView.PLAN)


def tabs(b: Bench, current: ProveView) -> tuple[Tab[ProveView], ...]:
    """Every view with its address."""

    def to(view: ProveView) -> str:
        return f"/jobs/{b.opened.id}/prove{address(b.asked, 'view', view.value)}"

    return tuple(Tab(row, to(row.view), row.view is current) for row in VIEWS)


def trial_of(b: Bench) -> Trial | None:
    """The trial that the address names, or the newest; None where there is none, or a new one is asked for."""
    if b.asked.get("new"):
        return None
    named = next((t for t in b.job.trials if t.id == b.asked.get("trial")), None)
    return named or (b.job.trials[-1] if b.job.trials else None)


def log_of(b: Bench) -> RideLog | None:
    """The logged ride that the address names, or the newest."""
    named = next((log for log in b.job.logs if log.id == b.asked.get("log")), None)
    return named or (b.job.logs[-1] if b.job.logs else None)


def heat_set_of(b: Bench) -> HeatSet | None:
    """The set of readings that the address names, or the newest."""
    named = next((s for s in b.job.heat_sets if s.id == b.asked.get("set")), None)
    return named or (b.job.heat_sets[-1] if b.job.heat_sets else None)
