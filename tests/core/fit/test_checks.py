"""What clears what: each row at its limits, and unknown where nothing was read."""

import pytest

from clavis.core.fit.checks import CHECKS
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.mounts import BoltDirection, End, SpacingTool
from clavis.core.verdicts import Verdict
from tests.bikes import (
    CATALOGUE,
    adapter,
    cable_caliper,
    caliper,
    fit_on,
    lever,
    own_mounting,
    pad,
    plain,
    rotor,
    said_by,
)

OLD = caliper(id="c-old", inboard_mm=14)
PLATE = adapter(id="a-plate", adapter_kind="flat_front_plate", fits=[("front", 160)], pitch_mm=70, hole_mm=5.5,
                flange_mm=3)  # fmt: skip
HERE = Catalogue.of([*CATALOGUE.every(), OLD, PLATE])
FLAT = {
    "mount_spacing_mm": 70.0,
    "bolt_direction": BoltDirection.INTO_LEG,
    "native_rotor_mm": 140.0,
    "adapter_id": None,
}
AT_203 = {"rotor_id": "q-disc-180", "adapter_id": "a-pp-160-180"}


def said(key: str, wheel=None, r=None, c=None, p=None, lv=None, end=End.FRONT):
    """One row of the fit of our own bike: caliper OLD on it, rotor 180 on a wedge."""
    on = own_mounting(end, HERE, **{"caliper_id": "c-old", **(wheel or {})})
    return said_by(key, on, rotor=rotor(**(r or {})), caliper=c or OLD, lever=lv, pad=p or pad())


HOLDS, TIGHT, FAILS, UNKNOWN = Verdict.HOLDS, Verdict.TIGHT, Verdict.FAILS, Verdict.UNKNOWN
# key, change of the wheel, of the rotor, caliper, verdict
CASES = [
    ("edge", {}, {}, None, HOLDS),
    ("inner", {}, {"track_mm": 14.0}, None, HOLDS),
    ("inner", {}, {"track_mm": 13.6}, None, TIGHT),
    ("inner", {}, {"track_mm": 13.0}, None, FAILS),
    ("arc", {}, {}, None, HOLDS),
    ("leg", {}, {}, None, HOLDS),
    ("leg", {"edge_radius_mm": 92.0}, {}, None, HOLDS),
    ("leg", {"edge_radius_mm": 91.5}, {}, None, TIGHT),
    ("leg", {"edge_radius_mm": 90.9}, {}, None, FAILS),
    ("leg", {"max_rotor_mm": None}, {"diameter_mm": 203}, None, UNKNOWN),
    ("leg", {"max_rotor_mm": None}, {"diameter_mm": 180}, None, HOLDS),
    ("slot", {}, {"thickness_mm": 2.0}, None, HOLDS),
    ("slot", {}, {"thickness_mm": 2.1, "minimum_mm": 1.9}, None, FAILS),
    ("slot", {"slot_read_mm": 1.7}, {}, None, FAILS),
    ("slot", {"slot_read_mm": 1.7}, {}, caliper(id="c-new"), HOLDS),
    ("rivets", {}, {"rivet_out_mm": 1.5}, None, HOLDS),
    ("rivets", {}, {"rivet_out_mm": 1.8}, None, TIGHT),
    ("rivets", {}, {"rivet_out_mm": 2.1}, None, FAILS),
    ("spokes", {"spoke_gap_mm": 2.0}, {}, None, HOLDS),
    ("spokes", {"spoke_gap_mm": 1.5}, {}, None, TIGHT),
    ("spokes", {"spoke_gap_mm": 0.9}, {}, None, FAILS),
    ("spokes", {"spoke_gap_mm": 4.0}, {}, caliper(id="c-new", inboard_mm=16), HOLDS),
    ("spokes", {"spoke_gap_mm": 4.0}, {}, caliper(id="c-new", inboard_mm=17.5), FAILS),
    ("spokes", {"spoke_gap_mm": 4.0}, {}, caliper(id="c-new"), UNKNOWN),
    ("spokes", {}, {"diameter_mm": 203}, None, HOLDS),
    ("spokes", {}, {"diameter_mm": 160}, None, UNKNOWN),
    ("hose", {}, {}, None, HOLDS),
    ("hose", {}, {"diameter_mm": 203}, None, UNKNOWN),
    ("hose", {"adapter_id": None}, {"diameter_mm": 203}, None, UNKNOWN),
    ("hose", {"adapter_id": None, "hose_slack_mm": 12}, {"diameter_mm": 203}, None, HOLDS),
    ("hose", {"adapter_id": None, "hose_slack_mm": 4}, {"diameter_mm": 203}, None, TIGHT),
    ("hose", {"hose_slack_mm": 40}, {"diameter_mm": 203}, None, HOLDS),
    ("hose", {"hose_slack_mm": 25}, {"diameter_mm": 203}, None, TIGHT),
    ("hose", {"hose_slack_mm": 12}, {"diameter_mm": 203}, None, HOLDS),  # a longer one is ordered
    ("smallest", {}, {"diameter_mm": 160}, None, HOLDS),
    ("smallest", {}, {"diameter_mm": 140}, None, FAILS),
    ("smallest", {"native_rotor_mm": None, "adapter_id": None}, {}, None, UNKNOWN),
    ("largest", {"max_rotor_mm": 180.0}, {}, None, HOLDS),
    ("largest", {"max_rotor_mm": 160.0}, {}, None, FAILS),
    ("largest", {"max_rotor_mm": None}, {}, None, UNKNOWN),
    ("holes", {"upper_hole_mm": 20, "lower_hole_mm": 110}, {}, None, UNKNOWN),
    ("holes", {"upper_hole_mm": 74.1, "lower_hole_mm": 80.8}, {}, None, HOLDS),
    ("holes", {"upper_hole_mm": 74.9, "lower_hole_mm": 81.4}, {}, None, TIGHT),
]  # fmt: skip


@pytest.mark.parametrize(("key", "wheel", "rotor", "part", "verdict"), CASES)
def test_each_row_at_its_limits(key, wheel, rotor, part, verdict) -> None:
    found = said(key, wheel, rotor, part)
    assert found is not None
    assert found.verdict is verdict, found.words


def test_every_row_that_is_drawn_has_a_case() -> None:
    assert {row.key for row in CHECKS if row.drawn} == {case[0] for case in CASES} | {"pitch"}


def test_a_mislabelled_height_and_a_turned_wedge_fail_where_they_are() -> None:
    thick = CATALOGUE.adapters["a-pp-160-180"].model_copy(update={"upper_mm": 11.6, "lower_mm": 11.6})
    shelf = Catalogue.of([p for p in HERE.every() if p.id != thick.id] + [thick])
    found = fit_on(own_mounting(catalogue=shelf), rotor=rotor(), caliper=OLD)
    rows = {c.key: c for c in found.checks}
    assert rows["edge"].verdict is FAILS
    assert "over the rotor's edge" in rows["edge"].words
    steep = thick.model_copy(update={"upper_mm": 13.0, "lower_mm": 7.0})
    shelf = Catalogue.of([p for p in HERE.every() if p.id != thick.id] + [steep])
    rows = {c.key: c for c in fit_on(own_mounting(catalogue=shelf), rotor=rotor(), caliper=OLD).checks}
    assert rows["arc"].verdict is FAILS


@pytest.mark.parametrize(("spacing", "verdict"), [(70.0, HOLDS), (70.45, TIGHT), (70.6, FAILS)])
def test_the_pitch_of_a_flat_mount_fork(spacing, verdict) -> None:
    flat = caliper(mount="flat", tab_mm=6)
    wheel = {**FLAT, "mount_spacing_mm": spacing, "spacing_tool": SpacingTool.GAUGE}
    shelf = Catalogue.of([p for p in HERE.every() if not p.id.startswith("a-ff")])
    on = own_mounting(catalogue=shelf, **{**wheel, "adapter_id": "a-plate", "caliper_id": None, "rotor_id": None})
    found = fit_on(on, rotor=rotor(diameter_mm=160), caliper=flat, stays=True)
    assert next(c for c in found.checks if c.key == "pitch").verdict is verdict


def test_a_new_hose_is_cut_to_length_and_a_cable_is_called_housing() -> None:
    new = said("hose", {}, {"diameter_mm": 203}, caliper(id="c-dot", fluid="dot", fitting="M8B"),
               lv=lever(id="l-dot", fluid="dot", fitting="M8B"))  # fmt: skip
    assert new is not None
    assert new.verdict is HOLDS
    assert "cut to length" in new.words
    cable = said("hose", {"caliper_id": "b-cable-one", "hose_slack_mm": 1}, {"diameter_mm": 203}, cable_caliper())
    assert cable is not None
    assert "a longer housing" in cable.words


def test_what_only_the_trial_fit_can_tell_says_so_and_names_its_field() -> None:
    spokes, largest = said("spokes", {}, {"diameter_mm": 160}), said("largest", {"max_rotor_mm": None})
    assert (spokes.at_trial, spokes.ask) == (True, "spoke_gap_mm")
    assert (largest.at_trial, largest.ask) == (False, "max_rotor_mm")
    assert said("edge").ask == ""


@pytest.mark.parametrize("case", CASES, ids=lambda c: f"{c[0]}-{c[4]}")
def test_no_row_ever_says_to_take_metal_away(case) -> None:
    key, wheel, rotor, part, _verdict = case
    words = plain(said(key, wheel, rotor, part).words)
    assert not any(word in words for word in ("file", "grind", "shim", "stack", "drill"))
