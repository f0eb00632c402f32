"""The sieve: every combination of the catalogue's parts on one wheel, refused by the first check that fails, or left
with the worst that the checks say of it.

Parts that are alike in all that the checks see go through as one, and piece by piece, so that a catalogue of hundreds
of each kind neither takes long nor fills the memory. Where more is left than can be weighed while somebody waits, of
parts that are nearly alike the cheapest stands for the others (``thinning``), and it is said.
"""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import islice, product
from math import prod
from typing import Any

import numpy as np
from numpy.typing import NDArray

from clavis.core.fit.checks import CHECKS, ON_IT, CheckRow, Said
from clavis.core.fit.mounting import FitCase, Mounting
from clavis.core.parts.figures import Figures
from clavis.core.parts.models import AXES, AnyPart, Axis, Brake
from clavis.core.selection.thinning import Kept, thinned
from clavis.core.sentences import NOTHING, Words
from clavis.core.verdicts import Verdict, place_of

MOST_WEIGHED = 6000
"""combinations that are laid out and weighed for one wheel; of what is left beyond, the nearly alike go as one"""
MOST_SIEVED = 10_000_000
"""combinations of classes that are looked through; of a catalogue with more, parts that are nearly alike go as one"""
MOST_ASKED = 30_000
"""pairs of parts that one check is asked about; of a catalogue with more that differ, parts that are nearly alike go as
one"""
PIECE = 2_000_000
"""combinations that are held in memory at a time"""
MOST_TOLD = 300
"""of the parts that one reason refuses, how many are told by name"""


@dataclass(frozen=True)
class RefusedFor:
    """One reason of a check: how many combinations it refuses first, and the parts that do not go together."""

    words: Words
    count: int
    parts: tuple[tuple[AnyPart, ...], ...]
    """the first of them"""
    more: int
    """how many there are beside"""


@dataclass(frozen=True)
class Refusal:
    """How many combinations one check refuses first, and why."""

    row: CheckRow
    count: int
    reasons: tuple[RefusedFor, ...]


@dataclass(frozen=True)
class Sieve:
    """All combinations of the catalogue, refused or left. ``left`` are indices (n, 4) into the part lists of those that
    are weighed, ``verdicts`` (n,) the worst that the checks say of each, as places in the order of verdicts. ``fits``
    is how many are left of those that were looked through."""

    parts: Mapping[Axis, Sequence[Any]]
    total: int
    looked_through: int
    refusals: tuple[Refusal, ...]
    left: NDArray[np.int64]
    verdicts: NDArray[np.int8]
    fits: int

    @property
    def thinned(self) -> bool:
        """Whether some of what is left stands for others that are nearly alike."""
        return len(self.left) < self.fits or self.looked_through < self.total

    def brakes(self) -> list[Brake]:
        """The combinations that are weighed."""
        rotors, calipers, levers, pads = (self.parts[axis] for axis in AXES)
        return [Brake(rotors[r], calipers[c], levers[v], pads[p]) for r, c, v, p in self.left]


@dataclass(frozen=True)
class Classes:
    """Parts of one kind, those that no check tells apart as one class: the places of each class's parts."""

    members: tuple[tuple[int, ...], ...]

    @cached_property
    def firsts(self) -> list[int]:
        return [places[0] for places in self.members]

    @cached_property
    def sizes(self) -> NDArray[np.int64]:
        return np.array([len(places) for places in self.members], dtype=np.int64)


@dataclass(frozen=True)
class _Asked:
    """What one check says of every combination of the parts it sees: verdicts over (groups of) parts, the words where
    it fails, and each part's group."""

    verdicts: NDArray[np.int8]
    words: Mapping[tuple[int, ...], Words]
    groups: Mapping[Axis, NDArray[np.int64]]

    def spread(self, parts: Mapping[Axis, Sequence[Any]]) -> NDArray[np.int8]:
        """Verdicts by the parts themselves, one axis for each kind."""
        axes = [axis for axis in AXES if axis in self.groups]
        by_part = self.verdicts[np.ix_(*(self.groups[axis] for axis in axes))] if axes else self.verdicts
        shape = [len(parts[axis]) if axis in self.groups else 1 for axis in AXES]
        return by_part.reshape(shape)


def _offered(mounting: Mounting, axis: Axis, keeps: Sequence[Axis]) -> list[Any]:
    """Parts of one kind that may be chosen: the one that is on the wheel where it is kept."""
    on_it = mounting.wheel.on_it.of(axis)
    if axis in keeps and on_it is not None:
        return [on_it]
    table = mounting.catalogue.of_kind(axis.value).values()
    # what nobody can name may stay
    stays = on_it.id if on_it is not None and on_it.figures is Figures.STAND_IN else None
    return [part for part in table if part.offered or part.id == stays]


def _weight(row: CheckRow, said: Said | None) -> int:
    if said is None or (row.at_trial and said.verdict is Verdict.UNKNOWN):
        return 0
    return place_of(said.verdict)


def _sees(row: CheckRow, mounting: Mounting) -> dict[Axis, tuple[str, ...]]:
    """What a check sees of each kind of part on this wheel."""
    seen = dict(row.sees)
    if mounting.plate is not None and Axis.ROTOR in seen and Axis.CALIPER in seen:
        seen[Axis.CALIPER] = (*seen[Axis.CALIPER], "id")  # a released plate is for one caliper
    return seen


def _key(part: Any, figures: Sequence[str], on_it: object) -> tuple[Any, ...]:
    return tuple(part == on_it if figure == ON_IT else getattr(part, figure) for figure in figures)


def _ask(row: CheckRow, mounting: Mounting, parts: Mapping[Axis, Sequence[Any]]) -> _Asked:
    """Parts that are alike in all that a check sees are asked for once."""
    seen = _sees(row, mounting)
    groups: dict[Axis, NDArray[np.int64]] = {}
    firsts: dict[Axis, list[Any]] = {}
    for axis, figures in seen.items():
        known: dict[tuple[Any, ...], int] = {}
        firsts[axis] = []
        places, on_it = [], mounting.wheel.on_it.of(axis)
        for part in parts[axis]:
            key = _key(part, figures, on_it)
            if key not in known:
                known[key] = len(known)
                firsts[axis].append(part)
            places.append(known[key])
        groups[axis] = np.array(places, dtype=np.int64)
    axes = [axis for axis in AXES if axis in seen]
    verdicts = np.zeros([len(firsts[axis]) for axis in axes], dtype=np.int8)
    words: dict[tuple[int, ...], Words] = {}
    for index in np.ndindex(*verdicts.shape):
        chosen = {axis.value: firsts[axis][k] for axis, k in zip(axes, index, strict=True)}
        said = row.says(FitCase(mounting, Brake(**chosen)))
        verdicts[index] = _weight(row, said)
        if said is not None and said.verdict is Verdict.FAILS:
            words[index] = said.words
    return _Asked(verdicts, words, groups)


def _seen(mounting: Mounting) -> dict[Axis, tuple[str, ...]]:
    """What any check sees of each kind of part."""
    found: dict[Axis, dict[str, None]] = {axis: {} for axis in AXES}
    for row in CHECKS:
        for axis, figures in _sees(row, mounting).items():
            found[axis] |= dict.fromkeys(figures)
    return {axis: tuple(figures) for axis, figures in found.items()}


def _alike(mounting: Mounting, axis: Axis, parts: Sequence[Any], figures: tuple[str, ...]) -> Classes:
    on_it = mounting.wheel.on_it.of(axis)
    classes: dict[tuple[Any, ...], list[int]] = {}
    for place, part in enumerate(parts):
        classes.setdefault(_key(part, figures, on_it), []).append(place)
    return Classes(tuple(tuple(places) for places in classes.values()))


class _Counted:
    """What one check refuses first, summed up piece by piece: how many combinations, by the classes that it sees."""

    def __init__(self, asked: _Asked, classes: Mapping[Axis, Classes]) -> None:
        self.asked, self.classes = asked, classes
        self.axes = [axis for axis in AXES if axis in asked.groups]
        self.counts = np.zeros([len(classes[axis].members) for axis in self.axes], dtype=np.int64)

    def add(self, hit: NDArray[np.bool_], piece: slice) -> None:
        """``hit`` are classes of all four kinds, of the first kind those of this piece."""
        summed: NDArray[np.int64] = hit.astype(np.int64)
        for k in reversed(range(len(AXES))):
            sizes = self.classes[AXES[k]].sizes[piece] if k == 0 else self.classes[AXES[k]].sizes
            shape = [-1 if j == k else 1 for j in range(summed.ndim)]
            summed = summed * sizes.reshape(shape)
            if AXES[k] not in self.asked.groups:
                summed = summed.sum(axis=k)
        if AXES[0] in self.asked.groups:
            self.counts[piece] += summed
        else:
            self.counts += summed

    def refusal(self, row: CheckRow, parts: Mapping[Axis, Sequence[Any]]) -> Refusal:
        """Why, most first."""
        counts: dict[Words, int] = {}
        found: dict[Words, list[tuple[int, ...]]] = {}
        for index in np.argwhere(self.counts):
            place = tuple(int(k) for k in index)
            group = tuple(int(self.asked.groups[axis][k]) for axis, k in zip(self.axes, place, strict=True))
            words = self.asked.words[group]
            counts[words] = counts.get(words, 0) + int(self.counts[place])
            found.setdefault(words, []).append(place)
        told = []
        for words, places in found.items():
            named = tuple(islice(self._named(places, parts), MOST_TOLD))
            told.append(RefusedFor(words, counts[words], named, self._sum(places) - len(named)))
        return Refusal(row, int(self.counts.sum()), tuple(sorted(told, key=lambda reason: -reason.count)))

    def _sum(self, places: Iterable[tuple[int, ...]]) -> int:
        """How many parts, or sets of parts, these classes are."""
        return sum(
            prod(len(self.classes[axis].members[k]) for axis, k in zip(self.axes, place, strict=True))
            for place in places
        )

    def _named(
        self, places: Iterable[tuple[int, ...]], parts: Mapping[Axis, Sequence[Any]]
    ) -> Iterable[tuple[AnyPart, ...]]:
        for place in places:
            members = [self.classes[axis].members[k] for axis, k in zip(self.axes, place, strict=True)]
            for one in product(*members):
                yield tuple(parts[axis][k] for axis, k in zip(self.axes, one, strict=True))


def sieve(mounting: Mounting, keeps: Sequence[Axis] = ()) -> Sieve:
    """Drop the impossible; each combination is counted under the first check that it fails. Of the axes in ``keeps``
    only the part that is on the wheel is looked at."""
    offered = {axis: _offered(mounting, axis, keeps) for axis in AXES}
    total = _combinations(offered)
    seen = _seen(mounting)
    parts = _narrowed(mounting, offered, seen)
    nothing = np.zeros((0, len(AXES)), dtype=np.int64), np.zeros(0, dtype=np.int8)
    none = Sieve(parts, total, _combinations(parts), (), *nothing, 0)
    why_not = mounting.wheel.mount.why_not if mounting.plate is None else NOTHING
    if why_not:  # nothing can be said to fit where the mount is not told
        row = next(row for row in CHECKS if row.key == "chain")
        told = (RefusedFor(why_not, total, (), 0),) if total else ()
        return replace(none, refusals=(Refusal(row, total, told),))
    classes = {axis: _alike(mounting, axis, parts[axis], seen[axis]) for axis in AXES}
    firsts = {axis: [parts[axis][k] for k in classes[axis].firsts] for axis in AXES}
    asked = [(row, _ask(row, mounting, firsts)) for row in CHECKS]
    counted = [_Counted(answer, classes) for _, answer in asked]
    spread = [answer.spread(firsts) for _, answer in asked]
    left, verdicts = _through(spread, counted, [len(firsts[axis]) for axis in AXES])
    refusals = tuple(count.refusal(row, parts) for (row, _), count in zip(asked, counted, strict=True))
    kept = _kept(mounting, parts, classes, left)
    fitted = [mounting.wheel.on_it.of(axis) for axis in AXES]
    on_it = [next((k for k, part in enumerate(parts[a]) if part == p), -1) for a, p in zip(AXES, fitted, strict=True)]
    places, of_class = _expanded(left, kept.members, np.array(on_it))
    fits = int(_how_many(left, [classes[axis].sizes for axis in AXES]).sum())
    return replace(none, refusals=refusals, left=places, verdicts=verdicts[of_class], fits=fits)


def _combinations(parts: Mapping[Axis, Sequence[Any]]) -> int:
    return prod(len(parts[axis]) for axis in AXES)


def _narrowed(
    mounting: Mounting, parts: dict[Axis, list[Any]], seen: Mapping[Axis, tuple[str, ...]]
) -> dict[Axis, list[Any]]:
    """The parts that are looked through: all of them, or, of more than can be, those that stand for the others."""
    tables, on_it_of = [parts[axis] for axis in AXES], mounting.wheel.on_it.of
    pairs = [row_seen for row in CHECKS if len(row_seen := _sees(row, mounting)) > 1]

    def weight(found: Kept) -> float:
        """By how much it is more than can be looked through, or asked about."""
        left = {axis: [t[k] for k in of_axis[0]] for t, of_axis, axis in zip(tables, found.members, AXES, strict=True)}
        classes = prod(len(_alike(mounting, axis, own, seen[axis]).members) for axis, own in left.items())
        asked = (
            prod(len({_key(p, figures, on_it_of(axis)) for p in left[axis]}) for axis, figures in told.items())
            for told in pairs
        )
        return max(classes / MOST_SIEVED, max(asked, default=0) / MOST_ASKED)

    everything = Kept([[tuple(range(len(table)))] for table in tables])
    on_it = [mounting.wheel.on_it.of(axis) for axis in AXES]
    kept = thinned(everything, tables, on_it, weight, 1)
    return {
        axis: [table[k] for k in of_axis[0]] for axis, table, of_axis in zip(AXES, tables, kept.members, strict=True)
    }


def _through(
    spread: Sequence[NDArray[np.int8]], counted: Sequence[_Counted], shape: list[int]
) -> tuple[NDArray[np.int64], NDArray[np.int8]]:
    """Classes that go through every check, and the worst that is said of each."""
    at_once = max(1, PIECE // max(int(np.prod(shape[1:])), 1))
    lefts, worsts = [np.zeros((0, len(shape)), dtype=np.int64)], [np.zeros(0, dtype=np.int8)]
    fails = place_of(Verdict.FAILS)
    for begin in range(0, shape[0], at_once):
        piece = slice(begin, min(begin + at_once, shape[0]))
        alive = np.ones([piece.stop - begin, *shape[1:]], dtype=bool)
        worst = np.zeros(alive.shape, dtype=np.int8)
        for verdicts, count in zip(spread, counted, strict=True):
            here = verdicts[piece] if verdicts.shape[0] > 1 else verdicts
            hit = alive & (here == fails)
            if hit.any():
                count.add(hit, piece)
                alive &= ~hit
            np.maximum(worst, here, out=worst)
        found = np.argwhere(alive)
        worsts.append(worst[alive])
        lefts.append(found + np.array([begin, *[0] * (len(shape) - 1)]))
    return np.concatenate(lefts), np.concatenate(worsts)


def _how_many(left: NDArray[np.int64], sizes: Sequence[NDArray[np.int64]]) -> NDArray[np.int64]:
    """Of each combination of classes, how many of parts it stands for."""
    return np.asarray(np.prod([size[left[:, k]] for k, size in enumerate(sizes)], axis=0), dtype=np.int64)


def _kept(
    mounting: Mounting, parts: Mapping[Axis, Sequence[Any]], classes: Mapping[Axis, Classes], left: NDArray[np.int64]
) -> Kept:
    """The parts of each class that are weighed: all of them, or, where that would be too many, those that stand for
    the others."""
    used = {axis: set(left[:, k].tolist()) for k, axis in enumerate(AXES)}
    members = [[places if k in used[axis] else () for k, places in enumerate(classes[axis].members)] for axis in AXES]

    def weighed(found: Kept) -> int:
        sizes = [np.array([len(places) for places in of_axis], dtype=np.int64) for of_axis in found.members]
        return int(_how_many(left, sizes).sum())

    on_it = [mounting.wheel.on_it.of(axis) for axis in AXES]
    return thinned(Kept(members), [parts[axis] for axis in AXES], on_it, weighed, MOST_WEIGHED)


def _expanded(
    left: NDArray[np.int64], members: Sequence[Sequence[Sequence[int]]], on_it: NDArray[np.int64]
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Places of parts (n, 4) in their order, of the combinations of classes that are left; and of which each is."""
    rows: list[tuple[int, ...]] = []
    of_class: list[int] = []
    for k, classes in enumerate(left.tolist()):
        before = len(rows)
        rows += product(*(members[axis][one] for axis, one in enumerate(classes)))
        of_class += [k] * (len(rows) - before)
    places = np.array(rows, dtype=np.int64).reshape(-1, len(AXES))
    order = np.lexsort(places.T[::-1])
    if len(order) > MOST_WEIGHED:  # even with one part of each class: evenly through all of them, and what is on it
        evenly = np.linspace(0, len(order) - 1, MOST_WEIGHED - 1).astype(np.int64)
        stays = np.flatnonzero((places[order] == on_it).all(axis=1))
        order = order[np.union1d(evenly, stays)]
    return places[order], np.array(of_class, dtype=np.int64)[order]
