"""The bolt sum: worked by hand, and what any chosen bolt must satisfy."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from clavis.core.fit.bolts import BoltStack, Rack, StackLayer, also_do, choose_bolt, judge_length
from clavis.core.parts.models import Bolt
from clavis.core.parts.mounts import ThreadMaterial
from clavis.core.sentences import render
from clavis.core.units import System
from clavis.web.shell.templates import TEMPLATES
from tests.bikes import CATALOGUE, plain

STOCK = list(CATALOGUE.bolts.values())
RACK = Rack.of(STOCK)
ALLOY, STEEL = ThreadMaterial.LIGHT_ALLOY, ThreadMaterial.STEEL


def stack(*heights: float | None, thread="M6", material=ALLOY, depth: float | None = 15.0) -> BoltStack:
    layers = tuple(StackLayer(f"layer {k}", h) for k, h in enumerate(heights))
    return BoltStack("upper", thread, layers, material, depth, "mount")


@pytest.mark.parametrize(
    ("heights", "material", "depth", "low", "high", "length"),
    [
        # washer 1 + tab 8 = 9; + 1.5 · 6 = 18; 9 + 15 − 1 = 23
        ((1, 8), ALLOY, 15.0, 18, 23, 18),
        # a wedge: 1 + 8 + 10.4 = 19.4; 28.4 to 33.4
        ((1, 8, 10.4), ALLOY, 15.0, 28.4, 33.4, 30),
        # steel needs one diameter: 9 + 6 = 15; 9 + 11 = 20
        ((1, 8), STEEL, 12.0, 15, 20, 16),
    ],
)
def test_the_sum_by_hand(heights, material, depth, low, high, length) -> None:
    choice = choose_bolt(stack(*heights, material=material, depth=depth), RACK)
    assert choice.minimum_mm == pytest.approx(low)
    assert choice.maximum_mm == pytest.approx(high)
    assert choice.bolt is not None
    assert choice.bolt.length_mm == length


def test_why_not_the_next_shorter_and_the_next_longer() -> None:
    choice = choose_bolt(stack(1, 8, depth=11.0), RACK)
    assert choice.bolt is not None
    assert choice.bolt.length_mm == 18
    assert "M6 × 16 would hold in 7.0 mm of thread; 9.0 mm are needed" in choice.shorter
    assert "M6 × 20 would end 0.0 mm from the end" in choice.longer
    assert "would bottom out" in choose_bolt(stack(1, 8, depth=10.0), RACK).longer


def test_no_stock_length_is_said_and_not_bent() -> None:
    choice = choose_bolt(stack(1, 8.5, depth=9.6), RACK)  # 18.5 to 18.1
    assert choice.bolt is None
    assert plain(choice.lacks) == "no stock length between 18.5 mm and 18.1 mm"
    assert plain(choice.shorter).startswith("M6 × 18 would hold in 8.5 mm")
    assert plain(choice.longer).startswith("M6 × 20 would bottom out")


def test_an_unknown_thread_or_layer_gives_no_bolt() -> None:
    assert (
        plain(choose_bolt(stack(1, 8, material=None), RACK).lacks) == "material of the thread in the mount not measured"
    )
    unknown = choose_bolt(stack(1, None), RACK)
    assert unknown.bolt is None
    assert unknown.minimum_mm is None
    assert plain(unknown.lacks) == "layer 1 not measured"


def test_an_unmeasured_depth_is_taken_as_typical_and_says_so() -> None:
    choice = choose_bolt(stack(1, 8, depth=None), RACK)
    assert choice.depth_typical
    assert choice.maximum_mm == pytest.approx(1 + 8 + 15 - 1)
    assert any("typical" in g.source for g in choice.figure.given)
    assert choose_bolt(stack(1, 3, thread="M5", depth=None), RACK).maximum_mm == pytest.approx(4 + 10 - 1)


def test_the_unthreaded_shank_stays_out_of_the_thread() -> None:
    long = Bolt(
        id="x", maker="m", model="x", price=0, mass_g=9, thread="M6", length_mm=40, head_height_mm=6,
        drive="5 mm hex", thread_mm=18, coated=True,
    )  # fmt: skip
    # stack 30: the shank of 22 mm ends inside the stack; stack 20: it would reach the thread
    assert choose_bolt(stack(30), Rack.of([long])).bolt is long
    assert choose_bolt(stack(20, depth=25), Rack.of([long])).bolt is None


@given(
    st.floats(2, 40), st.sampled_from([ALLOY, STEEL]), st.floats(5, 25), st.sampled_from(["M5", "M6"]),
)  # fmt: skip
def test_a_chosen_bolt_always_satisfies_its_sum(height: float, material, depth: float, thread) -> None:
    choice = choose_bolt(stack(height, thread=thread, material=material, depth=depth), RACK)
    if choice.bolt is None:
        return
    d = {"M5": 5, "M6": 6}[thread]
    engagement = choice.bolt.length_mm - height
    assert choice.bolt.thread == thread
    assert engagement >= (1.5 if material is ALLOY else 1.0) * d - 1e-6
    assert choice.bottom_mm is not None
    assert choice.bottom_mm >= 1 - 1e-6
    shorter = [b for b in STOCK if b.thread == thread and b.length_mm < choice.bolt.length_mm]
    assert all(b.length_mm < (choice.minimum_mm or 0) - 1e-9 or b.length_mm - b.thread_mm > height for b in shorter)


@pytest.mark.parametrize("system", list(System))
def test_a_bolt_keeps_its_metric_name_to_the_half_millimetre(system: System) -> None:
    """It is sold by its thread and millimetres, whatever the reader measures in."""
    for length_mm, told in ((10.5, "M6 × 10.5 would hold"), (16.0, "M6 × 16 would hold"), (18.0, "M6 × 18 would also")):
        assert render(judge_length(stack(1, 8, depth=15.0), length_mm).words, system).startswith(told)
    assert TEMPLATES.filters["size"](10.5) == "10.5"


@given(
    st.lists(
        st.tuples(
            st.sampled_from(range(len(STOCK))), st.floats(0, 9), st.sampled_from([0.0, 2.5]), st.sampled_from([4.0, 14.0]),
            st.booleans(),
        ),
        min_size=1, max_size=30,
    ),
    st.floats(2, 40), st.sampled_from([None, 3.2, 6.0]), st.sampled_from(["M5", "M6"]),
)  # fmt: skip
def test_a_rack_finds_what_a_look_at_every_bolt_finds(drawn, height: float, room: float | None, thread) -> None:
    """Of however many that differ in name and price: the shortest, of those the cheapest, whose shank and head go in."""
    shelf = [
        STOCK[k].model_copy(
            update={"id": f"b{n}", "price": price, "head_height_mm": 3.0 + head, "thread_mm": tip, "retired": retired}
        )
        for n, (k, price, head, tip, retired) in enumerate(drawn)
    ]
    asked = replace(stack(height, thread=thread), head_room_mm=room)
    choice = choose_bolt(asked, Rack.of(shelf))
    right = [
        b for b in shelf
        if not b.retired and b.thread == thread and choice.minimum_mm - 1e-9 <= b.length_mm <= choice.maximum_mm + 1e-9
        and b.length_mm - b.thread_mm <= height + 1e-9 and (room is None or b.head_height_mm <= room + 1e-9)
    ]  # fmt: skip
    right.sort(key=lambda b: (b.length_mm, b.price, b.id))
    assert choice.bolt == (right[0] if right else None)
    assert also_do(choice, Rack.of(shelf)) == tuple(b for b in right if b != choice.bolt)
