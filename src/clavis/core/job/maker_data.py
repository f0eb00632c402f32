"""What a fork, a frame or a bottle states, for those fields of a wheel that nobody has entered.

STATED is the table. What was measured or entered is never written over: where it disagrees, a finding says so.
"""

from collections.abc import Callable, Mapping
from typing import Any

from clavis.core.job.wheel import LimitSource, Wheel
from clavis.core.parts.fluids import FLUID_GRADES
from clavis.core.parts.models import AnyPart, Carrying, FluidPart


def _of_carrying(part: Any) -> dict[str, Any]:
    assert isinstance(part, Carrying)
    limit = {"max_rotor_mm": part.max_rotor_mm, "limit_source": LimitSource.DOCUMENT} if part.max_rotor_mm else {}
    return limit | {
        "native_rotor_mm": part.native_mm,
        "axle": part.axle,
        "thread_material": part.thread_material,
        "hole_depth_mm": part.hole_depth_mm,
        "tab_mm": part.tab_mm,
    }


def _of_fluid(part: Any) -> dict[str, Any]:
    assert isinstance(part, FluidPart)
    by_maker = not FLUID_GRADES[part.grade].takes_up_water
    return {"fluid_grade": part.grade, "fluid_boils_c": part.dry_c if by_maker else None}


# The field of a wheel that names a part, and what that part states of others.
STATED: Mapping[str, Callable[[AnyPart], dict[str, Any]]] = {"carrying_id": _of_carrying, "fluid_id": _of_fluid}


def blanks_of(wheel: Wheel, field: str, part: AnyPart) -> dict[str, Any]:
    """Values for the blank fields of a wheel, by name, once ``field`` names this part; empty for other fields.

    A limit and where it comes from go together: neither is filled where one of them was entered.
    """
    if field not in STATED:
        return {}
    stated = {name: value for name, value in STATED[field](part).items() if value is not None}
    if wheel.max_rotor_mm is not None or wheel.limit_source is not None:
        stated = {name: value for name, value in stated.items() if name not in ("max_rotor_mm", "limit_source")}
    return {name: value for name, value in stated.items() if getattr(wheel, name) is None}
