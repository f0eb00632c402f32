"""Where things are entered and done: the places of the walk round the bike, in order, with the fields of a wheel that
stand at each, and the tasks beside it. Which page shows which is the interface's."""

from collections.abc import Mapping
from enum import StrEnum


class Task(StrEnum):
    """Where, beside the walk, something is entered, chosen or done."""

    RIDER_AND_BIKE = "rider_and_bike"
    RIDING = "riding"
    CHOICE = "choice"
    FITTING = "fitting"
    WORK = "work"
    LOGBOOK = "logbook"


class Place(StrEnum):
    MOUNT = "mount"
    HUB = "hub"
    ROTOR = "rotor"
    PADS = "pads"
    CALIPER = "caliper"
    LEVER = "lever"
    ROOM = "room"


FIELDS_AT: Mapping[Place, tuple[str, ...]] = {
    Place.MOUNT: (
        "fitted_brake", "mount_there", "mount_named", "mount_spacing_mm", "spacing_tool", "bolt_direction",
        "adapter_id", "no_adapter", "carrying_id", "native_rotor_mm", "max_rotor_mm", "limit_source", "thread_material",
        "hole_depth_mm", "tab_mm",
    ),
    Place.HUB: ("hub_there", "hub", "axle", "hub_play", "tyre_tread", "tyre_left"),
    Place.ROTOR: (
        "rotor_id", "rotor_instrument", "rotor_points_mm", "rotor_minimum_mm", "rotor_runout_mm", "rotor_lip_mm",
        "rotor_cracks", "rotor_grooves", "rotor_face", "rotor_colour", "film_compound",
    ),
    Place.PADS: ("pad_id", "pad_inner_mm", "pad_outer_mm", "pad_taper_mm", "pad_state"),
    Place.CALIPER: (
        "caliper_id", "pistons", "caliper_centred", "bore_read_mm", "slot_read_mm", "line_state", "line_runs",
    ),
    Place.LEVER: (
        "lever_id", "lever_feel", "lever_reach_mm", "lever_bite_mm", "fluid_id", "fluid_grade", "fluid_age_y",
        "fluid_boils_c", "water_seen",
    ),
    Place.ROOM: (
        "upper_hole_mm", "lower_hole_mm", "lower_depth_mm", "lower_tab_mm", "upper_bolt_mm", "lower_bolt_mm",
        "edge_radius_mm", "spoke_gap_mm", "hose_slack_mm",
    ),
}  # fmt: skip
FIRST_AT: Mapping[Place, tuple[str, ...]] = {
    Place.MOUNT: ("mount_named", "carrying_id", "adapter_id", "native_rotor_mm", "max_rotor_mm"),
    Place.HUB: ("hub",),
    Place.ROTOR: ("rotor_id", "rotor_points_mm"),
    Place.PADS: ("pad_id", "pad_inner_mm", "pad_outer_mm"),
    Place.CALIPER: ("caliper_id",),
    Place.LEVER: ("lever_id",),
    Place.ROOM: FIELDS_AT[Place.ROOM],
}
"""the dozen or so readings of a wheel that its figures rest on, asked first; the last place is all of one kind"""
_PLACE_OF = {field: place for place, fields in FIELDS_AT.items() for field in fields}


def place_of(path: str) -> Place:
    """The place of the walk at which a field of a wheel is entered: ``front.pad_id`` is at the pads."""
    return _PLACE_OF.get(path.rsplit(".", 1)[-1], Place.MOUNT)
