"""Made-up roads and the recorder that rode them: GPX files with times and realistic noise, from a seed.

``python -m clavis.demo.roads`` writes the files in ``rides/`` again.
"""

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
RIDES = Path(__file__).with_name("rides")


@dataclass(frozen=True)
class RoadPlan:
    """A made-up road: mean gradient and how it swings, speed held, corners and stops, all from a seed."""

    name: str
    length_m: float
    top_m: float
    gradient: float
    swing: float
    speed_ms: float
    corner_every_m: float
    corner_ms: float
    stop_every_m: float
    stop_s: float
    seed: int


PLANS = {
    "long-pass": RoadPlan("Long pass", 16500, 1890, 0.082, 0.013, 9.4, 620, 4.6, 0, 0, 11),
    "hill-town": RoadPlan("Hill town in the rain", 5200, 412, 0.048, 0.05, 6.6, 330, 3.4, 430, 14, 12),
    "lift-trail": RoadPlan("Lift trail", 3900, 1310, 0.135, 0.05, 6.9, 95, 3.6, 0, 0, 13),
}


def _swings(rng: np.random.Generator, n: int, width: int) -> Array:
    raw = np.convolve(rng.normal(size=n + 2 * width), np.ones(width) / width, mode="valid")[:n]
    return np.asarray(raw / max(float(raw.std()), 1e-9), dtype=np.float64)


def ride(plan: RoadPlan) -> tuple[Array, Array, Array, Array]:
    """True position east and north m, elevation m, at every second; a rider who brakes at 2.2 m/s²."""
    rng = np.random.default_rng(plan.seed)
    n = int(plan.length_m)
    gradient = np.clip(plan.gradient + plan.swing * _swings(rng, n, 160), -0.03, 0.24)
    heading = np.cumsum(np.clip(_swings(rng, n, 60) * 0.012, -0.06, 0.06))
    cap = np.full(n, plan.speed_ms) * np.clip(1 + 0.08 * _swings(rng, n, 120), 0.7, 1.25)
    corners = np.arange(plan.corner_every_m, n, plan.corner_every_m) + rng.uniform(
        -40, 40, len(np.arange(plan.corner_every_m, n, plan.corner_every_m))
    )
    for corner in corners.astype(int):
        cap[max(0, corner - 4) : corner + 4] = plan.corner_ms * rng.uniform(0.85, 1.2)
    stops = (
        np.arange(plan.stop_every_m, n - 50, plan.stop_every_m).astype(int)
        if plan.stop_every_m
        else np.array([], dtype=int)
    )
    cap[stops] = 0.3
    cap[-1] = 0.3
    v = cap.copy()
    for k in range(n - 2, -1, -1):
        v[k] = min(v[k], np.sqrt(v[k + 1] ** 2 + 2 * 2.2))
    v[0] = 0.8
    for k in range(1, n):
        v[k] = min(v[k], np.sqrt(v[k - 1] ** 2 + 2 * 0.9))
    time = np.concatenate([[0.0], np.cumsum(2 / np.maximum(v[1:] + v[:-1], 0.3))])
    for stop in stops:
        time[stop + 1 :] += plan.stop_s
    seconds = np.arange(0.0, time[-1] + 1.0)
    where = np.interp(seconds, time, np.arange(n))
    elevation = plan.top_m - np.concatenate([[0.0], np.cumsum(np.sin(np.arctan(gradient)))])[:n]
    east, north = np.cumsum(np.sin(heading)), np.cumsum(np.cos(heading))
    path = np.arange(n)
    return np.interp(where, path, east), np.interp(where, path, north), np.interp(where, path, elevation), seconds


def _drift(rng: np.random.Generator, n: int, sigma: float, memory_s: float) -> Array:
    """Correlated noise (first-order Markov), as a receiver's position wanders."""
    keep = np.exp(-1 / memory_s)
    out = np.zeros(n)
    for k in range(1, n):
        out[k] = keep * out[k - 1] + rng.normal() * sigma * np.sqrt(1 - keep**2)
    return out


def gpx(plan: RoadPlan) -> str:
    """The ride as a recorder would write it: position drifting by 2.5 m, height by 1.5 m in steps of 0.2 m."""
    east, north, elevation, seconds = ride(plan)
    rng = np.random.default_rng(plan.seed + 100)
    n = len(seconds)
    east, north = east + _drift(rng, n, 2.5, 90), north + _drift(rng, n, 2.5, 90)
    elevation = np.round((elevation + _drift(rng, n, 1.5, 60)) / 0.2) * 0.2
    lat0, lon0 = -46.5, -21.0  # open ocean: no real place
    lat = lat0 + np.degrees(north / 6371008.8)
    lon = lon0 + np.degrees(east / 6371008.8) / np.cos(np.radians(lat0))
    start = datetime(2026, 5, 17, 9, 30, tzinfo=UTC)
    points = "\n".join(
        f'<trkpt lat="{a:.6f}" lon="{o:.6f}"><ele>{z:.1f}</ele>'
        f"<time>{(start + timedelta(seconds=float(s))).strftime('%Y-%m-%dT%H:%M:%SZ')}</time></trkpt>"
        for a, o, z, s in zip(lat, lon, elevation, seconds, strict=True)
    )
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        '<gpx version="1.1" creator="Clavis demo world" xmlns="http://www.topografix.com/GPX/1/1">\n'
        f"<trk><name>{plan.name}</name><trkseg>\n{points}\n</trkseg></trk>\n</gpx>\n"
    )


def write_all() -> None:
    RIDES.mkdir(exist_ok=True)
    for key, plan in PLANS.items():
        (RIDES / f"{key}.gpx").write_text(gpx(plan), encoding="utf-8")


if __name__ == "__main__":
    write_all()
