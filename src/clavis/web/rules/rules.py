"""The rule tables, readable: mounts, hubs, checks, conditions, causes, compounds, fluids, heat colours, schools."""

from fastapi import HTTPException, Request
from starlette.responses import RedirectResponse, Response

from clavis.core import entries
from clavis.core.errors import QuantityError
from clavis.core.evaluation.compound_table import FAR_ABOVE_C, compound_table
from clavis.core.evaluation.conditions import CONDITIONS, FindingKind
from clavis.core.fit.checks import CHECKS
from clavis.core.fit.mount_geometry import NOMINAL
from clavis.core.inspection.complaints import CAUSE_ROWS, CAUSES, COMPLAINTS, QUESTIONS, REMEDY_WORDS
from clavis.core.inspection.guide import EXCLUDED_POINTS, LIKELY_POINTS, OPEN_POINTS
from clavis.core.parts.compounds import COMPOUNDS, CompoundRow
from clavis.core.parts.fluids import FLUID_GRADES, FluidGradeRow
from clavis.core.parts.hubs import HUBS
from clavis.core.parts.mounts import MOUNT_ROWS, TELLING_TOLERANCE_MM
from clavis.core.physics.heat import WITNESS_DOUBT_K, WITNESSES
from clavis.core.records import columns_of
from clavis.core.selection.schools import SCHOOLS
from clavis.core.workshop.labour import PaperSize, known_steps
from clavis.core.workshop.steps import STEPS
from clavis.core.workshop.torques import TORQUE_ROWS
from clavis.store import jobs, workshop
from clavis.web.shell import routes
from clavis.web.shell.bench import SessionDep
from clavis.web.shell.plots import friction_picture
from clavis.web.shell.readers import AuthorDep, FormDep, ReaderDep
from clavis.web.shell.routes import APPRENTICE, mechanic
from clavis.web.shell.templates import render

router = routes.router()

TABLES = (
    "mounts", "hubs", "checks", "conditions", "causes", "questions", "compounds", "fluids", "torques", "steps",
    "colours", "priorities",
)  # fmt: skip


@router.get("/rules", dependencies=APPRENTICE)
def rules(request: Request, session: SessionDep, reading: ReaderDep, table: str = "mounts") -> Response:
    return render(
        request,
        reading,
        "rules/rules.html",
        tables=TABLES,
        table=table if table in TABLES else "mounts",
        mounts=MOUNT_ROWS,
        tolerance_mm=TELLING_TOLERANCE_MM,
        nominal=[(MOUNT_ROWS[mount].words, end, row) for (mount, end), row in NOMINAL.items()],
        hubs=HUBS,
        checks=CHECKS,
        conditions=CONDITIONS,
        kinds=FindingKind,
        causes=CAUSES,
        cause_rows=CAUSE_ROWS,
        complaints=COMPLAINTS,
        questions=QUESTIONS,
        remedies=REMEDY_WORDS,
        points={"likely": LIKELY_POINTS, "open": OPEN_POINTS, "excluded": EXCLUDED_POINTS},
        compounds=COMPOUNDS,
        friction_lines=compound_table(),
        far_above=FAR_ABOVE_C,
        friction=friction_picture((), reading.system),
        compound_columns=columns_of(CompoundRow),
        grades=FLUID_GRADES,
        grade_columns=columns_of(FluidGradeRow),
        torques=TORQUE_ROWS.values(),
        steps=STEPS,
        paper_sizes=tuple(PaperSize),
        terms=workshop.terms(session),
        witnesses=WITNESSES,
        doubt_k=WITNESS_DOUBT_K,
        schools=SCHOOLS,
    )


@router.post("/rules/terms", dependencies=mechanic("a mechanic changes the workshop’s settings"))
def terms(request: Request, session: SessionDep, reading: ReaderDep, author: AuthorDep, form: FormDep) -> Response:
    """What the workshop sets for itself: its name on papers, its hour, how long a quote stands, its paper, and the
    minutes of steps as it knows them."""
    typed = {key: str(text).strip() for key, text in form.items()}
    of_steps = {k.removeprefix("minutes."): text for k, text in typed.items() if k.startswith("minutes.") and text}
    currency, hour = request.app.state.settings.currency, typed.get("hour", "")
    told: dict[str, object] = {name: typed[name] for name in ("name", "valid_days", "paper") if name in typed}
    try:
        told["hourly_price"] = entries.parse(hour, "price", currency=currency, name="hour") if hour else None
        for name, label in (("pad_plan_mm", "pads planned at"), ("pad_replace_mm", "pads replaced at")):
            if typed.get(name):
                told[name] = entries.parse(typed[name], "mm", reading.system, label)
        minutes = {key: entries.parse(text, "min", name=key) for key, text in of_steps.items()}
        workshop.set_terms(session, told | {"minutes": known_steps(minutes, STEPS)}, author.who)
    except (QuantityError, jobs.RefusedError) as error:
        raise HTTPException(422, reading.told(error.said)) from None
    return RedirectResponse("/rules?table=steps", 303)
