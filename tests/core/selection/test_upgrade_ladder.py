"""The upgrade ladder, what holds where nothing does, parts that stay, and the reasons of a pick."""

import pytest

from clavis.core.evaluation.evaluate import SetupName, evaluate
from clavis.core.evaluation.parts_list import price_of
from clavis.core.fit.adapters import adapter_refusal, solve_chain
from clavis.core.fit.part_on_wheel import part_refusals
from clavis.core.job.document import Keeps, School
from clavis.core.job.renewal import Renewal
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.fluids import Fluid
from clavis.core.parts.models import Axis, CaliperMount
from clavis.core.parts.mounts import End, MountKind
from clavis.core.physics.bike import Tread
from clavis.core.physics.descent import rested
from clavis.core.physics.friction import PadState
from clavis.core.selection.schools import AS_GOOD, SCHOOLS, reason_of, row_of_school
from clavis.core.selection.shortfall import RemedyKind, shortfall_of
from clavis.core.selection.upgrade_ladder import FREE, RUNGS, Rung, best_tread, ladder_of, serviced
from clavis.core.verdicts import Verdict
from tests.bikes import CATALOGUE, adapter, own_job, own_mounting, pad, plain, rotor, with_value
from tests.choices import choice_of
from tests.generated import DEMO_JOBS, TRACKS

pytestmark = pytest.mark.long

JOB = own_job()
FOUND = evaluate(JOB, CATALOGUE, {})


def chosen(job=JOB, found=FOUND, end=End.FRONT, catalogue=CATALOGUE):
    return choice_of(job, found, end, catalogue)


def ladder(job=JOB, found=FOUND, end=End.FRONT):
    return ladder_of(job, end, found, chosen(job, found, end), {})


def test_each_rung_changes_what_it_says_and_nothing_else() -> None:
    steps = {s.rung: s for s in ladder().rises}
    assert set(steps) == set(Rung)
    for row in RUNGS:
        step = steps[row.rung]
        if step.candidate is None:
            continue
        changed = {a for a in Axis if getattr(JOB.front, f"{a.value}_id") != getattr(step.candidate, a.value).id}
        assert row.must <= changed <= row.may


def test_gain_price_and_order_by_hand() -> None:
    found = ladder()
    now = FOUND.fitted.wheels[End.FRONT].smallest
    assert found.before == pytest.approx(now)
    free, rest = found.rises[: len(FREE)], found.rises[len(FREE) :]
    assert [s.rung for s in free] == [row.rung for row in FREE]
    assert free[0].rung is Rung.SERVICE
    for step in free:
        assert step.price == 0
        assert step.per_100 is None
    for step in rest:
        if step.candidate is not None:
            assert step.gain == pytest.approx(step.candidate.smallest - now)
            assert step.per_100 == pytest.approx(step.gain * 100 / step.price)
    per_100 = [s.per_100 for s in rest if s.candidate]
    assert per_100 == sorted(per_100, reverse=True)
    for step in rest:
        if step.candidate is not None:
            assert step.price == step.candidate.price == pytest.approx(price_of(step.candidate.lines))
    # a rotor of another size brings its adapter of 14 and the bolts through it
    rotor_step = next(s for s in rest if s.rung is Rung.ROTOR)
    assert rotor_step.candidate.rotor.diameter_mm == 203
    bought = {line.what: line.cost for line in rotor_step.candidate.lines}
    assert set(bought) == {"rotor", "adapter", "bolt", "rotor bolts", "washers"}
    assert bought["adapter"] == 14
    pads = next(s for s in rest if s.rung is Rung.PADS)
    assert pads.price == pads.candidate.pad.price


def test_service_mends_what_service_mends() -> None:
    job = with_value(with_value(JOB, "front.pad_state", "glazed"), "front.lever_feel", "spongy")
    found = evaluate(job, CATALOGUE, {})
    step = ladder(job, found).rises[0]
    assert step.gain > 0.02
    other = serviced(job, End.FRONT, found)
    assert other.front.pad_state is PadState.GOOD
    assert other.rear == job.rear
    oiled = with_value(JOB, "front.pad_state", "oiled")
    past = ladder(oiled, evaluate(oiled, CATALOGUE, {})).rises[0]
    assert "past service" in past.why_not


def free(rung, job, end=End.FRONT):
    return next(s for s in ladder(job, evaluate(job, CATALOGUE, {}), end).rises if s.rung is rung)


def test_size_stands_beside_tyre_and_technique_by_the_stop_it_makes() -> None:
    """By hand: the job with the rung's parts proposed on this wheel, and nothing on the other."""
    found = evaluate(JOB, CATALOGUE, {})
    step = next(s for s in ladder(JOB, found).rises if s.rung is Rung.ROTOR)
    other = with_value(JOB, "proposal", {"front": step.candidate.ids.model_dump(mode="json")})
    now, then = found.fitted.stop_flat, evaluate(other, CATALOGUE, {}).proposed.stop_flat
    assert step.stop_by_m == pytest.approx(then.distance_m - now.distance_m)


def test_a_cable_is_not_bled() -> None:
    words = {}
    for job in (JOB, next(j for j in DEMO_JOBS if "cable" in j.title)):
        found = evaluate(job, CATALOGUE, TRACKS)
        choice = choice_of(job, found)
        first = ladder_of(job, End.FRONT, found, choice, TRACKS).rises[0]
        cable = found.mountings[End.FRONT].wheel.on_it.caliper.fluid is Fluid.NONE
        words[cable] = plain(first.words)
    assert "bleed" in words[False]
    assert "bleed" not in words[True]
    assert "housing" in words[True]


def test_what_is_free_is_worked_out_on_the_job() -> None:
    """Each by the job with it done, and where there is nothing to do it says so."""
    one = with_value(JOB, "rider.fingers", 1)
    two = evaluate(with_value(one, "rider.fingers", 2), CATALOGUE, {}).fitted.wheels[End.FRONT]
    step = free(Rung.FINGERS, one)
    assert step.smallest == pytest.approx(two.smallest)
    assert step.verdict is two.verdict
    assert "on it already" in plain(free(Rung.FINGERS, with_value(JOB, "rider.fingers", 2)).why_not)
    assert "pulses already" in plain(free(Rung.TECHNIQUE, with_value(JOB, "rider.style", "pulse")).why_not)
    pulsed = evaluate(with_value(JOB, "rider.style", "pulse"), CATALOGUE, {}).fitted.wheels[End.FRONT]
    assert free(Rung.TECHNIQUE, with_value(JOB, "rider.style", "drag")).smallest == pytest.approx(pulsed.smallest)


def test_a_tyre_is_told_by_the_stop_that_it_makes() -> None:
    loose = with_value(with_value(JOB, "conditions.surface", "gravel"), "bike.tread", "slick")
    step = free(Rung.TYRE, loose)
    assert best_tread(loose) is not Tread.SLICK
    assert step.stop_by_m < 0
    grips = with_value(loose, "bike.tread", best_tread(loose).value)
    assert "as well as any" in plain(free(Rung.TYRE, grips).why_not)


def test_a_lever_is_set_further_out_only_where_it_comes_near_the_bar() -> None:
    far, near = (with_value(JOB, "front.lever_reach_mm", reach) for reach in (90.0, 22.0))
    assert "way enough" in plain(free(Rung.REACH, far).why_not)
    step = free(Rung.REACH, near)
    assert not step.why_not
    out = evaluate(with_value(near, "front.lever_reach_mm", 27.0), CATALOGUE, {}).fitted.wheels[End.FRONT]
    assert step.smallest == pytest.approx(out.smallest)


def test_no_third_brake_for_a_town_bike() -> None:
    job, found = heavy()
    kinds = {r.kind for r in short_of(with_value(job, "bike.kind", "city"), found)[0].remedies}
    assert RemedyKind.THIRD_BRAKE not in kinds
    touring = with_value(job, "bike.kind", "touring")
    assert RemedyKind.THIRD_BRAKE in {r.kind for r in short_of(touring, found)[0].remedies}


def test_a_part_that_stays_is_in_every_candidate() -> None:
    kept = JOB.model_copy(update={"keeps": Keeps(front=(Axis.CALIPER, Axis.LEVER))})
    choice = chosen(kept)
    assert choice.candidates
    assert {c.caliper.id for c in choice.candidates} == {JOB.front.caliper_id}
    assert {c.lever.id for c in choice.candidates} == {JOB.front.lever_id}
    assert len({c.rotor.id for c in choice.candidates}) > 3
    free = chosen()
    assert len(choice.candidates) < len(free.candidates)
    assert choice.sieve.total * len(CATALOGUE.calipers) * len(CATALOGUE.levers) == free.sieve.total
    # of the other wheel nothing is kept
    assert len({c.caliper.id for c in chosen(kept, end=End.REAR).candidates}) > 1


@pytest.mark.parametrize("row", SCHOOLS, ids=lambda r: r.school.value)
def test_a_pick_beats_the_next_by_the_schools_own_measure(row) -> None:
    choice = chosen()
    first, second = choice.ranked(row.school, 2)
    why = reason_of(row, first, second)
    assert why.next is second
    assert why.limits == len(first.margins)
    assert why.holding == sum(m.verdict is Verdict.HOLDS for m in first.margins)
    assert why.least.relative == min(m.relative for m in first.margins if m.relative is not None)
    measured = [row.measure(c.standing) for c in (first, second)]
    apart = abs(measured[0] - measured[1])
    assert why.by == (pytest.approx(apart) if apart >= AS_GOOD else 0.0)
    if row.school is School.LEAN and not why.unlike:
        assert measured[0] <= measured[1]
    assert reason_of(row, first, None).next is None


def heavy():
    """The same bike with 130 kg of passengers and luggage on a wall of a hill: no brake of the catalogue holds it."""
    job = with_value(with_value(JOB, "load.passengers_kg", 150.0), "load.luggage_kg", 60.0)
    for k, gradient in enumerate((16.0, 18.0, 14.0)):
        job = with_value(job, f"rides.descent.sections.{k}.gradient_pct", gradient)
    job = with_value(job, "bike.top_speed_kmh", 70.0)
    return job, evaluate(job, CATALOGUE, {})


def short_of(job, found):
    load = found.setups[SetupName.PROPOSED].load
    return shortfall_of(job, found.situation, load, chosen(job, found), {}), load


def test_where_nothing_holds_it_is_said_with_what_would() -> None:
    short, load = short_of(*heavy())
    by_kind = {r.kind: r for r in short.remedies}
    assert set(by_kind) == set(RemedyKind)
    # none of them makes it worse, and all together are at least as good as any
    for kind in (RemedyKind.THIRD_BRAKE, RemedyKind.STOPS, RemedyKind.FINGERS, RemedyKind.LIGHTER, RemedyKind.SLOWER):
        assert by_kind[kind].smallest >= short.best.smallest - 1e-6, kind
        if kind is not RemedyKind.LIGHTER:
            assert by_kind[RemedyKind.TOGETHER].smallest >= by_kind[kind].smallest
    third = by_kind[RemedyKind.THIRD_BRAKE]
    assert third.power_w == pytest.approx(third.amount / 100 * load.braked_kj * 1000 / load.time_s[-1])
    assert not short.enough


def test_what_is_fitted_may_hold_with_a_third_brake_and_two_fingers() -> None:
    """With everything kept the fitted brake is the one candidate; it lacks force in reserve when hot."""
    job = JOB.model_copy(update={"keeps": Keeps(front=tuple(Axis))})
    short, _ = short_of(job, evaluate(job, CATALOGUE, {}))
    assert short.best.points[0].code == "reserve"
    assert short.enough
    assert short.remedies[-1].kind is RemedyKind.TOGETHER
    assert short.remedies[-1].verdict is Verdict.HOLDS
    # the share is the least that holds: one step of 5 % less does not
    assert short.remedies[-1].amount < 80


def test_a_limit_that_is_not_heat_is_named_instead() -> None:
    job = with_value(JOB, "load.luggage_kg", 60.0).model_copy(update={"keeps": Keeps(front=tuple(Axis))})
    short, _ = short_of(job, evaluate(job, CATALOGUE, {}))
    assert "the lever meets the bar" in short.uncoolable
    assert short.remedies == ()


def test_where_something_holds_nothing_is_said() -> None:
    load = FOUND.setups[SetupName.PROPOSED].load
    assert any(c.verdict is Verdict.HOLDS for c in chosen().candidates)
    assert shortfall_of(JOB, FOUND.situation, load, chosen(), {}) is None


def test_stops_to_cool_stand_after_equal_shares() -> None:
    load = FOUND.fitted.load
    with_stops = rested(load, 3, 600.0)
    assert with_stops.time_s[-1] == pytest.approx(load.time_s[-1] + 1800)
    assert with_stops.braked_kj == pytest.approx(load.braked_kj)
    still = [
        k for k, (ds, dt) in enumerate(zip(with_stops.ds_m, with_stops.dt_s, strict=True)) if ds == 0 and dt == 600
    ]
    before = [with_stops.braked_j[:k].sum() / load.braked_j.sum() for k in still]
    assert before == pytest.approx([0.25, 0.5, 0.75], abs=0.03)


def test_a_part_against_a_wheel() -> None:
    on = own_mounting()

    def refused(part, where=on):
        return part_refusals(where, where.wheel.on_it, part)

    assert refused(CATALOGUE.rotors["q-disc-180"]) == ()
    (reason,) = refused(rotor(interface="splined"))
    assert "splined" in reason
    assert "pad shape P4" in refused(pad(shape="P4"))[0]
    assert refused(CATALOGUE.bolts["m6-18"]) is None
    assert refused(CATALOGUE.adapters["a-pp-160-180"]) == ()
    assert "starts from 140" in plain(refused(CATALOGUE.adapters["a-pp-140-160"])[0])
    assert refused(CATALOGUE.adapters["a-pp-160-180"], own_mounting(mount_spacing_mm=None)) is None


def test_an_adapter_between_mount_and_caliper() -> None:
    made = adapter(from_mm=160, adapter_kind="post_to_post", style="through", fits=[("rear", 180)])
    assert not adapter_refusal(made, MountKind.POST, 160, End.REAR, CaliperMount.POST)
    assert "not made for the front" in adapter_refusal(made, MountKind.POST, 160, End.FRONT, CaliperMount.POST)
    assert "not what goes" in adapter_refusal(made, MountKind.IS, 160, End.REAR, CaliperMount.POST)


def test_a_retired_adapter_is_not_chosen() -> None:
    made = adapter(id="x", from_mm=160, adapter_kind="post_to_post", style="through", fits=[("rear", 180)])
    args = (MountKind.POST, 160.0, End.REAR, CaliperMount.POST, 180.0)
    assert solve_chain(*args, [made]).adapter is made
    assert not solve_chain(*args, [made.model_copy(update={"retired": True})]).possible


def test_retired_parts_are_no_candidates() -> None:
    parts = [
        p.model_copy(update={"retired": p.id == "q-disc-200"}) if p.kind == "rotor" else p for p in CATALOGUE.every()
    ]
    with_it, without = chosen(), chosen(catalogue=Catalogue.of(parts))
    assert any(c.rotor.id == "q-disc-200" for c in with_it.candidates)
    assert not any(c.rotor.id == "q-disc-200" for c in without.candidates)


def test_runners_up_are_not_the_winner_with_another_lever() -> None:
    ranked = chosen().ranked(School.COOL, 4, apart=True)
    assert len({(c.rotor.id, c.caliper.id, c.pad.id) for c in ranked}) == 4
    assert ranked[0].ids == chosen().ranked(School.COOL, 1)[0].ids
    places = [row_of_school(School.COOL).key(c.standing) for c in ranked]
    assert places == sorted(places)


def test_stiff_housing_costs_force_and_service_gives_it_back() -> None:
    job = next(j for j in DEMO_JOBS if "cable" in j.title)
    stiff = with_value(job, "front.line_state", "worn")
    good, bad = (evaluate(j, CATALOGUE, TRACKS).fitted.wheels[End.FRONT] for j in (job, stiff))
    assert bad.forces.gain == pytest.approx(good.forces.gain * 0.65 / 0.75)
    found = evaluate(stiff, CATALOGUE, TRACKS)
    choice = choice_of(stiff, found)
    assert ladder_of(stiff, End.FRONT, found, choice, TRACKS).rises[0].stop_by_m < 0
    renewed = [c for c in choice.candidates if Renewal.HOSE in c.setup.renew and not c.setup.new]
    assert renewed, "the same brake with new cable and housing is a choice"
    assert renewed[0].forces.gain == pytest.approx(good.forces.gain * 0.85 / 0.75)
