"""Heat: closed forms, the ledger, monotone physics, and an independent check on right-hand sides written afresh."""

import re
from dataclasses import replace
from math import exp, log, pi, sqrt

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from clavis.core.evaluation.evaluate import SetupName, evaluate
from clavis.core.evaluation.sheet import wheel_figures
from clavis.core.parameters import ModelParameters
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.fluids import Fluid
from clavis.core.parts.mounts import End
from clavis.core.physics import heat_kernel
from clavis.core.physics.bike import LoadedBike
from clavis.core.physics.descent import HeatSteps, Sharing, Style, Weather, heat_steps, plan_ride, wheel_energy_j
from clavis.core.physics.friction import dry_mu
from clavis.core.physics.heat import (
    Node,
    WornBrake,
    arrays_of,
    boiling_point,
    carrier_mass_kg,
    heat_of,
    node_row,
    peaks_of,
    rotor_geometry,
    rotor_share,
    witness_of,
)
from clavis.core.physics.road import Section, road_of_sections
from tests.bikes import CATALOGUE, cable_caliper, caliper, own_job, pad, plain, rotor, with_value
from tests.generated import TRACKS, drawn_jobs

P = ModelParameters()
BIKE = LoadedBike(110, 1.06, 0.45, 1.08, 0.50, 0.007, 0.345)


def even_steps(
    power: float, seconds: float, speed: float = 8.0, dt: float = 1.0, pressure: float = 101325
) -> HeatSteps:
    n = round(seconds / dt)
    one = np.ones(n)
    bounds = np.concatenate([[0.0], np.cumsum(one * dt)])
    on = 1.0 if power > 0 else 0.0
    return HeatSteps(one * dt, one * power, one * speed, one * on, one * power / max(speed, 0.1), one * pressure,
                     bounds * speed, bounds, 0.0)  # fmt: skip


def row(r=None, p=None, c=None, end=End.FRONT, thickness=None, material=2.0, wet=False, params=P) -> np.ndarray:
    r, p, c = r or rotor(), p or pad(), c or caliper()
    return node_row(WornBrake(r, thickness or r.thickness_mm, p, material, c, end), 0.345, wet, params)


def peak(nodes: np.ndarray, steps: HeatSteps, node: Node = Node.ROTOR) -> float:
    return heat_of(nodes[None, :], steps, 20.0)[0].peak_c[node]


def drag(
    seconds_km: float = 4.0, mass: float = 110, gradient: float = 10, share: float = 0.6, end=End.FRONT
) -> HeatSteps:
    bike = LoadedBike(mass, 1.06, 0.45, 1.08, 0.50, 0.007, 0.345)
    road = road_of_sections([Section(length_m=seconds_km * 1000, gradient_pct=gradient, speed_kmh=30)], 400)
    return heat_steps(plan_ride(road, bike, Weather(20), Style.DRAG, P), Sharing(share), end)


def test_rotor_figures_by_hand() -> None:
    # 180 × 1.8, track 14.5: gross π(0.09² − 0.0755²) = 7.5389e-3 m²; solid 5.6542e-3; mass 7750 · 5.6542e-3 · 0.0018
    geometry = rotor_geometry(rotor(), 1.8, P)
    assert geometry.swept_m2 == pytest.approx(5.6542e-3, rel=1e-4)
    assert geometry.mass_kg == pytest.approx(0.078876, rel=1e-4)
    assert geometry.capacity_j_k == pytest.approx(37.072, rel=1e-4)
    edges = 2 * pi * (0.18 - 0.0145) * 0.0018 + 4 * 0.0018 * 0.25 * 7.5389e-3 / 0.006
    assert geometry.area_m2 == pytest.approx(2 * 5.6542e-3 + edges, rel=1e-4)
    assert carrier_mass_kg(rotor(mass_g=143), geometry.mass_kg) == pytest.approx(0.143 - 0.078876, rel=1e-4)
    # a weight that leaves nothing for the arms is not believed: 45 g (180/160)³
    assert carrier_mass_kg(rotor(mass_g=80), geometry.mass_kg) == pytest.approx(0.045 * 1.125**3, rel=1e-6)


def test_the_rotors_share_by_hand() -> None:
    # e_R = √(25·7750·470) = 9542.8; resin √(0.9·2300·1000) = 1438.7; 330 mm² on 5654 mm²
    geometry = rotor_geometry(rotor(), 1.8, P)
    resin = rotor_share(geometry, pad(), caliper())
    assert resin == pytest.approx(1 / (1 + 1438.7 * 330 / (9542.8 * 5654.2)), rel=1e-4)
    assert rotor_share(geometry, pad(compound="sintered"), caliper()) < resin


def test_a_short_stop_without_exchange_is_adiabatic() -> None:
    closed = ModelParameters(
        convection_ratio=1e-9, still_air_w_m2k=0, rotor_emissivity_ratio=0, pad_released_w_k=0, pad_contact_w_m2k=1e-9,
        rotor_to_carrier_ratio=1e-9,
    )  # fmt: skip
    nodes = row(params=closed)
    nodes[heat_kernel.G_RC] = nodes[heat_kernel.G_RS_ON] = 0.0
    rise = peak(nodes, even_steps(2000, 3.0, dt=0.05)) - 20
    gamma, capacity = nodes[heat_kernel.GAMMA], nodes[heat_kernel.C_ROTOR]
    assert rise == pytest.approx(gamma * 6000 / capacity, rel=1e-6)


def test_a_rotor_alone_cools_by_an_exponential() -> None:
    nodes = row()
    nodes[[heat_kernel.G_RC, heat_kernel.G_RS_ON, heat_kernel.G_RS_OFF]] = 0.0
    nodes[heat_kernel.E_ROTOR], nodes[heat_kernel.CONVECTION], nodes[heat_kernel.STILL] = 0.0, 0.0, 40.0
    start = np.array([[20.0, 300.0, 20.0, 20.0, 20.0, 20.0]])
    steps = even_steps(0, 60, dt=0.5)
    course = heat_kernel.integrate(nodes[None], arrays_of(steps), 20.0, start, True).course
    tau = nodes[heat_kernel.C_ROTOR] / (40.0 * nodes[heat_kernel.A_ROTOR])
    assert course[0, -1, Node.ROTOR] == pytest.approx(20 + 280 * exp(-60 / tau), abs=0.02)


@pytest.mark.parametrize("film_w_m2k", [5.0, 6.3, 8.1, 11.0, 17.0, 40.0])
def test_the_time_back_to_fifty_is_told_to_the_second(film_w_m2k: float) -> None:
    """A rotor alone: tau ln((R_e - 20)/30), wherever between the points of the clock it falls."""
    nodes = row()
    nodes[[heat_kernel.G_RC, heat_kernel.G_RS_ON, heat_kernel.G_RS_OFF]] = 0.0
    nodes[heat_kernel.E_ROTOR], nodes[heat_kernel.CONVECTION], nodes[heat_kernel.STILL] = 0.0, 0.0, film_w_m2k
    heat = heat_of(nodes[None], even_steps(2000, 3.0, dt=0.05), 20.0)[0]
    tau = nodes[heat_kernel.C_ROTOR] / (film_w_m2k * nodes[heat_kernel.A_ROTOR])
    assert heat.cool_s == pytest.approx(tau * log((heat.end_c[Node.ROTOR] - 20) / 30), abs=1.0)
    # a ride that leaves it cool needs no time; air as hot as that never cools it
    assert heat_of(nodes[None], even_steps(10, 3.0), 20.0)[0].cool_s == 0.0
    assert heat_of(nodes[None], even_steps(2000, 3.0, dt=0.05), 60.0)[0].cool_s is None


def test_constant_power_settles_at_the_networks_steady_state() -> None:
    """With every exchange linear the end state solves a linear system, set up here by hand."""
    nodes = row()
    nodes[heat_kernel.E_ROTOR] = nodes[heat_kernel.E_CALIPER] = nodes[heat_kernel.CONVECTION] = 0.0
    nodes[heat_kernel.STILL] = 60.0
    p = dict(zip(heat_kernel.COLUMNS, nodes, strict=True))
    rc, rs, sp = p["rotor_to_carrier"], p["rotor_to_surface_on"], p["surface_to_pads"]
    pk, kf = p["pads_to_caliper"], p["caliper_to_fluid"]
    matrix = np.array(
        [
            [rc + 60 * p["carrier_area"], -rc, 0, 0, 0, 0],
            [-rc, rc + rs + 60 * p["rotor_area"], -rs, 0, 0, 0],
            [0, -rs, rs + sp, -sp, 0, 0],
            [0, 0, -sp, sp + pk, -pk, 0],
            [0, 0, 0, -pk, pk + kf + 60 * p["caliper_area"], -kf],
            [0, 0, 0, 0, -kf, kf],
        ]
    )
    rhs = np.array([0, p["rotor_share"] * 400, (1 - p["rotor_share"]) * 400, 0, 0, 0])
    steady = 20 + np.linalg.solve(matrix, rhs)
    end = heat_of(nodes[None], even_steps(400, 6000, dt=3.0), 20.0)[0].end_c
    assert [end[n] for n in Node] == pytest.approx(steady, abs=0.05)


ROTORS = st.builds(
    lambda d, t, kind: rotor(
        diameter_mm=d, thickness_mm=t, minimum_mm=None, construction=kind, mass_g=0.8 * d * t / 1.8
    ),
    st.sampled_from([140, 160, 180, 203, 220]),
    st.floats(1.6, 2.4),
    st.sampled_from(["one_piece", "floating", "sandwich", "vaned"]),
)
PADS = st.builds(
    lambda c, f: pad(compound=c, finned=f),
    st.sampled_from(["resin", "semi_metallic", "sintered", "ceramic"]),
    st.booleans(),
)
CALIPERS = st.sampled_from([caliper(), caliper(bores_mm=[15, 17]), caliper(phenolic=True), cable_caliper()])


@settings(max_examples=25, deadline=None)
@given(ROTORS, PADS, CALIPERS, st.sampled_from(list(End)), st.floats(60, 220), st.floats(5, 16))
def test_all_energy_is_accounted_for(r, p, c, end, mass, gradient) -> None:
    result = heat_of(row(r, p, c, end)[None], drag(2.0, mass, gradient, end=end), 20.0)[0]
    assert abs(result.ledger.closure) < 1e-6
    assert result.ledger.friction_in_kj > 0
    assert all(v >= -1e-9 for v in result.ledger.convected_kj.values())


def _afresh(nodes: np.ndarray, steps: HeatSteps, ambient: float):
    """Right-hand sides written from the document, not from the core; only the numbers of the row are taken."""
    p = dict(zip(heat_kernel.COLUMNS, nodes, strict=True))
    bounds = steps.time_s

    def film(flow, length, surface, pressure):
        if flow <= 0:
            return p["still_air"]
        t = 0.5 * (surface + ambient) + 273.15
        mu = 1.716e-5 * (t / 273.15) ** 1.5 * 383.55 / (t + 110.4)
        k = 0.0241 * (t / 273.15) ** 1.5 * 467.15 / (t + 194)
        re = flow * length / (mu * 287.05 * t / pressure)
        return p["still_air"] + p["convection_ratio"] * 0.664 * sqrt(re) * 0.70 ** (1 / 3) * k / length

    def rhs(time, y):
        carrier, rotor, surface, pads, cal, fluid = y
        i = min(max(int(np.searchsorted(bounds, time, side="right")) - 1, 0), len(steps.dt_s) - 1)
        q, v, on, pa = steps.power_w[i], steps.speed_ms[i], steps.braking[i], steps.pressure_pa[i]
        wind, omega = p["airflow_ratio"] * v, v / p["wheel_radius"]
        h_rotor = film(sqrt(wind**2 + (omega * p["rotor_radius"]) ** 2), p["rotor_length"], rotor, pa)
        h_carrier = film(sqrt(wind**2 + (omega * p["carrier_radius"]) ** 2), p["carrier_length"], carrier, pa)
        h_fin, h_cal = film(wind, 0.020, pads, pa), film(wind, 0.040, cal, pa)
        sb, ak = 5.670374419e-8, ambient + 273.15
        g_rs = on * p["rotor_to_surface_on"] + (1 - on) * p["rotor_to_surface_off"]
        rotor_out = h_rotor * p["rotor_area"] * (rotor - ambient)
        rotor_out += p["rotor_emissivity"] * sb * p["rotor_area"] * ((rotor + 273.15) ** 4 - ak**4)
        cal_out = h_cal * p["caliper_area"] * (cal - ambient)
        cal_out += p["caliper_emissivity"] * sb * p["caliper_area"] * ((cal + 273.15) ** 4 - ak**4)
        has_fluid = p["fluid_capacity"] > 0
        to_fluid = p["caliper_to_fluid"] * (cal - fluid) if has_fluid else 0.0
        to_carrier, to_surface = p["rotor_to_carrier"] * (rotor - carrier), g_rs * (rotor - surface)
        to_pads = p["surface_to_pads"] * (surface - pads)
        to_caliper = p["pads_to_caliper"] * (pads - cal)
        return [
            (to_carrier - h_carrier * p["carrier_area"] * (carrier - ambient)) / p["carrier_capacity"],
            (p["rotor_share"] * q - rotor_out - to_carrier - to_surface) / p["rotor_capacity"],
            ((1 - p["rotor_share"]) * q + to_surface - to_pads) / p["surface_capacity"],
            (to_pads - to_caliper - h_fin * p["fin_area"] * (pads - ambient)) / p["pads_capacity"],
            (to_caliper - cal_out - to_fluid) / p["caliper_capacity"],
            to_fluid / p["fluid_capacity"] if has_fluid else 0.0,
        ]

    return rhs


@settings(max_examples=12, deadline=None)
@given(ROTORS, PADS, CALIPERS, st.sampled_from(list(End)), st.floats(70, 200), st.floats(4, 14), st.booleans(),
       st.sampled_from(Style))  # fmt: skip
def test_an_independent_stiff_solver_agrees(r, p, c, end, mass, gradient, corners, style) -> None:
    """Within 1 K at every node on rides that drag, within 2 K on those that pulse; the pads' surface, which follows
    every braking, within 2 K where there are any."""
    bike = LoadedBike(mass, 1.06, 0.45, 1.08, 0.50, 0.007, 0.345)
    parts = [Section(length_m=400, gradient_pct=gradient, speed_kmh=34, corner_kmh=12 if corners else None)] * 3
    load = plan_ride(road_of_sections(parts, 700), bike, Weather(18), style, P)
    steps, nodes = heat_steps(load, Sharing(0.6), end), row(r, p, c, end)
    peaks = heat_of(nodes[None], steps, 18.0)[0].peak_c
    solved = solve_ivp(
        _afresh(nodes, steps, 18.0), (0, steps.time_s[-1]), [18.0] * 6, method="LSODA", rtol=1e-6, atol=1e-4,
        max_step=float(np.median(steps.dt_s)),
    )  # fmt: skip
    for node, value in peaks.items():
        jumps = style is Style.PULSE or (corners and node is Node.SURFACE)
        assert value == pytest.approx(solved.y[node].max(), abs=2.0 if jumps else 1.0), node.name


@pytest.mark.parametrize("style", list(Style))
def test_halving_the_steps_moves_no_peak_by_half_a_kelvin(style: Style) -> None:
    parts = [Section(length_m=600, gradient_pct=g, speed_kmh=36, corner_kmh=10) for g in (6, 12, 8, 15)]
    load = plan_ride(road_of_sections(parts, 900), BIKE, Weather(20), style, P)
    for compound in ("resin", "sintered"):
        nodes = row(p=pad(compound=compound))[None]
        once, twice = (heat_of(nodes, heat_steps(load, Sharing(0.6), End.FRONT, k), 20.0)[0] for k in (1, 2))
        for node in once.peak_c:
            assert once.peak_c[node] == pytest.approx(twice.peak_c[node], abs=2.0 if node is Node.SURFACE else 0.5)


def test_plausible_sizes_of_the_document() -> None:
    steps = drag(4.0)
    resin = heat_of(row(rotor(mass_g=80))[None], steps, 20.0)[0]
    sinter = heat_of(row(rotor(mass_g=80), pad(compound="sintered"))[None], steps, 20.0)[0]
    assert resin.peak_c[Node.ROTOR] == pytest.approx(225, abs=12)
    assert resin.fluid_peak_c == pytest.approx(70, abs=6)
    assert sinter.peak_c[Node.ROTOR] == pytest.approx(210, abs=12)
    assert sinter.fluid_peak_c == pytest.approx(105, abs=8)


@pytest.mark.parametrize(
    ("cooler", "hotter"),
    [
        (row(rotor(diameter_mm=203, mass_g=182)), row()),
        (row(rotor(thickness_mm=2.3, minimum_mm=None, mass_g=183)), row()),
        (row(), row(thickness=1.5)),
        (row(c=caliper(), p=pad(finned=True)), row()),
        (row(end=End.FRONT), row(end=End.REAR)),
    ],
)
def test_the_rotor_gets_less_hot_with_more_metal_more_area_more_air(cooler, hotter) -> None:
    steps = drag()
    assert peak(cooler, steps) < peak(hotter, steps)


def test_more_mass_and_more_slope_heat_more() -> None:
    nodes = row()
    assert peak(nodes, drag(mass=130)) > peak(nodes, drag(mass=110))
    assert peak(nodes, drag(gradient=12)) > peak(nodes, drag(gradient=10))
    assert peak(nodes, drag(share=0.7)) > peak(nodes, drag(share=0.5))


def test_sintered_pads_and_metal_pistons_carry_heat_to_the_fluid() -> None:
    steps = drag()
    assert peak(row(p=pad(compound="sintered")), steps, Node.FLUID) > peak(row(), steps, Node.FLUID) + 15
    assert peak(row(c=caliper(phenolic=True)), steps, Node.FLUID) < peak(row(), steps, Node.FLUID)


def test_the_fluid_peaks_after_the_stop_and_a_cable_caliper_has_none() -> None:
    result = heat_of(row(p=pad(compound="sintered"))[None], drag(1.5, gradient=14), 20.0)[0]
    assert result.fluid_peak_c is not None
    assert result.fluid_peak_c > result.peak_c[Node.FLUID] + 1
    assert result.fluid_peak_after_stop_s is not None
    assert 10 < result.fluid_peak_after_stop_s < 600
    cable = heat_of(row(c=cable_caliper())[None], drag(), 20.0)[0]
    assert cable.fluid_peak_c is None
    assert Node.FLUID not in cable.peak_c


def test_a_worn_rotor_and_a_thin_pad_are_taken_as_measured() -> None:
    assert row(thickness=1.5)[heat_kernel.C_ROTOR] == pytest.approx(row()[heat_kernel.C_ROTOR] * 1.5 / 1.8)
    assert row(material=1.0)[heat_kernel.G_SP] > row()[heat_kernel.G_SP]
    assert row(material=0.1)[heat_kernel.G_SP] == row(material=0.5)[heat_kernel.G_SP]


def test_the_pads_surface_by_hand() -> None:
    # resin, two pads of 330 mm²: 6.6e-4 m² · 0.3e-3 m · 2300 · 1000 = 0.4554 J/K; 1/3000 + 0.15e-3/0.9 = 5e-4 m²K/W
    nodes = row()
    assert nodes[heat_kernel.C_SURFACE] == pytest.approx(0.4554)
    assert nodes[heat_kernel.G_RS_ON] == pytest.approx(6.6e-4 / 5e-4)
    assert nodes[heat_kernel.G_SP] == pytest.approx(6.6e-4 * 0.9 / 1.85e-3)
    # from rotor to backing plate it is what one lump had: 2 A/(d/k + 1/h)
    through = 1 / (1 / nodes[heat_kernel.G_RS_ON] + 1 / nodes[heat_kernel.G_SP])
    assert through == pytest.approx(6.6e-4 / (2e-3 / 0.9 + 1 / 3000))
    # and what both store together is what one lump stored
    whole = 6.6e-4 * (2e-3 * 2.3e6 + 1.3 * 1.8e-3 * 7750 * 470)
    assert nodes[heat_kernel.C_SURFACE] + nodes[heat_kernel.C_PADS] == pytest.approx(whole)


def test_the_arms_are_of_what_is_stated() -> None:
    """Up to its construction a carrier is steel or aluminium; the part's own word goes first."""
    mass = carrier_mass_kg(rotor(), rotor_geometry(rotor(), 1.8, P).mass_kg)
    assert row()[heat_kernel.C_CARRIER] == pytest.approx(mass * 470)
    assert row(rotor(construction="floating"))[heat_kernel.C_CARRIER] == pytest.approx(mass * 900)
    steel = row(rotor(construction="floating", carrier_material="steel"))
    assert steel[heat_kernel.C_CARRIER] == pytest.approx(mass * 470)
    assert steel[heat_kernel.G_RC] == row(rotor(construction="floating"))[heat_kernel.G_RC]


def test_many_setups_together_are_the_same_as_each_alone() -> None:
    rows = np.array([row(rotor(diameter_mm=d)) for d in (160, 180, 203)])
    steps = drag()
    table = peaks_of(rows, steps, 20.0)
    for k, nodes in enumerate(rows):
        alone = heat_of(nodes[None], steps, 20.0)[0]
        assert table.peak_c[k, Node.ROTOR] == pytest.approx(alone.peak_c[Node.ROTOR], abs=1e-9)
        assert table.fluid_peak_c[k] == pytest.approx(alone.fluid_peak_c, abs=1e-9)
        assert table.least_mu_per_n[k] == pytest.approx(alone.least_mu_per_n)


def test_two_cores_give_what_one_gives() -> None:
    """From some work on the blocks of setups are shared among the cores."""
    steps = drag(60.0)
    rows = np.array([row(rotor(diameter_mm=140 + 0.3 * k)) for k in range(200)])
    assert len(rows) * len(steps.dt_s) > heat_kernel.WORTH_A_THREAD
    together = peaks_of(rows, steps, 20.0)
    few = [peaks_of(rows[k : k + 8], steps, 20.0) for k in range(0, 200, 8)]
    assert np.array_equal(together.peak_c, np.concatenate([t.peak_c for t in few]))


def test_each_setup_may_have_a_load_of_its_own() -> None:
    """Power and force by setup: the same as each alone under its load."""
    steps, nodes = drag(), np.array([row(), row(rotor(diameter_mm=203))])
    scale = np.array([0.8, 1.2])
    arrays = arrays_of(steps)
    own = arrays._replace(power=arrays.power * scale, force=arrays.force * scale)
    start = np.full((2, heat_kernel.NODES), 20.0)
    together = heat_kernel.integrate(nodes, own, 20.0, start, False)
    for k, factor in enumerate(scale):
        scaled = replace(steps, power_w=steps.power_w * factor, force_n=steps.force_n * factor)
        alone = peaks_of(nodes[k : k + 1], scaled, 20.0)
        assert together.peaks[k, Node.ROTOR] == pytest.approx(alone.peak_c[0, Node.ROTOR], abs=1e-9)
        assert together.least[k, 0] == pytest.approx(alone.least_mu_per_n[0])


@pytest.mark.parametrize("place", range(0, 60, 3))
def test_fade_is_judged_inside_the_steps(place: int) -> None:
    """Never better than stretch by stretch with four times finer steps, and at most 1.5 % worse."""
    job = drawn_jobs(120, seed=31)[place]
    evaluation = evaluate(job, CATALOGUE, TRACKS)
    setup, situation = evaluation.fitted, evaluation.situation
    for end, wheel in setup.wheels.items() if setup else ():
        load, row_of_pads = setup.load, COMPOUNDS[wheel.setup.pad.compound]
        joules, _ = wheel_energy_j(load, situation.sharing, end)
        asked = np.divide(joules, load.ds_m, out=np.zeros_like(joules), where=(load.ds_m > 0.05) & (joules > load.dt_s))
        if asked.max() < 1:
            continue
        fine = heat_of(wheel.nodes[None], heat_steps(load, situation.sharing, end, 4), situation.weather.ambient_c)[0]
        rotor_c = np.interp(load.time_s, fine.time_s, fine.course_c[:, Node.ROTOR])
        dried = np.maximum.accumulate(rotor_c) > heat_kernel.WET_UNTIL_C
        mu = dry_mu(row_of_pads, rotor_c) * np.where(dried, 1.0, row_of_pads.wet_ratio if situation.wet else 1.0)
        least = np.minimum(mu[:-1], mu[1:])[asked > 1] / asked[asked > 1]
        assert 0.985 * least.min() <= wheel.heat.least_mu_per_n <= 1.0005 * least.min()


def test_wet_pads_grip_less_until_the_rotor_has_dried() -> None:
    steps = drag()
    dry, wet = (heat_of(row(wet=w)[None], steps, 20.0)[0] for w in (False, True))
    assert wet.least_mu_per_n < dry.least_mu_per_n
    assert wet.peak_c[Node.ROTOR] == pytest.approx(dry.peak_c[Node.ROTOR])


@pytest.mark.parametrize(
    ("fluid", "grade", "age", "water", "mineral", "elevation", "boils"),
    [
        (Fluid.DOT, "dot4", 0, False, None, 0, 230),
        (Fluid.DOT, "dot4", 1, False, None, 0, 192.5),
        (Fluid.DOT, "dot4", 5, False, None, 0, 155),
        (Fluid.DOT, "dot51", 2, False, None, 0, 180),
        (Fluid.DOT, "dot51", None, False, None, 0, None),
        (Fluid.DOT, None, 1, False, None, 0, None),
        (Fluid.MINERAL, "mineral", 0.5, False, 120, 0, 120),
        (Fluid.MINERAL, "mineral", 1.9, False, 120, 0, 120),
        (Fluid.MINERAL, "mineral", 2, False, 120, 0, 100),
        (Fluid.MINERAL, "mineral", 4, False, 120, 1500, 95),
        (Fluid.MINERAL, "mineral", None, False, 120, 0, 100),
        (Fluid.MINERAL, "mineral", None, False, None, 0, 100),
        (Fluid.MINERAL, "mineral", 0, False, None, 0, None),
        (Fluid.MINERAL, "mineral", 0, True, 120, 0, 100),
        (Fluid.DOT, "dot4", 0, True, None, 1500, 95),
        (Fluid.NONE, None, None, False, None, 0, None),
    ],
)
def test_boiling_points(fluid, grade, age, water, mineral, elevation, boils) -> None:
    found = boiling_point(fluid, grade, age, water, mineral, elevation)
    assert found.boiling_c == (None if boils is None else pytest.approx(boils))
    assert found.note


def test_old_mineral_fluid_is_judged_by_its_drop_and_says_so() -> None:
    old, unknown, young = (
        plain(boiling_point(Fluid.MINERAL, "mineral", age, False, 120, 0).note) for age in (4.0, None, 1.0)
    )
    assert old == "mineral fluid, 4 years old: judged as with a drop of water at the caliper; bleeding settles it"
    assert unknown.startswith("mineral fluid, its age not known: judged as with a drop of water")
    assert young == "mineral fluid, 1 year old, no water seen: the maker's figure"


def test_an_unknown_age_shows_both_cases() -> None:
    note = boiling_point(Fluid.DOT, "dot4", None, False, None, 0).note
    assert "230" in note
    assert "155" in note
    assert "bleeding settles it" in note


def test_heat_witnesses() -> None:
    assert [witness_of(c) for c in (250, 300, 380, 430, 520)] == [None, "straw", "brown", "purple", "blue"]


def figures_of(step) -> str:
    """A step as told, without the thin spaces that part thousands."""
    return re.sub(r"(?<=\d)\u202f(?=\d)", "", plain(step))


def test_the_working_of_the_rotor_can_be_recomputed_from_what_is_shown() -> None:
    """The ledger adds up, one moment balances term by term, and the bound lies above the peak."""
    found = evaluate(own_job(), CATALOGUE, {})
    for wheel in found.setups[SetupName.FITTED].wheels.values():
        figure = wheel_figures(wheel, found.situation)["rotor"]
        ledger, moment, bound, below = (figures_of(step) for step in figure.steps)
        given, air, radiated, stored = (float(x) for x in re.findall(r"(\d+\.\d)", ledger)[:4])
        assert given == pytest.approx(air + radiated + stored, abs=0.2)
        terms = re.search(
            r"γQ (\S+) W − air (\S+) W − radiation (\S+) W − carrier (\S+) W − pads (\S+) W = (\S+) W", moment
        )
        assert terms is not None
        into, *out, left = (float(x) for x in terms.groups())
        assert left == pytest.approx(into - sum(out), abs=0.3)
        capacity = next(g.value for g in figure.given if g.symbol == "m_R c_R")
        per_second = float(moment.rsplit(":", 1)[1].split("K/s")[0])
        assert per_second == pytest.approx(left / capacity, abs=0.02)
        k = int(wheel.steps.power_w.argmax())
        seen = (wheel.heat.course_c[k + 1, Node.ROTOR] - wheel.heat.course_c[k, Node.ROTOR]) / wheel.steps.dt_s[k]
        assert per_second == pytest.approx(seen, abs=0.05 * abs(seen) + 0.05)
        above = float(re.findall(r"(\d+) °C", bound)[-1])
        low = float(re.findall(r"(\d+) °C", below)[-1])
        assert 20 < low <= figure.value < above < 3000
        # the lower bound by hand from what it shows
        stretch, energy, leak = (
            float(x) for x in re.search(r"hardest (\S+) s bring γE (\S+) kJ.*G (\S+) W/K", below).groups()
        )
        by_hand = 15 + energy * 1000 / capacity * exp(-leak * stretch / capacity)
        assert low == pytest.approx(by_hand, abs=1.5)


TWO_SECTIONS = {"id": "descent", "name": "Slow, then fast", "sections": [
    {"length_m": 4000, "gradient_pct": 25, "speed_kmh": 7}, {"length_m": 1500, "gradient_pct": 13.2, "speed_kmh": 66},
]}  # fmt: skip
"""the greatest power is where the air is strongest; the rotor is hottest where there is little of either"""


@pytest.mark.parametrize("place", range(-1, 120, 4))
def test_bounds_bind(place: int) -> None:
    """The computed peak lies between the two that can be worked by hand, over rides drawn by the dice."""
    job = with_value(own_job(), "rides", [TWO_SECTIONS]) if place < 0 else drawn_jobs(120, seed=31)[place]
    evaluation = evaluate(job, CATALOGUE, TRACKS)
    found = evaluation.fitted
    for wheel in found.wheels.values() if found else ():
        if not len(wheel.steps.power_w):
            continue
        figure = wheel_figures(wheel, evaluation.situation)["rotor"]
        low, above = (float(re.findall(r"(-?\d+) °C", figures_of(figure.steps[k]))[-1]) for k in (3, 2))
        assert low - 0.5 <= wheel.heat.peak_c[Node.ROTOR] <= above + 0.5


@given(st.floats(-50, 900), st.floats(0.5, 25), st.floats(70000, 105000))
def test_the_film_polynomial_is_the_correlation(film_c: float, flow: float, pressure: float) -> None:
    """0.664 Re^½ Pr^⅓ k/ℓ by Sutherland's formulas, within 0.05 %."""
    kelvin = film_c + 273.15
    mu = 1.716e-5 * (kelvin / 273.15) ** 1.5 * 383.55 / (kelvin + 110.4)
    k = 0.0241 * (kelvin / 273.15) ** 1.5 * 467.15 / (kelvin + 194)
    reynolds = flow * 0.0145 / (mu * 287.05 * kelvin / pressure)
    by_formula = 1.1 * 0.664 * sqrt(reynolds) * 0.70 ** (1 / 3) * k / 0.0145
    root = 1.1 * sqrt(flow * pressure / 0.0145)
    assert heat_kernel.film_w_m2k(root, film_c, film_c, 0.0) == pytest.approx(by_formula, rel=5e-4)
