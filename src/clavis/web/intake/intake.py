"""Station 1: rider, load, bike, complaint, wishes; and what they mean at once."""

from typing import Any

from fastapi import APIRouter

from clavis.core.job.document import Complaint, Wish
from clavis.core.physics.bike import standing_figures
from clavis.core.selection.conversion import wants_conversion
from clavis.core.wording.labels import choice_word
from clavis.web.shell.bench import Bench
from clavis.web.shell.rooms import Station
from clavis.web.shell.visit import station_page

router = APIRouter()

FIELDS: tuple[tuple[str, tuple[str, ...]], ...] = (
    (
        "Rider",
        (
            "title",
            "rider.name",
            "rider.mass_kg",
            "rider.kit_mass_kg",
            "rider.hands",
            "rider.fingers",
            "rider.skill",
            "rider.style",
            "rider.share_by",
            "rider.front_share_pct",
        ),
    ),
    (
        "Load",
        (
            "load.passengers_kg",
            "load.luggage_kg",
            "load.passengers_ahead_m",
            "load.luggage_ahead_m",
            "load.passengers_height_m",
            "load.luggage_height_m",
            "load.trailer_kg",
        ),
    ),
    (
        "Bike",
        (
            "bike.kind",
            "bike.use",
            "bike.top_speed_kmh",
            "bike.rated_speed_kmh",
            "bike.tread",
            "bike.bar",
            "bike.tyre_size",
            "bike.mass_kg",
            "bike.wheel_radius_mm",
            "bike.wheelbase_m",
            "bike.rear_to_cg_m",
            "bike.cg_height_m",
            "bike.drag_area_m2",
            "bike.rolling_ratio",
            "bike.assisted",
            "bike.cutoff_switches",
            "bike.regen_end",
            "bike.regen_share_pct",
            "bike.regen_limit_w",
            "bike.third_brake_share_pct",
        ),
    ),
    (
        "Where",
        (
            "conditions.surface",
            "conditions.rain",
            "conditions.ambient_c",
            "conditions.head_wind_kmh",
        ),
    ),
    (
        "Wishes",
        (
            "wishes.school",
            "wishes.budget_price",
        ),
    ),
)
PATHS = tuple(path for _, paths in FIELDS for path in paths)


@station_page(router, Station.INTAKE, fields=PATHS)
def context(b: Bench) -> dict[str, Any]:
    situation = b.evaluation.situation
    return {
        "fields": dict(FIELDS),
        "strip": standing_figures(situation.bike, situation.grip, situation.rear_grip_ratio) if situation else (),
        "mass_kg": situation.bike.rolling_mass_kg if situation else None,
        "guide": b.guide,
        "complaints": [(c.value, choice_word(c), c in b.job.complaints) for c in Complaint],
        "wants": [(w.value, choice_word(w), w in b.job.wishes.wants) for w in Wish],
        "conversion": wants_conversion(b.job),
    }
