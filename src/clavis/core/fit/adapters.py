"""The mount chain: which adapter carries which caliper from which mount to which rotor. One, or none; never two.

The table CHAIN is the rule, ``solve_chain`` reads it. Source: the trade's mount standards as listed in docs/mounts.md.
"""

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass

from clavis.core.parts.models import Adapter
from clavis.core.parts.mounts import (
    ADAPTER_WORDS,
    IS_ZERO_OFFSET_MM,
    MOUNT_ROWS,
    SAME_SIZE_MM,
    AdapterKind,
    BoltStyle,
    CaliperMount,
    End,
    MountKind,
)
from clavis.core.sentences import NOTHING, Sentence, Words, joined, say


@dataclass(frozen=True, kw_only=True)
class ChainRow:
    """What may stand between a mount and a caliper. ``direct`` allows no adapter at the native size;
    ``always`` asks for the plate at every size (a flat-mount fork carries its caliper on a flip plate)."""

    mount: MountKind
    caliper: CaliperMount
    adapter: AdapterKind | None
    direct: bool
    always: bool = False
    note: str = ""


_M, _C, _A = MountKind, CaliperMount, AdapterKind
CHAIN: tuple[ChainRow, ...] = (
    ChainRow(mount=_M.POST, caliper=_C.POST, adapter=_A.POST_TO_POST, direct=True),
    ChainRow(mount=_M.IS, caliper=_C.POST, adapter=_A.IS_TO_POST, direct=False, always=True),
    ChainRow(mount=_M.IS, caliper=_C.OLD_IS, adapter=None, direct=True, note="serves only the size its maker states"),
    ChainRow(mount=_M.FLAT_FRONT, caliper=_C.FLAT, adapter=_A.FLAT_FRONT_PLATE, direct=False, always=True),
    ChainRow(mount=_M.FLAT_REAR, caliper=_C.FLAT, adapter=_A.FLAT_REAR_SPACER, direct=True),
    ChainRow(mount=_M.FLAT_FRONT, caliper=_C.POST, adapter=_A.FLAT_TO_POST, direct=False, always=True),
    ChainRow(mount=_M.FLAT_REAR, caliper=_C.POST, adapter=_A.FLAT_TO_POST, direct=False, always=True),
    ChainRow(mount=_M.POST, caliper=_C.FLAT, adapter=_A.POST_TO_FLAT, direct=False, always=True),
)


def row_of(mount: MountKind, caliper: CaliperMount) -> ChainRow | None:
    """What may stand between this mount and this caliper; None where nothing is made."""
    return next((r for r in CHAIN if r.mount is mount and r.caliper is caliper), None)


@dataclass(frozen=True)
class ChainAnswer:
    """The chain's answer: possible or not and why; the adapter, or none needed; or what to look for. ``plate`` is the
    maker's own flip plate on a carrier that is made to have one: the only second part there can be."""

    possible: bool
    reason: Words
    adapter: Adapter | None = None
    look_for: Words = ""
    unknown: bool = False
    plate: Adapter | None = None
    others: tuple[Adapter, ...] = ()
    """further parts of the catalogue that serve as well"""

    @property
    def parts(self) -> tuple[Adapter, ...]:
        """What stands between mount and caliper, from the mount outward."""
        return tuple(part for part in (self.adapter, self.plate) if part is not None)

    @property
    def lacks_a_part(self) -> bool:
        """Nothing speaks against it but that the catalogue does not have the part."""
        return not self.possible and bool(self.look_for)


def position_mm(mount: MountKind, native_mm: float, adapter: Adapter | None, rotor_mm: float, end: End) -> float | None:
    """The rotor size that the caliper's position stands for, mm.

    A through-bolted adapter shifts by its two heights; any other by the step from its own from-size to the nearest
    size that it serves. A part that is made for the other end alone carries the caliper as far as it does there.

    >>> part = Adapter(id="a", maker="M", model="A", price=9, mass_g=20, adapter_kind="is_to_post", style="side",
    ...                upper_mm=0, lower_mm=0, fits=({"end": "front", "rotor_mm": 180},))
    >>> position_mm(MountKind.IS, 140, part, 160, End.REAR)
    160.0

    >>> position_mm(MountKind.POST, 160, None, 160, End.FRONT)
    160
    """
    if adapter is None:
        return native_mm
    if adapter.style is BoltStyle.THROUGH and mount is MountKind.POST:
        return native_mm + (adapter.upper_mm + adapter.lower_mm)
    here = [f for f in adapter.fits if f.end is end] or adapter.fits  # a part for the other end stands by its own sizes
    zero = IS_ZERO_OFFSET_MM if mount is MountKind.IS else dict.fromkeys(End, native_mm)
    starts = {e: adapter.from_mm or native_mm + zero[e] - zero[end] for e in End}
    places = [native_mm + f.rotor_mm - starts[f.end] for f in here]
    return min(places, key=lambda mm: abs(mm - rotor_mm), default=None)


def shift_mm(mount: MountKind, native_mm: float, chain: ChainAnswer, rotor_mm: float, end: End) -> float:
    """How far the parts of a chain carry the caliper outward by their sizes, (D_position − D_native)/2, mm."""
    native = native_mm
    for part in chain.parts:
        wanted = rotor_mm if part is chain.parts[-1] else part.sizes_at(end)[0]
        native = position_mm(mount, native, part, wanted, end) or native
    return (native - native_mm) / 2


def _starts_from(adapter: Adapter, native_mm: float, mount: MountKind) -> bool:
    return mount is MountKind.IS or (adapter.from_mm is not None and abs(adapter.from_mm - native_mm) < SAME_SIZE_MM)


_SIZE, _OFFSET = re.compile(r"(?<![\d+.,])(1[2-9]\d|2[0-5]\d)(?!\d)"), re.compile(r"\+\s?(\d{1,2})(?!\d)")


def label_conflict(adapter: Adapter) -> Sentence:
    """Where what stands on a packet or in the model's name disagrees with the sizes of the same line; nothing where it
    does not. Sellers' words are unreliable: the sizes count."""
    text = f"{adapter.model} {adapter.label}"
    sizes = {f.rotor_mm for f in adapter.fits} | ({adapter.from_mm} if adapter.from_mm is not None else set())
    starts = {f.end: IS_ZERO_OFFSET_MM[f.end] if adapter.from_mm is None else adapter.from_mm for f in adapter.fits}
    offsets = {f.rotor_mm - starts[f.end] for f in adapter.fits}

    def listed(values: set[float], sign: str = "") -> Sentence:
        return joined([say(f"{sign}{{at_mm:size}}", at_mm=mm) for mm in sorted(values)], " and ")

    for said in (float(n) for n in _OFFSET.findall(text)):
        if all(abs(said - offset) > SAME_SIZE_MM for offset in offsets):
            words = "the packet says +{said_mm:size}, its sizes make {made}"
            return say(words, said_mm=said, made=listed(offsets, "+"))
    for said in (float(n) for n in _SIZE.findall(text)):
        if all(abs(said - size) > SAME_SIZE_MM for size in sizes):
            return say("the packet says {said_mm:size}, its sizes are {sizes}", said_mm=said, sizes=listed(sizes))
    return NOTHING


def adapter_refusal(adapter: Adapter, mount: MountKind, native_mm: float, end: End, caliper: CaliperMount) -> Sentence:
    """Why an adapter does not go between this mount and this caliper, whatever the rotor; nothing where it does."""
    row = row_of(mount, caliper)
    if row is None or row.adapter is not adapter.adapter_kind:
        words = "not what goes between {mount:a} and {caliper:a} caliper"
        return say(words, mount=mount, caliper=caliper)
    if not adapter.sizes_at(end):
        return say("not made for the {end}", end=end)
    if not _starts_from(adapter, native_mm, mount):
        words = "starts from {from_mm:size}, this mount is native {native_mm:size}"
        return say(words, from_mm=adapter.from_mm, native_mm=native_mm)
    return NOTHING


THROUGH_MOST_MM = 23.0
"""post-mount parts up to about this step are bolted through, larger ones have four holes"""
CALIPER_HOLES_MM: dict[CaliperMount, float] = {CaliperMount.POST: 74.2, CaliperMount.FLAT: 34.0}


def what_to_look_for(row: ChainRow, end: End, native_mm: float, rotor_mm: float) -> Sentence:
    """The part that the catalogue lacks, as one asks for it: kind, end, sizes, offset, holes."""
    assert row.adapter is not None
    mount, offset = MOUNT_ROWS[row.mount], rotor_mm - native_mm
    style = ""
    if row.adapter is AdapterKind.POST_TO_POST:
        four = ", four holes: two bolts to the mount, two to the caliper"
        style = ", bolted through" if offset <= THROUGH_MOST_MM else four
    return say(
        "{kind}, {end}, from {native_mm:size} to {rotor_mm:size} (+{offset_mm:size}); holes {spacing_mm:.1} apart, "
        "{direction}, and {caliper_mm:.1} apart for the caliper{style}",
        kind=ADAPTER_WORDS[row.adapter], end=end, native_mm=native_mm, rotor_mm=rotor_mm, offset_mm=offset,
        spacing_mm=mount.spacing_mm, direction=mount.direction_words, caliper_mm=CALIPER_HOLES_MM[row.caliper],
        style=style,
    )  # fmt: skip


def _on_a_carrier(
    row: ChainRow, native_mm: float, end: End, rotor_mm: float, offered: list[Adapter]
) -> tuple[Adapter, Adapter] | None:
    """A carrier for this mount and its maker's own flip plate for the size that the carrier makes; the cheapest."""
    found = []
    for carrier in (a for a in offered if a.carrier and _starts_from(a, native_mm, row.mount)):
        for made in carrier.sizes_at(end):
            found += [
                (carrier, plate)
                for plate in offered
                if plate.maker == carrier.maker
                and not plate.carrier
                and _starts_from(plate, made, row.mount)
                and plate.serves(end, rotor_mm)
            ]
    return min(found, key=lambda pair: (pair[0].price + pair[1].price, pair[0].id, pair[1].id), default=None)


@dataclass(frozen=True)
class Preference:
    """Which of several adapters that serve is taken. The one that is ``wanted``, by its id, is refused in words where it
    does not serve; one that is ``judged_bad`` for this very bike comes after those that are not; the one that is on the
    bike is taken before a cheaper one."""

    wanted: str | None = None
    on_it: str | None = None
    judged_bad: Callable[[Adapter], bool] = lambda _adapter: False

    def order(self, a: Adapter) -> tuple[bool, bool, bool, float, float, str]:
        return a.id != self.wanted, self.judged_bad(a), a.id != self.on_it, a.price, a.mass_g, a.id


def solve_chain(
    mount: MountKind,
    native_mm: float | None,
    end: End,
    caliper: CaliperMount,
    rotor_mm: float,
    adapters: Iterable[Adapter],
    prefer: "Preference | None" = None,
) -> ChainAnswer:
    """Exactly one adapter from the catalogue, or none needed, or not possible and why. Never two stacked.

    Of several that serve, ``prefer`` says which is taken. ``native_mm`` None is answered as unknown: nothing is
    assumed.
    """
    liked = prefer or Preference()
    on_it, wanted = liked.on_it, liked.wanted
    row = row_of(mount, caliper)
    native_mm = IS_ZERO_OFFSET_MM[end] if mount is MountKind.IS else native_mm
    if row is None:
        words = "no adapter is made that puts this caliper on {mount:a} {end}"
        return ChainAnswer(False, say(words, mount=mount, end=end))
    if native_mm is None:
        words = "native rotor size not measured, so the adapter cannot be told"
        return ChainAnswer(False, words, unknown=True)
    sizes = {"rotor_mm": rotor_mm, "native_mm": native_mm}
    if rotor_mm < native_mm - SAME_SIZE_MM:
        words = "{rotor_mm:size} is below the native size {native_mm:size}: a caliper cannot move inward"
        return ChainAnswer(False, say(words, **sizes))
    if row.direct and not row.always and abs(rotor_mm - native_mm) < SAME_SIZE_MM:
        return ChainAnswer(True, say("{rotor_mm:size} is the native size: no adapter", **sizes))
    if row.adapter is None:
        words = "this caliper bolts straight to its tabs and serves {native_mm:size} only"
        return ChainAnswer(False, say(words, **sizes))
    offered = [a for a in adapters if a.adapter_kind is row.adapter and (a.offered or a.id == on_it)]
    serving = (a for a in offered if not a.carrier and _starts_from(a, native_mm, mount) and a.serves(end, rotor_mm))
    fitting = sorted(serving, key=liked.order)
    if wanted is not None and wanted not in {a.id for a in fitting}:
        by_hand = next((a for a in offered if a.id == wanted), None)
        words = "{part} was chosen by hand: it does not carry {native_mm:size} to {rotor_mm:size}"
        return ChainAnswer(False, say(words, part=by_hand.name if by_hand else wanted, **sizes), adapter=by_hand)
    if fitting:
        words = "one {kind}, {native_mm:size} to {rotor_mm:size}"
        reason = say(words, kind=ADAPTER_WORDS[row.adapter], **sizes)
        return ChainAnswer(True, reason, adapter=fitting[0], others=tuple(fitting[1:]))
    pair = _on_a_carrier(row, native_mm, end, rotor_mm, offered)
    if pair is not None:
        words = "{native_mm:size} to {rotor_mm:size}: a carrier made to have its maker's own flip plate on it"
        return ChainAnswer(True, say(words, **sizes), adapter=pair[0], plate=pair[1])
    words = "the catalogue has no single adapter for it; two are never stacked"
    return ChainAnswer(False, words, look_for=what_to_look_for(row, end, native_mm, rotor_mm))
