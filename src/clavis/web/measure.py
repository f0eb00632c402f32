"""Station 2: what is on the bike, front lane and rear lane."""

from typing import Any

from clavis.core.findings import findings_of
from clavis.core.headline import Station
from clavis.core.mounts import MOUNTS, End, tell_mount
from clavis.web.context import Bench
from clavis.web.station import station

MEASURE_GROUPS: tuple[tuple[str, tuple[str, ...]], ...] = (
    (
        "Mount",
        (
            "mount_spacing_mm",
            "bolt_direction",
            "native_rotor_mm",
            "max_rotor_mm",
            "thread_material",
            "hole_depth_mm",
            "tab_mm",
        ),
    ),
    ("Hub", ("hub", "axle")),
    ("Rotor", ("rotor_id", "rotor_thinnest_mm", "rotor_instrument")),
    (
        "Caliper and lever",
        (
            "caliper_id",
            "lever_id",
            "adapter_id",
            "lever_feel",
            "fluid_grade",
            "fluid_age_y",
            "fluid_boils_c",
            "water_seen",
        ),
    ),
    ("Pads", ("pad_id", "pad_material_mm", "pad_state")),
)


@station(Station.MEASURE)
def context(b: Bench) -> dict[str, Any]:
    tellings = {end: tell_mount(b.job.wheel(end).mount_spacing_mm, b.job.wheel(end).bolt_direction, end) for end in End}
    return {
        "groups": MEASURE_GROUPS,
        "tellings": tellings,
        "findings": findings_of(b.job, b.catalogue),
        "mounts": MOUNTS,
    }
