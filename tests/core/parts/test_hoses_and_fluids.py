"""The line: a hose that has both ends, the bottle it is filled from, and what parts state of a wheel's blanks."""

import pytest

from clavis.core.evaluation.evaluate import SetupName, evaluate
from clavis.core.fit.part_on_wheel import part_refusals
from clavis.core.job.maker_data import blanks_of
from clavis.core.job.wheel import LimitSource, Wheel
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.hoses_and_fluids import fluid_for, hose_between
from clavis.core.parts.mounts import End
from tests.bikes import CATALOGUE, bottle, caliper, fork, hose, lever, own_job, own_mounting, plain, with_value


def test_the_longest_hose_with_both_ends_is_taken() -> None:
    hoses = [hose(id="a", length_mm=900), hose(id="b", length_mm=2000), hose(id="c", length_mm=3000, retired=True),
             hose(id="d", caliper_fitting="M8", length_mm=4000), hose(id="e", fluid="dot", length_mm=4000)]  # fmt: skip
    found = hose_between(lever(), caliper(fitting="M8B"), hoses)
    assert found.hose is not None
    assert found.hose.id == "b"
    nothing = hose_between(lever(fitting="M9"), caliper(fitting="M8B"), hoses)
    assert nothing.hose is None
    assert nothing.look_for == "a mineral hose, M9 at the lever, M8B at the caliper"


def test_mineral_fluid_is_the_calipers_makers_or_none() -> None:
    ours, theirs = bottle(id="ours"), bottle(id="theirs", maker="N", price=1)
    found = fluid_for(caliper(), None, [theirs, ours])
    assert found is ours
    assert fluid_for(caliper(), None, [theirs]) is None
    assert fluid_for(caliper(), None, [bottle(retired=True)]) is None


def test_dot_keeps_its_grade_then_its_maker_then_the_lower_grade() -> None:
    dot = caliper(fluid="dot")
    four, five = bottle(id="four", grade="dot4", maker="N"), bottle(id="five", grade="dot51")
    assert fluid_for(dot, "dot4", [four, five]) is four
    assert fluid_for(dot, None, [four, five]) is five
    assert fluid_for(dot, None, [four, bottle(id="x", grade="dot51", maker="N", price=1)]) is four
    assert fluid_for(dot, None, [bottle()]) is None


def test_an_opened_line_boils_where_its_bottle_says() -> None:
    """Own job: the proposed rotor alone leaves the line closed; another lever opens it and it gets the maker's oil."""
    closed = evaluate(own_job(), CATALOGUE, {}).setups[SetupName.FITTED].wheels[End.FRONT].boiling
    assert closed.boiling_c == 130
    opened = with_value(own_job(), "proposal.front.lever_id", "u-blade-c")
    wheel = evaluate(opened, CATALOGUE, {}).setups[SetupName.PROPOSED].wheels[End.FRONT]
    assert wheel.setup.filled_with is CATALOGUE.fluids["u-oil"]
    assert wheel.boiling.boiling_c == 190
    silent = Catalogue.of([p for p in CATALOGUE.every() if p.kind != "fluid"] + [bottle(maker="Ulvorn", dry_c=None)])
    again = evaluate(opened, silent, {}).setups[SetupName.PROPOSED].wheels[End.FRONT]
    assert again.boiling.boiling_c == 130  # the bottle states none: the figure entered for this line


def test_blank_fields_take_what_the_fork_states_and_entered_ones_stay() -> None:
    part = fork(native_mm=180, max_rotor_mm=203, hole_depth_mm=16)
    blank = blanks_of(Wheel(), "carrying_id", part)
    assert blank == {"max_rotor_mm": 203, "limit_source": "document", "native_rotor_mm": 180, "axle": "mm15",
                     "thread_material": "light_alloy", "hole_depth_mm": 16}  # fmt: skip
    some = Wheel(max_rotor_mm=180, limit_source=LimitSource.MARKED, hole_depth_mm=12)
    rest = {name: blank[name] for name in ("native_rotor_mm", "axle", "thread_material")}
    assert blanks_of(some, "carrying_id", part) == rest
    refused = blanks_of(Wheel(limit_source=LimitSource.REFUSED), "carrying_id", part)
    assert "max_rotor_mm" not in refused
    assert "max_rotor_mm" not in blanks_of(Wheel(), "carrying_id", fork(max_rotor_mm=None))
    assert blanks_of(Wheel(), "fluid_id", bottle()) == {"fluid_grade": "mineral", "fluid_boils_c": 190}
    assert blanks_of(Wheel(), "fluid_id", bottle(grade="dot4", dry_c=230)) == {"fluid_grade": "dot4"}
    assert blanks_of(Wheel(), "rotor_id", part) == {}


@pytest.mark.parametrize(
    ("part", "why"),
    [
        (fork(), ()),
        (fork(native_mm=180), ("made for 180, the one on the bike for 160",)),
        (fork(mount="is_mount", native_mm=None), ("its mount is international standard, the one measured post mount",)),
        (hose(caliper_fitting="M8"), ()),
        (hose(), ("M8B does not go on M8 at the caliper",)),
        (hose(fluid="dot"), ("a hose for DOT fluid in a line for mineral fluid",)),
        (bottle(maker="Ulvorn"), ()),
        (bottle(), ("mineral fluid of another maker than the caliper's, Ulvorn",)),
        (bottle(grade="dot4"), ("DOT fluid in a line for mineral fluid",)),
    ],
)
def test_what_goes_on_the_wheel_is_told_for_forks_hoses_and_bottles(part, why) -> None:
    on = own_mounting()
    assert tuple(plain(said) for said in part_refusals(on, on.wheel.on_it, part)) == why
