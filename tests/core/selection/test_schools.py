"""Schools: every objective is monotone, pairs are what they say, the picks flip where they should."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from clavis.core.errors import ClavisError
from clavis.core.evaluation.evaluate import evaluate
from clavis.core.evaluation.margins import demand_of
from clavis.core.evaluation.open_points import least_margin
from clavis.core.evaluation.parts_list import price_of
from clavis.core.evaluation.situation import situation_of
from clavis.core.job.document import School
from clavis.core.parts.models import Axis
from clavis.core.parts.mounts import End
from clavis.core.physics.forces import Feel
from clavis.core.selection.pairing import Pairing, pairs_of, size_of
from clavis.core.selection.schools import HEAT_MARGINS, SCHOOLS, Standing, row_of_school, together
from clavis.core.selection.sensitivity import (
    Turn,
    _first_flip,
    flips_of,
    heavier,
    steeper,
)
from clavis.core.selection.tradeoffs import MEASURES, Measure, tradeoff_of
from clavis.core.selection.usual_sizes import departure
from clavis.core.verdicts import Verdict, worst
from clavis.demo.world import JOBS
from tests.bikes import CATALOGUE, own_job, plain, with_value
from tests.choices import choice_of

pytestmark = pytest.mark.long

number = st.floats(-2, 2, allow_nan=False)
standings = st.builds(
    Standing,
    verdict=st.sampled_from(list(Verdict)),
    smallest=number,
    coolest=number,
    mass_g=st.floats(200, 900),
    price=st.floats(0, 900),
    grabby=st.booleans(),
    finger_target_n=st.floats(1, 300),
    tiring_n=st.floats(0, 250),
    quiet=st.floats(0, 15),
    unwished=st.floats(0, 20),
    steps_down=st.booleans(),
)
BETTER = {
    "verdict": lambda s, _by: replace(s, verdict=Verdict.HOLDS),
    "smallest": lambda s, by: replace(s, smallest=s.smallest + by),
    "mass_g": lambda s, by: replace(s, mass_g=s.mass_g - 100 * by),
    "price": lambda s, by: replace(s, price=max(s.price - 300 * by, 0.0)),
    "grabby": lambda s, _by: replace(s, grabby=False),
    # less at the finger is better until it grabs
    "finger_target_n": lambda s, by: s if s.grabby else replace(s, finger_target_n=s.finger_target_n / (1 + by)),
    "quiet": lambda s, by: replace(s, quiet=s.quiet - by),
    "tiring_n": lambda s, by: replace(s, tiring_n=s.tiring_n * (1 - by)),
    "steps_down": lambda s, _by: replace(s, steps_down=False),
    "coolest": lambda s, by: replace(s, coolest=s.coolest + by),
    "unwished": lambda s, by: replace(s, unwished=s.unwished - by),
}


@pytest.mark.parametrize("row", SCHOOLS, ids=lambda r: r.school.value)
@given(standing=standings, by=st.floats(0, 1))
def test_what_is_better_in_one_thing_never_ranks_behind(row, standing, by) -> None:
    for name, improve in BETTER.items():
        assert row.key(improve(standing, by)) <= row.key(standing), name


LEAN = row_of_school(School.LEAN)
PLAIN = Standing(Verdict.HOLDS, 0.3, 0.3, 400, 100, False, 50, 20, 8)


@pytest.mark.parametrize(
    ("school", "first", "second"),
    [
        (School.LEAN, replace(PLAIN, mass_g=370, smallest=0.1), PLAIN),
        (School.LEAN, PLAIN, replace(PLAIN, mass_g=395, price=300)),  # grams that are not worth their money
        (School.LEAN, PLAIN, replace(PLAIN, mass_g=200, verdict=Verdict.TIGHT)),
        (School.COOL, replace(PLAIN, coolest=0.4, mass_g=900, price=120), PLAIN),
        (School.COOL, PLAIN, replace(PLAIN, coolest=0.4, price=300)),  # not at any price
        (School.COOL, PLAIN, replace(PLAIN, coolest=0.9, verdict=Verdict.TIGHT)),  # what holds comes first
        (School.COOL, replace(PLAIN, coolest=0.5), replace(PLAIN, coolest=2.0, price=120)),  # enough is enough
        (School.COOL, PLAIN, replace(PLAIN, coolest=0.5, verdict=Verdict.FAILS)),
        (School.LIGHT_HAND, replace(PLAIN, tiring_n=12), PLAIN),
        (School.LIGHT_HAND, replace(PLAIN, tiring_n=0, price=90), replace(PLAIN, tiring_n=0, finger_target_n=10)),
        (School.LIGHT_HAND, PLAIN, replace(PLAIN, finger_target_n=20, grabby=True)),
        # where all of them grab, the one that does it least
        (
            School.LIGHT_HAND,
            replace(PLAIN, finger_target_n=24, grabby=True),
            replace(PLAIN, finger_target_n=18, grabby=True),
        ),
        (School.THRIFT, replace(PLAIN, price=50), replace(PLAIN, smallest=0.9)),
        (
            School.THRIFT,
            replace(PLAIN, verdict=Verdict.TIGHT, smallest=0.2, price=20),
            replace(PLAIN, verdict=Verdict.TIGHT, smallest=0.22, price=90),
        ),
        (School.QUIET, replace(PLAIN, quiet=7.5, smallest=0.0), PLAIN),
        (School.QUIET, PLAIN, replace(PLAIN, quiet=7.0, price=300)),
        (School.QUIET, replace(PLAIN, price=20), replace(PLAIN, smallest=0.9)),  # no rotor where pads alone do
        *(
            (school, PLAIN, replace(PLAIN, steps_down=True, price=5, mass_g=300, tiring_n=0, coolest=0.5, quiet=3))
            for school in School
        ),
        # what is as good by the school is ordered by what is wished
        *(
            (school, PLAIN, replace(PLAIN, mass_g=399, price=99, finger_target_n=49.9, unwished=1.0))
            for school in School
        ),
    ],
)
def test_each_school_prefers_what_it_says(school, first, second) -> None:
    key = row_of_school(school).key
    assert key(first) < key(second)


def test_two_wheels_together_are_as_weak_as_the_weaker() -> None:
    both = together([PLAIN, replace(PLAIN, verdict=Verdict.FAILS, smallest=-0.1, grabby=True, finger_target_n=70)])
    assert both == Standing(Verdict.FAILS, -0.1, 0.3, 800, 200, True, 70, 20, 16)


def weighed(job, end=End.FRONT):
    return choice_of(job, evaluate(job, CATALOGUE, {}), end)


OTHERS = {
    "own": own_job(),
    "light": with_value(own_job(), "rider.mass_kg", 45),
    "heavy": with_value(with_value(own_job(), "rider.mass_kg", 140), "rides.descent.sections.1.gradient_pct", 16),
    "wet": with_value(own_job(), "conditions.surface", "wet_asphalt"),
    "worn": with_value(with_value(own_job(), "front.pad_state", "glazed"), "proposal.bedded", value=False),
}


@pytest.mark.parametrize("name", OTHERS)
def test_what_is_judged_together_is_what_each_is_by_itself(name) -> None:
    """All candidates of a kind in one go, against each with its own margins."""
    choice = weighed(OTHERS[name])
    for candidate in choice.candidates[:: len(choice.candidates) // 60]:
        told, judged = candidate.standing, candidate.judged
        open_before = candidate.open_before
        assert told.verdict is worst([open_before, *(m.verdict for m in judged.margins)])
        least = least_margin(judged.margins, wrong=open_before is Verdict.FAILS)
        assert told.smallest == pytest.approx(least, rel=1e-9, abs=1e-12)
        of_heat = [m for m in judged.margins if m.key in HEAT_MARGINS]
        assert told.coolest == pytest.approx(least_margin(of_heat), rel=1e-9, abs=1e-12)
        assert told.finger_target_n == pytest.approx(judged.forces.finger_target_n, rel=1e-12)
        assert told.grabby == (judged.forces.feel is Feel.GRABBY)
        assert candidate.fails == {m.key for m in judged.margins if m.verdict is Verdict.FAILS}
        assert told.price == pytest.approx(price_of(candidate.lines))
        assert told.mass_g == sum(
            p.mass_g for p in (candidate.rotor, candidate.caliper, candidate.lever, candidate.pad)
        )
    kinds = {(c.setup.caliper.fluid, c.pad.compound, c.rotor.construction) for c in choice.candidates}
    assert len(kinds) > 5


def test_the_least_turn_is_found_to_its_fineness() -> None:
    other = object()

    def differs(by):
        return other if by >= 13.3 else None

    at, found = _first_flip(differs, 60.0, 10.0, 1.0)
    assert found is other
    assert 13.3 <= at < 14.3
    assert _first_flip(differs, 10.0, 10.0, 1.0) == (10.0, None)
    assert _first_flip(differs, -40.0, 10.0, 1.0) == (-40.0, None)

    def fails_from_20(by):
        if by >= 20:
            raise ClavisError("no")

    # what cannot be told is not told to be the same
    assert _first_flip(fails_from_20, 60.0, 10.0, 1.0) == (10.0, None)
    down, _ = _first_flip(lambda by: other if by <= -27 else None, -40.0, 10.0, 1.0)
    assert -28 < down <= -27


def test_a_flip_is_where_it_says() -> None:
    """On this side of the flip the whole catalogue gives the pick, beyond it the other."""
    job = with_value(own_job(), "wishes.school", "lean")
    evaluation = evaluate(job, CATALOGUE, {})
    setups = {end: w.setup for end, w in evaluation.proposed.wheels.items()}
    told = []
    found = flips_of(job, evaluation.mountings[End.FRONT], School.LEAN, setups, evaluation.situation.elsewhere, {},
                     lambda done, total: told.append((done, total)))  # fmt: skip
    assert found is not None
    assert told == sorted(told)
    assert all(done <= total for done, total in told)
    assert {f.turn for f in found.flips} | {s.turn for s in found.stays} == set(Turn)
    heavier_flips = [f for f in found.flips if f.turn is Turn.MASS and f.more]
    assert heavier_flips, "a touring bike's leanest brake does not hold for any rider"
    flip = heavier_flips[0]

    def pick_at(mass):
        other = with_value(job, "rider.mass_kg", mass)
        choice = weighed(other)
        return choice.ranked(School.LEAN, 1)[0].heat_ids

    assert pick_at(flip.at - 1.0) == found.pick.heat_ids
    assert pick_at(flip.at) == flip.after.heat_ids != found.pick.heat_ids


def test_a_ride_is_made_steeper_typed_or_recorded() -> None:
    job = own_job()
    typed, _ = steeper(job, {}, 0.5)
    assert typed.ride.sections[0].gradient_pct == pytest.approx(10.5)
    assert heavier(job, {}, 3.0)[0].rider.mass_kg == 80
    situation = situation_of(typed)
    assert demand_of(typed, situation, evaluate(typed, CATALOGUE, {}).fitted.load).steep.gradient == pytest.approx(
        0.1425
    )


@pytest.fixture(scope="module")
def both():
    return {end: weighed(own_job(), end) for end in End}


@pytest.mark.parametrize("school", list(School))
def test_pairs_pair_as_they_say_and_nothing_of_their_sizes_beats_them(both, school) -> None:
    pairs = {p.pairing: p for p in pairs_of(both[End.FRONT], both[End.REAR], school)}
    assert set(pairs) == set(Pairing)
    for end, candidate in ((End.FRONT, pairs[Pairing.BY_LOAD].front), (End.REAR, pairs[Pairing.BY_LOAD].rear)):
        key = row_of_school(school).key
        assert key(candidate.standing) == min(key(c.standing) for c in both[end].candidates)
    for pairing, apart in ((Pairing.FRONT_LARGER, 1), (Pairing.EQUAL, 0)):
        pair = pairs[pairing]
        assert size_of(pair.front.rotor.diameter_mm) - size_of(pair.rear.rotor.diameter_mm) == apart
        assert pair.standing == together([pair.front.standing, pair.rear.standing])
        for end, mine in ((End.FRONT, pair.front), (End.REAR, pair.rear)):
            same = [c for c in both[end].candidates if size_of(c.rotor.diameter_mm) == size_of(mine.rotor.diameter_mm)]
            key = row_of_school(school).key
            assert key(mine.standing) == min(key(c.standing) for c in same)


def test_sizes_that_practice_takes_for_one_are_one_step() -> None:
    assert [size_of(mm) for mm in (140, 160, 180, 183, 185, 200, 203, 220, 223)] == [0, 1, 2, 2, 2, 3, 3, 4, 4]


@pytest.mark.parametrize(
    ("x", "y"), [(Measure.MASS, Measure.MARGIN), (Measure.PRICE, Measure.ROTOR), (Measure.FINGER, Measure.QUIET)]
)
def test_nothing_beats_the_front_in_both_and_everything_else_is_beaten(both, x, y) -> None:
    found = tradeoff_of(both[End.FRONT].candidates, x, y)
    signs = [-1 if MEASURES[f].more else 1 for f in (x, y)]

    def beats(p, q):
        a, b = (signs[0] * p.x, signs[1] * p.y), (signs[0] * q.x, signs[1] * q.y)
        return a[0] <= b[0] + 1e-9 and a[1] <= b[1] + 1e-9 and (a[0] < b[0] - 1e-9 or a[1] < b[1] - 1e-9)

    assert len(found.front) > 1
    for p in found.front:
        assert not any(beats(q, p) for q in found.points)
    on_front = {(p.x, p.y) for p in found.front}
    for q in found.points[::37]:
        assert (q.x, q.y) in on_front or any(beats(p, q) for p in found.front)
    assert len(found.points) + found.unplaced + found.beneath == len(both[End.FRONT].candidates)


def test_what_has_no_figure_is_counted_not_placed() -> None:
    job = with_value(with_value(own_job(), "front.lever_id", None), "bike.bar", "flat")
    cables = weighed(job).candidates
    found = tradeoff_of(cables, Measure.FLUID, Measure.MASS)
    assert found.unplaced == sum(c.fluid_c is None for c in cables) > 0


def test_a_light_rider_on_gravel_is_not_sold_the_largest_rotor() -> None:
    """Fork and frame allow 160: the job's school leaves what is on it, which holds, also where 203 would be allowed; on a
    bike without a brake it takes 140; and what the light hand takes is not grabby."""
    job = next(make for make in JOBS if make.__name__ == "gravel")({})
    for end in End:
        choice = weighed(job, end)
        sizes = sorted({c.rotor.diameter_mm for c in choice.candidates})
        assert sizes == [140, 160]
        lean = choice.ranked(School.LEAN, 1)[0]
        assert lean.untouched or lean.rotor.diameter_mm == 140
        assert lean.verdict is Verdict.HOLDS
        assert not choice.ranked(School.LIGHT_HAND, 1)[0].standing.grabby
        anew = min((c for c in choice.candidates if Axis.ROTOR in c.setup.new), key=lambda c: LEAN.key(c.standing))
        assert anew.rotor.diameter_mm == 140
    roomy = with_value(with_value(job, "front.max_rotor_mm", 203), "rear.max_rotor_mm", 203)
    for end in End:
        choice = weighed(roomy, end)
        lean = choice.ranked(School.LEAN, 1)[0]
        assert lean.untouched or lean.rotor.diameter_mm == 140
        anew = min((c for c in choice.candidates if Axis.ROTOR in c.setup.new), key=lambda c: LEAN.key(c.standing))
        assert anew.rotor.diameter_mm == 140


def test_a_pick_that_departs_from_practice_says_so_and_why() -> None:
    job = with_value(with_value(own_job(), "bike.use", "trail"), "rider.mass_kg", 60)
    by_size = {c.rotor.diameter_mm: c for c in weighed(job).candidates}

    def as_if(verdict):
        return replace(by_size[160], standing=replace(by_size[160].standing, verdict=verdict))

    assert not departure(job, End.FRONT, by_size[160])
    assert not departure(job, End.FRONT, by_size[180])
    large = plain(departure(job, End.FRONT, by_size[203]))
    assert large.startswith("Usual for such a rider is 160 to 180 at the front; the ride asks for more")
    assert plain(departure(job, End.REAR, by_size[180])).startswith("Usual for such a rider is 160 at the rear")
    heavy = with_value(job, "rider.mass_kg", 90)
    assert not departure(heavy, End.FRONT, by_size[203])
    assert "the ride asks for less" in plain(departure(heavy, End.FRONT, as_if(Verdict.HOLDS)))
    assert "asks for less" not in plain(
        departure(heavy, End.FRONT, as_if(Verdict.FAILS))
    )  # that is not said of what fails
    assert "nothing that can be fitted holds" in plain(departure(heavy, End.FRONT, as_if(Verdict.FAILS)))
    assert not departure(with_value(job, "bike.use", "road"), End.FRONT, by_size[203])


def test_a_budget_leaves_those_it_pays_for(both) -> None:
    choice = both[End.FRONT]
    less = choice.within(60.0)
    assert 0 < len(less.candidates) < len(choice.candidates)
    dear = [c.price for c in choice.candidates if c.price > 60]
    assert len(less.candidates) + len(dear) == len(choice.candidates)
    assert max(c.price for c in less.candidates) <= 60
    assert choice.within(1e6) == choice
