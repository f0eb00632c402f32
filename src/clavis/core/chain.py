"""The mount chain: which adapter carries which caliper from which mount to which rotor. One, or none; never two.

The table CHAIN is the rule, ``solve_chain`` reads it. Source: the trade's mount standards as listed in docs/mounts.md.
"""

from collections.abc import Iterable
from dataclasses import dataclass

from clavis.core.mounts import ADAPTER_WORDS, LABELS, AdapterKind, CaliperMount, End, MountKind, native_size_mm
from clavis.core.parts import Adapter


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


@dataclass(frozen=True)
class ChainAnswer:
    """The chain's answer: possible or not and why; the adapter, or none needed; or what to look for."""

    possible: bool
    reason: str
    adapter: Adapter | None = None
    look_for: str = ""
    unknown: bool = False


def _serves(adapter: Adapter, end: End, rotor_mm: float, native_mm: float, mount: MountKind) -> bool:
    from_ok = mount is MountKind.IS or (adapter.from_mm is not None and abs(adapter.from_mm - native_mm) < 0.25)
    return from_ok and any(f.end is end and abs(f.rotor_mm - rotor_mm) < 0.25 for f in adapter.fits)


def solve_chain(
    mount: MountKind,
    native_mm: float | None,
    end: End,
    caliper: CaliperMount,
    rotor_mm: float,
    adapters: Iterable[Adapter],
) -> ChainAnswer:
    """Exactly one adapter from the catalogue, or none needed, or not possible and why. Never two stacked.

    ``native_mm`` None is answered as unknown: nothing is assumed.
    """
    row = next((r for r in CHAIN if r.mount is mount and r.caliper is caliper), None)
    where = f"{LABELS[mount]} {end.value}"
    if row is None:
        return ChainAnswer(False, f"no adapter is made that puts this caliper on a {where}")
    native = native_size_mm(mount, end, native_mm)
    if native is None:
        return ChainAnswer(False, "native rotor size not measured, so the adapter cannot be told", unknown=True)
    if rotor_mm < native - 0.25:
        return ChainAnswer(False, f"{rotor_mm:g} is below the native size {native:g}: a caliper cannot move inward")
    at_native = abs(rotor_mm - native) < 0.25
    if row.direct and not row.always and at_native:
        return ChainAnswer(True, f"{rotor_mm:g} is the native size: no adapter")
    if row.adapter is None:
        return ChainAnswer(False, f"this caliper bolts straight to its tabs and serves {native:g} only")
    offset = rotor_mm - native
    look_for = f"{ADAPTER_WORDS[row.adapter]}, {end.value}, from {native:g} to {rotor_mm:g} (+{offset:g})"
    fitting = [a for a in adapters if a.adapter_kind is row.adapter and _serves(a, end, rotor_mm, native, mount)]
    if not fitting:
        return ChainAnswer(
            False, "the catalogue has no single adapter for it; two are never stacked", look_for=look_for
        )
    best = min(fitting, key=lambda a: (a.price, a.mass_g, a.id))
    return ChainAnswer(True, f"one {ADAPTER_WORDS[row.adapter]}, {native:g} to {rotor_mm:g}", adapter=best)
