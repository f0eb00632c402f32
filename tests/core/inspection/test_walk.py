"""What the readings say at each place of the walk."""

import pytest

from clavis.core.evaluation.conditions import CONDITIONS
from clavis.core.evaluation.evaluate import SetupName, evaluate
from clavis.core.fit.checks import CHECKS
from clavis.core.inspection.findings import findings_of
from clavis.core.inspection.walk import entered, place_states, readings_at
from clavis.core.job.places import FIELDS_AT, Place, place_of
from clavis.core.job.wheel import Wheel
from clavis.core.parts.hubs import HUBS, hub_row
from clavis.core.parts.models import Axle, HubInterface
from clavis.core.parts.mounts import End
from clavis.core.verdicts import Verdict
from clavis.demo.world import gravel
from tests.bikes import CATALOGUE, own_job, plain, six_points, with_value


def said(place: Place, change: dict | None = None, job=None):
    job = job or own_job()
    for field, value in (change or {}).items():
        job = with_value(job, f"front.{field}", list(value) if isinstance(value, tuple) else value)
    found = evaluate(job, CATALOGUE, {})
    result = found.fitted.wheels.get(End.FRONT) if found.fitted else None
    return {s.label: s for s in readings_at(place, found.cases[SetupName.FITTED][End.FRONT], result)}


def test_every_field_of_a_wheel_stands_at_one_place() -> None:
    placed = [field for fields in FIELDS_AT.values() for field in fields]
    acts = ("since", "read_by", "trial")  # what came new, and what a gauge sent: nobody's entries
    assert sorted([*placed, *acts]) == sorted(Wheel.model_fields)
    assert place_of("front.rotor_colour") is Place.ROTOR
    assert place_of("rear.fluid_age_y") is Place.LEVER


def test_every_finding_stands_at_a_place_that_exists() -> None:
    assert {row.place for row in (*CONDITIONS, *CHECKS)} <= set(FIELDS_AT)


@pytest.mark.parametrize(
    ("field", "value", "counts"),
    [
        ("hub", "splined", True), ("hub", None, False), ("pistons", "not_checked", False), ("pistons", "even", True),
        ("water_seen", False, False), ("rotor_points_mm", [], False), ("pad_taper_mm", 0.0, True),
    ],
)  # fmt: skip
def test_what_counts_as_entered(field, value, counts) -> None:
    assert entered(with_value(own_job(), f"front.{field}", value).front, field) is counts


def test_the_walk_shows_the_gravest_finding_of_each_place() -> None:
    job = with_value(with_value(own_job(), "rear.rotor_cracks", "yes"), "front.rotor_face", "dirty")
    findings = findings_of(evaluate(job, CATALOGUE, {}))
    states = {s.place: s for s in place_states((job.front, job.rear), findings)}
    assert states[Place.ROTOR].worst is not None
    assert states[Place.ROTOR].worst.key == "rear:cracks"
    assert states[Place.HUB].worst is None
    assert (states[Place.HUB].entered, states[Place.HUB].asked) == (4, 12)


@pytest.mark.parametrize(
    ("change", "verdict", "words"),
    [
        ({}, Verdict.HOLDS, "1.71 mm, minimum 1.50"),
        ({"rotor_points_mm": six_points(1.55)}, Verdict.TIGHT, "1.55"),
        ({"rotor_points_mm": six_points(1.49)}, Verdict.FAILS, "worn out"),
        ({"rotor_points_mm": (1.7,) * 5}, Verdict.UNKNOWN, "1 more point"),
        ({"rotor_points_mm": ()}, Verdict.UNKNOWN, "read 6 points"),
        ({"rotor_instrument": "vernier"}, Verdict.UNKNOWN, "cannot pass"),
        (
            {"rotor_id": "q-disc-180", "rotor_points_mm": (1.4,), "rotor_instrument": "vernier"},
            Verdict.FAILS,
            "worn out",
        ),
    ],
)
def test_the_verdict_on_a_rotor_follows_each_reading(change, verdict, words) -> None:
    told = said(Place.ROTOR, change)["thinnest"]
    assert told.verdict is verdict
    assert words in plain(told.words)


@pytest.mark.parametrize(
    ("points", "verdict"), [((1.7, 1.73), Verdict.HOLDS), ((1.7, 1.75), Verdict.TIGHT), ((1.7, 1.76), Verdict.FAILS)]
)
def test_variation_is_judged(points, verdict) -> None:
    assert said(Place.ROTOR, {"rotor_points_mm": points})["variation"].verdict is verdict


@pytest.mark.parametrize(
    ("colour", "words"),
    [("blue", "hotter than this ride makes it"), ("bright", "bright;"), ("not_checked", "not looked at")],
)
def test_the_colour_stands_beside_the_models_own_figure(colour, words) -> None:
    told = plain(said(Place.ROTOR, {"rotor_colour": colour})["colour"].words)
    assert words in told
    assert "this ride: 2" in told or "this ride: 1" in told


def test_a_bright_rotor_on_a_ride_that_would_colour_it_is_odd() -> None:
    job = with_value(with_value(own_job(), "rider.mass_kg", 180), "front.rotor_colour", "bright")
    steep = with_value(job, "rides.descent.sections.1.length_m", 6000)
    assert "colours late" in plain(said(Place.ROTOR, {}, steep)["colour"].words)


def test_a_flat_mount_fork_is_judged_against_every_plate() -> None:
    told = said(Place.MOUNT, {}, gravel({}))
    assert plain(told["mount"].words) == "flat mount, fork"
    assert told["Quernmark F140/160"].verdict is Verdict.HOLDS
    assert "69.4 mm to 70.6 mm" in plain(told["Quernmark F140/160"].words)
    taped = said(Place.MOUNT, {"spacing_tool": "tape"}, gravel({}))
    assert taped["Quernmark F140/160"].verdict is Verdict.UNKNOWN


def test_limits_are_known_unknown_or_refused() -> None:
    assert said(Place.MOUNT)["largest rotor"].verdict is Verdict.HOLDS
    assert said(Place.MOUNT, {"max_rotor_mm": None})["largest rotor"].verdict is Verdict.UNKNOWN
    refused = said(Place.MOUNT, {"max_rotor_mm": None, "limit_source": "refused"})["largest rotor"]
    assert plain(refused.words).startswith("160")
    assert said(Place.MOUNT, {"max_rotor_mm": 140})["largest rotor"].verdict is Verdict.FAILS


@pytest.mark.parametrize(
    ("hub", "axle", "tool"),
    [
        (HubInterface.SPLINED, Axle.QUICK_RELEASE, "cassette tool"),
        (HubInterface.SPLINED, Axle.MM12, "cassette tool"),
        (HubInterface.SPLINED, Axle.MM15, "16-notch bottom-bracket tool"),
        (HubInterface.SPLINED, Axle.MM20, "16-notch bottom-bracket tool"),
        (HubInterface.SIX_BOLT, Axle.MM20, "T25 star key"),
    ],
)
def test_the_right_lockring_and_tool(hub, axle, tool) -> None:
    row = hub_row(hub, axle)
    assert row is not None
    assert row.tool == tool
    assert said(Place.HUB, {"hub": hub.value, "axle": axle.value})["tool"].words == tool


def test_every_hub_and_axle_has_one_row_and_half_an_entry_none() -> None:
    assert all(sum(row.hub is hub and axle in row.axles for row in HUBS) == 1 for hub in HubInterface for axle in Axle)
    assert hub_row(HubInterface.SPLINED, None) is None
    assert hub_row(None, Axle.MM12) is None


def test_lever_travel_uses_the_reach_as_read() -> None:
    assert "of 50 mm" in plain(said(Place.LEVER)["travel"].words)
    short = said(Place.LEVER, {"lever_reach_mm": 12 + 8})["travel"]
    assert "of 20 mm" in plain(short.words)
    assert "as read" in plain(short.words)


def test_nothing_is_read_on_a_rim_brake() -> None:
    assert "no disc brake" in said(Place.ROTOR, {"fitted_brake": "rim"})
    assert "mount" in said(Place.MOUNT, {"fitted_brake": "rim"})
