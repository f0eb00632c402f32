"""Where mount and caliper stand about the axle: by hand (docs/mounts.md), and what must be so for any size."""

from cmath import phase
from math import degrees

import pytest
from hypothesis import given
from hypothesis import strategies as st

from clavis.core.fit.adapters import ChainAnswer
from clavis.core.fit.mount_geometry import CALIPER_BODY, NOMINAL, seat_of, stand_on
from clavis.core.job.wheel import Wheel
from clavis.core.parts.mounts import BoltDirection, CaliperMount, End, MountKind
from clavis.core.verdicts import Verdict
from tests.bikes import CATALOGUE, adapter, fit_on, own_mounting

POST = {"mount_spacing_mm": 74.2, "bolt_direction": BoltDirection.ALONG_POST, "native_rotor_mm": 160.0}
UPPER_MM, LOWER_MM = 74.10, 80.78
"""from the axle to the holes of a front post mount for 160, worked out in docs/mounts.md"""


def seat(**more):
    return seat_of(MountKind.POST, End.FRONT, 160, Wheel(**POST, **more))


def stand(on, parts=(), rotor_mm: float = 160, mount=MountKind.POST, end=End.FRONT, native: float = 160):
    chain = ChainAnswer(True, "", adapter=parts[0] if parts else None, plate=parts[1] if len(parts) > 1 else None)
    return stand_on(on, mount, end, native, CaliperMount.POST, chain, rotor_mm)


def test_a_post_mount_by_hand() -> None:
    made = seat()
    assert abs(made.upper) == pytest.approx(UPPER_MM, abs=0.005)
    assert abs(made.lower) == pytest.approx(LOWER_MM, abs=0.005)
    assert abs(made.upper - made.lower) == pytest.approx(74.2)
    assert abs(made.pad_edge) == pytest.approx(80)


def test_holes_measured_where_the_standard_has_them_change_nothing() -> None:
    made, read = seat(), seat(upper_hole_mm=abs(seat().upper), lower_hole_mm=abs(seat().lower))
    assert read.measured
    assert not made.measured
    assert read.proud_mm == pytest.approx(0, abs=1e-9)
    assert abs(read.upper - made.upper) < 1e-9
    assert abs(read.lower - made.lower) < 1e-9


@given(
    st.sampled_from(list(NOMINAL)), st.sampled_from([140.0, 160.0, 180.0, 203.0]), st.floats(-8, 8), st.floats(-8, 8),
    st.floats(-0.9, 0.9),
)  # fmt: skip
def test_three_measured_distances_are_what_the_seat_has(place, native, upper_off, lower_off, pitch_off) -> None:
    mount, end = place
    made = seat_of(mount, end, native, Wheel())
    wheel = Wheel(
        upper_hole_mm=abs(made.upper) + upper_off, lower_hole_mm=abs(made.lower) + lower_off,
        mount_spacing_mm=abs(made.upper - made.lower) + pitch_off,
    )  # fmt: skip
    read = seat_of(mount, end, native, wheel)
    if read.conflict:
        return
    assert abs(read.upper) == pytest.approx(wheel.upper_hole_mm)
    assert abs(read.lower) == pytest.approx(wheel.lower_hole_mm)
    assert abs(read.upper - read.lower) == pytest.approx(wheel.mount_spacing_mm)


def test_distances_that_make_no_triangle_are_a_conflict_and_not_bent() -> None:
    found = seat(upper_hole_mm=20, lower_hole_mm=110)
    assert "cannot be 74.2 mm apart" in found.conflict
    assert abs(found.upper - seat().upper) < 1e-9


@given(st.sampled_from(list(NOMINAL)), st.floats(140, 180), st.floats(0, 80), st.floats(-25, 25))
def test_a_part_carries_the_caliper_outward_by_half_the_change_of_diameter(place, native, step, around) -> None:
    mount, end = place
    part = adapter(
        from_mm=None if mount is MountKind.IS else native, fits=[(end.value, native + step)], around_mm=around,
        style="side" if mount is MountKind.IS else "four_hole",
    )  # fmt: skip
    on = seat_of(mount, end, native, Wheel())
    there = stand(on, (part,), native + step, mount, end, native)
    shift = step / 2
    assert abs(there.pad_edge) - abs(on.pad_edge) == pytest.approx(shift, abs=1e-9)
    assert there.arc_error_mm(15) == pytest.approx(0, abs=1e-9)
    assert abs(there.upper - there.lower) == pytest.approx(CALIPER_BODY[CaliperMount.POST].pitch_mm)


@pytest.mark.parametrize(
    "part", [a for a in CATALOGUE.adapters.values() if a.style.value == "through"], ids=lambda a: a.id
)
@pytest.mark.parametrize("end", list(End))
def test_the_wedges_of_the_catalogue_leave_the_pads_on_the_track(part, end) -> None:
    assert part.from_mm is not None
    to = part.fits[0].rotor_mm
    on = seat_of(MountKind.POST, end, part.from_mm, Wheel())
    there = stand(on, (part,), to, MountKind.POST, end, part.from_mm)
    assert there.edge_error_mm(to) == pytest.approx(0, abs=0.1)
    assert there.arc_error_mm(15) < 0.1


def test_a_wedge_put_in_upside_down_turns_the_pads_out_of_the_track() -> None:
    part = CATALOGUE.adapters["a-pp-160-180"]
    turned = part.model_copy(update={"upper_mm": part.lower_mm, "lower_mm": part.upper_mm})
    right, wrong = stand(seat(), (part,), 180), stand(seat(), (turned,), 180)
    assert wrong.tilt_deg > right.tilt_deg + 1
    assert wrong.arc_error_mm(15) > 10 * right.arc_error_mm(15)


def fitted(**more):
    """Our own rear wheel's brake at the front, as it is on the bike: a 160 with no adapter, both holes read."""
    here = {"rotor_id": "q-disc-160", "adapter_id": None, "no_adapter": True}
    return fit_on(own_mounting(**{"upper_hole_mm": UPPER_MM, "lower_hole_mm": LOWER_MM, **here, **more}))


def test_half_a_millimetre_at_one_hole_moves_everything_together() -> None:
    """Drawing, pad edge, engagement and verdict come from the same coordinates."""
    from clavis.core.fit.drawing import draw

    before, after = fitted(), fitted(upper_hole_mm=UPPER_MM + 0.5, lower_hole_mm=LOWER_MM + 0.2)
    one = fitted(upper_hole_mm=UPPER_MM + 0.5)
    assert before.verdict is Verdict.HOLDS
    # by hand: the middle of the holes goes out by about a quarter of a millimetre, and the pads with it
    assert one.pad_edge_mm - before.pad_edge_mm == pytest.approx(0.25, abs=0.08)
    # 18 mm had just its 9 of thread; what the face stands proud is lost, and the next length is taken
    assert [f.bolts[0].bolt.length_mm for f in (before, one)] == [18, 20]
    grip = one.bolts[0].engagement_mm
    assert before.bolts[0].engagement_mm + 2 - grip == pytest.approx(one.seat.proud_mm, abs=0.01)
    was, now = draw(before), draw(one)

    def points(drawing, of: str) -> tuple:
        return next(s.points for s in drawing.shapes if s.of == of)

    for of in ("mount", "caliper", "pads", "bolts"):
        assert points(was, of) != points(now, of)
    edges = [next(c for c in f.checks if c.key == "edge") for f in (before, one, after)]
    assert [e.verdict for e in edges] == [Verdict.HOLDS, Verdict.HOLDS, Verdict.TIGHT]
    assert after.verdict is Verdict.TIGHT
    assert fitted(upper_hole_mm=UPPER_MM + 0.5, lower_hole_mm=LOWER_MM + 0.7).verdict is Verdict.FAILS


def test_a_face_inside_its_place_has_lost_thread() -> None:
    low = fitted(upper_hole_mm=UPPER_MM - 0.4, lower_hole_mm=LOWER_MM - 0.4)
    assert low.seat.proud_mm < -0.3
    assert low.bolts[0].maximum_mm == pytest.approx(fitted().bolts[0].maximum_mm + low.seat.proud_mm, abs=0.01)


def test_holes_that_belong_to_another_size_are_not_believed() -> None:
    found = fitted(upper_hole_mm=UPPER_MM + 9, lower_hole_mm=LOWER_MM + 9)
    assert next(c for c in found.checks if c.key == "holes").verdict is Verdict.UNKNOWN
    assert found.verdict is not Verdict.HOLDS


def test_a_carrier_and_its_plate_add_up() -> None:
    carrier, plate = CATALOGUE.adapters["a-ff-carry"], CATALOGUE.adapters["a-ff-160-180"]
    on = seat_of(MountKind.FLAT_FRONT, End.FRONT, 140, Wheel())
    there = stand(on, (carrier, plate), 180, MountKind.FLAT_FRONT, End.FRONT, 140)
    assert there.position_mm == pytest.approx(180)


def test_the_wedge_of_the_page_by_hand() -> None:
    """Figures of docs/mounts.md: 160 to 180 on a wedge of 9.6 and 10.4."""
    part = CATALOGUE.adapters["a-pp-160-180"]
    on = seat()
    there = stand(on, (part,), 180)
    out, across = there.pad_edge / on.bolt_axis, there.along / on.along
    assert (out.real, out.imag) == pytest.approx((89.69, -6.84), abs=0.006)
    assert abs(there.pad_edge) == pytest.approx(89.96, abs=0.005)
    assert degrees(phase(across)) == pytest.approx(0.62, abs=0.005)
    assert there.tilt_deg == pytest.approx(0.02, abs=0.005)
    turned = part.model_copy(update={"upper_mm": part.lower_mm, "lower_mm": part.upper_mm})
    assert stand(on, (turned,), 180).tilt_deg == pytest.approx(1.09, abs=0.005)
