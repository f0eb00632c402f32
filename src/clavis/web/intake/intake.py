"""Station 1: rider, load, bike, complaint, wishes; and what they mean at once."""

from dataclasses import dataclass
from typing import Any

from clavis.core.job import paths
from clavis.core.job.document import Complaint, Job, Wish
from clavis.core.physics.bike import standing_figures
from clavis.core.selection.conversion import wants_conversion
from clavis.core.wording.labels import choice_word, field_word
from clavis.web.shell import routes
from clavis.web.shell.bench import Bench
from clavis.web.shell.rooms import Station
from clavis.web.shell.visit import station_page

router = routes.router()


@dataclass(frozen=True)
class Group:
    """Fields that belong together: those that matter first, and those that have a usual value until they are known."""

    title: str
    first: tuple[str, ...]
    more: tuple[str, ...] = ()
    more_words: str = ""

    @property
    def paths(self) -> tuple[str, ...]:
        return self.first + self.more


GROUPS: tuple[Group, ...] = (
    Group(
        "Rider", ("title", "rider.name", "rider.mass_kg", "rider.hands"),
        ("rider.kit_mass_kg", "rider.fingers", "rider.skill", "rider.style", "rider.share_by", "rider.front_share_pct"),
        "More about the rider",
    ),
    Group(
        "Load", ("load.passengers_kg", "load.luggage_kg"),
        ("load.passengers_ahead_m", "load.luggage_ahead_m", "load.passengers_height_m", "load.luggage_height_m",
         "load.trailer_kg"),
        "Where the load sits",
    ),
    Group(
        "Bike", ("bike.kind", "bike.use", "bike.top_speed_kmh", "bike.bar", "bike.tyre_size", "bike.assisted"),
        ("bike.mass_kg", "bike.tread", "bike.wheel_radius_mm", "bike.wheelbase_m", "bike.rear_to_cg_m",
         "bike.cg_height_m", "bike.drag_area_m2", "bike.rolling_ratio"),
        "Size and weight of the bike",
    ),
    Group(
        "Motor and other brakes", (),
        ("bike.rated_speed_kmh", "bike.cutoff_switches", "bike.regen_end", "bike.regen_share_pct", "bike.regen_limit_w",
         "bike.third_brake_share_pct"),
        "Motor and other brakes",
    ),
    Group(
        "Where", ("conditions.surface", "conditions.rain"),
        ("conditions.ambient_c", "conditions.head_wind_kmh"), "Weather",
    ),
    Group("Wishes", ("wishes.school", "wishes.budget_price")),
)  # fmt: skip
"""what a mechanic asks at the counter stands first; the rest is usual until it is known"""
PATHS = tuple(path for group in GROUPS for path in group.paths)


_NEW = Job().model_dump(mode="json")


def _entered(job: Job, of: tuple[str, ...]) -> list[str]:
    """Those fields, by their words, at which the job is another than a new one."""
    now = job.model_dump(mode="json", include={path.partition(".")[0] for path in of})
    return [field_word(path).lower() for path in of if paths.read(now, path) != paths.read(_NEW, path)]


@station_page(router, Station.INTAKE, fields=PATHS)
def context(b: Bench) -> dict[str, Any]:
    situation = b.evaluation.situation
    return {
        "groups": {group.title: group for group in GROUPS},
        "entered": {group.title: _entered(b.job, group.more) for group in GROUPS},
        "strip": standing_figures(situation.bike, situation.grip, situation.rear_grip_ratio) if situation else (),
        "mass_kg": situation.bike.rolling_mass_kg if situation else None,
        "guide": b.guide,
        "complaints": [(c.value, choice_word(c), c in b.job.complaints) for c in Complaint],
        "wants": [(w.value, choice_word(w), w in b.job.wishes.wants) for w in Wish],
        "conversion": wants_conversion(b.job),
    }
