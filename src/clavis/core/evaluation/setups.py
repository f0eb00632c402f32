"""The parts of one wheel's brake with their measured state: as fitted, or as proposed."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from clavis.core.errors import ClavisError, QuantityError
from clavis.core.evaluation.situation import Lack, Situation
from clavis.core.job.document import Job, Pick
from clavis.core.job.wheel import RING_POINTS, FittedBrake, Instrument, LeverFeel, LineState, RingFace, Seen, Wheel
from clavis.core.parts.hoses_and_fluids import fluid_for
from clavis.core.parts.models import Caliper, Catalogue, FluidPart, Lever, Pad, Rotor
from clavis.core.parts.mounts import End
from clavis.core.physics.forces import (
    pad_height_mm,
)
from clavis.core.physics.friction import COMPOUNDS, PadState, bedding_ratio, state_ratio
from clavis.core.physics.heat import node_row

UNMARKED_START_MM, UNMARKED_MINIMUM_MM = 1.8, 1.5
"""a rotor that started at 1.8 and bears no marking is worn out at 1.5 mm"""

SPONGY_AIR_MM3 = 300.0
"""air at rest in a line whose lever feels spongy (judged): about a third of a cubic centimetre"""
PAD_REPLACE_MM = 1.0
PAD_PLAN_MM = 1.5


@dataclass(frozen=True)
class WheelSetup:
    """The parts of one wheel's brake with their measured state."""

    rotor: Rotor
    thickness_mm: float
    caliper: Caliper
    lever: Lever
    pad: Pad
    material_mm: float
    pad_state: PadState
    unmeasured: tuple[str, ...] = ()
    air_mm3: float = 0.0
    """air in the line at rest"""
    to_bar_mm: float | None = None
    """travel there is between blade and bar, as measured on the lever that stays"""
    bedding: float = 1.0
    """share of its friction that the pair has already: 1 bedded in"""
    worn_out: str = ""
    """why the ring or the pads may not be ridden, in words; empty where nothing says so"""
    filled_with: FluidPart | None = None
    """the bottle an opened line is filled from; None where the line stays closed or none is known"""


def minimum_thickness_mm(rotor: Rotor) -> float | None:
    """As marked; 1.5 mm where nothing is marked and the rotor started at 1.8; otherwise unknown."""
    if rotor.minimum_mm is not None:
        return rotor.minimum_mm
    return UNMARKED_MINIMUM_MM if abs(rotor.thickness_mm - UNMARKED_START_MM) < 0.01 else None


def _ring_condition(wheel: Wheel, rotor: Rotor) -> tuple[list[str], str]:
    minimum, reading = minimum_thickness_mm(rotor), wheel.rotor_thinnest_mm
    if wheel.rotor_cracks is Seen.YES:
        return [], "ring cracked: scrap, do not ride"
    if wheel.rotor_face is RingFace.OILED:
        return [], "oil on the ring: do not ride; clean it, replace the pads that ran on it"
    if reading is None:
        return ["ring thickness not measured"], ""
    if minimum is None:
        return ["minimum thickness not marked and not known"], ""
    if reading < minimum:
        return [], f"ring at {reading:.2f} mm is under its minimum of {minimum:.2f} mm"
    if wheel.rotor_instrument is Instrument.VERNIER:
        return ["ring read with a vernier: it can condemn, not pass; use a micrometer"], ""
    if len(wheel.rotor_points_mm) < RING_POINTS:
        return [f"ring read at {len(wheel.rotor_points_mm)} of {RING_POINTS} points"], ""
    return [], ""


def _pad_condition(wheel: Wheel) -> tuple[list[str], list[str]]:
    """What is not measured on the pads, and why they may not be ridden, in words."""
    unmeasured, worn = [], []
    material = wheel.pad_material_mm
    if wheel.pad_state is PadState.NOT_CHECKED:
        unmeasured.append("pads not checked for glaze, oil and metal")
    if material is not None and material < PAD_REPLACE_MM:
        worn.append(f"pads at {material:.1f} mm: replace by {PAD_REPLACE_MM:.1f} mm")
    elif material is None:
        unmeasured.append("pad material not measured")
    elif not wheel.pads_measured:
        unmeasured.append("only one of the two pads measured")
    if wheel.pad_state is PadState.OILED:
        worn.append("pads oiled: do not ride; replace them and clean the rotor")
    if wheel.pad_state is PadState.METAL:
        worn.append("pads at metal: do not ride; replace pads and rotor")
    return unmeasured, worn


def setup_of(job: Job, end: End, pick: Pick | None, catalogue: Catalogue) -> WheelSetup | list[Lack]:
    """The fitted setup (``pick`` None) or the proposed one: what is picked, the rest as fitted."""
    wheel = job.wheel(end)
    pick = pick or Pick()
    proposed = pick != Pick()
    lacks: list[Lack] = []

    def part(kind: str, table: Mapping[str, object]) -> object | None:
        part_id = getattr(pick, f"{kind}_id") or getattr(wheel, f"{kind}_id")
        if part_id is None or part_id not in table:
            nothing_yet = wheel.fitted_brake in (FittedBrake.RIM, FittedBrake.OTHER)
            station, path = (
                ("choose", f"proposal.{end.value}.{kind}_id")
                if proposed or nothing_yet
                else ("measure", f"{end.value}.{kind}_id")
            )
            lacks.append(
                Lack(
                    station,
                    path,
                    f"{end.value} {kind}" + ("" if part_id is None else f" “{part_id}” not in the catalogue"),
                )
            )
            return None
        return table[part_id]

    rotor, caliper = part("rotor", catalogue.rotors), part("caliper", catalogue.calipers)
    lever, pad = part("lever", catalogue.levers), part("pad", catalogue.pads)
    if not (
        isinstance(rotor, Rotor) and isinstance(caliper, Caliper) and isinstance(lever, Lever) and isinstance(pad, Pad)
    ):
        return lacks
    keeps_rotor, keeps_pad = rotor.id == wheel.rotor_id, pad.id == wheel.pad_id
    keeps_line = caliper.id == wheel.caliper_id and lever.id == wheel.lever_id
    unmeasured: list[str] = []
    worn: list[str] = []
    if keeps_rotor:
        missing, out = _ring_condition(wheel, rotor)
        unmeasured += missing
        worn += [out] if out else []
    if keeps_pad:
        missing_of_pads, out_of_pads = _pad_condition(wheel)
        unmeasured += missing_of_pads
        worn += out_of_pads
    if keeps_line and wheel.line_state is LineState.LEAKING:
        worn.append("the line leaks: do not ride")
    return WheelSetup(
        rotor,
        wheel.rotor_thinnest_mm if keeps_rotor and wheel.rotor_thinnest_mm else rotor.thickness_mm,
        caliper,
        lever,
        pad,
        wheel.pad_material_mm if keeps_pad and wheel.pad_material_mm is not None else pad.material_mm,
        wheel.pad_state if keeps_pad else PadState.NEW,
        tuple(unmeasured),
        SPONGY_AIR_MM3 if keeps_line and wheel.lever_feel is LeverFeel.SPONGY else 0.0,
        wheel.lever_reach_mm if lever.id == wheel.lever_id else None,
        1.0 if job.proposal.bedded else _bedding(wheel, rotor, pad, keeps_rotor, keeps_pad),
        "; ".join(worn),
        None if keeps_line else fluid_for(caliper, wheel.fluid_grade, catalogue.fluids.values()),
    )


HOLLOW_MM = 0.1
"""a ring worn by this much is hollow: new flat pads touch only in part"""
HOLLOW_START_RATIO = 0.5


def _bedding(wheel: Wheel, rotor: Rotor, pad: Pad, keeps_rotor: bool, keeps_pad: bool) -> float:
    """Share of its friction that a pair has before any bedding in: all where both are kept, 0.6 with a new pad or
    rotor, 0.5 with new pads on a hollow-worn ring (model, section 3)."""
    if keeps_rotor and keeps_pad:
        return 1.0
    worn = rotor.thickness_mm - (wheel.rotor_thinnest_mm or rotor.thickness_mm)
    row = COMPOUNDS[pad.compound]
    if keeps_rotor and worn >= HOLLOW_MM:
        return bedding_ratio(row, 0.0, HOLLOW_START_RATIO)
    return bedding_ratio(row, 0.0)


def friction_state(setup: WheelSetup) -> float:
    """Friction multiplier of the pads' state and bedding. Pads that may have no figure never come this far."""
    ratio = state_ratio(setup.pad_state)
    if ratio is None:
        raise ClavisError(f"no figure for pads in this state: {setup.worn_out}")
    return ratio * setup.bedding


def keeps_fluid(job: Job, end: End, setup: WheelSetup) -> bool:
    """The line stays closed while caliper and lever are the fitted ones."""
    wheel = job.wheel(end)
    return setup.caliper.id == wheel.caliper_id and setup.lever.id == wheel.lever_id


def contradiction(setup: WheelSetup) -> str:
    """Why these parts cannot be computed together, in words; empty where they can."""
    try:
        pad_height_mm(setup.rotor, setup.pad)
    except QuantityError as error:
        return str(error)
    return ""


def row_of(setup: WheelSetup, end: End, situation: Situation) -> NDArray[np.float64]:
    """The setup as one row for the integration, in the order of ``kernels.COLUMNS``."""
    return node_row(
        setup.rotor,
        setup.thickness_mm,
        setup.pad,
        setup.material_mm,
        setup.caliper,
        end,
        situation.bike.wheel_radius_m,
        situation.wet,
        situation.parameters,
    )
