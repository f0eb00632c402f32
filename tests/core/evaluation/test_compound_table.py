"""Every compound on one wheel: the very figures of the table of compounds, and of a brake with those pads on it."""

import pytest

from clavis.core.evaluation.compound_table import FAR_ABOVE_C, compound_table, conclusions, friction_curves
from clavis.core.evaluation.evaluate import evaluate
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.mounts import End
from clavis.core.physics.friction import dry_mu
from clavis.core.physics.heat import Node
from tests.bikes import CATALOGUE, own_job, with_value


def test_resin_and_sintered_by_hand() -> None:
    lines = dict(zip(COMPOUNDS, compound_table(), strict=True))
    assert lines["resin"].wet == pytest.approx(0.44 * 0.80)
    assert lines["resin"].far_above == pytest.approx((0.45 - 0.12, 0.45 - 0.24))  # 100 and 200 K above its fade
    assert lines["sintered"].far_above == pytest.approx((0.47, 0.47))
    assert lines["resin"].at_peak is None
    assert lines["resin"].rotor_share is None
    assert FAR_ABOVE_C == (300.0, 400.0)


def test_on_a_wheel_it_is_that_wheels_brake() -> None:
    """The share of the heat by evaluating the brake with each compound's pads."""
    job = own_job()
    evaluation = evaluate(job, CATALOGUE, {})
    w = evaluation.proposed.wheels[End.FRONT]
    lines = compound_table(w, evaluation.situation)
    assert [x.row.words for x in lines if x.fitted] == [COMPOUNDS[w.setup.pad.compound].words]
    for key, line in zip(COMPOUNDS, lines, strict=True):
        pad = next((p for p in CATALOGUE.pads.values() if (p.shape, p.compound, p.finned) == ("K2", key, False)), None)
        assert line.at_peak == pytest.approx(float(dry_mu(COMPOUNDS[key], w.heat.peak_c[Node.ROTOR])))
        assert line.fades == (w.heat.peak_c[Node.ROTOR] > COMPOUNDS[key].fade_c)
        if pad is not None:
            other = evaluate(with_value(job, "proposal.front.pad_id", pad.id), CATALOGUE, {})
            assert line.rotor_share == pytest.approx(other.proposed.wheels[End.FRONT].rotor_share)
    best_hot, best_wet = conclusions(lines)
    assert best_hot.at_peak == max(x.at_peak for x in lines)
    assert best_wet.wet == max(x.wet for x in lines)


def test_the_curves_are_the_friction_of_the_model() -> None:
    rotor_c, curves = friction_curves()
    assert rotor_c[0] == 0
    assert set(curves) == set(COMPOUNDS)
    for key, mu in curves.items():
        assert mu == pytest.approx(dry_mu(COMPOUNDS[key], rotor_c))
