"""The sieve: every combination of the catalogue's parts on one wheel, refused by the first check that fails, or left
with the worst that the checks say of it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from clavis.core.fit.checks import CHECKS, ON_IT, CheckRow, Said
from clavis.core.fit.mounting import FitCase, Mounting
from clavis.core.parts.figures import Figures
from clavis.core.parts.models import AXES, AnyPart, Axis, Brake
from clavis.core.sentences import NOTHING, Words
from clavis.core.verdicts import Verdict, place_of


@dataclass(frozen=True)
class RefusedFor:
    """One reason of a check: how many combinations it refuses first, and the parts that do not go together."""

    words: Words
    count: int
    parts: tuple[tuple[AnyPart, ...], ...]


@dataclass(frozen=True)
class Refusal:
    """How many combinations one check refuses first, and why."""

    row: CheckRow
    count: int
    reasons: tuple[RefusedFor, ...]


@dataclass(frozen=True)
class Sieve:
    """All combinations of the catalogue, refused or left. ``left`` are indices (n, 4) into the part lists, ``verdicts``
    (n,) the worst that the checks say of each, as places in the order of verdicts."""

    parts: Mapping[Axis, Sequence[Any]]
    total: int
    refusals: tuple[Refusal, ...]
    left: NDArray[np.int64]
    verdicts: NDArray[np.int8]

    def brakes(self) -> list[Brake]:
        """The combinations that are left."""
        rotors, calipers, levers, pads = (self.parts[axis] for axis in AXES)
        return [Brake(rotors[r], calipers[c], levers[v], pads[p]) for r, c, v, p in self.left]


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


def _ask(row: CheckRow, mounting: Mounting, parts: Mapping[Axis, Sequence[Any]]) -> _Asked:
    """Parts that are alike in all that a check sees are asked for once."""
    seen = dict(row.sees)
    if mounting.plate is not None and Axis.ROTOR in seen and Axis.CALIPER in seen:
        seen[Axis.CALIPER] = (*seen[Axis.CALIPER], "id")  # a released plate is for one caliper
    groups: dict[Axis, NDArray[np.int64]] = {}
    firsts: dict[Axis, list[Any]] = {}
    for axis, figures in seen.items():
        known: dict[tuple[Any, ...], int] = {}
        firsts[axis] = []
        places, on_it = [], mounting.wheel.on_it.of(axis)
        for part in parts[axis]:
            key = tuple(part == on_it if figure == ON_IT else getattr(part, figure) for figure in figures)
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


def _reasons(asked: _Asked, hit: NDArray[np.bool_], parts: Mapping[Axis, Sequence[Any]]) -> tuple[RefusedFor, ...]:
    """Why the combinations of ``hit`` were refused, most first."""
    axes = [axis for axis in AXES if axis in asked.groups]
    others = tuple(k for k, axis in enumerate(AXES) if axis not in asked.groups)
    counts = hit.sum(axis=others) if others else hit.astype(np.int64)
    found: dict[Words, list[tuple[int, tuple[AnyPart, ...]]]] = {}
    for index in np.argwhere(counts):
        group = tuple(int(asked.groups[axis][k]) for axis, k in zip(axes, index, strict=True))
        refused = tuple(parts[axis][k] for axis, k in zip(axes, index, strict=True))
        found.setdefault(asked.words[group], []).append((int(counts[tuple(index)]), refused))
    told = [RefusedFor(words, sum(n for n, _ in hits), tuple(p for _, p in hits)) for words, hits in found.items()]
    return tuple(sorted(told, key=lambda reason: -reason.count))


def sieve(mounting: Mounting, keeps: Sequence[Axis] = ()) -> Sieve:
    """Drop the impossible; each combination is counted under the first check that it fails. Of the axes in ``keeps``
    only the part that is on the wheel is looked at."""
    parts = {axis: _offered(mounting, axis, keeps) for axis in AXES}
    shape = [len(parts[axis]) for axis in AXES]
    alive, worst = np.ones(shape, dtype=bool), np.zeros(shape, dtype=np.int8)
    refusals = []
    why_not = mounting.wheel.mount.why_not if mounting.plate is None else NOTHING
    if why_not:  # nothing can be said to fit where the mount is not told
        alive[:] = False
        row = next(row for row in CHECKS if row.key == "chain")
        told = (RefusedFor(why_not, alive.size, ()),) if alive.size else ()
        return Sieve(parts, alive.size, (Refusal(row, alive.size, told),), np.argwhere(alive), worst[alive])
    for row in CHECKS:
        asked = _ask(row, mounting, parts)
        verdicts = asked.spread(parts)
        hit = alive & (verdicts == place_of(Verdict.FAILS))
        refusals.append(Refusal(row, int(hit.sum()), _reasons(asked, hit, parts)))
        alive &= ~hit
        np.maximum(worst, verdicts, out=worst)
    left = np.argwhere(alive)
    return Sieve(parts, alive.size, tuple(refusals), left, worst[alive])
