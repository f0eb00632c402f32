"""The cut through a bolt and its stack: what it goes through, how far it holds, what is free beyond it (docs/model.md, section 10)."""

from dataclasses import dataclass

from clavis.core.fit.bolts import WASHER_LAYERS, BoltChoice, head_across_mm
from clavis.core.parts.threads import THREADS
from clavis.core.sentences import Words, say


@dataclass(frozen=True)
class CutPiece:
    """A piece of the cut through a bolt: from and to along the bolt from under its head, and half its width, mm."""

    kind: str
    title: Words
    start_mm: float
    end_mm: float
    half_mm: float


@dataclass(frozen=True)
class BoltCut:
    """The cut through one bolt and its stack. The head bears at 0; lengths in mm along the bolt."""

    place: str
    pieces: tuple[CutPiece, ...]
    stack_mm: float
    engagement_mm: float
    needed_mm: float
    bottom_mm: float
    typical: bool
    words: Words


THREAD_WALL_MM = 4.0
BOTTOM_WALL_MM = 4.0


def cut_of(choice: BoltChoice) -> BoltCut | None:
    """The cut through a chosen bolt: head, layers, thread and its end; None while nothing could be chosen."""
    stack, bolt = choice.stack, choice.bolt
    if bolt is None or choice.engagement_mm is None or choice.bottom_mm is None or stack.needed_mm is None:
        return None
    size = THREADS[stack.thread].diameter_mm
    across = head_across_mm(bolt)
    wall = max(across / 2, size / 2) + THREAD_WALL_MM
    pieces, at = [], 0.0
    for layer in stack.layers:
        high = layer.height_mm or 0.0
        half = across / 2 + 1 if layer.name in WASHER_LAYERS else wall
        pieces.append(CutPiece("layer", say("{name} {high_mm:g}", name=layer.name, high_mm=high), at, at + high, half))
        at += high
    end = at + stack.thread_mm
    pieces += [
        CutPiece(
            "into",
            say("{into}, thread {deep_mm:g} deep", into=stack.into, deep_mm=stack.thread_mm),
            at,
            end + BOTTOM_WALL_MM,
            wall,
        ),
        CutPiece("hole", "thread", at, end, size / 2),
        CutPiece("head", f"head, {bolt.drive}", -bolt.head_height_mm, 0.0, across / 2),
        CutPiece("shank", bolt.model, 0.0, bolt.length_mm, size / 2),
        CutPiece(
            "grip", say("holds in {grip_mm:.1} of thread", grip_mm=choice.engagement_mm), at, bolt.length_mm, size / 2
        ),
    ]
    words = say(
        "{bolt} {place}: {stack_mm:.1} of stack, {grip_mm:.1} in the thread ({needed_mm:.1} needed), {free_mm:.1} short "
        "of its end{typical}",
        bolt=bolt.model, place=stack.place, stack_mm=stack.stack_mm, grip_mm=choice.engagement_mm,
        needed_mm=stack.needed_mm, free_mm=choice.bottom_mm, typical=" (typical depth)" if choice.depth_typical else "",
    )  # fmt: skip
    return BoltCut(
        stack.place,
        tuple(pieces),
        stack.stack_mm,
        choice.engagement_mm,
        stack.needed_mm,
        choice.bottom_mm,
        choice.depth_typical,
        words,
    )
