"""Fit: the mount chain of one wheel, its bolts and clearances, from the coordinates that the drawing shares
(model, section 10; ``seat`` has the coordinates, ``drawing`` the shapes)."""

from dataclasses import dataclass, replace
from enum import StrEnum

from clavis.core.fit.adapters import ChainAnswer, native_of, solve_chain
from clavis.core.fit.bolts import (
    PLAIN_WASHER_MM,
    BoltChoice,
    BoltStack,
    Layer,
    LengthVerdict,
    choose_bolt,
    judge_length,
    under_head,
)
from clavis.core.fit.clearances import Clearance, Held, clearances_of
from clavis.core.fit.mount_geometry import Stand, seat_of, stand_on
from clavis.core.fit.plate_release import released_plate
from clavis.core.fit.special_plate import CALIPER_HOLES, Plate
from clavis.core.job.special_mount import SpecialMount
from clavis.core.job.wheel import Wheel
from clavis.core.parts.hoses_and_fluids import needs_new_hose
from clavis.core.parts.models import Adapter, Caliper, Catalogue, Lever, Pad, Rotor, Thread
from clavis.core.parts.mounts import (
    MOUNTS,
    BoltStyle,
    CaliperMount,
    End,
    MountKind,
    MountTelling,
    ThreadMaterial,
    tell_mount,
)
from clavis.core.verdicts import Verdict, worst

PROUD_COUNTS_MM = 0.05
"""what a face stands off the standard's place counts against the bolt from here on"""


class Run(StrEnum):
    """What a bolt of the chain joins."""

    CALIPER_TO_MOUNT = "caliper_to_mount"
    PART_TO_MOUNT = "part_to_mount"
    CROSSWISE = "crosswise"
    FROM_BELOW = "from_below"
    PLATE_TO_CARRIER = "plate_to_carrier"
    CALIPER_TO_PART = "caliper_to_part"
    PLATE_TO_CALIPER = "plate_to_caliper"


@dataclass(frozen=True)
class ChainBolt:
    """One bolt of the chain: where it stands and what it goes through."""

    upper: bool
    run: Run
    stack: BoltStack


@dataclass(frozen=True)
class FittedBolt:
    """One bolt of the chain with the one chosen for it, and what the sum says of the one that is there now."""

    upper: bool
    run: Run
    choice: BoltChoice
    old: LengthVerdict | None
    at: complex | None = None
    """its place about the axle, where it is not that of a mount's hole"""

    @property
    def stack(self) -> BoltStack:
        return self.choice.stack


@dataclass(frozen=True)
class Fit:
    """The fit of one wheel: which mount, which adapter, which bolts, what clears."""

    end: End
    telling: MountTelling
    chain: ChainAnswer
    fitted_bolts: tuple[FittedBolt, ...]
    clearances: tuple[Clearance, ...]
    held: Held
    plate: Plate | None = None
    """the special plate that an engineer has released for it"""

    @property
    def bolts(self) -> tuple[BoltChoice, ...]:
        return tuple(b.choice for b in self.fitted_bolts)

    @property
    def pad_edge_mm(self) -> float | None:
        return None if self.held.stand is None else self.held.stand.edge_error_mm(self.held.rotor.diameter_mm)

    @property
    def verdict(self) -> Verdict:
        if self.plate is None and (self.telling.kind is None or self.chain.unknown):
            return Verdict.UNKNOWN
        if not self.chain.possible:
            return Verdict.FAILS
        parts = [c.verdict for c in self.clearances]
        parts += [
            Verdict.UNKNOWN if b.stack.unmeasured else Verdict.FAILS if b.bolt is None else Verdict.HOLDS
            for b in self.bolts
        ]
        return worst(parts or [Verdict.UNKNOWN])

    @property
    def because(self) -> str:
        """What the verdict rests on: the chain, a bolt, or a clearance; empty where it holds."""
        if self.verdict is Verdict.HOLDS:
            return ""
        if self.plate is None and not self.chain.possible:
            return self.chain.reason
        bolt = next((b for b in self.bolts if b.lacks), None)
        grave = [c for c in self.clearances if c.verdict is self.verdict]
        if bolt is not None and not (grave and self.verdict is Verdict.FAILS and bolt.stack.unmeasured):
            return f"bolt {bolt.stack.place}: {bolt.lacks}"
        return grave[0].label if grave else ""


class _Stacks:
    """Builds the bolts of one chain, two by two, upper first."""

    def __init__(self, mount: MountKind, wheel: Wheel, proud_mm: float) -> None:
        self.bolts: list[ChainBolt] = []
        self.mount, self.wheel, self.proud_mm = mount, wheel, proud_mm
        self.thread: Thread = "M5" if next(m for m in MOUNTS if m.kind is mount).thread == "M5" else "M6"
        self.into = "fork" if mount is MountKind.FLAT_FRONT else "mount"

    def tab_mm(self, upper: bool) -> float | None:
        low = self.wheel.lower_tab_mm
        return self.wheel.tab_mm if upper or low is None else low

    def add(self, upper: bool, run: Run, place: str, layers: tuple[Layer, ...], **more: object) -> None:
        side = "upper" if upper else "lower"
        stack = BoltStack(place=f"{side}, {place}" if place else side, layers=layers, **more)  # type: ignore[arg-type]
        self.bolts.append(ChainBolt(upper, run, stack))

    def crosswise(self, upper: bool, place: str, depth_mm: float | None, into: str) -> None:
        """Through an unthreaded tab, from the side."""
        layers = (WASHER, Layer("IS tab", self.tab_mm(upper)))
        self.add(upper, Run.CROSSWISE, place, layers, thread="M6", material=ALLOY, depth_mm=depth_mm, into=into)

    def from_below(self, upper: bool, more: tuple[Layer, ...], depth_mm: float | None, into: str) -> None:
        """Through the unthreaded stay and what lies on it, from below."""
        layers, place = (WASHER, Layer("chainstay", self.tab_mm(upper)), *more), "from below"
        self.add(upper, Run.FROM_BELOW, place, layers, thread="M5", material=ALLOY, depth_mm=depth_mm, into=into)

    def to_mount(self, run: Run, place: str, upper: bool, layers: tuple[Layer, ...], part: Adapter | None) -> None:
        """Into the mount's own thread, counted from where the standard has its face."""
        proud = self.proud_mm
        if proud > PROUD_COUNTS_MM:
            layers = (*layers, Layer("face outside its place", round(proud, 2)))
        low = self.wheel.lower_depth_mm
        self.add(
            upper, run, place, layers, thread=self.thread, material=self.wheel.thread_material,
            depth_mm=self.wheel.hole_depth_mm if upper or low is None else low, into=self.into,
            head_room_mm=part.head_room_mm if part else None, head_across_mm=part.counterbore_mm if part else None,
            lost_mm=round(-proud, 2) if proud < -PROUD_COUNTS_MM else 0.0,
        )  # fmt: skip


SIDES = (True, False)
"""upper first"""
ALLOY, WASHER = ThreadMaterial.LIGHT_ALLOY, Layer("washer", PLAIN_WASHER_MM)


def _height(part: Adapter, upper: bool) -> float:
    return part.upper_mm if upper else part.lower_mm


def bolt_stacks(
    mount: MountKind, wheel: Wheel, caliper: Caliper, parts: tuple[Adapter, ...], proud_mm: float = 0.0
) -> tuple[ChainBolt, ...]:
    """What each bolt of the chain goes through. Upper and lower may differ; two to the mount, two more to the caliper
    where the part between has threads of its own, and two between a carrier and its plate."""
    s = _Stacks(mount, wheel, proud_mm)
    own, last = under_head(caliper), parts[-1] if parts else None
    if mount is MountKind.FLAT_REAR and caliper.mount is CaliperMount.FLAT:
        for upper in SIDES:
            spacer = (Layer("spacer", _height(last, upper)),) if last else ()
            s.from_below(upper, spacer, None, "caliper")
        return tuple(s.bolts)
    if mount is MountKind.IS and last is None:
        for upper in SIDES:
            s.crosswise(upper, "tab to caliper", None, "caliper")
        return tuple(s.bolts)
    if last is None:
        for upper in SIDES:
            s.to_mount(Run.CALIPER_TO_MOUNT, "", upper, own, None)
        return tuple(s.bolts)
    if last.style is BoltStyle.THROUGH:
        for upper in SIDES:
            s.to_mount(Run.CALIPER_TO_MOUNT, "", upper, (*own, Layer("adapter", _height(last, upper))), None)
        return tuple(s.bolts)
    _with_threads_of_its_own(s, parts[0], last, caliper)
    return tuple(s.bolts)


def _with_threads_of_its_own(s: _Stacks, first: Adapter, last: Adapter, caliper: Caliper) -> None:
    """Bolts of a part that is bolted to the mount and takes the caliper's bolts itself."""
    for upper in SIDES:
        if first.style is BoltStyle.SIDE:
            s.crosswise(upper, "tab to adapter", first.thread_depth_mm, "adapter")
        elif s.mount is MountKind.FLAT_REAR:
            s.from_below(upper, (), first.thread_depth_mm, "adapter")
        else:
            name = "carrier" if first.carrier else "adapter flange"
            s.to_mount(Run.PART_TO_MOUNT, f"to {s.into}", upper, (Layer(name, first.flange_mm),), first)
    if last is not first:
        for upper in SIDES:
            s.add(upper, Run.PLATE_TO_CARRIER, "plate to carrier", (Layer("plate", last.flange_mm),), thread="M5",
                  material=ALLOY, depth_mm=first.thread_depth_mm, into="carrier", head_room_mm=last.head_room_mm,
                  head_across_mm=last.counterbore_mm)  # fmt: skip
    for upper in SIDES:
        if caliper.mount is CaliperMount.FLAT:
            s.add(upper, Run.PLATE_TO_CALIPER, "plate to caliper", (Layer("plate", _height(last, upper)),), thread="M5",
                  material=ALLOY, depth_mm=None, into="caliper")  # fmt: skip
        else:
            s.add(upper, Run.CALIPER_TO_PART, "to adapter", under_head(caliper), thread="M6", material=ALLOY,
                  depth_mm=last.thread_depth_mm, into="adapter")  # fmt: skip


TO_MOUNT = frozenset({Run.CALIPER_TO_MOUNT, Run.PART_TO_MOUNT, Run.CROSSWISE, Run.FROM_BELOW})
"""the bolts that take the place of those that are at the mount now"""


def _old_bolt(bolt: ChainBolt, wheel: Wheel) -> LengthVerdict | None:
    """The bolt that is there now, by the sum of the new stack; None where its length was not read."""
    length = wheel.upper_bolt_mm if bolt.upper else wheel.lower_bolt_mm
    if length is None or bolt.run not in TO_MOUNT:
        return None
    found = judge_length(bolt.stack, length)
    words = found.words.replace("would also do", "fits this stack: renew its thread-lock, or take a new one")
    return replace(found, words=words)


def _as_it_is(chain: ChainAnswer, held: Held) -> ChainAnswer:
    """Where rotor and caliper stay and the part between them that is on the bike is another than belongs there, the
    fit is judged and drawn with the one that is on it, and refused; otherwise the chain itself."""
    on_it = held.old_adapter
    if not held.unchanged or (on_it is None and not held.wheel.no_adapter) or chain.unknown:
        return chain
    if (chain.adapter.id if chain.adapter else None) == (on_it.id if on_it else None):
        return chain
    wanted = (chain.adapter.name if chain.adapter else "no adapter") if chain.possible else ""
    words = f"{on_it.name if on_it else 'no adapter'} is on it" + (f"; {wanted} belongs there" if wanted else "")
    reason = words if wanted else f"{words}; {chain.reason}"
    return ChainAnswer(False, reason, adapter=on_it, look_for=chain.look_for)


def _stand_now(held: Held) -> Stand | None:
    """Where the caliper that is on it stands; None where parts of that chain are not known."""
    w, rotor, caliper = held.wheel, held.old_rotor, held.old_caliper
    adapter = held.old_adapter
    if rotor is None or caliper is None or (adapter is None and not w.no_adapter):
        return None
    assert held.seat is not None and held.mount is not None and held.native_mm is not None
    now = ChainAnswer(True, "as it is", adapter=adapter)
    return stand_on(held.seat, held.mount, held.end, held.native_mm, caliper.mount, now, rotor.diameter_mm)


def plate_bolts(plate: Plate) -> tuple[FittedBolt, ...]:
    """The bolts of a special plate, each at its hole; they run crosswise."""
    return tuple(
        FittedBolt("lower" not in hole.name, Run.CROSSWISE, choice, None, hole.at)
        for hole, choice in zip(plate.holes, plate.bolts, strict=True)
    )


def _on_a_plate(plate: Plate, special: SpecialMount, telling: MountTelling, held: Held) -> Fit:
    """The fit on a released special plate: its own bolts, and the caliper where the plate has it."""
    assert special.released is not None
    r, radial = special.released, plate.pad_radial
    upper, lower = (next(h.at for h in plate.holes if h.name == name) for name in CALIPER_HOLES)
    stand = Stand(upper, lower, radial, (upper - lower) / abs(upper - lower), plate.pad_edge, radial)
    words = f"special plate, drawing {r.drawing}, released by {r.engineer}, {r.at[:10]}"
    held = replace(held, chain=ChainAnswer(True, words), stand=stand, special=True)
    return Fit(held.end, telling, held.chain, plate_bolts(plate), clearances_of(held), held, plate)


def fit_wheel(
    wheel: Wheel,
    end: End,
    rotor: Rotor,
    caliper: Caliper,
    catalogue: Catalogue,
    pad: Pad | None = None,
    lever: Lever | None = None,
    special: SpecialMount | None = None,
) -> Fit:
    """Chain, bolts and clearances of one wheel, all from the same numbers. Without pad or lever what depends on them
    is left out, or taken as it is on the wheel. A released special plate for this rotor stands in for the chain."""
    telling = tell_mount(wheel.mount_spacing_mm, wheel.bolt_direction, end)
    native = native_of(wheel, end, catalogue).size_mm if telling.kind else None
    stated = catalogue.carrying(end, wheel.carrying_id)
    limits = (wheel.largest_rotor_mm, stated.max_rotor_mm if stated else None)
    old_caliper = catalogue.calipers.get(wheel.caliper_id or "")
    held = Held(
        end=end,
        wheel=wheel,
        mount=telling.kind,
        native_mm=native,
        largest_mm=min((mm for mm in limits if mm is not None), default=None),
        rotor=rotor,
        caliper=caliper,
        pad=pad,
        chain=ChainAnswer(False, telling.conflict or telling.lacks, unknown=True),
        old_rotor=catalogue.rotors.get(wheel.rotor_id or ""),
        old_caliper=old_caliper,
        old_adapter=catalogue.adapters.get(wheel.adapter_id or ""),
        new_hose=needs_new_hose(catalogue.levers.get(wheel.lever_id or ""), old_caliper, lever, caliper),
    )
    stock = list(catalogue.bolts.values())
    plate = released_plate(special, end, stock) if special is not None else None
    if plate is not None and special is not None and special.stands_in(caliper, rotor):
        return _on_a_plate(plate, special, telling, held)
    if telling.kind is None:
        return Fit(end, telling, held.chain, (), clearances_of(held), held)
    mount = telling.kind
    shelf = catalogue.adapters.values()
    chain = solve_chain(mount, native, end, caliper.mount, rotor.diameter_mm, shelf, wheel.adapter_id)
    chain = _as_it_is(chain, held)
    held = replace(held, chain=chain)
    if native is None:
        return Fit(end, telling, chain, (), clearances_of(held), held)
    seat = seat_of(mount, end, native, wheel)
    # what cannot be fitted is shown with the caliper at the mount's own place, so that the eye sees by how much
    stand = stand_on(seat, mount, end, native, caliper.mount, chain, rotor.diameter_mm)
    held = replace(held, seat=seat, stand=stand)
    held = replace(held, before=_stand_now(held))
    bolts: tuple[FittedBolt, ...] = ()
    if chain.possible:
        stacks = bolt_stacks(mount, wheel, caliper, chain.parts, seat.proud_mm)
        bolts = tuple(FittedBolt(b.upper, b.run, choose_bolt(b.stack, stock), _old_bolt(b, wheel)) for b in stacks)
    return Fit(end, telling, chain, bolts, clearances_of(held), held)
