"""Copies: one wheel's entries for the other, a whole job, a template, and one proposal for every equal bike of a
fleet."""

from dataclasses import dataclass
from typing import Any

from clavis.core.dates import date
from clavis.core.job.document import Job, Rider, Stay
from clavis.core.job.renewal import Renewal
from clavis.core.job.wheel import Wheel
from clavis.core.keeping.bike import KeptBike
from clavis.core.keeping.returning import ALSO_ON_THE_BIKE, CARRIED, next_job, wheels_without_readings
from clavis.core.parts.mounts import End
from clavis.core.sentences import Words, say

SAME_ON_BOTH = (
    "fitted_brake", "rotor_id", "caliper_id", "lever_id", "pad_id", "hub_there", "hub", "fluid_id", "fluid_grade",
    "fluid_age_y", "fluid_boils_c", "rotor_instrument", "rotor_minimum_mm", "spacing_tool", "line_runs",
)  # fmt: skip
"""what is commonly alike on both wheels; mounts, axles, adapters and readings are each wheel's own"""
OF_THE_MODEL = {"rotor_minimum_mm": "rotor_id"}
"""what is marked on a part goes along where the same part is on the other wheel"""


def copied_wheel(job: Job, source: End) -> dict[str, Any]:
    """Entries of one wheel for the other, by field: those alone that nobody has made there yet."""
    target = End.REAR if source is End.FRONT else End.FRONT
    had, other = job.wheel(source), job.wheel(target)
    blank = Wheel()
    copied = {
        name: getattr(had, name)
        for name in SAME_ON_BOTH
        if getattr(other, name) == getattr(blank, name) and getattr(had, name) != getattr(blank, name)
    }
    for name, part in OF_THE_MODEL.items():
        if copied.get(part, getattr(other, part)) != getattr(had, part):
            copied.pop(name, None)
    return copied


NOT_OF_ANOTHER = (
    "mount_spacing_mm", "spacing_tool", "bolt_direction", "hole_depth_mm", "tab_mm", "upper_hole_mm", "lower_hole_mm",
    "lower_depth_mm", "lower_tab_mm", "upper_bolt_mm", "lower_bolt_mm", "edge_radius_mm", "spoke_gap_mm",
    "hose_slack_mm", "bore_read_mm", "slot_read_mm", "lever_reach_mm", "trial", "since",
)  # fmt: skip
"""measured on one bike, or true of it alone: never taken over to another, however alike"""
OF_ONE_BIKE = ("special", "marked")
"""plates and markings of one bike, with who released and who read them"""


def _of_another(wheel: Wheel) -> Wheel:
    blank = Wheel()
    return wheel.model_copy(update={name: getattr(blank, name) for name in NOT_OF_ANOTHER})


def copied_job(job: Job, *, template: bool = False) -> Job:
    """A job like another, for another bike: rider, bike, rides, parts and proposal, and nothing that was measured,
    read, answered, ticked or signed. From a template the rider's name is left out."""
    carried = {name: getattr(job, name) for name in CARRIED if name not in OF_ONE_BIKE}
    wheels = {end: _of_another(wheel) for end, wheel in wheels_without_readings(job).items()}
    rider: Rider = job.rider.model_copy(update={"name": ""}) if template else job.rider
    title = "" if template else f"{job.title} (copy)"[:80]
    told = carried | wheels | {
        "title": title, "rider": rider, "stay": Stay(), "wishes": job.wishes, "proposal": job.proposal,
        "keeps": job.keeps, "complaints": () if template else job.complaints,
        "complaint_words": "" if template else job.complaint_words,
    }  # fmt: skip
    return Job.model_validate(Job(**told).model_dump())


@dataclass(frozen=True)
class Alike:
    """Whether a bike of a fleet is like the one of a job: nothing differs, what differs, or what is not known."""

    differs: tuple[Words, ...]
    unknown: tuple[Words, ...]

    @property
    def equal(self) -> bool:
        return not self.differs


def alike(job: Job, bike: KeptBike, last: Job | None) -> Alike:
    """A bike of the fleet against a job's, wheel by wheel: the parts that are on it by its own record, or by its last
    job, and its mounts."""
    differs: list[Words] = []
    unknown: list[Words] = []
    for end in End:
        wheel = job.wheel(end)
        other = last.wheel(end) if last is not None else None
        for what in ALSO_ON_THE_BIKE:
            wanted = getattr(wheel, f"{what}_id")
            life = bike.on_it(end, Renewal(what))
            there = life.part_id if life is not None else getattr(other, f"{what}_id", None)
            if there is None and wanted is not None:
                unknown.append(say("{end}: {what} not known", end=end, what=what))
            elif there != wanted:
                differs.append(say("{end}: another {what}", end=end, what=what))
        for name in ("native_rotor_mm", "max_rotor_mm", "hub", "axle"):
            if other is not None and getattr(other, name) != getattr(wheel, name):
                differs.append(say("{end}: another {what}", end=end, what=name.removesuffix("_mm").replace("_", " ")))
    return Alike(tuple(differs), tuple(unknown))


def same_proposal(job: Job, bike: KeptBike, last: Job | None, today: date) -> Job:
    """The job with which one change is carried over to another bike of a fleet: the bike's own job, or where it has
    none one like it, with the same proposal."""
    begun = next_job(bike, last, today) if last is not None else copied_job(job, template=True)
    told = {"proposal": job.proposal, "title": bike.name or job.title, "complaints": job.complaints}
    return Job.model_validate(begun.model_copy(update=told).model_dump())
