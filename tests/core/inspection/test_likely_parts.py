"""Lists of parts: what can be meant stands first, and nothing is kept away."""

import pytest

from clavis.core.inspection.likely_parts import LIKELY, likely, likely_words
from clavis.core.job.document import Bike
from clavis.core.job.resolved_wheel import ResolvedWheel, resolve_wheel
from clavis.core.job.wheel import Wheel
from clavis.core.parts.models import Bar, HubInterface
from clavis.core.parts.mounts import BoltDirection, CaliperMount, End, MountKind
from tests.bikes import CATALOGUE, own_job


def known(end: End = End.FRONT, bike: Bike | None = None, **wheel) -> ResolvedWheel:
    """A bike of which only these of one wheel are known."""
    job = own_job(**({e.value: Wheel() for e in End} | {end.value: Wheel(**wheel)}), **({"bike": bike} if bike else {}))
    return resolve_wheel(job, end, CATALOGUE)


def likely_of(k: ResolvedWheel, kind: str) -> set[str]:
    return {part.id for part in CATALOGUE.of_kind(kind).values() if likely(k, part)}


@pytest.mark.parametrize("kind", list(LIKELY))
def test_while_nothing_is_known_every_part_can_be_meant(kind: str) -> None:
    k = known(bike=Bike())
    every = set(CATALOGUE.of_kind(kind))
    served = {p.id for p in CATALOGUE.adapters.values() if p.sizes_at(End.FRONT)}
    assert likely_of(k, kind) == (served if kind == "adapter" else every)
    assert not likely_words(k, kind)


def test_pads_are_those_of_the_calipers_shape() -> None:
    k = known(caliper_id="u-two-22")
    assert {CATALOGUE.pads[p].shape for p in likely_of(k, "pad")} == {"K2"}
    assert "K2" in str(likely_words(k, "pad"))


def test_a_six_bolt_hub_takes_six_bolt_rotors_and_a_splined_one_takes_both() -> None:
    six = {p.id for p in CATALOGUE.rotors.values() if p.interface is HubInterface.SIX_BOLT}
    assert likely_of(known(hub="six_bolt"), "rotor") == six
    assert likely_of(known(hub="splined"), "rotor") == set(CATALOGUE.rotors)


def test_calipers_are_those_that_the_mount_carries() -> None:
    flat = known(End.REAR, mount_spacing_mm=34.0, bolt_direction=BoltDirection.THROUGH_STAY)
    assert flat.mount.kind is MountKind.FLAT_REAR
    assert {CATALOGUE.calipers[c].mount for c in likely_of(flat, "caliper")} == {CaliperMount.FLAT, CaliperMount.POST}
    is_mount = known(mount_spacing_mm=51.0, bolt_direction=BoltDirection.CROSSWISE)
    assert CaliperMount.FLAT not in {CATALOGUE.calipers[c].mount for c in likely_of(is_mount, "caliper")}


def test_levers_are_of_the_calipers_line_and_for_the_bar() -> None:
    dot = likely_of(known(caliper_id="p-two-21"), "lever")
    assert dot and {CATALOGUE.levers[v].fluid for v in dot} == {"dot"}
    drop = likely_of(known(caliper_id="b-cable-one", bike=Bike(bar=Bar.DROP)), "lever")
    assert drop == {"b-hood-short"}


def test_adapters_are_those_from_this_native_size_to_this_rotor() -> None:
    k = known(
        mount_spacing_mm=74.2, bolt_direction=BoltDirection.ALONG_POST, native_rotor_mm=160, caliper_id="u-two-22",
        rotor_id="q-disc-180",
    )  # fmt: skip
    assert likely_of(k, "adapter") == {"a-pp-160-180"}


def test_a_fork_is_one_with_this_mount() -> None:
    k = known(mount_spacing_mm=51.0, bolt_direction=BoltDirection.CROSSWISE)
    assert {CATALOGUE.forks[f].mount for f in likely_of(k, "fork")} == {MountKind.IS}
