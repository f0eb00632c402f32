"""Conversions: only on mounts, wheels where the hub takes no rotor, and what that does to the money."""

import pytest

from clavis.core.evaluation.situation import situation_of
from clavis.core.evaluation.wheel_cases import mountings_of
from clavis.core.job.document import Complaint, Job
from clavis.core.parameters import GRAVITY_MS2
from clavis.core.parts.mounts import End
from clavis.core.selection.conversion import ConversionVerdict, conversion_of
from clavis.demo.world import tourer
from tests.bikes import CATALOGUE, own_job, plain, with_value


def told(job: Job):
    found = conversion_of(job, mountings_of(job, CATALOGUE), "crowns")
    assert found is not None
    return found


def both(job: Job, field: str, value: object) -> Job:
    for end in End:
        job = with_value(job, f"{end.value}.{field}", value)
    return job


def test_nobody_asks_nobody_is_told() -> None:
    job = own_job()
    assert conversion_of(job, mountings_of(job, CATALOGUE), "crowns") is None
    assert told(own_job(complaints=(Complaint.CONVERSION,)))


def test_tabs_without_hubs_mean_wheels_and_their_price() -> None:
    found = told(tourer({}))
    assert [w.verdict for w in found.wheels] == [ConversionVerdict.WHEELS] * 2
    front = found.wheels[0]
    # wheel 96, rotor 160 at 16, caliper 30, lever 16, pads 5, adapter 11, four bolts 3.20, six rotor bolts 9; cable 3.50,
    # housing 12, two ferrules, an end cap, two washers, four cup-and-cone pairs
    assert front.total == pytest.approx(96 + 16 + 30 + 16 + 5 + 11 + 3.2 + 9 + 3.5 + 12 + 0.8 + 0.2 + 0.3 + 4 * 0.9)
    assert front.wheel_price == 96
    assert "of which 214 crowns for wheels" in plain(found.sentence)
    assert "over the budget: not worth it" in plain(found.sentence)


def test_used_wheels_may_cost_what_the_budget_leaves() -> None:
    """Both brakes cost what the whole costs less 214 for new wheels; of 300 the rest is left for used ones."""
    job = tourer({})
    rest = sum(w.total - w.wheel_price for w in told(job).wheels)
    assert f"which leaves {300 - rest:.0f} crowns of the budget for them" in plain(told(job).sentence)
    short = with_value(job, "wishes.budget_price", 100.0)
    assert "over the budget even with wheels for nothing" in plain(told(short).sentence)
    assert "budget for them" not in plain(told(with_value(job, "wishes.budget_price", None)).sentence)


def test_hubs_that_take_a_rotor_make_it_parts_only() -> None:
    job = both(both(tourer({}), "hub_there", "there"), "hub", "six_bolt")
    found = told(job)
    assert [w.verdict for w in found.wheels] == [ConversionVerdict.POSSIBLE] * 2
    assert "for wheels" not in plain(found.sentence)
    assert "within the budget" in plain(found.sentence)


def test_what_nobody_knows_makes_nothing_possible() -> None:
    """A post mount whose native size is not known, and evidence of the mount that disagrees."""
    post = {"mount_spacing_mm": 74.2, "bolt_direction": "along_post", "hub_there": "there", "hub": "six_bolt"}
    job = tourer({})
    for name, value in post.items():
        job = both(job, name, value)
    assert [w.verdict for w in told(job).wheels] == [ConversionVerdict.UNKNOWN] * 2
    assert "made for is not known" in plain(told(job).sentence)
    known = both(job, "native_rotor_mm", 160.0)
    assert [w.verdict for w in told(known).wheels] == [ConversionVerdict.POSSIBLE] * 2
    limitless = both(both(known, "max_rotor_mm", None), "limit_source", None)
    assert "ask before anything is bought" in plain(told(limitless).wheels[0].words)
    conflict = both(known, "bolt_direction", "crosswise")
    assert "one of the two is wrong" in plain(told(conflict).sentence)


@pytest.mark.parametrize("end", End)
def test_never_without_a_mount(end: End) -> None:
    job = with_value(tourer({}), f"{end.value}.mount_there", "missing")
    wheel = next(w for w in told(job).wheels if w.end is end)
    assert wheel.verdict is ConversionVerdict.NO
    assert wheel.lines == ()
    assert "at the" in plain(told(job).sentence)
    assert plain(told(both(job, "mount_there", "missing")).sentence).startswith("No:")


@pytest.mark.parametrize(
    ("field", "value", "words"),
    [("mount_spacing_mm", None, "measure spacing"), ("hub_there", None, "six holes or splines")],
)
def test_what_was_not_looked_at_is_unknown(field, value, words) -> None:
    found = told(with_value(tourer({}), f"front.{field}", value))
    assert found.wheels[0].verdict is ConversionVerdict.UNKNOWN
    assert words in plain(found.sentence)


def test_a_wheel_that_the_catalogue_lacks_has_no_price_and_no_total() -> None:
    found = told(with_value(tourer({}), "bike.tyre_size", "50-584"))
    assert found.wheels[0].total is None
    assert "not known" in plain(found.sentence)


def test_the_parts_go_together_on_the_hub_of_the_new_wheel() -> None:
    # the small wheels of the catalogue have six-bolt hubs: no splined rotor is offered for them
    found = told(with_value(tourer({}), "bike.tyre_size", "40-355"))
    names = {line.what: line.name for line in found.wheels[0].lines}
    assert names["wheel"] == "Quernmark Roller front 355"
    rotor = next(r for r in CATALOGUE.rotors.values() if r.name == names["rotor"])
    assert rotor.interface.value == "six_bolt"


def test_the_wheels_share_and_what_used_ones_leave_to_pay() -> None:
    found = told(tourer({}))
    total = sum(w.total for w in found.wheels)
    wheels = sum(w.wheel_price for w in found.wheels)
    words = plain(found.sentence).replace("\u202f", "")
    assert f"{100 * wheels / total:.0f}%" in words.replace(" %", "%")
    assert f"the rest is {total - wheels:.0f} crowns" in words


def test_one_end_alone_is_told_with_the_deceleration_that_it_reaches() -> None:
    """By hand: the rear alone μ m g l_f/(L + μ h), over the mass."""
    job = with_value(tourer({}), "front.mount_there", "missing")
    situation = situation_of(job)
    bike, grip = situation.bike, situation.grip
    rear = grip * GRAVITY_MS2 * bike.front_to_cg_m / (bike.wheelbase_m + grip * bike.cg_height_m)
    words = plain(told(job).sentence)
    assert "Possible at the rear only" in words
    assert f"the rear alone reaches {rear:.1f}" in words
    front = next(w for w in told(job).wheels if w.end is End.FRONT)
    cheapest = min(CATALOGUE.forks.values(), key=lambda f: f.price)
    assert f"another fork with a mount is {cheapest.price:.0f} at the least, {cheapest.name}" in plain(front.words)
    other = next(w for w in told(with_value(tourer({}), "rear.mount_there", "missing")).wheels if w.end is End.REAR)
    assert "another fork" not in plain(other.words)
