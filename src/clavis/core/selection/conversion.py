"""Conversions from rim brakes: what frame, fork and hubs have, what it means in parts and money, and a verdict.

Worth it only where the frame or fork carries a disc mount and the hub takes a rotor; a hub that does not means a wheel.
Never on a frame or fork without a mount (the job, section 1).
"""

from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from clavis.core.evaluation.rules import AXES, wheel_context
from clavis.core.fit.fit import fit_wheel
from clavis.core.job.document import Complaint, Job
from clavis.core.job.wheel import FittedBrake, Presence
from clavis.core.parts.models import AnyPart, Catalogue, WheelPart
from clavis.core.parts.mounts import End, tell_mount
from clavis.core.selection.candidates import sieve

CHEAPEST_LOOKED_AT = 40
"""combinations by price of which the adapter and bolts are added: those differ by less than the rest"""

LOOK_AT_HUB = "look whether the hub takes a rotor: six holes or splines"


class ConversionVerdict(StrEnum):
    """*Possible*: parts only. *Wheels*: the hub takes no rotor. *No*: no mount. *Unknown*: not looked at yet."""

    POSSIBLE = "possible"
    WHEELS = "wheels"
    NO = "no"
    UNKNOWN = "unknown"


@dataclass(frozen=True)
class CostLine:
    """One part that a conversion needs; ``price`` None where the catalogue has none."""

    what: str
    name: str
    price: float | None


@dataclass(frozen=True)
class WheelConversion:
    """One wheel: verdict, why, and the cheapest parts that go together on it."""

    end: End
    verdict: ConversionVerdict
    words: str
    lines: tuple[CostLine, ...] = ()

    @property
    def total(self) -> float | None:
        """What it costs at least; None where a line has no price, or nothing can be bought."""
        prices = [line.price for line in self.lines if line.price is not None]
        return sum(prices) if prices and len(prices) == len(self.lines) else None

    @property
    def wheel_price(self) -> float | None:
        return next((line.price for line in self.lines if line.what == "wheel"), None)


@dataclass(frozen=True)
class Conversion:
    """Both wheels and the sentence over them."""

    wheels: tuple[WheelConversion, ...]
    sentence: str


def wants_conversion(job: Job) -> bool:
    rim = any(job.wheel(end).fitted_brake in (FittedBrake.RIM, FittedBrake.OTHER) for end in End)
    return rim or Complaint.CONVERSION in job.complaints


def _cheapest_brake(job: Job, end: End, catalogue: Catalogue, new_wheel: WheelPart | None) -> tuple[CostLine, ...]:
    """Rotor, caliper, lever, pads, adapter and bolts that go together for the least money, on the hub of the new wheel
    where there is one; empty where none do."""
    context = wheel_context(job, end, catalogue)
    if new_wheel is not None:
        context = replace(context, wheel=context.wheel.model_copy(update={"hub": new_wheel.interface}))
    left = sieve(context)
    if not len(left.left):
        return ()
    price = sum(np.array([p.price for p in left.parts[a]])[left.left[:, k]] for k, a in enumerate(AXES))
    best: tuple[float, tuple[CostLine, ...]] | None = None
    for index in np.argsort(price, kind="stable")[:CHEAPEST_LOOKED_AT]:
        parts: dict[str, AnyPart] = {a: left.parts[a][i] for a, i in zip(AXES, left.left[index], strict=True)}
        lines = [CostLine(a, parts[a].name, parts[a].price) for a in AXES]
        fit = fit_wheel(job.wheel(end), end, parts["rotor"], parts["caliper"], catalogue)  # type: ignore[arg-type]
        if fit.chain.adapter:
            lines.append(CostLine("adapter", fit.chain.adapter.name, fit.chain.adapter.price))
        bolts = [choice.bolt for choice in fit.bolts if choice.bolt]
        if bolts:
            lines.append(CostLine("bolts", f"{len(bolts)} bolts", sum(bolt.price for bolt in bolts)))
        total = sum(line.price or 0.0 for line in lines)
        if best is None or total < best[0]:
            best = (total, tuple(lines))
    return best[1] if best else ()


def _wheel_of(job: Job, end: End, catalogue: Catalogue) -> WheelPart | None:
    """The cheapest wheel with a hub for a rotor, of the tyre's size where that is known."""
    seat = job.bike.tyre_size.rpartition("-")[2]
    fits: list[WheelPart] = [
        w for w in catalogue.wheels.values() if w.end is end and not w.retired and (not seat or w.rim_mm == int(seat))
    ]
    return min(fits, key=lambda w: (w.price, w.id), default=None)


def _wheel_line(job: Job, end: End, part: WheelPart | None) -> CostLine:
    if part is None:
        seat = job.bike.tyre_size.rpartition("-")[2]
        size = f" for {seat}" if seat else ""
        return CostLine("wheel", f"no {end.value} wheel{size} in the catalogue: ask the wheel builder", None)
    return CostLine("wheel", part.name, part.price)


def _of_wheel(job: Job, end: End, catalogue: Catalogue) -> WheelConversion:
    wheel = job.wheel(end)
    where = "fork" if end is End.FRONT else "frame"
    told = tell_mount(wheel.mount_spacing_mm, wheel.bolt_direction, end).kind
    if wheel.mount_there is Presence.MISSING:
        words = f"no disc mount on the {where}: not on this {where}. Nothing is clamped, bonded or welded on for it"
        return WheelConversion(end, ConversionVerdict.NO, words)
    if told is None:
        return WheelConversion(
            end, ConversionVerdict.UNKNOWN, f"look for a disc mount on the {where} and measure spacing and direction"
        )
    if wheel.hub_there is None and wheel.hub is None:
        return WheelConversion(end, ConversionVerdict.UNKNOWN, LOOK_AT_HUB)
    new_wheel = _wheel_of(job, end, catalogue) if wheel.hub_there is Presence.MISSING else None
    brake = _cheapest_brake(job, end, catalogue, new_wheel)
    if not brake:
        return WheelConversion(end, ConversionVerdict.UNKNOWN, "the catalogue has no brake that goes on this mount")
    if wheel.hub_there is Presence.MISSING:
        words = f"mount there, but the hub takes no rotor: it means a new {end.value} wheel"
        return WheelConversion(end, ConversionVerdict.WHEELS, words, (_wheel_line(job, end, new_wheel), *brake))
    return WheelConversion(end, ConversionVerdict.POSSIBLE, "mount and hub are there: parts only", brake)


def conversion_of(job: Job, catalogue: Catalogue, currency: str) -> Conversion | None:
    """The verdict on converting; None where nobody asks for it. ``currency`` is written behind amounts."""
    if not wants_conversion(job):
        return None
    wheels = tuple(_of_wheel(job, end, catalogue) for end in End)
    return Conversion(wheels, _sentence(job, wheels, currency))


def _sentence(job: Job, wheels: tuple[WheelConversion, ...], currency: str) -> str:
    able = [w for w in wheels if w.verdict in (ConversionVerdict.POSSIBLE, ConversionVerdict.WHEELS)]
    if any(w.verdict is ConversionVerdict.UNKNOWN for w in wheels):
        return "Not to be said yet: " + "; ".join(
            f"{w.end.value}, {w.words}" for w in wheels if w.verdict is ConversionVerdict.UNKNOWN
        )
    if not able:
        return "No: neither frame nor fork carries a disc mount"
    words = "Possible" if len(able) == len(wheels) else f"Possible at the {able[0].end.value} only"
    totals = [w.total for w in able]
    if None in totals:
        return f"{words}, at a price that is not known: a wheel is not in the catalogue"
    total = sum(t for t in totals if t is not None)
    of_wheels = sum(w.wheel_price or 0.0 for w in able)
    parts = f"{words}, from {total:.0f} {currency}"
    if of_wheels:
        parts += f", of which {of_wheels:.0f} for wheels, because the hubs take no rotor"
    budget = job.wishes.budget_price
    if budget is not None:
        over = total - budget
        parts += f"; {over:.0f} over the budget: not worth it as it stands" if over > 0 else "; within the budget"
    return parts
