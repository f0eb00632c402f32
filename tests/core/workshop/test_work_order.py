"""The work order and its plan: each step and line stands when it should, and only then."""

import pytest

from clavis.core.evaluation.evaluate import evaluate
from clavis.core.fit.special_plate import plate_of
from clavis.core.job.document import Proposal
from clavis.core.job.pick import Pick
from clavis.core.job.renewal import Renewal
from clavis.core.job.special_mount import DummyChecked, Release, TemplateTried, Tried
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.models import Axle, HubInterface
from clavis.core.parts.mounts import BoltDirection, End
from clavis.core.workshop.steps import STEPS, Topic
from clavis.core.workshop.torques import Fastener
from clavis.core.workshop.work_order import work_order
from tests.bikes import CATALOGUE, own_job, plain, with_value
from tests.generated import DEMO_JOBS


def order_of(job):
    return work_order(job, evaluate(job, CATALOGUE, {}))


def test_an_opened_line_asks_for_its_hose_and_its_bottle() -> None:
    """Own job's front: another lever on the same fittings needs the bottle alone; lever and caliper of other makes
    need a hose as well; one that the catalogue lacks is named, without a price, and the total says so."""

    def front(job, catalogue=CATALOGUE):
        order = work_order(job, evaluate(job, catalogue, {}))
        return {x.what: x for x in order.lines if x.end is End.FRONT}, order

    lever_only, order = front(with_value(own_job(), "proposal.front.lever_id", "u-blade-c"))
    assert lever_only["fluid"].part_id == "u-oil"
    assert "hose, cut to length" not in lever_only
    assert lever_only["olive and insert"].quantity == 1
    assert order.unpriced == 0
    other = own_job()
    for path, part in (("caliper_id", "h-four-1617"), ("lever_id", "u-blade-c"), ("pad_id", "h-h4-semi")):
        other = with_value(other, f"proposal.front.{path}", part)
    both, _ = front(other)
    assert both["hose, cut to length"].part_id == "h-hose-m8"
    assert both["fluid"].part_id == "h-oil"
    bare = Catalogue.of(p for p in CATALOGUE.every() if p.kind not in ("hose", "fluid"))
    lacking, order = front(with_value(with_value(other, "proposal.front.lever_id", "h-stile"), "seed", 1), bare)
    assert plain(lacking["hose, cut to length"].name) == "look for a mineral hose, M8H at the lever, M8H at the caliper"
    assert lacking["fluid"].price is None
    assert order.unpriced >= 2


def test_a_rotor_on_a_splined_hub_comes_with_what_holds_it() -> None:
    def what(rotor_id, fitted):
        job = with_value(with_value(own_job(), "front.hub", "splined"), "front.rotor_id", fitted)
        job = with_value(job, "proposal.front.rotor_id", rotor_id)
        order = work_order(job, evaluate(job, CATALOGUE, {}))
        return {x.part_id for x in order.lines if x.end is End.FRONT}

    assert "h-six-on-spline" in what("q-disc-203", "u-line-180")
    assert "h-six-on-spline" not in what("q-disc-203", "q-disc-180")
    assert "h-six-on-spline" not in what("u-line-203", "u-line-180")


def test_the_order_lists_what_is_new_and_nothing_else() -> None:
    order = order_of(own_job())
    assert [(line.end, line.what, line.part_id, line.quantity) for line in order.lines] == [
        (End.FRONT, "rotor", "q-disc-203", 1),
        (End.FRONT, "pads, one pair", "u-k2-sinter", 1),
        (End.FRONT, "adapter", "a-pp-160-203", 1),
        (End.FRONT, "rotor bolts", "m5-10-low", 6),
        (End.FRONT, "bolt", "m6-18", 4),
        (End.FRONT, "washers", "s-washer-m6", 2),
        (End.REAR, "rotor", "q-disc-180", 1),
        (End.REAR, "adapter", "a-pp-160-180", 1),
        (End.REAR, "rotor bolts", "m5-10-low", 6),
        (End.REAR, "bolt", "m6-28", 1),
        (End.REAR, "bolt", "m6-30", 1),
        (End.REAR, "washers", "s-washer-m6", 2),
    ]
    assert order.total == pytest.approx(22 + 18 + 14 + 4 * 0.8 + 18 + 9 + 2 * 0.8 + 12 * 1.5 + 4 * 0.15)
    assert order.gate.may_work


def test_no_proposal_no_order() -> None:
    order = order_of(own_job(proposal=Proposal()))
    assert order.wheels == ()
    assert order.lines == ()


def steps(job, end: End = End.FRONT) -> list[str]:
    return [s.row.key for s in order_of(job).steps if s.end in (end, None)]


def test_steps_stand_only_where_they_apply() -> None:
    """A table of what brings a step, and what it does not stand without; docs/orders.md has six whole orders."""
    job = own_job()
    splined = job.model_copy(update={"front": job.front.model_copy(update={"hub": HubInterface.SPLINED})})
    quick = job.model_copy(update={"front": job.front.model_copy(update={"axle": Axle.QUICK_RELEASE})})
    other_caliper = own_job(proposal=Proposal(front=Pick(caliper_id="u-four-1718", pad_id="u-k4-semi")))
    pads_only = own_job(proposal=Proposal(front=Pick(pad_id="u-k2-sinter")))
    new_hose = own_job(proposal=Proposal(front=Pick(renew=(Renewal.HOSE,))))
    for key, there, not_there in (
        ("switch_off", with_value(job, "bike.assisted", True), job),
        ("held_inverted", with_value(job, "held", "inverted"), job),
        ("held", job, with_value(job, "held", "inverted")),
        ("adapter_inverted", with_value(job, "held", "inverted"), job),
        ("adapter_up", job, with_value(job, "held", "inverted")),
        ("bleed_full", other_caliper, job),
        ("leaks", other_caliper, job),
        ("rotor_bolted", job, pads_only),
        ("hub_adapter", with_value(splined, "front.rotor_id", "u-line-180"), job),
        ("quick_release", quick, job),
        ("pads_in", pads_only, own_job(proposal=Proposal(front=Pick(rotor_id="q-disc-203")))),
        ("adapter_up", job, pads_only),
        ("line_looked", new_hose, with_value(new_hose, "front.line_runs", "outside")),
        ("hose_drawn", with_value(new_hose, "front.line_runs", "inside"), new_hose),
        ("turned_up", with_value(other_caliper, "held", "inverted"), other_caliper),
        ("bed_in", job, own_job(proposal=Proposal(front=Pick(renew=(Renewal.BLEED,))))),
        ("lever_again", job, own_job(proposal=Proposal(front=Pick(renew=(Renewal.BLEED,))))),
    ):
        assert key in steps(there), key
        assert key not in steps(not_there), key


def test_the_cut_off_plug_goes_with_a_new_lever_and_both_are_tried_whatever_was_done() -> None:
    new_lever = Proposal(front=Pick(lever_id="u-blade-c"))
    job = with_value(own_job(proposal=new_lever), "bike.assisted", True)
    assert not {"cutoff_plug", "cutoffs_tested"} & set(steps(job))
    assert {"cutoff_plug", "cutoffs_tested"} <= set(steps(with_value(job, "bike.cutoff_switches", True)))
    kept = with_value(with_value(own_job(), "bike.assisted", True), "bike.cutoff_switches", True)
    assert "cutoff_plug" not in steps(kept)
    assert "cutoffs_tested" in steps(kept)


def test_what_the_bike_leaves_on_is_never_skipped() -> None:
    needed = {row.key for row in STEPS if row.needed}
    assert needed >= {"switch_off", "leaks", "quick_release", "pump", "torques_read", "cutoffs_tested", "walking"}
    assert {row.topic for row in STEPS if row.key in needed} & {Topic.CHECKS}
    assert all(row.needed for row in STEPS if row.topic is Topic.CHECKS)


def test_every_step_says_why_and_takes_time() -> None:
    assert len({row.key for row in STEPS}) == len(STEPS)
    for row in STEPS:
        assert row.why, row.key
        assert 0 < row.minutes <= 30, row.key


def test_steps_come_in_the_order_of_the_work() -> None:
    found = steps(own_job())
    assert found.index("cool") < found.index("rotor_bolted") < found.index("caliper_on") < found.index("pump")
    assert found.index("pump") < found.index("torques_read") < found.index("walking") < found.index("bed_in")


def test_dangerous_acts_carry_their_caution() -> None:
    cautious = {row.key for row in STEPS if row.caution}
    assert cautious >= {
        "switch_off", "cool", "wheel_out", "adapter_up", "adapter_inverted", "caliper_on", "bleed_full", "bleed_lever",
        "pads_in", "quick_release", "cutoff_plug", "special_plate", "bed_in", "pump",
    }  # fmt: skip
    text = " ".join(row.words + row.caution for row in STEPS).lower()
    assert "is not filed" in text
    assert "one adapter only" in text


def lines(job, end: End = End.FRONT):
    wheel = next(w for w in order_of(job).wheels if w.work.end is end)
    return {line.kind: line for line in wheel.torques}


def test_each_fastener_that_is_touched_has_its_line() -> None:
    """Centring loosens the caliper: pads alone ask for its bolts too."""
    pads = own_job(proposal=Proposal(front=Pick(pad_id="u-k2-sinter")))
    assert set(lines(pads)) == {Fastener.M6, Fastener.PAD_PIN, Fastener.AXLE}
    bled = own_job(proposal=Proposal(front=Pick(renew=(Renewal.BLEED,))))
    assert set(lines(bled)) == {Fastener.BLEED_SCREW, Fastener.PAD_PIN, Fastener.AXLE}
    lever = own_job(proposal=Proposal(front=Pick(lever_id="u-blade-c")))
    assert set(lines(lever)) >= {Fastener.LEVER_CLAMP, Fastener.HOSE_NUT, Fastener.BLEED_SCREW}
    splined = with_value(with_value(own_job(), "front.hub", "splined"), "front.rotor_id", "u-line-180")
    assert set(lines(splined)) >= {Fastener.LOCKRING, Fastener.ROTOR_BOLTS}  # a six-bolt rotor with its adapter
    quick = with_value(pads, "front.axle", "quick_release")
    assert Fastener.AXLE not in lines(quick)


def test_where_only_the_part_tells_no_figure_stands() -> None:
    nut = lines(own_job(proposal=Proposal(front=Pick(lever_id="u-blade-c"))))[Fastener.HOSE_NUT]
    assert (nut.low_nm, nut.high_nm) == (None, None)


def test_the_parts_own_figure_overrides_and_stands_for_its_steps() -> None:
    job = own_job()
    usual = lines(job)[Fastener.ROTOR_BOLTS]
    assert (usual.low_nm, usual.high_nm, usual.first_nm, usual.last_nm) == (2.0, 6.2, 3.0, 6.0)
    mark = {"who": "Tess", "at": "2026-11-28T10:00", "torque_nm": 4.0, "source": "sheet"}
    told = with_value(job, "marked", {usual.key: mark})
    own = lines(told)[Fastener.ROTOR_BOLTS]
    assert (own.low_nm, own.high_nm, own.first_nm, own.last_nm) == (4.0, 4.0, 2.0, 4.0)
    assert own.marked.source == "sheet"
    stamps = [{s.key: s.stamp for s in order_of(j).steps} for j in (job, told)]
    changed = {key for key in stamps[0] if stamps[0][key] != stamps[1][key]}
    assert changed == {"front:rotor_bolted"}  # tightened to another figure it has to be done again, and nothing else


def test_what_cannot_be_fitted_bars_the_order_and_what_is_unknown_its_signing() -> None:
    unknown = with_value(own_job(), "front.thread_material", None)
    assert any("material of the thread" in plain(b.words) for b in order_of(unknown).gate.signing)
    limit = with_value(own_job(), "front.max_rotor_mm", None)
    assert any("largest rotor allowed" in plain(b.words) for b in order_of(limit).gate.signing)
    impossible = with_value(own_job(), "front.native_rotor_mm", 140.0)
    assert any(
        "look for: post-mount adapter, front, from 140 to 203 (+63)" in plain(b.words)
        for b in order_of(impossible).gate.work
    )


def bedding_of(job, end: End = End.FRONT):
    found = next(w.bedding for w in order_of(job).wheels if w.work.end is end)
    assert found is not None
    return found


def test_bedding_in_reaches_its_temperature_without_fading() -> None:
    front = bedding_of(own_job())
    assert front.wanted_c == 300  # sintered
    assert front.reaches
    assert front.rotor_c < 0.95 * 450 + 1e-6
    finger = evaluate(own_job(), CATALOGUE, {}).setups["proposed"].wheels[End.FRONT].forces.finger_target_n
    assert front.first_finger_n == pytest.approx(finger / 0.6)  # before any bedding friction is 0.6 of its own
    rear = bedding_of(own_job(), End.REAR)
    assert rear.wanted_c == 180  # semi-metallic, kept, on a new rotor
    assert 10 <= rear.stops <= 40


def test_the_roll_between_two_stops_gets_the_speed_back() -> None:
    """Pedalling gives 0.3 m/s², a slope of 8 % another 0.78: from 5 to 35 km/h is 8.33 m/s."""
    rear, front = bedding_of(own_job(), End.REAR), bedding_of(own_job())
    for plan in (rear, front):
        gained = (plan.from_kmh - 5) / 3.6
        assert plan.pause_s >= gained / (0.3 + 9.81 * plan.slope_pct / 100)
    assert (rear.slope_pct, front.slope_pct > 0) == (0, True)  # sintered asks for a hill with this rider


def test_too_hot_and_too_cold_are_where_the_plan_says() -> None:
    plan = bedding_of(own_job(), End.REAR)
    assert plan.too_cold_s is not None
    assert plan.pause_s <= plan.too_cold_s
    assert plan.too_hot_s is None or plan.too_hot_s < plan.pause_s
    light, heavy = (bedding_of(with_value(own_job(), "rider.mass_kg", kg)) for kg in (45.0, 110.0))
    assert heavy.rotor_c > light.wanted_c or heavy.reaches
    assert (heavy.slope_pct, heavy.from_kmh) <= (light.slope_pct, light.from_kmh)  # a heavy rider needs less of both


def test_pads_that_fade_early_are_bedded_in_milder_than_sintered() -> None:
    plans = {}
    for pad in ("u-k2-resin", "u-k2-sinter"):
        job = own_job(proposal=Proposal(front=Pick(pad_id=pad, renew=(Renewal.PAD,))))
        plans[pad] = bedding_of(job)
    resin, sinter = plans["u-k2-resin"], plans["u-k2-sinter"]
    assert resin.rotor_c < sinter.rotor_c
    assert resin.fades_c < sinter.fades_c
    assert resin.slope_pct <= sinter.slope_pct


@pytest.mark.parametrize(
    ("mount", "rotor_id", "caliper_id", "pad_id", "threads"),
    [
        # post mount, a size up: M6 throughout
        ({}, "q-disc-203", None, None, {"M6"}),
        # a post caliper on a flat-mount fork: M5 into the leg, M6 into the adapter
        (
            {"mount_spacing_mm": 70.0, "bolt_direction": BoltDirection.INTO_LEG, "native_rotor_mm": 140.0,
             "adapter_id": None, "rotor_id": "q-disc-160"},
            "q-disc-160", "u-two-22", "u-k2-sinter", {"M5", "M6"},
        ),
    ],
)  # fmt: skip
def test_a_torque_is_that_of_the_bolts_thread(mount, rotor_id, caliper_id, pad_id, threads) -> None:
    job = own_job()
    front = job.front.model_copy(update=mount)
    pick = Pick(rotor_id=rotor_id, caliper_id=caliper_id, pad_id=pad_id)
    job = job.model_copy(update={"front": front, "proposal": Proposal(front=pick)})
    if caliper_id is not None:  # another caliper was on it before
        job = with_value(with_value(job, "front.caliper_id", "u-four-1617"), "front.pad_id", "u-k4-semi")
    wheel = next(w for w in order_of(job).wheels if w.work.end is End.FRONT)
    laid = {b.stack.thread for b in wheel.work.fit.fitted_bolts}
    assert laid == threads
    assert {line.fastening.row.fastener for line in wheel.torques if line.places} == {f"{t} bolts" for t in threads}


def test_a_released_plate_brings_the_torque_of_its_heavy_bolts() -> None:
    """A plate for a caliper with crosswise M8 bolts: M6 to the mount, M8 to the caliper."""
    asked = next(job for job in DEMO_JOBS if job.special.front.caliper_id)
    special = asked.special.front
    plate = plate_of(special, End.FRONT, list(CATALOGUE.bolts.values()))
    act = {"who": "Tess", "at": "2026-11-25T10:00", "geometry": plate.geometry}
    released = special.model_copy(
        update={
            "template": TemplateTried(**act, ruler_mm=100.0),
            "dummy": Tried(**act),
            "checked": DummyChecked(**act, angle_off_deg=0.1, edge_off_mm=0.1, turns_free=True, clears=True),
            "released": Release(**act, engineer="Berit Aske", qualification="Dipl.-Ing., roll 1", drawing="D-7"),
        }
    )
    pads = next(p for p in CATALOGUE.pads.values() if p.shape == CATALOGUE.calipers["b-haul-quad"].pad_shape)
    rotor = next(r for r in CATALOGUE.rotors.values() if r.diameter_mm == special.rotor_mm)
    job = own_job(special=asked.special.model_copy(update={"front": released}))
    pick = Pick(rotor_id=rotor.id, caliper_id="b-haul-quad", pad_id=pads.id)
    wheel = next(w for w in order_of(job.model_copy(update={"proposal": Proposal(front=pick)})).wheels)
    assert wheel.work.fit.plate is not None
    rows = {line.fastening.row.fastener: line.fastening.row.high_nm for line in wheel.torques if line.places}
    assert rows == {"M6 bolts": 10.0, "M8 bolts": 18.0}
