"""One wheel resolved: what was measured on it, what its fork, frame and bottle state where nobody measured, the parts
that are on it, its mount, its native size and the largest rotor it may have, each with where it comes from.

Every room that asks something of a wheel asks it here. What is not known is None, with what would tell.
"""

from dataclasses import dataclass
from functools import cached_property
from typing import Any

from clavis.core.job.document import Job
from clavis.core.job.maker_data import blanks_of
from clavis.core.job.special_mount import SpecialMount
from clavis.core.job.wheel import LimitSource, Wheel
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.models import Adapter, Bar, Brake, Carrying, FluidPart, Rotor
from clavis.core.parts.mounts import (
    IS_ZERO_OFFSET_MM,
    SAME_SIZE_MM,
    End,
    MountKind,
    MountTelling,
    named_mount,
    tell_mount,
)
from clavis.core.sentences import NOTHING, Sentence, say

UNMARKED_START_MM, UNMARKED_MINIMUM_MM = 1.8, 1.5
"""a rotor that started at 1.8 and bears no marking is worn out at 1.5 mm (trade practice)"""


@dataclass(frozen=True)
class ToldSize:
    """A size in mm with where it comes from; ``conflict`` where two ways to it disagree: what was entered stays in
    force."""

    mm: float | None
    source: Sentence = NOTHING
    conflict: Sentence = NOTHING


@dataclass(frozen=True)
class ResolvedWheel:
    """One wheel as it stands on the stand, with nothing left to look up.

    ``measured`` holds what was entered and, in its blanks, what the parts named for the wheel state; ``entered`` what
    was entered alone. ``on_it`` are the brake's parts that are on it, as far as the catalogue has them.
    """

    end: End
    entered: Wheel
    measured: Wheel
    on_it: Brake
    adapter: Adapter | None
    carrying: Carrying | None
    """the fork or frame, where the catalogue has it"""
    bottle: FluidPart | None
    mount: MountTelling
    native: ToldSize
    largest: ToldSize
    special: SpecialMount
    bar: Bar | None
    """the handlebar, as entered or as a lever that is on it says"""
    assisted: bool

    @property
    def carries(self) -> str:
        return "fork" if self.end is End.FRONT else "frame"

    @property
    def minimum_mm(self) -> float | None:
        """Least thickness of the rotor that is on it, as read on it or as the catalogue has it; None where there is
        none, or nothing tells."""
        rotor = self.on_it.rotor
        return None if rotor is None else self.measured.rotor_minimum_mm or minimum_thickness_mm(rotor)

    @cached_property
    def adapter_known(self) -> bool:
        """What stands between mount and caliper now is known: a part that was named, or nothing."""
        return self.adapter is not None or self.measured.no_adapter


def minimum_thickness_mm(rotor: Rotor) -> float | None:
    """As marked; 1.5 mm where nothing is marked and the rotor started at 1.8; otherwise unknown."""
    if rotor.minimum_mm is not None:
        return rotor.minimum_mm
    return UNMARKED_MINIMUM_MM if abs(rotor.thickness_mm - UNMARKED_START_MM) < 0.01 else None


def _worked_out(end: End, rotor: Rotor | None, adapter: Adapter | None, no_adapter: bool) -> ToldSize:
    """The rotor that is on now, less the adapter that is on now."""
    if rotor is None or (adapter is None and not no_adapter):
        return ToldSize(None)
    size = rotor.diameter_mm
    if adapter is None:
        return ToldSize(size, say("worked out: rotor {rotor_mm:size} with no adapter", rotor_mm=size))
    if adapter.from_mm is None:
        return ToldSize(None)
    if not adapter.serves(end, size):
        served = " and ".join(f"{mm:g}" for mm in adapter.sizes_at(end)) or "none"
        words = "the adapter serves {served} at the {end}, the rotor on it is {rotor_mm:size}"
        return ToldSize(None, conflict=say(words, served=served, end=end, rotor_mm=size))
    words = "worked out: rotor {rotor_mm:size} less its adapter (+{step_mm:size})"
    return ToldSize(adapter.from_mm, say(words, rotor_mm=size, step_mm=size - adapter.from_mm))


def _native_of(
    wheel: Wheel, end: End, kind: MountKind | None, rotor: Rotor | None, adapter: Adapter | None
) -> ToldSize:
    """By standard (IS), as given, or worked out from present rotor and adapter. A given size that the parts contradict
    stays in force and is shown as a conflict; nothing is averaged."""
    if kind is MountKind.IS:
        return ToldSize(IS_ZERO_OFFSET_MM[end], say("by standard: the zero-offset adapter"))
    found = _worked_out(end, rotor, adapter, wheel.no_adapter)
    given = wheel.native_rotor_mm
    if given is None:
        return found
    conflict = found.conflict
    if found.mm is not None and abs(found.mm - given) > SAME_SIZE_MM:
        words = "given as {given_mm:size}, but {source} gives {found_mm:size}"
        conflict = say(words, given_mm=given, source=found.source, found_mm=found.mm)
    return ToldSize(given, say("given"), conflict)


def _largest_of(wheel: Wheel, native_mm: float | None, carrying: Carrying | None) -> ToldSize:
    """The lesser of what was entered and what fork or frame states. A maker who refuses any larger rotor leaves the
    native size. None is unknown, never "no limit"."""
    entered = wheel.max_rotor_mm
    if entered is None and wheel.limit_source is LimitSource.REFUSED:
        entered = native_mm
    stated = carrying.max_rotor_mm if carrying else None
    told = [
        ToldSize(mm, source)
        for mm, source in (
            (entered, say("entered")),
            (stated, say("stated for {part}", part=carrying.name if carrying else "")),
        )
        if mm is not None
    ]
    if not told:
        return ToldSize(None)
    least = min(told, key=lambda size: size.mm or 0.0)
    if len(told) == 2 and abs((told[0].mm or 0.0) - (told[1].mm or 0.0)) > SAME_SIZE_MM:
        words = "{entered_mm:size} entered, {stated_mm:size} stated for {part}: the lesser counts"
        conflict = say(words, entered_mm=entered, stated_mm=stated, part=carrying.name if carrying else "")
        return ToldSize(least.mm, least.source, conflict)
    return least


def _bar_of(job: Job, catalogue: Catalogue) -> Bar | None:
    """As entered, or that of a lever that is on the bike; None where neither tells."""
    if job.bike.bar is not None:
        return job.bike.bar
    levers = (catalogue.levers.get(job.wheel(end).lever_id or "") for end in End)
    return next((lever.bar for lever in levers if lever is not None), None)


def _mount_of(measured: Wheel, told: MountTelling, end: End, carrying: Carrying | None) -> MountTelling:
    """As measured; where that does not tell, as named by hand, or as fork or frame state it. What these state against
    a measurement is judged by a check of its own, and names nothing."""
    if measured.mount_named is not None or carrying is None or told.kind is not None:
        return named_mount(measured.mount_named, told, end)
    if told.points_to not in (None, carrying.mount):
        return told
    return named_mount(carrying.mount, told, end, say("as {part} has it", part=carrying.name))


def resolve_wheel(job: Job, end: End, catalogue: Catalogue) -> ResolvedWheel:
    """One wheel of a job with everything the catalogue knows of its parts."""
    entered = job.wheel(end)
    carrying, bottle = catalogue.carrying(end, entered.carrying_id), catalogue.fluids.get(entered.fluid_id or "")
    blanks: dict[str, Any] = {}
    if carrying is not None:
        blanks |= blanks_of(entered, "carrying_id", carrying)  # type: ignore[arg-type]
    if bottle is not None:
        blanks |= blanks_of(entered, "fluid_id", bottle)
    measured = entered.model_copy(update=blanks) if blanks else entered
    on_it = Brake(
        catalogue.rotors.get(entered.rotor_id or ""),
        catalogue.calipers.get(entered.caliper_id or ""),
        catalogue.levers.get(entered.lever_id or ""),
        catalogue.pads.get(entered.pad_id or ""),
    )
    adapter = catalogue.adapters.get(entered.adapter_id or "")
    told = tell_mount(measured.mount_spacing_mm, measured.bolt_direction, end)
    mount = _mount_of(measured, told, end, carrying)
    native = _native_of(measured, end, mount.kind, on_it.rotor, adapter)
    return ResolvedWheel(
        end=end,
        entered=entered,
        measured=measured,
        on_it=on_it,
        adapter=adapter,
        carrying=carrying,
        bottle=bottle,
        mount=mount,
        native=native,
        largest=_largest_of(entered, native.mm, carrying),
        special=job.special.of(end),
        bar=_bar_of(job, catalogue),
        assisted=job.bike.assisted,
    )
