"""Conversions from rim brakes: what frame, fork and hubs have, what it means in parts and money, and a verdict.

Worth it only where the frame or fork carries a disc mount and the hub takes a rotor; a hub that does not means a wheel.
Never on a frame or fork without a mount.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from clavis.core.evaluation.parts_list import PART_WORDS, WHEEL, PartLine, parts_list, price_of
from clavis.core.evaluation.setups import setup_with
from clavis.core.evaluation.situation import Situation, situation_of
from clavis.core.evaluation.wheel_cases import Mountings
from clavis.core.fit.mounting import FitCase, Mounting
from clavis.core.job.document import Complaint, Job
from clavis.core.job.pick import Pick
from clavis.core.job.wheel import FittedBrake, Presence
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.models import AXES, WheelPart
from clavis.core.parts.mounts import End
from clavis.core.physics.bike import ground_limits, limit_alone_n
from clavis.core.selection.sieve import sieve
from clavis.core.sentences import NOTHING, Sentence, Words, joined, say

CHEAPEST_LOOKED_AT = 40
"""combinations by price of which the adapter and bolts are added: those differ by less than the rest"""

PARTS_BY_WORD = {WHEEL: "wheel_id", **{words: f"{axis.value}_id" for axis, words in PART_WORDS.items()}}
"""the fields of a proposal by the words of the parts list"""
LOOK_AT_HUB = "look whether the hub takes a rotor: six holes or splines"


class ConversionVerdict(StrEnum):
    """*Possible*: parts only. *Wheels*: the hub takes no rotor. *No*: no mount. *Unknown*: not looked at yet."""

    POSSIBLE = "possible"
    WHEELS = "wheels"
    NO = "no"
    UNKNOWN = "unknown"


@dataclass(frozen=True)
class WheelConversion:
    """One wheel: verdict, why, and the cheapest parts that go together on it."""

    end: End
    verdict: ConversionVerdict
    words: Words
    lines: tuple[PartLine, ...] = ()

    @property
    def total(self) -> float | None:
        """What the catalogue has of it costs; None where nothing can be bought, or the wheel is not there."""
        return (
            None
            if not self.lines or any(x.what == WHEEL and x.cost is None for x in self.lines)
            else price_of(self.lines)
        )

    @property
    def unpriced(self) -> tuple[Words, ...]:
        """What it needs beside that has no price."""
        return tuple(line.what for line in self.lines if line.cost is None)

    @property
    def pick(self) -> Pick | None:
        """What is proposed when it is taken: the four parts and the wheel; None where it cannot be bought whole."""
        named = {PARTS_BY_WORD[x.what]: x.part_id for x in self.lines if x.what in PARTS_BY_WORD and x.part_id}
        wheel = self.verdict is not ConversionVerdict.WHEELS or "wheel_id" in named
        return Pick(**named) if wheel and len(named.keys() - {"wheel_id"}) == len(AXES) else None

    @property
    def wheel_price(self) -> float | None:
        return next((line.price for line in self.lines if line.what == WHEEL), None)


@dataclass(frozen=True)
class Conversion:
    """Both wheels and the sentence over them."""

    wheels: tuple[WheelConversion, ...]
    sentence: Sentence


def wants_conversion(job: Job) -> bool:
    rim = any(job.wheel(end).fitted_brake in (FittedBrake.RIM, FittedBrake.OTHER) for end in End)
    return rim or Complaint.CONVERSION in job.complaints


def _cheapest_brake(mounting: Mounting) -> tuple[PartLine, ...]:
    """Rotor, caliper, lever, pads and all that goes with them for the least money; empty where nothing goes
    together."""
    left = sieve(mounting)
    if not len(left.left):
        return ()
    prices = sum(np.array([p.price for p in left.parts[a]])[left.left[:, k]] for k, a in enumerate(AXES))
    brakes = left.brakes()
    best: tuple[PartLine, ...] = ()
    for k in np.argsort(prices, kind="stable")[:CHEAPEST_LOOKED_AT]:
        case = FitCase(mounting, brakes[k])
        lines = parts_list(setup_with(mounting.wheel, brakes[k], mounting.bottle_for), case)
        if not best or price_of(lines) < price_of(best):
            best = lines
    return best


def _seat_mm(job: Job) -> int | None:
    """Bead seat of the job's tyre; None where its size is not known."""
    seat = job.bike.tyre_size.rpartition("-")[2]
    return int(seat) if seat else None


def _wheel_of(job: Job, end: End, catalogue: Catalogue) -> WheelPart | None:
    """The cheapest wheel with a hub for a rotor, of the tyre's size where that is known."""
    seat_mm = _seat_mm(job)
    fits: list[WheelPart] = [
        w for w in catalogue.wheels.values() if w.end is end and w.offered and seat_mm in (None, w.rim_mm)
    ]
    return min(fits, key=lambda w: (w.price, w.id), default=None)


def _no_wheel_line(job: Job, end: End) -> PartLine:
    seat_mm = _seat_mm(job)
    words = "no {end} wheel in the catalogue: ask the wheel builder"
    if seat_mm is not None:
        words = "no {end} wheel for {seat_mm:size} in the catalogue: ask the wheel builder"
    return PartLine(end, WHEEL, "", say(words, end=end, seat_mm=seat_mm), 1, None)


def _of_wheel(job: Job, mounting: Mounting) -> WheelConversion:
    wheel, end = mounting.wheel, mounting.wheel.end
    measured, where = wheel.measured, wheel.carries
    if measured.mount_there is Presence.MISSING:
        words = "no disc mount on the {where}: not on this {where}. Nothing is clamped, bonded or welded on for it"
        return WheelConversion(
            end, ConversionVerdict.NO, joined([say(words, where=where), _fork_words(mounting)], "; ")
        )
    if wheel.mount.kind is None:
        words = (
            "{conflict}"
            if wheel.mount.conflict
            else ("look for a disc mount on the {where} and measure spacing and direction")
        )
        told = say(words, where=where, conflict=wheel.mount.conflict)
        return WheelConversion(end, ConversionVerdict.UNKNOWN, told)
    if wheel.native.mm is None:
        words = "the rotor that the {where}'s mount is made for is not known: ask for its document"
        return WheelConversion(end, ConversionVerdict.UNKNOWN, say(words, where=where))
    if measured.hub_there is None and measured.hub is None:
        return WheelConversion(end, ConversionVerdict.UNKNOWN, LOOK_AT_HUB)
    no_hub = measured.hub_there is Presence.MISSING
    new_wheel = _wheel_of(job, end, mounting.catalogue) if no_hub else None
    brake = _cheapest_brake(mounting.with_wheel(new_wheel) if new_wheel else mounting)
    if not brake:
        return WheelConversion(end, ConversionVerdict.UNKNOWN, "the catalogue has no brake that goes on this mount")
    if no_hub:
        words = "mount there, but the hub takes no rotor: it means a new {end} wheel"
        lines = brake if new_wheel else (_no_wheel_line(job, end), *brake)
        return WheelConversion(end, ConversionVerdict.WHEELS, say(words, end=end), lines)
    words = "mount and hub are there: parts only"
    if wheel.largest.mm is None:
        words += "; the largest rotor that the {where} allows is not known: ask before anything is bought"
    return WheelConversion(end, ConversionVerdict.POSSIBLE, say(words, where=where), brake)


def _fork_words(mounting: Mounting) -> Words:
    """What another fork would cost; nothing of a frame, which nobody changes for a brake."""
    forks = [f for f in mounting.catalogue.forks.values() if f.offered]
    if mounting.wheel.end is not End.FRONT or not forks:
        return NOTHING
    cheapest = min(forks, key=lambda f: (f.price, f.id))
    words = "another fork with a mount is {fork_price:.0} at the least, {name}, and has to fit this frame"
    return say(words, fork_price=cheapest.price, name=cheapest.name)


def _one_end_words(job: Job, able: Sequence[WheelConversion]) -> Words:
    """What one disc alone reaches, where the other wheel keeps its rim brake."""
    situation = situation_of(job)
    if len(able) != 1 or not isinstance(situation, Situation):
        return NOTHING
    limits = ground_limits(situation.bike, situation.grip, 0.0, situation.rear_grip_ratio)
    decel = limit_alone_n(limits, able[0].end) / situation.bike.rolling_mass_kg
    words = (
        "the {end} alone reaches {decel_ms2:.1} at the most, before its tyre slides; the other brake must do its part"
    )
    if able[0].end is End.FRONT:
        words = "the {end} alone reaches {decel_ms2:.1} at the most, by tyre or pitch-over; the rear stays as it is"
    return say(words, end=able[0].end, decel_ms2=decel)


def conversion_of(job: Job, mountings: Mountings, currency: str) -> Conversion | None:
    """The verdict on converting; None where nobody asks for it. ``currency`` is written behind amounts."""
    if not wants_conversion(job):
        return None
    wheels = tuple(_of_wheel(job, mountings[end]) for end in End)
    return Conversion(wheels, _sentence(job, wheels, currency))


def _used_wheels_words(job: Job, rest_price: float, currency: str) -> Words:
    """What used wheels may cost for the conversion to stay within the budget; nothing without a budget."""
    budget = job.wishes.budget_price
    if budget is None:
        return NOTHING
    if rest_price >= budget:
        return ", which is over the budget even with wheels for nothing"
    words = ", which leaves {left_price:.0} {currency} of the budget for them"
    return say(words, left_price=budget - rest_price, currency=currency)


def _sentence(job: Job, wheels: tuple[WheelConversion, ...], currency: str) -> Sentence:
    able = [w for w in wheels if w.verdict in (ConversionVerdict.POSSIBLE, ConversionVerdict.WHEELS)]
    unknown = [w for w in wheels if w.verdict is ConversionVerdict.UNKNOWN]
    if unknown:
        why = joined(say("{end}, {words}", end=w.end, words=w.words) for w in unknown)
        return say("Not to be said yet: {why}", why=why)
    if not able:
        return say("No: neither frame nor fork carries a disc mount")
    possible = say("Possible") if len(able) == len(wheels) else say("Possible at the {end} only", end=able[0].end)
    totals = [w.total for w in able]
    if None in totals:
        return say("{possible}, at a price that is not known: a wheel is not in the catalogue", possible=possible)
    total = sum(t for t in totals if t is not None)
    of_wheels = sum(w.wheel_price or 0.0 for w in able)
    money = {"total_price": total, "wheels_price": of_wheels, "currency": currency}
    parts: list[Words] = [say("{possible}, from {total_price:.0} {currency}", possible=possible, **money)]
    unpriced = list(dict.fromkeys(what for w in able for what in w.unpriced))
    if unpriced:
        parts.append(say(" without {what}", what=joined(unpriced, ", ", " and ")))
    if of_wheels:
        words = (
            ", of which {wheels_price:.0} {currency} for wheels, {share_pct:.0} of it, because the hubs take no rotor; "
            "with used wheels that take one, whatever those cost, the rest is {rest_price:.0} {currency}"
        )
        parts.append(say(words, share_pct=100 * of_wheels / total, rest_price=total - of_wheels, **money))
        parts.append(_used_wheels_words(job, total - of_wheels, currency))
    if one_end := _one_end_words(job, able):
        parts.append(say("; {words}", words=one_end))
    budget = job.wishes.budget_price
    if budget is not None:
        over = say("; {over_price:.0} {currency} over the budget: not worth it as it stands",
                   over_price=total - budget, currency=currency)  # fmt: skip
        parts.append(over if total > budget else "; within the budget")
    return joined(parts, "")
