"""Choosing: each hard rule refuses the wrong and lets the right pass; counts add up; schools do what they say."""

import pytest

from clavis.core.evaluation.evaluate import SetupName, evaluate
from clavis.core.evaluation.rules import RULES, refusals_of, wheel_context
from clavis.core.evaluation.setups import WheelSetup, setup_of
from clavis.core.evaluation.sheet import MARGIN_LINK, Link, limit_words, spine_rows
from clavis.core.job.document import School
from clavis.core.parts.models import Catalogue, HubInterface
from clavis.core.parts.mounts import BoltDirection, End
from clavis.core.selection.candidates import Choice, choose, neighbours, sieve
from clavis.core.selection.schools import SCHOOLS
from clavis.core.verdicts import Verdict
from clavis.core.wording.job_summary import setup_sentence
from tests.bikes import (
    CATALOGUE,
    cable_caliper,
    cable_lever,
    caliper,
    fork,
    hose,
    lever,
    own_job,
    pad,
    rotor,
    with_value,
)


def context(**more):
    job = own_job()
    front = job.front.model_copy(update=more)
    return wheel_context(job.model_copy(update={"front": front}), End.FRONT, CATALOGUE)


RULE_CASES = {
    "hub": (context(hub=HubInterface.SIX_BOLT), {"rotor": rotor(interface="splined")}, {"rotor": rotor()}),
    "native": (context(), {"rotor": rotor(diameter_mm=140)}, {"rotor": rotor(diameter_mm=160)}),
    "limit": (context(max_rotor_mm=180), {"rotor": rotor(diameter_mm=203)}, {"rotor": rotor(diameter_mm=180)}),
    "chain": (context(), {"rotor": rotor(diameter_mm=201)}, {"rotor": rotor(diameter_mm=203)}),
    "bolts": (
        context(hole_depth_mm=10.2),
        {"rotor": rotor(diameter_mm=160), "caliper": caliper(tab_mm=8.5)},  # 18.5 to 18.7 mm
        {"rotor": rotor(diameter_mm=160), "caliper": caliper(tab_mm=8)},
    ),
    "pads": (context(upper_hole_mm=73.669, lower_hole_mm=80.385), {}, {"rotor": rotor(diameter_mm=160)}),
    "metal": (context(edge_radius_mm=90.9), {}, {"rotor": rotor(diameter_mm=160)}),
    "spokes": (
        context(spoke_gap_mm=2.0, caliper_id="u-two-22"),
        {"caliper": caliper(inboard_mm=15.5)},  # 14 on it: half a millimetre is left
        {"caliper": caliper(inboard_mm=14.5)},
    ),
    "slot": (context(), {"rotor": rotor(thickness_mm=2.3)}, {"rotor": rotor(thickness_mm=2.0)}),
    "rivets": (context(), {"rotor": rotor(rivet_out_mm=2.5)}, {"rotor": rotor(rivet_out_mm=1.5)}),
    "line": (context(), {"lever": lever(fluid="dot")}, {"lever": lever()}),
    "fitting": (context(), {"lever": lever(fitting="M8B")}, {"lever": lever(fitting="M8")}),
    "bar": (context(), {"lever": lever(bar="drop")}, {"lever": lever(bar="flat")}),
    "shape": (context(), {"pad": pad(shape="P2")}, {"pad": pad(shape="K2")}),
    "resin": (
        context(),
        {"rotor": rotor(resin_only=True), "pad": pad(compound="sintered")},
        {"rotor": rotor(resin_only=True), "pad": pad(compound="resin")},
    ),
    "track": (context(), {"rotor": rotor(track_mm=13), "pad": pad(height_mm=14)}, {"rotor": rotor(track_mm=13.5)}),
}


@pytest.mark.parametrize("rule", RULES, ids=lambda r: r.key)
def test_each_rule_refuses_the_wrong_and_lets_the_right_pass(rule) -> None:
    where, wrong, right = RULE_CASES[rule.key]
    base = {"rotor": rotor(), "caliper": caliper(), "lever": lever(), "pad": pad()}
    failed = {r.key for r, _ in refusals_of(where, **(base | wrong))}
    assert rule.key in failed
    assert rule.key not in {r.key for r, _ in refusals_of(where, **(base | right))}


def test_fittings_that_differ_need_a_hose_with_both_ends() -> None:
    base = {"rotor": rotor(), "caliper": caliper(fitting="M8B"), "lever": lever(), "pad": pad()}
    with_hose = Catalogue.of([*CATALOGUE.every(), hose()])
    for catalogue, refused in ((CATALOGUE, True), (with_hose, False)):
        where = wheel_context(own_job(), End.FRONT, catalogue)
        assert any(r.key == "fitting" for r, _ in refusals_of(where, **base)) is refused
    turned = Catalogue.of([*CATALOGUE.every(), hose(lever_fitting="M8B", caliper_fitting="M8")])
    assert any(r.key == "fitting" for r, _ in refusals_of(wheel_context(own_job(), End.FRONT, turned), **base))


def test_the_limit_is_the_lesser_of_what_was_entered_and_what_the_fork_states() -> None:
    known = Catalogue.of([*CATALOGUE.every(), fork(max_rotor_mm=180)])
    base = {"rotor": rotor(diameter_mm=203), "caliper": caliper(), "lever": lever(), "pad": pad()}
    for entered, stated, refused in ((203, "k", True), (203, None, False), (None, "k", True), (None, None, False)):
        job = with_value(with_value(own_job(), "front.max_rotor_mm", entered), "front.carrying_id", stated)
        where = wheel_context(job, End.FRONT, known)
        assert any(r.key == "limit" for r, _ in refusals_of(where, **base)) is refused, (entered, stated)


def test_the_bar_is_as_entered_or_as_the_fitted_lever_says() -> None:
    base = {"rotor": rotor(), "caliper": caliper(), "pad": pad()}
    job = with_value(own_job(), "bike.bar", "drop")
    for where, bar, refused in (
        (wheel_context(job, End.FRONT, CATALOGUE), "flat", True),
        (wheel_context(job, End.FRONT, CATALOGUE), "drop", False),
        (context(), "drop", True),
    ):
        assert any(r.key == "bar" for r, _ in refusals_of(where, lever=lever(bar=bar), **base)) is refused


def test_cable_pulls_do_not_mix() -> None:
    where = context()
    base = {"rotor": rotor(), "pad": pad()}
    assert any(
        r.key == "line" for r, _ in refusals_of(where, caliper=cable_caliper(), lever=cable_lever(pull="long"), **base)
    )
    assert not any(r.key == "line" for r, _ in refusals_of(where, caliper=cable_caliper(), lever=cable_lever(), **base))


def test_a_six_bolt_rotor_may_go_on_a_splined_hub_never_the_other_way() -> None:
    base = {"caliper": caliper(), "lever": lever(), "pad": pad()}
    assert not refusals_of(context(hub=HubInterface.SPLINED), rotor=rotor(interface="six_bolt"), **base)
    assert refusals_of(context(hub=HubInterface.SIX_BOLT), rotor=rotor(interface="splined"), **base)


def test_the_counts_of_the_refused_and_the_left_add_up() -> None:
    found = sieve(context())
    assert sum(r.count for r in found.refusals) + len(found.left) == found.total
    for refusal in found.refusals:
        assert sum(r.count for r in refusal.reasons) == refusal.count
    where = context()
    for index in found.left[:: max(1, len(found.left) // 40)]:
        chosen = {a: found.parts[a][i] for a, i in zip(("rotor", "caliper", "lever", "pad"), index, strict=True)}
        assert not refusals_of(where, **chosen)


def test_a_mount_in_conflict_refuses_nothing_by_chain_but_says_so_elsewhere() -> None:
    found = sieve(context(bolt_direction=BoltDirection.CROSSWISE))
    assert next(r for r in found.refusals if r.rule.key == "chain").count == 0


def choice_for(job, end=End.FRONT) -> Choice:
    evaluation = evaluate(job, CATALOGUE, {})
    setup = evaluation.setups[SetupName.PROPOSED]
    assert evaluation.situation is not None
    assert setup.load is not None
    assert setup.demand is not None
    return choose(job, end, evaluation.situation, setup.demand, setup.load, CATALOGUE)


CHOICE = choice_for(own_job())


def test_candidates_agree_with_the_spine_sheet() -> None:
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
    not_failing = [c for c in CHOICE.candidates if c.verdict is not Verdict.FAILS]
    assert holding, "the case must have something that holds"
    assert best[School.LEAN].mass_g == min(c.mass_g for c in holding)
    assert best[School.COOL].smallest == pytest.approx(max(c.smallest for c in not_failing), abs=1e-3)
    kind = [c for c in not_failing if c.forces.feel.value != "grabby"]
    assert best[School.LIGHT_HAND].forces.finger_target_n == pytest.approx(min(c.forces.finger_target_n for c in kind))
    assert best[School.QUIET].pad.compound.value in ("resin", "ceramic")
    gain = best[School.THRIFT]
    assert gain.price < best[School.COOL].price
    assert all(best[s].verdict is not Verdict.FAILS for s in best)


def test_a_light_rider_on_gravel_is_not_sold_the_largest_rotor() -> None:
    job = own_job()
    light = job.model_copy(update={"rider": job.rider.model_copy(update={"mass_kg": 48.0, "kit_mass_kg": 2.0})})
    choice = choice_for(light)
    largest = max(c.rotor.diameter_mm for c in choice.candidates)
    assert choice.ranked(School.LEAN, 1)[0].rotor.diameter_mm < largest


def _fitted(job, end=End.FRONT) -> WheelSetup:
    found = setup_of(job, end, None, CATALOGUE)
    assert isinstance(found, WheelSetup)
    return found


def test_stepping_goes_by_size_among_what_can_meet() -> None:
    job = own_job()
    rotors = neighbours(job, End.FRONT, "rotor", _fitted(job), CATALOGUE)
    sizes = [r.diameter_mm for r in rotors]
    assert sizes == sorted(sizes)
    assert {r.interface for r in rotors} == {HubInterface.SIX_BOLT}
    assert min(sizes) == 160  # nothing below the native size
    assert max(sizes) == 220  # beyond the fork's limit it comes up, and is refused in words
    assert {p.shape for p in neighbours(job, End.FRONT, "pad", _fitted(job), CATALOGUE)} == {"K2"}
    assert {v.fluid.value for v in neighbours(job, End.FRONT, "lever", _fitted(job), CATALOGUE)} == {"mineral"}
    assert neighbours(job, End.FRONT, "lever", None, CATALOGUE)


def test_stepping_leaves_out_retired_parts_unless_fitted() -> None:
    gone = CATALOGUE.rotors["q-disc-200"].model_copy(update={"retired": True})
    fitted = CATALOGUE.rotors["q-disc-180"].model_copy(update={"retired": True})
    rotors = {**CATALOGUE.rotors, gone.id: gone, fitted.id: fitted}
    catalogue = type(CATALOGUE)(**{**CATALOGUE.__dict__, "rotors": rotors})
    ids = {r.id for r in neighbours(own_job(), End.FRONT, "rotor", _fitted(own_job()), catalogue)}
    assert gone.id not in ids
    assert fitted.id in ids


@pytest.mark.parametrize(
    ("path", "value", "reason", "link"),
    [
        ("proposal.front.rotor_id", "t-heavy-220", "above 203 mm, the largest that the fork allows", Link.ROTOR),
        ("proposal.front.rotor_id", "u-line-180", "a splined rotor does not go on a six-bolt hub", Link.ROTOR),
        ("proposal.front.lever_id", "p-arm", "dot lever on a mineral caliper", Link.LEVER),
        ("proposal.front.pad_id", "p-p2-resin", "pad shape P2 in a caliper for K2", Link.PAD),
    ],
)
def test_a_proposal_that_does_not_go_together_fails_and_says_why_on_its_link(path, value, reason, link) -> None:
    job = with_value(own_job(), path, value)
    setup = evaluate(job, CATALOGUE, {}).setups[SetupName.PROPOSED]
    wheel = setup.wheels[End.FRONT]
    assert wheel.verdict is Verdict.FAILS
    assert limit_words(wheel) == f"does not go together: {reason}"
    rows = {row.link: row.cells[End.FRONT] for row in spine_rows(setup, job.parameters, 15.0)}
    assert rows[link].mark is Verdict.FAILS
    assert reason in rows[link].mark_words
    assert reason in setup_sentence(setup)


def test_every_rule_has_its_link() -> None:
    assert {f"rule_{rule.key}" for rule in RULES} == {k for k in MARGIN_LINK if k.startswith("rule_")}
