"""Findings: what a measured state means, of four kinds, each with reason and consequence (the job, section 2).

FINDINGS is the table; a row looks at one wheel and says nothing, or why it speaks.
"""

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

from clavis.core.friction import PadState
from clavis.core.job import Instrument, Job, Wheel
from clavis.core.mounts import End, tell_mount
from clavis.core.parts import Catalogue, Rotor
from clavis.core.setups import PAD_PLAN_MM, PAD_REPLACE_MM, minimum_thickness_mm


class FindingKind(StrEnum):
    """Keep, treat, replace, or stop: unsafe to ride."""

    KEEP = "keep"
    TREAT = "treat"
    REPLACE = "replace"
    STOP = "stop"
    MEASURE = "measure"


@dataclass(frozen=True)
class FindingRow:
    """One row of the table: what it is about, what follows, and when it speaks."""

    key: str
    kind: FindingKind
    about: str
    consequence: str
    speaks: Callable[[Wheel, Rotor | None, End], str | None]


@dataclass(frozen=True)
class Finding:
    end: End
    row: FindingRow
    reason: str


def _under_minimum(w: Wheel, rotor: Rotor | None, _e: End) -> str | None:
    minimum = minimum_thickness_mm(rotor) if rotor else None
    if minimum is None or w.rotor_thinnest_mm is None or w.rotor_thinnest_mm >= minimum:
        return None
    return f"thinnest {w.rotor_thinnest_mm:.2f} mm, minimum {minimum:.2f} mm"


def _vernier(w: Wheel, rotor: Rotor | None, _e: End) -> str | None:
    minimum = minimum_thickness_mm(rotor) if rotor else None
    if w.rotor_instrument is not Instrument.VERNIER or w.rotor_thinnest_mm is None or minimum is None:
        return None
    return "flat jaws bridge the worn hollow and read too thick" if w.rotor_thinnest_mm >= minimum else None


def _ring_good(w: Wheel, rotor: Rotor | None, _e: End) -> str | None:
    minimum = minimum_thickness_mm(rotor) if rotor else None
    if minimum is None or w.rotor_thinnest_mm is None or w.rotor_instrument is Instrument.VERNIER:
        return None
    left = w.rotor_thinnest_mm - minimum
    return f"{left:.2f} mm above its minimum of {minimum:.2f} mm" if left >= 0 else None


def _pads_thin(w: Wheel, _r: Rotor | None, _e: End) -> str | None:
    m = w.pad_material_mm
    return None if m is None or m >= PAD_REPLACE_MM else f"{m:.1f} mm of material left"


def _pads_soon(w: Wheel, _r: Rotor | None, _e: End) -> str | None:
    m = w.pad_material_mm
    return f"{m:.1f} mm of material left" if m is not None and PAD_REPLACE_MM <= m < PAD_PLAN_MM else None


def _state(state: PadState, words: str) -> Callable[[Wheel, Rotor | None, End], str | None]:
    return lambda w, _r, _e: words if w.pad_state is state else None


def _conflict(w: Wheel, _r: Rotor | None, e: End) -> str | None:
    return tell_mount(w.mount_spacing_mm, w.bolt_direction, e).conflict or None


FINDINGS: tuple[FindingRow, ...] = (
    FindingRow(
        "ring_minimum", FindingKind.STOP, "rotor under its minimum", "replace the rotor before riding", _under_minimum
    ),
    FindingRow(
        "oil",
        FindingKind.STOP,
        "pads oiled",
        "replace the pads, clean the rotor; burning or washing does not bring them back",
        _state(PadState.OILED, "oil on the friction face"),
    ),
    FindingRow(
        "metal",
        FindingKind.STOP,
        "pads at metal",
        "replace pads and rotor",
        _state(PadState.METAL, "backing plate has met the rotor"),
    ),
    FindingRow(
        "pads_thin",
        FindingKind.REPLACE,
        "pads worn",
        f"replace by {PAD_REPLACE_MM:.1f} mm, or at the maker's figure",
        _pads_thin,
    ),
    FindingRow("pads_soon", FindingKind.TREAT, "pads wearing", "plan new pads", _pads_soon),
    FindingRow(
        "glazed", FindingKind.TREAT, "pads glazed", "sand lightly, bed in again", _state(PadState.GLAZED, "shiny face")
    ),
    FindingRow(
        "vernier", FindingKind.MEASURE, "rotor read with a vernier", "read it again with a micrometer", _vernier
    ),
    FindingRow(
        "mount", FindingKind.MEASURE, "mount evidence disagrees", "measure spacing and direction again", _conflict
    ),
    FindingRow("ring_good", FindingKind.KEEP, "rotor thickness", "keep", _ring_good),
)


def findings_of(job: Job, catalogue: Catalogue) -> tuple[Finding, ...]:
    """Every finding of both wheels, unsafe ones first."""
    found = []
    for row in FINDINGS:
        for end in End:
            wheel = job.wheel(end)
            reason = row.speaks(wheel, catalogue.rotors.get(wheel.rotor_id or ""), end)
            if reason:
                found.append(Finding(end, row, reason))
    order = [FindingKind.STOP, FindingKind.REPLACE, FindingKind.TREAT, FindingKind.MEASURE, FindingKind.KEEP]
    return tuple(sorted(found, key=lambda f: order.index(f.row.kind)))
