"""The terms of the trade, each in a sentence or two, and the fields whose label asks for one. Nothing else explains a
term: pages, labels and the guide all read it here."""

from collections.abc import Mapping
from dataclasses import dataclass

from clavis.core.parts.mounts import MOUNT_ROWS, MountKind
from clavis.core.sentences import Words, say


@dataclass(frozen=True, kw_only=True)
class Term:
    """``fields`` are the last segments of the paths whose label it explains."""

    words: str
    meaning: Words
    fields: tuple[str, ...] = ()


TERMS: Mapping[str, Term] = {
    "adapter": Term(
        words="adapter", fields=("adapter_id",),
        meaning="What carries a caliper from the size its mount is made for to another size of rotor. It is named by the "
        "size it starts from and the size it serves, never by a plus figure alone; one adapter at a time, never two.",
    ),
    "arm-pump": Term(
        words="arm pump",
        meaning="The forearm tires and cramps on a long descent, because the lever is pulled too hard for too long.",
    ),
    "bed-in": Term(
        words="bed in",
        meaning="To make new pads and rotor fit each other: a number of firm stops from speed, without locking the wheel, "
        "so that an even film of pad is laid on the rotor. Full power comes only afterwards.",
    ),
    "bite-point": Term(
        words="bite point", fields=("lever_bite_mm",),
        meaning="Where the pads meet the rotor, seen at the lever: its distance from the bar at that moment.",
    ),
    "boiling-point": Term(
        words="boiling point, dry and wet", fields=("fluid_boils_c", "fluid_age_y", "water_seen"),
        meaning="Dry is where fresh fluid boils; wet is where it boils after it has taken up water. DOT fluid takes water "
        "up with the years. Boiling fluid is vapour in the line: the lever comes to the bar.",
    ),
    "compound": Term(
        words="compound", fields=("film_compound", "compound"),
        meaning="What the friction material is made of: resin, semi-metallic, sintered or ceramic. It decides bite when "
        "cold and wet, heat before it fades, noise, and how fast the rotor wears.",
    ),
    "compressionless-housing": Term(
        words="compressionless housing", meaning="Housing of a cable brake that does not give when the lever is pulled.",
    ),
    "fade": Term(
        words="fade", meaning="Pads that get too hot lose friction: the same pull stops less. It comes back when they cool."
    ),
    "flat-mount": Term(
        words="flat mount",
        meaning=say(
            "A flat face on the fork leg, its threaded holes {fork_mm:g} apart, or on the chainstay, holes {frame_mm:g} apart "
            "and bolted from below; the caliper lies on it.",
            fork_mm=MOUNT_ROWS[MountKind.FLAT_FRONT].spacing_mm, frame_mm=MOUNT_ROWS[MountKind.FLAT_REAR].spacing_mm,
        ),
    ),
    "flip-plate": Term(
        words="flip plate",
        meaning="The plate between a flat-mount fork and its caliper: one way round it serves one rotor size, turned round "
        "the next one.",
    ),
    "floating-rotor": Term(
        words="floating rotor",
        meaning="A braking track riveted to arms of its own, so that it may grow with heat without warping.",
    ),
    "force-margin": Term(
        words="force margin",
        meaning="How much more force this hand can make at the road than the target stop asks for.",
    ),
    "glazed": Term(
        words="glazed", fields=("pad_state",),
        meaning="A pad face that got shiny and hard from heat. It may be lightly sanded; a pad that met oil is thrown away.",
    ),
    "heat-margin": Term(
        words="heat margin", meaning="How far the hottest link stays below its own limit over the ride."
    ),
    "insert-and-olive": Term(
        words="insert and olive", meaning="What seals the end of a hose: new ones each time a hose is cut."
    ),
    "international-standard": Term(
        words="international standard (IS)",
        meaning=say(
            "Two unthreaded tabs, their holes {spacing_mm:g} apart; the bolts run crosswise, parallel to the axle, into an "
            "adapter.", spacing_mm=MOUNT_ROWS[MountKind.IS].spacing_mm,
        ),
    ),
    "largest-rotor": Term(
        words="largest rotor allowed", fields=("max_rotor_mm", "limit_source"),
        meaning="What the maker of the fork or frame allows: on its label, in its document, or asked for. A bigger rotor "
        "pulls harder at the mount. Unknown is not the same as unlimited.",
    ),
    "lever-clearance": Term(
        words="lever clearance to the bar", fields=("lever_reach_mm",),
        meaning="What is left between the blade and the bar at the target stop; reach is the same at rest.",
    ),
    "lip": Term(
        words="lip", fields=("rotor_lip_mm",),
        meaning="The step at the edge of a rotor or pad that was never swept; it makes a worn part read thicker.",
    ),
    "long-lever": Term(words="long lever", meaning="A lever that comes too near the bar before the brake is firm."),
    "minimum-thickness": Term(
        words="minimum thickness", fields=("rotor_minimum_mm", "minimum_mm"),
        meaning="Marked on the rotor by its maker, often as MIN. TH. At or below it anywhere on the track the rotor is "
        "replaced.",
    ),
    "native-size": Term(
        words="native size", fields=("native_rotor_mm", "native_mm"),
        meaning="The rotor a mount is made for: with it, the caliper bolts straight on, without an adapter.",
    ),
    "pitch-over": Term(
        words="pitch-over",
        meaning="The rear wheel lifts and the bike turns over its front wheel: past that no stronger brake stops it sooner.",
    ),
    "post-mount": Term(
        words="post mount", fields=("mount_named", "mount_spacing_mm", "bolt_direction"),
        meaning=say(
            "Two posts of fork or frame with threaded holes {spacing_mm:g} apart, middle to middle; the bolts run along the "
            "posts.", spacing_mm=MOUNT_ROWS[MountKind.POST].spacing_mm,
        ),
    ),
    "run-out": Term(
        words="run-out", fields=("rotor_runout_mm",),
        meaning="How far the rotor's face wanders sideways in one turn, read with a dial gauge or past a fixed point.",
    ),
    "six-bolt-splined": Term(
        words="six-bolt, splined", fields=("hub", "interface"),
        meaning="How a rotor sits on its hub: held by six bolts, or on teeth with a lockring. Six-bolt rotors go on splined "
        "hubs by an adapter; splined rotors never go on six-bolt hubs.",
    ),
    "stand-in": Term(
        words="stand-in",
        meaning="Usual figures for a part on a bike that nobody can name. It may stay on the bike and is never offered; "
        "what rests on it is doubted widely.",
    ),
    "taper": Term(
        words="taper", fields=("pad_taper_mm",),
        meaning="The difference between the thick and the thin end of one pad: the caliper stands askew, or a piston drags.",
    ),
    "thickness-variation": Term(
        words="thickness variation", fields=("rotor_points_mm",),
        meaning="The thickest less the thinnest reading round the rotor; from a few hundredths on it is felt as pulsing. "
        "Read with a micrometer, in the hollow of the track: a vernier bridges it.",
    ),
    "typical": Term(
        words="typical, check the part",
        meaning="Figures that parts of this kind usually have, not those of this part. The part that is bought is held "
        "against them before it is fitted.",
    ),
}  # fmt: skip
TERM_OF_FIELD: Mapping[str, str] = {field: key for key, term in TERMS.items() for field in term.fields}


def term_of(path: str) -> str:
    """The key of the term that explains a field's label; empty where none does.

    >>> term_of("front.rotor_runout_mm"), term_of("rider.name")
    ('run-out', '')
    """
    return TERM_OF_FIELD.get(path.rpartition(".")[2], "")
