"""Friction curves: corners by hand, shapes that must hold, and the compiled twin."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.physics.friction import PadState, bedding_ratio, dry_mu, friction_shape, state_ratio, stop_mu


@pytest.mark.parametrize(
    ("compound", "rotor_c", "mu"),
    [
        ("resin", -10, 0.44),
        ("resin", 10, 0.445),
        ("resin", 200, 0.45),
        ("resin", 300, 0.33),
        ("resin", 900, 0.20),
        ("semi_metallic", 55, 0.415),
        ("semi_metallic", 420, 0.37),
        ("sintered", 20, 0.32),
        ("sintered", 90, 0.395),
        ("sintered", 450, 0.47),
        ("sintered", 650, 0.37),
        ("ceramic", 40, 0.43),
        ("ceramic", 450, 0.37),
    ],
)
def test_the_curve_by_hand(compound: str, rotor_c: float, mu: float) -> None:
    assert float(dry_mu(COMPOUNDS[compound], rotor_c)) == pytest.approx(mu)


@given(st.sampled_from(list(COMPOUNDS)), st.floats(-20, 900))
def test_friction_stays_between_its_floor_and_its_working_value(compound: str, rotor_c: float) -> None:
    row = COMPOUNDS[compound]
    mu = float(dry_mu(row, rotor_c))
    assert min(row.floor, row.mu_cold) - 1e-12 <= mu <= row.mu_work + 1e-12
    if rotor_c > row.fade_c:
        assert float(dry_mu(row, rotor_c + 20)) <= mu + 1e-12


@given(st.sampled_from(list(COMPOUNDS)), st.floats(-20, 900))
def test_the_compiled_curve_is_the_same(compound: str, rotor_c: float) -> None:
    row = COMPOUNDS[compound]
    now = stop_mu(friction_shape(row)[None], np.ones(1), np.array([rotor_c]), np.zeros((1, 1)))[0, 0]
    assert now == pytest.approx(float(dry_mu(row, rotor_c)), abs=1e-12)


def test_bedding_rises_from_its_start_to_one() -> None:
    sinter = COMPOUNDS["sintered"]
    assert bedding_ratio(sinter, 0) == pytest.approx(0.6)
    assert bedding_ratio(sinter, 60) == pytest.approx(1 - 0.4 / np.e)
    assert bedding_ratio(sinter, 600) == pytest.approx(1, abs=1e-4)
    assert bedding_ratio(sinter, 0, start_ratio=0.5) == pytest.approx(0.5)


def test_oiled_pads_have_no_figure() -> None:
    assert state_ratio(PadState.OILED) is None
    assert state_ratio(PadState.METAL) is None
    assert state_ratio(PadState.GLAZED) == pytest.approx(0.7)
    assert state_ratio(PadState.GOOD) == 1
