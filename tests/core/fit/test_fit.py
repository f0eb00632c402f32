"""Fit: chain, bolts, clearances and drawing come from the same numbers."""

import pytest

from clavis.core.fit.bolt_section import cut_of
from clavis.core.fit.drawing import DrawnLayer, draw
from clavis.core.fit.fit import Fit
from clavis.core.fit.mount_geometry import NOMINAL
from clavis.core.fit.mounting import Mounting
from clavis.core.fit.stacks import Run, bolt_stacks
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.mounts import BoltDirection, End, MountKind, ThreadMaterial
from clavis.core.verdicts import Verdict
from tests.bikes import CATALOGUE, caliper, fit_on, mounting, own_job, pad, plain, rotor


def wheel(end: End = End.FRONT, catalogue: Catalogue = CATALOGUE, **more) -> Mounting:
    """The front wheel of our own bike with some of it changed, at either end."""
    job = own_job()
    return mounting(job.model_copy(update={end.value: job.front.model_copy(update=more)}), end, catalogue)


def fit(on: Mounting, r=None, c=None) -> Fit:
    return fit_on(on, rotor=r or rotor(), caliper=c or caliper(), pad=pad())


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
    # the caliper is a new one: hose and spokes are read at the trial fit
    assert {c.verdict for c in found.clearances if not c.at_trial} == {Verdict.HOLDS}
    assert found.pad_edge_mm == pytest.approx(0, abs=0.05)


def test_no_adapter_at_the_native_size() -> None:
    found = fit(wheel(), r=rotor(diameter_mm=160))
    assert found.chain.adapter is None
    assert lengths(found) == [18, 18]


def test_four_holes_take_four_bolts() -> None:
    found = fit(wheel(), r=rotor(diameter_mm=203))
    assert lengths(found) == [18, 18, 18, 18]
    assert [c.stack.into for c in found.bolts] == ["mount", "mount", "adapter", "adapter"]


def test_an_is_rear_serves_160_with_the_fronts_180_part() -> None:
    found = fit(wheel(End.REAR, **IS_REAR), rotor(diameter_mm=160))
    assert found.wheel.mount.kind is MountKind.IS
    assert found.chain.adapter is not None
    assert found.chain.adapter.id == "a-is-180-160"
    assert lengths(found) == [16, 16, 18, 18]


def test_a_flat_frame_bolts_from_below_through_the_stay() -> None:
    direct = fit(wheel(End.REAR, **FLAT_REAR), rotor(diameter_mm=140), caliper(**FLAT_CALIPER))
    assert lengths(direct) == [24, 24]  # 1 + 15 + 7.5 = 23.5
    spaced = fit(wheel(End.REAR, **FLAT_REAR), rotor(diameter_mm=160), caliper(**FLAT_CALIPER))
    assert lengths(spaced) == [34, 34]


def test_a_flat_fork_carries_its_plate() -> None:
    found = fit(wheel(End.FRONT, **FLAT_FRONT), rotor(diameter_mm=160), caliper(**FLAT_CALIPER))
    assert found.chain.adapter is not None
    assert found.chain.adapter.id == "a-ff-flip"
    assert len(found.bolts) == 4


def test_an_unmeasured_tab_is_unknown_and_not_guessed() -> None:
    found = fit(wheel(End.REAR, **(IS_REAR | {"tab_mm": None})), rotor(diameter_mm=160))
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


def test_chainstay_and_tab_may_differ_below() -> None:
    tapered = FLAT_REAR | {"tab_mm": 15.0, "lower_tab_mm": 13.0}
    found = fit(wheel(End.REAR, **tapered), rotor(diameter_mm=140), caliper(**FLAT_CALIPER))
    assert lengths(found) == [24, 22]  # 1 + 15 + 7.5 = 23.5; 1 + 13 + 7.5 = 21.5
    deep = fit(wheel(hole_depth_mm=16.0, lower_depth_mm=9.0), r=rotor(diameter_mm=160))
    assert [b.maximum_mm for b in deep.bolts] == [9 + 16 - 1, 9 + 9 - 1]


def test_cup_and_cone_pairs_stand_above_and_below_the_tab() -> None:
    found = fit(wheel(), r=rotor(diameter_mm=160), c=caliper(washers="cup_cone", washer_pair_mm=3.5))
    # 3.5 + 8 + 3.5 = 15; + 9 = 24
    assert [layer.name for layer in found.bolts[0].stack.layers] == ["cup and cone", "caliper tab", "cup and cone"]
    assert lengths(found) == [24, 24]


def test_a_shallow_counterbore_takes_a_low_head_and_says_why() -> None:
    found = fit(wheel(End.FRONT, **FLAT_FRONT), rotor(diameter_mm=160), caliper(**FLAT_CALIPER))
    to_fork, to_caliper = found.bolts[0], found.bolts[2]
    assert to_fork.bolt.head == "low"
    assert "a head of 5 mm stands out of 3.2 mm of room" in to_fork.head
    assert to_caliper.bolt.head == "cap"
    no_low = [b for b in CATALOGUE.bolts.values() if b.head == "cap"]
    from clavis.core.fit.bolts import Rack, choose_bolt

    refused = choose_bolt(to_fork.stack, Rack.of(no_low))
    assert refused.bolt is None
    assert "no stock bolt of that length has a head that goes in" in refused.lacks


@pytest.mark.parametrize(
    ("length", "verdict", "words"),
    [
        (28.0, Verdict.HOLDS, "fits this stack"),
        (22.0, Verdict.FAILS, "would hold in 3.4 mm of thread"),
        (34.0, Verdict.FAILS, "would end 0.6 mm from the end"),
        (36.0, Verdict.FAILS, "would bottom out by 1.4 mm"),
    ],
)
def test_the_bolt_that_is_on_it_is_held_to_the_same_sum(length, verdict, words) -> None:
    found = fit(wheel(upper_bolt_mm=length))  # stack 1 + 8 + 9.6 = 18.6, thread 16
    assert found.fitted_bolts[0].old is not None
    assert found.fitted_bolts[0].old.verdict is verdict
    assert words in found.fitted_bolts[0].old.words
    assert found.fitted_bolts[1].old is None


def test_the_old_bolt_is_not_offered_where_it_never_was() -> None:
    found = fit(wheel(upper_bolt_mm=18.0, lower_bolt_mm=18.0), r=rotor(diameter_mm=203))
    assert [b.old is not None for b in found.fitted_bolts] == [True, True, False, False]


def test_a_carrier_has_its_plate_and_six_bolts() -> None:
    found = fit(wheel(End.FRONT, **FLAT_FRONT), rotor(diameter_mm=180), caliper(**FLAT_CALIPER))
    assert [part.id for part in found.chain.parts] == ["a-ff-carry", "a-ff-160-180"]
    assert [b.run for b in found.fitted_bolts] == [Run.PART_TO_MOUNT] * 2 + [Run.PLATE_TO_CARRIER] * 2 + [
        Run.PLATE_TO_CALIPER
    ] * 2
    assert found.stand.position_mm == pytest.approx(180)
    assert all(b.bolt for b in found.bolts)


@pytest.mark.parametrize("style", ["through", "four_hole"])
def test_four_holes_bring_two_more_bolts(style) -> None:
    part = CATALOGUE.adapters["a-pp-160-180" if style == "through" else "a-pp-160-200"]
    runs = [b.run for b in bolt_stacks(MountKind.POST, own_job().front, caliper(), (part,))]
    through, four = [Run.CALIPER_TO_MOUNT] * 2, [Run.PART_TO_MOUNT] * 2 + [Run.CALIPER_TO_PART] * 2
    assert runs == (through if style == "through" else four)


FIT_OF = {
    MountKind.POST: ({}, {}), MountKind.IS: (IS_REAR, {}), MountKind.FLAT_FRONT: (FLAT_FRONT, FLAT_CALIPER),
    MountKind.FLAT_REAR: (FLAT_REAR, FLAT_CALIPER),
}  # fmt: skip


def drawn(mount: MountKind, end: End, mm: float = 160):
    changes, part = FIT_OF[mount]
    found = fit(wheel(end, **changes), rotor(diameter_mm=mm), caliper(**part))
    drawing = draw(found)
    assert drawing is not None
    return found, drawing


@pytest.mark.parametrize("key", list(NOMINAL), ids=lambda k: f"{k[0].value}-{k[1].value}")
def test_every_mount_is_drawn_on_its_own_side_of_the_axle(key) -> None:
    """Front calipers sit behind the fork, rear ones ahead of the axle: seen from the left, right and left."""
    _, drawing = drawn(*key)
    body = next(s for s in drawing.shapes if plain(s.title).startswith("caliper M"))
    x = sum(p[0] for p in body.points) / 4
    y = sum(p[1] for p in body.points) / 4
    assert (x > 0) == (key[1] is End.FRONT)
    assert y > 0


@pytest.mark.parametrize("key", list(NOMINAL), ids=lambda k: f"{k[0].value}-{k[1].value}")
def test_the_drawing_holds_the_numbers_of_the_verdicts(key) -> None:
    found, drawing = drawn(*key)
    rotor = next(s for s in drawing.shapes if s.of == "rotor")
    track = next(s for s in drawing.shapes if s.of == "track")
    assert rotor.radius_mm == 80
    assert track.radius_mm == pytest.approx(65.5)
    pads = next(s for s in drawing.shapes if s.of == "pads")
    reach = max((x**2 + y**2) ** 0.5 for x, y in pads.points)
    assert reach - 80 == pytest.approx(found.pad_edge_mm, abs=0.15)  # ends of turned pads reach a little further
    shanks = [
        s
        for s in drawing.shapes
        if s.layer is DrawnLayer.BOLTS and s.radius_mm is None and plain(s.title).startswith("bolt ")
    ]
    in_picture = [b.choice.bolt.length_mm for b in found.fitted_bolts if b.run is not Run.CROSSWISE]
    for shank, length in zip(shanks, in_picture, strict=True):
        (a, b, *_rest) = shank.points
        assert ((a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2) ** 0.5 == pytest.approx(length)
    assert f"rotor {160:g} mm" in plain(drawing.words[0])
    assert all(b.choice.bolt.model in " ".join(plain(w) for w in drawing.words) for b in found.fitted_bolts)


def test_bolts_of_a_four_hole_adapter_stand_clear_of_each_other() -> None:
    """Heads of the bolts to the mount and shanks of those to the caliper do not cross in the picture."""
    found = fit(wheel(), r=rotor(diameter_mm=203))
    drawing = draw(found)
    assert drawing is not None
    shanks = [s for s in drawing.shapes if s.layer is DrawnLayer.BOLTS and not plain(s.title).startswith("head")]

    def middle(shape, k: int) -> complex:
        return complex(*shape.points[k])

    for mount_bolt, caliper_bolt in ((shanks[0], shanks[2]), (shanks[1], shanks[3])):
        axis = middle(mount_bolt, 1) - middle(mount_bolt, 0)
        apart = (middle(caliper_bolt, 1) - middle(mount_bolt, 0)) / (axis / abs(axis))
        assert abs(apart.imag) > 10


def test_what_fails_is_marked_where_it_fails() -> None:
    found = fit(wheel(max_rotor_mm=180.0, edge_radius_mm=95.0), r=rotor(diameter_mm=203))
    drawing = draw(found)
    assert drawing is not None
    marks = {s.of: s.title for s in drawing.shapes if s.layer is DrawnLayer.CONFLICTS}
    assert set(marks) == {"largest", "leg"}
    fits = draw(fit(wheel()))
    assert fits is not None
    assert not [s for s in fits.shapes if s.layer is DrawnLayer.CONFLICTS]


def test_what_is_not_possible_is_drawn_with_the_pads_off_the_track() -> None:
    drawing = draw(fit(wheel(native_rotor_mm=180.0), r=rotor(diameter_mm=160)))
    assert drawing is not None
    (mark,) = [s for s in drawing.shapes if s.layer is DrawnLayer.CONFLICTS]
    radii = [(x**2 + y**2) ** 0.5 for x, y in mark.points]
    assert min(radii) == pytest.approx(80)
    assert max(radii) == pytest.approx(90)
    assert "It does not fit" in " ".join(plain(w) for w in drawing.words)


def test_the_cut_through_a_bolt_shows_its_sum() -> None:
    choice = fit(wheel()).bolts[0]  # 1 + 8 + 9.6, 28 long, 16 deep
    cut = cut_of(choice)
    assert cut is not None
    by_kind = {p.kind: p for p in cut.pieces}
    assert [round(p.end_mm - p.start_mm, 2) for p in cut.pieces if p.kind == "layer"] == [1, 8, 9.6]
    assert by_kind["shank"].end_mm == 28
    assert by_kind["grip"].end_mm - by_kind["grip"].start_mm == pytest.approx(9.4)
    assert by_kind["hole"].end_mm - by_kind["shank"].end_mm == pytest.approx(16 - 9.4)
    assert "9.4 mm in the thread (9.0 mm needed), 6.6 mm short of its end" in cut.words
    assert cut_of(fit(wheel(thread_material=None)).bolts[0]) is None


def test_the_brake_as_it_is_lies_over_the_new_one_only_where_it_differs() -> None:
    same = fit_on(wheel(), stays=True)
    larger = fit_on(wheel(), rotor=CATALOGUE.rotors["q-disc-203"])
    assert not [s for s in draw(same).shapes if s.layer is DrawnLayer.NOW]
    now = [s for s in draw(larger).shapes if s.layer is DrawnLayer.NOW]
    assert next(s.radius_mm for s in now if s.radius_mm) == 90
    # 11.5 outward, and 20 round the rotor at 101.5, which is 17.8 where the caliper was
    assert larger.case.moves_mm == pytest.approx((11.5**2 + 17.8**2) ** 0.5, abs=0.3)


def test_an_old_is_caliper_is_held_through_the_unthreaded_tabs() -> None:
    found = fit(wheel(End.REAR, **IS_REAR), rotor(diameter_mm=140), caliper(mount="old_is"))
    assert found.chain.adapter is None
    assert {b.run for b in found.fitted_bolts} == {Run.CROSSWISE}
    assert [b.stack.into for b in found.bolts] == ["caliper", "caliper"]
    assert lengths(found) == [16, 16]  # 1 + 5 + 9 = 15


def test_a_post_caliper_on_a_flat_frame_is_bolted_from_below_into_its_adapter() -> None:
    found = fit(wheel(End.REAR, **FLAT_REAR), rotor(diameter_mm=160), caliper())
    assert found.chain.adapter.id == "a-fp-rear"
    assert [b.run for b in found.fitted_bolts] == [Run.FROM_BELOW] * 2 + [Run.CALIPER_TO_PART] * 2
    assert found.bolts[0].stack.into == "adapter"
    assert lengths(found)[0] == 24  # 1 + 15 + 7.5 = 23.5


def test_the_adapter_that_is_on_the_bike_is_taken_before_a_cheaper_one() -> None:
    here = CATALOGUE.adapters["a-pp-160-180"]
    dearer = here.model_copy(update={"id": "a-dear", "price": here.price + 20})
    shelf = Catalogue.of([*CATALOGUE.every(), dearer])
    found = fit(wheel(catalogue=shelf, adapter_id="a-dear"))
    assert found.chain.adapter is dearer
    assert [a.id for a in found.chain.others] == [here.id]
    assert fit(wheel(catalogue=shelf, adapter_id=None)).chain.adapter == here


def test_washers_are_drawn_where_they_lie() -> None:
    drawing = draw(fit(wheel(), r=rotor(diameter_mm=160), c=caliper(washers="cup_cone", washer_pair_mm=3.5)))
    assert drawing is not None
    pairs = [s for s in drawing.shapes if plain(s.title).startswith("cup and cone")]
    assert len(pairs) == 4
    (a, b, *_rest) = pairs[0].points
    assert abs(complex(*a) - complex(*b)) == pytest.approx(3.5)


@pytest.mark.parametrize(
    ("changes", "because"),
    [
        ({"native_rotor_mm": 203.0}, "below the native size 203"),
        ({"edge_radius_mm": 88.0}, "into the nearest metal beside it"),
        ({"thread_material": None}, "bolt upper: material of the thread in the mount not measured"),
        ({"spoke_gap_mm": 4.0, "hose_slack_mm": 40.0}, ""),
    ],
)
def test_the_fit_says_what_its_verdict_rests_on(changes, because) -> None:
    found = fit_on(wheel(**changes), rotor=rotor())
    said = [plain(c.words) for c in found.checks if c.verdict is found.verdict]
    assert any(because in words for words in said)
    assert (not because) == (found.verdict is Verdict.HOLDS)


@pytest.mark.parametrize(
    ("key", "changes", "disc", "part"),
    [
        ("slot", {}, {"thickness_mm": 2.3, "minimum_mm": 2.0}, {}),
        ("rivets", {}, {"rivet_out_mm": 2.5, "rivet_radius_mm": 73.0}, {"rivet_room_mm": 2.0, "body_in_mm": 18.0}),
        ("spokes", {"spoke_gap_mm": 0.5, "caliper_id": None}, {}, {}),
        ("inner", {}, {"track_mm": 13.0}, {}),
        ("bolts", {"hole_depth_mm": 9.0, "lower_depth_mm": 9.0}, {"diameter_mm": 160}, {}),
    ],
)
def test_every_conflict_has_its_place_in_the_picture_and_in_the_words(key, changes, disc, part) -> None:
    found = fit(wheel(**changes), r=rotor(**disc), c=caliper(**part))
    drawing = draw(found)
    assert drawing is not None
    marks = [s for s in drawing.shapes if s.layer is DrawnLayer.CONFLICTS and s.of == key]
    assert marks
    near = abs(found.stand.pad_edge)
    for mark in marks:  # at the brake, not somewhere on the wheel
        assert all(abs(complex(*p) - found.stand.pad_edge) < near for p in mark.points)
    assert any(
        plain(mark.title).rstrip(".") in " ".join(plain(w) for w in drawing.words) or key == "bolts" for mark in marks
    )


@pytest.mark.parametrize(
    ("rotor", "on_it", "words"),
    [
        ("q-disc-200", "a-pp-180-203", "the pads stand 1.5 mm over the rotor's edge"),
        ("q-disc-203", "a-pp-180-200", "1.5 mm of rim unswept"),
    ],
)
def test_a_wrong_adapter_on_the_bike_is_judged_as_it_stands_with_its_sign(rotor, on_it, words) -> None:
    here = wheel(native_rotor_mm=180.0, rotor_id=rotor, adapter_id=on_it)
    found = fit_on(here, stays=True)
    edge = next(c for c in found.checks if c.key == "edge")
    assert not found.chain.possible
    assert "is on it" in found.chain.reason
    assert words in edge.words
    assert found.verdict is Verdict.FAILS
    drawing = draw(found)
    assert drawing is not None
    assert any(s.layer is DrawnLayer.ADAPTER for s in drawing.shapes)
    assert any(s.layer is DrawnLayer.CONFLICTS and s.of == "edge" for s in drawing.shapes)
    # with another rotor proposed the right part is taken again
    other = CATALOGUE.rotors["q-disc-203" if rotor == "q-disc-200" else "q-disc-200"]
    assert fit_on(here, rotor=other).chain.possible


def test_a_retired_part_that_is_on_the_bike_still_serves_there() -> None:
    here = CATALOGUE.adapters["a-pp-160-180"].model_copy(update={"retired": True})
    shelf = Catalogue.of([p for p in CATALOGUE.every() if p.id != here.id] + [here])
    assert fit_on(wheel(catalogue=shelf)).chain.adapter == here
    assert not fit_on(wheel(catalogue=shelf, adapter_id=None)).chain.possible


def test_a_mounting_remembers_only_so_much(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("clavis.core.fit.mounting.MOST_KEPT", 10)
    on = wheel()
    made = [on.once(("key", k), lambda k=k: k) for k in range(35)]
    assert made == list(range(35))
    assert len(on._memo) <= 10
    assert on.once(("key", 34), lambda: "made again") == 34
