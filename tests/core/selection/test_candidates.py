"""Choosing: the sieve says what the checks say; counts add up; schools do what they say; stepping goes by size."""

from itertools import islice, product
from random import Random

import numpy as np
import pytest

from clavis.core.evaluation.evaluate import SetupName, evaluate
from clavis.core.evaluation.open_points import verdict_of
from clavis.core.evaluation.parts_list import price_of
from clavis.core.evaluation.sheet import Link, limit_words, sheet_rows
from clavis.core.evaluation.wheel_cases import mountings_of, wheel_case
from clavis.core.fit.checks import results_of
from clavis.core.fit.mounting import FitCase
from clavis.core.job.document import BESIDE_THE_PARTS, Job, School
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.models import Axis, Brake, HubInterface
from clavis.core.parts.mounts import BoltDirection, End
from clavis.core.selection import sieve as sieves
from clavis.core.selection.candidates import Choice, brought, in_step_order, prepare, stepped
from clavis.core.selection.schools import SCHOOLS
from clavis.core.selection.sieve import sieve
from clavis.core.verdicts import Verdict, verdict_at, worst
from clavis.core.wording.job_summary import setup_sentence
from tests.bikes import (
    CATALOGUE,
    cable_caliper,
    cable_lever,
    caliper,
    failing,
    fork,
    hose,
    lever,
    mounting,
    own_job,
    own_mounting,
    pad,
    plain,
    rotor,
    with_value,
)
from tests.choices import choice_of
from tests.generated import DEMO_JOBS

WHOLE = {"rotor": rotor(), "caliper": caliper(), "lever": lever(), "pad": pad()}


def fails(on, **parts) -> set[str]:
    return failing(on, **(WHOLE | parts))


def test_fittings_that_differ_need_a_hose_with_both_ends() -> None:
    with_hose = Catalogue.of([*CATALOGUE.every(), hose()])
    for catalogue, refused in ((CATALOGUE, True), (with_hose, False)):
        found = fails(own_mounting(catalogue=catalogue), caliper=caliper(fitting="M8B"))
        assert ("fitting" in found) is refused
    turned = Catalogue.of([*CATALOGUE.every(), hose(lever_fitting="M8B", caliper_fitting="M8")])
    assert "fitting" in fails(own_mounting(catalogue=turned), caliper=caliper(fitting="M8B"))


def test_the_limit_is_the_lesser_of_what_was_entered_and_what_the_fork_states() -> None:
    known = Catalogue.of([*CATALOGUE.every(), fork(max_rotor_mm=180)])
    for entered, stated, refused in ((203, "k", True), (203, None, False), (None, "k", True), (None, None, False)):
        on = own_mounting(catalogue=known, max_rotor_mm=entered, carrying_id=stated)
        assert ("largest" in fails(on, rotor=rotor(diameter_mm=203))) is refused, (entered, stated)


def test_the_bar_is_as_entered_or_as_the_fitted_lever_says() -> None:
    drop = mounting(with_value(own_job(), "bike.bar", "drop"))
    for on, bar, refused in ((drop, "flat", True), (drop, "drop", False), (own_mounting(), "drop", True)):
        assert ("bar" in fails(on, lever=lever(bar=bar))) is refused


def test_cable_pulls_do_not_mix() -> None:
    on = own_mounting()
    assert "pull" in fails(on, caliper=cable_caliper(), lever=cable_lever(pull="long"))
    assert not fails(on, caliper=cable_caliper(), lever=cable_lever()) & {"line", "pull"}


def test_a_six_bolt_rotor_may_go_on_a_splined_hub_never_the_other_way() -> None:
    assert not fails(own_mounting(hub=HubInterface.SPLINED), rotor=rotor(interface="six_bolt"))
    assert fails(own_mounting(hub=HubInterface.SIX_BOLT), rotor=rotor(interface="splined")) == {"hub"}


def test_the_counts_of_the_refused_and_the_left_add_up() -> None:
    found = sieve(own_mounting())
    assert sum(r.count for r in found.refusals) + len(found.left) == found.total
    for refusal in found.refusals:
        assert sum(r.count for r in refusal.reasons) == refusal.count


@pytest.mark.parametrize(
    "where",
    [
        {},
        {"hub": HubInterface.SPLINED},
        {"spoke_gap_mm": 2.0},
        {"max_rotor_mm": None},
        {"adapter_id": None},
        {"hose_slack_mm": 12.0},
        {"slot_read_mm": 1.8},
        {"spoke_gap_mm": None, "native_rotor_mm": None},
    ],
)
def test_the_sieve_says_of_every_combination_what_the_checks_say_alone(where, monkeypatch: pytest.MonkeyPatch) -> None:
    """Asked in groups of parts that are alike, and asked one by one: the same left, the same verdicts, and each refused
    one under the first check that it fails."""
    monkeypatch.setattr(sieves, "MOST_WEIGHED", 10**6)
    on = own_mounting(**where)
    found = sieve(on)
    left = {tuple(index): verdict_at(int(v)) for index, v in zip(found.left.tolist(), found.verdicts, strict=True)}
    every = list(product(*(range(len(found.parts[axis])) for axis in Axis)))
    first: dict[str, int] = {}
    for index in Random(7).sample(every, 400) + list(islice(left, 0, None, max(1, len(left) // 100))):
        brake = Brake(**{axis.value: found.parts[axis][k] for axis, k in zip(Axis, index, strict=True)})
        said = [c for c in results_of(FitCase(on, brake)) if not (c.at_trial and c.verdict is Verdict.UNKNOWN)]
        wrong = [c.key for c in said if c.verdict is Verdict.FAILS]
        assert (index in left) is (not wrong)
        if not wrong:
            assert left[index] is worst([Verdict.HOLDS, *(c.verdict for c in said)])
        else:
            first[wrong[0]] = first.get(wrong[0], 0) + 1
    refused = {r.row.key: r.count for r in found.refusals}
    assert all(refused[key] >= count for key, count in first.items())


@pytest.mark.parametrize(
    ("change", "why"),
    [({"bolt_direction": BoltDirection.CROSSWISE}, "one of the two is wrong"), ({"bolt_direction": None}, "direction of the bolts"),
     ({"mount_spacing_mm": 90.0}, "is none of")],
)  # fmt: skip
def test_on_a_mount_that_is_not_told_nothing_is_said_to_fit(change, why) -> None:
    """Neither thousands of candidates on a mount in conflict, nor a clean word of any."""
    on = own_mounting(**change)
    found = sieve(on)
    assert len(found.left) == 0
    (refusal,) = found.refusals
    assert (refusal.row.key, refusal.count) == ("chain", found.total)
    assert why in plain(refusal.reasons[0].words)
    case = wheel_case(on, None)
    assert verdict_of(case.points) is Verdict.UNKNOWN


def choice_for(job: Job, end: End = End.FRONT) -> Choice:
    return choice_of(job, evaluate(job, CATALOGUE, {}), end)


CHOICE = choice_for(own_job())


def test_candidates_agree_with_the_sheet() -> None:
    """A candidate that is the proposed setup shows the same figures as the sheet does."""
    job = own_job()
    wheel = evaluate(job, CATALOGUE, {}).setups[SetupName.PROPOSED].wheels[End.FRONT]
    same = next(
        c for c in CHOICE.candidates
        if (c.rotor.id, c.caliper.id, c.lever.id, c.pad.id)
        == (wheel.setup.rotor.id, wheel.setup.caliper.id, wheel.setup.lever.id, wheel.setup.pad.id)
    )  # fmt: skip
    assert same.forces.finger_target_n == pytest.approx(wheel.forces.finger_target_n)
    assert same.verdict is wheel.verdict
    assert [m.value for m in same.margins] == pytest.approx([m.value for m in wheel.margins])


def test_every_school_puts_first_what_it_says() -> None:
    best = {row.school: CHOICE.ranked(row.school, 1)[0] for row in SCHOOLS}
    holding = [c for c in CHOICE.candidates if c.verdict is Verdict.HOLDS]
    assert holding, "the case must have something that holds"
    for row in SCHOOLS:
        pick = best[row.school].standing
        pool = [c for c in CHOICE.candidates if c.verdict in (Verdict.HOLDS, Verdict.TIGHT)]
        pool = holding if row.holds_first else pool
        pool = [c for c in pool if not (row.grabs_last and c.standing.grabby) and not c.standing.steps_down]
        assert row.comes_to(pick) <= min(row.comes_to(c.standing) for c in pool) + row.step
        # thrift lives with what is tight where that saves more than it is worth
        assert pick.verdict is Verdict.HOLDS or not row.holds_first
    assert not best[School.LIGHT_HAND].standing.grabby


def test_a_light_rider_on_gravel_is_not_sold_the_largest_rotor() -> None:
    job = own_job()
    light = job.model_copy(update={"rider": job.rider.model_copy(update={"mass_kg": 48.0, "kit_mass_kg": 2.0})})
    choice = choice_for(light)
    largest = max(c.rotor.diameter_mm for c in choice.candidates)
    assert choice.ranked(School.LEAN, 1)[0].rotor.diameter_mm < largest


def test_a_candidates_verdict_is_that_of_its_open_points() -> None:
    for candidate in CHOICE.candidates[::25]:
        assert candidate.verdict is verdict_of(candidate.points)


def test_a_candidates_price_is_that_of_its_parts_list() -> None:
    for candidate in CHOICE.candidates[::25]:
        assert candidate.price == pytest.approx(price_of(candidate.lines))


def steps_up(on, axis: Axis, brake: Brake) -> list:
    """Every part that a key comes to from a brake, one after the other, and the last step, which finds none."""
    found = []
    while (step := stepped(on, axis, brake, 1)).part is not None:
        found.append(step)
        brake = brake.with_part(axis, step.part)
    return [*found, step]


def test_a_key_steps_by_size_and_never_into_what_does_not_go() -> None:
    """Our own tourer, rotor 180 on a fork that allows 203: up comes one size, in the rotor most like the one that is on
    it, then nothing, and the reader is told why."""
    on = own_mounting()
    steps = steps_up(on, Axis.ROTOR, on.wheel.on_it)
    sizes = [s.part.diameter_mm for s in steps[:-1]]
    assert len(sizes) == 1 and 192 < sizes[0] <= 203
    assert steps[0].part.construction is on.wheel.on_it.rotor.construction
    assert {s.part.interface for s in steps[:-1]} == {HubInterface.SIX_BOLT}
    assert any("above 203, the largest that the fork allows" in plain(w) for w in steps[-1].why)
    assert steps[-1].skipped > 0
    down = stepped(on, Axis.ROTOR, on.wheel.on_it.with_part(Axis.ROTOR, steps[0].part), -1)
    assert down.part is not None and down.part.diameter_mm == on.wheel.on_it.rotor.diameter_mm
    small = [
        s.part.diameter_mm
        for s in steps_up(on, Axis.ROTOR, on.wheel.on_it.with_part(Axis.ROTOR, CATALOGUE.rotors["q-disc-140"]))[:-1]
    ]
    assert small == sorted(small) and len(small) >= 3  # 160, 180, 200 or 203: a key is a size
    assert {s.part.shape for s in steps_up(on, Axis.PAD, on.wheel.on_it)[:-1]} == {"K2"}
    assert {s.part.fluid.value for s in steps_up(on, Axis.LEVER, on.wheel.on_it)[:-1]} == {"mineral"}


@pytest.mark.parametrize("axis", list(Axis))
@pytest.mark.parametrize("by", [-1, 1])
def test_wherever_a_key_leads_the_part_goes_with_the_rest(axis: Axis, by: int) -> None:
    on = own_mounting()
    step = stepped(on, axis, on.wheel.on_it, by)
    if step.part is not None:
        case = FitCase(on, on.wheel.on_it.with_part(axis, step.part))
        assert not [c.key for c in results_of(case) if c.verdict is Verdict.FAILS and axis in c.row.sees]


def test_a_caliper_brings_lever_and_pads_along_where_they_cannot_stay() -> None:
    """A DOT caliper for another pad shape on a mineral brake: its lever and pads come too, and all goes together."""
    on = own_mounting()
    found = brought(on, on.wheel.on_it, Axis.CALIPER, CATALOGUE.calipers["p-four-1618"])
    assert found.along == (Axis.LEVER, Axis.PAD)
    assert not [c for c in results_of(FitCase(on, found.brake)) if c.verdict is Verdict.FAILS]
    back = brought(on, found.brake, Axis.CALIPER, on.wheel.on_it.caliper)
    assert back.brake == on.wheel.on_it  # what is on the wheel comes before what is cheap


def test_what_nothing_goes_with_is_refused_in_words() -> None:
    on = own_mounting()
    for axis, part, why in (
        (Axis.ROTOR, CATALOGUE.rotors["u-line-180"], "a splined rotor does not go on a six-bolt hub"),
        (Axis.PAD, CATALOGUE.pads["p-p2-resin"], "pad shape P2 in a caliper for K2"),
    ):
        found = brought(on, on.wheel.on_it, axis, part)
        assert why in plain(found.refused)
        assert found.brake == on.wheel.on_it


def test_stepping_leaves_out_retired_parts_unless_fitted() -> None:
    gone = CATALOGUE.rotors["q-disc-200"].model_copy(update={"retired": True})
    fitted = CATALOGUE.rotors["q-disc-180"].model_copy(update={"retired": True})
    rotors = {**CATALOGUE.rotors, gone.id: gone, fitted.id: fitted}
    on = own_mounting(catalogue=type(CATALOGUE)(**{**CATALOGUE.__dict__, "rotors": rotors}))
    ids = [r.id for r in in_step_order(on, Axis.ROTOR, on.wheel.on_it.rotor)]
    assert gone.id not in ids
    assert fitted.id in ids


@pytest.mark.parametrize(
    ("path", "value", "reason", "link"),
    [
        ("proposal.front.rotor_id", "t-heavy-220", "above 203, the largest that the fork allows", Link.ROTOR),
        ("proposal.front.rotor_id", "u-line-180", "a splined rotor does not go on a six-bolt hub", Link.ROTOR),
        ("proposal.front.lever_id", "p-arm", "a DOT lever on a mineral caliper", Link.LEVER),
        ("proposal.front.pad_id", "p-p2-resin", "pad shape P2 in a caliper for K2", Link.PAD),
    ],
)
def test_a_proposal_that_does_not_go_together_fails_and_says_why_on_its_link(path, value, reason, link) -> None:
    job = with_value(own_job(), path, value)
    found = evaluate(job, CATALOGUE, {})
    setup = found.setups[SetupName.PROPOSED]
    assert setup.verdict is Verdict.FAILS
    assert reason in plain(limit_words(setup, End.FRONT))
    marks = {row.link: row.cells[End.FRONT].mark for row in sheet_rows(setup, found.situation)}
    assert marks[link].verdict is Verdict.FAILS
    assert reason in plain(marks[link].words)
    assert reason in plain(setup_sentence(setup))


def test_what_can_be_fitted_does_not_ask_who_rides_it_where() -> None:
    """So that it may be laid out once and held against another rider, load or ride."""
    one, other = DEMO_JOBS[:2]
    changed = one.model_copy(update={name: getattr(other, name) for name in BESIDE_THE_PARTS})
    assert changed != one
    laid_out = [prepare(job, mountings_of(job, CATALOGUE)[End.REAR]) for job in (one, changed)]
    assert laid_out[0].setups == laid_out[1].setups
    assert laid_out[0].standing == laid_out[1].standing
    assert laid_out[0].price == laid_out[1].price


def many(copies: int) -> Catalogue:
    """The tests' catalogue, each part several times over: at other prices, of other makes, some a little other."""
    out = []
    for part in CATALOGUE.every():
        for k in range(copies):
            change = {"id": f"{part.id}-{k}", "price": part.price + (k * 7) % 5, "model": f"No. {k}"}
            if part.kind == "lever":
                change["ratio"] = part.ratio * (1 + 0.001 * k)
            out.append(part.model_copy(update=change))
    return Catalogue.of([*CATALOGUE.every(), *out])


def test_a_catalogue_looked_through_piece_by_piece_is_the_same(monkeypatch: pytest.MonkeyPatch) -> None:
    on = own_mounting(catalogue=many(1))
    monkeypatch.setattr(sieves, "MOST_WEIGHED", 10**6)
    whole = sieve(on)
    monkeypatch.setattr(sieves, "PIECE", 7)
    pieces = sieve(on)
    assert np.array_equal(whole.left, pieces.left) and np.array_equal(whole.verdicts, pieces.verdicts)
    assert [(r.row.key, r.count, r.reasons) for r in whole.refusals] == [
        (r.row.key, r.count, r.reasons) for r in pieces.refusals
    ]
    assert sum(r.count for r in whole.refusals) + whole.fits == whole.total == whole.looked_through
    assert not whole.thinned and whole.fits == len(whole.left)


@pytest.mark.parametrize(("weighed", "sieved"), [(200, 10**7), (20, 10**7), (3, 10**7), (200, 40), (1, 1)])
def test_of_too_many_the_cheapest_of_those_alike_stand_for_the_others(
    monkeypatch: pytest.MonkeyPatch, weighed: int, sieved: int
) -> None:
    on = own_mounting(catalogue=many(1))
    monkeypatch.setattr(sieves, "MOST_WEIGHED", 10**6)
    whole = sieve(on)
    monkeypatch.setattr(sieves, "MOST_WEIGHED", weighed)
    monkeypatch.setattr(sieves, "MOST_SIEVED", sieved)
    found = sieve(on)
    assert found.thinned and 0 < len(found.left) <= weighed and found.total == whole.total
    assert sum(r.count for r in found.refusals) + found.fits == found.looked_through <= found.total
    every = {tuple(b.of(axis).id for axis in Axis) for b in whole.brakes()}
    assert {tuple(b.of(axis).id for axis in Axis) for b in found.brakes()} <= every  # nothing goes that did not go
    if sieved == 10**7:
        assert found.fits == whole.fits
    if weighed >= 200 and sieved == 10**7:
        assert min(b.rotor.price for b in found.brakes()) == min(b.rotor.price for b in whole.brakes())


def test_what_is_on_the_wheel_is_weighed_however_many_there_are(monkeypatch: pytest.MonkeyPatch) -> None:
    on = own_mounting(catalogue=many(4))
    monkeypatch.setattr(sieves, "MOST_WEIGHED", 3)
    on_it = on.wheel.on_it
    assert any(brake == on_it for brake in sieve(on).brakes())
