"""Special mounts beside Fit: a plate from measured holes, its templates, and the stages to a named release."""

import re
from typing import Annotated, Any

from fastapi import Form, HTTPException
from markupsafe import Markup
from starlette.responses import HTMLResponse, Response

from clavis.core.fit.mounting import plate_bolts
from clavis.core.fit.plate_release import (
    SPECIAL_CAUTIONS,
    Stage,
    check_fails,
    corrected,
    ruler_wrong,
    stages_of,
    taken_off,
)
from clavis.core.fit.special_plate import Plate, PlateLoads, hole_distances, loads_of, plate_of
from clavis.core.job.special_mount import SpecialMount, lacks_of
from clavis.core.parts.mounts import End
from clavis.core.physics.bike import Surface, ground_limits, limit_alone_n, tyre_grip
from clavis.core.sentences import say
from clavis.formats.plate_sheets import TooLargeError, dxf_of, pdf_of, sheet_of, svg_of, view_of
from clavis.web.fit.fit import bolt_groups
from clavis.web.shell import routes
from clavis.web.shell.bench import Bench
from clavis.web.shell.rooms import Room
from clavis.web.shell.routes import APPRENTICE, mechanic
from clavis.web.shell.stations import gathers
from clavis.web.shell.visit import Change, ChangeDep, VisitDep

router = routes.router()

CORRECTIONS = ("out_mm", "turn_deg")
GROUPS: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("Holes of the mount, from the axle",
     ("upper_x_mm", "upper_y_mm", "lower_x_mm", "lower_y_mm", "third_x_mm", "third_y_mm")),
    ("Rotor and caliper",
     ("caliper_id", "rotor_mm", "pad_angle_deg", "pitch_mm", "line_to_edge_mm", "ear_mm", "caliper_thread")),
    ("Plate",
     ("material", "thickness_mm", "rim_mm", "mount_face_mm", "caliper_face_mm", "counterbore_mm", "mount_thread")),
    ("How it is held", ("mount_bolts", "caliper_bolts", "tab_mm", "boss_depth_mm", "boss_material", *CORRECTIONS)),
)  # fmt: skip
MEDIA = {"svg": "image/svg+xml", "pdf": "application/pdf", "dxf": "image/vnd.dxf"}


def _end(b: Bench) -> End:
    return End.REAR if b.asked.get("end") == End.REAR.value else End.FRONT


def _plate(b: Bench, end: End) -> Plate | None:
    return plate_of(b.job.special.of(end), end, list(b.catalogue.bolts.values()))


def _loads(b: Bench, end: End, plate: Plate) -> PlateLoads | None:
    """For the engineer: the most that the wheel can carry with its brake alone on dry ground, by this tyre and load,
    nothing held back; None while bike and rider are not known."""
    situation = b.evaluation.situation
    if situation is None:
        return None
    dry = ground_limits(situation.bike, tyre_grip(Surface.DRY_ASPHALT, b.job.bike.tread), 0.0)
    return loads_of(plate, limit_alone_n(dry, end), situation.bike.wheel_radius_m)


@gathers(Room.SPECIAL)
def context(b: Bench) -> dict[str, Any]:
    end = _end(b)
    mount = b.job.special.of(end)
    plate = _plate(b, end)
    return {
        "end": end,
        "mount": mount,
        "plate": plate,
        "picture": Markup(svg_of(view_of(plate))) if plate else "",  # noqa: S704  # every text in it is escaped
        "bolts": bolt_groups(plate_bolts(plate)) if plate else [],
        "plate_checks": [c for c in plate.checks if not c.key.startswith("bolt ")] if plate else [],
        "lacks": lacks_of(mount),
        "distances": hole_distances(plate) if plate else (),
        "stages": {s.stage.value: s for s in stages_of(mount, plate)},
        "loads": _loads(b, end, plate) if plate else None,
        "takes_off": taken_off(mount.checked) if mount.checked else None,
        "cautions": SPECIAL_CAUTIONS,
        "groups": GROUPS,
    }


@router.get("/jobs/{job_id}/special", dependencies=APPRENTICE)
def page(v: VisitDep) -> Response:
    return v.page(Room.SPECIAL, "fit/special.html", **context(v.bench))


def _file_name(b: Bench, end: End, plate: Plate, kind: str) -> str:
    title = re.sub(r"[^a-z0-9]+", "-", b.job.title.lower()).strip("-") or f"job-{b.opened.id}"
    return f"{title}-{end.value}-plate-{plate.geometry}.{kind}"


@router.get("/jobs/{job_id}/special/{end}/template.{kind}", dependencies=APPRENTICE)
def template(v: VisitDep, end: End, kind: str) -> Response:
    """The template at 1:1 as svg, pdf or dxf."""
    b = v.bench
    plate = _plate(b, end)
    if plate is None:
        raise HTTPException(404, "The plate cannot be computed yet: something is not measured.")
    sheet = sheet_of(plate, b.job.title)
    if kind not in MEDIA:
        raise HTTPException(404, "There is a template as svg, pdf or dxf.")
    try:
        body = pdf_of(sheet) if kind == "pdf" else (dxf_of(plate, sheet) if kind == "dxf" else svg_of(sheet)).encode()
    except TooLargeError as error:
        raise v.refused(422, say("The template is too large: {why}.", why=error.said)) from None
    name = _file_name(b, end, plate, kind)
    return Response(body, media_type=MEDIA[kind], headers={"Content-Disposition": f'attachment; filename="{name}"'})


def _ready(c: Change, end: End, stage: Stage) -> tuple[SpecialMount, dict[str, Any]]:
    """The mount and who-when-what of an act; 409 while the stage is not open."""
    mount, plate = c.bench.job.special.of(end), _plate(c.bench, end)
    view = next(s for s in stages_of(mount, plate) if s.stage is stage)
    if plate is None or not view.open:
        raise c.refused(409, say("Not yet: {why}.", why=view.words))
    return mount, c.author.tick().model_dump() | {"geometry": plate.geometry}


def _kept(c: Change, end: End, values: dict[str, Any]) -> Response:
    """Keep values of one special mount as one step, and answer with what follows; a refusal names its field."""
    first, *rest = values
    place = f"special.{end.value}"
    beside = {name: values[name] for name in rest}
    now = c.or_refused(lambda: c.keep(f"{place}.{first}", values[first], beside))
    fields = (c.field(now, f"{place}.{name}", oob=True) for name in values if name in CORRECTIONS)
    return HTMLResponse(c.followed(now, Room.SPECIAL) + "".join(fields))


Figure = Annotated[float, Form(allow_inf_nan=False)]
Text = Annotated[str, Form(max_length=200)]


@router.post("/jobs/{job_id}/special/{end}/template", dependencies=APPRENTICE)
def template_tried(c: ChangeDep, end: End, ruler_mm: Figure) -> Response:
    """The paper template lies right on the bike; refused where its ruler says that the printer scales."""
    _, act = _ready(c, end, Stage.TEMPLATE)
    wrong = ruler_wrong(ruler_mm)
    if wrong:
        raise c.refused(422, say("{wrong:cap}.", wrong=wrong))
    return _kept(c, end, {"template": {**act, "ruler_mm": ruler_mm}})


@router.post("/jobs/{job_id}/special/{end}/dummy", dependencies=APPRENTICE)
def dummy_tried(c: ChangeDep, end: End) -> Response:
    _, act = _ready(c, end, Stage.DUMMY)
    return _kept(c, end, {"dummy": act})


@router.post("/jobs/{job_id}/special/{end}/check", dependencies=APPRENTICE)
def dummy_checked(
    c: ChangeDep,
    end: End,
    angle_off_deg: Figure,
    edge_off_mm: Figure,
    turns_free: Annotated[bool, Form()] = False,
    clears: Annotated[bool, Form()] = False,
) -> Response:
    _, act = _ready(c, end, Stage.CHECK)
    found = {"angle_off_deg": angle_off_deg, "edge_off_mm": edge_off_mm, "turns_free": turns_free, "clears": clears}
    return _kept(c, end, {"checked": {**act, **found}})


@router.post("/jobs/{job_id}/special/{end}/correction", dependencies=APPRENTICE)
def correction(c: ChangeDep, end: End) -> Response:
    """Take off what the dummy showed; the geometry is another one then, and the stages begin again."""
    mount, _ = _ready(c, end, Stage.CORRECTION)
    return _kept(c, end, corrected(mount))


@router.post("/jobs/{job_id}/special/{end}/release", dependencies=mechanic("a mechanic enters an engineer’s release"))
def release(
    c: ChangeDep,
    end: End,
    engineer: Text,
    qualification: Text,
    drawing: Text,
    stated: Annotated[bool, Form()] = False,
) -> Response:
    """The release by a named engineer, for this geometry alone."""
    mount, act = _ready(c, end, Stage.RELEASE)
    if mount.checked is None or check_fails(mount.checked):
        raise HTTPException(409, "Not yet: first a dummy that stands right.")
    if not stated:
        raise HTTPException(422, "The engineer's statement is part of the release: read it and set the mark.")
    said = {"engineer": engineer, "qualification": qualification, "drawing": drawing}
    return _kept(c, end, {"released": {**act, **{name: text.strip() for name, text in said.items()}}})
