"""A bike that comes back: its new job begins with what is known, and with nothing that only a look today can tell."""

from typing import Any

from clavis.core.dates import as_date, date, years_between
from clavis.core.job.document import Job, Stay
from clavis.core.job.renewal import Renewal
from clavis.core.job.wheel import Wheel
from clavis.core.keeping.bike import KeptBike
from clavis.core.parts.mounts import End

READ_ANEW = (
    "rotor_points_mm", "rotor_instrument", "rotor_runout_mm", "rotor_lip_mm", "rotor_cracks", "rotor_grooves",
    "rotor_face", "rotor_colour", "pad_inner_mm", "pad_outer_mm", "pad_taper_mm", "pad_state", "pistons",
    "caliper_centred", "line_state", "lever_feel", "lever_bite_mm", "water_seen", "hub_play", "tyre_left", "read_by",
)  # fmt: skip
"""readings of a wheel that wear, time or a fall may have changed: they are taken anew at every visit"""
ALSO_ON_THE_BIKE = ("rotor", "caliper", "lever", "pad", "adapter")
CARRIED = (
    "title", "rider", "bike", "load", "conditions", "rides", "decisive_ride", "special", "target_decel_g", "thresholds",
    "parameters", "seed", "held", "marked",
)  # fmt: skip
"""what a new job takes over from the last one as it stands; its complaint, proposal, order and trials are its own"""


def _blank() -> dict[str, Any]:
    return {name: Wheel.model_fields[name].get_default(call_default_factory=True) for name in READ_ANEW}


def _wheel(wheel: Wheel, bike: KeptBike, end: End, today: date) -> Wheel:
    """The wheel as the bike's own record says it is fitted."""
    told = wheel.model_dump() | _blank()
    for what in ALSO_ON_THE_BIKE:
        life = bike.on_it(end, Renewal(what))
        if life is not None and life.part_id is not None:
            told[f"{what}_id"] = life.part_id
    filling = bike.on_it(end, Renewal.BLEED)
    if filling is not None and filling.fitted is not None:
        told["fluid_age_y"] = round(years_between(as_date(filling.fitted.day), today), 2)
        told["fluid_grade"] = filling.grade or told["fluid_grade"]
    else:
        told["fluid_age_y"] = None  # older by nobody knows how much
    return Wheel.model_validate(told)


def wheels_without_readings(job: Job) -> dict[str, Wheel]:
    """Both wheels of a job with the parts that are on them, and without what a look alone can tell."""
    return {end.value: Wheel.model_validate(job.wheel(end).model_dump() | _blank()) for end in End}


def next_job(bike: KeptBike, last: Job | None, today: date) -> Job:
    """The job of a bike that comes back.

    Parameters
    ----------
    bike : KeptBike
        Its own record.
    last : Job or None
        Its last job; None where it never had one: rider and ride are then to be asked.
    today : date
        By which the age of its fluid is told.

    Returns
    -------
    Job
        With rider, bike, load, rides and mounts as they were, the parts that are on it by its record, and no reading
        that may have changed since.
    """
    if last is None:
        return Job(title=bike.name)
    carried = {name: getattr(last, name) for name in CARRIED}
    wheels = {end.value: _wheel(last.wheel(end), bike, end, today) for end in End}
    job = Job(**carried, **wheels, stay=Stay())
    return Job.model_validate(job.model_copy(update={"title": bike.name or last.title}).model_dump())
