"""Arguments: each varies one thing, says what the figures say, and says why where there is nothing to hold."""

from dataclasses import replace

import pytest

from clavis.core.evaluation.evaluate import evaluate
from clavis.core.evaluation.open_points import Matter
from clavis.core.evaluation.sampling import bands_along, draws_of
from clavis.core.evaluation.sheet import longer_words
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.mounts import End
from clavis.core.physics.heat import Node, equal_mass_thickness_mm
from clavis.core.selection.arguments import Argument, hold
from clavis.core.selection.compare import side_by_side
from clavis.core.selection.schools import row_of_school
from clavis.demo.world import gravel
from tests.bikes import CATALOGUE, own_job, plain, with_value
from tests.choices import choice_of

pytestmark = pytest.mark.long


def held(argument, end=End.FRONT, job=None, catalogue=CATALOGUE):
    job = job or own_job()
    evaluation = evaluate(job, catalogue, {})
    choice = choice_of(job, evaluation, end, catalogue)
    return hold(argument, end, job, evaluation, choice, {}), evaluation


def setups(found, end=End.FRONT):
    return [c.setup.wheels[end].setup for c in found.columns]


@pytest.mark.parametrize("argument", list(Argument))
def test_the_other_wheel_and_what_is_not_argued_about_stay(argument) -> None:
    found, evaluation = held(argument)
    assert len(found.columns) >= 2
    assert found.words
    base = evaluation.proposed.wheels
    varied = {"rotor"} if argument is Argument.DIAMETER else set()
    varied = {"caliper", "pad"} if argument is Argument.PISTONS else varied
    varied = {"pad"} if argument is Argument.COMPOUND else varied
    for column in found.columns:
        rear = column.setup.wheels[End.REAR].setup
        assert {k: getattr(rear, k).id for k in ("rotor", "caliper", "lever", "pad")} == {
            k: getattr(base[End.REAR].setup, k).id for k in ("rotor", "caliper", "lever", "pad")
        }
        front = column.setup.wheels[End.FRONT].setup
        for kind in {"rotor", "caliper", "lever", "pad"} - varied:
            assert getattr(front, kind).id == getattr(base[End.FRONT].setup, kind).id
        assert not any(p.grave for p in column.setup.points_of(End.FRONT) if p.matter is Matter.TOGETHER)


def test_larger_and_thicker_weigh_the_same() -> None:
    large, thick = setups(held(Argument.DIAMETER)[0])
    assert large.rotor.diameter_mm > thick.rotor.diameter_mm
    assert thick.rotor.thickness_mm > large.rotor.thickness_mm
    assert large.rotor.mass_g == pytest.approx(thick.rotor.mass_g, rel=0.08)
    found = held(Argument.DIAMETER)[0]
    gains = [c.setup.wheels[End.FRONT].forces.gain for c in found.columns]
    told = " ".join(plain(w) for w in found.words).replace("\u202f", " ")
    assert f"{100 * (gains[0] / gains[1] - 1):+.0f} %" in told
    equal = equal_mass_thickness_mm(thick.rotor, large.rotor.mass_g, own_job().parameters)
    assert f"would be {equal:.2f} mm thick" in told.replace("\u00a0", " ")


def test_two_and_four_have_the_same_rotor_and_compound_and_the_words_are_the_figures() -> None:
    found, _ = held(Argument.PISTONS)
    two, four = setups(found)
    assert (two.caliper.four_pistons, four.caliper.four_pistons) == (False, True)
    assert two.pad.compound == four.pad.compound
    assert two.lever == four.lever
    on_it = evaluate(own_job(), CATALOGUE, {}).proposed.cases[End.FRONT].setup.caliper
    assert on_it in (two.caliper, four.caliper)
    assert f"{two.caliper.piston_area_mm2:.0f} mm² against {four.caliper.piston_area_mm2:.0f} mm²" in plain(
        found.words[0]
    )


def test_every_compound_once_and_the_coolest_is_named() -> None:
    found, _ = held(Argument.COMPOUND)
    sold = {pad.compound for pad in CATALOGUE.pads.values()}
    assert [s.pad.compound for s in setups(found)] == [compound for compound in COMPOUNDS if compound in sold]
    rotors = {c.name: c.setup.wheels[End.FRONT].heat.peak_c[Node.ROTOR] for c in found.columns}
    coolest = min(rotors, key=rotors.__getitem__)
    assert coolest in plain(found.words[0])
    assert f"{min(rotors.values()):.0f} °C against {max(rotors.values()):.0f} °C" in plain(found.words[0])


def test_pulsing_heats_the_same_rotor_otherwise() -> None:
    found, _ = held(Argument.STYLE)
    drag, pulse = (c.setup for c in found.columns)
    assert drag.load.braked_kj == pytest.approx(pulse.load.braked_kj, rel=0.06)
    assert drag.wheels[End.FRONT].heat.peak_c[Node.ROTOR] != pytest.approx(
        pulse.wheels[End.FRONT].heat.peak_c[Node.ROTOR], abs=2
    )


def test_where_there_is_nothing_to_hold_it_says_why() -> None:
    present = evaluate(own_job(), CATALOGUE, {}).proposed.cases[End.FRONT].setup.rotor
    few = Catalogue.of(p for p in CATALOGUE.every() if p.kind != "rotor" or p.diameter_mm <= present.diameter_mm)
    few = Catalogue.of(p for p in few.every() if p.kind != "rotor" or p.thickness_mm == present.thickness_mm)
    found, _ = held(Argument.DIAMETER, catalogue=few)
    assert not found.columns
    assert "no larger rotor" in found.why_not
    two_only = Catalogue.of(p for p in CATALOGUE.every() if p.kind != "caliper" or not p.four_pistons)
    assert "one kind only" in held(Argument.PISTONS, catalogue=two_only)[0].why_not
    semi = Catalogue.of(p for p in CATALOGUE.every() if p.kind != "pad" or p.compound == "semi_metallic")
    assert "one compound only" in held(Argument.COMPOUND, job=with_value(own_job(), "proposal.front.pad_id", None),
                                       catalogue=semi)[0].why_not  # fmt: skip
    incomplete = with_value(own_job(), "front.pad_id", None)
    incomplete = with_value(incomplete, "proposal.front.pad_id", None)
    assert held(Argument.STYLE, job=incomplete)[0].why_not


def test_an_argument_about_one_wheel_is_decided_by_that_wheel() -> None:
    found, _ = held(Argument.PISTONS, End.REAR)
    decided = side_by_side(own_job(), found.columns, End.REAR)
    key = row_of_school(own_job().wishes.school).key
    keys = [key(c.standing(End.REAR)) for c in found.columns]
    assert keys[decided.winner] == min(keys)
    assert all(", front" not in plain(line) for line in decided.why)


def test_the_band_along_the_way_holds_the_course_and_is_as_wide_as_its_peak_band() -> None:
    evaluation = evaluate(own_job(), CATALOGUE, {})
    wheel = evaluation.proposed.wheels[End.FRONT]
    situation = evaluation.situation
    way = wheel.heat.distance_m
    low, high = bands_along(wheel, situation, draws_of(situation.parameters, 1), way, (Node.ROTOR,))[Node.ROTOR]
    course = wheel.heat.course_c[:, Node.ROTOR]
    inside = (course >= low - 1e-6) & (course <= high + 1e-6)
    assert inside.mean() > 0.98
    assert low[0] == high[0] == pytest.approx(situation.weather.ambient_c)
    hottest = int(course.argmax())
    assert high[hottest] - low[hottest] > 10
    sure = replace(situation, parameters=situation.parameters)
    again = bands_along(wheel, sure, draws_of(sure.parameters, 1), way, (Node.ROTOR,))[Node.ROTOR]
    assert (again[0] == low).all()


def test_without_one_as_heavy_the_thickness_is_told() -> None:
    alike = Catalogue.of(p for p in CATALOGUE.every() if p.kind != "rotor" or p.thickness_mm == 1.8)
    job = with_value(own_job(), "proposal.front.rotor_id", "q-disc-160")
    found, _ = held(Argument.DIAMETER, catalogue=alike, job=job)
    large, small = setups(found)
    assert small.rotor.id == "q-disc-160"
    assert large.rotor.diameter_mm > 161
    equal = equal_mass_thickness_mm(small.rotor, large.rotor.mass_g, job.parameters)
    assert f"{equal:.2f}" in plain(found.words[0])


def test_drag_and_pulse_node_by_node_with_a_conclusion() -> None:
    found, _ = held(Argument.STYLE)
    drag, pulse = (c.setup.wheels[End.FRONT] for c in found.columns)
    told = [plain(w).replace("\u202f", " ").replace("\u00a0", " ") for w in found.words]
    for node, name in ((Node.ROTOR, "Rotor"), (Node.PADS, "Pads"), (Node.FLUID, "Fluid")):
        assert f"{name}: {drag.heat.peak_c[node]:.0f} °C dragging, {pulse.heat.peak_c[node]:.0f} °C pulsing." in told
    assert told[-1].endswith(("pulsing leaves more.", "dragging leaves more."))


def test_a_larger_rotor_that_lengthens_the_stop_says_why() -> None:
    """A light beginner on gravel: more force for the same finger, and the hand must keep further off."""
    small, large = (
        evaluate(with_value(gravel({}), "front.rotor_id", rotor_id), CATALOGUE, {}).fitted
        for rotor_id in ("u-line-140", "u-line-160")
    )
    by = large.stop_flat.distance_m - small.stop_flat.distance_m
    told = plain(longer_words(large, small)).replace("\u00a0", " ")
    assert told.startswith(f"{by:.1f} m longer: front")
    assert "the hand must stay further from the limit of the ground" in told
    assert not longer_words(small, large)
    assert not longer_words(small, small)


def test_a_stop_that_the_hand_lengthens_is_told_by_the_hand() -> None:
    job = with_value(own_job(), "rider.mass_kg", 140.0)
    strong = evaluate(job, CATALOGUE, {}).fitted
    weak = evaluate(with_value(job, "rider.hands", "small"), CATALOGUE, {}).fitted
    assert weak.stop_flat.distance_m > strong.stop_flat.distance_m + 0.1
    assert "the hand gives too little" in plain(longer_words(weak, strong))
