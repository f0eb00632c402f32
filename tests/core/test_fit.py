"""Fit: chain, bolts, clearances and drawing come from the same numbers."""

from dataclasses import replace

import pytest

from clavis.core.fit import PAD_ANGLE_DEG, Fit, fit_wheel
from clavis.core.mounts import BoltDirection, End, MountKind, ThreadMaterial
from clavis.core.verdicts import Verdict
from clavis.core.wheel import Wheel
from tests.bikes import CATALOGUE, caliper, own_job, rotor


def fit(wheel: Wheel, end: End = End.FRONT, r=None, c=None) -> Fit:
    return fit_wheel(wheel, end, r or rotor(), c or caliper(), CATALOGUE)


def wheel(**more) -> Wheel:
    return own_job().front.model_copy(update=more)


IS_REAR = {
    "mount_spacing_mm": 51.0, "bolt_direction": BoltDirection.CROSSWISE, "native_rotor_mm": None, "tab_mm": 5.0,
    "thread_material": ThreadMaterial.STEEL,
}  # fmt: skip
FLAT_REAR = {
    "mount_spacing_mm": 34.0,
    "bolt_direction": BoltDirection.THROUGH_STAY,
    "native_rotor_mm": 140.0,
    "tab_mm": 15.0,
}
FLAT_FRONT = {"mount_spacing_mm": 70.0, "bolt_direction": BoltDirection.INTO_LEG, "native_rotor_mm": 140.0}
FLAT_CALIPER = {"mount": "flat", "tab_mm": 6, "slot_mm": 2.0}


def lengths(found: Fit) -> list[float | None]:
    return [c.bolt.length_mm if c.bolt else None for c in found.bolts]


def test_a_wedge_takes_two_lengths() -> None:
    # upper 1 + 8 + 9.6 + 9 = 27.6 → 28; lower 1 + 8 + 10.4 + 9 = 28.4 → 30
    found = fit(wheel())
    assert found.chain.adapter is not None
    assert found.chain.adapter.id == "a-pp-160-180"
    assert lengths(found) == [28, 30]
    assert found.verdict is Verdict.HOLDS
    assert found.pad_edge_mm == pytest.approx(0)


def test_no_adapter_at_the_native_size() -> None:
    found = fit(wheel(), r=rotor(diameter_mm=160))
    assert found.chain.adapter is None
    assert lengths(found) == [18, 18]


def test_four_holes_take_four_bolts() -> None:
    found = fit(wheel(), r=rotor(diameter_mm=203))
    assert lengths(found) == [18, 18, 18, 18]
    assert [c.stack.into for c in found.bolts] == ["mount", "mount", "adapter", "adapter"]


def test_an_is_rear_serves_160_with_the_fronts_180_part() -> None:
    found = fit(wheel(**IS_REAR), End.REAR, rotor(diameter_mm=160))
    assert found.telling.kind is MountKind.IS
    assert found.chain.adapter is not None
    assert found.chain.adapter.id == "a-is-180-160"
    assert lengths(found) == [16, 16, 18, 18]


def test_a_flat_frame_bolts_from_below_through_the_stay() -> None:
    direct = fit(wheel(**FLAT_REAR), End.REAR, rotor(diameter_mm=140), caliper(**FLAT_CALIPER))
    assert lengths(direct) == [24, 24]  # 1 + 15 + 7.5 = 23.5
    spaced = fit(wheel(**FLAT_REAR), End.REAR, rotor(diameter_mm=160), caliper(**FLAT_CALIPER))
    assert lengths(spaced) == [34, 34]


def test_a_flat_fork_carries_its_plate() -> None:
    found = fit(wheel(**FLAT_FRONT), End.FRONT, rotor(diameter_mm=160), caliper(**FLAT_CALIPER))
    assert found.chain.adapter is not None
    assert found.chain.adapter.id == "a-ff-flip"
    assert len(found.bolts) == 4


def test_an_unmeasured_tab_is_unknown_and_not_guessed() -> None:
    found = fit(wheel(**(IS_REAR | {"tab_mm": None})), End.REAR, rotor(diameter_mm=160))
    assert lengths(found)[:2] == [None, None]
    assert "IS tab not measured" in found.bolts[0].lacks
    assert found.verdict is Verdict.UNKNOWN


def test_an_impossible_chain_fails_with_its_reason() -> None:
    found = fit(wheel(native_rotor_mm=180.0), r=rotor(diameter_mm=160))
    assert found.verdict is Verdict.FAILS
    assert "below the native size" in found.chain.reason
    assert not found.bolts


def test_a_conflict_is_unknown_and_shown() -> None:
    found = fit(wheel(bolt_direction=BoltDirection.CROSSWISE))
    assert found.verdict is Verdict.UNKNOWN
    assert "says post mount" in found.chain.reason


def test_clearances() -> None:
    by_label = {c.label: c for c in fit(wheel(max_rotor_mm=None), c=caliper(slot_mm=1.7)).clearances}
    assert by_label["rotor in the slot"].verdict is Verdict.FAILS
    assert by_label["largest rotor allowed"].verdict is Verdict.UNKNOWN
    over = {c.label: c for c in fit(wheel(max_rotor_mm=160)).clearances}
    assert over["largest rotor allowed"].verdict is Verdict.FAILS
    riveted = {c.label: c for c in fit(wheel(), r=rotor(rivet_out_mm=1.8), c=caliper(rivet_room_mm=2.0)).clearances}
    assert riveted["rivets to caliper"].verdict is Verdict.TIGHT


def test_an_adapter_whose_height_disagrees_with_its_sizes_shows_at_the_pad_edge() -> None:
    part = CATALOGUE.adapters["a-pp-160-180"].model_copy(update={"upper_mm": 11.6, "lower_mm": 11.6})
    found = fit_wheel(wheel(), End.FRONT, rotor(), caliper(), replace(CATALOGUE, adapters={part.id: part}))
    assert found.pad_edge_mm == pytest.approx(1.6)
    edge = next(c for c in found.clearances if c.label == "pad to rotor's edge")
    assert edge.verdict is Verdict.FAILS
    assert found.drawing is not None
    assert any(p.layer == "conflict" for p in found.drawing.polygons)


def test_the_drawing_holds_the_same_numbers() -> None:
    found = fit(wheel())
    assert found.drawing is not None
    rotor_circle = next(c for c in found.drawing.circles if c.layer == "rotor")
    track = next(c for c in found.drawing.circles if c.layer == "track")
    assert rotor_circle.r == 90
    assert track.r == pytest.approx(75.5)
    pad = next(p for p in found.drawing.polygons if p.layer == "pad")
    reach = max((x**2 + y**2) ** 0.5 for x, y in pad.points)
    half = 12.0
    assert reach == pytest.approx((90**2 + half**2) ** 0.5, abs=1e-6)
    bolts = [p for p in found.drawing.polygons if p.layer == "bolt" and "28" in p.title]
    (a, b, *_rest) = bolts[0].points
    assert ((a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2) ** 0.5 == pytest.approx(28)


@pytest.mark.parametrize("key", list(PAD_ANGLE_DEG), ids=lambda k: f"{k[0].value}-{k[1].value}")
def test_every_mount_is_drawn_on_its_own_side_of_the_axle(key) -> None:
    """Front calipers sit behind the fork, rear ones ahead of the axle: seen from the left, right and left."""
    mount, end = key
    shape = {
        MountKind.POST: ({}, {}), MountKind.IS: (IS_REAR, {}), MountKind.FLAT_FRONT: (FLAT_FRONT, FLAT_CALIPER),
        MountKind.FLAT_REAR: (FLAT_REAR, FLAT_CALIPER),
    }[mount]  # fmt: skip
    found = fit(wheel(**shape[0]), end, rotor(diameter_mm=160), caliper(**shape[1]))
    assert found.drawing is not None
    body = next(p for p in found.drawing.polygons if p.title.startswith("caliper M"))
    x = sum(p[0] for p in body.points) / 4
    y = sum(p[1] for p in body.points) / 4
    assert (x > 0) == (end is End.FRONT)
    assert y > 0
