"""Conditions: what was found on the parts of a wheel and what it means.

CONDITIONS is the table: a row looks at one wheel and says nothing, or why it speaks, with consequence and source.
Whether the parts go together is in ``fit.checks``.
"""

from dataclasses import dataclass
from enum import StrEnum
from typing import TypedDict

from clavis.core.evaluation import condition_readings as readings
from clavis.core.evaluation.condition_readings import Speaks
from clavis.core.job.places import Place
from clavis.core.job.renewal import Renewal, Renewals
from clavis.core.job.resolved_wheel import ResolvedWheel
from clavis.core.job.wheel import (
    LeverFeel,
    LineState,
    PistonState,
    RotorFace,
    Seen,
)
from clavis.core.parts.links import Link
from clavis.core.parts.models import Axis
from clavis.core.parts.mounts import End
from clavis.core.physics.bike import TreadLeft
from clavis.core.physics.friction import PadState
from clavis.core.sentences import Words, say
from clavis.core.verdicts import Severity


class FindingKind(StrEnum):
    """Keep, treat, replace, or stop: unsafe to ride. *Measure* asks for a better reading before any of them."""

    STOP = "stop"
    REPLACE = "replace"
    TREAT = "treat"
    MEASURE = "measure"
    KEEP = "keep"


class On(StrEnum):
    """What a condition belongs to: it is gone from a setup that replaces that."""

    WHEEL = "wheel"
    ROTOR = "rotor"
    PAD = "pad"
    CALIPER = "caliper"
    LINE = "line"
    FLUID = "fluid"
    BEDDING = "bedding"


@dataclass(frozen=True, kw_only=True)
class ConditionRow:
    """One row of the table: where it belongs, what follows, where that comes from, and when it speaks. ``severity`` is
    how it weighs on a setup that keeps what it is on."""

    key: str
    place: Place
    on: On
    link: Link
    kind: FindingKind
    severity: Severity
    about: str
    consequence: Words
    source: str
    speaks: Speaks
    settles: str = ""
    """the field of the wheel that would settle it, where an entry does"""
    voids: bool = False
    """a brake that keeps this has no figures of force and heat: they would be guessed"""
    cure: Renewal | None = None
    """what in an order does away with it"""
    asks: bool = False
    """``about`` names what is to be looked at; where the row is silent, it was looked at and is in order"""
    waivable: bool = False
    """where it is not known, a named person may answer for it: no stated limit hangs on it"""


@dataclass(frozen=True)
class Condition:
    """A row that speaks of one wheel."""

    end: End
    row: ConditionRow
    reason: Words


_STOP, _REPLACE, _TREAT, _MEASURE, _KEEP = FindingKind
_JOB, _OURS = "trade practice", "judged by us"


class _At(TypedDict):
    """Where a row belongs."""

    place: Place
    on: On
    link: Link


_ROTOR: _At = {"place": Place.ROTOR, "on": On.ROTOR, "link": Link.ROTOR}
_PADS: _At = {"place": Place.PADS, "on": On.PAD, "link": Link.PAD}
_CALIPER: _At = {"place": Place.CALIPER, "on": On.CALIPER, "link": Link.CALIPER}
_LINE: _At = {"place": Place.CALIPER, "on": On.LINE, "link": Link.LINE}
_FLUID: _At = {"place": Place.LEVER, "on": On.FLUID, "link": Link.LINE}
_LEVER: _At = {"place": Place.LEVER, "on": On.FLUID, "link": Link.LEVER}
_MOUNT: _At = {"place": Place.MOUNT, "on": On.WHEEL, "link": Link.CALIPER}
_HUB: _At = {"place": Place.HUB, "on": On.WHEEL, "link": Link.WHEEL}
_X, _NEW = Severity, Renewal
CONDITIONS: tuple[ConditionRow, ...] = (
    # stop: unsafe to ride
    ConditionRow(
        key="rotor_minimum", **_ROTOR, kind=_STOP, severity=_X.STOP, about="rotor under its minimum",
        consequence="replace the rotor before riding", source="marking on the rotor; unmarked, what it started at",
        speaks=readings.under_minimum,
        voids=True, cure=_NEW.ROTOR,
    ),
    ConditionRow(
        key="cracks", **_ROTOR, kind=_STOP, severity=_X.STOP, about="rotor cracked",
        consequence="scrap it; no crack is small enough", source=_JOB,
        speaks=readings.seen_as("rotor_cracks", Seen.YES, "a crack was seen"),
        voids=True, cure=_NEW.ROTOR,
    ),
    ConditionRow(
        key="rotor_oil", **_ROTOR, kind=_STOP, severity=_X.STOP, about="oil on the rotor",
        consequence=(
            "clean the rotor with isopropyl alcohol, replace the pads that ran on it, find where the oil comes "
            "from"
        ), source=_JOB, speaks=readings.seen_as("rotor_face", RotorFace.OILED, "oil on the track"),
        voids=True, cure=_NEW.ROTOR,
    ),
    ConditionRow(
        key="oil", **_PADS, kind=_STOP, severity=_X.STOP, about="pads oiled",
        consequence="replace the pads, clean the rotor; burning or washing does not bring them back", source=_JOB,
        speaks=readings.seen_as("pad_state", PadState.OILED, "oil on the friction face"),
        voids=True, cure=_NEW.PAD,
    ),
    ConditionRow(
        key="metal", **_PADS, kind=_STOP, severity=_X.STOP, about="pads at metal",
        consequence="replace pads and rotor", source=_JOB,
        speaks=readings.seen_as("pad_state", PadState.METAL, "backing plate has met the rotor"),
        voids=True, cure=_NEW.PAD,
    ),
    ConditionRow(
        key="pads_gone", **_PADS, kind=_STOP, severity=_X.STOP, about="no friction material left",
        consequence="replace pads and rotor: the backing plate is at the rotor, whatever its face looks like",
        source=_JOB, speaks=readings.pads_gone, voids=True, cure=_NEW.PAD,
    ),
    ConditionRow(
        key="met_metal", **_ROTOR, kind=_STOP, severity=_X.STOP, about="rotor has met bare metal",
        consequence="replace the rotor with the pads", source=_JOB, speaks=readings.met_metal, voids=True,
        cure=_NEW.ROTOR,
    ),
    ConditionRow(
        key="leak", **_LINE, kind=_STOP, severity=_X.STOP, about="line leaks",
        consequence="find the part that leaks and replace it, replace pads that were wetted, bleed", source=_JOB,
        speaks=readings.seen_as("line_state", LineState.LEAKING, "fluid outside the line, or a cable fraying"),
        voids=True,
    ),
    ConditionRow(
        key="wrong_fluid", **_FLUID, kind=_STOP, severity=_X.STOP, about="wrong fluid in the line",
        consequence="the seals swell and fail: every part that has met it is the maker's decision",
        source="makers' instructions", speaks=readings.wrong_fluid,
        voids=True,
    ),
    ConditionRow(
        key="bite_at_bar", **_LEVER, kind=_STOP, severity=_X.STOP, about="lever all but at the bar",
        consequence="nothing is left for a hard stop: find out why before riding", source=_OURS,
        speaks=readings.bites_between(0, readings.BITE_STOP_MM),
        voids=True, cure=_NEW.BLEED,
    ),
    # replace
    ConditionRow(
        key="pads_thin", **_PADS, kind=_REPLACE, severity=_X.FAILS, about="pads worn",
        consequence=say("replace by {replace_mm:.1}, or at the maker's figure", replace_mm=readings.PAD_REPLACE_MM),
        source=_JOB, speaks=readings.pads_thin,
        cure=_NEW.PAD,
    ),
    ConditionRow(
        key="variation_high", **_ROTOR, kind=_REPLACE, severity=_X.TIGHT, about="rotor uneven in thickness",
        consequence="it pulses; truing does not help: replace", source=_JOB,
        speaks=readings.between(readings.VARIATION_REPLACE_MM, None, lambda w: w.rotor_variation_mm, "varies by", 2),
        cure=_NEW.ROTOR,
    ),
    ConditionRow(
        key="runout_high", **_ROTOR, kind=_REPLACE, severity=_X.TIGHT, about="rotor bent",
        consequence="true it once; replace it if it does not stay true", source=_JOB,
        speaks=readings.between(readings.RUNOUT_REPLACE_MM, None, lambda w: w.rotor_runout_mm, "runs out by", 2),
        cure=_NEW.ROTOR,
    ),
    ConditionRow(
        key="stuck", **_CALIPER, kind=_REPLACE, severity=_X.FAILS, about="piston stuck",
        consequence="seal kit where the maker offers one, otherwise the caliper", source=_JOB,
        speaks=readings.seen_as("pistons", PistonState.STUCK, "does not come back or does not move"),
        voids=True, cure=_NEW.CALIPER,
    ),
    ConditionRow(
        key="line_worn", **_LINE, kind=_REPLACE, severity=_X.TIGHT, about="hose or housing worn",
        consequence="new hose and bleed, or new cable and housing", source=_JOB,
        speaks=readings.seen_as("line_state", LineState.WORN, "kinked, chafed, or stiff housing"),
        cure=_NEW.HOSE,
    ),
    # treat
    ConditionRow(
        key="pads_soon", **_PADS, kind=_TREAT, severity=_X.NOTE, about="pads wearing", consequence="plan new pads",
        source=_JOB, speaks=readings.pads_soon,
        cure=_NEW.PAD,
    ),
    ConditionRow(
        key="glazed", **_PADS, kind=_TREAT, severity=_X.NOTE, about="pads glazed",
        consequence="sand lightly, bed in again", source=_JOB,
        speaks=readings.seen_as("pad_state", PadState.GLAZED, "shiny face"),
    ),
    ConditionRow(
        key="unbedded", place=Place.PADS, on=On.BEDDING, link=Link.PAD, kind=_TREAT, severity=_X.NOTE,
        about="pads new", consequence="bed them in: until then they hold little more than half", source=_JOB,
        speaks=readings.found_new, cure=_NEW.BED_IN,
    ),
    ConditionRow(
        key="other_film", place=Place.ROTOR, on=On.BEDDING, link=Link.PAD, kind=_TREAT, severity=_X.NOTE,
        about="another compound's film", source=_JOB, cure=_NEW.BED_IN, speaks=readings.other_film,
        consequence="clean the rotor with alcohol, sand it lightly, bed in: until then they hold little more than half",
    ),
    ConditionRow(
        key="taper", **_PADS, kind=_TREAT, severity=_X.NOTE, about="pads tapered",
        consequence="align the caliper; look for a lazy piston", source=_OURS,
        speaks=readings.between(readings.TAPER_MM, None, lambda w: w.pad_taper_mm, "tapered by", 1),
    ),
    ConditionRow(
        key="uneven", **_PADS, kind=_TREAT, severity=_X.NOTE, about="pads worn unevenly",
        consequence="a piston that lags, or a caliper off centre", source=_OURS, speaks=readings.uneven,
    ),
    ConditionRow(
        key="one_sided", **_CALIPER, kind=_TREAT, severity=_X.NOTE, about="one pad gone, the other not",
        consequence=(
            "one side does not come back or the other does not push: look at every piston and its seal, and at the "
            "other wheel; pads and rotor are both replaced"
        ), source=_JOB, speaks=readings.one_sided,
    ),
    ConditionRow(
        key="lazy", **_CALIPER, kind=_TREAT, severity=_X.NOTE, about="piston lazy",
        consequence="clean and work it with the other held back, until all move alike", source=_JOB,
        speaks=readings.seen_as("pistons", PistonState.LAZY, "one moves later than the other"),
    ),
    ConditionRow(
        key="off_centre", **_CALIPER, kind=_TREAT, severity=_X.NOTE, about="caliper off centre",
        consequence="loosen, hold the lever, tighten in turns, check by eye", source=_JOB,
        speaks=readings.seen_as("caliper_centred", Seen.NO, "the rotor does not run mid-slot"),
    ),
    ConditionRow(
        key="variation", **_ROTOR, kind=_TREAT, severity=_X.NOTE, about="rotor slightly uneven in thickness",
        consequence="felt by some: clean, bed in again, read again", source=_JOB,
        speaks=readings.between(
            readings.VARIATION_TREAT_MM, readings.VARIATION_REPLACE_MM, lambda w: w.rotor_variation_mm, "varies by", 2
        ),
    ),
    ConditionRow(
        key="runout", **_ROTOR, kind=_TREAT, severity=_X.NOTE, about="rotor slightly bent", consequence="true it",
        source=_JOB,
        speaks=readings.between(
            readings.RUNOUT_TREAT_MM, readings.RUNOUT_REPLACE_MM, lambda w: w.rotor_runout_mm, "runs out by", 2
        ),
    ),
    ConditionRow(
        key="lip", **_ROTOR, kind=_TREAT, severity=_X.NOTE, about="lip at the rotor's edge",
        consequence="the pad does not cover the whole track: check adapter size and pad height before new pads",
        source=_JOB, speaks=readings.between(readings.LIP_MM, None, lambda w: w.rotor_lip_mm, "step of", 1),
    ),
    ConditionRow(
        key="grooves", **_ROTOR, kind=_TREAT, severity=_X.NOTE, about="grooves in the track",
        consequence="a pad has been at metal: find it, read the thickness in the groove", source=_JOB,
        speaks=readings.seen_as("rotor_grooves", Seen.YES, "felt with a fingernail"),
    ),
    ConditionRow(
        key="dirt", **_ROTOR, kind=_TREAT, severity=_X.NOTE, about="rotor dirty",
        consequence="isopropyl alcohol and a clean cloth; no spray", source=_JOB,
        speaks=readings.seen_as("rotor_face", RotorFace.DIRTY, "dirt or road film on the track"),
    ),
    ConditionRow(
        key="colour", **_ROTOR, kind=_TREAT, severity=_X.NOTE, about="rotor coloured by heat",
        consequence="a witness, not a verdict: look for glaze, read run-out, compare with the ride's own figure",
        source="temper colours of stainless steel", speaks=readings.colour,
    ),
    ConditionRow(
        key="hollow", **_ROTOR, kind=_TREAT, severity=_X.NOTE, about="new pads on a hollow rotor",
        consequence="bedding starts lower and takes longer", source=_JOB, speaks=readings.hollow,
    ),
    ConditionRow(
        key="hub_play", **_HUB, kind=_TREAT, severity=_X.NOTE, about="play in the hub",
        consequence="adjust or replace the bearings before any reading of run-out counts", source=_JOB,
        speaks=readings.seen_as("hub_play", Seen.YES, "the wheel knocks"),
    ),
    ConditionRow(
        key="tyre_worn", **_HUB, kind=_TREAT, severity=_X.NOTE, about="tread worn",
        consequence="a tyre before any brake: on loose ground and in the wet the stop ends at the tyre", source=_JOB,
        speaks=readings.seen_as("tyre_left", TreadLeft.WORN, "little or no tread left"),
    ),
    ConditionRow(
        key="spongy", **_LEVER, kind=_TREAT, severity=_X.NOTE, about="lever spongy",
        consequence="bleed: there is air in the line", source=_JOB,
        speaks=readings.seen_as("lever_feel", LeverFeel.SPONGY, "soft until the end"),
        cure=_NEW.BLEED,
    ),
    ConditionRow(
        key="long", **_LEVER, kind=_TREAT, severity=_X.NOTE, about="lever long",
        consequence="pads worn, pistons not reset, or air: measure the pads, then bleed", source=_JOB,
        speaks=readings.seen_as("lever_feel", LeverFeel.LONG, "late, then firm"),
        cure=_NEW.BLEED,
    ),
    ConditionRow(
        key="pumps_up", **_LEVER, kind=_TREAT, severity=_X.UNKNOWN, about="lever firm after pumping",
        consequence="gap at the pads or air in the line: reset the pistons, then bleed", source=_JOB,
        speaks=readings.seen_as("lever_feel", LeverFeel.PUMPS_UP, "the second pull bites earlier"),
        voids=True, cure=_NEW.BLEED,
    ),
    ConditionRow(
        key="bite_low", **_LEVER, kind=_TREAT, severity=_X.NOTE, about="lever bites late",
        consequence="reset the pistons, set reach and contact; bleed where it stays", source=_OURS,
        speaks=readings.bites_between(readings.BITE_STOP_MM, readings.BITE_TREAT_MM),
        cure=_NEW.BLEED,
    ),
    ConditionRow(
        key="water", **_FLUID, kind=_TREAT, severity=_X.NOTE, about="water in the line",
        consequence="fresh fluid and a full bleed: water boils first", source=_JOB,
        speaks=lambda w, _b: "drops seen in the fluid" if w.measured.water_seen else None,
        cure=_NEW.BLEED,
    ),
    ConditionRow(
        key="old_fluid", **_FLUID, kind=_TREAT, severity=_X.NOTE, about="fluid old",
        consequence="fresh fluid and a full bleed", source=_JOB, speaks=readings.old_fluid,
        cure=_NEW.BLEED,
    ),
    # measure before anything rests on it
    ConditionRow(
        key="mount", **_MOUNT, kind=_MEASURE, severity=_X.UNKNOWN, about="mount evidence disagrees",
        consequence="measure spacing and direction again", source=_JOB, speaks=lambda w, _b: w.mount.conflict or None,
        settles="mount_spacing_mm",
    ),
    ConditionRow(
        key="mount_untold", **_MOUNT, kind=_MEASURE, severity=_X.UNKNOWN, about="mount",
        consequence="measure the spacing of its holes and see which way the bolts run", source=_JOB,
        speaks=readings.mount_untold, settles="mount_spacing_mm",
        asks=True,
    ),
    ConditionRow(
        key="presence", **_MOUNT, kind=_MEASURE, severity=_X.UNKNOWN, about="entries disagree",
        consequence="look again, and take one of the two back", source=_OURS, speaks=readings.presence_conflict,
    ),
    ConditionRow(
        key="native", **_MOUNT, kind=_MEASURE, severity=_X.UNKNOWN, about="native size disagrees",
        consequence="read the size on rotor and adapter again", source=_JOB,
        speaks=lambda w, _b: w.native.conflict or None, settles="native_rotor_mm",
    ),
    ConditionRow(
        key="limit_below_native", **_MOUNT, kind=_MEASURE, severity=_X.UNKNOWN,
        about="largest and native size disagree", consequence="read both again: one of them is wrong", source=_OURS,
        speaks=readings.limit_below_native, settles="max_rotor_mm",
    ),
    ConditionRow(
        key="carrying", **_MOUNT, kind=_MEASURE, severity=_X.UNKNOWN, about="fork or frame and its document disagree",
        consequence="look again; where both are right it is not that part", source="maker's document",
        speaks=readings.carrying_disagrees, settles="carrying_id",
    ),
    ConditionRow(
        key="assisted", **_MOUNT, kind=_MEASURE, severity=_X.UNKNOWN, about="fork or frame on an assisted bike",
        consequence="ask its maker before anything larger is fitted", source="maker's document",
        speaks=readings.not_for_assisted,
    ),
    ConditionRow(
        key="rotor_unread", **_ROTOR, kind=_MEASURE, severity=_X.UNKNOWN, about="rotor thickness",
        consequence="read six points round the track with a micrometer", source=_JOB, speaks=readings.unread,
        settles="rotor_points_mm",
        asks=True,
    ),
    ConditionRow(
        key="vernier", **_ROTOR, kind=_MEASURE, severity=_X.UNKNOWN, about="rotor read with a vernier",
        consequence="read it again with a micrometer: a vernier may condemn, never pass", source=_JOB,
        speaks=readings.vernier, settles="rotor_instrument",
    ),
    ConditionRow(
        key="few_points", **_ROTOR, kind=_MEASURE, severity=_X.UNKNOWN, about="rotor read at too few points",
        consequence="read all round: the thinnest counts", source=_JOB, speaks=readings.few_points,
        settles="rotor_points_mm",
        waivable=True,
    ),
    ConditionRow(
        key="no_minimum", **_ROTOR, kind=_MEASURE, severity=_X.UNKNOWN, about="minimum thickness not known",
        consequence="read what is marked on the rotor, or ask its maker", source=_JOB, speaks=readings.no_minimum,
        settles="rotor_minimum_mm",
    ),
    ConditionRow(
        key="thicker", **_ROTOR, kind=_MEASURE, severity=_X.UNKNOWN, about="thicker than new",
        consequence="check the part chosen, or the instrument's zero", source=_OURS, speaks=readings.thicker_than_new,
        settles="rotor_points_mm",
    ),
    ConditionRow(
        key="pads_unread", **_PADS, kind=_MEASURE, severity=_X.UNKNOWN, about="pads not measured",
        consequence="measure what is left of both", source=_JOB, speaks=readings.pads_unread, settles="pad_inner_mm",
        waivable=True,
    ),
    ConditionRow(
        key="pads_unseen", **_PADS, kind=_MEASURE, severity=_X.UNKNOWN, about="face of the pads",
        consequence="take them out and look", source=_JOB, speaks=readings.pads_unseen, settles="pad_state",
        waivable=True,
        asks=True,
    ),
    ConditionRow(
        key="other_caliper", **_CALIPER, kind=_MEASURE, severity=_X.UNKNOWN, about="not the caliper that was named",
        consequence="check the part chosen", source=_OURS, speaks=readings.not_the_line, settles="caliper_id",
        waivable=True,
    ),
    ConditionRow(
        key="bite_reach", **_LEVER, kind=_MEASURE, severity=_X.NOTE, about="lever readings disagree",
        consequence="measure both from the same place on the blade", source=_OURS, speaks=readings.bite_outside_reach,
    ),
    ConditionRow(
        key="fluid_age", **_FLUID, kind=_MEASURE, severity=_X.NOTE, about="age of the fluid",
        consequence="ask, or bleed: fresh fluid settles it", source=_JOB, speaks=readings.fluid_age_unknown,
        settles="fluid_age_y",
        cure=_NEW.BLEED,
        asks=True,
    ),
    # nobody has looked yet: what holds, holds if these are in order
    ConditionRow(
        key="mount_by_name", **_MOUNT, kind=_MEASURE, severity=_X.UNSEEN, about="mount",
        consequence="measure the spacing of its bolts, and see which way they run", source=_JOB,
        settles="mount_spacing_mm", waivable=True, speaks=readings.named_alone,
    ),
    ConditionRow(
        key="cracks_unseen", **_ROTOR, kind=_MEASURE, severity=_X.UNSEEN, about="rotor cracks",
        consequence="look at every arm and hole", source=_JOB, settles="rotor_cracks", waivable=True,
        speaks=readings.unseen("rotor_cracks", "rotor", Seen.NOT_CHECKED),
        asks=True,
    ),
    ConditionRow(
        key="face_unseen", **_ROTOR, kind=_MEASURE, severity=_X.UNSEEN, about="oil on the rotor",
        consequence="wipe the track with a clean white cloth", source=_JOB, settles="rotor_face", waivable=True,
        speaks=readings.unseen("rotor_face", "rotor", RotorFace.NOT_CHECKED),
        asks=True,
    ),
    ConditionRow(
        key="runout_unread", **_ROTOR, kind=_MEASURE, severity=_X.UNSEEN, about="run-out",
        consequence="turn the wheel past a fixed point, or a dial", source=_JOB, settles="rotor_runout_mm",
        speaks=readings.unseen("rotor_runout_mm", "rotor", None), waivable=True,
        asks=True,
    ),
    ConditionRow(
        key="pistons_unseen", **_CALIPER, kind=_MEASURE, severity=_X.UNSEEN, about="pistons",
        consequence="pull the lever with a spacer between the pads: all come alike, and go back", source=_JOB,
        settles="pistons", speaks=readings.unseen("pistons", "caliper", PistonState.NOT_CHECKED), waivable=True,
        asks=True,
    ),
    ConditionRow(
        key="line_unseen", **_LINE, kind=_MEASURE, severity=_X.UNSEEN, about="hose or housing",
        consequence="look along it, and at both ends with the lever pulled", source=_JOB, settles="line_state",
        speaks=readings.unseen("line_state", "caliper", LineState.NOT_CHECKED), waivable=True,
        asks=True,
    ),
    ConditionRow(
        key="lever_unfelt", **_LEVER, kind=_MEASURE, severity=_X.UNSEEN, about="the lever's feel",
        consequence="pull it hard, twice, and hold it", source=_JOB, settles="lever_feel", waivable=True,
        speaks=readings.unseen("lever_feel", "lever", LeverFeel.NOT_CHECKED),
        asks=True,
    ),
    # keep
    ConditionRow(
        key="mount_told", **_MOUNT, kind=_KEEP, severity=_X.NOTE, about="mount",
        consequence="told by spacing and direction", source=_JOB,
        speaks=lambda w, _b: say("{kind}", kind=w.mount.kind) if w.mount.kind else None,
    ),
    ConditionRow(
        key="limit_refused", **_MOUNT, kind=_KEEP, severity=_X.NOTE, about="no larger rotor",
        consequence="the native size stays", source="maker of fork or frame", speaks=readings.limit_refused,
    ),
    ConditionRow(
        key="rotor_good", **_ROTOR, kind=_KEEP, severity=_X.NOTE, about="rotor thickness", consequence="keep",
        source="micrometer, six or more points", speaks=readings.rotor_good,
    ),
    ConditionRow(
        key="pads_good", **_PADS, kind=_KEEP, severity=_X.NOTE, about="pads", consequence="keep", source=_JOB,
        speaks=readings.pads_good,
    ),
)  # fmt: skip


def conditions_of(wheel: ResolvedWheel, new: frozenset[Axis] = frozenset()) -> tuple[Condition, ...]:
    """Every row that speaks of a wheel as it stands, beside the kinds of part that shall come ``new``."""
    said = ((row, row.speaks(wheel, new)) for row in CONDITIONS)
    return tuple(Condition(wheel.end, row, reason) for row, reason in said if reason)


def kept_on(
    new: frozenset[Axis], *, new_hose: bool = False, opens_line: bool = False, beds_in: bool = False
) -> frozenset[On]:
    """What of a wheel stays as it is where these kinds of part are new, the hose is, the line is filled anew, or what
    is there is bedded in."""
    joined = not new & {Axis.CALIPER, Axis.LEVER} and not new_hose
    stays = {
        On.WHEEL: True,
        On.ROTOR: Axis.ROTOR not in new,
        On.PAD: Axis.PAD not in new,
        On.CALIPER: Axis.CALIPER not in new,
        On.LINE: joined,
        On.FLUID: joined and not opens_line,
        On.BEDDING: not beds_in and not new & {Axis.PAD, Axis.ROTOR},
    }
    return frozenset(on for on, kept in stays.items() if kept)


def cures_of(wheel: ResolvedWheel) -> Renewals:
    """What has to come new, or be done, for parts of these models to stay on a wheel at all."""
    grave = (Severity.STOP, Severity.FAILS)
    return frozenset(
        c.row.cure for c in conditions_of(wheel) if c.row.cure and (c.row.voids or c.row.severity in grave)
    )


def helpful_renewals(wheel: ResolvedWheel) -> Renewals:
    """What else, come new or done, does away with something that is tight or not known of the parts that stay."""
    mild = (Severity.TIGHT, Severity.UNKNOWN)
    found = {
        c.row.cure
        for c in conditions_of(wheel)
        if c.row.cure and (c.row.severity in mild or c.row.cure is Renewal.BED_IN)
    }
    return frozenset(found) - cures_of(wheel)


def needed_renewals(cures: Renewals, changed: frozenset[Axis]) -> Renewals:
    """What of the cures is left to do where other models come to these places: they do away with theirs, and a new
    lever or caliper with what ails the line."""
    if not cures:
        return cures
    joined = bool(changed & {Axis.CALIPER, Axis.LEVER})
    of_line = {Renewal.HOSE, Renewal.BLEED}
    return frozenset(c for c in cures if c.axis not in changed and not (joined and c in of_line))
