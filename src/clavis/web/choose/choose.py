"""Station 4: its page, the sheet, and temperatures over the ride; the other views fill themselves in."""

import json
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

import numpy as np
from fastapi import HTTPException
from starlette.responses import Response

from clavis.core.evaluation.evaluate import SetupName, SetupResult, WheelResult
from clavis.core.evaluation.open_points import verdict_of
from clavis.core.evaluation.regeneration import spared_words
from clavis.core.evaluation.sampling import Band, Certainty, Drawn, certainty, draws_of
from clavis.core.evaluation.sheet import (
    AXIS_AT,
    SHOWN,
    Cell,
    limit_words,
    longer_words,
    sheet_rows,
    shown_margins,
    witness_words,
)
from clavis.core.evaluation.view_conditions import Wetness, is_wet
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.models import Adapter, Axis
from clavis.core.parts.mounts import End
from clavis.core.physics.forces import Pull
from clavis.core.physics.heat import Node
from clavis.core.sentences import joined, say
from clavis.core.units import KMH_PER_MS, System, convert
from clavis.core.units import sign as unit_sign
from clavis.core.verdicts import Verdict
from clavis.core.working import Figure
from clavis.web.choose.bars import HeatBar, hand_bar, heat_bar
from clavis.web.choose.views import View, setup_addresses, setup_shown, tabs, view_of
from clavis.web.shell import routes
from clavis.web.shell.bench import Bench
from clavis.web.shell.rooms import Station
from clavis.web.shell.routes import APPRENTICE, LONG
from clavis.web.shell.stations import gathers
from clavis.web.shell.views import address
from clavis.web.shell.visit import VisitDep

router = routes.router()

CHART_POINTS = 160
LIMIT_FIGURES = {"fluid": "boils", "rotor": "fade_onset"}


@dataclass(frozen=True)
class FigureShown:
    """A figure with its change against the fitted setup, and its bar where it is a temperature."""

    figure: Figure
    change: float | None
    bar: HeatBar | None = None


def _shown(figures: tuple[Figure, ...], before: dict[str, Figure]) -> list[FigureShown]:
    by_key = {f.key: f for f in figures}
    out = []
    for figure in figures:
        old = before.get(figure.key)
        change = None
        if old is not None and old.value is not None and figure.value is not None and old.unit == figure.unit:
            change = figure.value - old.value
        if figure.unit == "c" and figure.value is not None and figure.key in ("fluid", "caliper_c", "pads", "rotor"):
            limit = by_key.get(LIMIT_FIGURES.get(figure.key, ""))
            out.append(FigureShown(figure, change, heat_bar(figure.value, limit.value if limit else None)))
        else:
            out.append(FigureShown(figure, change))
    return out


def _cell(cell: Cell, old: Cell | None) -> dict[str, Any]:
    before = {f.key: f for f in (*old.force, *old.heat)} if old else {}
    return {"cell": cell, "force": _shown(cell.force, before), "heat": _shown(cell.heat, before)}


def _rows(b: Bench, setup: SetupResult, against: SetupResult | None) -> list[dict[str, Any]]:
    situation = b.evaluation.situation
    if situation is None:
        return []
    old = sheet_rows(against, situation) if against else ()
    return [
        {
            "link": row.link,
            "cells": {end: _cell(row.cells[end], old[k].cells[end] if old else None) for end in End},
            "part": AXIS_AT.get(row.link),
        }
        for k, row in enumerate(sheet_rows(setup, situation))
    ]


def _course(w: WheelResult | None, old: WheelResult | None, ambient_c: float, system: System) -> str:
    """Rotor and fluid over distance for the chart, this setup and the fitted one, in the reader's units, as JSON
    text."""
    if w is None:
        return ""
    index = np.unique(np.linspace(0, len(w.heat.distance_m) - 1, CHART_POINTS).astype(int))
    way = w.heat.distance_m[index]

    def degrees(value: float | None) -> float | None:
        return None if value is None else round(convert(value, "c", system), 1)

    def line(result: WheelResult | None, node: Node) -> list[float | None] | None:
        if result is None or (node is Node.FLUID and result.heat.fluid_peak_c is None):
            return None
        values = np.interp(way, result.heat.distance_m, result.heat.course_c[:, node])
        return [degrees(float(value)) for value in values]

    return json.dumps(
        {
            "km": [round(convert(float(m) / 1000, "km", system), 3) for m in way],
            "rotor": line(w, Node.ROTOR),
            "fluid": line(w, Node.FLUID),
            "old_rotor": line(old, Node.ROTOR),
            "old_fluid": line(old, Node.FLUID),
            "fade": degrees(COMPOUNDS[w.setup.pad.compound].fade_c),
            "boils": degrees(w.boiling.boiling_c),
            "ambient": degrees(ambient_c),
            "units": {kind: unit_sign(kind, system) for kind in ("km", "c")},
        }
    )


@dataclass(frozen=True)
class Look:
    """One way to look at the sheet: its word, the address that looks so, and whether the page does."""

    word: str
    address: str
    current: bool


def looks(b: Bench) -> tuple[tuple[str, tuple[Look, ...]], ...]:
    """Every way to look, in groups. What the job says itself needs no word in the address."""

    def group(title: str, name: str, words: Sequence[tuple[str, str]], own: str) -> tuple[str, tuple[Look, ...]]:
        now = b.asked.get(name, own)
        return title, tuple(
            Look(word, address(b.asked, name, "" if value == own else value), value == now) for value, word in words
        )

    own_weather = Wetness.WET if is_wet(b.job) else Wetness.DRY
    groups = [
        group("in the", "weather", [(w.value, w.value) for w in Wetness], own_weather.value),
        group("pads", "pull", [("cold", "cold"), ("warm", "warm"), ("hot", "hottest")], Pull.WARM.value),
        group("parts", "age", [("", "as they are"), ("new", "new"), ("bedded", "bedded in"), ("worn", "worn")], ""),
    ]
    if b.job.bike.regen_share_pct and b.job.bike.regen_limit_w is not None:
        groups.append(group("regeneration", "regeneration", [("", "not counted"), ("on", "counted")], ""))
    return tuple(groups)


@dataclass(frozen=True)
class PartPlace:
    """A place on the sheet where a part can be swapped: what is in it, and whether it is the fitted one."""

    name: str
    short: str
    fitted: bool


@dataclass(frozen=True)
class AdapterPlace:
    """What stands between mount and caliper, and all that could: the first is what is taken, the others serve as well.
    None stands there where ``parts`` is empty; ``by_hand`` where somebody chose it."""

    parts: tuple[Adapter, ...]
    by_hand: bool


def place_of_adapter(b: Bench, end: End, name: SetupName) -> AdapterPlace | None:
    """None where nothing can be told, or nothing that is possible stands there."""
    case = b.evaluation.cases[name][end].fit_case
    chain = case.chain
    if chain is None or not chain.possible or case.plate is not None:
        return None
    return AdapterPlace((*chain.parts[:1], *chain.others), case.wanted is not None)


def place_of_part(b: Bench, end: End, axis: Axis, name: SetupName) -> PartPlace:
    case = b.evaluation.cases[name][end]
    part = case.brake.of(axis)
    if part is None:
        return PartPlace("", "", False)
    return PartPlace(part.name, part.model, part == case.wheel.on_it.of(axis))


def _foot(setup: SetupResult | None) -> dict[str, Any]:
    """Stopping distances and what they start from."""
    if setup is None or setup.demand is None:
        return {}
    demand = setup.demand
    return {
        "top_kmh": demand.top_speed.value * KMH_PER_MS,
        "steepest_pct": demand.steep.gradient * 100,
        "flat": setup.stop_flat,
        "steep": setup.stop_steep,
        "known": len(setup.wheels) == len(End),
    }


@gathers(Station.CHOOSE)
def context(b: Bench) -> dict[str, Any]:
    return gathered(b, "")


def gathered(b: Bench, show: str) -> dict[str, Any]:
    """What every view shows, and the sheet where it is the one that is open."""
    view, proposed = view_of(b), b.evaluation.proposed
    shared = {"view": view, "tabs": tabs(b, view), "weighed": proposed is not None and proposed.load is not None}
    return shared | (sheet(b, show) if view is View.SHEET or not shared["weighed"] else {})


@router.get("/jobs/{job_id}/choose", dependencies=APPRENTICE)
def choose_page(v: VisitDep, show: str = "", lane: str = "") -> Response:
    """Choose in one of its views; ``show`` fitted puts the fitted setup on the sheet although another is proposed."""
    return v.station(Station.CHOOSE, lane, gathered(v.bench, show))


def sheet(b: Bench, show: str) -> dict[str, Any]:
    """The sheet of the proposed setup against the fitted one, or of the fitted one alone, as the page looks."""
    own, b = b, b.seen
    fitted, proposed = b.evaluation.fitted, b.evaluation.proposed
    name = setup_shown(own, show)
    setup = proposed if name is SetupName.PROPOSED else fitted
    against = fitted if name is SetupName.PROPOSED else None
    situation = b.evaluation.situation
    wheels = setup.wheels if setup else {}
    old = against.wheels if against else {}
    ambient = situation.weather.ambient_c if situation else 20.0
    return {
        "name": name,
        "setup": setup,
        "against": against,
        "which": setup_addresses(own) | {"as_it_is": f"?show={show}" if show else "?"},
        "rows": _rows(b, setup, against) if setup and setup.load else [],
        "hands": {end: hand_bar(w.forces, situation.hand) for end, w in wheels.items()} if situation else {},
        "spared": spared_words(setup, situation, b.job.bike) if setup and situation else "",
        "HEATS": {link for link, (_, heat) in SHOWN.items() if heat},
        "limits": {end: limit_words(setup, end) if setup else "" for end in End},
        "verdicts": {end: verdict_of(setup.points_of(end)) if setup else Verdict.UNKNOWN for end in End},
        "witness": {end: witness_words(w) for end, w in wheels.items()},
        "courses": {end: _course(wheels.get(end), old.get(end), ambient, b.reading.system) for end in End},
        "lacks": setup.lacks if setup else b.evaluation.lacks,
        "foot": _foot(setup),
        "longer": longer_words(setup, against) if setup and against else "",
        "margins": {end: shown_margins(w) for end, w in wheels.items()},
        "looks": looks(own),
        "look_words": own.view.words,
        "adapters": {end: place_of_adapter(own, end, name) for end in End},
        "places": {end: {axis: place_of_part(own, end, axis, name) for axis in Axis} for end in End},
    }


SURE_FIGURES: tuple[tuple[str, str, str, float], ...] = (
    ("rotor_peak_c", "rotor", "c", 1.0),
    ("fluid_peak_c", "fluid", "c", 1.0),
    ("reserve_ratio", "force margin", "pct", 100.0),
)


class SurePart(StrEnum):
    """The chance stands in the lane's head, the bands under its chart; each place asks for its own."""

    CHANCE = "chance"
    BANDS = "bands"


@router.get("/jobs/{job_id}/sure/{name}/{end}/{part}", dependencies=(*APPRENTICE, LONG))
def sure(v: VisitDep, name: SetupName, end: End, part: SurePart) -> Response:
    """Bands or chances of one wheel: the second update after the sheet itself.

    An answer goes only into the place that asked, so one that comes late for an older sheet is dropped with it.
    """
    b = v.bench.seen
    situation, setup = b.evaluation.situation, b.evaluation.setups.get(name)
    wheel = setup.wheels.get(end) if setup else None
    load, demand = (setup.load, setup.demand) if setup else (None, None)
    if situation is None or load is None or demand is None or wheel is None:
        raise HTTPException(404, "This wheel cannot be judged yet.")

    def draw() -> Certainty:
        b.pause()()
        draws = draws_of(situation.parameters, b.job.seed, narrowed=situation.narrowed)
        return certainty(wheel, Drawn(b.job, situation, load, demand, draws))

    found = b.kept("sure", draw, name, end, b.view)
    bands = [
        (words, kind, *(Band(*(scale * v for v in (band.low, band.middle, band.high))) for band in both))
        for figure, words, kind, scale in SURE_FIGURES
        if figure in found.bands
        for both in [(found.own_bands[figure], found.bands[figure])]
    ]
    doubtful = [
        say("{margin} holds in {of_cases_pct:.0}", margin=m.label, of_cases_pct=100 * chance)
        for m in wheel.margins
        if 0 < (chance := found.margin_chances[m.key][Verdict.HOLDS]) < 1
    ]
    return v.piece(
        "choose/sure.html", part=part, sure=found, bands=bands, margins=joined(doubtful) or "no margin wavers"
    )
