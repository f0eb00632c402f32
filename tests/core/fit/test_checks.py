"""What clears what: each row at its limits, and unknown where nothing was read."""

from math import atan2, cos, radians, sin

import pytest

from clavis.core.fit.checks import CHECKS, results_of
from clavis.core.fit.mounting import FitCase
from clavis.core.job.wheel import TrialFit
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.models import AdapterFit
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
RIVETED = caliper(rivet_room_mm=2.0, body_in_mm=18)
CASES = [
    ("edge", {}, {}, None, HOLDS),
    ("inner", {}, {"track_mm": 14.0}, None, HOLDS),
    ("inner", {}, {"track_mm": 13.6}, None, TIGHT),
    ("inner", {}, {"track_mm": 13.0}, None, FAILS),
    ("arc", {"upper_hole_mm": 74.1, "lower_hole_mm": 80.8}, {}, None, HOLDS),
    ("arc", {}, {}, None, UNKNOWN),  # a wedge on holes that nobody measured
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
    # position 180, body 18 in from the pads' edge: its lowest metal at 72 mm from the axle; room of 2 beside the rotor
    ("rivets", {}, {"rivet_out_mm": 1.5, "rivet_radius_mm": 73}, RIVETED, HOLDS),
    ("rivets", {}, {"rivet_out_mm": 1.8, "rivet_radius_mm": 73}, RIVETED, TIGHT),
    ("rivets", {}, {"rivet_out_mm": 2.1, "rivet_radius_mm": 73}, RIVETED, FAILS),
    ("rivets", {}, {"rivet_out_mm": 2.1, "rivet_radius_mm": 70.9}, RIVETED, HOLDS),  # they pass 1 mm inside it
    ("rivets", {}, {"rivet_out_mm": 2.1, "rivet_radius_mm": 71.1}, RIVETED, FAILS),
    ("rivets", {}, {"rivet_out_mm": 2.1}, RIVETED, UNKNOWN),  # where the rivets are is not stated
    ("rivets", {}, {"rivet_out_mm": 2.1, "rivet_radius_mm": 71}, caliper(), UNKNOWN),  # nor where the body ends
    ("rivets", {}, {"rivet_out_mm": 1.5}, RIVETED, HOLDS),  # room beside them wherever they are
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
    ("largest", {"max_rotor_mm": None}, {"diameter_mm": 160}, None, HOLDS),  # the mount's native size
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


@pytest.mark.parametrize(
    ("upper_mm", "lower_mm", "off_mm", "verdict"),
    [(9.6, 10.4, 0.001, HOLDS), (10.4, 9.6, 0.226, HOLDS), (13.0, 7.0, 0.952, FAILS)],
)
def test_a_wedge_is_judged_from_the_measured_holes_and_told_by_the_trial_fit_where_nobody_measured(
    upper_mm, lower_mm, off_mm, verdict
) -> None:
    """From a drawing: holes 74.2 apart, 74.1 and 80.8 from the axle. Their middle lies 67.71 out along the bolts and 6.99
    below the axle's line; the wedge lifts it by 10 and turns the caliper by atan((lower - upper)/74.2), and the pads'
    edge stands 12 further out. Of the standard wedge the pads look at the axle within 0.01 degrees."""
    wedge = CATALOGUE.adapters["a-pp-160-180"].model_copy(update={"upper_mm": upper_mm, "lower_mm": lower_mm})
    shelf = Catalogue.of([p for p in HERE.every() if p.id != wedge.id] + [wedge])
    turn = atan2(lower_mm - upper_mm, 74.2)
    x, y = 67.708 + 10 + 12 * cos(turn), -6.993 + 12 * sin(turn)
    by_hand = 12 * abs(sin(turn - radians(5) - atan2(y, x)))
    assert by_hand == pytest.approx(off_mm, abs=0.002)
    holes = {"upper_hole_mm": 74.1, "lower_hole_mm": 80.8}
    measured = own_mounting(catalogue=shelf, adapter_id=None, **holes)
    found = next(c for c in fit_on(measured, rotor=rotor(), caliper=OLD).checks if c.key == "arc")
    assert found.value_mm == pytest.approx(by_hand, abs=0.005)
    assert found.verdict is verdict
    unread = next(
        c for c in fit_on(own_mounting(catalogue=shelf, adapter_id=None), rotor=rotor(), caliper=OLD).checks
        if c.key == "arc"
    )  # fmt: skip
    assert (unread.verdict, unread.at_trial) == (UNKNOWN, True)
    assert "look along the pads at the trial fit" in plain(unread.words)


@pytest.mark.parametrize(("seen", "verdict"), [(True, HOLDS), (False, FAILS)])
def test_the_trial_fit_tells_of_the_parts_that_were_tried_and_of_no_others(seen, verdict) -> None:
    tried = {"rotor_id": "r", "caliper_id": OLD.id, "adapter_id": "a-pp-160-180", "arc": seen, "rivets": seen}
    on = own_mounting(adapter_id=None, trial=TrialFit(**tried))
    riveted = rotor(rivet_out_mm=1.9)
    rows = {c.key: c for c in fit_on(on, rotor=riveted, caliper=OLD).checks}
    assert (rows["arc"].verdict, rows["rivets"].verdict) == (verdict, verdict)
    other = {c.key: c for c in fit_on(on, rotor=rotor(id="r2", rivet_out_mm=1.9), caliper=OLD).checks}
    assert other["arc"].verdict is UNKNOWN


def test_rivets_never_run_under_the_pads() -> None:
    found = fit_on(own_mounting(), rotor=rotor(rivet_out_mm=0.4, rivet_radius_mm=77), caliper=RIVETED)
    under = next(c for c in found.checks if c.key == "rivets")
    assert under.verdict is FAILS
    assert "reach 1.0 mm under the pads" in plain(under.words)  # pads 14 high: their inner edge at 76


def test_an_adapter_is_chosen_by_hand_and_a_bad_one_takes_no_other_down() -> None:
    good = CATALOGUE.adapters["a-pp-160-180"]
    dear = good.model_copy(update={"id": "a-dear", "price": 40.0})
    shelf = Catalogue.of([*HERE.every(), dear])
    on = own_mounting(catalogue=shelf, adapter_id=None)
    plain_case = FitCase(on, on.wheel.on_it)
    assert plain_case.chain.adapter == good
    assert dear in plain_case.chain.others
    by_hand = FitCase(on, on.wheel.on_it, wanted="a-dear")
    assert by_hand.chain.adapter == dear
    wrong = FitCase(on, on.wheel.on_it, wanted="a-pp-180-203")
    assert not wrong.chain.possible
    assert "was chosen by hand: it does not carry 160 to 180" in plain(wrong.chain.reason)
    # too high for any stock bolt: the dearer one is taken, and the first is still offered
    bad = good.model_copy(update={"upper_mm": 59.0, "lower_mm": 59.0, "price": 1.0, "id": "a-bad"})
    shelf = Catalogue.of([p for p in HERE.every() if p.id != good.id] + [bad, dear])
    on = own_mounting(catalogue=shelf, adapter_id=None)
    chain = FitCase(on, on.wheel.on_it).chain
    assert (chain.adapter, bad in chain.others) == (dear, True)


@pytest.mark.parametrize(
    ("end", "adapter_id", "rotor_mm", "stands_mm"),
    [
        # the rear part at the front: it carries the caliper 20 mm of rotor outward, from the front's 160
        (End.FRONT, "a-is-r180", 180, 200),
        # the front's own part, for a rotor that it does not serve there
        (End.FRONT, "a-is-160-140", 180, 160),
        (End.REAR, "a-is-front", 160, 180),
    ],
)
def test_a_part_for_the_other_end_stands_by_its_own_sizes(end, adapter_id, rotor_mm, stands_mm) -> None:
    front = CATALOGUE.adapters["a-is-r180"].model_copy(
        update={"id": "a-is-front", "fits": (AdapterFit(end=End.FRONT, rotor_mm=200),)}
    )
    shelf = Catalogue.of([*HERE.every(), front])
    mount = {
        "mount_spacing_mm": 51.0,
        "bolt_direction": BoltDirection.CROSSWISE,
        "tab_mm": 5.0,
        "native_rotor_mm": None,
    }
    on = own_mounting(end, shelf, **mount, adapter_id=adapter_id, rotor_id=f"q-disc-{rotor_mm}")
    case = FitCase.of(on, on.wheel.on_it)
    rows = {c.key: c for c in results_of(case)}
    assert case.stand.position_mm == pytest.approx(stands_mm)
    assert rows["chain"].verdict is FAILS
    assert rows["edge"].verdict is FAILS


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
