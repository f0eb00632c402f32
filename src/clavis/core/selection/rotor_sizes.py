"""What each size of rotor would do on one wheel, the rest of the brake as it is: force, heat, mass, price, and whether
it may be there at all; and what thickness would do instead at the same mass."""

from dataclasses import dataclass, replace

from clavis.core.evaluation.evaluate import Evaluation, WheelResult, wheel_result
from clavis.core.evaluation.open_points import why_words
from clavis.core.evaluation.parts_list import price_of
from clavis.core.evaluation.setups import WheelSetup
from clavis.core.evaluation.wheel_cases import WheelCase, wheel_case
from clavis.core.fit.mounting import Mounting
from clavis.core.job.document import Job
from clavis.core.job.pick import Pick
from clavis.core.parts.models import Axis, Rotor
from clavis.core.parts.mounts import SAME_SIZE_MM, End
from clavis.core.physics.heat import Node, equal_mass_thickness_mm
from clavis.core.selection.candidates import refusal_of
from clavis.core.selection.rotor_steps import SIZES_MM, size_of, unlike
from clavis.core.sentences import NOTHING, Words, say
from clavis.core.verdicts import Verdict

THICKEST_MM = 5.0
"""thicker than that no rotor is made (the catalogue's own limit)"""


@dataclass(frozen=True)
class Thicker:
    """The present rotor made so thick that it weighs what the one of this step weighs: what that would do."""

    thickness_mm: float
    rotor_c: float
    fluid_c: float | None


@dataclass(frozen=True)
class SizeStep:
    """One size: the rotor that is most like the present one, what it does on this ride, what it costs with all that it
    needs (None where it does not go), and why it does not go."""

    rotor: Rotor
    result: WheelResult | None
    price: float | None
    refused: Words
    present: bool
    native: bool
    thicker: Thicker | None

    @property
    def verdict(self) -> Verdict:
        if self.refused:
            return Verdict.FAILS
        return self.result.verdict if self.result else Verdict.UNKNOWN

    @property
    def why(self) -> Words:
        """Why it does not go, or what sets its verdict."""
        if self.refused or self.result is None:
            return self.refused
        return why_words(self.result.points, self.result.margins)

    @property
    def rotor_c(self) -> float | None:
        return None if self.result is None else self.result.heat.peak_c[Node.ROTOR]


@dataclass(frozen=True)
class SizeLadder:
    """Every size that rotors for this hub are made in, smallest first; ``largest_mm`` is what fork or frame allows,
    None where that is not known."""

    end: End
    steps: tuple[SizeStep, ...]
    largest_mm: float | None
    native_mm: float | None


def _of_each_size(mounting: Mounting, setup: WheelSetup) -> list[Rotor]:
    """One rotor for each size, most like the present one, of those that go on this hub and under these pads."""
    by_size: dict[int, list[Rotor]] = {}
    for rotor in mounting.catalogue.rotors.values():
        if not rotor.offered or rotor.interface is not setup.rotor.interface:
            continue
        by_size.setdefault(size_of(rotor.diameter_mm), []).append(rotor)
    by_size[size_of(setup.rotor.diameter_mm)] = [setup.rotor]
    return [min(by_size[k], key=lambda r: unlike(setup.rotor, r)) for k in range(len(SIZES_MM)) if k in by_size]


def sizes_of(job: Job, end: End, evaluation: Evaluation) -> SizeLadder | None:
    """None while the wheel's brake is not whole, or nothing is known of rider, bike or ride."""
    proposed, situation, mounting = evaluation.proposed, evaluation.situation, evaluation.place_for(end)
    case = proposed.cases[end] if proposed else None
    if situation is None or proposed is None or proposed.load is None or proposed.demand is None:
        return None
    if case is None or case.setup is None or not case.setup.rideable:
        return None
    load, demand, present = proposed.load, proposed.demand.alone, case.setup

    def ridden(setup: WheelSetup, found: WheelCase) -> WheelResult | None:
        if not setup.rideable or any(p.voids for p in found.points):
            return None
        return wheel_result(setup, situation, demand, load, found.points)

    def thicker(rotor: Rotor) -> Thicker | None:
        thick = equal_mass_thickness_mm(present.rotor, rotor.mass_g, situation.parameters)
        if rotor is present.rotor or thick is None or not present.thickness_mm < thick <= THICKEST_MM:
            return None
        heavy = present.rotor.model_copy(update={"thickness_mm": thick, "mass_g": rotor.mass_g})
        found = ridden(replace(present, rotor=heavy, thickness_mm=thick), case)
        if found is None:
            return None
        return Thicker(thick, found.heat.peak_c[Node.ROTOR], found.heat.fluid_peak_c)

    steps = []
    native = mounting.wheel.native.mm
    for rotor in _of_each_size(mounting, present):
        stays = rotor == present.rotor
        pick = job.proposal.of(end) if stays else _with_rotor(job.proposal.of(end), rotor)
        found = case if stays else wheel_case(mounting, pick, bedded=job.proposal.bedded)
        refused = NOTHING if stays else refusal_of(mounting, found.brake, Axis.ROTOR)
        is_native = native is not None and abs(rotor.diameter_mm - native) <= SAME_SIZE_MM
        steps.append(
            SizeStep(
                rotor=rotor,
                result=ridden(found.setup, found) if found.setup else None,
                price=None if refused else price_of(found.lines),
                refused=refused,
                present=stays,
                native=is_native,
                thicker=thicker(rotor),
            )
        )
    return SizeLadder(end, tuple(steps), mounting.wheel.largest.mm, native)


def against_speed(ladder: SizeLadder, top_kmh: float, rated_kmh: float | None) -> Words:
    """What a larger rotor stores more, beside what the speed above the marked one brings more; nothing where the bike
    is no faster than marked, or no larger size has figures."""
    present = next((k for k, s in enumerate(ladder.steps) if s.present), None)
    if rated_kmh is None or top_kmh <= rated_kmh or present is None or present + 1 >= len(ladder.steps):
        return NOTHING
    now, larger = ladder.steps[present], ladder.steps[present + 1]
    if now.result is None or larger.result is None:
        return NOTHING
    more = larger.result.node("rotor_capacity") / now.result.node("rotor_capacity") - 1
    return say(
        "from {top_kmh:.0} a stop has {times:.1} times the energy of one from the marked {rated_kmh:.0}; from "
        "{now_mm:size} to {larger_mm:size} the rotor stores {more_pct:.0} more",
        top_kmh=top_kmh, rated_kmh=rated_kmh, times=(top_kmh / rated_kmh) ** 2, now_mm=now.rotor.diameter_mm,
        larger_mm=larger.rotor.diameter_mm, more_pct=100 * more,
    )  # fmt: skip


def _with_rotor(pick: Pick, rotor: Rotor) -> Pick:
    """What is picked with another rotor, and the adapter that belongs to it."""
    return pick.model_copy(update={"rotor_id": rotor.id, "adapter_id": None})
