"""What each bolt of a chain goes through, from the head down: the layers that the bolt sum adds up (docs/model.md, section 10)."""

from dataclasses import dataclass
from enum import StrEnum

from clavis.core.fit.bolts import PLAIN_WASHER_MM, BoltStack, StackLayer, under_head
from clavis.core.job.wheel import Wheel
from clavis.core.parts.models import Adapter, Caliper
from clavis.core.parts.mounts import MOUNT_ROWS, BoltStyle, CaliperMount, MountKind, ThreadMaterial
from clavis.core.parts.threads import Thread

PROUD_COUNTS_MM = 0.05
"""what a face stands off the standard's place counts against the bolt from here on"""
PROUD_LAYER = "face outside its place"


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


class _Stacks:
    """Builds the bolts of one chain, two by two, upper first."""

    def __init__(self, mount: MountKind, wheel: Wheel, proud_mm: float) -> None:
        self.bolts: list[ChainBolt] = []
        self.mount, self.wheel, self.proud_mm = mount, wheel, proud_mm
        self.thread: Thread = MOUNT_ROWS[mount].thread
        self.into = "fork" if mount is MountKind.FLAT_FRONT else "mount"

    def tab_mm(self, upper: bool) -> float | None:
        low = self.wheel.lower_tab_mm
        return self.wheel.tab_mm if upper or low is None else low

    def add(self, upper: bool, run: Run, place: str, layers: tuple[StackLayer, ...], **more: object) -> None:
        side = "upper" if upper else "lower"
        stack = BoltStack(place=f"{side}, {place}" if place else side, layers=layers, **more)  # type: ignore[arg-type]
        self.bolts.append(ChainBolt(upper, run, stack))

    def crosswise(self, upper: bool, place: str, depth_mm: float | None, into: str) -> None:
        """Through an unthreaded tab, from the side."""
        layers = (WASHER, StackLayer("IS tab", self.tab_mm(upper)))
        self.add(upper, Run.CROSSWISE, place, layers, thread="M6", material=ALLOY, depth_mm=depth_mm, into=into)

    def from_below(self, upper: bool, more: tuple[StackLayer, ...], depth_mm: float | None, into: str) -> None:
        """Through the unthreaded stay and what lies on it, from below."""
        layers, place = (WASHER, StackLayer("chainstay", self.tab_mm(upper)), *more), "from below"
        self.add(upper, Run.FROM_BELOW, place, layers, thread="M5", material=ALLOY, depth_mm=depth_mm, into=into)

    def to_mount(self, run: Run, place: str, upper: bool, layers: tuple[StackLayer, ...], part: Adapter | None) -> None:
        """Into the mount's own thread, counted from where the standard has its face."""
        proud = self.proud_mm
        if proud > PROUD_COUNTS_MM:
            layers = (*layers, StackLayer(PROUD_LAYER, round(proud, 2)))
        low = self.wheel.lower_depth_mm
        self.add(
            upper, run, place, layers, thread=self.thread, material=self.wheel.thread_material,
            depth_mm=self.wheel.hole_depth_mm if upper or low is None else low, into=self.into,
            head_room_mm=part.head_room_mm if part else None, head_across_mm=part.counterbore_mm if part else None,
            lost_mm=round(-proud, 2) if proud < -PROUD_COUNTS_MM else 0.0,
        )  # fmt: skip


SIDES = (True, False)
"""upper first"""
ALLOY, WASHER = ThreadMaterial.LIGHT_ALLOY, StackLayer("washer", PLAIN_WASHER_MM)


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
            spacer = (StackLayer("spacer", _height(last, upper)),) if last else ()
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
            s.to_mount(Run.CALIPER_TO_MOUNT, "", upper, (*own, StackLayer("adapter", _height(last, upper))), None)
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
            s.to_mount(Run.PART_TO_MOUNT, f"to {s.into}", upper, (StackLayer(name, first.flange_mm),), first)
    if last is not first:
        for upper in SIDES:
            s.add(upper, Run.PLATE_TO_CARRIER, "plate to carrier", (StackLayer("plate", last.flange_mm),), thread="M5",
                  material=ALLOY, depth_mm=first.thread_depth_mm, into="carrier", head_room_mm=last.head_room_mm,
                  head_across_mm=last.counterbore_mm)  # fmt: skip
    for upper in SIDES:
        if caliper.mount is CaliperMount.FLAT:
            s.add(upper, Run.PLATE_TO_CALIPER, "plate to caliper", (StackLayer("plate", _height(last, upper)),), thread="M5",
                  material=ALLOY, depth_mm=None, into="caliper")  # fmt: skip
        else:
            s.add(upper, Run.CALIPER_TO_PART, "to adapter", under_head(caliper), thread="M6", material=ALLOY,
                  depth_mm=last.thread_depth_mm, into="adapter")  # fmt: skip


TO_MOUNT = frozenset({Run.CALIPER_TO_MOUNT, Run.PART_TO_MOUNT, Run.CROSSWISE, Run.FROM_BELOW})
"""the bolts that take the place of those that are at the mount now"""
