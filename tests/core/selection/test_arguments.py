"""Arguments: each varies one thing, says what the figures say, and says why where there is nothing to hold."""

from dataclasses import replace

import pytest

from clavis.core.evaluation.evaluate import SetupName, evaluate
from clavis.core.evaluation.open_points import Matter
from clavis.core.evaluation.sampling import bands_along, draws_of
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.mounts import End
from clavis.core.physics.heat import Node
from clavis.core.selection.arguments import Argument, hold
from clavis.core.selection.candidates import choose
from clavis.core.selection.compare import side_by_side
from clavis.core.selection.schools import row_of_school
from tests.bikes import CATALOGUE, own_job, plain, with_value


def held(argument, end=End.FRONT, job=None, catalogue=CATALOGUE):
    job = job or own_job()
    evaluation = evaluate(job, catalogue, {})
    p = evaluation.setups[SetupName.PROPOSED]
    choice = choose(job, evaluation.mountings[end], evaluation.situation, p.demand, p.load)
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
    varied = {"caliper", "lever", "pad"} if argument is Argument.PISTONS else varied
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
    assert f"{100 * (gains[0] / gains[1] - 1):+.0f} %" in plain(found.words[1]).replace("\u202f", " ")


def test_two_and_four_have_the_same_rotor_and_compound_and_the_words_are_the_figures() -> None:
    found, _ = held(Argument.PISTONS)
    two, four = setups(found)
    assert (two.caliper.four_pistons, four.caliper.four_pistons) == (False, True)
    assert two.pad.compound == four.pad.compound
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
    few = Catalogue.of(p for p in CATALOGUE.every() if p.kind != "rotor" or p.thickness_mm == 1.8)
    found, _ = held(Argument.DIAMETER, catalogue=few)
    assert not found.columns
    assert "no two rotors" in found.why_not
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
    keys = [key(c.standing(End.REAR), None) for c in found.columns]
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
