"""The cut through a bolt and its stack: what it goes through, how far it holds, what is free beyond it (model, 10)."""

from dataclasses import dataclass

from clavis.core.fit.bolts import BOLT_HEAD_MM, DIAMETER_MM, WASHER_LAYERS, BoltChoice


@dataclass(frozen=True)
class Piece:
    """A piece of the cut through a bolt: from and to along the bolt from under its head, and half its width, mm."""

    kind: str
    title: str
    start_mm: float
    end_mm: float
    half_mm: float


@dataclass(frozen=True)
class Section:
    """The cut through one bolt and its stack. The head bears at 0; lengths in mm along the bolt."""

    place: str
    pieces: tuple[Piece, ...]
    stack_mm: float
    engagement_mm: float
    needed_mm: float
    bottom_mm: float
    typical: bool
    words: str


THREAD_WALL_MM = 4.0
BOTTOM_WALL_MM = 4.0


def section_of(choice: BoltChoice) -> Section | None:
    """The cut through a chosen bolt: head, layers, thread and its end; None while nothing could be chosen."""
    stack, bolt = choice.stack, choice.bolt
    if bolt is None or choice.engagement_mm is None or choice.bottom_mm is None or stack.needed_mm is None:
        return None
    size = DIAMETER_MM[stack.thread]
    across = bolt.head_mm or BOLT_HEAD_MM[stack.thread]
    wall = max(across / 2, size / 2) + THREAD_WALL_MM
    pieces, at = [], 0.0
    for layer in stack.layers:
        high = layer.height_mm or 0.0
        half = across / 2 + 1 if layer.name in WASHER_LAYERS else wall
        pieces.append(Piece("layer", f"{layer.name} {high:g} mm", at, at + high, half))
        at += high
    end = at + stack.thread_mm
    pieces += [
        Piece("into", f"{stack.into}, thread {stack.thread_mm:g} mm deep", at, end + BOTTOM_WALL_MM, wall),
        Piece("hole", "thread", at, end, size / 2),
        Piece("head", f"head, {bolt.drive}", -bolt.head_height_mm, 0.0, across / 2),
        Piece("shank", bolt.model, 0.0, bolt.length_mm, size / 2),
        Piece("grip", f"holds in {choice.engagement_mm:.1f} mm of thread", at, bolt.length_mm, size / 2),
    ]
    words = (
        f"{bolt.model} {stack.place}: {stack.stack_mm:.1f} mm of stack, {choice.engagement_mm:.1f} mm in the thread "
        f"({stack.needed_mm:.1f} needed), {choice.bottom_mm:.1f} mm short of its end"
        f"{' (typical depth)' if choice.depth_typical else ''}"
    )
    return Section(
        stack.place,
        tuple(pieces),
        stack.stack_mm,
        choice.engagement_mm,
        stack.needed_mm,
        choice.bottom_mm,
        choice.depth_typical,
        words,
    )
