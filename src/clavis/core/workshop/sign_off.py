"""Sign-off: a named person releases an order. It stands for what it was signed on and for nothing else, and what was
proposed is what is on the bike from then on.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from pydantic import BaseModel

from clavis.core.errors import ClavisError
from clavis.core.evaluation.evaluate import Evaluation, SetupName
from clavis.core.evaluation.open_points import Matter
from clavis.core.evaluation.wheel_cases import WheelCase
from clavis.core.job.document import BESIDE_THE_SETUP, Job, SignOff
from clavis.core.job.pick import Pick
from clavis.core.job.renewal import NONE, Renewal, Renewals
from clavis.core.job.wheel import Fitted, FittedBrake, LeverFeel, LineState, Presence, RotorFace, Seen, Wheel
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.models import Axis
from clavis.core.parts.mounts import End
from clavis.core.physics.friction import PadState
from clavis.core.records import digest
from clavis.core.sentences import NOTHING, Words, say
from clavis.core.workshop.work_order import WorkOrder, work_order


class NotYetError(ClavisError):
    """The order cannot be signed off; the message says why."""


LATER_OF_WHEEL, LATER_OF_PART, LATER_OF_RELEASE = ("mount_named", "rotor_minimum_mm"), ("figures",), ("elsewhere",)
"""fields that came when there were sign-offs already: while nothing is entered there, a digest is what it was without
them, so that no release is voided by another version of the program"""


def _unset(record: BaseModel, later: tuple[str, ...]) -> set[str]:
    return {name for name in later if getattr(record, name) == type(record).model_fields[name].default}


def rests_on(job: Job) -> str:
    """A digest of all that a sign-off rests on: parts, readings, rider, bike, ride, model."""
    unset: dict[str, Any] = {end.value: _unset(job.wheel(end), LATER_OF_WHEEL) for end in End}
    released = {end: job.special.of(end).released for end in End}
    unset["special"] = {
        end.value: {"released": _unset(given, LATER_OF_RELEASE)} for end, given in released.items() if given
    }
    return digest(job.model_dump_json(exclude={**dict.fromkeys(BESIDE_THE_SETUP, True), **unset}))


def part_digests(job: Job, catalogue: Catalogue) -> dict[str, str]:
    """A digest of every line of the catalogue that the job uses."""
    parts = {part_id: catalogue.by_id(part_id) for part_id in sorted(job.part_ids())}
    return {
        part_id: digest(part.model_dump_json(exclude=_unset(part, LATER_OF_PART))) if part else ""
        for part_id, part in parts.items()
    }


class Validity(StrEnum):
    """Whether a sign-off stands."""

    NONE = "none"
    STANDS = "stands"
    VOID = "void"


@dataclass(frozen=True)
class SignedState:
    """How the job's sign-off stands, and where it does not, why."""

    validity: Validity
    why: Words = NOTHING


def signed_state(job: Job, evaluation: Evaluation, catalogue: Catalogue) -> SignedState:
    """A sign-off stands while nothing that it rests on is another, neither the job nor a part's line in the catalogue,
    and while nothing of it is known to be wrong today."""
    signed = job.signed_off
    if signed is None:
        return SignedState(Validity.NONE)
    if signed.rests_on != rests_on(job):
        return SignedState(Validity.VOID, "the job is not the one that was signed")
    now = part_digests(job, catalogue)
    other = next((part_id for part_id, mark in now.items() if signed.parts.get(part_id) != mark), None)
    if other is not None:
        part = catalogue.by_id(other)
        return SignedState(Validity.VOID, say("{part} has other figures now", part=part.name if part else other))
    wrong = next((p for p in evaluation.points(SetupName.PROPOSED) if p.grave and p.matter is not Matter.RIDE), None)
    if wrong is not None:
        return SignedState(Validity.VOID, wrong.told)
    return SignedState(Validity.STANDS)


OF_PART: Mapping[Axis, tuple[str, ...]] = {
    Axis.ROTOR: (
        "rotor_points_mm", "rotor_minimum_mm", "rotor_instrument", "rotor_runout_mm", "rotor_lip_mm", "rotor_cracks",
        "rotor_grooves", "rotor_face", "rotor_colour", "film_compound",
    ),
    Axis.PAD: ("pad_inner_mm", "pad_outer_mm", "pad_taper_mm", "pad_state"),
    Axis.CALIPER: ("pistons", "bore_read_mm", "slot_read_mm", "caliper_centred", "line_state"),
    Axis.LEVER: ("lever_feel", "lever_reach_mm", "lever_bite_mm"),
}  # fmt: skip
"""readings of a part: with another one, or a new one of the same model, nobody has read them yet"""
OF_PLACE = ("spoke_gap_mm", "hose_slack_mm", "upper_bolt_mm", "lower_bolt_mm", "caliper_centred")
"""readings of where the caliper stands"""


def _blank(names: tuple[str, ...]) -> dict[str, Any]:
    return {name: Wheel.model_fields[name].get_default() for name in names}


def comes_new(case: WheelCase) -> Renewals:
    """What of a wheel comes new by its order, or is done on it."""
    changes = case.changes
    if changes is None or not changes.anything:
        return NONE
    beside = {Renewal.ADAPTER: changes.adapter, Renewal.BOLTS: changes.bolts, Renewal.HOSE: changes.hose,
              Renewal.BLEED: changes.opens_line, Renewal.BED_IN: changes.beds_in}  # fmt: skip
    return frozenset(Renewal(axis) for axis in changes.parts) | {what for what, done in beside.items() if done}


def _after(wheel: Wheel, case: WheelCase, day: str) -> Wheel:
    """A wheel once its order is carried out: the new parts are on it since that day, of the old ones no reading is
    left, and what the steps of the order look at is as they ask for: the lever firm, the line tight."""
    setup, changes, fit = case.setup, case.changes, case.fit
    if setup is None or changes is None or fit is None or not changes.anything:
        return wheel
    told: dict[str, Any] = {f"{axis.value}_id": getattr(setup, axis.value).id for axis in Axis}
    for axis in sorted(changes.parts):
        told |= _blank(OF_PART[axis])
    if Axis.PAD in changes.parts:
        told |= {
            "pad_state": PadState.NEW,
            "pad_inner_mm": setup.pad.material_mm,
            "pad_outer_mm": setup.pad.material_mm,
        }
    if Axis.ROTOR in changes.parts:
        told |= {"rotor_face": RotorFace.CLEAN}
    told |= {"lever_feel": LeverFeel.FIRM}
    if changes.wheel:
        told |= {"hub": setup.wheel.measured.hub, "hub_there": Presence.THERE, "hub_play": Seen.NO}
    if wheel.fitted_brake in (FittedBrake.RIM, FittedBrake.OTHER):
        told |= {"fitted_brake": FittedBrake.DISC}
    if changes.parts & {Axis.CALIPER, Axis.LEVER} or changes.hose or changes.opens_line:
        told |= {"line_state": LineState.GOOD}
    if changes.opens_line:
        told |= {"lever_bite_mm": None, "water_seen": False, "fluid_age_y": 0.0}
        bottle = setup.filled_with
        if bottle is not None:
            told |= {"fluid_id": bottle.id, "fluid_grade": bottle.grade, "fluid_boils_c": bottle.dry_c}
    if changes.bolts:
        told |= _blank(OF_PLACE)
        for bolt in fit.to_mount:
            length_mm = bolt.choice.bolt.length_mm if bolt.choice.bolt else None
            told |= {"upper_bolt_mm" if bolt.upper else "lower_bolt_mm": length_mm}
    if changes.adapter or changes.bolts:
        adapter = fit.chain.adapter
        told |= {"adapter_id": adapter.id if adapter else None, "no_adapter": adapter is None and fit.plate is None}
    part_ids = {what: getattr(setup, what.axis.value).id if what.axis else None for what in comes_new(case)}
    since = dict(wheel.since) | {what: Fitted(part_id=part_id, day=day) for what, part_id in part_ids.items()}
    read_by = {name: source for name, source in wheel.read_by.items() if name not in told}
    return Wheel.model_validate(wheel.model_dump() | told | {"since": since, "read_by": read_by})


def _line_words(order: WorkOrder) -> tuple[str, ...]:
    return tuple(f"{line.quantity} × {line.what}, {line.end}: {line.name}"[:200] for line in order.lines)


def signed(job: Job, evaluation: Evaluation, catalogue: Catalogue, who: str, at: str) -> Job:
    """The job with its order signed off by ``who``: the proposal is what is fitted, with the day; ticks and answers
    move into the sign-off. Raises NotYetError where steps are open, or anything bars it."""
    order = work_order(job, evaluation)
    if not order.wheels:
        raise NotYetError("There is no order to sign off.")
    if not order.gate.may_sign:
        raise NotYetError(say("{why:cap}.", why=order.gate.words))
    ticked = order.ticked(job)
    steps = len(order.steps)
    if len(ticked) < steps:
        words = "{open:step is|steps are} not ticked, of {steps}."
        raise NotYetError(say(words, open=steps - len(ticked), steps=steps))
    cases = evaluation.cases[SetupName.PROPOSED]
    wheels = {end.value: _after(job.wheel(end), cases[end], at[:10]) for end in End}
    proposal = job.proposal.model_copy(update={"front": Pick(), "rear": Pick()})
    done = job.model_copy(update={**wheels, "proposal": proposal, "ticks": {}})
    note = SignOff(
        who=who, at=at, rests_on=rests_on(done), parts=part_digests(done, catalogue), done=_line_words(order),
        ticks=ticked, answered={a.point.key: a.by for a in order.gate.answered},
    )  # fmt: skip
    return Job.model_validate(done.model_copy(update={"signed_off": note}).model_dump())
