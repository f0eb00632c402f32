"""The bolt sum: stack, thread engagement, hole bottom, room for the head, and which stock length lies between
(docs/model.md, section 10). The same sum judges a bolt that is on the bike."""

from bisect import bisect_left, bisect_right
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from clavis.core.parts.likeness import cheapest_of_each
from clavis.core.parts.models import Bolt, Caliper, Washers
from clavis.core.parts.mounts import ThreadMaterial
from clavis.core.parts.threads import THREADS, Thread
from clavis.core.sentences import NOTHING, Sentence, Words, joined, say
from clavis.core.verdicts import Verdict
from clavis.core.working import Figure, Given

BOTTOM_CLEARANCE_MM = 1.0
PLAIN_WASHER_MM = 1.0
WASHER_LAYERS = ("washer", "cup and cone")
ENGAGEMENT_DIAMETERS: dict[ThreadMaterial, float] = {ThreadMaterial.LIGHT_ALLOY: 1.5, ThreadMaterial.STEEL: 1.0}
"""wanted thread engagement in bolt diameters (rule of the trade)"""
_SLACK_MM = 1e-9


@dataclass(frozen=True)
class StackLayer:
    """One thing under the head, from the head down."""

    name: str
    height_mm: float | None
    """None where it was not measured"""


@dataclass(frozen=True)
class BoltStack:
    """What one bolt goes through, the room for its head, and the thread at the end of it. Lengths in mm."""

    place: str
    thread: Thread
    layers: tuple[StackLayer, ...]
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
        depth = THREADS[self.thread].typical_depth_mm if self.depth_mm is None else self.depth_mm
        return max(depth - self.lost_mm, 0.0)

    @property
    def needed_mm(self) -> float | None:
        """Thread that the bolt has to hold in; None while the material is unknown."""
        if self.material is None:
            return None
        return ENGAGEMENT_DIAMETERS[self.material] * THREADS[self.thread].diameter_mm

    @property
    def unmeasured(self) -> Sentence:
        """What keeps the sum from being known; nothing where nothing does."""
        missing: list[Words] = [layer.name for layer in self.layers if layer.height_mm is None]
        if self.material is None:
            missing.append(say("material of the thread in the {into}", into=self.into))
        return say("{what} not measured", what=joined(missing, " and ")) if missing else NOTHING

    def same_sum(self, other: "BoltStack") -> bool:
        """Whether two places ask for the same bolt."""
        return replace(self, place="") == replace(other, place="")


def under_head(caliper: Caliper) -> tuple[StackLayer, ...]:
    """What a caliper's own bolts go through at the caliper: washer and tab, or its cup-and-cone pairs about the tab."""
    tab = StackLayer("caliper tab", caliper.tab_mm)
    if caliper.washers is Washers.PLAIN:
        return StackLayer("washer", PLAIN_WASHER_MM), tab
    pair = StackLayer("cup and cone", caliper.washer_pair_mm)
    return pair, tab, pair


@dataclass(frozen=True)
class BoltChoice:
    """The answer for one bolt: allowed lengths, the bolt, what is wrong with its neighbours."""

    stack: BoltStack
    minimum_mm: float | None
    maximum_mm: float | None
    depth_typical: bool
    bolt: Bolt | None
    shorter: Words
    longer: Words
    head: Words
    """why not a usual head, where the room asks for a low one"""
    lacks: Words

    @property
    def figure(self) -> Figure:
        """Its sum. Put together when it is asked for: thousands of bolts are chosen for mounts that nobody looks at."""
        return _working(self.stack, self.bolt, self.lacks)

    @property
    def engagement_mm(self) -> float | None:
        return None if self.bolt is None else self.bolt.length_mm - self.stack.stack_mm

    @property
    def bottom_mm(self) -> float | None:
        """Free length between the bolt's tip and the end of the full thread."""
        return None if self.engagement_mm is None else self.stack.thread_mm - self.engagement_mm


def head_across_mm(bolt: Bolt) -> float:
    """Diameter of a bolt's head: its own figure, or the usual one of its thread."""
    return bolt.head_mm or THREADS[bolt.thread].head_mm


def _head_refusal(bolt: Bolt, stack: BoltStack) -> Sentence:
    """Why a bolt's head does not go where it has to; nothing where it does."""
    room, across = stack.head_room_mm, stack.head_across_mm
    if room is not None and bolt.head_height_mm > room + _SLACK_MM:
        words = "a head of {head_mm:g} stands out of {room_mm:g} of room"
        return say(words, head_mm=bolt.head_height_mm, room_mm=room)
    if across is not None and head_across_mm(bolt) > across + _SLACK_MM:
        words = "a head {head_mm:g} across does not go into a counterbore of {bore_mm:g}"
        return say(words, head_mm=head_across_mm(bolt), bore_mm=across)
    return NOTHING


@dataclass(frozen=True)
class LengthVerdict:
    """One length of bolt held against one stack."""

    length_mm: float
    verdict: Verdict
    words: Sentence


def judge_length(stack: BoltStack, length_mm: float) -> LengthVerdict:
    """The sum for a given length, whatever shelf or bike it comes from: enough thread, and clear of the bottom. A bolt is
    called by its thread and millimetres to every reader, as it is sold.

    Parameters
    ----------
    stack : BoltStack
        What the bolt goes through and the thread at its end, mm.
    length_mm : float
        Length under the head, mm, above zero.

    Returns
    -------
    LengthVerdict
        *Holds*, *fails* with what is wrong, or *unknown* while part of the stack is not measured.

    Source: thread engagement of the trade (1.5 diameters in light alloy, 1 in steel), at least 1 mm short of the end of
    the full thread; both judged (docs/model.md, section 10).

    >>> stack = BoltStack("upper", "M6", (StackLayer("tab", 8.0),), ThreadMaterial.LIGHT_ALLOY, 15.0, "mount")
    >>> [judge_length(stack, mm).verdict.value for mm in (16, 18, 24)]
    ['fails', 'holds', 'fails']
    """
    needed = stack.needed_mm
    if stack.unmeasured or needed is None:
        return LengthVerdict(length_mm, Verdict.UNKNOWN, stack.unmeasured)
    grip = length_mm - stack.stack_mm
    free = stack.thread_mm - grip
    told = {"thread": stack.thread, "length_mm": length_mm, "grip_mm": max(grip, 0.0), "needed_mm": needed}
    if grip < needed - _SLACK_MM:
        words = "{thread} × {length_mm:size} would hold in {grip_mm:.1} of thread; {needed_mm:.1} are needed"
        return LengthVerdict(length_mm, Verdict.FAILS, say(words, **told))
    if free < -_SLACK_MM:
        words = "{thread} × {length_mm:size} would bottom out by {over_mm:.1}"
        return LengthVerdict(length_mm, Verdict.FAILS, say(words, over_mm=-free, **told))
    if free < BOTTOM_CLEARANCE_MM - _SLACK_MM:
        words = "{thread} × {length_mm:size} would end {free_mm:.1} from the end of the thread; {least_mm:.0} is needed"
        return LengthVerdict(length_mm, Verdict.FAILS, say(words, free_mm=free, least_mm=BOTTOM_CLEARANCE_MM, **told))
    return LengthVerdict(length_mm, Verdict.HOLDS, say("{thread} × {length_mm:size} would also do", **told))


def _neighbour(lengths: Sequence[float], stack: BoltStack, edge_mm: float, longer: bool) -> Words:
    """What is wrong with the next length of the shelf beyond an edge; ``lengths`` rise."""
    at = bisect_right(lengths, edge_mm + _SLACK_MM) if longer else bisect_left(lengths, edge_mm - _SLACK_MM) - 1
    return judge_length(stack, lengths[at]).words if 0 <= at < len(lengths) else ""


@dataclass(frozen=True)
class _Row:
    """Bolts of one thread, shortest first, of one length the cheapest."""

    bolts: tuple[Bolt, ...]
    lengths_mm: tuple[float, ...]

    @classmethod
    def of(cls, bolts: Iterable[Bolt]) -> "_Row":
        ordered = tuple(sorted(bolts, key=lambda b: (b.length_mm, b.price, b.id)))
        return cls(ordered, tuple(b.length_mm for b in ordered))

    def right(self, stack: BoltStack, shortest_mm: float, longest_mm: float) -> list[Bolt]:
        """Those between two lengths whose shank stays out of the thread."""
        begin = bisect_left(self.lengths_mm, shortest_mm - _SLACK_MM)
        end = bisect_right(self.lengths_mm, longest_mm + _SLACK_MM)
        reach_mm = stack.stack_mm + _SLACK_MM
        return [b for b in self.bolts[begin:end] if b.length_mm - b.thread_mm <= reach_mm]


_NO_ROW = _Row((), ())


@dataclass(frozen=True)
class Rack:
    """The bolts of a shelf as they are looked for, retired ones left out: by thread, ``every`` one, and the cheapest
    of those that differ in name and price alone. A shelf of thousands is asked for every mount adapter of the trade."""

    every: Mapping[Thread, _Row]
    cheapest: Mapping[Thread, _Row]

    @classmethod
    def of(cls, stock: Iterable[Bolt]) -> "Rack":
        by_thread: dict[Thread, list[Bolt]] = {}
        for bolt in stock:
            if bolt.offered:
                by_thread.setdefault(bolt.thread, []).append(bolt)
        every = {thread: _Row.of(bolts) for thread, bolts in by_thread.items()}
        return cls(every, {thread: _Row.of(cheapest_of_each(bolts)) for thread, bolts in by_thread.items()})


def also_do(choice: BoltChoice, rack: Rack) -> tuple[Bolt, ...]:
    """The other stock bolts that hold, clear the bottom and go in with their head where one was chosen.

    Parameters
    ----------
    choice : BoltChoice
        What was chosen for a stack, with the lengths that it allows, mm.
    rack : Rack
        The shelf.

    Returns
    -------
    tuple of Bolt
        Shortest first, without the one that was chosen; empty while the stack is not measured.

    Source: as ``choose_bolt``.

    >>> stack = BoltStack("upper", "M6", (StackLayer("tab", 8.0),), ThreadMaterial.LIGHT_ALLOY, 15.0, "mount")
    >>> also_do(choose_bolt(stack, Rack.of([])), Rack.of([]))
    ()
    """
    if choice.minimum_mm is None or choice.maximum_mm is None:
        return ()
    row = rack.every.get(choice.stack.thread, _NO_ROW)
    right = row.right(choice.stack, choice.minimum_mm, choice.maximum_mm)
    return tuple(b for b in right if b != choice.bolt and not _head_refusal(b, choice.stack))


def choose_bolt(stack: BoltStack, rack: Rack) -> BoltChoice:
    """The shortest stock bolt between L_min and L_max whose head goes in.

    L_min = stack + n·d, L_max = stack + depth − 1 mm; the unthreaded shank must stay out of the thread.

    Parameters
    ----------
    stack : BoltStack
        Layers from the head down, mm; the thread's material and depth, mm. An unmeasured depth is taken as typical of
        the thread and said to be so; an unmeasured layer or material leaves the choice unknown.
    rack : Rack
        The shelf.

    Returns
    -------
    BoltChoice
        The bolt, or why there is none, the allowed lengths in mm, and its working.

    Source: engagement rule of the trade, 1.5 d in light alloy, 1 d in steel (docs/model.md, section 10).

    >>> stack = BoltStack("upper", "M6", (StackLayer("tab", 8.0),), ThreadMaterial.LIGHT_ALLOY, 15.0, "mount")
    >>> choice = choose_bolt(stack, Rack.of([]))
    >>> choice.bolt, choice.minimum_mm, choice.maximum_mm
    (None, 17.0, 22.0)
    """
    needed, lacks = stack.needed_mm, stack.unmeasured
    if lacks or needed is None:
        return BoltChoice(stack, None, None, stack.depth_mm is None, None, "", "", "", lacks)
    shortest, longest = stack.stack_mm + needed, stack.stack_mm + stack.thread_mm - BOTTOM_CLEARANCE_MM
    row = rack.cheapest.get(stack.thread, _NO_ROW)
    long_enough = row.right(stack, shortest, longest)
    bolt = next((b for b in long_enough if not _head_refusal(b, stack)), None)
    told = bolt is None or bolt.head == "low"
    refused = next((why for b in long_enough if (why := _head_refusal(b, stack))), NOTHING) if told else NOTHING
    if bolt is None:
        words = "no stock length between {shortest_mm:.1} and {longest_mm:.1}"
        lacks = say(words, shortest_mm=shortest, longest_mm=longest)
        if refused:
            lacks = say("no stock bolt of that length has a head that goes in: {why}", why=refused)
    lengths = row.lengths_mm
    below, above = (shortest, max(shortest, longest)) if bolt is None else (bolt.length_mm, bolt.length_mm)
    return BoltChoice(
        stack=stack,
        minimum_mm=shortest,
        maximum_mm=longest,
        depth_typical=stack.depth_mm is None,
        bolt=bolt,
        shorter=_neighbour(lengths, stack, below, longer=False),
        longer=_neighbour(lengths, stack, above, longer=True),
        head=refused if bolt is not None and refused else "",
        lacks=lacks,
    )


def _working(stack: BoltStack, bolt: Bolt | None, lacks: Words) -> Figure:
    """The sum of one bolt, put together from the very values that chose it."""
    key, label = f"bolt {stack.place}", f"bolt, {stack.place}"
    layers = tuple(
        Given(f"s{k}", x.name, x.height_mm, "mm", "part, or as measured") for k, x in enumerate(stack.layers, 1)
    )
    if stack.unmeasured or stack.material is None or stack.needed_mm is None:
        return Figure(key, label, None, "mm", given=layers, lacks=lacks)
    depth: Words = "typical, measure yours" if stack.depth_mm is None else "measured or as its maker states"
    if stack.lost_mm:
        depth = say("{depth}, {lost_mm:.1} of it lost", depth=depth, lost_mm=stack.lost_mm)
    turns, diameter = ENGAGEMENT_DIAMETERS[stack.material], THREADS[stack.thread].diameter_mm
    bounds = {
        "stack_mm": stack.stack_mm,
        "least_mm": stack.stack_mm + stack.needed_mm,
        "most_mm": stack.stack_mm + stack.thread_mm - BOTTOM_CLEARANCE_MM,
        "free_mm": BOTTOM_CLEARANCE_MM,
    }
    summed = joined([say("{high_mm:.1}", high_mm=x.height_mm) for x in stack.layers], " + ")
    return Figure(
        key=key,
        label=label,
        value=bolt.length_mm if bolt else None,
        unit="mm",
        equation="L_stack + n·d ≤ L ≤ L_stack + depth − free",
        given=(
            *layers,
            Given("n", "engagement in diameters", turns, "ratio", stack.material.value.replace("_", " "), 1),
            Given("d", "thread diameter", diameter, "mm", stack.thread, 0),
            Given("depth", "full thread depth", stack.thread_mm, "mm", depth),
            Given("free", "left free at the end of the thread", BOTTOM_CLEARANCE_MM, "mm", "judged", 0),
        ),
        steps=(
            say("L_stack = {summed} = {stack_mm:.1}", summed=summed, **bounds),
            say("{least_mm:.1} ≤ L ≤ {most_mm:.1}", **bounds),
        ),
        source="thread engagement rule of the trade, by the material of the thread",
        uncertainty="the maker's own length wins",
        lacks=lacks,
        decimals=1,
    )
