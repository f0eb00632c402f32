"""Special plates: geometry by hand, checks at their limits, and a way to metal that cannot be cut short."""

from itertools import combinations

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from clavis.core.fit.plate_release import SPECIAL_CAUTIONS, Stage, check_fails, corrected, ruler_wrong, stages_of
from clavis.core.fit.special_plate import EDGE_DIAMETERS, hole_distances, hole_loads, loads_of, plate_of
from clavis.core.job.special_mount import DummyChecked, Release, SpecialMount, TemplateTried, Tried, lacks_of
from clavis.core.parts.mounts import End, ThreadMaterial
from clavis.core.parts.threads import THREADS
from clavis.core.sentences import joined
from clavis.core.verdicts import Verdict
from tests.bikes import CATALOGUE, caliper, fit_on, mounting, own_job, pad, plain, rotor

STOCK = list(CATALOGUE.bolts.values())
MEASURED = {
    "caliper_id": "c", "upper_x_mm": 92.0, "upper_y_mm": 78.0, "lower_x_mm": 104.0, "lower_y_mm": 28.0,
    "rotor_mm": 203.0, "pitch_mm": 84.0, "line_to_edge_mm": 6.0, "pad_angle_deg": 0.0,
    "mount_face_mm": 28.0, "caliper_face_mm": 14.0,
    "material": ThreadMaterial.LIGHT_ALLOY, "tab_mm": 6.0, "ear_mm": 12.0,
}  # fmt: skip
WHO = {"who": "Tess", "at": "2026-11-25T10:00"}


def mount(**more) -> SpecialMount:
    return SpecialMount(**(MEASURED | more))


def plate(end: End = End.FRONT, **more):
    found = plate_of(mount(**more), end, STOCK)
    assert found is not None
    return found


def check(found, key: str):
    return next(c for c in found.checks if c.key == key)


def hole(found, name: str):
    return next(h for h in found.holes if h.name == name)


def test_the_holes_by_hand() -> None:
    """Pads straight behind the axle: their edge at 101.5, the bolts' line 6 inside it, the bolts 42 above and below."""
    found = plate()
    assert (hole(found, "caliper upper").x_mm, hole(found, "caliper upper").y_mm) == (95.5, 42.0)
    assert (hole(found, "caliper lower").x_mm, hole(found, "caliper lower").y_mm) == (95.5, -42.0)
    assert found.distance_mm("upper", "lower") == pytest.approx((12**2 + 50**2) ** 0.5)
    assert hole(found, "upper").bore_mm == 5.0  # M6 tapped
    assert hole(found, "caliper upper").bore_mm == 6.8  # M8 tapped
    # M8 in light alloy: 1.5 × 8 + 1 = 13; the room between the faces is 14, and the plate fills it
    assert found.needed_thickness_mm == 13
    assert (found.thickness_mm, found.spacer_mm) == (14, 0)
    assert found.rim_mm == 16  # two diameters of the M8
    assert found.verdict is Verdict.HOLDS


@pytest.mark.parametrize("angle", range(-180, 181, 15))
@pytest.mark.parametrize("end", End)
def test_upper_is_above_lower_at_every_angle(end: End, angle: int) -> None:
    found = plate(end, pad_angle_deg=float(angle), turn_deg=12.0)
    assert hole(found, "caliper upper").y_mm >= hole(found, "caliper lower").y_mm
    assert found.distance_mm("caliper upper", "caliper lower") == pytest.approx(84.0, abs=0.002)


def test_holes_that_are_called_the_other_way_round_are_refused() -> None:
    found = plate(upper_y_mm=28.0, lower_y_mm=78.0)
    assert check(found, "names").verdict is Verdict.FAILS
    assert "50.0 mm below the lower one" in plain(check(found, "names").words)


def test_every_distance_between_two_holes_is_told() -> None:
    found = hole_distances(plate())
    assert len(found) == 6  # four holes
    told = {(d.first, d.second): d.apart_mm for d in found}
    assert told["upper", "lower"] == pytest.approx((12**2 + 50**2) ** 0.5)
    assert told["caliper upper", "caliper lower"] == pytest.approx(84.0)
    assert told["upper", "caliper upper"] == pytest.approx((3.5**2 + 36**2) ** 0.5)


def test_the_bolt_sums_by_hand() -> None:
    # tab: 1 + 6 = 7, + 9 = 16; ear: 1 + 12 = 13, + 12 = 25 → 26; both end a millimetre short of 14
    assert [c.bolt.length_mm for c in plate().bolts] == [16, 16, 26, 26]
    sunk = plate(mount_bolts="into_boss", boss_material="steel", boss_depth_mm=12.0, counterbore_mm=5.0)
    # plate 14 − 5 = 9, + 6 = 15 → 16; counterbores of M6 heads
    assert sunk.bolts[0].bolt.length_mm == 16
    assert (hole(sunk, "upper").bore_mm, hole(sunk, "upper").counterbore_mm) == (6.6, 11.0)
    into_ear = plate(caliper_bolts="into_ear")
    assert into_ear.bolts[2].stack.into == "caliper"
    assert into_ear.needed_thickness_mm == 10  # only the M6 thread is left in it


def test_a_third_hole_is_one_more_of_everything() -> None:
    found = plate(third_x_mm=112.0, third_y_mm=54.0)
    assert [h.name for h in found.holes] == ["upper", "lower", "third", "caliper upper", "caliper lower"]
    assert len(found.bolts) == 5


def test_what_is_missing_is_named_and_nothing_is_assumed() -> None:
    assert plate_of(SpecialMount(), End.FRONT, STOCK) is None
    assert {name for name, _ in lacks_of(SpecialMount())} >= set(MEASURED) - {"tab_mm"}
    assert lacks_of(mount(pitch_mm=None)) == (("pitch_mm", "pitch of the caliper's bolts"),)
    assert lacks_of(mount(third_x_mm=5.0)) == (("third_y_mm", "third hole"),)
    assert lacks_of(mount(mount_bolts="into_boss")) == (("boss_material", "material of the boss"),)


@pytest.mark.parametrize(
    ("more", "key", "verdict"),
    [
        ({"upper_y_mm": 50.5}, "walls", Verdict.FAILS),  # 3.5 aside and 8.5 up from the caliper's bolt
        ({"upper_x_mm": 95.5, "upper_y_mm": 53.0}, "walls", Verdict.TIGHT),  # 11 − (6 + 8)/2 = 4
        ({"upper_x_mm": 95.5, "upper_y_mm": 42.4}, "walls", Verdict.FAILS),
        ({"rim_mm": 15.9}, "edges", Verdict.FAILS),  # two diameters of the M8
        ({"rim_mm": 16.0}, "edges", Verdict.HOLDS),
        ({"thickness_mm": 12.9}, "thickness", Verdict.FAILS),
        ({"thickness_mm": 13.0}, "thickness", Verdict.HOLDS),
        ({"thickness_mm": 15.0}, "spacer", Verdict.FAILS),
        ({"mount_face_mm": 40.0}, "spacer", Verdict.HOLDS),
        ({"ear_mm": 12.5}, "bolt caliper upper, ear to plate", Verdict.HOLDS),
        ({"mount_bolts": "into_boss", "boss_material": "steel"}, "bolt upper, plate to boss", Verdict.TIGHT),
        ({"mount_bolts": "into_boss", "boss_material": "steel", "boss_depth_mm": 5.0}, "bolt upper, plate to boss",
         Verdict.FAILS),
    ],
)  # fmt: skip
def test_each_check_at_its_limit(more, key, verdict) -> None:
    assert check(plate(**more), key).verdict is verdict


def test_a_spacer_is_part_of_the_bolt_sum() -> None:
    wide = plate(mount_face_mm=40.0)  # room 26, plate 15 of stock, spacer 11: 1 + 6 + 11 + 9 = 27 → 28
    assert (wide.thickness_mm, wide.spacer_mm) == (15, 11)
    assert wide.bolts[0].bolt.length_mm == 28


@given(st.floats(-170, 170), st.floats(40, 140), st.floats(-30, 40), st.floats(-6, 6), st.floats(-8, 8))
def test_pitch_and_pads_are_what_was_asked_for(angle, pitch, line, out, turn) -> None:
    for end in End:
        found = plate(end, pad_angle_deg=angle, pitch_mm=pitch, line_to_edge_mm=line, out_mm=out, turn_deg=turn)
        assert found.distance_mm("caliper upper", "caliper lower") == pytest.approx(pitch, abs=0.002)
        assert abs(found.pad_edge) == pytest.approx(101.5 + out)
        middle = (hole(found, "caliper upper").at + hole(found, "caliper lower").at) / 2
        assert abs(found.pad_edge - middle) == pytest.approx(abs(line), abs=0.002)


@given(st.lists(st.tuples(st.floats(-150, 150), st.floats(-150, 150)), min_size=3, max_size=3))
def test_the_edge_is_its_distance_from_every_hole(places) -> None:
    (ux, uy), (lx, ly), (tx, ty) = places
    named = (complex(ux, uy), complex(lx, ly), complex(tx, ty))
    assume(min(abs(a - b) for a, b in combinations(named, 2)) > 2)
    found = plate(upper_x_mm=ux, upper_y_mm=uy, lower_x_mm=lx, lower_y_mm=ly, third_x_mm=tx, third_y_mm=ty)
    needed = max(EDGE_DIAMETERS[ThreadMaterial.LIGHT_ALLOY] * THREADS[h.thread].diameter_mm for h in found.holes)
    for side in found.outline:
        assert abs(side.end - side.corner) == pytest.approx(found.rim_mm)
        assert abs(side.arc_end - side.corner) == pytest.approx(found.rim_mm)
        way = (side.end - side.start) / abs(side.end - side.start)
        for h in found.holes:  # every hole is inside each side by at least the rim, and the rim is enough
            assert ((h.at - side.start) / way).imag >= found.rim_mm - 1e-6
    assert found.rim_mm >= needed
    ends = [side.arc_end for side in found.outline]
    starts = [side.start for side in found.outline]
    assert all(abs(a - b) < 1e-6 for a, b in zip(ends, starts[1:] + starts[:1], strict=True))


# ---- the way to metal
def tried(m: SpecialMount, upto: Stage, angle: float = 0.2, edge: float = 0.1, **flags) -> SpecialMount:
    found = plate_of(m, End.FRONT, STOCK)
    assert found is not None
    act = {**WHO, "geometry": found.geometry}
    done = {"template": TemplateTried(**act, ruler_mm=100.0)}
    if upto is not Stage.TEMPLATE:
        done["dummy"] = Tried(**act)
    if upto in (Stage.CHECK, Stage.RELEASE):
        flags = {"turns_free": True, "clears": True, **flags}
        done["checked"] = DummyChecked(**act, angle_off_deg=angle, edge_off_mm=edge, **flags)
    if upto is Stage.RELEASE:
        done["released"] = Release(**act, engineer="Berit Aske", qualification="Dipl.-Ing., roll 1", drawing="D-7")
    return m.model_copy(update=done)


def standing(m: SpecialMount) -> dict[Stage, tuple[bool, bool]]:
    return {s.stage: (s.done, s.open) for s in stages_of(m, plate_of(m, End.FRONT, STOCK))}


def test_the_stages_open_one_after_the_other() -> None:
    assert [s for s, (_, is_open) in standing(mount()).items() if is_open] == [Stage.TEMPLATE]
    assert standing(tried(mount(), Stage.TEMPLATE))[Stage.DUMMY] == (False, True)
    assert standing(tried(mount(), Stage.DUMMY))[Stage.CHECK] == (False, True)
    checked = standing(tried(mount(), Stage.CHECK))
    assert checked[Stage.RELEASE] == (False, True)
    assert checked[Stage.CORRECTION] == (True, False)
    assert standing(tried(mount(), Stage.RELEASE))[Stage.RELEASE][0]
    assert not any(is_open for _, is_open in standing(mount(pitch_mm=None)).values())


@pytest.mark.parametrize(
    ("read", "words"),
    [
        ({"edge": 0.6}, "0.6 mm over"), ({"edge": -0.6}, "0.6 mm short of"), ({"angle": 1.1}, "turned by +1.1°"),
        ({"turns_free": False}, "does not turn free"), ({"clears": False}, "do not clear"),
    ],
)  # fmt: skip
def test_a_dummy_that_stands_wrong_is_corrected_and_never_released(read, words) -> None:
    m = tried(mount(), Stage.CHECK, **read)
    assert words in plain(joined(check_fails(m.checked)))
    stand = standing(m)
    moves = set(read) & {"edge", "angle"}  # what does not clear is not cured by a shift
    assert stand[Stage.CORRECTION] == (False, bool(moves))
    assert stand[Stage.RELEASE] == (False, False)


def test_a_correction_takes_off_what_was_read_and_begins_again() -> None:
    m = tried(mount(), Stage.CHECK, edge=0.8, angle=2.0)
    values = corrected(m)
    assert values == {"out_mm": -0.8, "turn_deg": -2.0}
    again = m.model_copy(update=values)
    stand = standing(again)
    assert stand[Stage.TEMPLATE] == (False, True)
    assert not stand[Stage.CHECK][0]
    before, after = plate_of(m, End.FRONT, STOCK), plate_of(again, End.FRONT, STOCK)
    assert abs(after.pad_edge) - abs(before.pad_edge) == pytest.approx(-0.8)
    # top turned inward again: the upper bolt comes nearer to the axle than the lower one
    assert abs(hole(after, "caliper upper").at) < abs(hole(after, "caliper lower").at)


@pytest.mark.parametrize(
    "change", [{"upper_x_mm": 92.5}, {"thickness_mm": 14.0}, {"turn_deg": 0.1}, {"rotor_mm": 200.0}]
)
def test_any_change_takes_the_release_back(change) -> None:
    m = tried(mount(), Stage.RELEASE).model_copy(update=change)
    assert not standing(m)[Stage.RELEASE][0]
    assert "again" in next(s.words for s in stages_of(m, plate_of(m, End.FRONT, STOCK)) if s.stage is Stage.TEMPLATE)


def test_a_failing_check_blocks_the_release_and_says_which() -> None:
    m = tried(mount(thickness_mm=15.0), Stage.CHECK)
    view = next(s for s in stages_of(m, plate_of(m, End.FRONT, STOCK)) if s.stage is Stage.RELEASE)
    assert not view.open
    assert "room between the faces" in view.words


@pytest.mark.parametrize(("read", "wrong"), [(100.0, False), (99.6, False), (100.4, False), (99.5, True), (98.5, True)])
def test_a_printer_that_scales_is_found_out(read, wrong) -> None:
    assert bool(ruler_wrong(read)) == wrong


def fitted(m: SpecialMount | None, mm: float = 203):
    job = own_job()
    wheel = job.front.model_copy(update={"native_rotor_mm": None, "adapter_id": None})
    special = job.special.model_copy(update={"front": m or SpecialMount()})
    on = mounting(job.model_copy(update={"front": wheel, "special": special}))
    return fit_on(on, rotor=rotor(diameter_mm=mm), caliper=caliper(), pad=pad())


def test_only_a_released_plate_carries_the_fit() -> None:
    assert not fitted(tried(mount(), Stage.CHECK)).chain.possible
    found = fitted(tried(mount(), Stage.RELEASE))
    assert found.chain.possible
    assert "released by Berit Aske" in found.chain.reason
    assert [b.length_mm for b in (c.bolt for c in found.bolts)] == [16, 16, 26, 26]
    assert found.pad_edge_mm == pytest.approx(0)
    assert not fitted(tried(mount(), Stage.RELEASE), mm=180).chain.possible
    assert not fitted(tried(mount(caliper_id="another"), Stage.RELEASE)).chain.possible


def test_the_loads_of_the_bolts_balance_the_force() -> None:
    """Two bolts in line with the force and its moment: by hand, and in sum the force."""
    found = plate(upper_x_mm=90.0, upper_y_mm=30.0, lower_x_mm=90.0, lower_y_mm=-30.0)
    upper, lower = hole_loads(found, 1000.0)
    # the force runs along the line of the bolts, 11.5 beside it: 500 each, and 1000 × 11.5 / 60 across
    across = 1000 * 11.5 / 60
    assert upper.force_n == pytest.approx((500**2 + across**2) ** 0.5)
    assert lower.force_n == pytest.approx(upper.force_n)


def test_the_force_at_the_pads_keeps_the_torque() -> None:
    found = plate()
    loads = loads_of(found, 488.0, 0.2985)
    # 488 N at 298.5 mm is 145.67 N·m; at 101.5 mm 1435 N
    assert loads.pads_n == pytest.approx(1435.2, abs=0.1)
    assert loads.holes == hole_loads(found, loads.pads_n)


def test_the_cautions_say_who_decides() -> None:
    text = " ".join(SPECIAL_CAUTIONS)
    assert all(word in text for word in ("qualified engineer", "makers' approval", "road law", "no wheel is braked"))
