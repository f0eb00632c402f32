"""The work order: parts, bolts, torques, tools, steps and cautions, and the bedding-in plan (the job, section 6).

TORQUES, STEPS and CAUTIONS are the tables; the marking on a part always wins over a figure here.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from enum import StrEnum
from math import ceil

import numpy as np
from numpy.typing import NDArray

from clavis.core.evaluation.evaluate import Evaluation, SetupResult, WheelResult
from clavis.core.evaluation.sheet import margin_words
from clavis.core.evaluation.situation import Situation
from clavis.core.fit.bolts import BoltChoice
from clavis.core.fit.fit import Fit, fit_wheel
from clavis.core.fit.plate_release import SPECIAL_CAUTIONS
from clavis.core.job.document import Job
from clavis.core.job.wheel import Wheel
from clavis.core.parts.hoses_and_fluids import hose_between, needs_new_hose
from clavis.core.parts.hubs import hub_row
from clavis.core.parts.models import Axle, Catalogue, Compound, Fluid, HubInterface, Part
from clavis.core.parts.mounts import BoltDirection, CaliperMount, End
from clavis.core.physics import heat_kernel
from clavis.core.physics.friction import COMPOUNDS, bedding_ratio
from clavis.core.physics.heat import Node, node_row
from clavis.core.units import KMH_PER_MS
from clavis.core.verdicts import Verdict


@dataclass(frozen=True)
class Torque:
    """A fastener's torque range, N·m, its tool and thread-lock."""

    fastener: str
    low_nm: float
    high_nm: float
    tool: str
    lock: str
    note: str


TORQUES: dict[str, Torque] = {
    "rotor_bolts": Torque(
        "rotor bolts",
        2.0,
        6.2,
        "T25 star key",
        "low strength, or pre-coated bolts",
        "commonly about 6; star pattern, two steps; the marking wins",
    ),
    "lockring": Torque("lockring", 40.0, 40.0, "lockring tool", "none", "hold the wheel upright; the marking wins"),
    "m6": Torque(
        "M6 caliper and adapter bolts",
        6.0,
        10.0,
        "5 mm hex or T25 star key",
        "low strength, or pre-coated bolts",
        "the marking wins",
    ),
    "m5": Torque(
        "M5 flat-mount bolts",
        6.0,
        8.0,
        "4 mm hex or T25 star key",
        "low strength, or pre-coated bolts",
        "the marking wins",
    ),
    "m8": Torque(
        "M8 bolts of a special mount",
        12.0,
        18.0,
        "6 mm hex",
        "low strength, or pre-coated bolts",
        "the engineer who releases the plate gives it",
    ),
    "axle": Torque("axle", 12.0, 15.0, "as marked", "none", "as marked on the axle"),
}


def fastening(choice: BoltChoice) -> Torque:
    """Torque, tool and thread-lock of one bolt of the chain; tool and coat are the bolt's own where one is chosen."""
    row = TORQUES[choice.stack.thread.lower()]
    if choice.bolt is None:
        return row
    lock = "its own coat, once; then low strength" if choice.bolt.coated else "low strength"
    return replace(row, tool=f"{choice.bolt.drive} key", lock=lock)


class Topic(StrEnum):
    """The parts of the work, in order."""

    BEFORE = "before"
    ROTOR = "rotor"
    PADS = "pads"
    MOUNT = "mount"
    LINE = "line"
    FINISH = "finish"


@dataclass(frozen=True)
class WheelWork:
    """What is done to one wheel: the answers that decide which steps are in the order."""

    end: End
    wheel: Wheel
    result: WheelResult
    fit: Fit
    assisted: bool
    cutoff: bool
    """the lever carries the motor's cut-off switch"""
    new_rotor: bool
    new_pads: bool
    new_caliper: bool
    new_lever: bool

    @property
    def anything(self) -> bool:
        return self.new_rotor or self.new_pads or self.new_caliper or self.new_lever

    @property
    def moves_caliper(self) -> bool:
        return self.new_caliper or self.new_rotor

    @property
    def opens_line(self) -> bool:
        return (self.new_caliper or self.new_lever) and self.result.setup.caliper.fluid is not Fluid.NONE

    @property
    def cable(self) -> bool:
        return self.result.setup.caliper.fluid is Fluid.NONE

    @property
    def splined(self) -> bool:
        return self.wheel.hub is HubInterface.SPLINED


@dataclass(frozen=True)
class StepRow:
    """One step of the order. ``when`` decides whether it stands; ``caution`` stands with it."""

    key: str
    topic: Topic
    words: str
    when: Callable[[WheelWork], bool]
    caution: str = ""


def _always(_w: WheelWork) -> bool:
    return True


STEPS: tuple[StepRow, ...] = (
    StepRow(
        "battery",
        Topic.BEFORE,
        "Switch the bike off and take the battery out.",
        lambda w: w.assisted,
        "The motor can pull while hands are at the wheel.",
    ),
    StepRow(
        "cool",
        Topic.BEFORE,
        "Let the rotor cool; note how the old adapter, washers and bolts sat.",
        _always,
        "Rotors burn skin for many minutes after a ride.",
    ),
    StepRow(
        "wheel_out",
        Topic.BEFORE,
        "Take the wheel out; put a spacer between the pads.",
        _always,
        "Pull no lever without a rotor or spacer between the pads.",
    ),
    StepRow(
        "pistons",
        Topic.PADS,
        "Push the pistons back with the old pads in; look for a lazy piston and even it out.",
        lambda w: w.new_pads or w.new_rotor,
    ),
    StepRow("rotor_off", Topic.ROTOR, "Take the old rotor off; clean the hub's face.", lambda w: w.new_rotor),
    StepRow(
        "rotor_on",
        Topic.ROTOR,
        "Fit the rotor with its arrow in the direction of rotation. Turn it to the end of its play opposite to the "
        "wheel's rotation, then tighten in a star pattern in two steps.",
        lambda w: w.new_rotor and not w.splined,
        "No fingers on the track.",
    ),
    StepRow(
        "rotor_spline",
        Topic.ROTOR,
        "Slide the rotor on, arrow in the direction of rotation; tighten the lockring.",
        lambda w: w.new_rotor and w.splined,
        "No fingers on the track.",
    ),
    StepRow(
        "rotor_clean",
        Topic.ROTOR,
        "Clean the track with isopropyl alcohol and a clean cloth.",
        lambda w: w.new_rotor or w.new_pads,
        "No spray of any kind near the brake.",
    ),
    StepRow(
        "pads_in",
        Topic.PADS,
        "Fit the pads with their spring; pin, then clip.",
        lambda w: w.new_pads,
        "Pads that have met oil are thrown away; nothing brings them back.",
    ),
    StepRow(
        "adapter",
        Topic.MOUNT,
        "Trial-fit the adapter, arrow and “up” as marked, with two bolts; spin the wheel before full assembly.",
        lambda w: w.fit.chain.adapter is not None and w.moves_caliper,
        "One adapter only. If it does not sit flat, stop: it is the wrong one for this mount.",
    ),
    StepRow(
        "special_plate",
        Topic.MOUNT,
        "Fit the released plate with its spacers; compare its number with the released drawing; spin the wheel before "
        "full assembly.",
        lambda w: w.fit.plate is not None and w.moves_caliper,
        "Only the part that the engineer released. Paper and plastic carry no braking.",
    ),
    StepRow(
        "caliper",
        Topic.MOUNT,
        "Fit the caliper with the bolts listed for each place; washers in the order they came.",
        lambda w: w.moves_caliper,
        "A bolt of another stack is not used again. A caliper that fouls is not filed: choose another part.",
    ),
    StepRow(
        "cable_centre",
        Topic.MOUNT,
        "Run the fixed pad out until it sets the rotor mid-slot; hold the lever, tighten, back the fixed pad off until "
        "wheel turns free. Take up the cable without lifting the arm.",
        lambda w: w.cable and w.result.setup.caliper.moving_pads == 1,
        "A lever that bottoms means that the pads stand too far out.",
    ),
    StepRow(
        "centre",
        Topic.MOUNT,
        "Wheel in, bike on the ground. Hold the lever, tighten the caliper in turns, then check by eye.",
        lambda w: not (w.cable and w.result.setup.caliper.moving_pads == 1),
    ),
    StepRow(
        "bleed",
        Topic.LINE,
        "Bleed from the caliper upward until no bubbles come; fluid of the right family only.",
        lambda w: w.opens_line,
        "DOT fluid attacks paint and skin. Mineral and DOT never mix.",
    ),
    StepRow(
        "cutoff",
        Topic.LINE,
        "Connect the motor's cut-off switch again and test it.",
        lambda w: w.assisted and w.cutoff and w.new_lever,
        "A lever without the switch leaves the motor pulling against the brake: the new one must carry it.",
    ),
    StepRow("pump", Topic.FINISH, "Check that the rotor runs centred, then pump the lever until it is firm.", _always),
    StepRow(
        "quick_release",
        Topic.FINISH,
        "Set the quick-release lever opposite the rotor, or prove that it cannot reach it.",
        lambda w: w.wheel.axle is Axle.QUICK_RELEASE,
        "A lever in the rotor stops the wheel at once.",
    ),
    StepRow("lever_set", Topic.FINISH, "Set angle, reach and contact for one finger in the blade's hook.", _always),
)

CAUTIONS: tuple[str, ...] = (
    "A brake job that is wrong kills. A qualified mechanic releases the bike, by the makers' words and local law.",
    "Torques and lengths here are the trade's usual ones: the marking on the part and the maker's document win.",
    "Temperatures and forces are estimates from typical figures.",
)


@dataclass(frozen=True)
class PartLine:
    """One line of the parts list."""

    end: End | None
    what: str
    part_id: str
    name: str
    quantity: int
    price: float | None
    """of one; None for what the catalogue does not have"""

    @property
    def cost(self) -> float | None:
        return None if self.price is None else self.quantity * self.price


@dataclass(frozen=True)
class BeddingPlan:
    """Bedding in one wheel: stops from a speed down to walking pace, and what they reach."""

    end: End
    stops: int
    from_kmh: float
    pause_s: int
    ring_c: float
    wanted_c: float
    first_finger_n: float
    """finger force that the target stop asks before any bedding"""

    @property
    def reaches(self) -> bool:
        return self.ring_c >= self.wanted_c


WALKING_KMH = 5.0
BEDDING_FROM_KMH: dict[Compound, float] = {
    Compound.RESIN: 20.0,
    Compound.CERAMIC: 22.0,
    Compound.SEMI_METALLIC: 25.0,
    Compound.SINTERED: 30.0,
}
"""speed to brake from: mild for resin, hot for sintered (trade practice)"""
BEDDED_RATIO = 3.0
"""three times the bedding energy leaves 2 % of the way to go"""
FEWEST_BEDDING_STOPS, MOST_BEDDING_STOPS = 10, 40
BEDDING_PAUSES_S = (120, 90, 60, 45, 30, 20, 15, 10, 5)
BEDDING_DECEL_MS2 = 2.0
BEDDING_OF_FADE_RATIO = 0.95


def _bedding_peak_c(
    row: NDArray[np.float64], energy_j: float, speed_ms: float, stops: int, pause_s: int, ambient_c: float
) -> float:
    """Hottest ring of a row of stops with rolling pauses between, by the heat model, °C."""
    brake_s = speed_ms / BEDDING_DECEL_MS2
    pieces = [(brake_s / 4, energy_j / brake_s, speed_ms / 2, 1.0)] * 4 + [(pause_s / 4, 0.0, speed_ms * 0.7, 0.0)] * 4
    dt, power, speed, braking = (np.tile([p[k] for p in pieces], stops).astype(float) for k in range(4))
    peaks, *_ = heat_kernel.integrate(
        row[None, :],
        dt,
        power,
        speed,
        braking,
        np.zeros_like(dt),
        np.full_like(dt, 101325.0),
        float(ambient_c),
        np.full((1, 5), float(ambient_c)),
        False,
    )
    return float(peaks[0, Node.RING])


BEDDING_SPEED_CHANGES_KMH = (0.0, 5.0, 10.0, 15.0, -2.5, -5.0, -7.5, -10.0, -12.5, -15.0, -17.5)
"""tried in this order until the ring gets hot enough and not too hot"""


def bedding_plan(w: WheelResult, situation: Situation) -> BeddingPlan:
    """Each wheel on its own, by the heat model: as many stops as bring three bedding energies, at least ten; the
    longest pause that still reaches the bedding temperature, at a speed that keeps the ring below fade. Where
    nothing reaches it, the hottest plan below fade."""
    compound = COMPOUNDS[w.setup.pad.compound]
    row = node_row(
        w.setup.rotor,
        w.setup.thickness_mm,
        w.setup.pad,
        w.setup.material_mm,
        w.setup.caliper,
        w.end,
        situation.bike.wheel_radius_m,
        False,
        situation.parameters,
    )
    ambient, mass = situation.weather.ambient_c, situation.bike.rolling_mass_kg
    first = w.forces.finger_target_n * w.setup.bedding / bedding_ratio(compound, 0.0)
    most_c = BEDDING_OF_FADE_RATIO * compound.fade_c
    best = BeddingPlan(
        w.end, FEWEST_BEDDING_STOPS, 2 * WALKING_KMH, BEDDING_PAUSES_S[0], ambient, compound.bed_temperature_c, first
    )
    for change in BEDDING_SPEED_CHANGES_KMH:
        speed = BEDDING_FROM_KMH[w.setup.pad.compound] + change
        if speed < 2 * WALKING_KMH:
            continue
        energy = 0.5 * mass * ((speed / KMH_PER_MS) ** 2 - (WALKING_KMH / KMH_PER_MS) ** 2)
        wanted = ceil(BEDDED_RATIO * compound.bed_energy_kj * 1000 / energy)
        stops = min(max(FEWEST_BEDDING_STOPS, wanted), MOST_BEDDING_STOPS)
        for pause in BEDDING_PAUSES_S:
            peak = _bedding_peak_c(row, energy, speed / KMH_PER_MS, stops, pause, ambient)
            plan = BeddingPlan(w.end, stops, speed, pause, peak, compound.bed_temperature_c, first)
            if peak > most_c:
                break
            if plan.reaches:
                return plan
            if peak > best.ring_c:
                best = plan
    return best


@dataclass(frozen=True)
class OrderedStep:
    """A step as it stands in this order; ``key`` is what a tick is kept under."""

    key: str
    row: StepRow
    number: int


@dataclass(frozen=True)
class WheelOrder:
    work: WheelWork
    steps: tuple[OrderedStep, ...]
    torques: tuple[Torque, ...]
    bedding: BeddingPlan | None


@dataclass(frozen=True)
class WorkOrder:
    """The whole order. ``blocks`` are the reasons why it must not be carried out yet, ``warnings`` what the setup
    does not do once it is carried out."""

    lines: tuple[PartLine, ...]
    wheels: tuple[WheelOrder, ...]
    cautions: tuple[str, ...]
    blocks: tuple[str, ...]
    warnings: tuple[str, ...]
    trial: tuple[str, ...] = ()
    """what can only be read at the trial fit; the order is not signed off before it is"""

    @property
    def total(self) -> float:
        return sum(line.cost or 0.0 for line in self.lines)

    @property
    def unpriced(self) -> int:
        """Lines without a price: the total is without them."""
        return sum(line.cost is None for line in self.lines)


def fits_of(job: Job, setup: SetupResult | None, catalogue: Catalogue) -> dict[End, Fit]:
    """The fit of each wheel of a setup that is complete enough to be fitted."""
    if setup is None:
        return {}
    parts = {end: w.setup for end, w in setup.wheels.items()}
    return {
        end: fit_wheel(job.wheel(end), end, s.rotor, s.caliper, catalogue, s.pad, s.lever, job.special.of(end))
        for end, s in parts.items()
    }


def _works(job: Job, evaluation: Evaluation, catalogue: Catalogue) -> list[WheelWork]:
    proposed = evaluation.proposed
    if proposed is None:
        return []
    fits = fits_of(job, proposed, catalogue)
    works = []
    for end in End:
        if end not in proposed.wheels:
            continue
        result, wheel = proposed.wheels[end], job.wheel(end)
        new = {
            kind: getattr(result.setup, kind).id != getattr(wheel, f"{kind}_id")
            for kind in ("rotor", "pad", "caliper", "lever")
        }
        works.append(
            WheelWork(
                end,
                wheel,
                result,
                fits[end],
                job.bike.assisted,
                job.bike.cutoff_switches,
                new["rotor"],
                new["pad"],
                new["caliper"],
                new["lever"],
            )
        )
    return works


def _seat_lines(work: WheelWork, catalogue: Catalogue) -> list[PartLine]:
    """What holds a new rotor on a splined hub: the adapter of a six-bolt rotor, and the lockring for the axle where the
    rotor that comes off had none."""
    wheel, rotor = work.wheel, work.result.setup.rotor
    if not work.new_rotor or not work.splined:
        return []
    was = catalogue.rotors.get(wheel.rotor_id or "")
    wanted = []
    if rotor.interface is HubInterface.SIX_BOLT and (was is None or was.interface is not HubInterface.SIX_BOLT):
        wanted.append(("six-bolt adapter of the hub", "six_bolt_on_splined"))
    seat = hub_row(wheel.hub, wheel.axle)
    if was is None and seat is not None:
        wanted.append((seat.fastener, seat.role))
    out = []
    for what, role in wanted:
        hubs = [h for h in catalogue.hubs.values() if h.role == role and not h.retired]
        part = min(hubs, key=lambda h: (h.price, h.id), default=None)
        out.append(_line_of(work.end, what, part, f"{what}: none in the catalogue"))
    return out


def _line_lines(work: WheelWork, catalogue: Catalogue) -> list[PartLine]:
    """The hose where its ends change or both of its ends are new, and the bottle that fills an opened line."""
    if not work.opens_line:
        return []
    s, wheel = work.result.setup, work.wheel
    out = []
    if needs_new_hose(
        catalogue.levers.get(wheel.lever_id or ""), catalogue.calipers.get(wheel.caliper_id or ""), s.lever, s.caliper
    ):
        answer = hose_between(s.lever, s.caliper, catalogue.hoses.values())
        out.append(_line_of(work.end, "hose, cut to length", answer.hose, f"look for {answer.look_for}"))
    out.append(_line_of(work.end, "fluid", s.filled_with, "look for the fluid that the caliper's maker names"))
    return out


def _line_of(end: End, what: str, part: Part | None, look_for: str) -> PartLine:
    """A line of a part, or of what is to be looked for where the catalogue has none."""
    if part is None:
        return PartLine(end, what, "", look_for, 1, None)
    return PartLine(end, what, part.id, part.name, 1, part.price)


def _lines(work: WheelWork, catalogue: Catalogue) -> list[PartLine]:
    s, end = work.result.setup, work.end
    lines = [
        PartLine(end, what, part.id, part.name, 1, part.price)
        for what, part, new in (
            ("rotor", s.rotor, work.new_rotor),
            ("caliper", s.caliper, work.new_caliper),
            ("lever", s.lever, work.new_lever),
            ("pads, one pair", s.pad, work.new_pads),
        )
        if new
    ]
    adapter = work.fit.chain.adapter
    if adapter is not None and adapter.id != work.wheel.adapter_id:
        lines.append(PartLine(end, "adapter", adapter.id, adapter.name, 1, adapter.price))
    if work.fit.plate is not None and work.moves_caliper:
        lines.append(PartLine(end, "special plate", "", work.fit.chain.reason, 1, None))
    lines += _seat_lines(work, catalogue) + _line_lines(work, catalogue)
    if work.moves_caliper:
        counts: dict[str, int] = {}
        for choice in work.fit.bolts:
            if choice.bolt is not None:
                counts[choice.bolt.id] = counts.get(choice.bolt.id, 0) + 1
        bolts = {c.bolt.id: c.bolt for c in work.fit.bolts if c.bolt is not None}
        lines += [PartLine(end, "bolt", i, bolts[i].name, n, bolts[i].price) for i, n in counts.items()]
    return lines


def _torques(work: WheelWork) -> tuple[Torque, ...]:
    found = []
    if work.new_rotor:
        seat = hub_row(work.wheel.hub, work.wheel.axle)
        lockring = TORQUES["lockring"]
        if seat is not None:
            lockring = replace(lockring, tool=seat.tool, note=f"{seat.fastener}; {lockring.note}")
        found.append(lockring if work.splined else TORQUES["rotor_bolts"])
    if work.moves_caliper:
        flat = work.result.setup.caliper.mount is CaliperMount.FLAT
        found.append(TORQUES["m5"] if flat else TORQUES["m6"])
        if flat and work.wheel.bolt_direction is BoltDirection.ALONG_POST:
            found.append(TORQUES["m6"])
    if work.wheel.axle is not Axle.QUICK_RELEASE:
        found.append(TORQUES["axle"])
    return tuple(found)


def _blocks(work: WheelWork) -> list[str]:
    where = work.end.value
    blocks = []
    if work.fit.plate is None and work.fit.telling.kind is None:
        blocks.append(f"{where}: mount not told: {work.fit.chain.reason}")
    elif not work.fit.chain.possible:
        look = f"; look for: {work.fit.chain.look_for}" if work.fit.chain.look_for else ""
        blocks.append(f"{where}: {work.fit.chain.reason}{look}")
    if work.moves_caliper:
        blocks += [f"{where}, bolt {b.stack.place}: {b.lacks}" for b in work.fit.bolts if b.lacks]
    grave = (Verdict.FAILS, Verdict.UNKNOWN)
    blocks += [f"{where}: {c.label}: {c.words}" for c in work.fit.clearances if c.verdict in grave and not c.at_trial]
    blocks += [f"{where}: {work.result.setup.worn_out}"] if work.result.setup.worn_out else []
    return blocks


def work_order(job: Job, evaluation: Evaluation, catalogue: Catalogue) -> WorkOrder:
    """The order for the proposed setup: only wheels on which something is done have steps."""
    works = [w for w in _works(job, evaluation, catalogue) if w.anything]
    situation = evaluation.situation
    wheels = []
    for work in works:
        rows = [row for row in STEPS if row.when(work)]
        rows.sort(key=lambda row: list(Topic).index(row.topic))
        bedding = None
        if situation is not None and (work.new_pads or work.new_rotor):
            bedding = bedding_plan(work.result, situation)
        steps = tuple(OrderedStep(f"{work.end.value}:{row.key}", row, n) for n, row in enumerate(rows, 1))
        wheels.append(WheelOrder(work, steps, _torques(work), bedding))
    lines = tuple(line for work in works for line in _lines(work, catalogue))
    blocks = tuple(block for work in works for block in _blocks(work))
    warnings = tuple(
        f"{end.value}: {margin_words(m, w)}"
        for end, w in (evaluation.proposed.wheels.items() if evaluation.proposed else ())
        for m in w.margins
        if m.verdict is Verdict.FAILS
    )
    trial = tuple(f"{w.end.value}: {c.label}: {c.words}" for w in works for c in w.fit.clearances if c.at_trial)
    cautions = CAUTIONS + (SPECIAL_CAUTIONS if any(w.fit.plate is not None for w in works) else ())
    return WorkOrder(lines, tuple(wheels), cautions, blocks, warnings, trial)
