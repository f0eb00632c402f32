"""The sheet looked at otherwise than the job says: in the wet or dry, with regeneration, cold or hot, with parts
new, bedded in or worn to their limits. Nothing of it is kept with the job."""

from dataclasses import dataclass, replace
from enum import StrEnum

from clavis.core.evaluation.condition_readings import PAD_REPLACE_MM
from clavis.core.evaluation.conditions import CONDITIONS, On
from clavis.core.evaluation.setups import WheelSetup
from clavis.core.job.document import Job
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.physics.bike import WET_SURFACES, Surface
from clavis.core.physics.forces import Pull
from clavis.core.physics.friction import PadState, bedding_ratio
from clavis.core.sentences import Sentence, joined
from clavis.core.verdicts import Severity


class Wetness(StrEnum):
    WET = "wet"
    DRY = "dry"


class Age(StrEnum):
    """How far the parts are through their lives."""

    NEW = "new"
    BEDDED = "bedded"
    WORN = "worn"


@dataclass(frozen=True)
class ViewConditions:
    """None leaves a thing as the job has it. Regeneration is counted where the look asks for it, never else."""

    wetness: Wetness | None = None
    pull: Pull | None = None
    age: Age | None = None
    regeneration: bool = False

    @property
    def as_entered(self) -> bool:
        """Shows the job as it is."""
        return self == AS_ENTERED

    @property
    def words(self) -> Sentence:
        """What is looked at otherwise; empty where nothing is."""
        parts = (
            self.wetness.value if self.wetness else "",
            PULL_WORDS[self.pull] if self.pull else "",
            AGE_WORDS[self.age] if self.age else "",
            "with regeneration" if self.regeneration else "",
        )
        return joined(parts, ", ")


AS_ENTERED = ViewConditions()


PULL_WORDS: dict[Pull, str] = {Pull.WARM: "pads warm", Pull.COLD: "first pull, cold", Pull.HOT: "at the ride's hottest"}
AGE_WORDS: dict[Age, str] = {
    Age.NEW: "all new, not bedded in",
    Age.BEDDED: "bedded in",
    Age.WORN: "rotor and pads at their limits",
}
# What each ground is in the rain, and in the dry; ground that is not named stays what it is, with wet pads.
IN_THE_WET: dict[Surface, Surface] = {Surface.DRY_ASPHALT: Surface.WET_ASPHALT, Surface.HARDPACK: Surface.LOOSE}
IN_THE_DRY: dict[Surface, Surface] = {
    Surface.WET_ASPHALT: Surface.DRY_ASPHALT,
    Surface.WET_COBBLES: Surface.DRY_ASPHALT,
}


def is_wet(job: Job) -> bool:
    """Whether the job's pads are wet."""
    return job.conditions.rain or job.conditions.surface in WET_SURFACES


def under(job: Job, view: ViewConditions) -> Job:
    """The job in this weather, and without its regeneration unless that is asked for."""
    if view.wetness is not None and (view.wetness is Wetness.WET) != is_wet(job):
        wet, ground = view.wetness is Wetness.WET, job.conditions.surface
        other = (IN_THE_WET if wet else IN_THE_DRY).get(ground, ground)
        job = job.model_copy(update={"conditions": job.conditions.model_copy(update={"surface": other, "rain": wet})})
    if job.bike.regen_share_pct and not view.regeneration:
        job = job.model_copy(update={"bike": job.bike.model_copy(update={"regen_share_pct": 0.0})})
    return job


_WORN_BY_USE = [row for row in CONDITIONS if row.on in (On.ROTOR, On.PAD)]
OF_NO_MATTER_NEW = frozenset(row.key for row in _WORN_BY_USE)
OF_NO_MATTER_WORN = frozenset(
    row.key for row in _WORN_BY_USE if row.severity is Severity.UNKNOWN and row.key != "no_minimum"
)


def aged(setup: WheelSetup, age: Age | None) -> WheelSetup:
    """The same parts at another age. Oil and metal stay what they are; a worn rotor without a known minimum is not
    guessed."""
    if age is None or setup.pad_state in (PadState.OILED, PadState.METAL):
        return setup
    if age is Age.BEDDED:
        return replace(setup, bedding=1.0)
    if age is Age.NEW:
        return replace(
            setup, thickness_mm=setup.rotor.thickness_mm, material_mm=setup.pad.material_mm, pad_state=PadState.NEW,
            passes_over=OF_NO_MATTER_NEW, bedding=bedding_ratio(COMPOUNDS[setup.pad.compound], 0.0),
        )  # fmt: skip
    least = setup.minimum_mm
    return replace(
        setup,
        thickness_mm=setup.thickness_mm if least is None else min(least, setup.thickness_mm),
        material_mm=min(PAD_REPLACE_MM, setup.material_mm),
        passes_over=OF_NO_MATTER_WORN,
        bedding=1.0,
    )
