"""One wheel and the shelf: on what any rotor and caliper would stand there, with which bolts, each worked out once.

``Mounting`` is asked by every check, for a brake that is on the bike and for thousands that could be.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property
from typing import TypeVar

from clavis.core.fit.adapters import ChainAnswer, Preference, adapter_refusal, solve_chain
from clavis.core.fit.bolts import BoltChoice, BoltStack, LengthVerdict, Rack, choose_bolt, judge_length
from clavis.core.fit.mount_geometry import NOMINAL, Seat, Stand, seat_of, stand_on
from clavis.core.fit.pitch import Pitch, judge_pitch
from clavis.core.fit.plate_release import released_plate
from clavis.core.fit.special_plate import CALIPER_HOLES, Plate
from clavis.core.fit.stacks import TO_MOUNT, ChainBolt, Run, bolt_stacks
from clavis.core.job.renewal import NONE, Renewal, Renewals, leaves_as_it_is, new_parts
from clavis.core.job.resolved_wheel import ResolvedWheel
from clavis.core.job.wheel import Presence
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.fluids import Fluid
from clavis.core.parts.hoses_and_fluids import fluid_for, needs_new_hose
from clavis.core.parts.models import Adapter, Axis, Brake, Caliper, FluidPart, Lever, Pad, Rotor, WheelPart
from clavis.core.parts.mounts import MountKind
from clavis.core.sentences import Words, say
from clavis.core.verdicts import Verdict

T = TypeVar("T")
JOINED = frozenset({Axis.CALIPER, Axis.LEVER})
"""the ends of the line: with a new one of them a hydraulic line is opened, and a cable is cut anew"""
MOST_KEPT = 8192
"""answers that one wheel keeps: chains, stands, bolts and lines of parts, a few hundred bytes each"""


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
class Placement:
    """What stands under a caliper for one size of rotor, where the caliper comes to stand, and how far from where it
    stands now; None while it cannot be told."""

    chain: ChainAnswer
    stand: Stand | None
    moves_mm: float | None


class Mounting:
    """One wheel with the parts of a catalogue; answers are kept for as long as it is."""

    def __init__(self, wheel: ResolvedWheel, catalogue: Catalogue, new_wheel: WheelPart | None = None) -> None:
        self.wheel, self.catalogue, self.new_wheel = wheel, catalogue, new_wheel
        self._memo: dict[tuple[object, ...], object] = {}

    def with_wheel(self, part: WheelPart) -> "Mounting":
        """The same place with another wheel in it, whose hub takes a rotor."""
        seat = {"hub": part.interface, "hub_there": Presence.THERE}
        measured = self.wheel.measured.model_copy(update=seat)
        return Mounting(replace(self.wheel, measured=measured), self.catalogue, part)

    def once(self, key: tuple[object, ...], make: Callable[[], T]) -> T:
        """What does not change while wheel and shelf stay as they are, made once. ``key`` names what it rests on."""
        if key in self._memo:
            found: T = self._memo[key]  # type: ignore[assignment]
            return found
        if len(self._memo) >= MOST_KEPT:
            self._memo.clear()
        made = self._memo[key] = make()
        return made

    def bottle_for(self, caliper: Caliper) -> FluidPart | None:
        """What a line that is opened is filled from."""
        grade, fluids = self.wheel.measured.fluid_grade, self.catalogue.fluids
        return self.once(("bottle", caliper.id), lambda: fluid_for(caliper, grade, fluids.values()))

    @cached_property
    def rack(self) -> Rack:
        """The bolts of the shelf."""
        return Rack.of(self.catalogue.bolts.values())

    @cached_property
    def seat(self) -> Seat | None:
        """The mount's holes about the axle; None while mount or native size is not known."""
        kind, native = self.wheel.mount.kind, self.wheel.native.mm
        if kind is None or native is None or (kind, self.wheel.end) not in NOMINAL:
            return None
        return seat_of(kind, self.wheel.end, native, self.wheel.measured)

    @cached_property
    def plate(self) -> Plate | None:
        """The special plate of this wheel that an engineer has released."""
        return released_plate(self.wheel.special, self.wheel.end, list(self.catalogue.bolts.values()))

    def pitch_of(self, caliper: Caliper, adapter: Adapter) -> Pitch | None:
        """The fork's pitch against a plate, with the heads of the bolts that go there; None on any other mount."""
        if self.wheel.mount.kind is not MountKind.FLAT_FRONT:
            return None
        heads = [b.choice.bolt.head_mm for b in self.bolts(caliper, (adapter,)) if b.run in TO_MOUNT and b.choice.bolt]
        measured = self.wheel.measured
        return judge_pitch(measured.mount_spacing_mm, measured.spacing_tool, adapter, next(iter(heads), None))

    def _judged_bad(self, caliper: Caliper, adapter: Adapter) -> bool:
        """On this very bike the part is no good: its holes miss the fork's, or no stock bolt goes through it."""
        pitch = self.pitch_of(caliper, adapter)
        if pitch is not None and pitch.verdict is Verdict.FAILS:
            return True
        return any(b.choice.lacks and not b.stack.unmeasured for b in self.bolts(caliper, (adapter,)))

    def chain(self, rotor: Rotor, caliper: Caliper, wanted: str | None = None) -> ChainAnswer:
        """What would stand between mount and caliper for this rotor; the adapter that is ``wanted`` where it serves."""
        w = self.wheel
        if w.mount.kind is None:
            return ChainAnswer(False, w.mount.why_not, unknown=True)
        kind = w.mount.kind
        prefer = Preference(wanted, w.entered.adapter_id, lambda a: self._judged_bad(caliper, a))
        return self.once(
            ("chain", rotor.diameter_mm, *_held_by(caliper), wanted),
            lambda: solve_chain(
                kind, w.native.mm, w.end, caliper.mount, rotor.diameter_mm, self.catalogue.adapters.values(), prefer
            ),
        )  # fmt: skip

    def placement(self, rotor: Rotor, caliper: Caliper, wanted: str | None = None) -> Placement:
        """Chain, place and way of a caliper for this rotor, looked up in one step."""

        def place() -> Placement:
            chain = self.chain(rotor, caliper, wanted)
            stand = self.stand(rotor, caliper, chain)
            return Placement(chain, stand, self.moves_mm(stand))

        return self.once(("placement", rotor.diameter_mm, *_held_by(caliper), wanted), place)

    def moves_mm(self, stand: Stand | None) -> float | None:
        """How far a caliper that comes to stand here moves; None where it cannot be told."""
        now = self.stand_now
        return None if stand is None or now is None else abs(stand.pad_edge - now.pad_edge)

    def chain_now(self, rotor: Rotor, caliper: Caliper) -> ChainAnswer:
        """What stands between mount and caliper now, judged as it is: a part that does not belong there is refused.
        Where one has to be there and nobody says which, it is not known."""
        w, wanted = self.wheel, self.chain(rotor, caliper)
        if wanted.unknown:
            return wanted
        if not w.adapter_known and (wanted.lacks_a_part or wanted.adapter is not None):
            words = "what stands between mount and caliper is not named: look which part is on it"
            return ChainAnswer(False, words, unknown=True)
        if not w.adapter_known:
            return wanted
        if (wanted.adapter.id if wanted.adapter else None) == (w.adapter.id if w.adapter else None) and wanted.possible:
            return wanted
        if wanted.lacks_a_part and w.adapter is not None and w.mount.kind is not None and w.native.mm is not None:
            refusal = adapter_refusal(w.adapter, w.mount.kind, w.native.mm, w.end, caliper.mount)
            if not refusal and w.adapter.serves(w.end, rotor.diameter_mm):
                return ChainAnswer(True, say("{part} is on it", part=w.adapter.name), adapter=w.adapter)
        on_it = w.adapter.name if w.adapter else "no adapter"
        if wanted.possible:
            belongs = wanted.adapter.name if wanted.adapter else "no adapter"
            reason: Words = say("{on_it} is on it; {belongs} belongs there", on_it=on_it, belongs=belongs)
        else:
            reason = say("{on_it} is on it; {reason}", on_it=on_it, reason=wanted.reason)
        return ChainAnswer(False, reason, adapter=w.adapter, look_for=wanted.look_for)

    def stand(self, rotor: Rotor, caliper: Caliper, chain: ChainAnswer) -> Stand | None:
        """Where the caliper would stand; what cannot be fitted stands at the mount's own place, so that the eye sees by
        how much. None while mount or native size is not known."""
        kind, native, seat = self.wheel.mount.kind, self.wheel.native.mm, self.seat
        if seat is None or kind is None or native is None:
            return None
        return self.once(
            ("stand", rotor.diameter_mm, caliper.mount, tuple(part.id for part in chain.parts)),
            lambda: stand_on(seat, kind, self.wheel.end, native, caliper.mount, chain, rotor.diameter_mm),
        )

    @cached_property
    def stand_now(self) -> Stand | None:
        """Where the caliper that is on it stands; None where a part of that chain is not known."""
        rotor, caliper = self.wheel.on_it.rotor, self.wheel.on_it.caliper
        if rotor is None or caliper is None or not self.wheel.adapter_known:
            return None
        return self.stand(rotor, caliper, ChainAnswer(True, "as it is", adapter=self.wheel.adapter))

    def bolts(self, caliper: Caliper, parts: tuple[Adapter, ...]) -> tuple[FittedBolt, ...]:
        """The bolts of a chain that is possible."""
        kind = self.wheel.mount.kind
        if kind is None or self.seat is None:
            return ()
        proud = self.seat.proud_mm
        return self.once(
            ("bolts", *_held_by(caliper), tuple(part.id for part in parts)),
            lambda: tuple(
                FittedBolt(
                    b.upper, b.run, choose_bolt(b.stack, self.rack), self._old_bolt(b)
                )
                for b in bolt_stacks(kind, self.wheel.measured, caliper, parts, proud)
            ),
        )  # fmt: skip

    def _old_bolt(self, bolt: ChainBolt) -> LengthVerdict | None:
        """The bolt that is there now, by the sum of the new stack; None where its length was not read."""
        measured = self.wheel.measured
        length = measured.upper_bolt_mm if bolt.upper else measured.lower_bolt_mm
        if length is None or bolt.run not in TO_MOUNT:
            return None
        found = judge_length(bolt.stack, length)
        if found.verdict is not Verdict.HOLDS:
            return found
        words = "{thread} × {length_mm:size} fits this stack: renew its thread-lock, or take a new one"
        return LengthVerdict(length, found.verdict, say(words, thread=bolt.stack.thread, length_mm=length))


def _held_by(caliper: Caliper) -> tuple[object, ...]:
    """What of a caliper its bolts depend on."""
    return caliper.mount, caliper.tab_mm, caliper.washers, caliper.washer_pair_mm


def plate_bolts(plate: Plate) -> tuple[FittedBolt, ...]:
    """The bolts of a special plate, each at its hole; they run crosswise."""
    return tuple(
        FittedBolt("lower" not in hole.name, Run.CROSSWISE, choice, None, hole.at)
        for hole, choice in zip(plate.holes, plate.bolts, strict=True)
    )


@dataclass(frozen=True)
class FitCase:
    """One brake on one wheel, whole or in part: what the checks look at.

    ``stays``: nothing on this wheel is taken apart, so that it is judged as it stands; ``renew`` is what comes new
    beside other models of part.
    """

    on: Mounting
    brake: Brake
    stays: bool = False
    renew: Renewals = NONE
    wanted: str | None = None
    """the adapter that was chosen by hand"""

    @classmethod
    def of(cls, on: Mounting, brake: Brake, renew: Renewals = NONE, wanted: str | None = None) -> "FitCase":
        """The brake as it stands where it is the one on the wheel and nothing of it is taken apart."""
        same = on.new_wheel is None and not brake.changed_from(on.wheel.on_it)
        stays = same and wanted is None and leaves_as_it_is(renew)
        return cls(on, brake, stays, renew, wanted)

    def tried(self, what: str) -> bool | None:
        """What the trial fit told of these very parts; None where nobody looked."""
        trial = self.wheel.measured.trial
        if trial is None or self.rotor is None or self.caliper is None or self.chain is None:
            return None
        adapter = self.chain.adapter.id if self.chain.adapter else None
        if (trial.rotor_id, trial.caliper_id, trial.adapter_id) != (self.rotor.id, self.caliper.id, adapter):
            return None
        told: bool | None = getattr(trial, what)
        return told

    @cached_property
    def new(self) -> frozenset[Axis]:
        """The kinds of part that are new."""
        return new_parts(self.brake.changed_from(self.wheel.on_it), self.renew)

    @property
    def wheel(self) -> ResolvedWheel:
        return self.on.wheel

    @property
    def new_wheel(self) -> WheelPart | None:
        return self.on.new_wheel

    @property
    def rotor(self) -> Rotor | None:
        return self.brake.rotor

    @property
    def caliper(self) -> Caliper | None:
        return self.brake.caliper

    @property
    def lever(self) -> Lever | None:
        return self.brake.lever

    @property
    def pad(self) -> Pad | None:
        return self.brake.pad

    @cached_property
    def plate(self) -> Plate | None:
        """The released special plate, where it is for this caliper and rotor."""
        plate = self.on.plate
        if plate is None or self.rotor is None or self.caliper is None:
            return None
        return plate if self.wheel.special.stands_in(self.caliper, self.rotor) else None

    @cached_property
    def chain(self) -> ChainAnswer | None:
        """None while rotor or caliper is not known."""
        if self.rotor is None or self.caliper is None:
            return None
        if self.plate is not None and self.wheel.special.released is not None:
            release = self.wheel.special.released
            words = "special plate, drawing {drawing}, released by {engineer}, {day}"
            told = say(words, drawing=release.drawing, engineer=release.engineer, day=release.at[:10])
            return ChainAnswer(True, told)
        if self.stays:
            return self.on.chain_now(self.rotor, self.caliper)
        return self.on.placement(self.rotor, self.caliper, self.wanted).chain

    @cached_property
    def stand(self) -> Stand | None:
        """Where the caliper would stand; None while it cannot be told."""
        if self.chain is None or self.rotor is None or self.caliper is None:
            return None
        if self.plate is not None:
            radial, at = self.plate.pad_radial, {h.name: h.at for h in self.plate.holes}
            upper, lower = (at[name] for name in CALIPER_HOLES)
            return Stand(upper, lower, radial, (upper - lower) / abs(upper - lower), self.plate.pad_edge, radial)
        if self.stays:
            return self.on.stand(self.rotor, self.caliper, self.chain)
        return self.on.placement(self.rotor, self.caliper, self.wanted).stand

    @cached_property
    def bolts(self) -> tuple[FittedBolt, ...]:
        if self.plate is not None:
            return plate_bolts(self.plate)
        if self.chain is None or not self.chain.possible or self.caliper is None:
            return ()
        return self.on.bolts(self.caliper, self.chain.parts)

    @cached_property
    def unchanged(self) -> bool:
        """The caliper and the rotor that are on it stay."""
        on_it = self.wheel.on_it
        return None not in (on_it.rotor, on_it.caliper) and (self.rotor, self.caliper) == (on_it.rotor, on_it.caliper)

    @cached_property
    def stands_as_it_did(self) -> bool:
        """Caliper, rotor and what is between caliper and mount are those that are on it."""
        adapter = self.chain.adapter if self.chain is not None else None
        return self.unchanged and self.wheel.adapter_known and adapter == self.wheel.adapter

    @property
    def hose_short(self) -> bool:
        """The hose or housing that is on it is known to be too short for where the caliper goes."""
        slack, moves = self.wheel.measured.hose_slack_mm, self.moves_mm
        return slack is not None and moves is not None and slack < moves and not self.stays

    @cached_property
    def new_hose(self) -> bool:
        on_it = self.wheel.on_it
        other_ends = self.caliper is not None and needs_new_hose(on_it.lever, on_it.caliper, self.lever, self.caliper)
        clamped = self.caliper is not None and self.caliper.fluid is Fluid.NONE and bool(self.new & JOINED)
        return other_ends or clamped or self.hose_short or Renewal.HOSE in self.renew

    @property
    def line_stays(self) -> bool:
        """Lever, caliper and what joins them are those that are on it."""
        return not self.new & JOINED and not self.new_hose

    @property
    def opens_line(self) -> bool:
        """The line is opened, and filled anew."""
        return bool(self.new & JOINED) or self.new_hose or Renewal.BLEED in self.renew

    @property
    def moves_mm(self) -> float | None:
        """How far the caliper moves from where it stands now; None where one of the two is not known."""
        if self.stays or self.plate is not None or self.rotor is None or self.caliper is None:
            return self.on.moves_mm(self.stand)
        return self.on.placement(self.rotor, self.caliper, self.wanted).moves_mm
