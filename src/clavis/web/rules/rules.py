"""The rule tables, readable: mounts, hubs, checks, conditions, causes, compounds, fluids, heat colours, schools."""

from fastapi import APIRouter, Request
from starlette.responses import Response

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
from clavis.core.workshop.torques import TORQUE_ROWS
from clavis.web.shell.plots import friction_picture
from clavis.web.shell.readers import ReaderDep
from clavis.web.shell.templates import render

router = APIRouter()

TABLES = (
    "mounts", "hubs", "checks", "conditions", "causes", "questions", "compounds", "fluids", "torques", "colours",
    "schools",
)  # fmt: skip


@router.get("/rules")
def rules(request: Request, reading: ReaderDep, table: str = "mounts") -> Response:
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
        witnesses=WITNESSES,
        doubt_k=WITNESS_DOUBT_K,
        schools=SCHOOLS,
    )
