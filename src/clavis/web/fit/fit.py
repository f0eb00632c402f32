"""Station 5: the mount chain, bolts with their cuts, clearances, and the scale drawing from the same coordinates."""

from dataclasses import dataclass
from typing import Annotated, Any, Literal

from fastapi import Form, HTTPException
from starlette.responses import Response

from clavis.core.fit.adapters import label_conflict
from clavis.core.fit.bolt_section import BoltCut, cut_of
from clavis.core.fit.bolts import LengthVerdict
from clavis.core.fit.drawing import Drawing, DrawnLayer, DrawnShape, DrawnSize, draw
from clavis.core.fit.fit import Fit
from clavis.core.fit.mounting import FittedBolt
from clavis.core.parts.mounts import End, MountKind
from clavis.core.sentences import Words
from clavis.core.verdicts import Verdict
from clavis.core.workshop.torques import Fastening, fastening_of
from clavis.web.shell import routes
from clavis.web.shell.bench import Bench
from clavis.web.shell.rooms import Room, Station
from clavis.web.shell.routes import APPRENTICE
from clavis.web.shell.visit import ChangeDep, station_page

router = routes.router()
TRIED = {
    "arc": ((True, "trial fit: pads follow the track"), (False, "they do not")),
    "rivets": ((True, "trial fit: rivets pass free"), (False, "they touch")),
}
"""what the trial fit alone can tell, and what it can say"""

CHIPS: tuple[tuple[DrawnLayer, str], ...] = (
    (DrawnLayer.FRAME, "leg, stays"),
    (DrawnLayer.MOUNT, "mount"),
    (DrawnLayer.ADAPTER, "adapter"),
    (DrawnLayer.CALIPER, "caliper"),
    (DrawnLayer.BOLTS, "bolts"),
    (DrawnLayer.NOW, "now"),
    (DrawnLayer.LIMITS, "limits"),
    (DrawnLayer.SIZES, "all sizes"),
)
"""layers with a switch; conflicts have none"""
HERE = ("upper_hole_mm", "lower_hole_mm", "edge_radius_mm", "spoke_gap_mm", "hose_slack_mm", "hole_depth_mm",
        "lower_depth_mm", "upper_bolt_mm", "lower_bolt_mm", "slot_read_mm")  # fmt: skip
THROUGH_HERE = ("tab_mm", "lower_tab_mm")
"""fields of the wheel that the fit asks for, also entered here; the last two where bolts run through a tab or stay"""
VIEW_MARGIN_MM, AXLE_ROOM_MM, TEXT_RATIO = 9.0, 14.0, 0.05
SEEN = frozenset(
    {DrawnLayer.MOUNT, DrawnLayer.ADAPTER, DrawnLayer.CALIPER, DrawnLayer.PADS, DrawnLayer.BOLTS, DrawnLayer.CONFLICTS}
)


def svg_points(points: tuple[tuple[float, float], ...]) -> str:
    """Points in mm with y up as SVG coordinates with y down."""
    return " ".join(f"{x:.2f},{-y:.2f}" for x, y in points)


def _view(drawing: Drawing) -> tuple[float, float, float, float]:
    """The part of the drawing worth seeing: mount, adapter, caliper and axle; left, top, width, height in mm."""
    places = [p for s in drawing.shapes if s.layer in SEEN for p in s.points]
    xs = [x for x, _ in places] + [-AXLE_ROOM_MM, AXLE_ROOM_MM]
    ys = [-y for _, y in places] + [-AXLE_ROOM_MM, AXLE_ROOM_MM]
    left, top = min(xs) - VIEW_MARGIN_MM, min(ys) - VIEW_MARGIN_MM
    return left, top, max(xs) + VIEW_MARGIN_MM - left, max(ys) + VIEW_MARGIN_MM - top


def _shape(shape: DrawnShape) -> dict[str, str | Words]:
    base: dict[str, str | Words] = {"layer": shape.layer.value, "of": shape.of, "title": shape.title}
    if shape.radius_mm is not None:
        x, y = shape.points[0]
        return base | {"cx": f"{x:.2f}", "cy": f"{-y:.2f}", "r": f"{shape.radius_mm:.2f}"}
    return base | {"points": svg_points(shape.points)}


def _size(d: DrawnSize) -> dict[str, Any]:
    (ax, ay), (bx, by) = d.a, d.b
    return {
        "of": d.of, "title": d.title, "always": d.always, "value_mm": d.value_mm,
        "x1": f"{ax:.2f}", "y1": f"{-ay:.2f}", "x2": f"{bx:.2f}", "y2": f"{-by:.2f}",
        "x": f"{(ax + bx) / 2:.2f}", "y": f"{-(ay + by) / 2:.2f}",
    }  # fmt: skip


def svg_shapes(drawing: Drawing) -> dict[str, Any]:
    """A core drawing as SVG figures: view box, shapes and sizes, one unit to the millimetre."""
    left, top, width, height = _view(drawing)
    return {
        "view": f"{left:.1f} {top:.1f} {width:.1f} {height:.1f}",
        "text_mm": f"{max(height, width / 2) * TEXT_RATIO:.1f}",
        "shapes": [_shape(s) for s in drawing.shapes],
        "sizes": [_size(d) for d in drawing.dimensions],
        "words": drawing.words,
        "layers": [(layer.value, words) for layer, words in CHIPS
                   if layer is DrawnLayer.SIZES or any(s.layer is layer for s in drawing.shapes)],
    }  # fmt: skip


CUT_MARGIN_MM = 2.0


def svg_cut(cut: BoltCut) -> dict[str, Any]:
    """The cut through a bolt as SVG figures, the head to the left, one unit to the millimetre."""
    left = min(p.start_mm for p in cut.pieces) - CUT_MARGIN_MM
    right = max(p.end_mm for p in cut.pieces) + CUT_MARGIN_MM
    half = max(p.half_mm for p in cut.pieces) + CUT_MARGIN_MM
    return {
        "view": f"{left:.1f} {-half:.1f} {right - left:.1f} {2 * half:.1f}",
        "width": f"{(right - left) * CUT_PX_PER_MM:.0f}", "height": f"{2 * half * CUT_PX_PER_MM:.0f}",
        "pieces": [
            {"kind": p.kind, "title": p.title, "x": f"{p.start_mm:.2f}", "y": f"{-p.half_mm:.2f}",
             "w": f"{p.end_mm - p.start_mm:.2f}", "h": f"{2 * p.half_mm:.2f}"}
            for p in cut.pieces
        ],
        "words": cut.words,
    }  # fmt: skip


CUT_PX_PER_MM = 3.4


@dataclass(frozen=True)
class BoltGroup:
    """Bolts of one stack shown as one row: their places, how many, the first one's number for its working."""

    bolt: FittedBolt
    places: str
    count: int
    index: int
    olds: tuple[LengthVerdict, ...]
    fastening: Fastening
    cut: dict[str, Any] | None


def bolt_groups(bolts: tuple[FittedBolt, ...]) -> list[BoltGroup]:
    """Upper and lower with the same stack stand in one row; a wedge keeps two."""
    rows: list[tuple[int, list[FittedBolt]]] = []
    for index, bolt in enumerate(bolts):
        same = next((row for _, row in rows if row[0].run is bolt.run and row[0].stack.same_sum(bolt.stack)), None)
        if same is None:
            rows.append((index, [bolt]))
        else:
            same.append(bolt)
    return [_group(index, row) for index, row in rows]


def _group(index: int, row: list[FittedBolt]) -> BoltGroup:
    first = row[0]
    side, _, where = first.stack.place.partition(", ")
    places = "upper and lower" if len(row) > 1 else side
    cut = cut_of(first.choice)
    olds = tuple(dict.fromkeys(b.old for b in row if b.old is not None))
    return BoltGroup(
        first, f"{places}, {where}" if where else places, len(row), index, olds, fastening_of(first),
        svg_cut(cut) if cut else None,
    )  # fmt: skip


GRAVEST = list(reversed(Verdict))


def _lane(fit: Fit | None) -> dict[str, Any]:
    if fit is None:
        return {"fit": None}
    drawing = draw(fit)
    return {
        "fit": fit,
        "flags": [flag for part in fit.chain.parts if (flag := label_conflict(part))],
        "checks": sorted(fit.checks, key=lambda c: GRAVEST.index(c.verdict)),
        "bolts": bolt_groups(fit.fitted_bolts),
        "shapes": svg_shapes(drawing) if drawing else None,
    }


def _fields(fit: Fit | None) -> tuple[str, ...]:
    runs_through = fit is not None and fit.wheel.mount.kind in (MountKind.IS, MountKind.FLAT_REAR)
    return HERE + (THROUGH_HERE if runs_through else ())


@station_page(router, Station.FIT)
def context(b: Bench) -> dict[str, Any]:
    fits = {end: case.fit for end, case in b.evaluation.cases[b.shown].items()}
    return {
        "name": b.shown,
        "TRIED": TRIED,
        "lanes": {end: _lane(fits[end]) for end in End},
        "here_fields": {end: _fields(fits[end]) for end in End},
        "lacks": {end: case.lacks for end, case in b.evaluation.cases[b.shown].items()},
    }


@router.post("/jobs/{job_id}/trial/{end}", dependencies=APPRENTICE)
def trial(
    c: ChangeDep,
    end: End,
    what: Annotated[Literal["arc", "rivets"], Form()],
    good: Annotated[Literal["true", "false", ""], Form()] = "",
) -> Response:
    """What the trial fit told of the parts that the page shows; nothing takes it back."""
    case = c.bench.evaluation.cases[c.bench.shown][end]
    fit = case.fit
    if fit is None:
        raise HTTPException(409, "There is no rotor or no caliper to try.")
    adapter = fit.chain.adapter.id if fit.chain.adapter else None
    parts = {"rotor_id": fit.rotor.id, "caliper_id": fit.caliper.id, "adapter_id": adapter}
    had = c.bench.job.wheel(end).trial
    kept = had.model_dump() if had is not None and {k: getattr(had, k) for k in parts} == parts else {}
    now = c.or_refused(
        lambda: c.keep_newest(f"{end.value}.trial", {**kept, **parts, what: None if not good else good == "true"})
    )
    return c.answered(now, Room.FIT)


@router.post("/jobs/{job_id}/adapter/{end}", dependencies=APPRENTICE)
def adapter(
    c: ChangeDep,
    end: End,
    part_id: Annotated[str, Form(max_length=60)] = "",
    room: Annotated[Room, Form()] = Room.FIT,
) -> Response:
    """Take one of the adapters that serve by hand; none takes the cheapest that is sound."""
    now = c.or_refused(lambda: c.keep_newest(f"proposal.{end.value}.adapter_id", part_id or None))
    return c.answered(now, room)
