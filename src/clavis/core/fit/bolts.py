"""The bolt sum: stack, thread engagement, hole bottom, room for the head, and which stock length lies between
(model, 10). The same sum judges a bolt that is on the bike."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from clavis.core.parts.models import Bolt, Caliper, Thread, Washers
from clavis.core.parts.mounts import ThreadMaterial
from clavis.core.verdicts import Verdict
from clavis.core.working import Figure, Given

DIAMETER_MM: dict[Thread, float] = {"M5": 5.0, "M6": 6.0, "M8": 8.0}
TYPICAL_DEPTH_MM: dict[Thread, float] = {"M5": 10.0, "M6": 15.0, "M8": 18.0}
"""full-thread depth where it was not measured; shown as typical"""
BOTTOM_CLEARANCE_MM = 1.0
PLAIN_WASHER_MM = 1.0
WASHER_LAYERS = ("washer", "cup and cone")
BOLT_HEAD_MM: dict[Thread, float] = {"M5": 8.5, "M6": 10.0, "M8": 13.0}
"""head diameter of a cap screw, ISO 4762; a part's own figure wins"""
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
    """What one bolt goes through, the room for its head, and the thread at the end of it. Lengths in mm."""

    place: str
    thread: Thread
    layers: tuple[Layer, ...]
    material: ThreadMaterial | None
    depth_mm: float | None
    into: str
    head_room_mm: float | None = None
    """depth for the head under what lies over it; None where nothing does"""
    head_across_mm: float | None = None
    """diameter of the counterbore for the head; None where there is none"""
    lost_mm: float = 0.0
    """thread that a face inside the standard's place has lost"""

    @property
    def stack_mm(self) -> float:
        return sum(layer.height_mm or 0.0 for layer in self.layers)

    @property
    def thread_mm(self) -> float:
        """Full thread at the end of the stack: measured or typical, less what the face has lost."""
        depth = TYPICAL_DEPTH_MM[self.thread] if self.depth_mm is None else self.depth_mm
        return max(depth - self.lost_mm, 0.0)

    @property
    def needed_mm(self) -> float | None:
        """Thread that the bolt has to hold in; None while the material is unknown."""
        return None if self.material is None else ENGAGEMENT_DIAMETERS[self.material] * DIAMETER_MM[self.thread]

    @property
    def unmeasured(self) -> str:
        """What keeps the sum from being known, in words; empty when nothing does."""
        missing = [layer.name for layer in self.layers if layer.height_mm is None]
        if self.material is None:
            missing.append(f"material of the thread in the {self.into}")
        return "" if not missing else " and ".join(missing) + " not measured"

    def same_sum(self, other: "BoltStack") -> bool:
        """Whether two places ask for the same bolt."""
        return replace(self, place="") == replace(other, place="")


def under_head(caliper: Caliper) -> tuple[Layer, ...]:
    """What a caliper's own bolts go through at the caliper: washer and tab, or its cup-and-cone pairs about the tab."""
    tab = Layer("caliper tab", caliper.tab_mm)
    if caliper.washers is Washers.PLAIN:
        return Layer("washer", PLAIN_WASHER_MM), tab
    pair = caliper.washer_pair_mm
    return Layer("cup and cone", pair), tab, Layer("cup and cone", pair)


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
    head: str
    """why not a usual head, where the room asks for a low one"""
    lacks: str
    figure: Figure

    @property
    def engagement_mm(self) -> float | None:
        return None if self.bolt is None else self.bolt.length_mm - self.stack.stack_mm

    @property
    def bottom_mm(self) -> float | None:
        """Free length between the bolt's tip and the end of the full thread."""
        return None if self.engagement_mm is None else self.stack.thread_mm - self.engagement_mm


def _head_refusal(bolt: Bolt, stack: BoltStack) -> str:
    """Why a bolt's head does not go where it has to; empty where it does."""
    if stack.head_room_mm is not None and bolt.head_height_mm > stack.head_room_mm + 1e-9:
        return f"a head of {bolt.head_height_mm:g} mm stands out of {stack.head_room_mm:g} mm of room"
    across = bolt.head_mm or BOLT_HEAD_MM[bolt.thread]
    if stack.head_across_mm is not None and across > stack.head_across_mm + 1e-9:
        return f"a head {across:g} mm across does not go into a counterbore of {stack.head_across_mm:g}"
    return ""


@dataclass(frozen=True)
class LengthVerdict:
    """One length of bolt held against one stack."""

    length_mm: float
    verdict: Verdict
    words: str


def judge_length(stack: BoltStack, length_mm: float) -> LengthVerdict:
    """The sum for a given length, whatever shelf or bike it comes from: enough thread, and clear of the bottom."""
    needed = stack.needed_mm
    if stack.unmeasured or needed is None:
        return LengthVerdict(length_mm, Verdict.UNKNOWN, stack.unmeasured)
    grip = length_mm - stack.stack_mm
    free = stack.thread_mm - grip
    if grip < needed - 1e-9:
        words = f"{length_mm:g} mm would hold in {max(grip, 0):.1f} mm of thread; {needed:.1f} are needed"
        return LengthVerdict(length_mm, Verdict.FAILS, words)
    if free < -1e-9:
        return LengthVerdict(length_mm, Verdict.FAILS, f"{length_mm:g} mm would bottom out by {-free:.1f} mm")
    if free < BOTTOM_CLEARANCE_MM - 1e-9:
        ends = f"{length_mm:g} mm would end {free:.1f} mm from the end of the thread"
        return LengthVerdict(length_mm, Verdict.FAILS, f"{ends}; {BOTTOM_CLEARANCE_MM:.0f} is needed")
    return LengthVerdict(length_mm, Verdict.HOLDS, f"{length_mm:g} mm would also do")


def _neighbour(lengths: Sequence[float], stack: BoltStack, bolt: Bolt | None, limit: float, longer: bool) -> str:
    """What is wrong with the next length beyond the one taken, or beyond the limit where none is."""
    edge = limit if bolt is None else bolt.length_mm
    found = [mm for mm in lengths if (mm > edge + 1e-9 if longer else mm < edge - 1e-9)]
    return "" if not found else judge_length(stack, found[0] if longer else found[-1]).words


def choose_bolt(stack: BoltStack, stock: Iterable[Bolt]) -> BoltChoice:
    """The shortest stock bolt between L_min = stack + n·d and L_max = stack + depth − 1 mm whose head goes in.

    The unthreaded shank must stay out of the thread. Where the thread's material is unknown nothing is
    chosen; an unmeasured depth is taken as typical and said to be so.
    """
    typical, needed = stack.depth_mm is None, stack.needed_mm
    given = [Given(f"s{k}", x.name, x.height_mm, "mm", "part, or as measured") for k, x in enumerate(stack.layers, 1)]
    key, label = f"bolt {stack.place}", f"bolt, {stack.place}"
    if stack.unmeasured or needed is None or stack.material is None:
        lacks = stack.unmeasured
        figure = Figure(key, label, None, "mm", given=tuple(given), lacks=lacks)
        return BoltChoice(stack, None, None, typical, None, "", "", "", lacks, figure)
    shortest, longest = stack.stack_mm + needed, stack.stack_mm + stack.thread_mm - BOTTOM_CLEARANCE_MM
    rows = sorted(
        (b for b in stock if b.thread == stack.thread and not b.retired), key=lambda b: (b.length_mm, b.price, b.id)
    )
    long_enough = [
        b
        for b in rows
        if shortest - 1e-9 <= b.length_mm <= longest + 1e-9 and b.length_mm - b.thread_mm <= stack.stack_mm + 1e-9
    ]
    bolt = next((b for b in long_enough if not _head_refusal(b, stack)), None)
    lengths = sorted({b.length_mm for b in rows})
    refused = next((why for b in long_enough if (why := _head_refusal(b, stack))), "")
    lacks = ""
    if bolt is None:
        lacks = f"no stock length between {shortest:.1f} and {longest:.1f} mm"
        lacks = f"no stock bolt of that length has a head that goes in: {refused}" if refused else lacks
    summed = " + ".join(f"{x.height_mm:.1f}" for x in stack.layers) + f" = {stack.stack_mm:.1f} mm"
    lost = f" − {stack.lost_mm:.1f} lost" if stack.lost_mm else ""
    figure = Figure(
        key=key,
        label=label,
        value=bolt.length_mm if bolt else None,
        unit="mm",
        equation="L_stack + n·d ≤ L ≤ L_stack + depth − 1 mm",
        given=(
            *given,
            Given("n", "engagement in diameters", ENGAGEMENT_DIAMETERS[stack.material], "ratio",
                  stack.material.value.replace("_", " "), 1),
            Given("d", "thread diameter", DIAMETER_MM[stack.thread], "mm", stack.thread, 0),
            Given("depth", "full thread depth", stack.thread_mm, "mm",
                  ("typical, measure yours" if typical else "measured or as its maker states") + lost),
        ),
        steps=(f"L_stack = {summed}", f"{shortest:.1f} mm ≤ L ≤ {longest:.1f} mm"),
        source="thread engagement rule of the trade: 1.5 d in light alloy, 1 d in steel",
        uncertainty="the maker's own length wins",
        lacks=lacks,
        decimals=1,
    )  # fmt: skip
    shorter = _neighbour(lengths, stack, bolt, shortest, longer=False)
    longer = _neighbour(lengths, stack, bolt, max(shortest, longest), longer=True)
    head = refused if bolt is not None and refused and bolt.head == "low" else ""
    return BoltChoice(stack, shortest, longest, typical, bolt, shorter, longer, head, lacks, figure)
