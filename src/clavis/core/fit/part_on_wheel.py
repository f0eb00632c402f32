"""Why one part of the catalogue does not go on a wheel, beside what is proposed or fitted there."""

from clavis.core.fit.adapters import adapter_refusal
from clavis.core.fit.checks import CHECKS
from clavis.core.fit.mounting import FitCase, Mounting
from clavis.core.parts.fluids import GRADES_OF, LINE_WORDS, Fluid
from clavis.core.parts.hoses_and_fluids import may_fill
from clavis.core.parts.models import Adapter, AnyPart, Axis, Brake, FluidPart, Fork, Frame, Hose
from clavis.core.parts.mounts import SAME_SIZE_MM, End
from clavis.core.sentences import Words, say
from clavis.core.verdicts import Verdict

_AXES = {axis.value: axis for axis in Axis}


def part_refusals(on: Mounting, beside: Brake, part: AnyPart) -> tuple[Words, ...] | None:
    """Everything that speaks against a part. Empty where nothing does; None where nothing can be said, because too little
    is known or the part is of a kind that is not judged."""
    if isinstance(part, Adapter):
        return _adapter(on, beside, part)
    if isinstance(part, Fork | Frame):
        return _carrying(on, part)
    if isinstance(part, Hose | FluidPart):
        return _line(beside, part)
    axis = _AXES.get(part.kind)
    if axis is None:
        return None
    case = FitCase(on, beside.with_part(axis, part))
    asked = [row for row in CHECKS if axis in row.sees and all(case.brake.of(a) is not None for a in row.sees)]
    if not asked:
        return None
    said = (row.says(case) for row in asked)
    return tuple(found.words for found in said if found is not None and found.verdict is Verdict.FAILS)


def _adapter(on: Mounting, beside: Brake, part: Adapter) -> tuple[Words, ...] | None:
    mount, native, caliper = on.wheel.mount.kind, on.wheel.native.mm, beside.caliper
    if caliper is None or mount is None or native is None:
        return None
    refusal = adapter_refusal(part, mount, native, on.wheel.end, caliper.mount)
    return (refusal,) if refusal else ()


def _carrying(on: Mounting, part: Fork | Frame) -> tuple[Words, ...] | None:
    """A fork or frame beside what was measured on the wheel."""
    wheel = on.wheel
    mount, native = wheel.mount.kind, wheel.native.mm
    if isinstance(part, Fork) != (wheel.end is End.FRONT):
        return (say("a {kind} is not at the {end}", kind=part.kind, end=wheel.end),)
    if mount is None:
        return None
    if part.mount is not mount:
        return (say("its mount is {its}, the one measured {measured}", its=part.mount, measured=mount),)
    if part.native_mm is not None and native is not None and abs(part.native_mm - native) > SAME_SIZE_MM:
        words = "made for {its_mm:size}, the one on the bike for {native_mm:size}"
        return (say(words, its_mm=part.native_mm, native_mm=native),)
    return ()


def _line(beside: Brake, part: Hose | FluidPart) -> tuple[Words, ...] | None:
    """A hose or a bottle beside lever and caliper."""
    lever, caliper = beside.lever, beside.caliper
    if caliper is None or lever is None:
        return None
    if isinstance(part, FluidPart):
        if part.grade not in GRADES_OF[caliper.fluid]:
            return (say("{its} in a line for {line}", its=LINE_WORDS[part.family], line=LINE_WORDS[caliper.fluid]),)
        if caliper.fluid is Fluid.MINERAL and not may_fill(part, caliper):
            return (say("mineral fluid of another maker than the caliper's, {maker}", maker=caliper.maker),)
        return ()
    if part.fluid is not caliper.fluid:
        words = "a hose for {its} in a line for {line}"
        return (say(words, its=LINE_WORDS[part.fluid], line=LINE_WORDS[caliper.fluid]),)
    ends = ((part.lever_fitting, lever.fitting, "lever"), (part.caliper_fitting, caliper.fitting, "caliper"))
    words = "{mine} does not go on {theirs} at the {where}"
    return tuple(say(words, mine=mine, theirs=theirs, where=where) for mine, theirs, where in ends if mine != theirs)
