"""Findings: every row speaks when it should, stays silent just short of it, and its conflicts show."""

import pytest

from clavis.core.evaluation.conditions import CONDITIONS, FindingKind
from clavis.core.evaluation.evaluate import SetupName, evaluate
from clavis.core.evaluation.open_points import Matter
from clavis.core.fit.checks import CHECKS
from clavis.core.fit.pitch import judge_pitch
from clavis.core.inspection.findings import Finding, findings_of, open_stops
from clavis.core.inspection.guide import guide_of
from clavis.core.job.document import Clearance, Job, Reply
from clavis.core.job.resolved_wheel import resolve_wheel
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.mounts import BoltDirection, End, SpacingTool
from clavis.core.verdicts import Severity, Verdict
from tests.bikes import CATALOGUE, adapter, caliper, fork, own_job, plain, rotor, six_points, with_value

FM_FORK = {"mount_spacing_mm": 70.4, "spacing_tool": "gauge", "bolt_direction": "into_leg", "adapter_id": "a-plate"}
PLATE = adapter(id="a-plate", adapter_kind="flat_front_plate", fits=[("front", 160)], pitch_mm=70, hole_mm=5.5)
ROTORS = (
    rotor(id="r-200", diameter_mm=200), rotor(id="r-thick", thickness_mm=2.3, minimum_mm=None),
    rotor(id="r-resin", resin_only=True), rotor(id="r-spline", interface="splined"), rotor(id="r-140", diameter_mm=140),
    rotor(id="r-rivet", rivet_out_mm=2.5, rivet_radius_mm=73), rotor(id="r-low", track_mm=13),
)  # fmt: skip
FORK = fork(id="k-160", native_mm=160, max_rotor_mm=180, assisted=False)
HERE = Catalogue.of([*CATALOGUE.every(), PLATE, *ROTORS, caliper(id="c-dot", fluid="dot"), FORK])

# key: what makes the row speak at the front; what stands just short of it
CASES: dict[str, tuple[dict, dict]] = {
    "rotor_minimum": ({"rotor_points_mm": six_points(1.49)}, {"rotor_points_mm": six_points(1.50)}),
    "cracks": ({"rotor_cracks": "yes"}, {"rotor_cracks": "no"}),
    "rotor_oil": ({"rotor_face": "oiled"}, {"rotor_face": "dirty"}),
    "oil": ({"pad_state": "oiled"}, {"pad_state": "good"}),
    "metal": ({"pad_state": "metal"}, {"pad_state": "good"}),
    "pads_gone": ({"pad_outer_mm": 0.0}, {"pad_outer_mm": 0.3}),
    "met_metal": ({"pad_inner_mm": 0.1}, {"pad_inner_mm": 0.3}),
    "one_sided": ({"pad_state": "metal", "pad_inner_mm": 0.0, "pad_outer_mm": 1.2}, {"pad_state": "metal"}),
    "leak": ({"line_state": "leaking"}, {"line_state": "worn"}),
    "wrong_fluid": ({"fluid_grade": "dot4"}, {"fluid_grade": "mineral"}),
    "line": ({"caliper_id": "c-dot"}, {}),
    "bite_at_bar": ({"lever_bite_mm": 9.9}, {"lever_bite_mm": 10}),
    "largest": ({"max_rotor_mm": 160}, {"max_rotor_mm": 180}),
    "pads_thin": ({"pad_outer_mm": 0.99}, {"pad_outer_mm": 1.0}),
    "variation_high": ({"rotor_points_mm": (1.7, 1.76)}, {"rotor_points_mm": (1.7, 1.75)}),
    "runout_high": ({"rotor_runout_mm": 0.31}, {"rotor_runout_mm": 0.3}),
    "edge": ({"rotor_id": "r-200"}, {"rotor_id": "r-200", "adapter_id": "a-pp-160-200"}),
    "pitch": ({**FM_FORK, "mount_spacing_mm": 70.5}, {**FM_FORK, "mount_spacing_mm": 70.49}),
    "shape": ({"pad_id": "u-k4-semi"}, {}),
    "compound": ({"rotor_id": "r-resin"}, {"rotor_id": "r-resin", "pad_id": "u-k2-resin"}),
    "slot": ({"slot_read_mm": 1.7}, {"slot_read_mm": 1.8}),
    "stuck": ({"pistons": "stuck"}, {"pistons": "lazy"}),
    "pull": ({"caliper_id": "b-cable-one", "lever_id": "b-pull-long"},
                   {"caliper_id": "b-cable-one", "lever_id": "b-pull-short"}),
    "line_worn": ({"line_state": "worn"}, {"line_state": "good"}),
    "pads_soon": ({"pad_inner_mm": 1.49}, {"pad_inner_mm": 1.5}),
    "glazed": ({"pad_state": "glazed"}, {"pad_state": "not_checked"}),
    "unbedded": ({"pad_state": "new"}, {"pad_state": "good"}),
    "other_film": ({"film_compound": "sintered"}, {"film_compound": None}),
    "taper": ({"pad_taper_mm": 0.6}, {"pad_taper_mm": 0.5}),
    "uneven": ({"pad_outer_mm": 2.3}, {"pad_outer_mm": 2.2}),
    "lazy": ({"pistons": "lazy"}, {"pistons": "even"}),
    "off_centre": ({"caliper_centred": "no"}, {"caliper_centred": "yes"}),
    "variation": ({"rotor_points_mm": (1.7, 1.74)}, {"rotor_points_mm": (1.7, 1.73)}),
    "runout": ({"rotor_runout_mm": 0.21}, {"rotor_runout_mm": 0.2}),
    "lip": ({"rotor_lip_mm": 0.2}, {"rotor_lip_mm": 0.1}),
    "grooves": ({"rotor_grooves": "yes"}, {"rotor_grooves": "not_checked"}),
    "dirt": ({"rotor_face": "dirty"}, {"rotor_face": "clean"}),
    "colour": ({"rotor_colour": "straw"}, {"rotor_colour": "bright"}),
    "hollow": ({"rotor_id": "q-disc-203", "rotor_points_mm": six_points(1.7)},
               {"rotor_id": "q-disc-203", "rotor_points_mm": six_points(1.71)}),
    "hub_play": ({"hub_play": "yes"}, {"hub_play": "no"}),
    "tyre_worn": ({"tyre_left": "worn"}, {"tyre_left": "half"}),
    "spongy": ({"lever_feel": "spongy"}, {"lever_feel": "firm"}),
    "long": ({"lever_feel": "long"}, {"lever_feel": "firm"}),
    "pumps_up": ({"lever_feel": "pumps_up"}, {"lever_feel": "firm"}),
    "bite_low": ({"lever_bite_mm": 19.9}, {"lever_bite_mm": 20}),
    "water": ({"water_seen": True}, {}),
    "old_fluid": ({"fluid_grade": "dot4", "fluid_age_y": 2.0}, {"fluid_grade": "dot4", "fluid_age_y": 1.9}),
    "mount": ({"bolt_direction": BoltDirection.CROSSWISE}, {"bolt_direction": None}),
    "presence": ({"mount_there": "missing"}, {"mount_there": "there"}),
    "native": ({"native_rotor_mm": 180}, {"native_rotor_mm": 160}),
    "carrying": ({"carrying_id": "k-160", "max_rotor_mm": 203}, {"carrying_id": "k-160", "max_rotor_mm": 180}),
    "assisted": ({"bike.assisted": True, "carrying_id": "k-160"}, {"bike.assisted": True, "carrying_id": "k-span-180"}),
    "holes": ({"upper_hole_mm": 76.5, "lower_hole_mm": 83.0}, {"upper_hole_mm": 74.1, "lower_hole_mm": 80.8}),
    "hub": ({"rotor_id": "r-spline"}, {"rotor_id": "r-spline", "hub": "splined"}),
    "vernier": ({"rotor_instrument": "vernier"}, {"rotor_instrument": "micrometer"}),
    "few_points": ({"rotor_points_mm": (1.7,) * 5}, {"rotor_points_mm": (1.7,) * 6}),
    "no_minimum": ({"rotor_id": "r-thick"}, {}),
    "mount_by_name": (
        {"mount_named": "post_mount", "mount_spacing_mm": None, "bolt_direction": None}, {"mount_named": "post_mount"},
    ),
    "thicker": ({"rotor_points_mm": six_points(1.86)}, {"rotor_points_mm": six_points(1.85)}),
    "other_caliper": ({"bore_read_mm": 21.0}, {"bore_read_mm": 21.8}),
    "bite_reach": ({"lever_bite_mm": 60, "lever_reach_mm": 55}, {"lever_bite_mm": 55, "lever_reach_mm": 55}),
    "fluid_age": ({"fluid_age_y": None}, {"fluid_age_y": 0.5}),
    "mount_untold": ({"bolt_direction": None}, {}),
    "limit_below_native": ({"max_rotor_mm": 140}, {"max_rotor_mm": 160}),
    "rotor_unread": ({"rotor_points_mm": ()}, {"rotor_points_mm": (1.7,)}),
    "pads_unread": ({"pad_outer_mm": None}, {}),
    "pads_unseen": ({"pad_state": "not_checked"}, {}),
    "cracks_unseen": ({"rotor_cracks": "not_checked"}, {"rotor_cracks": "no"}),
    "face_unseen": ({"rotor_face": "not_checked"}, {"rotor_face": "clean"}),
    "runout_unread": ({"rotor_runout_mm": None}, {"rotor_runout_mm": 0.1}),
    "pistons_unseen": ({"pistons": "not_checked"}, {"pistons": "even"}),
    "line_unseen": ({"line_state": "not_checked"}, {"line_state": "good"}),
    "lever_unfelt": ({"lever_feel": "not_checked"}, {"lever_feel": "firm"}),
    "chain": ({"adapter_id": "a-pp-160-200"}, {}),
    "bolts": ({"upper_bolt_mm": 22.0}, {"upper_bolt_mm": 28.0}),
    "leg": ({"edge_radius_mm": 90.9}, {"edge_radius_mm": 91.0}),
    "rivets": ({"rotor_id": "r-rivet"}, {}),
    "smallest": ({"rotor_id": "r-140", "adapter_id": None, "no_adapter": True}, {}),
    "bar": ({"bike.bar": "drop"}, {"bike.bar": "flat"}),
    "spokes": ({"spoke_gap_mm": 0.9}, {"spoke_gap_mm": 1.0}),
    "inner": ({"rotor_id": "r-low"}, {}),
    "mount_told": ({}, {"bolt_direction": None}),
    "limit_refused": ({"limit_source": "refused"}, {"limit_source": "document"}),
    "rotor_good": ({}, {"rotor_points_mm": six_points(1.4)}),
    "pads_good": ({}, {"pad_state": "glazed"}),
}  # fmt: skip


def front(change: dict):
    job = own_job()
    for field, value in change.items():
        path = field if "." in field else f"front.{field}"
        job = with_value(job, path, list(value) if isinstance(value, tuple) else value)
    return job


def findings(job: Job) -> tuple[Finding, ...]:
    return findings_of(evaluate(job, HERE, {}))


def found(change: dict) -> dict[str, Finding]:
    return {f.code: f for f in findings(front(change)) if f.end is End.FRONT}


SILENT_ON_A_BIKE = {"arc", "fitting", "hose", "holes"}
"""checks that no finding of a bike as it stands comes from here: they are looked at where they are worked out"""


def test_there_is_a_case_for_every_row() -> None:
    keys = [row.key for row in CONDITIONS] + [row.key for row in CHECKS]
    assert len(set(keys)) == len(keys)
    assert set(CASES) | SILENT_ON_A_BIKE == set(keys)


@pytest.mark.parametrize("key", CASES)
def test_each_row_speaks_when_it_should_and_only_then(key) -> None:
    says, silent = CASES[key]
    assert key in found(says)
    assert key not in found(silent)


def test_a_pitch_read_with_a_tape_asks_for_a_gauge() -> None:
    assert found({**FM_FORK, "spacing_tool": "tape"})["pitch"].kind is FindingKind.MEASURE


def test_a_limit_that_nobody_knows_is_asked_for_and_a_refused_one_is_known() -> None:
    unknown = found({"max_rotor_mm": None})["largest"]
    assert unknown.kind is FindingKind.MEASURE
    assert found({"max_rotor_mm": None, "limit_source": "refused"})["largest"].kind is FindingKind.STOP
    assert found({"max_rotor_mm": 160})["largest"].unsafe


def test_a_row_speaks_of_its_own_wheel_only() -> None:
    ends = {f.end for f in findings(front({"rotor_cracks": "yes"})) if f.code == "cracks"}
    assert ends == {End.FRONT}


def test_unsafe_comes_first_and_every_row_says_what_follows() -> None:
    job = front({"rotor_cracks": "yes", "pad_state": "glazed", "fluid_grade": "dot4"})
    kinds = [f.kind for f in findings(job)]
    assert kinds == sorted(kinds, key=list(FindingKind).index)
    assert kinds[0] is FindingKind.STOP
    assert all(row.about and row.consequence and row.source for row in CONDITIONS)
    assert all(row.label and row.rule and row.cure and row.source for row in CHECKS)


def test_advice_never_revives_files_or_stacks() -> None:
    text = " ".join(f"{row.about} {plain(row.consequence)}" for row in CONDITIONS)
    text += " ".join(f"{row.label} {row.cure}" for row in CHECKS)
    assert "burning or washing does not bring them back" in text
    assert "nothing is stacked, nothing is filed" in text
    assert "file it" not in text


@pytest.mark.parametrize("points", [6, 7, 12])
def test_a_micrometer_passes_with_six_points_or_more(points: int) -> None:
    assert "rotor_good" in found({"rotor_points_mm": (1.7,) * points})
    assert "rotor_good" not in found({"rotor_points_mm": (1.7,) * 5})


def test_one_thin_reading_condemns_whatever_it_was_read_with() -> None:
    for tool in ("vernier", "micrometer"):
        assert found({"rotor_points_mm": (1.4,), "rotor_instrument": tool})["rotor_minimum"].unsafe


def conditions_of_fitted(change: dict) -> dict[str, object]:
    fitted = evaluate(front(change), CATALOGUE, {}).fitted
    return {p.code: p for p in fitted.points_of(End.FRONT) if p.matter is Matter.CONDITION}


def test_a_vernier_never_passes() -> None:
    change = {"rotor_instrument": "vernier"}
    assert "rotor_good" not in found(change)
    assert conditions_of_fitted(change)["vernier"].severity is Severity.UNKNOWN


@pytest.mark.parametrize(
    ("change", "code", "words"),
    [
        ({"rotor_points_mm": (1.7,) * 4}, "few_points", "4 of 6 points"),
        ({"pad_outer_mm": None}, "pads_unread", "only one of the two pads"),
        ({"rotor_points_mm": ()}, "rotor_unread", "not read"),
    ],
)
def test_what_is_half_measured_gives_no_clean_verdict(change, code, words) -> None:
    point = conditions_of_fitted(change)[code]
    assert point.verdict is Verdict.UNKNOWN
    assert words in plain(point.words)
    assert point.settles.startswith("front.")


@pytest.mark.parametrize("change", [{"rotor_cracks": "yes"}, {"line_state": "leaking"}, {"rotor_face": "oiled"}])
def test_what_is_unsafe_fails_the_fitted_setup(change) -> None:
    fitted = evaluate(front(change), CATALOGUE, {}).fitted
    assert fitted is not None
    assert fitted.verdict is Verdict.FAILS


def test_nobody_can_answer_for_an_unsafe_finding() -> None:
    job = front({"rotor_cracks": "yes"})
    stop = next(f for f in findings(job) if f.code == "cracks")
    assert open_stops(findings(job)) == (stop,)
    answer = Clearance(who="Tess", at="2026-11-25T10:00", evidence=str(stop.reason), reason="new rotor fitted")
    cleared = job.model_copy(update={"cleared": {"front:cracks": answer}})
    assert open_stops(findings(cleared)) == (stop,)
    assert open_stops(findings(front({"rotor_cracks": "no"}))) == ()


# native size and pitch, worked by hand


@pytest.mark.parametrize(
    ("change", "size", "words"),
    [
        ({"native_rotor_mm": None}, 160, "rotor 180 less its adapter (+20)"),
        ({"native_rotor_mm": None, "adapter_id": None, "no_adapter": True}, 180, "rotor 180 with no adapter"),
        ({"native_rotor_mm": None, "adapter_id": None}, None, ""),
        ({"native_rotor_mm": None, "rotor_id": "q-disc-203"}, None, ""),
        ({"native_rotor_mm": 160}, 160, "given"),
        ({"mount_spacing_mm": 51, "bolt_direction": "crosswise"}, 160, "by standard"),
    ],
)
def test_the_native_size_is_given_or_worked_out(change, size, words) -> None:
    native = resolve_wheel(front(change), End.FRONT, HERE).native
    assert native.mm == size
    assert words in native.source


def test_a_native_size_that_is_worked_out_carries_the_chain() -> None:
    proposed = evaluate(front({"native_rotor_mm": None}), CATALOGUE, {}).proposed
    assert proposed is not None
    together = [p for p in proposed.points_of(End.FRONT) if p.matter is Matter.TOGETHER]
    assert not together


def test_a_given_size_that_the_parts_contradict_is_a_conflict_not_a_mean() -> None:
    native = resolve_wheel(front({"native_rotor_mm": 180}), End.FRONT, HERE).native
    assert native.mm == 180
    assert "gives 160" in native.conflict


@pytest.mark.parametrize(
    ("spacing", "verdict"),
    [
        (69.5, Verdict.FAILS), (69.51, Verdict.TIGHT), (69.75, Verdict.TIGHT), (69.76, Verdict.HOLDS),
        (70.24, Verdict.HOLDS), (70.25, Verdict.TIGHT), (70.49, Verdict.TIGHT), (70.5, Verdict.FAILS),
    ],
)  # fmt: skip
def test_the_pitch_is_judged_by_the_room_of_each_hole_both_ways(spacing, verdict) -> None:
    # hole 5.5 on an M5 bolt: each bolt has 0.25 mm of room, and stands off by half of what the pitches differ
    assert judge_pitch(spacing, SpacingTool.GAUGE, PLATE).verdict is verdict


def test_the_narrower_of_hole_and_counterbore_counts() -> None:
    plate = adapter(id="p", adapter_kind="flat_front_plate", pitch_mm=70, hole_mm=6.0, counterbore_mm=8.8)
    found = judge_pitch(70.35, SpacingTool.GAUGE, plate)  # counterbore 8.8 on a head of 8.5: 0.3 mm
    assert found.permitted_mm == pytest.approx(0.3)
    assert found.verdict is Verdict.FAILS
    assert "counterbores allow 69.7 mm to 70.3 mm" in found.words
    low = judge_pitch(70.35, SpacingTool.GAUGE, plate, head_mm=7.0)  # a smaller head has 1.8 mm: its holes count, 1.0
    assert low.permitted_mm == pytest.approx(1.0)
    assert low.verdict is Verdict.HOLDS


def test_a_plate_without_figures_and_a_tape_reading_are_unknown() -> None:
    silent = adapter(id="p", adapter_kind="flat_front_plate")
    assert judge_pitch(70.0, SpacingTool.GAUGE, silent).verdict is Verdict.UNKNOWN
    assert judge_pitch(70.0, SpacingTool.TAPE, PLATE).verdict is Verdict.UNKNOWN
    assert judge_pitch(70.0, None, PLATE).verdict is Verdict.UNKNOWN
    assert judge_pitch(None, SpacingTool.GAUGE, PLATE).verdict is Verdict.UNKNOWN


def test_a_mismatch_has_a_sign() -> None:
    over = found({"rotor_id": "r-200", "adapter_id": "a-pp-160-203"})["edge"].reason
    assert "1.5 mm over the rotor's edge" in over
    short = found({"rotor_id": "q-disc-203", "adapter_id": "a-pp-160-200"})["edge"].reason
    assert "1.5 mm of rim unswept" in short


def test_a_maker_who_refuses_leaves_the_native_size() -> None:
    job = front({"max_rotor_mm": None, "limit_source": "refused"})
    assert resolve_wheel(job, End.FRONT, CATALOGUE).largest.mm == 160
    proposed = evaluate(job, CATALOGUE, {}).proposed
    assert proposed is not None
    assert any("above 160" in p.words for p in proposed.points_of(End.FRONT))
    nothing_known = front(
        {"max_rotor_mm": None, "native_rotor_mm": None, "adapter_id": None, "limit_source": "refused"}
    )
    assert resolve_wheel(nothing_known, End.FRONT, CATALOGUE).largest.mm is None


@pytest.mark.parametrize(("age_y", "code"), [(4.0, "old_fluid"), (None, "fluid_age"), (0.5, None)])
def test_margin_finding_and_guide_agree_on_old_mineral_fluid(age_y, code) -> None:
    """Four years, or nobody knows: 100 °C counts, a finding says why, the guide knows it. The filling of last spring
    has its maker's figure."""
    job = with_value(with_value(own_job(), "front.fluid_age_y", age_y), "complaints", ["fades"])
    evaluation = evaluate(job, CATALOGUE, {})
    wheel = evaluation.fitted.wheels[End.FRONT]
    assert wheel.boiling.boiling_c == pytest.approx(130.0 if code is None else 100.0, abs=3)
    found = {f.code for f in findings_of(evaluation) if f.end is End.FRONT} & {"old_fluid", "fluid_age", "water"}
    assert found == ({code} if code else set())
    assert {p.code for p in evaluation.points(SetupName.FITTED) if p.end is End.FRONT} & {
        "old_fluid",
        "fluid_age",
    } == found
    stale = guide_of(job.model_copy(update={"complaint_end": End.FRONT}), evaluation).replies.get("stale")
    assert stale is {"old_fluid": Reply.YES, "fluid_age": None, None: Reply.NO}[code]
