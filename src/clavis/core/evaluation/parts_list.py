"""What one wheel's brake asks to be bought: parts, adapter, bolts, hose and fluid, each with its price.

The price of a candidate, of a pair, of a setup and of an order all come from this list.
"""

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from functools import partial

from clavis.core.evaluation.setups import WheelSetup
from clavis.core.fit.bolts import WASHER_LAYERS
from clavis.core.fit.mounting import JOINED, FitCase
from clavis.core.job.renewal import Renewal
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.fluids import Fluid
from clavis.core.parts.hoses_and_fluids import hose_between
from clavis.core.parts.hubs import hub_row
from clavis.core.parts.models import AXES, Axis, Bolt, HubInterface, Part, SmallPart, SmallRole
from clavis.core.parts.mounts import End
from clavis.core.sentences import Words, say


@dataclass(frozen=True)
class PartLine:
    """One line of the parts list. Without ``part_id`` it is what to look for; ``price`` of one, None where the
    catalogue does not have it."""

    end: End
    what: str
    part_id: str
    name: Words
    quantity: int
    price: float | None

    @property
    def cost(self) -> float | None:
        return None if self.price is None else self.quantity * self.price


@dataclass(frozen=True)
class Changes:
    """What is changed on one wheel. All of it follows from the brake, beside what is on the wheel."""

    parts: frozenset[Axis]
    """parts that are new"""
    adapter: bool
    """what stands between mount and caliper is another than now, where that is known, or the same one new"""
    bolts: bool
    """the bolts of caliper and adapter are laid anew: another stack, or asked for"""
    hose: bool
    """the hose or housing is new"""
    opens_line: bool
    """a hydraulic line is opened, filled and bled"""
    beds_in: bool
    """pads and rotor are bedded in"""
    cable: bool
    wheel: bool = False
    """another wheel, whose hub takes a rotor"""

    @property
    def anything(self) -> bool:
        beside = self.adapter or self.bolts or self.hose or self.opens_line or self.beds_in or self.wheel
        return bool(self.parts) or beside


def changes_of(setup: WheelSetup, case: FitCase) -> Changes:
    """What a brake changes on its wheel. Where nobody says what stands under a caliper that stays with its rotor, it is
    taken for what belongs there."""
    new, wheel, chain, renew = setup.new, setup.wheel, case.chain, setup.renew
    adapter = False
    if chain is not None and chain.possible and not case.stays and case.plate is None:
        there = {wheel.adapter.id} if wheel.adapter else set()
        wanted = {part.id for part in chain.parts}
        adapter = there != wanted if wheel.adapter_known else bool(wanted) and not case.unchanged
        adapter = (adapter and bool(new or renew or case.wanted)) or (Renewal.ADAPTER in renew and bool(wanted))
    cable = setup.caliper.fluid is Fluid.NONE
    was, rotor = wheel.on_it.rotor, setup.rotor
    resized = Axis.ROTOR in new and (was is None or was.diameter_mm != rotor.diameter_mm)
    return Changes(
        parts=new,
        adapter=adapter,
        bolts=adapter or resized or Axis.CALIPER in new or Renewal.BOLTS in renew,
        hose=not case.stays and case.new_hose and bool(new or renew),
        opens_line=not cable and not setup.keeps_line,
        beds_in=Renewal.BED_IN in renew or bool(new & {Axis.PAD, Axis.ROTOR}),
        cable=cable,
        wheel=case.new_wheel is not None,
    )


def _line_of(end: End, what: str, part: Part | None, look_for: Words) -> PartLine:
    """A line of a part, or of what is to be looked for where the catalogue has none."""
    if part is None:
        return PartLine(end, what, "", look_for, 1, None)
    return PartLine(end, what, part.id, part.name, 1, part.price)


ROTOR_BOLT = "M5 × 10"
_ROTOR_BOLT_MM = 10.0


def is_rotor_bolt(bolt: Bolt) -> bool:
    """A coated M5 × 10 with a low head: what holds a rotor on a six-bolt hub (the trade's standard)."""
    right = bolt.thread == "M5" and abs(bolt.length_mm - _ROTOR_BOLT_MM) < 0.1 and bolt.head == "low"
    return right and bolt.coated and bolt.offered


def _rotor_bolt(catalogue: Catalogue) -> Bolt | None:
    bolts = [b for b in catalogue.bolts.values() if is_rotor_bolt(b)]
    return min(bolts, key=lambda b: (b.price, b.id), default=None)


def _on_the_hub(setup: WheelSetup, case: FitCase) -> list[PartLine]:
    """What holds a new rotor on its hub: six bolts; on a splined hub the adapter of a six-bolt rotor with its lockring,
    and the lockring for the axle where no rotor comes off."""
    wheel, was = setup.wheel.measured, setup.wheel.on_it.rotor
    six_bolt = setup.rotor.interface is HubInterface.SIX_BOLT
    out = []
    if six_bolt and wheel.hub is not None:
        bolt = case.on.once(("rotor bolt",), lambda: _rotor_bolt(case.on.catalogue))
        line = _line_of(setup.end, "rotor bolts", bolt, say("six, {name}, coated", name=ROTOR_BOLT))
        out.append(replace(line, quantity=6))
    if wheel.hub is not HubInterface.SPLINED:
        return out
    wanted = []
    adapter = six_bolt and (was is None or was.interface is not HubInterface.SIX_BOLT)
    if adapter:
        wanted.append(("six-bolt adapter of the hub", "six_bolt_on_splined"))
    seat = hub_row(wheel.hub, wheel.axle)
    if was is None or adapter:
        wanted.append((seat.fastener, seat.role) if seat else ("lockring for the axle, which is not known", ""))
    for what, role in wanted:
        hubs = [h for h in case.on.catalogue.hubs.values() if h.role == role and h.offered]
        part = min(hubs, key=lambda h: (h.price, h.id), default=None)
        out.append(_line_of(setup.end, what, part, f"{what}: none in the catalogue"))
    return out


def _of_the_line(setup: WheelSetup, case: FitCase, changes: Changes) -> list[PartLine]:
    """The hose where its ends change, both of its ends are new or it is too short, and the bottle that fills an opened
    line; olive and insert for an end that is joined anew; housing and cable of a cable brake with all that ends
    them."""
    end, out = setup.end, []
    if changes.hose and changes.cable:
        out += [_small_line(end, case, role, n) for role, n in CABLE_NEEDS.items()]
    elif changes.hose:
        answer = hose_between(setup.lever, setup.caliper, case.on.catalogue.hoses.values())
        out.append(_line_of(end, "hose, cut to length", answer.hose, say("look for {it}", it=answer.look_for)))
    elif not changes.cable and changes.parts & JOINED:  # the hose that stays is joined anew
        out.append(_small_line(end, case, SmallRole.OLIVE_SET, len(changes.parts & JOINED)))
    if changes.opens_line:
        words = "look for the fluid that the caliper's maker names"
        out.append(_line_of(end, "fluid", setup.filled_with, words))
    return out


def _adapters(setup: WheelSetup, case: FitCase) -> list[PartLine]:
    there = setup.wheel.adapter.id if setup.wheel.adapter and Renewal.ADAPTER not in setup.renew else ""
    parts = case.chain.parts if case.chain is not None else ()
    return [_line_of(setup.end, "adapter", part, "") for part in parts if part.id != there]


WASHER_NAMES = {"washer": "plain washer", "cup and cone": "cup-and-cone pair"}
WASHER_ROLES = {"washer": SmallRole.WASHER, "cup and cone": SmallRole.CUP_CONE}
SAME_HEIGHT_MM = 0.05
SMALL_WORDS: Mapping[SmallRole, str] = {
    SmallRole.OLIVE_SET: "olive and insert",
    SmallRole.INNER_CABLE: "inner cable",
    SmallRole.HOUSING: "housing, compressionless, cut to length",
    SmallRole.FERRULE: "ferrules",
    SmallRole.END_CAP: "end cap",
}
CABLE_NEEDS: Mapping[SmallRole, int] = {
    SmallRole.INNER_CABLE: 1,
    SmallRole.HOUSING: 1,
    SmallRole.FERRULE: 2,
    SmallRole.END_CAP: 1,
}
"""what a cable brake's line takes, a piece of housing with a ferrule at each end"""


def _bolts(end: End, case: FitCase) -> list[PartLine]:
    """Bolts by the sum of their stacks, what no bolt was found for, and the washers that stand in the stacks."""
    chosen = [b.choice.bolt for b in case.bolts if b.choice.bolt is not None]
    lines = [PartLine(end, "bolt", bolt.id, bolt.name, n, bolt.price) for bolt, n in Counter(chosen).items()]
    lacking = Counter((b.stack.thread, b.choice.lacks) for b in case.bolts if b.choice.bolt is None)
    lines += [
        PartLine(end, "bolt", "", say("{thread}: {why}", thread=thread, why=why), n, None)
        for (thread, why), n in lacking.items()
    ]
    washers = Counter(
        (layer.name, b.stack.thread, layer.height_mm)
        for b in case.bolts
        for layer in b.stack.layers
        if layer.name in WASHER_LAYERS
    )
    for (name, thread, height), n in washers.items():
        words = say("{name} for {thread}, {height_mm:g} high", name=WASHER_NAMES[name], thread=thread, height_mm=height)
        part = case.on.once(("washer", name, thread, height), partial(_washer, case, name, thread, height))
        lines.append(replace(_line_of(end, "washers", part, words), quantity=n))
    return lines


def _washer(case: FitCase, name: str, thread: str, height_mm: float | None) -> SmallPart | None:
    """The cheapest washer of a layer's thread and height; None where the catalogue has none so high."""
    found = [
        s for s in case.on.catalogue.smalls.values()
        if s.role is WASHER_ROLES[name] and s.thread == thread and s.height_mm is not None and height_mm is not None
        and abs(s.height_mm - height_mm) < SAME_HEIGHT_MM and s.offered
    ]  # fmt: skip
    return min(found, key=lambda s: (s.price, s.id), default=None)


def _small_line(end: End, case: FitCase, role: SmallRole, pieces: int) -> PartLine:
    """A line of small parts by what they are for."""

    def cheapest() -> SmallPart | None:
        found = [s for s in case.on.catalogue.smalls.values() if s.role is role and s.offered]
        return min(found, key=lambda s: (s.price, s.id), default=None)

    part = case.on.once(("small", role), cheapest)
    return replace(_line_of(end, SMALL_WORDS[role], part, SMALL_WORDS[role]), quantity=pieces)


WHEEL = "wheel"
PART_WORDS = {Axis.ROTOR: "rotor", Axis.CALIPER: "caliper", Axis.LEVER: "lever", Axis.PAD: "pads, one pair"}


def _beside_the_parts(setup: WheelSetup, case: FitCase, changes: Changes) -> tuple[PartLine, ...]:
    """All that follows from the parts: adapter or plate, what is on the hub, the line, bolts."""
    lines = _adapters(setup, case) if changes.adapter else []
    if case.plate is not None and changes.bolts and case.chain is not None:
        lines.append(PartLine(setup.end, "special plate", "", case.chain.reason, 1, None))
    if Axis.ROTOR in changes.parts:
        lines += _on_the_hub(setup, case)
    lines += _of_the_line(setup, case, changes)
    return (*lines, *(_bolts(setup.end, case) if changes.bolts else ()))


def _beside_key(setup: WheelSetup, case: FitCase, changes: Changes) -> tuple[object, ...]:
    """What all beside the parts rests on: pads change nothing there, so that candidates that differ in them share
    it."""
    return (
        "beside",
        setup.rotor.id,
        setup.caliper.id,
        setup.lever.id,
        changes.parts - {Axis.PAD},
        setup.renew,
        case.wanted,
    )


def parts_list(setup: WheelSetup, case: FitCase, changes: Changes | None = None) -> tuple[PartLine, ...]:
    """Everything that has to be bought for one wheel's brake."""
    changes = changes or changes_of(setup, case)
    if not changes.anything:
        return ()
    parts = ((axis, case.brake.of(axis)) for axis in AXES if axis in changes.parts)
    bought = [_line_of(setup.end, PART_WORDS[axis], part, "") for axis, part in parts]
    if case.new_wheel is not None:
        bought.insert(0, _line_of(setup.end, WHEEL, case.new_wheel, ""))
    key = _beside_key(setup, case, changes)
    return (*bought, *case.on.once(key, lambda: _beside_the_parts(setup, case, changes)))


def price_of(lines: Iterable[PartLine]) -> float:
    """Price of what the catalogue has of them."""
    return sum(line.cost or 0.0 for line in lines)


def over_budget(price: float, budget: float | None) -> float:
    """By how much a price passes the budget for both wheels; 0 within it or without one."""
    return 0.0 if budget is None else max(price - budget, 0.0)


def price_of_brake(setup: WheelSetup, case: FitCase, changes: Changes) -> float:
    """Price of its parts list, without writing that out: thousands of candidates are ranked by it."""
    if not changes.anything:
        return 0.0
    parts = sum(part.price for axis in changes.parts if (part := case.brake.of(axis)) is not None)
    if case.new_wheel is not None:
        parts += case.new_wheel.price
    key = ("price", *_beside_key(setup, case, changes))
    return parts + case.on.once(key, lambda: price_of(_beside_the_parts(setup, case, changes)))
