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


_RENAMED_FIGURES = {
    "ring_emissivity_ratio": "rotor_emissivity_ratio",
    "ring_void_ratio": "rotor_void_ratio",
    "ring_hole_mm": "rotor_hole_mm",
    "ring_to_carrier_ratio": "rotor_to_carrier_ratio",
    "ring_of_fade_ratio": "rotor_of_fade_ratio",
}
_RENAMED_FINDINGS = {
    "ring_minimum": "rotor_minimum",
    "ring_oil": "rotor_oil",
    "over_limit": "largest",
    "wrong_lever": "line",
}


def _renamed(values: dict[str, Any], names: dict[str, str]) -> dict[str, Any]:
    return {names.get(key, key): value for key, value in values.items()}


def job_from_2_to_3(document: dict[str, Any]) -> dict[str, Any]:
    """What was called a ring is called a rotor, and a finding of parts that do not go together has the name of its
    check."""
    upgraded = dict(document)
    for part in ("parameters", "thresholds"):
        if isinstance(upgraded.get(part), dict):
            upgraded[part] = _renamed(upgraded[part], _RENAMED_FIGURES)
    cleared = upgraded.get("cleared")
    if isinstance(cleared, dict):
        names = {f"{end}:{old}": f"{end}:{new}" for end in _ENDS for old, new in _RENAMED_FINDINGS.items()}
        upgraded["cleared"] = _renamed(cleared, names)
    return upgraded


def path_from_2_to_3(path: str) -> str:
    """A path into a job's document, as the record of changes keeps it, by its present names.

    >>> path_from_2_to_3("cleared.front:ring_oil"), path_from_2_to_3("front.rotor_id")
    ('cleared.front:rotor_oil', 'front.rotor_id')
    """
    head, dot, rest = path.partition(".")
    if head in ("parameters", "thresholds"):
        return f"{head}{dot}{_RENAMED_FIGURES.get(rest, rest)}"
    end, colon, key = rest.partition(":")
    return f"{head}{dot}{end}{colon}{_RENAMED_FINDINGS.get(key, key)}" if head == "cleared" else path
