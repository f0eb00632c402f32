"""Work mode: one step at a time on a tablet, large, and the counter for bedding in on a phone. Both go on while the
page is offline, and send their ticks when they can."""

from fastapi import HTTPException
from starlette.responses import Response

from clavis.core.parts.mounts import End
from clavis.core.wording.papers import section_words
from clavis.web.build.build import TORQUE_SIGNS, in_goes, torque
from clavis.web.shell import routes
from clavis.web.shell.routes import APPRENTICE
from clavis.web.shell.visit import VisitDep

router = routes.router()


@router.get("/jobs/{job_id}/work", dependencies=APPRENTICE)
def work(v: VisitDep) -> Response:
    """Every step of the order on one page, of which one is shown."""
    order = v.bench.order
    return v.page(
        None, "build/work.html", order=order, ticked=order.ticked(v.bench.job), torque=torque,
        in_goes=in_goes, section_words=section_words, TORQUE_SIGNS=TORQUE_SIGNS,
    )  # fmt: skip


@router.get("/jobs/{job_id}/bedding/{end}", dependencies=APPRENTICE)
def counter(v: VisitDep, end: End) -> Response:
    """The counter at the roadside: which stop, and how long to roll until the next."""
    order = v.bench.order
    wheel = next((w for w in order.wheels if w.work.end is end and w.bedding is not None), None)
    if wheel is None:
        raise HTTPException(404, "Nothing is bedded in on this wheel.")
    step = order.step_of(f"{end.value}:bed_in")
    return v.page(None, "build/counter.html", w=wheel, plan=wheel.bedding, step=step, end=end)
