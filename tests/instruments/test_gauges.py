"""The stand-in gauges: realistic resolution and scatter, and the truth stays hidden from what they cannot reach."""

import numpy as np
import pytest

from clavis.core.parts.mounts import End
from clavis.instruments.gauges import GAUGES, DemoBench, Feature, GaugeError, GaugeKind, SimulatedGauge
from tests.bikes import CATALOGUE, own_job, with_value

BENCH = DemoBench(own_job(), CATALOGUE)
MICROMETER, CALIPER = GaugeKind.MICROMETER, GaugeKind.CALIPER_GAUGE


def readings(kind: GaugeKind, feature: Feature, n: int = 300, point: int = 0) -> np.ndarray:
    return np.array([SimulatedGauge(kind, BENCH, k).read(End.FRONT, feature, point).value_mm for k in range(n)])


@pytest.mark.parametrize("kind", GaugeKind)
def test_readings_stand_on_the_gauges_steps(kind: GaugeKind) -> None:
    steps = readings(kind, Feature.ROTOR) / GAUGES[kind].step_mm
    assert np.allclose(steps, np.round(steps))


def test_readings_scatter_as_stated_about_the_truth() -> None:
    true = BENCH.true_mm(End.FRONT, Feature.ROTOR, 0)
    got = readings(MICROMETER, Feature.ROTOR)
    assert got.mean() == pytest.approx(true, abs=0.002)
    rounding = GAUGES[MICROMETER].step_mm / 12**0.5
    assert got.std() == pytest.approx(np.hypot(GAUGES[MICROMETER].scatter_mm, rounding), rel=0.5)


def test_the_jaws_bridge_the_hollow_and_read_too_thick() -> None:
    true, hollow = BENCH.true_mm(End.FRONT, Feature.ROTOR, 0), BENCH.hollow_mm(End.FRONT)
    assert hollow > 0.02
    assert readings(CALIPER, Feature.ROTOR).mean() == pytest.approx(true + hollow, abs=0.005)


def test_a_rotor_is_worn_unevenly_and_stays_where_it_is() -> None:
    round_it = [BENCH.true_mm(End.FRONT, Feature.ROTOR, k) for k in range(6)]
    assert max(round_it) - min(round_it) > 0.003
    assert max(round_it) < 1.8
    more = DemoBench(with_value(own_job(), "front.rotor_points_mm", [1.2]), CATALOGUE)
    assert more.true_mm(End.FRONT, Feature.ROTOR, 2) == round_it[2]


def test_the_same_press_reads_the_same_and_another_does_not_always() -> None:
    def one(draw: int) -> float:
        return SimulatedGauge(CALIPER, BENCH, draw).read(End.REAR, Feature.BOLT_SPACING, 0).value_mm

    assert one(7) == one(7)
    assert len({one(k) for k in range(20)}) > 1


@pytest.mark.parametrize("feature", [f for f in Feature if f is not Feature.ROTOR])
def test_a_micrometer_reaches_the_rotor_only(feature: Feature) -> None:
    with pytest.raises(GaugeError, match="does not reach"):
        SimulatedGauge(MICROMETER, BENCH, 1).read(End.FRONT, feature, 0)


@pytest.mark.parametrize("feature", Feature)
def test_a_caliper_gauge_reads_near_the_nominal_size(feature: Feature) -> None:
    nominal = {
        Feature.ROTOR: 1.7, Feature.BOLT_SPACING: 74.2, Feature.HOLE_DEPTH: 15, Feature.TAB: 5, Feature.INNER_PAD: 1.4,
        Feature.OUTER_PAD: 1.4, Feature.BORE: 22, Feature.SLOT: 2.0, Feature.UPPER_HOLE: 74.1, Feature.LOWER_HOLE: 80.8,
        Feature.UPPER_BOLT: 18, Feature.LOWER_BOLT: 18, Feature.SPOKE_GAP: 4.5,
    }  # fmt: skip
    assert readings(CALIPER, feature, 20).mean() == pytest.approx(nominal[feature], abs=1.3)


def test_nothing_is_read_where_nothing_is_named() -> None:
    bare = own_job(front=own_job().front.model_copy(update={"rotor_id": None}))
    with pytest.raises(GaugeError, match="nothing is there"):
        SimulatedGauge(MICROMETER, DemoBench(bare, CATALOGUE), 1).read(End.FRONT, Feature.ROTOR, 0)
