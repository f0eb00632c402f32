"""The walk round the bike: how far each place is, and what its readings say there at once.

What a reading means is in the tables of conditions and checks; this is what is read off directly, with their verdict:
which mount it is, the native size with its source, lockring and tool, thinnest and variation, the colour beside the
model's own estimate, what the catalogue knows.
"""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass

from clavis.core.evaluation.conditions import FindingKind, conditions_of
from clavis.core.evaluation.evaluate import WheelResult
from clavis.core.evaluation.wheel_cases import WheelCase
from clavis.core.fit.mount_geometry import NOMINAL, seat_of
from clavis.core.fit.pitch import judge_pitch
from clavis.core.inspection.findings import Finding
from clavis.core.job.places import FIELDS_AT, Place
from clavis.core.job.wheel import ROTOR_POINTS, FittedBrake, RotorColour, Seen, Wheel
from clavis.core.parts.fluids import LINE_WORDS, Fluid
from clavis.core.parts.hubs import hub_row
from clavis.core.parts.mounts import AdapterKind, MountKind
from clavis.core.physics.heat import WITNESS_DOUBT_K, WITNESSES, Node, witness_of
from clavis.core.sentences import NOTHING, Words, joined, say
from clavis.core.verdicts import Verdict, worst

CLOSE_TO_MINIMUM_MM = 0.1
"""a rotor that is good, and nearly worn out"""


@dataclass(frozen=True)
class PlaceReading:
    """One thing that the readings say, with a verdict where it is one."""

    label: str
    words: Words
    verdict: Verdict | None = None


@dataclass(frozen=True)
class PlaceState:
    """How far a place is: entries made at both wheels, of how many, and its gravest finding."""

    place: Place
    entered: int
    asked: int
    worst: Finding | None


NOT_COUNTED = frozenset({"rotor_instrument", "no_adapter", "water_seen", "lower_depth_mm", "lower_tab_mm"})
"""fields that say something by being left as they are"""


def entered(wheel: Wheel, field: str) -> bool:
    """Whether something was entered: neither missing, nor *not checked*, nor an empty row of readings."""
    value = getattr(wheel, field)
    missing = value is None or value is False or value == ()
    return not missing and getattr(value, "value", value) != Seen.NOT_CHECKED.value


def place_states(wheels: Iterable[Wheel], findings: tuple[Finding, ...]) -> tuple[PlaceState, ...]:
    """Every place of the walk in order, by what is entered of both wheels."""
    both, states = tuple(wheels), []
    for place, fields in FIELDS_AT.items():
        counted = [field for field in fields if field not in NOT_COUNTED]
        done = sum(entered(wheel, field) for wheel in both for field in counted)
        grave = next((f for f in findings if f.place is place and f.kind is not FindingKind.KEEP), None)
        states.append(PlaceState(place, done, len(counted) * len(both), grave))
    return tuple(states)


class _Place:
    """What is known of one wheel as it stands, and the verdict of any condition or check on it by its key."""

    def __init__(self, case: WheelCase, result: WheelResult | None) -> None:
        self.case, self.result = case, result
        self.wheel, self.measured, self.on_it = case.wheel, case.wheel.measured, case.wheel.on_it
        self._found = {c.row.key: _WEIGHT[c.row.kind] for c in conditions_of(self.wheel)}
        self._found |= {c.key: c.verdict for c in case.checks}

    def verdict(self, *keys: str, good: Verdict = Verdict.HOLDS) -> Verdict:
        """The worst that these conditions and checks say, ``good`` where none of them speaks."""
        return worst([good, *(self._found[key] for key in keys if key in self._found)])


_WEIGHT: Mapping[FindingKind, Verdict] = {
    FindingKind.STOP: Verdict.FAILS,
    FindingKind.REPLACE: Verdict.FAILS,
    FindingKind.TREAT: Verdict.TIGHT,
    FindingKind.MEASURE: Verdict.UNKNOWN,
    FindingKind.KEEP: Verdict.HOLDS,
}


def _mount(at: _Place) -> list[PlaceReading]:
    w = at.wheel
    verdict = at.verdict("mount", "mount_untold", "carrying")
    if w.mount.kind is not None:
        out = [PlaceReading("mount", say("{kind}", kind=w.mount.kind), verdict)]
    else:
        out = [PlaceReading("mount", w.mount.why_not, worst([Verdict.UNKNOWN, verdict]))]
    native = w.native
    if native.mm is not None:
        words = say("{native_mm:size}, {source}", native_mm=native.mm, source=native.source)
        out.append(PlaceReading("native size", words, at.verdict("native")))
    else:
        out.append(PlaceReading("native size", "give it, or enter the present rotor and adapter", Verdict.UNKNOWN))
    most = w.largest.mm
    if most is None:
        unknown = "not known: ask the maker; a clean verdict waits for it"
        out.append(PlaceReading("largest rotor", unknown, Verdict.UNKNOWN))
    else:
        told = say("{most_mm:size}, {source}", most_mm=most, source=w.largest.source)
        out.append(PlaceReading("largest rotor", told, at.verdict("limit_below_native", "carrying", "largest")))
    return out + _plates(at)


def _plates(at: _Place) -> list[PlaceReading]:
    """The pitch of a flat-mount fork against every plate that could sit on it, the one that is on it first."""
    w, measured = at.wheel, at.measured
    if w.mount.kind is not MountKind.FLAT_FRONT:
        return []
    plates = [
        a
        for a in at.case.fit_case.on.catalogue.adapters.values()
        if a.adapter_kind in (AdapterKind.FLAT_FRONT_PLATE, AdapterKind.FLAT_TO_POST)
        and a.offered
        and a.sizes_at(w.end)
    ]
    judged = [
        judge_pitch(measured.mount_spacing_mm, measured.spacing_tool, plate)
        for plate in sorted(plates, key=lambda a: a.id != measured.adapter_id)
    ]
    return [PlaceReading(p.adapter.name, p.words, p.verdict) for p in judged]


def _hub(at: _Place) -> list[PlaceReading]:
    row = hub_row(at.measured.hub, at.measured.axle)
    if row is None:
        return [PlaceReading("rotor is held by", "hub and axle not both entered", Verdict.UNKNOWN)]
    return [
        PlaceReading("rotor is held by", row.fastener),
        PlaceReading("tool", row.tool),
        PlaceReading("note", row.note),
    ]


def _rotor(at: _Place) -> list[PlaceReading]:
    out, variation = [_thinnest(at)], at.measured.rotor_variation_mm
    if variation is not None:
        verdict = at.verdict("variation", "variation_high")
        felt = {Verdict.FAILS: "is felt as pulsing", Verdict.TIGHT: "may be felt"}.get(verdict, "even")
        out.append(
            PlaceReading("variation", say("{variation_mm:.2}, {felt}", variation_mm=variation, felt=felt), verdict)
        )
    out.append(_colour(at))
    return out


def _thinnest(at: _Place) -> PlaceReading:
    m, thinnest, minimum = at.measured, at.measured.rotor_thinnest_mm, at.wheel.minimum_mm
    if thinnest is None:
        words = say("read {n:point|points} or more round the track", n=ROTOR_POINTS)
        return PlaceReading("thinnest", words, Verdict.UNKNOWN)
    if minimum is None:
        words = say("{thinnest_mm:.2}; minimum neither marked nor known", thinnest_mm=thinnest)
        return PlaceReading("thinnest", words, Verdict.UNKNOWN)
    close = Verdict.TIGHT if thinnest - minimum < CLOSE_TO_MINIMUM_MM else Verdict.HOLDS
    verdict = at.verdict("rotor_minimum", "vernier", "few_points", "thicker", good=close)
    missing = ROTOR_POINTS - len(m.rotor_points_mm)
    after: Words = NOTHING
    if verdict is Verdict.FAILS:
        after = ": worn out"
    elif at.verdict("vernier") is Verdict.UNKNOWN:
        after = "; a vernier cannot pass it"
    elif missing > 0:
        after = say("; {n:more point|more points}", n=missing)
    words = say(
        "{thinnest_mm:.2}, minimum {minimum_mm:.2}{after}", thinnest_mm=thinnest, minimum_mm=minimum, after=after
    )
    return PlaceReading("thinnest", words, verdict)


def _colour(at: _Place) -> PlaceReading:
    """What is seen beside what the model makes of this ride."""
    seen, result = at.measured.rotor_colour, at.result
    peak_c = None if result is None else float(result.heat.peak_c[Node.ROTOR])
    model: Words = "the ride's own figure is not known yet"
    if peak_c is not None:
        model = say("this ride: {peak_c:.0}, {colour}", peak_c=peak_c, colour=witness_of(peak_c) or "no colour")
    if seen is RotorColour.NOT_CHECKED:
        return PlaceReading("colour", say("not looked at; {model}", model=model), Verdict.UNKNOWN)
    if seen is RotorColour.BRIGHT:
        hotter = peak_c is not None and peak_c > WITNESSES[0][0] + WITNESS_DOUBT_K
        words = "bright: it has not been that hot, or it is of steel that colours late" if hotter else "bright"
        told = say("{words}; {model}", words=words, model=model)
        return PlaceReading("colour", told, Verdict.TIGHT if hotter else Verdict.HOLDS)
    limit_c = {name: limit for limit, name in WITNESSES}[seen.value]
    agree = ""
    if peak_c is not None:
        agree = ": both agree"
        if peak_c < limit_c - WITNESS_DOUBT_K:
            agree = ": it was hotter than this ride makes it; ask what else is ridden"
    told = say(
        "{colour}: has been at about {limit_c:.0} (± {doubt_k:.0}); {model}{agree}",
        colour=seen, limit_c=limit_c, doubt_k=WITNESS_DOUBT_K, model=model, agree=agree,
    )  # fmt: skip
    return PlaceReading("colour", told, Verdict.TIGHT)


def _pads(at: _Place) -> list[PlaceReading]:
    pad, caliper, left = at.on_it.pad, at.on_it.caliper, at.measured.pad_material_mm
    if pad is None:
        return [PlaceReading("shape", "pads not named", Verdict.UNKNOWN)]
    if caliper is None:
        out = [PlaceReading("shape", say("{shape}; caliper not named", shape=pad.shape), Verdict.UNKNOWN)]
    else:
        verdict = at.verdict("shape")
        words = "{shape}, the caliper's own" if verdict is Verdict.HOLDS else "{shape}, the caliper takes {its}"
        out = [PlaceReading("shape", say(words, shape=pad.shape, its=caliper.pad_shape), verdict)]
    if left is not None:
        new = pad.material_mm
        words = "{left_mm:.1} of {new_mm:.1}, {left_pct:.0}"
        told = say(words, left_mm=left, new_mm=new, left_pct=100 * left / new)
        out.append(PlaceReading("left", told, at.verdict("pads_thin", "pads_soon", "pads_unread")))
    return out


def _caliper(at: _Place) -> list[PlaceReading]:
    c = at.on_it.caliper
    if c is None:
        return [PlaceReading("catalogue says", "caliper not named", Verdict.UNKNOWN)]
    if c.fluid is Fluid.NONE:
        pads = "both pads move" if c.moving_pads == 2 else "one pad moves"
        said = say("cable, {pull} pull, {pads}, slot {slot_mm:g}", pull=c.pull, pads=pads, slot_mm=c.slot_mm)
    else:
        bores = joined([say("{bore_mm:g}", bore_mm=bore) for bore in c.bores_mm], " + ")
        words = "pistons {bores} a side, slot {slot_mm:g}, {fluid}"
        said = say(words, bores=bores, slot_mm=c.slot_mm, fluid=LINE_WORDS[c.fluid])
    return [
        PlaceReading("catalogue says", said, at.verdict("other_caliper")),
        PlaceReading("pads", say("shape {shape}", shape=c.pad_shape)),
        PlaceReading("mount", say("{mount} mount", mount=c.mount)),
    ]


def _lever(at: _Place) -> list[PlaceReading]:
    lever, result = at.on_it.lever, at.result
    if lever is None:
        out = [PlaceReading("catalogue says", "lever not named", Verdict.UNKNOWN)]
    elif lever.bore_mm is None:
        out = [
            PlaceReading(
                "catalogue says", say("cable, {pull} pull, ratio {ratio}", pull=lever.pull, ratio=f"{lever.ratio:g}")
            )
        ]
    else:
        words = "ratio {ratio}, master piston {bore_mm:g}"
        out = [PlaceReading("catalogue says", say(words, ratio=f"{lever.ratio:g}", bore_mm=lever.bore_mm))]
    margin = next((m for m in result.margins if m.key == "travel"), None) if result else None
    if result is not None and margin is not None:
        read = at.measured.lever_reach_mm is not None
        origin = "reach as read" if read else "reach not read, usual figure"
        travel = result.forces.travel
        words = "{travel_mm:.0} of {limit_mm:.0} at the target stop ({origin})"
        told = say(words, travel_mm=travel.total_mm, limit_mm=travel.limit_mm, origin=origin)
        out.append(PlaceReading("travel", told, margin.verdict))
    return out


def _room(at: _Place) -> list[PlaceReading]:
    """What the distances about the axle say of the mount; the rest of this place is judged on Fit."""
    kind, native = at.wheel.mount.kind, at.wheel.native.mm
    if kind is None or native is None or (kind, at.wheel.end) not in NOMINAL:
        return [PlaceReading("holes", "mount or native size not known", Verdict.UNKNOWN)]
    holes = next((c for c in at.case.checks if c.key == "holes"), None)
    if holes is not None:
        return [PlaceReading("holes", holes.words, holes.verdict)]
    seat = seat_of(kind, at.wheel.end, native, at.measured)
    words = "a mount for {native_mm:size} has them about {upper_mm:.1} and {lower_mm:.1} from the axle (nominal)"
    return [PlaceReading("holes", say(words, native_mm=native, upper_mm=abs(seat.upper), lower_mm=abs(seat.lower)))]


_SAYS: Mapping[Place, Callable[[_Place], list[PlaceReading]]] = {
    Place.MOUNT: _mount,
    Place.HUB: _hub,
    Place.ROTOR: _rotor,
    Place.PADS: _pads,
    Place.CALIPER: _caliper,
    Place.LEVER: _lever,
    Place.ROOM: _room,
}


def readings_at(place: Place, case: WheelCase, result: WheelResult | None) -> tuple[PlaceReading, ...]:
    """What the readings of one wheel say at one place: its case as fitted, and its result where it can be computed."""
    if case.wheel.measured.fitted_brake in (FittedBrake.RIM, FittedBrake.OTHER) and place not in (
        Place.MOUNT,
        Place.HUB,
    ):
        return (PlaceReading("no disc brake", "nothing to read here yet"),)
    return tuple(_SAYS[place](_Place(case, result)))
