"""The walk round the bike: which fields stand at which place, and what the readings say there at once.

Findings are in ``findings``; this is what is read off directly: which mount it is, the native size with its source, the
lockring and tool, thinnest and variation, the colour against the model's own estimate, what the catalogue knows.
"""

from dataclasses import dataclass

from clavis.core.evaluation.evaluate import WheelResult
from clavis.core.fit.adapters import judge_pitch
from clavis.core.fit.clearances import PROUD_MOST_MM
from clavis.core.fit.mount_geometry import seat_of
from clavis.core.inspection.findings import (
    VARIATION_REPLACE_MM,
    VARIATION_TREAT_MM,
    Finding,
    FindingKind,
    Place,
    WheelView,
)
from clavis.core.job.wheel import RING_POINTS, FittedBrake, Instrument, RingColour, Seen, Wheel
from clavis.core.parts.hubs import hub_row
from clavis.core.parts.models import Catalogue, Fluid
from clavis.core.parts.mounts import LABELS, AdapterKind, MountKind
from clavis.core.physics.forces import TRAVEL_TIGHT_RATIO
from clavis.core.physics.heat import WITNESS_DOUBT_K, WITNESSES, Node, witness_of
from clavis.core.verdicts import Verdict

FIELDS_AT: dict[Place, tuple[str, ...]] = {
    Place.MOUNT: (
        "fitted_brake",
        "mount_there",
        "mount_spacing_mm",
        "spacing_tool",
        "bolt_direction",
        "adapter_id",
        "no_adapter",
        "carrying_id",
        "native_rotor_mm",
        "max_rotor_mm",
        "limit_source",
        "thread_material",
        "hole_depth_mm",
        "tab_mm",
    ),
    Place.HUB: ("hub_there", "hub", "axle", "hub_play"),
    Place.ROTOR: (
        "rotor_id",
        "rotor_instrument",
        "rotor_points_mm",
        "rotor_runout_mm",
        "rotor_lip_mm",
        "rotor_cracks",
        "rotor_grooves",
        "rotor_face",
        "rotor_colour",
    ),
    Place.PADS: ("pad_id", "pad_inner_mm", "pad_outer_mm", "pad_taper_mm", "pad_state"),
    Place.CALIPER: (
        "caliper_id",
        "pistons",
        "caliper_centred",
        "bore_read_mm",
        "slot_read_mm",
        "line_state",
    ),
    Place.LEVER: (
        "lever_id",
        "lever_feel",
        "lever_reach_mm",
        "lever_bite_mm",
        "fluid_id",
        "fluid_grade",
        "fluid_age_y",
        "fluid_boils_c",
        "water_seen",
    ),
    Place.ROOM: (
        "upper_hole_mm",
        "lower_hole_mm",
        "lower_depth_mm",
        "lower_tab_mm",
        "upper_bolt_mm",
        "lower_bolt_mm",
        "edge_radius_mm",
        "spoke_gap_mm",
        "hose_slack_mm",
    ),
}
_PLACE_OF = {field: place for place, fields in FIELDS_AT.items() for field in fields}


def place_of(path: str) -> Place:
    """The place of the walk at which a field of a wheel is entered: ``front.pad_id`` is at the pads."""
    return _PLACE_OF.get(path.rsplit(".", 1)[-1], Place.MOUNT)


@dataclass(frozen=True)
class Said:
    """One thing that the readings say, with a verdict where it is one."""

    label: str
    words: str
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


def place_states(views: tuple[WheelView, ...], findings: tuple[Finding, ...]) -> tuple[PlaceState, ...]:
    """Every place of the walk in order."""
    states = []
    for place, fields in FIELDS_AT.items():
        counted = [field for field in fields if field not in NOT_COUNTED]
        done = sum(entered(v.wheel, field) for v in views for field in counted)
        grave = next((f for f in findings if f.row.place is place and f.row.kind is not FindingKind.KEEP), None)
        states.append(PlaceState(place, done, len(counted) * len(views), grave))
    return tuple(states)


def _mount(v: WheelView, catalogue: Catalogue) -> list[Said]:
    told = v.telling
    if told.kind:
        out = [Said("mount", LABELS[told.kind], Verdict.HOLDS)]
    elif told.conflict:
        out = [Said("mount", f"conflict: {told.conflict}", Verdict.FAILS)]
    else:
        out = [Said("mount", told.lacks, Verdict.UNKNOWN)]
    native = v.native
    if native.size_mm is not None:
        out.append(Said("native size", f"{native.size_mm:g}, {native.source}", Verdict.HOLDS))
    else:
        out.append(Said("native size", "give it, or enter the present rotor and adapter", Verdict.UNKNOWN))
    most = v.wheel.largest_rotor_mm
    if most is None:
        out.append(Said("largest rotor", "not known: ask the maker; a clean verdict waits for it", Verdict.UNKNOWN))
    elif native.size_mm is not None and most < native.size_mm:
        out.append(Said("largest rotor", f"{most:g}, below the native {native.size_mm:g}", Verdict.FAILS))
    else:
        out.append(Said("largest rotor", f"{most:g}", Verdict.HOLDS))
    if told.kind is MountKind.FLAT_FRONT:
        plates = (
            a
            for a in catalogue.adapters.values()
            if a.adapter_kind in (AdapterKind.FLAT_FRONT_PLATE, AdapterKind.FLAT_TO_POST)
            and not a.retired
            and any(f.end is v.end for f in a.fits)
        )
        for plate in sorted(plates, key=lambda a: a.id != v.wheel.adapter_id):
            pitch = judge_pitch(v.wheel.mount_spacing_mm, v.wheel.spacing_tool, plate)
            out.append(Said(plate.name, pitch.words, pitch.verdict))
    return out


def _hub(v: WheelView) -> list[Said]:
    row = hub_row(v.wheel.hub, v.wheel.axle)
    if row is None:
        return [Said("rotor is held by", "hub and axle not both entered", Verdict.UNKNOWN)]
    return [Said("rotor is held by", row.fastener), Said("tool", row.tool), Said("note", row.note)]


def _rotor(v: WheelView, result: WheelResult | None) -> list[Said]:
    out, w = [], v.wheel
    thinnest, variation, minimum = w.rotor_thinnest_mm, w.rotor_variation_mm, v.minimum_mm
    if thinnest is None:
        out.append(Said("thinnest", f"read {RING_POINTS} points or more round the track", Verdict.UNKNOWN))
    else:
        out.append(_thinnest(w, thinnest, minimum))
    if variation is not None:
        felt, verdict = "even", Verdict.HOLDS
        if variation > VARIATION_REPLACE_MM + 1e-9:
            felt, verdict = "is felt as pulsing", Verdict.FAILS
        elif variation > VARIATION_TREAT_MM + 1e-9:
            felt, verdict = "may be felt", Verdict.TIGHT
        out.append(Said("variation", f"{variation:.2f} mm, {felt}", verdict))
    out.append(_colour(w, result))
    return out


def _thinnest(w: Wheel, thinnest: float, minimum: float | None) -> Said:
    words = f"{thinnest:.2f} mm"
    if minimum is None:
        return Said("thinnest", f"{words}; minimum neither marked nor known", Verdict.UNKNOWN)
    words += f", minimum {minimum:.2f}"
    if thinnest < minimum:
        return Said("thinnest", f"{words}: worn out", Verdict.FAILS)
    if w.rotor_instrument is Instrument.VERNIER:
        return Said("thinnest", f"{words}; a vernier cannot pass it", Verdict.UNKNOWN)
    missing = RING_POINTS - len(w.rotor_points_mm)
    if missing > 0:
        return Said("thinnest", f"{words}; {missing} more point{'s' if missing > 1 else ''}", Verdict.UNKNOWN)
    return Said("thinnest", words, Verdict.TIGHT if thinnest - minimum < 0.1 else Verdict.HOLDS)


def _colour(w: Wheel, result: WheelResult | None) -> Said:
    """What is seen beside what the model makes of this ride."""
    seen = w.rotor_colour
    named = {name: limit for limit, name in WITNESSES}
    if result is None:
        model, peak = "the ride's own figure is not known yet", None
    else:
        peak = float(result.heat.peak_c[Node.RING])
        model = f"this ride: {peak:.0f} °C, {witness_of(peak) or 'no colour'}"
    if seen is RingColour.NOT_CHECKED:
        return Said("colour", f"not looked at; {model}", Verdict.UNKNOWN)
    if seen is RingColour.BRIGHT:
        hotter = peak is not None and peak > WITNESSES[0][0] + WITNESS_DOUBT_K
        words = "bright: it has not been that hot, or it is of steel that colours late" if hotter else "bright"
        return Said("colour", f"{words}; {model}", Verdict.TIGHT if hotter else Verdict.HOLDS)
    limit = named[seen.value]
    words = f"{seen.value}: has been at about {limit:.0f} °C (± {WITNESS_DOUBT_K:.0f}); {model}"
    if peak is None:
        return Said("colour", words, Verdict.TIGHT)
    if peak < limit - WITNESS_DOUBT_K:
        return Said("colour", f"{words}: it was hotter than this ride makes it; ask what else is ridden", Verdict.TIGHT)
    return Said("colour", f"{words}: both agree", Verdict.TIGHT)


def _pads(v: WheelView) -> list[Said]:
    if v.pad is None:
        return [Said("shape", "pads not named", Verdict.UNKNOWN)]
    out = []
    if v.caliper is None:
        out.append(Said("shape", f"{v.pad.shape}; caliper not named", Verdict.UNKNOWN))
    else:
        fits = v.pad.shape == v.caliper.pad_shape
        takes = "the caliper's own" if fits else f"the caliper takes {v.caliper.pad_shape}"
        out.append(Said("shape", f"{v.pad.shape}, {takes}", Verdict.HOLDS if fits else Verdict.FAILS))
    left, when_new = v.wheel.pad_material_mm, v.pad.material_mm
    if left is not None:
        out.append(Said("left", f"{left:.1f} of {when_new:.1f} mm, {left / when_new:.0%}"))
    return out


def _caliper(v: WheelView) -> list[Said]:
    c = v.caliper
    if c is None:
        return [Said("catalogue says", "caliper not named", Verdict.UNKNOWN)]
    if c.fluid is Fluid.NONE:
        pads = "both pads move" if c.moving_pads == 2 else "one pad moves"
        said = f"cable, {c.pull} pull, {pads}, slot {c.slot_mm:g} mm"
    else:
        bores = " + ".join(f"{b:g}" for b in c.bores_mm)
        said = f"pistons {bores} mm a side, slot {c.slot_mm:g} mm, {'DOT' if c.fluid is Fluid.DOT else 'mineral'} fluid"
    return [Said("catalogue says", said), Said("pads", f"shape {c.pad_shape}"), Said("mount", f"{c.mount} mount")]


def _lever(v: WheelView, result: WheelResult | None) -> list[Said]:
    out = []
    if v.lever is None:
        out.append(Said("catalogue says", "lever not named", Verdict.UNKNOWN))
    elif v.lever.bore_mm is None:
        out.append(Said("catalogue says", f"cable, {v.lever.pull} pull, ratio {v.lever.ratio:g}"))
    else:
        out.append(Said("catalogue says", f"ratio {v.lever.ratio:g}, master piston {v.lever.bore_mm:g} mm"))
    if result is not None:
        travel = result.forces.travel
        verdict = Verdict.HOLDS
        if travel.total_mm > travel.limit_mm:
            verdict = Verdict.FAILS
        elif travel.total_mm > TRAVEL_TIGHT_RATIO * travel.limit_mm:
            verdict = Verdict.TIGHT
        origin = "reach as read" if v.wheel.lever_reach_mm is not None else "reach not read, usual figure"
        words = f"{travel.total_mm:.0f} of {travel.limit_mm:.0f} mm at the target stop ({origin})"
        out.append(Said("travel", words, verdict))
    return out


def _room(v: WheelView) -> list[Said]:
    """What the distances about the axle say of the mount; the rest of this place is judged on Fit."""
    kind, native = v.telling.kind, v.native.size_mm
    if kind is None or native is None:
        return [Said("holes", "mount or native size not known", Verdict.UNKNOWN)]
    seat = seat_of(kind, v.end, native, v.wheel)
    if seat.conflict:
        return [Said("holes", seat.conflict, Verdict.FAILS)]
    upper, lower = f"{abs(seat.upper):.1f}", f"{abs(seat.lower):.1f}"
    if not seat.measured:
        return [Said("holes", f"a mount for {native:g} has them about {upper} and {lower} mm from the axle (nominal)")]
    side = "outside" if seat.proud_mm > 0 else "inside"
    words = f"{abs(seat.proud_mm):.1f} mm {side} where a mount for {native:g} has them"
    off = abs(seat.proud_mm) > PROUD_MOST_MM
    return [Said("holes", words, Verdict.UNKNOWN if off else Verdict.HOLDS)]


def said_at(place: Place, v: WheelView, result: WheelResult | None, catalogue: Catalogue) -> tuple[Said, ...]:
    """What the readings of one wheel say at one place. ``result`` is the fitted setup's, where it can be computed."""
    if v.wheel.fitted_brake in (FittedBrake.RIM, FittedBrake.OTHER) and place not in (Place.MOUNT, Place.HUB):
        return (Said("no disc brake", "nothing to read here yet"),)
    found = {
        Place.MOUNT: lambda: _mount(v, catalogue),
        Place.HUB: lambda: _hub(v),
        Place.ROTOR: lambda: _rotor(v, result),
        Place.PADS: lambda: _pads(v),
        Place.CALIPER: lambda: _caliper(v),
        Place.LEVER: lambda: _lever(v, result),
        Place.ROOM: lambda: _room(v),
    }[place]()
    return tuple(found)
