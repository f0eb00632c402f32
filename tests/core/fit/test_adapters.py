"""Telling mounts apart and the chain: every row of the tables, its edges and conflicts."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from clavis.core.fit.adapters import CHAIN, solve_chain
from clavis.core.parts.mounts import (
    MOUNT_ROWS,
    AdapterKind,
    BoltDirection,
    CaliperMount,
    End,
    MountKind,
    named_mount,
    tell_mount,
)
from tests.bikes import CATALOGUE, own_mounting, plain

ADAPTERS = list(CATALOGUE.adapters.values())


@pytest.mark.parametrize("kind", MOUNT_ROWS, ids=lambda k: k.value)
def test_each_mount_is_told_by_spacing_and_direction(kind) -> None:
    row = MOUNT_ROWS[kind]
    for end in row.ends:
        for off in (-1.0, 0.0, 1.0):
            assert tell_mount(row.spacing_mm + off, row.direction, end).kind is kind
        assert tell_mount(row.spacing_mm + 1.2, row.direction, end).kind is None


def test_evidence_that_disagrees_is_a_conflict_and_no_guess() -> None:
    told = tell_mount(74.0, BoltDirection.CROSSWISE, End.FRONT)
    assert told.kind is None
    assert "post mount" in told.conflict
    assert "is mount" in told.conflict


def test_one_piece_of_evidence_is_not_enough() -> None:
    assert plain(tell_mount(74.2, None, End.REAR).lacks) == "direction of the bolts not measured"
    assert plain(tell_mount(None, BoltDirection.CROSSWISE, End.REAR).lacks) == "bolt spacing not measured"
    assert tell_mount(None, None, End.REAR).kind is None


def test_a_mount_at_the_wrong_end_is_a_conflict() -> None:
    assert "front" in tell_mount(34.0, None, End.FRONT).conflict
    assert tell_mount(None, BoltDirection.THROUGH_STAY, End.FRONT).conflict
    assert tell_mount(70.0, BoltDirection.INTO_LEG, End.REAR).conflict


@given(st.floats(10, 200), st.sampled_from(list(BoltDirection)), st.sampled_from(list(End)))
def test_a_mount_is_only_ever_told_when_both_agree(spacing: float, direction: BoltDirection, end: End) -> None:
    told = tell_mount(spacing, direction, end)
    if told.kind is None:
        assert told.conflict or told.lacks
    else:
        row = MOUNT_ROWS[told.kind]
        assert abs(row.spacing_mm - spacing) <= 1.0 + 1e-9
        assert row.direction is direction
        assert end in row.ends


def solve(mount: MountKind, native: float | None, end: End, rotor: float, caliper=CaliperMount.POST):
    return solve_chain(mount, native, end, caliper, rotor, ADAPTERS)


@pytest.mark.parametrize(
    ("mount", "native", "end", "caliper", "rotor", "adapter"),
    [
        (MountKind.POST, 160, End.FRONT, CaliperMount.POST, 160, None),
        (MountKind.POST, 160, End.FRONT, CaliperMount.POST, 180, "a-pp-160-180"),
        (MountKind.POST, 160, End.FRONT, CaliperMount.POST, 203, "a-pp-160-203"),
        (MountKind.POST, 160, End.FRONT, CaliperMount.POST, 200, "a-pp-160-200"),
        (MountKind.POST, 180, End.REAR, CaliperMount.POST, 203, "a-pp-180-203"),
        (MountKind.POST, 203, End.FRONT, CaliperMount.POST, 223, "a-pp-203-223"),
        (MountKind.IS, None, End.FRONT, CaliperMount.POST, 160, "a-is-160-140"),
        (MountKind.IS, None, End.REAR, CaliperMount.POST, 140, "a-is-160-140"),
        (MountKind.IS, None, End.FRONT, CaliperMount.POST, 180, "a-is-180-160"),
        (MountKind.IS, None, End.REAR, CaliperMount.POST, 160, "a-is-180-160"),
        (MountKind.FLAT_FRONT, 140, End.FRONT, CaliperMount.FLAT, 140, "a-ff-flip"),
        (MountKind.FLAT_FRONT, 140, End.FRONT, CaliperMount.FLAT, 160, "a-ff-flip"),
        (MountKind.FLAT_FRONT, 160, End.FRONT, CaliperMount.FLAT, 180, "a-ff-160-180"),
        (MountKind.FLAT_REAR, 140, End.REAR, CaliperMount.FLAT, 140, None),
        (MountKind.FLAT_REAR, 140, End.REAR, CaliperMount.FLAT, 160, "a-fr-140-160"),
        (MountKind.FLAT_REAR, 160, End.REAR, CaliperMount.FLAT, 160, None),
        (MountKind.FLAT_REAR, 140, End.REAR, CaliperMount.POST, 160, "a-fp-rear"),
        (MountKind.POST, 160, End.FRONT, CaliperMount.FLAT, 160, "a-pf-160"),
    ],
)
def test_chains_that_are_possible(mount, native, end, caliper, rotor, adapter) -> None:
    answer = solve(mount, native, end, rotor, caliper)
    assert answer.possible, answer.reason
    assert (answer.adapter.id if answer.adapter else None) == adapter


@pytest.mark.parametrize(
    ("mount", "native", "end", "caliper", "rotor", "reason"),
    [
        (MountKind.POST, 180, End.FRONT, CaliperMount.POST, 160, "below the native size"),
        (MountKind.POST, 140, End.FRONT, CaliperMount.POST, 203, "no single adapter"),
        (MountKind.POST, 140, End.FRONT, CaliperMount.POST, 180, "no single adapter"),  # the part is a rear one
        (MountKind.IS, None, End.REAR, CaliperMount.FLAT, 160, "no adapter is made"),
        (MountKind.IS, None, End.FRONT, CaliperMount.POST, 140, "below the native size"),
        (MountKind.POST, 160, End.FRONT, CaliperMount.POST, 201, "no single adapter"),
        (MountKind.IS, None, End.FRONT, CaliperMount.OLD_IS, 180, "serves 160 only"),
    ],
)
def test_chains_that_are_not(mount, native, end, caliper, rotor, reason) -> None:
    answer = solve(mount, native, end, rotor, caliper)
    assert not answer.possible
    assert reason in answer.reason


def test_what_to_look_for_is_said_when_the_catalogue_lacks_the_part() -> None:
    answer = solve(MountKind.POST, 140, End.FRONT, 203)
    assert plain(answer.look_for) == (
        "post-mount adapter, front, from 140 to 203 (+63); holes 74.2 mm apart, along the post, into fork or frame "
        "from behind or above, and 74.2 mm apart for the caliper, four holes: two bolts to the mount, two to the caliper"
    )


def test_an_unknown_native_size_stays_unknown() -> None:
    answer = solve(MountKind.POST, None, End.FRONT, 180)
    assert answer.unknown
    assert not answer.possible


def test_is_mounts_know_their_native_size_by_standard() -> None:
    crosswise = {"mount_spacing_mm": 51.0, "bolt_direction": BoltDirection.CROSSWISE}
    for end, size in ((End.FRONT, 160), (End.REAR, 140)):
        assert own_mounting(end, **crosswise, native_rotor_mm=999).wheel.native.mm == size
    flat = {"mount_spacing_mm": 34.0, "bolt_direction": BoltDirection.THROUGH_STAY}
    assert own_mounting(End.REAR, **flat, native_rotor_mm=None).wheel.native.mm is None


@given(st.sampled_from([140, 160, 180, 200, 203]), st.sampled_from(list(End)), st.sampled_from(range(140, 224)))
def test_never_more_than_one_adapter_and_it_fits_from_and_to(native: float, end: End, rotor: float) -> None:
    answer = solve(MountKind.POST, native, end, rotor)
    if answer.possible and rotor > native:
        assert answer.adapter is not None
        assert answer.adapter.adapter_kind is AdapterKind.POST_TO_POST
        assert answer.adapter.from_mm == native
        assert any(f.end is end and f.rotor_mm == rotor for f in answer.adapter.fits)
    elif answer.possible:
        assert answer.adapter is None


def test_the_chain_table_names_each_pair_once() -> None:
    pairs = [(r.mount, r.caliper) for r in CHAIN]
    assert len(pairs) == len(set(pairs))


def test_flat_mount_forks_always_carry_a_flip_plate() -> None:
    """The rule a newcomer would look for: change its row and this fails."""
    row = next(r for r in CHAIN if r.mount is MountKind.FLAT_FRONT and r.caliper is CaliperMount.FLAT)
    assert row.adapter is AdapterKind.FLAT_FRONT_PLATE
    assert row.always
    assert not row.direct


@pytest.mark.parametrize(
    ("named", "spacing", "direction", "end", "kind", "says"),
    [
        (MountKind.POST, None, None, End.FRONT, MountKind.POST, ""),
        (MountKind.POST, 74.2, BoltDirection.ALONG_POST, End.FRONT, MountKind.POST, ""),
        (MountKind.IS, 74.2, BoltDirection.ALONG_POST, End.FRONT, None, "one of the two is wrong"),
        (MountKind.FLAT_REAR, None, None, End.FRONT, None, "does not occur at the front"),
        (MountKind.POST, 74.2, BoltDirection.CROSSWISE, End.FRONT, None, "one of the two is wrong"),
        (MountKind.POST, 51.0, None, End.FRONT, None, "one of the two is wrong"),
        (MountKind.POST, None, BoltDirection.CROSSWISE, End.FRONT, None, "one of the two is wrong"),
        (MountKind.POST, 74.2, None, End.FRONT, MountKind.POST, ""),
        (None, None, None, End.REAR, None, ""),
    ],
)
def test_a_mount_that_is_named_stands_until_it_is_measured(named, spacing, direction, end, kind, says) -> None:
    told = named_mount(named, tell_mount(spacing, direction, end), end)
    assert told.kind is kind and says in str(told.conflict)
    assert bool(told.by_name) == (kind is not None and direction is None)
