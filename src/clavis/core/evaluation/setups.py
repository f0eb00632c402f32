"""The parts of one wheel's brake with their measured state: as fitted, or as proposed."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from clavis.core.errors import ClavisError
from clavis.core.evaluation.condition_readings import HOLLOW_MM
from clavis.core.evaluation.situation import Lack, Situation
from clavis.core.job.pick import Pick
from clavis.core.job.renewal import NONE, Renewal, Renewals, new_parts
from clavis.core.job.resolved_wheel import ResolvedWheel, minimum_thickness_mm
from clavis.core.job.wheel import FittedBrake, LeverFeel, LineState, Wheel
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.models import Axis, Brake, Caliper, FluidPart, Lever, Pad, Rotor
from clavis.core.parts.mounts import End
from clavis.core.physics.forces import Housing, pads_within_track
from clavis.core.physics.friction import PadState, bedding_ratio, state_ratio
from clavis.core.physics.heat import WornBrake, node_row
from clavis.core.sentences import say

SPONGY_AIR_MM3 = 300.0
"""air at rest in a line whose lever feels spongy (judged): about a third of a cubic centimetre"""
HOLLOW_START_RATIO = 0.5


@dataclass(frozen=True)
class WheelSetup:
    """The parts of one wheel's brake with their measured state."""

    wheel: ResolvedWheel
    new: frozenset[Axis]
    """the kinds of part that are not the ones on the wheel: another model, or the same one new"""
    rotor: Rotor
    thickness_mm: float
    caliper: Caliper
    lever: Lever
    pad: Pad
    material_mm: float
    pad_state: PadState
    air_mm3: float = 0.0
    """air in the line at rest"""
    to_bar_mm: float | None = None
    """travel there is between blade and bar, as measured on the lever that stays"""
    bedding: float = 1.0
    """share of its friction that the pair has already: 1 bedded in"""
    renew: Renewals = NONE
    """what comes new beside other models of part"""
    housing: Housing = Housing.USUAL
    """what a cable runs in"""
    keeps_line: bool = True
    """the line stays closed: caliper, lever and hose are the fitted ones, and nobody bleeds it"""
    filled_with: FluidPart | None = None
    """the bottle an opened line is filled from; None where the line stays closed or none is known"""
    passes_over: frozenset[str] = frozenset()
    """conditions that are not looked at, where parts are seen at another age than theirs"""

    @property
    def end(self) -> End:
        return self.wheel.end

    @property
    def brake(self) -> Brake:
        return Brake(self.rotor, self.caliper, self.lever, self.pad)

    @property
    def minimum_mm(self) -> float | None:
        """Least thickness of its rotor; None where nothing tells."""
        on_it = self.wheel.on_it.rotor
        same = on_it is not None and on_it.id == self.rotor.id
        return self.wheel.minimum_mm if same else minimum_thickness_mm(self.rotor)

    @property
    def mass_g(self) -> float:
        return self.rotor.mass_g + self.caliper.mass_g + self.lever.mass_g + self.pad.mass_g

    @property
    def rideable(self) -> bool:
        """It may have figures: its pads are neither oiled nor down to metal, and no higher than the track."""
        return state_ratio(self.pad_state) is not None and pads_within_track(self.rotor, self.pad)


def brake_of(wheel: ResolvedWheel, pick: Pick | None, catalogue: Catalogue) -> Brake:
    """What is picked, the rest as it is on the wheel; None in it what is neither, or not in the catalogue."""
    chosen: dict[str, Any] = {}
    for axis in Axis:
        part_id = getattr(pick, f"{axis.value}_id") if pick else None
        chosen[axis.value] = catalogue.of_kind(axis.value).get(part_id) if part_id else wheel.on_it.of(axis)
    return Brake(**chosen)


def lacks_of(wheel: ResolvedWheel, pick: Pick | None, brake: Brake) -> list[Lack]:
    """What keeps a brake from being whole: where it is entered, and in words."""
    end, proposed = wheel.end.value, pick not in (None, Pick())
    nothing_yet = wheel.measured.fitted_brake in (FittedBrake.RIM, FittedBrake.OTHER)
    lacks = []
    for axis in (a for a in Axis if brake.of(a) is None):
        field = f"{axis.value}_id"
        part_id = (getattr(pick, field) if pick else None) or getattr(wheel.entered, field)
        path = f"proposal.{end}.{field}" if proposed or nothing_yet else f"{end}.{field}"
        words = f"{end} {axis.value}"
        lacks.append(Lack(path, words if part_id is None else f"{words} “{part_id}” not in the catalogue"))
    return lacks


BottleFor = Callable[[Caliper], FluidPart | None]


def setup_with(
    wheel: ResolvedWheel,
    brake: Brake,
    bottle_for: BottleFor,
    *,
    bedded: bool = True,
    opens_line: bool = False,
    renew: Renewals = NONE,
) -> WheelSetup:
    """A whole brake on one wheel, with the measured state of what stays.

    ``bottle_for`` finds what an opened line is filled from. ``bedded`` False judges what is new as it leaves the
    workshop; a line is opened by a new lever or caliper, and where ``opens_line`` says so. ``renew`` is what comes new
    beside other models of part. Raises ClavisError for a brake that is not whole.
    """
    rotor, caliper, lever, pad = brake.rotor, brake.caliper, brake.lever, brake.pad
    if rotor is None or caliper is None or lever is None or pad is None:
        raise ClavisError("this brake is not whole")
    measured = wheel.measured
    changed = brake.changed_from(wheel.on_it)
    new = new_parts(changed, renew)
    keeps_rotor, keeps_pad = Axis.ROTOR not in new, Axis.PAD not in new
    keeps_line = not opens_line and not new & {Axis.CALIPER, Axis.LEVER}
    thinnest, material = measured.rotor_thinnest_mm, measured.pad_material_mm
    return WheelSetup(
        wheel=wheel,
        new=new,
        rotor=rotor,
        thickness_mm=thinnest if keeps_rotor and thinnest else rotor.thickness_mm,
        caliper=caliper,
        lever=lever,
        pad=pad,
        material_mm=material if keeps_pad and material is not None else pad.material_mm,
        pad_state=measured.pad_state if keeps_pad else PadState.NEW,
        air_mm3=SPONGY_AIR_MM3 if keeps_line and measured.lever_feel is LeverFeel.SPONGY else 0.0,
        to_bar_mm=None if Axis.LEVER in changed else measured.lever_reach_mm,
        bedding=1.0
        if bedded and not _unbedded(measured, pad, renew, keeps_rotor and keeps_pad)
        else _bedding(thinnest, rotor, pad, keeps_rotor, keeps_pad and not _unbedded(measured, pad, renew, True)),
        renew=renew,
        housing=_housing(measured, keeps_line),
        keeps_line=keeps_line,
        filled_with=None if keeps_line else bottle_for(caliper),
    )


def _housing(measured: Wheel, stays: bool) -> Housing:
    """A cable that is cut anew runs in new housing; one that stays in what was seen of it."""
    if not stays:
        return Housing.NEW
    return Housing.OLD if measured.line_state is LineState.WORN else Housing.USUAL


def _unbedded(measured: Wheel, pad: Pad, renew: Renewals, stays: bool) -> bool:
    """Pads that were found new on the bike, or on another compound's film: nobody says that they were bedded in,
    neither an order that was signed off nor the one that is proposed."""
    other_film = measured.film_compound not in (None, pad.compound)
    new = stays and (measured.pad_state is PadState.NEW or other_film)
    return new and Renewal.BED_IN not in renew and measured.came_new(Renewal.BED_IN) is None


def _bedding(thinnest_mm: float | None, rotor: Rotor, pad: Pad, keeps_rotor: bool, keeps_pad: bool) -> float:
    """Share of its friction that a pair has before any bedding in: all where both are kept, 0.6 with a new pad or
    rotor, 0.5 with new pads on a hollow-worn rotor (docs/model.md, section 3)."""
    if keeps_rotor and keeps_pad:
        return 1.0
    worn = rotor.thickness_mm - (thinnest_mm or rotor.thickness_mm)
    row = COMPOUNDS[pad.compound]
    if keeps_rotor and worn >= HOLLOW_MM:
        return bedding_ratio(row, 0.0, HOLLOW_START_RATIO)
    return bedding_ratio(row, 0.0)


def friction_state(setup: WheelSetup) -> float:
    """Friction multiplier of the pads' state and bedding. Pads that may have no figure never come this far."""
    ratio = state_ratio(setup.pad_state)
    if ratio is None:
        raise ClavisError(say("no figure for pads in this state: {state}", state=setup.pad_state))
    return ratio * setup.bedding


def row_of(setup: WheelSetup, situation: Situation, wet: bool | None = None) -> NDArray[np.float64]:
    """The setup as one row for the integration, in the order of ``heat_kernel.COLUMNS``; wet as the situation is,
    unless said."""
    brake = WornBrake(setup.rotor, setup.thickness_mm, setup.pad, setup.material_mm, setup.caliper, setup.end)
    wet = situation.wet if wet is None else wet
    return node_row(brake, situation.bike.wheel_radius_m, wet, situation.parameters)
