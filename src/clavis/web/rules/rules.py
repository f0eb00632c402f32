"""The rule tables, readable: mounts, hubs, findings, causes and checks, heat colours, hard rules, schools."""

from fastapi import APIRouter, Request
from starlette.responses import Response

from clavis.core.evaluation.rules import RULES
from clavis.core.fit.clearances import CLEARANCES
from clavis.core.fit.mount_geometry import NOMINAL
from clavis.core.inspection.complaints import CAUSE_ROWS, CAUSES, CHECKS, COMPLAINTS, REMEDY_WORDS
from clavis.core.inspection.findings import FINDINGS, FindingKind
from clavis.core.inspection.guide import EXCLUDED_POINTS, LIKELY_POINTS, OPEN_POINTS
from clavis.core.parts.hubs import HUBS
from clavis.core.parts.mounts import LABELS, MOUNTS, NATIVE_SIZES_MM, TELLING_TOLERANCE_MM
from clavis.core.physics.heat import WITNESS_DOUBT_K, WITNESSES
from clavis.core.selection.schools import SCHOOLS
from clavis.web.shell.context import ReaderDep, render

router = APIRouter()

TABLES = ("mounts", "hubs", "findings", "causes", "checks", "colours", "hard rules", "clearances", "schools")


@router.get("/rules")
def rules(request: Request, reading: ReaderDep, table: str = "mounts") -> Response:
    return render(
        request,
        reading,
        "rules/rules.html",
        tables=TABLES,
        table=table if table in TABLES else "mounts",
        mounts=MOUNTS,
        tolerance_mm=TELLING_TOLERANCE_MM,
        native_sizes=NATIVE_SIZES_MM,
        hubs=HUBS,
        findings=FINDINGS,
        kinds=FindingKind,
        causes=CAUSES,
        cause_rows=CAUSE_ROWS,
        complaints=COMPLAINTS,
        checks=CHECKS,
        remedies=REMEDY_WORDS,
        points={"likely": LIKELY_POINTS, "open": OPEN_POINTS, "excluded": EXCLUDED_POINTS},
        witnesses=WITNESSES,
        doubt_k=WITNESS_DOUBT_K,
        hard_rules=RULES,
        clearances=CLEARANCES,
        nominal=[(LABELS[mount], end, row) for (mount, end), row in NOMINAL.items()],
        schools=SCHOOLS,
    )
