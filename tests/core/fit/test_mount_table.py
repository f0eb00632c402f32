"""The solver against the hand-made table of docs/mounts.md: every mount, native size, caliper and rotor."""

import re
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from clavis.core.fit.adapters import CHAIN, label_conflict, position_mm, solve_chain
from clavis.core.parts.mounts import BoltStyle, CaliperMount, End, MountKind
from tests.bikes import CATALOGUE, adapter, plain

PAGE = Path(__file__).parents[3] / "docs" / "mounts.md"
MOUNT = {
    "post": MountKind.POST,
    "is": MountKind.IS,
    "flat front": MountKind.FLAT_FRONT,
    "flat rear": MountKind.FLAT_REAR,
}
CALIPER = {"post": CaliperMount.POST, "flat": CaliperMount.FLAT, "old is": CaliperMount.OLD_IS}
SIZES = (140, 160, 180, 183, 185, 200, 203, 220, 223)


def by_hand() -> list[tuple[str, str, float, str, int, str]]:
    """(mount, end, native, caliper, rotor, what stands there) for every cell."""
    text = PAGE.read_text(encoding="utf-8").split("## Every mount, caliper and rotor, by hand")[1]
    out = []
    for line in text.splitlines():
        cells = [c.strip() for c in line.strip("|").split("|")]
        if len(cells) == 4 + len(SIZES) and cells[0] in MOUNT:
            out += [(cells[0], cells[1], float(cells[2]), cells[3], mm, cells[4 + k]) for k, mm in enumerate(SIZES)]
    return out


CELLS = by_hand()


def everything_made() -> list:
    """Every adapter that the trade makes for these sizes: one for each pair of sizes, and the plates."""
    out = []

    def add(kind: str, start: float | None, fits: list[tuple[str, float]], style: str, height: float) -> None:
        out.append(
            adapter(id=f"a{len(out)}", adapter_kind=kind, from_mm=start, fits=fits, style=style, upper_mm=height / 2,
                    lower_mm=height / 2)
        )  # fmt: skip

    ends = ("front", "rear")
    for start in (140, 160, 180, 200, 203):
        for to in (mm for mm in SIZES if mm > start):
            style = "through" if to - start <= 23 else "four_hole"
            add("post_to_post", start, [(end, to) for end in ends], style, to - start)
    for end, zero in (("front", 160), ("rear", 140)):
        for to in (mm for mm in SIZES if mm >= zero):
            add("is_to_post", None, [(end, to)], "side", to - zero)
    for start in (140, 160):
        add("flat_front_plate", start, [("front", start), ("front", start + 20)], "plate", 4)
        add("flat_rear_spacer", start, [("rear", start + 20)], "plate", 20)
    for end in ends:
        add("flat_to_post", 140, [(end, 160)], "four_hole", 18)
        add("post_to_flat", 160, [(end, 160)], "four_hole", 6)
    return out


MADE = everything_made()
_CARRIER = {"adapter_kind": "flat_front_plate", "carrier": True, "from_mm": 140, "fits": [("front", 160)]}
CARRIER, STRANGER = adapter(id="carry", **_CARRIER), adapter(id="strange", maker="Other", **_CARRIER)


def test_the_table_has_every_mount_with_every_caliper_at_every_native_size() -> None:
    assert len(CELLS) == len({c[:5] for c in CELLS}) == 29 * len(SIZES)
    assert {(MOUNT[m], CALIPER[c]) for m, _, _, c, _, _ in CELLS} >= {(r.mount, r.caliper) for r in CHAIN}
    assert {n for m, _, n, _, _, _ in CELLS if m == "post"} == {140, 160, 180, 200, 203}
    assert all(re.fullmatch(r"–|0|p|\+\d+", what) for *_, what in CELLS)


@pytest.mark.parametrize(
    ("mount", "end", "native", "caliper", "rotor", "what"), CELLS, ids=lambda v: str(v).replace(" ", "_")
)
def test_the_solver_says_what_was_worked_out_by_hand(mount, end, native, caliper, rotor, what) -> None:
    given_native = None if mount == "is" else native
    answer = solve_chain(MOUNT[mount], given_native, End(end), CALIPER[caliper], rotor, MADE)
    assert not answer.unknown
    if what == "–":
        assert not answer.possible
        assert answer.reason
        return
    assert answer.possible, answer.reason
    assert (answer.adapter is None) == (what == "0")
    if answer.adapter is not None:
        assert any(f.end is End(end) and f.rotor_mm == rotor for f in answer.adapter.fits)
        assert position_mm(MOUNT[mount], native, answer.adapter, rotor, End(end)) == pytest.approx(rotor)
    if what.startswith("+"):
        assert rotor - native == float(what)
        start = answer.adapter.from_mm or native
        assert rotor - start == float(what)


@pytest.mark.parametrize(
    ("mount", "end", "native", "caliper", "rotor", "what"), CELLS, ids=lambda v: str(v).replace(" ", "_")
)
def test_with_nothing_on_the_shelf_it_names_what_to_look_for(mount, end, native, caliper, rotor, what) -> None:
    answer = solve_chain(MOUNT[mount], None if mount == "is" else native, End(end), CALIPER[caliper], rotor, [])
    if what == "0":
        assert answer.possible
    elif what != "–":
        assert not answer.possible
        for word in (end, f"from {native:g}", f"to {rotor:g}", f"+{rotor - native:g}"):
            assert word in answer.look_for


@given(
    st.sampled_from(list(MountKind)), st.sampled_from(list(CaliperMount)), st.sampled_from(list(End)),
    st.sampled_from([140, 160, 180, 200, 203]), st.integers(130, 240),
)  # fmt: skip
def test_never_two_and_never_inward(mount, caliper, end, native, rotor) -> None:
    """Whatever is asked: one part of the right kind that serves this rotor here, or none; and no rotor below native."""
    answer = solve_chain(mount, native, end, caliper, rotor, [*MADE, CARRIER, STRANGER])
    if answer.adapter is not None:
        assert answer.possible
        row = next(r for r in CHAIN if r.mount is mount and r.caliper is caliper)
        assert answer.adapter.adapter_kind is row.adapter
        last = answer.plate or answer.adapter
        assert any(f.end is end and abs(f.rotor_mm - rotor) < 0.25 for f in last.fits)
        assert answer.plate is None or (answer.adapter.carrier and answer.plate.maker == answer.adapter.maker)
    smallest = {End.FRONT: 160, End.REAR: 140}[end] if mount is MountKind.IS else native
    if rotor < smallest:
        assert not answer.possible


def test_a_carrier_takes_its_own_makers_flip_plate_and_no_other() -> None:
    asked = (MountKind.FLAT_FRONT, 140, End.FRONT, CaliperMount.FLAT, 180)
    with_carrier = solve_chain(*asked, [*MADE, CARRIER])
    assert with_carrier.possible
    assert with_carrier.parts[0] is CARRIER
    assert with_carrier.plate.from_mm == 160
    assert not solve_chain(*asked, MADE).possible
    assert not solve_chain(*asked, [*MADE, STRANGER]).possible
    alone = solve_chain(MountKind.FLAT_FRONT, 140, End.FRONT, CaliperMount.FLAT, 160, [CARRIER])
    assert not alone.possible  # a carrier carries a plate, never a caliper


@given(st.sampled_from([a for a in MADE if a.style is BoltStyle.THROUGH]), st.sampled_from(list(End)))
def test_a_through_bolted_wedge_shifts_by_half_the_change_of_diameter(part, end) -> None:
    to = part.fits[0].rotor_mm
    assert part.from_mm is not None
    assert (part.upper_mm + part.lower_mm) / 2 == pytest.approx((to - part.from_mm) / 2)
    assert position_mm(MountKind.POST, part.from_mm, part, to, end) == pytest.approx(to)


@pytest.mark.parametrize(
    ("label", "start", "fits", "says"),
    [
        ("+40", 160, [("front", 203)], "the packet says +40, its sizes make +43"),
        ("+43", 160, [("front", 203)], ""),
        ("F160–203", 160, [("front", 203)], ""),
        ("F160–200", 160, [("front", 203)], "the packet says 200, its sizes are 160 and 203"),
        ("S180/160", None, [("front", 180), ("rear", 160)], ""),
        ("S180", None, [("front", 180), ("rear", 160)], ""),
        ("+20", None, [("front", 180), ("rear", 160)], ""),
        ("+23", None, [("front", 180), ("rear", 160)], "the packet says +23, its sizes make +20"),
        ("PM 7 to 8", 180, [("front", 203)], ""),
        ("", 160, [("front", 203)], ""),
    ],
)
def test_a_label_that_its_own_sizes_contradict_is_flagged(label, start, fits, says) -> None:
    part = adapter(
        label=label, model="Part", from_mm=start, fits=fits, adapter_kind="post_to_post" if start else "is_to_post"
    )
    assert plain(label_conflict(part)) == says


def test_the_demo_flags_its_one_mislabelled_packet_and_no_other() -> None:
    flagged = {a.id: plain(label_conflict(a)) for a in CATALOGUE.adapters.values() if label_conflict(a)}
    assert flagged == {"a-pp-160-203": "the packet says +40, its sizes make +43"}
