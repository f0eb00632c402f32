"""The view: wet and dry, cold and hot, new and worn, without regeneration; and nothing of it is kept."""

from dataclasses import replace

import pytest

from clavis.core.evaluation.evaluate import SetupName, evaluate
from clavis.core.evaluation.sheet import wheel_figures
from clavis.core.evaluation.view_conditions import AS_ENTERED, Age, ViewConditions, Wetness, under
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.mounts import End
from clavis.core.physics.bike import Surface
from clavis.core.physics.forces import Pull
from clavis.core.verdicts import Verdict
from tests.bikes import CATALOGUE, own_job, with_value

VIEWS = [ViewConditions(pull=pull, wetness=wet, age=age) for pull in Pull for wet in Wetness for age in (None, *Age)]


def front(view, job=None, name=SetupName.FITTED):
    return evaluate(job or own_job(), CATALOGUE, {}, view).setups[name].wheels[End.FRONT]


def test_as_entered_changes_nothing() -> None:
    plain = evaluate(own_job(), CATALOGUE, {}).setups[SetupName.FITTED].wheels[End.FRONT]
    assert front(AS_ENTERED).forces == plain.forces
    assert front(AS_ENTERED).margins == plain.margins
    assert not AS_ENTERED.words
    assert under(own_job(), AS_ENTERED) == own_job()


def test_a_cold_first_pull_takes_the_ratio_of_the_frictions() -> None:
    """Semi-metallic: 0.45 at work, 0.38 cold; the finger pulls 0.45/0.38 as hard, and the reserve counts the cold."""
    warm, cold = front(AS_ENTERED).forces, front(ViewConditions(pull=Pull.COLD)).forces
    row = COMPOUNDS[front(AS_ENTERED).setup.pad.compound]
    assert cold.finger_target_n == pytest.approx(warm.finger_target_n * row.mu_work / row.mu_cold)
    assert cold.reserve == pytest.approx((warm.reserve + 1) * row.mu_cold / warm.mu_hot - 1)
    hot = front(ViewConditions(pull=Pull.HOT)).forces
    assert hot.finger_target_n == pytest.approx(warm.finger_target_n * warm.mu_work / warm.mu_hot)
    assert hot.reserve == pytest.approx(warm.reserve)


def test_wet_takes_grip_and_cold_friction_and_dry_gives_them_back() -> None:
    wet = front(ViewConditions(wetness=Wetness.WET))
    dry = front(AS_ENTERED)
    row = COMPOUNDS[dry.setup.pad.compound]
    # less lock force by grip, more finger by wet pads
    assert wet.forces.wet_ratio == pytest.approx(row.wet_ratio)
    assert wet.forces.lock_force_n < dry.forces.lock_force_n
    assert wet.forces.finger_lock_n == pytest.approx(wet.forces.lock_force_n / (wet.forces.gain * row.wet_ratio))
    job = with_value(own_job(), "conditions.surface", "wet_asphalt")
    again = front(ViewConditions(wetness=Wetness.DRY), job).forces
    assert again.finger_lock_n == pytest.approx(dry.forces.finger_lock_n)


def test_gravel_in_the_rain_stays_gravel_with_wet_pads() -> None:
    job = with_value(own_job(), "conditions.surface", "gravel")
    seen = under(job, ViewConditions(wetness=Wetness.WET))
    assert seen.conditions.surface is Surface.GRAVEL
    assert seen.conditions.rain
    assert under(seen, ViewConditions(wetness=Wetness.DRY)).conditions == job.conditions
    assert front(ViewConditions(wetness=Wetness.WET), job).forces.wet_ratio < 1


def test_new_parts_are_not_bedded_and_worn_ones_are_thin() -> None:
    new, worn = front(ViewConditions(age=Age.NEW)), front(ViewConditions(age=Age.WORN))
    assert (new.setup.thickness_mm, new.setup.material_mm, new.setup.bedding) == (1.8, 2.0, pytest.approx(0.6))
    assert (worn.setup.thickness_mm, worn.setup.material_mm, worn.setup.bedding) == (1.5, 1.0, 1.0)
    assert new.forces.finger_target_n == pytest.approx(front(AS_ENTERED).forces.finger_target_n / 0.6)
    assert worn.heat.peak_c[1] > front(AS_ENTERED).heat.peak_c[1] > new.heat.peak_c[1]
    assert not any(m.key == "condition" for m in new.margins)
    oiled = with_value(own_job(), "front.pad_state", "oiled")
    assert End.FRONT not in evaluate(oiled, CATALOGUE, {}, ViewConditions(age=Age.WORN)).setups[SetupName.FITTED].wheels
    unmarked = with_value(own_job(), "proposal.front.rotor_id", "t-heavy-200")
    bare = {**{r.id: r for r in CATALOGUE.every()}, "t-heavy-200": CATALOGUE.rotors["t-heavy-200"].model_copy(
        update={"minimum_mm": None})}  # fmt: skip
    other = replace(CATALOGUE, rotors={k: bare[k] for k in CATALOGUE.rotors})
    found = evaluate(unmarked, other, {}, ViewConditions(age=Age.WORN)).setups[SetupName.PROPOSED].wheels[End.FRONT]
    assert found.setup.thickness_mm == 2.3  # no minimum is made up
    assert "no_minimum" in {p.code for p in found.points}
    assert found.verdict is not Verdict.HOLDS


def test_no_verdict_counts_on_regeneration_and_a_look_shows_what_it_spares() -> None:
    job = own_job()
    for path, value in (("regen_end", "front"), ("regen_share_pct", 40.0), ("regen_limit_w", 400.0)):
        job = with_value(job, f"bike.{path}", value)
    on, off = front(ViewConditions(regeneration=True), job), front(AS_ENTERED, job)
    assert on.steps.regen_j > 0
    assert off.steps.regen_j == 0
    assert off.heat.ledger.friction_in_kj == pytest.approx(on.heat.ledger.friction_in_kj + on.steps.regen_j / 1000)


@pytest.mark.parametrize("view", VIEWS, ids=lambda view: str(view.words))
def test_workings_still_add_up_under_every_view(view) -> None:
    """A figure's own givens give it again: F = F_i / gain; F = F_lock / (gain wet); gain = 2 μ (N/F) r_e / r_w."""
    found = evaluate(own_job(), CATALOGUE, {}, view)
    wheel = found.setups[SetupName.FITTED].wheels[End.FRONT]
    figures = wheel_figures(wheel, found.situation)
    value = {
        k: {g.symbol: g.value for g in figures[k].given} for k in ("finger_target", "finger_lock", "gain", "reserve")
    }
    v = value["gain"]
    assert figures["gain"].value == pytest.approx(2 * v["μ"] * v["N/F"] * v["r_e"] / v["r_w"])
    v = value["finger_target"]
    assert figures["finger_target"].value == pytest.approx(v["F_i"] / v["gain"])
    v = value["finger_lock"]
    assert figures["finger_lock"].value == pytest.approx(v["F_lock"] / (v["gain"] * v["wet"]))
    v = value["reserve"]
    assert figures["reserve"].value == pytest.approx((v["available"] / v["F_i"] - 1) * 100)
