"""What people argue about, held against each other on this bike and ride: diameter or thickness, two pistons or four,
compound against compound, dragging or pulsing. Each varies one thing of one wheel and leaves the rest as it is."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from itertools import product

from clavis.core.evaluation.evaluate import Evaluation, SetupName, WheelResult, evaluate_setup
from clavis.core.evaluation.setups import WheelSetup
from clavis.core.evaluation.sheet import longer_words
from clavis.core.fit.checks import results_of
from clavis.core.fit.mounting import FitCase, Mounting
from clavis.core.job.document import Job, Proposal
from clavis.core.job.pick import Pick
from clavis.core.parameters import ModelParameters
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.fluids import Fluid
from clavis.core.parts.models import Axis, Brake, Rotor
from clavis.core.parts.mounts import End
from clavis.core.physics.descent import Style
from clavis.core.physics.heat import Node, equal_mass_thickness_mm, pad_area_mm2
from clavis.core.physics.road import Track
from clavis.core.selection.candidates import Choice
from clavis.core.selection.compare import SetupColumn, column_of
from clavis.core.selection.schools import HEAT_MARGINS, Candidate
from clavis.core.sentences import Words, say
from clavis.core.verdicts import Verdict


class Argument(StrEnum):
    DIAMETER = "diameter"
    PISTONS = "pistons"
    COMPOUND = "compound"
    STYLE = "style"


@dataclass(frozen=True)
class ArgumentSide:
    """One side of an argument: its name, and what stands on the wheel or in the hand."""

    name: str
    pick: Pick
    style: Style | None = None


@dataclass(frozen=True)
class Held:
    """Both sides, or more, as columns; what the figures say in words; or why there is nothing to hold."""

    columns: tuple[SetupColumn, ...]
    words: tuple[Words, ...] = ()
    why_not: Words = ""


NO_SETUP = "the wheel is not complete: nothing to vary"
AS_HEAVY_RATIO = 0.08
"""two rotors within this share of each other's mass are as heavy"""


def _goes_together(mounting: Mounting, brake: Brake) -> bool:
    return all(result.verdict is not Verdict.FAILS for result in results_of(FitCase(mounting, brake)))


def _diameter(s: WheelSetup, mounting: Mounting) -> list[ArgumentSide] | Words:
    """A larger rotor against a thicker one of the same mass, both allowed with the rest of the brake."""
    rotors = [
        r
        for r in mounting.catalogue.rotors.values()
        if r.offered and _goes_together(mounting, s.brake.with_part(Axis.ROTOR, r))
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
    larger = [r for r in rotors if r.diameter_mm > s.rotor.diameter_mm + 1]
    if near:
        large, thick = min(near, key=unlike)
    elif larger:  # none in the catalogue is as heavy: how thick it would be is told in words
        large, thick = min(larger, key=lambda r: (r.diameter_mm, *unlike((r, s.rotor)))), s.rotor
    else:
        return "no larger rotor goes on this wheel"
    pick = _pick_of(s)
    return [
        ArgumentSide(f"larger, {large.name}", pick.model_copy(update={"rotor_id": large.id})),
        ArgumentSide(f"thicker, {thick.name}", pick.model_copy(update={"rotor_id": thick.id})),
    ]


def _pistons(s: WheelSetup, choice: Choice) -> list[ArgumentSide] | Words:
    """Two pistons and four with the same rotor, lever and compound: the caliper that is on it on its side, on the other
    the one most like it, by the area of its pistons."""
    if s.caliper.fluid is Fluid.NONE:
        return "a cable caliper has no pistons to count"
    same = [
        c
        for c in choice.candidates
        if (c.rotor.id, c.lever.id, c.pad.compound) == (s.rotor.id, s.lever.id, s.pad.compound) and c.caliper.bores_mm
    ]

    def unlike(c: Candidate) -> tuple[object, ...]:
        other_pads = c.pad.id != s.pad.id if c.caliper == s.caliper else c.pad.finned != s.pad.finned
        area = abs(c.caliper.piston_area_mm2 - s.caliper.piston_area_mm2)
        return (
            c.caliper != s.caliper,
            other_pads,
            area,
            c.caliper.maker != s.caliper.maker,
            len(c.setup.renew),
            c.pad.id,
        )

    two, four = (min((c for c in same if c.caliper.four_pistons is n), key=unlike, default=None) for n in (False, True))
    if two is None or four is None:
        words = "with {rotor}, {lever} and these pads the catalogue has calipers of one kind only"
        return say(words, rotor=s.rotor.name, lever=s.lever.name)
    return [ArgumentSide(f"two, {two.caliper.name}", two.ids), ArgumentSide(f"four, {four.caliper.name}", four.ids)]


def _compound(s: WheelSetup, choice: Choice) -> list[ArgumentSide] | Words:
    """Every compound for this caliper on this rotor, plain pads, the cheapest of each."""
    same = [
        c
        for c in choice.candidates
        if (c.rotor.id, c.caliper.id, c.lever.id) == (s.rotor.id, s.caliper.id, s.lever.id)
        and c.pad.finned == s.pad.finned
    ]
    sides = []
    for compound, row in COMPOUNDS.items():
        of_it = [c for c in same if c.pad.compound == compound]
        cheapest = min(of_it, key=lambda c: (c.pad.id != s.pad.id, c.pad.price, c.pad.id), default=None)
        if cheapest is not None:
            sides.append(ArgumentSide(f"{row.words}, {cheapest.pad.name}", cheapest.ids))
    if len(sides) > 1:
        return sides
    words = "for {caliper} on {rotor} the catalogue has one compound only"
    return say(words, caliper=s.caliper.name, rotor=s.rotor.name)


def _style(s: WheelSetup, load_recorded: bool) -> list[ArgumentSide] | Words:
    if load_recorded:
        return "the ride is as recorded: its own speeds decide; plan it from the speed held to compare"
    return [ArgumentSide("dragging", _pick_of(s), Style.DRAG), ArgumentSide("pulsing", _pick_of(s), Style.PULSE)]


def _pick_of(s: WheelSetup) -> Pick:
    return Pick(rotor_id=s.rotor.id, caliper_id=s.caliper.id, lever_id=s.lever.id, pad_id=s.pad.id)


def hold(
    argument: Argument, end: End, job: Job, evaluation: Evaluation, choice: Choice, tracks: Mapping[str, Track]
) -> Held:
    """Hold the sides of an argument against each other on one wheel, the other as it is proposed."""
    situation, proposed, mounting = evaluation.situation, evaluation.proposed, evaluation.place_for(end)
    s = proposed.cases[end].setup if proposed else None
    if situation is None or proposed is None or proposed.load is None or s is None:
        return Held((), why_not=NO_SETUP)
    recorded = proposed.load.recorded
    sides = {
        Argument.DIAMETER: lambda: _diameter(s, mounting),
        Argument.PISTONS: lambda: _pistons(s, choice),
        Argument.COMPOUND: lambda: _compound(s, choice),
        Argument.STYLE: lambda: _style(s, recorded),
    }[argument]()
    if not isinstance(sides, list):
        return Held((), why_not=sides)
    columns = []
    for k, side in enumerate(sides):
        picks = {end: side.pick, end.other: job.proposal.of(end.other)}
        proposal = Proposal(front=picks[End.FRONT], rear=picks[End.REAR], bedded=job.proposal.bedded)
        own = job.model_copy(update={"proposal": proposal})
        seen = situation if side.style is None else replace(situation, style=side.style)
        setup = evaluate_setup(own, SetupName.PROPOSED, evaluation.mountings, seen, tracks)
        told = replace(evaluation, situation=seen)
        columns.append(column_of(f"{argument.value}-{k}", side.name, setup, own, told, tracks, picks))
    return Held(tuple(columns), _words(argument, end, columns, situation.parameters))


def _words(
    argument: Argument, end: End, columns: Sequence[SetupColumn], parameters: ModelParameters
) -> tuple[Words, ...]:
    """What the figures say of one wheel, side by side; nothing where one side cannot be computed."""
    wheels = [w for c in columns if (w := c.setup.wheels.get(end)) is not None]
    if len(wheels) < len(columns):
        return ()
    rotors = [w.heat.peak_c[Node.ROTOR] for w in wheels]
    cooler = columns[rotors.index(min(rotors))].name
    heat = say(
        "The rotor stays coolest with {name}: {least_c:.0} against {most_c:.0} at most.",
        name=cooler, least_c=min(rotors), most_c=max(rotors),
    )  # fmt: skip
    says: dict[Argument, Callable[[], tuple[Words, ...]]] = {
        Argument.DIAMETER: lambda: (*_of_diameter(columns, wheels[0], wheels[-1], parameters), heat),
        Argument.PISTONS: lambda: (*_of_pistons(wheels[0], wheels[-1]), heat),
        Argument.COMPOUND: lambda: (heat, *_of_compounds(columns, wheels)),
        Argument.STYLE: lambda: _of_styles(columns, wheels),
    }
    return says[argument]()


def _of_diameter(
    columns: Sequence[SetupColumn], large: WheelResult, thick: WheelResult, parameters: ModelParameters
) -> tuple[Words, ...]:
    by = large.link.effective_radius_m / thick.link.effective_radius_m - 1
    equal_mm = equal_mass_thickness_mm(thick.setup.rotor, large.setup.rotor.mass_g, parameters)
    longer = longer_words(columns[0].setup, columns[-1].setup)
    as_heavy: Words = say("{large_g:.0} against {thick_g:.0}.", large_g=large.setup.rotor.mass_g,
                          thick_g=thick.setup.rotor.mass_g)  # fmt: skip
    if equal_mm is not None:
        as_heavy = say(
            "{large_g:.0} against {thick_g:.0}; to weigh what the larger one does {name} would be {equal_mm:.2} thick.",
            large_g=large.setup.rotor.mass_g, thick_g=thick.setup.rotor.mass_g, name=thick.setup.rotor.name,
            equal_mm=equal_mm,
        )  # fmt: skip
    return (
        as_heavy,
        *([say("The stop on the flat gets {why}.", why=longer)] if longer else []),
        say("The larger one gives {by_pct:+.0} of force at the road for the same finger, by its radius; thickness "
            "gives none.", by_pct=100 * by),
    )  # fmt: skip


def _of_pistons(two: WheelResult, four: WheelResult) -> tuple[Words, ...]:
    more = two.forces.gain / four.forces.gain - 1
    return (
        say("Piston area on one side {two_mm2:.0} against {four_mm2:.0}. That, the lever and the rotor make the force, "
            "not the number of pistons: for the same finger the two give {by_pct:+.0} against the four.",
            two_mm2=two.setup.caliper.piston_area_mm2, four_mm2=four.setup.caliper.piston_area_mm2, by_pct=100 * more),
        say("One pad covers {two_mm2:.0} against {four_mm2:.0}: more to wear and more to take heat.",
            two_mm2=pad_area_mm2(two.setup.pad, two.setup.caliper),
            four_mm2=pad_area_mm2(four.setup.pad, four.setup.caliper)),
    )  # fmt: skip


def _of_compounds(columns: Sequence[SetupColumn], wheels: Sequence[WheelResult]) -> tuple[Words, ...]:
    column, strong = max(zip(columns, wheels, strict=True), key=lambda x: x[1].forces.mu_hot)
    words = "{name} has the most friction at the ride’s hottest, {mu:.2}."
    return (
        say(words, name=column.name, mu=strong.forces.mu_hot),
        "Noise, wet manners and wear are judgements of the trade; see Rules.",
    )


def _of_styles(columns: Sequence[SetupColumn], wheels: Sequence[WheelResult]) -> tuple[Words, ...]:
    """Node by node, and which way leaves more where it is nearest to its limit."""
    drag_min, pulse_min = (float(load.time_s[-1]) / 60 for c in columns if (load := c.setup.load) is not None)
    told: list[Words] = [
        say("Nearly the same energy for the way; {drag_min:.1} against {pulse_min:.1}.",
            drag_min=drag_min, pulse_min=pulse_min),
    ]  # fmt: skip
    drag, pulse = wheels
    for node, name in ((Node.ROTOR, "Rotor"), (Node.SURFACE, "Face of the pads"), (Node.PADS, "Pads"),
                       (Node.FLUID, "Fluid")):  # fmt: skip
        if node is Node.FLUID and drag.heat.fluid_peak_c is None:
            continue
        told.append(
            say("{name}: {drag_c:.0} dragging, {pulse_c:.0} pulsing.", name=name, drag_c=drag.heat.peak_c[node],
                pulse_c=pulse.heat.peak_c[node])
        )  # fmt: skip
    near = min((m for m in drag.margins if m.key in HEAT_MARGINS and m.relative is not None),
               key=lambda m: m.relative or 0.0, default=None)  # fmt: skip
    other = next((m for m in pulse.margins if near is not None and m.key == near.key), None)
    if near is not None and other is not None:
        better = "pulsing" if (other.relative or 0.0) > (near.relative or 0.0) else "dragging"
        told.append(
            say("Nearest its limit is this: {drag} dragging, {pulse} pulsing; {better} leaves more.", drag=near.words(),
                pulse=other.words(), better=better)
        )  # fmt: skip
    return tuple(told)
