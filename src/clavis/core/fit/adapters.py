"""The mount chain: which adapter carries which caliper from which mount to which rotor. One, or none; never two.

The table CHAIN is the rule, ``solve_chain`` reads it. Source: the trade's mount standards as listed in docs/mounts.md.
"""

import re
from collections.abc import Iterable
from dataclasses import dataclass

from clavis.core.fit.bolts import BOLT_HEAD_MM, DIAMETER_MM
from clavis.core.job.wheel import Wheel
from clavis.core.parts.models import Adapter, Catalogue, Rotor
from clavis.core.parts.mounts import (
    ADAPTER_WORDS,
    DIRECTION_WORDS,
    IS_ZERO_OFFSET_MM,
    LABELS,
    MOUNTS,
    AdapterKind,
    BoltStyle,
    CaliperMount,
    End,
    MountKind,
    SpacingTool,
    native_size_mm,
    tell_mount,
)
from clavis.core.verdicts import Verdict

SAME_SIZE_MM = 0.25
"""sizes that differ by less are the same size"""


@dataclass(frozen=True)
class ChainRow:
    """What may stand between a mount and a caliper. ``direct`` allows no adapter at the native size;
    ``always`` asks for the plate at every size (a flat-mount fork carries its caliper on a flip plate)."""

    mount: MountKind
    caliper: CaliperMount
    adapter: AdapterKind | None
    direct: bool
    always: bool = False
    note: str = ""


CHAIN: tuple[ChainRow, ...] = (
    ChainRow(MountKind.POST, CaliperMount.POST, AdapterKind.POST_TO_POST, direct=True),
    ChainRow(MountKind.IS, CaliperMount.POST, AdapterKind.IS_TO_POST, direct=False, always=True),
    ChainRow(MountKind.IS, CaliperMount.OLD_IS, None, direct=True, note="serves only the size its maker states"),
    ChainRow(MountKind.FLAT_FRONT, CaliperMount.FLAT, AdapterKind.FLAT_FRONT_PLATE, direct=False, always=True),
    ChainRow(MountKind.FLAT_REAR, CaliperMount.FLAT, AdapterKind.FLAT_REAR_SPACER, direct=True),
    ChainRow(MountKind.FLAT_FRONT, CaliperMount.POST, AdapterKind.FLAT_TO_POST, direct=False, always=True),
    ChainRow(MountKind.FLAT_REAR, CaliperMount.POST, AdapterKind.FLAT_TO_POST, direct=False, always=True),
    ChainRow(MountKind.POST, CaliperMount.FLAT, AdapterKind.POST_TO_FLAT, direct=False, always=True),
)


def row_of(mount: MountKind, caliper: CaliperMount) -> ChainRow | None:
    """What may stand between this mount and this caliper; None where nothing is made."""
    return next((r for r in CHAIN if r.mount is mount and r.caliper is caliper), None)


@dataclass(frozen=True)
class ChainAnswer:
    """The chain's answer: possible or not and why; the adapter, or none needed; or what to look for. ``plate`` is the
    maker's own flip plate on a carrier that is made to have one: the only second part there can be."""

    possible: bool
    reason: str
    adapter: Adapter | None = None
    look_for: str = ""
    unknown: bool = False
    plate: Adapter | None = None
    others: tuple[Adapter, ...] = ()
    """further parts of the catalogue that serve as well"""

    @property
    def parts(self) -> tuple[Adapter, ...]:
        """What stands between mount and caliper, from the mount outward."""
        return tuple(part for part in (self.adapter, self.plate) if part is not None)


@dataclass(frozen=True)
class Native:
    """A native rotor size, mm, with where it comes from; ``conflict`` where two ways to it disagree."""

    size_mm: float | None
    source: str
    conflict: str = ""


def _worked_out(wheel: Wheel, end: End, rotor: Rotor | None, adapter: Adapter | None) -> Native:
    """The rotor that is on now, less the adapter that is on now (the job, section 2)."""
    if rotor is None or (adapter is None and not wheel.no_adapter):
        return Native(None, "")
    if adapter is None:
        return Native(rotor.diameter_mm, f"worked out: rotor {rotor.diameter_mm:g} with no adapter")
    if adapter.from_mm is None:
        return Native(None, "")
    if not any(f.end is end and abs(f.rotor_mm - rotor.diameter_mm) < SAME_SIZE_MM for f in adapter.fits):
        served = " and ".join(f"{f.rotor_mm:g}" for f in adapter.fits if f.end is end) or "none"
        return Native(
            None, "", f"the adapter serves {served} at the {end.value}, the rotor on it is {rotor.diameter_mm:g}"
        )
    step = rotor.diameter_mm - adapter.from_mm
    return Native(adapter.from_mm, f"worked out: rotor {rotor.diameter_mm:g} less its adapter (+{step:g})")


def native_of(wheel: Wheel, end: End, catalogue: Catalogue) -> Native:
    """The native rotor size of one wheel: by standard (IS), as given, or worked out from present rotor and adapter.

    A given size that the parts contradict stays in force and is shown as a conflict; nothing is averaged.
    """
    kind = tell_mount(wheel.mount_spacing_mm, wheel.bolt_direction, end).kind
    if kind is MountKind.IS:
        return Native(native_size_mm(kind, end, None), "by standard: the zero-offset adapter")
    rotor, adapter = catalogue.rotors.get(wheel.rotor_id or ""), catalogue.adapters.get(wheel.adapter_id or "")
    found = _worked_out(wheel, end, rotor, adapter)
    given = wheel.native_rotor_mm
    if given is None:
        return found
    conflict = found.conflict
    if found.size_mm is not None and abs(found.size_mm - given) > SAME_SIZE_MM:
        conflict = f"given as {given:g}, but {found.source} gives {found.size_mm:g}"
    return Native(given, "given", conflict)


@dataclass(frozen=True)
class Pitch:
    """Whether a plate's holes and counterbores take the measured pitch of a flat-mount fork."""

    adapter: Adapter
    error_mm: float | None
    permitted_mm: float | None
    verdict: Verdict
    words: str


GAUGE_DOUBT_MM = 0.1
"""a pitch read with a caliper gauge is sure to a tenth: what is nearer to the limit is tight"""


def judge_pitch(spacing_mm: float | None, tool: SpacingTool | None, adapter: Adapter) -> Pitch:
    """Bolt centres may stand off the plate's by the play of both holes, half each way at each: hole − bolt; and by
    that of both counterbores: counterbore − head. The smaller one counts, wide or narrow."""
    bolt_mm, head_mm = DIAMETER_MM["M5"], BOLT_HEAD_MM["M5"]
    if adapter.pitch_mm is None or adapter.hole_mm is None:
        return Pitch(adapter, None, None, Verdict.UNKNOWN, "its maker states no pitch and hole for it: ask")
    play = adapter.hole_mm - bolt_mm
    sets = "its holes"
    if adapter.counterbore_mm is not None and adapter.counterbore_mm - head_mm < play:
        play, sets = adapter.counterbore_mm - head_mm, "its counterbores"
    allows = f"{sets} allow {adapter.pitch_mm - play:.1f} to {adapter.pitch_mm + play:.1f} mm"
    if spacing_mm is None:
        return Pitch(adapter, None, play, Verdict.UNKNOWN, f"{allows}; pitch not measured")
    if tool is not SpacingTool.GAUGE:
        return Pitch(adapter, None, play, Verdict.UNKNOWN, f"{allows}; a tape is not good enough: use a caliper gauge")
    error = round(spacing_mm - adapter.pitch_mm, 3)
    way = "wider" if error > 0 else "narrower"
    off = f"{abs(error):.1f} mm {way} than the plate's {adapter.pitch_mm:.1f}; {allows}"
    if abs(error) > play + 1e-9:
        return Pitch(adapter, error, play, Verdict.FAILS, f"{off}. Do not force or drill it: choose another plate")
    tight = abs(error) + GAUGE_DOUBT_MM > play + 1e-9
    return Pitch(adapter, error, play, Verdict.TIGHT if tight else Verdict.HOLDS, off)


def position_mm(mount: MountKind, native_mm: float, adapter: Adapter | None, rotor_mm: float, end: End) -> float | None:
    """The rotor size that the caliper's position stands for; None where the adapter serves nothing at this end.

    A through-bolted adapter shifts by its two heights; any other by the step from its own from-size to the nearest
    size that it serves.
    """
    if adapter is None:
        return native_mm
    if adapter.style is BoltStyle.THROUGH and mount is MountKind.POST:
        return native_mm + (adapter.upper_mm + adapter.lower_mm)
    start = native_mm if adapter.from_mm is None else adapter.from_mm
    places = [native_mm + f.rotor_mm - start for f in adapter.fits if f.end is end]
    return min(places, key=lambda mm: abs(mm - rotor_mm), default=None)


def shift_mm(mount: MountKind, native_mm: float, chain: ChainAnswer, rotor_mm: float, end: End) -> float:
    """How far the parts of a chain carry the caliper outward by their sizes, (D_position − D_native)/2."""
    native = native_mm
    for part in chain.parts:
        wanted = rotor_mm if part is chain.parts[-1] else next(f.rotor_mm for f in part.fits if f.end is end)
        native = position_mm(mount, native, part, wanted, end) or native
    return (native - native_mm) / 2


def _serves(adapter: Adapter, end: End, rotor_mm: float, native_mm: float, mount: MountKind) -> bool:
    from_ok = mount is MountKind.IS or (adapter.from_mm is not None and abs(adapter.from_mm - native_mm) < SAME_SIZE_MM)
    return from_ok and any(f.end is end and abs(f.rotor_mm - rotor_mm) < SAME_SIZE_MM for f in adapter.fits)


_SIZE, _OFFSET = re.compile(r"(?<![\d+.,])(1[2-9]\d|2[0-5]\d)(?!\d)"), re.compile(r"\+\s?(\d{1,2})(?!\d)")


def label_conflict(adapter: Adapter) -> str:
    """Where what stands on a packet or in the model's name disagrees with the sizes of the same line, in words; empty
    where it does not. Sellers' words are unreliable: the sizes count (the job, section 5)."""
    text = f"{adapter.model} {adapter.label}"
    sizes = {f.rotor_mm for f in adapter.fits} | ({adapter.from_mm} if adapter.from_mm is not None else set())
    starts = {f.end: IS_ZERO_OFFSET_MM[f.end] if adapter.from_mm is None else adapter.from_mm for f in adapter.fits}
    offsets = {f.rotor_mm - starts[f.end] for f in adapter.fits}
    for said in (float(n) for n in _OFFSET.findall(text)):
        if all(abs(said - offset) > SAME_SIZE_MM for offset in offsets):
            made = " and ".join(f"+{offset:g}" for offset in sorted(offsets))
            return f"the packet says +{said:g}, its sizes make {made}"
    for said in (float(n) for n in _SIZE.findall(text)):
        if all(abs(said - size) > SAME_SIZE_MM for size in sizes):
            return f"the packet says {said:g}, its sizes are {' and '.join(f'{size:g}' for size in sorted(sizes))}"
    return ""


def adapter_refusal(
    adapter: Adapter, mount: MountKind, native_mm: float, end: End, caliper: CaliperMount
) -> str | None:
    """Why an adapter does not go between this mount and this caliper, whatever the rotor; None where it does."""
    row = row_of(mount, caliper)
    if row is None or row.adapter is not adapter.adapter_kind:
        return f"not what goes between a {LABELS[mount]} and a {caliper.value}-mount caliper"
    sizes = [f.rotor_mm for f in adapter.fits if f.end is end]
    if not sizes:
        return f"not made for the {end.value}"
    if not any(_serves(adapter, end, size, native_mm, mount) for size in sizes):
        return f"starts from {adapter.from_mm:g}, this mount is native {native_mm:g}"
    return None


THROUGH_MOST_MM = 23.0
"""post-mount parts up to about this step are bolted through, larger ones have four holes"""


def what_to_look_for(row: ChainRow, end: End, native: float, rotor_mm: float) -> str:
    """The part that the catalogue lacks, as one asks for it: kind, end, sizes, offset, holes."""
    offset = rotor_mm - native
    mount = next(m for m in MOUNTS if m.kind is row.mount)
    assert row.adapter is not None
    where = f"holes {mount.spacing_mm:g} mm apart, {DIRECTION_WORDS[mount.direction]}"
    caliper = {CaliperMount.POST: "74.2 mm apart for the caliper", CaliperMount.FLAT: "34 mm apart for the caliper"}
    style = ""
    if row.adapter is AdapterKind.POST_TO_POST:
        four = ", four holes: two bolts to the mount, two to the caliper"
        style = ", bolted through" if offset <= THROUGH_MOST_MM else four
    return (
        f"{ADAPTER_WORDS[row.adapter]}, {end.value}, from {native:g} to {rotor_mm:g} (+{offset:g}); {where}, and "
        f"{caliper[row.caliper]}{style}"
    )


def _on_a_carrier(
    kind: AdapterKind, mount: MountKind, native: float, end: End, rotor_mm: float, offered: list[Adapter]
) -> tuple[Adapter, Adapter] | None:
    """A carrier for this mount and its maker's own flip plate for the size that the carrier makes; the cheapest."""
    found = []
    for carrier in offered:
        if not carrier.carrier or carrier.from_mm is None or abs(carrier.from_mm - native) > SAME_SIZE_MM:
            continue
        for made in (f.rotor_mm for f in carrier.fits if f.end is end):
            found += [
                (carrier, plate)
                for plate in offered
                if plate.maker == carrier.maker
                and not plate.carrier
                and plate.adapter_kind is kind
                and _serves(plate, end, rotor_mm, made, mount)
            ]
    return min(found, key=lambda pair: (pair[0].price + pair[1].price, pair[0].id, pair[1].id), default=None)


def solve_chain(
    mount: MountKind,
    native_mm: float | None,
    end: End,
    caliper: CaliperMount,
    rotor_mm: float,
    adapters: Iterable[Adapter],
    on_it: str | None = None,
) -> ChainAnswer:
    """Exactly one adapter from the catalogue, or none needed, or not possible and why. Never two stacked.

    The one that is on the bike (``on_it``, its id) is taken before a cheaper one. ``native_mm`` None is answered as
    unknown: nothing is assumed.
    """
    row = row_of(mount, caliper)
    where = f"{LABELS[mount]} {end.value}"
    if row is None:
        return ChainAnswer(False, f"no adapter is made that puts this caliper on a {where}")
    native = native_size_mm(mount, end, native_mm)
    if native is None:
        return ChainAnswer(False, "native rotor size not measured, so the adapter cannot be told", unknown=True)
    if rotor_mm < native - SAME_SIZE_MM:
        return ChainAnswer(False, f"{rotor_mm:g} is below the native size {native:g}: a caliper cannot move inward")
    at_native = abs(rotor_mm - native) < SAME_SIZE_MM
    if row.direct and not row.always and at_native:
        return ChainAnswer(True, f"{rotor_mm:g} is the native size: no adapter")
    if row.adapter is None:
        return ChainAnswer(False, f"this caliper bolts straight to its tabs and serves {native:g} only")
    offered = [a for a in adapters if a.adapter_kind is row.adapter and (not a.retired or a.id == on_it)]
    fitting = [a for a in offered if not a.carrier and _serves(a, end, rotor_mm, native, mount)]
    if not fitting:
        pair = _on_a_carrier(row.adapter, mount, native, end, rotor_mm, offered)
        if pair is not None:
            words = f"{native:g} to {rotor_mm:g}: a carrier made to have its maker's own flip plate on it"
            return ChainAnswer(True, words, adapter=pair[0], plate=pair[1])
        return ChainAnswer(
            False,
            "the catalogue has no single adapter for it; two are never stacked",
            look_for=what_to_look_for(row, end, native, rotor_mm),
        )
    best, *others = sorted(fitting, key=lambda a: (a.id != on_it, a.price, a.mass_g, a.id))
    words = f"one {ADAPTER_WORDS[row.adapter]}, {native:g} to {rotor_mm:g}"
    return ChainAnswer(True, words, adapter=best, others=tuple(others))
