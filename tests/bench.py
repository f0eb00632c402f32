"""Speed, measured and reported, never asserted: ``make bench``.

The budgets stand in the names' docstrings; the table of pytest-benchmark says what this machine does.
"""

import gc
from pathlib import Path

import numpy as np
import pytest
from starlette.testclient import TestClient

from clavis.core.evaluation.evaluate import evaluate
from clavis.core.evaluation.sampling import Drawn, certainty, draws_of
from clavis.core.evaluation.situation import situation_of
from clavis.core.fit.mounting import Mounting
from clavis.core.job.document import Ride
from clavis.core.parts.mounts import End
from clavis.core.physics import heat_kernel as k
from clavis.core.physics.compiled import compiled
from clavis.core.physics.descent import Sharing, Style, Weather, heat_steps, plan_ride
from clavis.core.physics.heat import CAPACITY_COLUMNS, WornBrake, node_row, peaks_of
from clavis.core.physics.road import Section, road_of_sections
from clavis.core.selection.candidates import choose
from clavis.web.app import create_app
from clavis.web.shell.settings import Settings
from tests.bikes import CATALOGUE, caliper, own_job, pad, rotor
from tests.conftest import browserlike

HOUR = tuple(
    Section(length_m=1500, gradient_pct=g, speed_kmh=28, corner_kmh=c)
    for g, c in zip((6, 9, 11, 7, 4, 8, 10, 5, 9, 12) * 2, (14, None, 10, None) * 5, strict=True)
)


@pytest.fixture(scope="module")
def hour_job():
    job = own_job(rides=(Ride(id="hour", name="An hour down", sections=HOUR),), decisive_ride="hour")
    evaluate(job, CATALOGUE, {})
    return job


def test_both_setups_both_wheels_over_an_hour(benchmark, hour_job) -> None:
    """Budget: one setup, both wheels, 60 min under 150 ms; this is two setups."""
    result = benchmark(evaluate, hour_job, CATALOGUE, {})
    assert result.setups["fitted"].load.time_s[-1] > 3500


@pytest.fixture(scope="module")
def thousand(hour_job):
    """Rows of 1,000 heat-distinct setups and the steps of an hour, for both wheels."""
    situation = situation_of(hour_job)
    load = plan_ride(road_of_sections(HOUR, 2500), situation.bike, Weather(20), Style.DRAG, hour_job.parameters)
    sides = []
    for end in End:
        steps = heat_steps(load, Sharing(0.55), end)
        rows = [
            node_row(WornBrake(rotor(diameter_mm=140 + 0.08 * k, minimum_mm=None), 1.5 + 0.0008 * k, pad(), 2, caliper(), end),
                     0.34, False, hour_job.parameters)
            for k in range(1000)
        ]  # fmt: skip
        sides.append((np.array(rows), steps))
    return sides


def test_a_thousand_heat_distinct_setups_on_two_wheels(benchmark, thousand) -> None:
    """Aim: under 0.08 s."""
    benchmark(lambda: [peaks_of(rows, steps, 20.0) for rows, steps in thousand])


@compiled
def heat_alone(c, a, g, gamma, power, dt, air, out):
    """The least that can be called the same balance: six capacities in a chain, areas in air of an even coefficient,
    implicit midpoint; no correlation, no radiation, no friction, no ledger, no peaks but the rotor's."""
    n, m = c.shape[1], len(dt)
    w = np.zeros((7, n))
    for j in range(m):
        inv, q, h = 2.0 / dt[j], power[j], air[j]
        for b in range(n):
            d0, d1, d2 = c[0, b] * inv + a[0, b] * h, c[1, b] * inv + a[1, b] * h, c[2, b] * inv
            d3, d4, d5 = c[3, b] * inv + a[2, b] * h, c[4, b] * inv + a[3, b] * h, c[5, b] * inv
            r0, r1, r2 = c[0, b] * inv * w[0, b], c[1, b] * inv * w[1, b] + gamma[b] * q, c[2, b] * inv * w[2, b]
            r3, r4, r5 = c[3, b] * inv * w[3, b], c[4, b] * inv * w[4, b], c[5, b] * inv * w[5, b]
            r2 += (1.0 - gamma[b]) * q
            i5 = 1.0 / (d5 + g[4, b])
            i4 = 1.0 / (d4 + g[3, b] + g[4, b] - g[4, b] * g[4, b] * i5)
            r4 += g[4, b] * i5 * r5
            i3 = 1.0 / (d3 + g[2, b] + g[3, b] - g[3, b] * g[3, b] * i4)
            r3 += g[3, b] * i4 * r4
            i2 = 1.0 / (d2 + g[1, b] + g[2, b] - g[2, b] * g[2, b] * i3)
            r2 += g[2, b] * i3 * r3
            i0 = 1.0 / (d0 + g[0, b])
            x1 = (r1 + g[1, b] * i2 * r2 + g[0, b] * i0 * r0) / (
                d1 + g[0, b] + g[1, b] - g[1, b] * g[1, b] * i2 - g[0, b] * g[0, b] * i0
            )
            x0 = (r0 + g[0, b] * x1) * i0
            x2 = (r2 + g[1, b] * x1) * i2
            x3 = (r3 + g[2, b] * x2) * i3
            x4 = (r4 + g[3, b] * x3) * i4
            x5 = (r5 + g[4, b] * x4) * i5
            w[0, b], w[1, b], w[2, b] = 2.0 * x0 - w[0, b], 2.0 * x1 - w[1, b], 2.0 * x2 - w[2, b]
            w[3, b], w[4, b], w[5, b] = 2.0 * x3 - w[3, b], 2.0 * x4 - w[4, b], 2.0 * x5 - w[5, b]
            w[6, b] = max(w[6, b], w[1, b])
    for b in range(n):
        out[b] = w[6, b]


def test_a_thousand_on_two_wheels_heat_alone(benchmark, thousand) -> None:
    """What heat alone costs on one core, to be held against the row of a thousand setups on two wheels."""
    sides = []
    for rows, steps in thousand:
        c = rows[:, CAPACITY_COLUMNS].T.copy()
        a = rows[:, [k.A_CARRIER, k.A_ROTOR, k.A_FIN, k.A_CALIPER]].T.copy()
        g = rows[:, [k.G_RC, k.G_RS_ON, k.G_SP, k.G_PK, k.G_KF]].T.copy()
        air = 6 + 20 * np.sqrt(steps.speed_ms)
        sides.append((c, a, g, rows[:, k.GAMMA].copy(), steps.power_w, steps.dt_s, air, np.empty(len(rows))))
    benchmark(lambda: [heat_alone(*side) for side in sides])
    assert all(side[-1].min() > 50 for side in sides)


def test_a_thousand_one_by_one_on_one_wheel(benchmark, hour_job) -> None:
    """What the same costs without putting them together: compare with the row of 1,000 setups over one hour."""
    situation = situation_of(hour_job)
    load = plan_ride(road_of_sections(HOUR, 2500), situation.bike, Weather(20), Style.DRAG, hour_job.parameters)
    steps = heat_steps(load, Sharing(), End.FRONT)
    one = node_row(WornBrake(rotor(), 1.7, pad(), 2, caliper(), End.FRONT), 0.34, False, hour_job.parameters)[None, :]
    benchmark(lambda: [peaks_of(one, steps, 20.0) for _ in range(1000)])


@pytest.mark.parametrize(("setups", "hours"), [(250, 1), (500, 1), (1000, 1), (250, 2), (250, 4)])
def test_cost_grows_evenly(benchmark, hour_job, setups: int, hours: int) -> None:
    """Time over setups and over duration: each doubling doubles it."""
    situation = situation_of(hour_job)
    road = road_of_sections(HOUR * hours, 2500 * hours)
    steps = heat_steps(
        plan_ride(road, situation.bike, Weather(20), Style.DRAG, hour_job.parameters), Sharing(), End.FRONT
    )
    one = node_row(WornBrake(rotor(), 1.7, pad(), 2, caliper(), End.FRONT), 0.34, False, hour_job.parameters)
    benchmark(peaks_of, np.tile(one, (setups, 1)), steps, 20.0)


def test_all_candidates_of_a_wheel(benchmark, hour_job) -> None:
    """Aim: thousands ranked in under 3 s."""
    evaluation = evaluate(hour_job, CATALOGUE, {})
    setup = evaluation.setups["proposed"]
    wheel = evaluation.mountings[End.FRONT]

    def choose_afresh():
        """With nothing kept of the wheel from before."""
        return choose(hour_job, Mounting(wheel.wheel, CATALOGUE), evaluation.situation, setup.demand, setup.load)

    choice = benchmark(choose_afresh)
    assert len(choice.candidates) > 300


@pytest.fixture
def open_client(tmp_path: Path, demo_database: Path):
    import shutil

    shutil.copy(demo_database, tmp_path / "c.db")
    with browserlike(tmp_path / "c.db") as client:
        client.event_hooks = {}  # the page as it is sent: unfolding it for the eye of a test costs time of its own
        client.get("/")
        gc.collect()
        gc.freeze()  # as the application does where it is served
        yield client
        gc.unfreeze()


def twelve_hours() -> bytes:
    """A GPX of 43,200 points, one a second, over hills."""
    time = np.arange(43_200)
    way = np.cumsum(6 + 2 * np.sin(time / 300))
    height = 800 + 500 * np.sin(way / 9000) + np.random.default_rng(1).normal(0, 0.3, len(way))
    points = (
        f'<trkpt lat="{-40 + w / 111195:.7f}" lon="-20.0"><ele>{z:.1f}</ele>'
        f"<time>2026-05-01T{k // 3600 + 6:02d}:{k // 60 % 60:02d}:{k % 60:02d}Z</time></trkpt>"
        for k, (w, z) in enumerate(zip(way, height, strict=True))
    )
    return f'<gpx version="1.1"><trk><trkseg>{"".join(points)}</trkseg></trk></gpx>'.encode()


def test_a_twelve_hour_track_comes_in(benchmark, tmp_path: Path, demo_database: Path) -> None:
    """Budget: 43,200 points in under 2 s from upload to ride, the first evaluation included."""
    import shutil

    data, names = twelve_hours(), iter(range(1000))
    shutil.copy(demo_database, tmp_path / "c.db")
    app = create_app(Settings(database=tmp_path / "c.db", allowed_hosts=["testserver"]))
    with TestClient(app, headers={"sec-fetch-site": "same-origin"}, follow_redirects=False) as client:
        client.cookies.set("clavis_who", "Tess")

        def bring():
            files = {"file": (f"day{next(names)}.gpx", data)}
            return client.post("/jobs/5/rides/file", files=files, data={"page": "p"})

        answer = benchmark.pedantic(bring, rounds=3, warmup_rounds=1)
        assert "hx-redirect" in answer.headers


@pytest.mark.parametrize(
    "path",
    [
        "/",
        *(f"/jobs/7/{s}" for s in ("intake", "measure", "ride", "choose", "fit", "build", "prove", "keep")),
        "/rides",
        "/jobs/7/styles",
        "/jobs/7/rides/pass/worst",
    ],
)
def test_a_page(benchmark, open_client, path: str) -> None:
    """Budget: under 150 ms."""
    assert benchmark(open_client.get, path).status_code == 200


def test_a_nudge_of_the_rotor(benchmark, open_client) -> None:
    """Budget: under 200 ms from key to figures, uncached; the painting is the browser's."""
    ways = iter([1, -1] * 10000)

    def nudge():
        data = {"end": "front", "kind": "rotor", "by": next(ways), "base": 9999, "page": "p"}
        return open_client.post("/jobs/7/step", data=data)

    assert benchmark(nudge).status_code == 200


@pytest.mark.parametrize("job", [7, 5])
def test_where_a_pick_flips(benchmark, open_client, job: int) -> None:
    """Aim: under 5 s a wheel, with progress; 27 to 38 questions to the whole catalogue."""
    answers = open_client.app.state.answers

    def ask():
        answers._kept.clear()
        return open_client.get(f"/jobs/{job}/flips/front", params={"begun": "true"})

    assert benchmark.pedantic(ask, rounds=2).status_code == 200


def test_candidates_of_the_tandem(benchmark, open_client) -> None:
    """Aim: 3,000 feasible candidates and more ranked in under 3 s, page and all."""
    answers = open_client.app.state.answers

    def ask():
        answers._kept.clear()
        return open_client.get("/jobs/7/candidates/front")

    page = benchmark.pedantic(ask, rounds=3)
    assert page.status_code == 200


def test_twenty_finalists_with_128_samples(benchmark, hour_job) -> None:
    """Aim: under 0.15 s."""
    evaluation = evaluate(hour_job, CATALOGUE, {})
    setup = evaluation.setups["proposed"]
    wheel = setup.wheels[End.FRONT]
    draws = draws_of(hour_job.parameters, 1, own=False)

    def finalists():
        drawn = Drawn(hour_job, evaluation.situation, setup.load, setup.demand, draws)
        return [certainty(wheel, drawn) for _ in range(20)]

    benchmark(finalists)
