"""Older documents of jobs, brought to the present form. Used by the migrations and by the reading of job files."""

from typing import Any

_ENDS = ("front", "rear")


def job_from_1_to_2(document: dict[str, Any]) -> dict[str, Any]:
    """A ring is now its readings, a pair of pads two readings. The one thinnest reading that was kept stays as the one
    reading there is: it may condemn a ring, and asks for the others before it passes one."""
    upgraded = dict(document)
    for end in _ENDS:
        wheel = dict(upgraded.get(end) or {})
        thinnest, material = wheel.pop("rotor_thinnest_mm", None), wheel.pop("pad_material_mm", None)
        if thinnest is not None:
            wheel["rotor_points_mm"] = [thinnest]
        if material is not None:
            wheel["pad_inner_mm"] = wheel["pad_outer_mm"] = material
        upgraded[end] = wheel
    return upgraded
