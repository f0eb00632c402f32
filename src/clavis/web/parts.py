"""The catalogue as a list, by kind."""

from fastapi import APIRouter, Request
from starlette.responses import Response

from clavis.core.parts import KIND_NAMES
from clavis.web.context import ReaderDep, SessionDep, catalogue_of, render

router = APIRouter()

# What each kind shows beside maker, model, mass and price: field, heading, unit.
COLUMNS: dict[str, tuple[tuple[str, str, str], ...]] = {
    "rotor": (("diameter_mm", "Ø", "mm"), ("thickness_mm", "Thick", "mm"), ("minimum_mm", "Minimum", "mm"),
              ("interface", "Hub", ""), ("construction", "Construction", ""), ("track_mm", "Track", "mm")),
    "caliper": (("mount", "Mount", ""), ("fluid", "Line", ""), ("bores_mm", "Bores, one side", ""), ("pad_shape", "Pad", ""),
                ("slot_mm", "Slot", "mm"), ("tab_mm", "Tab", "mm")),
    "lever": (("ratio", "Ratio", "ratio"), ("fluid", "Line", ""), ("bore_mm", "Bore", "mm"), ("pull", "Pull", "")),
    "pad": (("shape", "Shape", ""), ("compound", "Compound", ""), ("material_mm", "Material", "mm"), ("height_mm", "Height", "mm")),
    "adapter": (("adapter_kind", "Kind", ""), ("from_mm", "From", "mm"), ("fits", "Serves", ""), ("style", "Bolted", ""),
                ("upper_mm", "Upper", "mm"), ("lower_mm", "Lower", "mm")),
    "bolt": (("thread", "Thread", ""), ("length_mm", "Length", "mm"), ("thread_mm", "Threaded", "mm"), ("drive", "Drive", "")),
    "hub": (("role", "Role", ""),),
    "wheel": (("end", "End", ""), ("interface", "Hub", ""), ("rim_mm", "Bead seat", "mm")),
}  # fmt: skip

# Of these a missing figure is unknown; of the others it does not apply.
LIMITS = frozenset({"minimum_mm"})


@router.get("/parts")
def parts(request: Request, session: SessionDep, reading: ReaderDep, kind: str = "rotor") -> Response:
    kind = kind if kind in KIND_NAMES else "rotor"
    catalogue = catalogue_of(request, session)
    rows = [p for p in catalogue.every() if p.kind == kind]
    return render(
        request, reading, "parts.html", kind=kind, kinds=KIND_NAMES, rows=rows, columns=COLUMNS[kind], limits=LIMITS
    )
