"""What people argue about, held against each other on this bike and ride: diameter or thickness, two pistons or four,
compound against compound, dragging or pulsing. Each varies one thing of one wheel and leaves the rest as it is."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from itertools import product

from clavis.core.evaluation.evaluate import Evaluation, SetupName, evaluate_setup
from clavis.core.evaluation.rules import refusals_of, wheel_context
from clavis.core.evaluation.setups import WheelSetup, setup_of
from clavis.core.job.document import Job, Pick, Proposal
from clavis.core.parts.models import Catalogue, Compound, Rotor
from clavis.core.parts.mounts import End
from clavis.core.physics.descent import Style
from clavis.core.physics.heat import Node, pad_area_mm2
from clavis.core.physics.road import Track
from clavis.core.selection.candidates import Choice
from clavis.core.selection.compare import Column, column_of
from clavis.core.selection.schools import Candidate, row_of_school


class Argument(StrEnum):
    DIAMETER = "diameter"
    PISTONS = "pistons"
    COMPOUND = "compound"
    STYLE = "style"


@dataclass(frozen=True)
class Side:
    """One side of an argument: its name, and what stands on the wheel or in the hand."""

    name: str
    pick: Pick
    style: Style | None = None


@dataclass(frozen=True)
class Held:
    """Both sides, or more, as columns; what the figures say in words; or why there is nothing to hold."""

    columns: tuple[Column, ...]
    words: tuple[str, ...] = ()
    why_not: str = ""


NO_SETUP = "the wheel is not complete: nothing to vary"
AS_HEAVY_RATIO = 0.08
"""two rotors within this share of each other's mass are as heavy"""


def _diameter(job: Job, end: End, s: WheelSetup, catalogue: Catalogue) -> list[Side] | str:
    """A larger rotor against a thicker one of the same mass, both allowed with the rest of the brake."""
    context = wheel_context(job, end, catalogue)
    rotors = [
        r for r in catalogue.rotors.values() if not r.retired and not refusals_of(context, r, s.caliper, s.lever, s.pad)
    ]
    pairs = [
        (large, thick)
        for large, thick in product(rotors, rotors)
        if large.diameter_mm > thick.diameter_mm + 1 and thick.thickness_mm > large.thickness_mm + 0.05
    ]

    def apart(pair: tuple[Rotor, Rotor]) -> float:
        return abs(pair[0].mass_g - pair[1].mass_g) / pair[1].mass_g

    def unlike(pair: tuple[Rotor, Rotor]) -> tuple[bool, bool, float, str]:
        large, thick = pair
        other_track = large.track_mm != thick.track_mm
        return large.construction is not thick.construction, other_track, apart(pair), large.id + thick.id

    near = [p for p in pairs if apart(p) <= AS_HEAVY_RATIO]
    if not near:
        return "no two rotors that go on this wheel weigh the same, one larger and one thicker"
    large, thick = min(near, key=unlike)
    pick = _pick_of(s)
    return [
        Side(f"larger: {large.name}", pick.model_copy(update={"rotor_id": large.id})),
        Side(f"thicker: {thick.name}", pick.model_copy(update={"rotor_id": thick.id})),
    ]


def _best(candidates: Sequence[Candidate], job: Job, choice: Choice) -> Candidate | None:
    key = row_of_school(job.wishes.school).key
    return min(candidates, key=lambda c: key(c.standing, choice.fitted_smallest), default=None)


def _pistons(job: Job, s: WheelSetup, choice: Choice) -> list[Side] | str:
    """The school's best caliper of each kind, with the same rotor and compound."""
    same = [c for c in choice.candidates if c.rotor.id == s.rotor.id and c.pad.compound is s.pad.compound]
    hydraulic = [c for c in same if c.caliper.bores_mm]
    two, four = (_best([c for c in hydraulic if c.caliper.four_pistons is n], job, choice) for n in (False, True))
    if two is None or four is None:
        return f"with {s.rotor.name} and these pads the catalogue has calipers of one kind only"
    return [Side(f"two: {two.caliper.name}", two.ids), Side(f"four: {four.caliper.name}", four.ids)]


def _compound(job: Job, s: WheelSetup, choice: Choice) -> list[Side] | str:
    """Every compound for this caliper on this rotor, plain pads, the cheapest of each."""
    same = [
        c
        for c in choice.candidates
        if (c.rotor.id, c.caliper.id, c.lever.id) == (s.rotor.id, s.caliper.id, s.lever.id)
        and c.pad.finned == s.pad.finned
    ]
    sides = []
    for compound in Compound:
        of_it = [c for c in same if c.pad.compound is compound]
        cheapest = min(of_it, key=lambda c: (c.pad.id != s.pad.id, c.pad.price, c.pad.id), default=None)
        if cheapest is not None:
            sides.append(Side(f"{compound.value.replace('_', '-')}: {cheapest.pad.name}", cheapest.ids))
    return sides if len(sides) > 1 else f"for {s.caliper.name} on {s.rotor.name} the catalogue has one compound only"


def _style(job: Job, s: WheelSetup, load_recorded: bool) -> list[Side] | str:
    if load_recorded:
        return "the ride is as recorded: its own speeds decide; plan it from the speed held to compare"
    return [Side("dragging", _pick_of(s), Style.DRAG), Side("pulsing", _pick_of(s), Style.PULSE)]


def _pick_of(s: WheelSetup) -> Pick:
    return Pick(rotor_id=s.rotor.id, caliper_id=s.caliper.id, lever_id=s.lever.id, pad_id=s.pad.id)


def hold(
    argument: Argument,
    end: End,
    job: Job,
    evaluation: Evaluation,
    choice: Choice,
    catalogue: Catalogue,
    tracks: Mapping[str, Track],
) -> Held:
    """Hold the sides of an argument against each other on one wheel, the other as it is proposed."""
    situation, proposed = evaluation.situation, evaluation.proposed
    s = setup_of(job, end, job.proposal.of(end), catalogue)
    if situation is None or proposed is None or proposed.load is None or not isinstance(s, WheelSetup):
        return Held((), why_not=NO_SETUP)
    sides = {
        Argument.DIAMETER: lambda: _diameter(job, end, s, catalogue),
        Argument.PISTONS: lambda: _pistons(job, s, choice),
        Argument.COMPOUND: lambda: _compound(job, s, choice),
        Argument.STYLE: lambda: _style(job, s, proposed.load is not None and proposed.load.recorded),
    }[argument]()
    if isinstance(sides, str):
        return Held((), why_not=sides)
    columns = []
    for k, side in enumerate(sides):
        picks = {end: side.pick, end.other: job.proposal.of(end.other)}
        proposal = Proposal(front=picks[End.FRONT], rear=picks[End.REAR], bedded=job.proposal.bedded)
        own = job.model_copy(update={"proposal": proposal})
        seen = situation if side.style is None else replace(situation, style=side.style)
        setup = evaluate_setup(own, SetupName.PROPOSED, seen, catalogue, tracks)
        told = replace(evaluation, situation=seen)
        columns.append(column_of(f"{argument.value}-{k}", side.name, setup, own, told, tracks, picks))
    return Held(tuple(columns), _words(argument, end, columns))


def _percent(ratio: float) -> str:
    return f"{ratio:+.0%}".replace("-", "\u2212").replace("%", "\u202f%")


def _words(argument: Argument, end: End, columns: Sequence[Column]) -> tuple[str, ...]:
    """What the figures say of one wheel, side by side; nothing where one side cannot be computed."""
    wheels = [c.setup.wheels.get(end) for c in columns]
    known = [w for w in wheels if w is not None]
    if len(known) < len(wheels):
        return ()
    rings = [w.heat.peak_c[Node.RING] for w in known]
    first, second = known[0], known[-1]
    cooler = columns[rings.index(min(rings))].name
    heat = f"The ring stays coolest with {cooler}: {min(rings):.0f} against {max(rings):.0f} °C at most."
    more = first.forces.gain / second.forces.gain - 1
    if argument is Argument.DIAMETER:
        masses = [w.setup.rotor.mass_g for w in known]
        by = first.link.effective_radius_m / second.link.effective_radius_m - 1
        return (
            f"{masses[0]:.0f} against {masses[1]:.0f} g: as heavy.",
            f"The larger one gives {_percent(by)} of force at the road for the same finger, by its radius; "
            "thickness gives none.",
            heat,
        )
    if argument is Argument.PISTONS:
        areas = [w.setup.caliper.piston_area_mm2 for w in known]
        pads = [pad_area_mm2(w.setup.pad, w.setup.caliper) for w in known]
        return (
            f"Piston area on one side {areas[0]:.0f} against {areas[1]:.0f} mm². That, the lever and the rotor make "
            f"the force, not the number of pistons: for the same finger the two give "
            f"{_percent(more)} against the four.",
            f"One pad covers {pads[0]:.0f} against {pads[1]:.0f} mm²: more to wear and more to take heat.",
            heat,
        )
    if argument is Argument.COMPOUND:
        strong = max(zip(columns, known, strict=True), key=lambda x: x[1].forces.mu_hot)
        fades = f"{strong[0].name} has the most friction at the ride’s hottest, {strong[1].forces.mu_hot:.2f}."
        return (heat, fades, "Noise, wet manners and wear are judgements of the trade; see Rules.")
    loads = [c.setup.load for c in columns]
    took = [float(load.time_s[-1]) / 60 for load in loads if load is not None]
    return (
        f"Nearly the same energy per metre; {took[0]:.1f} against {took[1]:.1f} min on the way.",
        heat,
        "In pulses the pad’s surface is hotter than its mean: the fluid’s figure is an optimistic one.",
    )
