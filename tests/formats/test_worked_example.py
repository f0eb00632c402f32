"""docs/worked-example.md, worked by hand, and the code say the same to the digits shown."""

import re
from pathlib import Path

import pytest

from clavis.core.evaluation.evaluate import SetupName, evaluate
from clavis.core.parts.mounts import End
from clavis.core.physics.bike import axle_loads_n
from clavis.core.physics.heat import Node, rotor_geometry
from clavis.demo.world import gravel
from tests.bikes import CATALOGUE

DOCUMENT = Path(__file__).parents[2] / "docs" / "worked-example.md"


def by_code() -> dict[str, float]:
    job = gravel({})
    evaluation = evaluate(job, CATALOGUE, {})
    assert evaluation.situation is not None
    setup = evaluation.setups[SetupName.FITTED]
    assert setup.demand is not None
    bike, wheel, demand = evaluation.situation.bike, setup.wheels[End.FRONT], setup.demand
    f = wheel.forces
    front, rear = axle_loads_n(bike, 0, 0)
    rotor = rotor_geometry(wheel.setup.rotor, wheel.setup.thickness_mm, job.parameters)
    fit = evaluation.cases[SetupName.PROPOSED][End.REAR].fit
    assert fit is not None
    bolt = fit.bolts[0]
    assert bolt.bolt is not None
    assert bolt.minimum_mm is not None
    assert bolt.maximum_mm is not None
    return {
        "total mass": bike.mass_kg,
        "front axle standing": front,
        "rear axle standing": rear,
        "pitch-over": demand.flat.pitch_over_n,
        "deceleration limit": demand.flat.decel_ms2,
        "front alone": demand.flat.front_alone_n,
        "target deceleration flat": demand.targets[0].decel_ms2,
        "needed in front": f.needed_n,
        "stop energy in front": demand.targets[1].wheel_energy_j[End.FRONT],
        "clamp over finger": wheel.link.clamp_per_finger,
        "gain": f.gain,
        "finger at target": f.finger_target_n,
        "pressure": f.pressure_target_bar,
        "clamp": f.clamp_target_n,
        "torque": f.torque_target_nm,
        "finger at lock": f.finger_lock_n,
        "travel": f.travel.total_mm,
        "usable": f.usable_n,
        "rotor capacity": rotor.capacity_j_k,
        "share into the rotor": wheel.rotor_share,
        "rise of one target stop": wheel.hot_c - wheel.heat.peak_c[Node.ROTOR],
        "friction hot": f.mu_hot,
        "friction over the stop": f.mu_over_stops[1],
        "given over the stop": f.available_n,
        "reserve": f.reserve * 100,
        "above what must be": f.must_alone * 100,
        "shortest bolt": bolt.minimum_mm,
        "longest bolt": bolt.maximum_mm,
        "bolt taken": bolt.bolt.length_mm,
    }


ROWS = re.findall(r"^\| ([a-z][a-z -]+?) \| ([\d.]+) \|", DOCUMENT.read_text(encoding="utf-8"), re.M)
CODE = by_code()


@pytest.mark.parametrize(("name", "text"), ROWS, ids=[name for name, _ in ROWS])
def test_hand_and_code_agree(name: str, text: str) -> None:
    decimals = len(text.partition(".")[2])
    assert CODE[name] == pytest.approx(float(text), abs=0.6 * 10**-decimals)


def test_every_figure_of_the_example_is_held() -> None:
    assert {name for name, _ in ROWS} == set(CODE)
