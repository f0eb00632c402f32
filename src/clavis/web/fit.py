"""Station 5: the mount chain, bolts, clearances, and the scale drawing from the same coordinates."""

from dataclasses import dataclass, replace
from typing import Any

from fastapi import APIRouter

from clavis.core.bolts import BoltChoice
from clavis.core.chain import label_conflict, native_of
from clavis.core.evaluate import SetupName
from clavis.core.fit import Drawing, Fit
from clavis.core.headline import Station
from clavis.core.mounts import End
from clavis.core.procedure import fits_of
from clavis.web.context import Bench
from clavis.web.station import station

router = APIRouter()


def svg_points(points: tuple[tuple[float, float], ...]) -> str:
    """Points in mm with y up as SVG coordinates with y down."""
    return " ".join(f"{x:.2f},{-y:.2f}" for x, y in points)


VIEW_MARGIN_MM = 14.0
HUB_STUB_MM = 26.0


def _view(drawing: Drawing) -> tuple[float, float, float, float]:
    """The part of the drawing worth seeing: mount, adapter, caliper and hub; left, top, width, height in mm."""
    places = [place for p in drawing.polygons for place in p.points]
    xs = [x for x, _ in places] + [-HUB_STUB_MM, HUB_STUB_MM]
    ys = [-y for _, y in places] + [-HUB_STUB_MM, HUB_STUB_MM]
    left, top = min(xs) - VIEW_MARGIN_MM, min(ys) - VIEW_MARGIN_MM
    return left, top, max(xs) + VIEW_MARGIN_MM - left, max(ys) + VIEW_MARGIN_MM - top


def svg_shapes(drawing: Drawing) -> dict[str, Any]:
    """A core drawing as SVG figures: view box and shapes, one unit to the millimetre."""
    left, top, width, height = _view(drawing)
    return {
        "view": f"{left:.1f} {top:.1f} {width:.1f} {height:.1f}",
        "circles": [
            {"x": f"{c.x:.2f}", "y": f"{-c.y:.2f}", "r": f"{c.r:.2f}", "layer": c.layer, "title": c.title}
            for c in drawing.circles
        ],
        "polygons": [{"points": svg_points(p.points), "layer": p.layer, "title": p.title} for p in drawing.polygons],
        "dimensions": [
            {
                "x1": f"{d.a[0]:.2f}",
                "y1": f"{-d.a[1]:.2f}",
                "x2": f"{d.b[0]:.2f}",
                "y2": f"{-d.b[1]:.2f}",
                "x": f"{(d.a[0] + d.b[0]) / 2:.2f}",
                "y": f"{-(d.a[1] + d.b[1]) / 2:.2f}",
                "text": d.text,
            }
            for d in drawing.dimensions
        ],
        "words": drawing.words,
    }


@dataclass(frozen=True)
class BoltGroup:
    """Bolts of one stack shown as one row: their places, how many, the first one's number for its working."""

    choice: BoltChoice
    places: str
    count: int
    index: int


def bolt_groups(bolts: tuple[BoltChoice, ...]) -> list[BoltGroup]:
    """Upper and lower with the same stack stand in one row; a wedge keeps two."""
    groups: list[BoltGroup] = []
    for index, choice in enumerate(bolts):
        side, _, where = choice.stack.place.partition(", ")
        for k, group in enumerate(groups):
            same = replace(group.choice.stack, place="") == replace(choice.stack, place="")
            if same:
                first, _, _ = group.choice.stack.place.partition(", ")
                places = f"{first} and {side}" + (f", {where}" if where else "")
                groups[k] = BoltGroup(group.choice, places, group.count + 1, group.index)
                break
        else:
            groups.append(BoltGroup(choice, choice.stack.place, 1, index))
    return groups


def _lane(b: Bench, end: End, fit: Fit | None) -> dict[str, Any]:
    native = None
    if fit is not None and fit.telling.kind is not None:
        native = native_of(b.job.wheel(end), end, b.catalogue).size_mm
    return {
        "fit": fit,
        "native_mm": native,
        "flag": label_conflict(fit.chain.adapter) if fit and fit.chain.adapter else "",
        "bolts": bolt_groups(fit.bolts) if fit else [],
        "shapes": svg_shapes(fit.drawing) if fit and fit.drawing else None,
    }


@station(Station.FIT)
def context(b: Bench) -> dict[str, Any]:
    name = SetupName.PROPOSED if b.has_proposal else SetupName.FITTED
    fits = fits_of(b.job, b.evaluation, name, b.catalogue)
    setup = b.evaluation.setups.get(name)
    return {"name": name, "lanes": {end: _lane(b, end, fits.get(end)) for end in End}, "setup": setup}
