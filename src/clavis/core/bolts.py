"""The bolt sum: stack, thread engagement, hole bottom, and which stock length lies between (model, 10)."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from clavis.core.mounts import ThreadMaterial
from clavis.core.parts import Bolt
from clavis.core.working import Figure, Given

Thread = Literal["M5", "M6"]
DIAMETER_MM: dict[Thread, float] = {"M5": 5.0, "M6": 6.0}
TYPICAL_DEPTH_MM: dict[Thread, float] = {"M6": 15.0, "M5": 10.0}
"""full-thread depth where it was not measured; shown as typical"""
BOTTOM_CLEARANCE_MM = 1.0
PLAIN_WASHER_MM = 1.0


ENGAGEMENT_DIAMETERS: dict[ThreadMaterial, float] = {ThreadMaterial.LIGHT_ALLOY: 1.5, ThreadMaterial.STEEL: 1.0}
"""wanted thread engagement in bolt diameters"""


@dataclass(frozen=True)
class Layer:
    """One thing under the head, from the head down."""

    name: str
    height_mm: float | None
    """None where it was not measured"""


@dataclass(frozen=True)
class BoltStack:
    """What one bolt goes through, and the thread at the end of it. Lengths in mm."""

    place: str
    thread: Thread
    layers: tuple[Layer, ...]
    material: ThreadMaterial | None
    depth_mm: float | None
    into: str

    @property
    def stack_mm(self) -> float:
        return sum(layer.height_mm or 0.0 for layer in self.layers)

    @property
    def unmeasured(self) -> str:
        """What keeps the sum from being known, in words; empty when nothing does."""
        missing = [layer.name for layer in self.layers if layer.height_mm is None]
        if self.material is None:
            missing.append(f"material of the thread in the {self.into}")
        return "" if not missing else " and ".join(missing) + " not measured"


@dataclass(frozen=True)
class BoltChoice:
    """The answer for one bolt: allowed lengths, the bolt, what is wrong with its neighbours."""

    stack: BoltStack
    minimum_mm: float | None
    maximum_mm: float | None
    depth_typical: bool
    bolt: Bolt | None
    shorter: str
    longer: str
    lacks: str
    figure: Figure

    @property
    def engagement_mm(self) -> float | None:
        return None if self.bolt is None else self.bolt.length_mm - self.stack.stack_mm

    @property
    def bottom_mm(self) -> float | None:
        """Free length between the bolt's tip and the end of the full thread."""
        depth = self.stack.depth_mm if self.stack.depth_mm is not None else TYPICAL_DEPTH_MM[self.stack.thread]
        return None if self.engagement_mm is None else depth - self.engagement_mm


def choose_bolt(stack: BoltStack, stock: Iterable[Bolt]) -> BoltChoice:
    """The shortest stock bolt between L_min = stack + n·d and L_max = stack + depth − 1 mm.

    The unthreaded shank must stay out of the thread. Where the thread's material is unknown nothing is
    chosen; an unmeasured depth is taken as typical and said to be so.
    """
    diameter = DIAMETER_MM[stack.thread]
    typical = stack.depth_mm is None
    depth = TYPICAL_DEPTH_MM[stack.thread] if stack.depth_mm is None else stack.depth_mm
    longest = stack.stack_mm + depth - BOTTOM_CLEARANCE_MM
    given = [
        Given("L_stack", " + ".join(layer.name for layer in stack.layers), stack.stack_mm, "mm", "parts and washers")
    ]
    if stack.unmeasured or stack.material is None:
        lacks = stack.unmeasured
        figure = Figure(f"bolt {stack.place}", f"bolt, {stack.place}", None, "mm", given=tuple(given), lacks=lacks)
        return BoltChoice(stack, None, None, typical, None, "", "", lacks, figure)
    turns = ENGAGEMENT_DIAMETERS[stack.material]
    shortest = stack.stack_mm + turns * diameter
    lengths = sorted(
        (b for b in stock if b.thread == stack.thread and not b.retired), key=lambda b: (b.length_mm, b.price, b.id)
    )
    between = [
        b
        for b in lengths
        if shortest - 1e-9 <= b.length_mm <= longest + 1e-9 and b.length_mm - b.thread_mm <= stack.stack_mm + 1e-9
    ]
    bolt = between[0] if between else None
    below = [b.length_mm for b in lengths if b.length_mm < (bolt.length_mm if bolt else shortest) - 1e-9]
    above = [b.length_mm for b in lengths if b.length_mm > (bolt.length_mm if bolt else longest) + 1e-9]
    shorter = longer = ""
    if below:
        grip = below[-1] - stack.stack_mm
        shorter = (
            f"{below[-1]:g} mm would hold in {max(grip, 0):.1f} mm of thread; {turns * diameter:.1f} are needed"
            if grip < turns * diameter - 1e-9
            else f"{below[-1]:g} mm would also do"
        )
    if above:
        free = depth - (above[0] - stack.stack_mm)
        longer = (
            f"{above[0]:g} mm would end {free:.1f} mm from the end of the thread; {BOTTOM_CLEARANCE_MM:.0f} is needed"
            if 0 <= free < BOTTOM_CLEARANCE_MM - 1e-9
            else f"{above[0]:g} mm would bottom out by {-free:.1f} mm"
            if free < 0
            else f"{above[0]:g} mm would also do"
        )
    lacks = "" if bolt else f"no stock length between {shortest:.1f} and {longest:.1f} mm"
    figure = Figure(
        key=f"bolt {stack.place}",
        label=f"bolt, {stack.place}",
        value=bolt.length_mm if bolt else None,
        unit="mm",
        equation="L_stack + n·d ≤ L ≤ L_stack + depth − 1 mm",
        given=(
            *given,
            Given("n", "engagement in diameters", turns, "ratio", stack.material.value.replace("_", " "), 1),
            Given("d", "thread diameter", diameter, "mm", stack.thread, 0),
            Given("depth", "full thread depth", depth, "mm", "typical, measure yours" if typical else "measured"),
        ),
        steps=(f"{shortest:.1f} mm ≤ L ≤ {longest:.1f} mm",),
        source="thread engagement rule of the trade: 1.5 d in light alloy, 1 d in steel",
        uncertainty="the maker's own length wins",
        lacks=lacks,
        decimals=1,
    )
    return BoltChoice(stack, shortest, longest, typical, bolt, shorter, longer, lacks, figure)
