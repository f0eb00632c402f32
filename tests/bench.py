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
from clavis.store import board
from clavis.web.app import create_app
from clavis.web.shell.settings import Settings
from tests.bikes import CATALOGUE, caliper, own_job, pad, rotor
from tests.conftest import browserlike
from tests.generated import gpx_of
from tests.large_workshop import laid

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


LANES, ROWS = 64, 31


@compiled
def heat_alone(rows, power, dt, air, out):
    """The least that can be called the same balance, laid out in blocks as ours is: six capacities in a chain, areas in
    air of an even coefficient, implicit midpoint; no correlation, no radiation, no friction, no ledger, no peak but the
    rotor's. ``rows`` are capacities ×6, areas ×4, conductances ×5, the rotor's share."""
    w = np.zeros(ROWS * LANES)
    for first in range(0, len(rows), LANES):
        count = min(LANES, len(rows) - first)
        for b in range(count):
            for r in range(16):
                w[r * LANES + b] = rows[first + b, r]
            for r in range(16, ROWS):
                w[r * LANES + b] = 0.0
        for j in range(len(dt)):
            inv, q, h = 2.0 / dt[j], power[j], air[j]
            for b in range(count):
                c0, c1, c2 = w[b] * inv, w[LANES + b] * inv, w[2 * LANES + b] * inv
                c3, c4, c5 = w[3 * LANES + b] * inv, w[4 * LANES + b] * inv, w[5 * LANES + b] * inv
                g0, g1, g2 = w[10 * LANES + b], w[11 * LANES + b], w[12 * LANES + b]
                g3, g4, part = w[13 * LANES + b], w[14 * LANES + b], w[15 * LANES + b]
                t0, t1, t2 = w[16 * LANES + b], w[17 * LANES + b], w[18 * LANES + b]
                t3, t4, t5 = w[19 * LANES + b], w[20 * LANES + b], w[21 * LANES + b]
                i5 = 1.0 / (c5 + g4)
                r4 = c4 * t4 + g4 * i5 * c5 * t5
                i4 = 1.0 / (c4 + w[9 * LANES + b] * h + g3 + g4 - g4 * g4 * i5)
                r3 = c3 * t3 + g3 * i4 * r4
                i3 = 1.0 / (c3 + w[8 * LANES + b] * h + g2 + g3 - g3 * g3 * i4)
                r2 = c2 * t2 + (1.0 - part) * q + g2 * i3 * r3
                i2 = 1.0 / (c2 + g1 + g2 - g2 * g2 * i3)
                i0 = 1.0 / (c0 + w[6 * LANES + b] * h + g0)
                x1 = (c1 * t1 + part * q + g1 * i2 * r2 + g0 * i0 * c0 * t0) / (
                    c1 + w[7 * LANES + b] * h + g0 + g1 - g1 * g1 * i2 - g0 * g0 * i0
                )
                x0, x2 = (c0 * t0 + g0 * x1) * i0, (r2 + g1 * x1) * i2
                x3 = (r3 + g2 * x2) * i3
                x4 = (r4 + g3 * x3) * i4
                x5 = (c5 * t5 + g4 * x4) * i5
                w[16 * LANES + b], w[17 * LANES + b] = 2.0 * x0 - t0, 2.0 * x1 - t1
                w[18 * LANES + b], w[19 * LANES + b] = 2.0 * x2 - t2, 2.0 * x3 - t3
                w[20 * LANES + b], w[21 * LANES + b] = 2.0 * x4 - t4, 2.0 * x5 - t5
                w[22 * LANES + b] = max(w[22 * LANES + b], x1)
        for b in range(count):
            out[first + b] = w[22 * LANES + b]


def test_a_thousand_on_two_wheels_heat_alone(benchmark, thousand) -> None:
    """What heat alone costs on one core, to be held against a thousand setups on two wheels, which have two."""
    columns = [*CAPACITY_COLUMNS, k.A_CARRIER, k.A_ROTOR, k.A_FIN, k.A_CALIPER, k.G_RC, k.G_RS_ON, k.G_SP, k.G_PK,
               k.G_KF, k.GAMMA]  # fmt: skip
    sides = [
        (rows[:, columns].copy(), s.power_w, s.dt_s, 6 + 20 * np.sqrt(s.speed_ms), np.empty(len(rows)))
        for rows, s in thousand
    ]
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


def test_a_twelve_hour_track_comes_in(benchmark, tmp_path: Path, demo_database: Path) -> None:
    """Budget: 43,200 points in under 2 s from upload to ride, the first evaluation included."""
    import shutil

    data, names = gpx_of(43_200, 1), iter(range(1000))
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
        *(f"/jobs/4/prove?view={view}" for view in ("plan", "runs", "result")),
        *(f"/jobs/7/prove?view={view}" for view in ("temperatures", "calibration", "log")),
    ],
)
def test_a_page(benchmark, open_client, path: str) -> None:
    """Budget: under 150 ms."""
    assert benchmark(open_client.get, path).status_code == 200


def test_what_is_expected_of_every_question(benchmark, open_client) -> None:
    """Aim: under a second, beside the page: five trials of two setups evaluated, and the runs that show them."""
    answers = open_client.app.state.answers

    def ask():
        answers.forget()
        return open_client.get("/jobs/7/trials/expected")

    assert benchmark.pedantic(ask, rounds=3, warmup_rounds=1).status_code == 200


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
        answers.forget()
        return open_client.get(f"/jobs/{job}/flips/front", params={"begun": "true"})

    assert benchmark.pedantic(ask, rounds=2).status_code == 200


def test_candidates_of_the_tandem(benchmark, open_client) -> None:
    """Aim: 3,000 feasible candidates and more ranked in under 3 s, page and all."""
    answers = open_client.app.state.answers

    def ask():
        answers.forget()
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


@pytest.fixture(scope="module")
def large(tmp_path_factory):
    """2,000 bikes, 10,000 jobs, 200,000 readings."""
    with browserlike(laid(tmp_path_factory.mktemp("large") / "large.db", 2_000, 10_000, 100)) as client:
        yield client


@pytest.mark.parametrize(
    "path",
    [
        "/", "/?search=tour", "/?search=t", "/?search=FN-01234", "/?shown=handed_over", "/?shown=archived&page=50",
        "/?sort=worst&page=2", "/due", "/due?fleet=Fleet+4", "/due?page=30", "/bikes", "/bikes?search=dray", "/bikes/1500",
        "/jobs/8/keep", "/jobs/40/choose", "/jobs/40/intake", "/jobs/40/history", "/parts", "/people/1500",
    ],
)  # fmt: skip
def test_a_page_of_a_large_workshop(benchmark, large, path: str) -> None:
    """Budget: under 150 ms, and the program under 400 MB."""
    assert benchmark(large.get, path).status_code == 200
    benchmark.extra_info["resident_mb"] = resident_mb()


def resident_mb() -> int:
    """What this process holds in memory now."""
    line = next(row for row in Path("/proc/self/status").read_text().splitlines() if row.startswith("VmRSS"))
    return int(line.split()[1]) // 1024


def test_rows_of_the_board_after_a_change_of_the_rules(benchmark, large) -> None:
    """Beside the pages: how long twenty rows take to be made anew."""
    app = large.app

    def twenty():
        app.state.answers.forget()
        with app.state.sessions() as session:
            numbers = board.stale(session, "other rules", 20)
        for number in numbers:
            app.state.rows._made(number, "other rules")

    benchmark.pedantic(twenty, rounds=2)
