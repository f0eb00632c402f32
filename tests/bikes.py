"""A bike that stands in no demo, and small parts to build cases from."""

from dataclasses import replace
from typing import Any

from clavis.core.fit.checks import CheckResult, results_of
from clavis.core.fit.fit import Fit, fit_of
from clavis.core.fit.mounting import FitCase, Mounting
from clavis.core.job.document import Bike, Complaint, Conditions, Job, Load, Proposal, Ride, Rider, Use, Wishes
from clavis.core.job.pick import Pick
from clavis.core.job.resolved_wheel import resolve_wheel
from clavis.core.job.wheel import Wheel
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.models import (
    Adapter,
    Axle,
    Brake,
    Caliper,
    FluidPart,
    Fork,
    Hose,
    HubInterface,
    Lever,
    Pad,
    Rotor,
    parse_part,
)
from clavis.core.parts.mounts import BoltDirection, End, ThreadMaterial
from clavis.core.physics.bike import BikeKind, Surface, Tread
from clavis.core.physics.friction import PadState
from clavis.core.physics.road import Section
from clavis.core.sentences import Words
from clavis.core.units import NBSP, System
from clavis.core.verdicts import Verdict
from clavis.core.wording.sentences import render
from clavis.demo.catalogue import demo_parts
from clavis.formats.job_file import FORMAT, VERSION, JobFile, TrackFile

CATALOGUE = Catalogue.of(demo_parts())


def rotor(**more: Any) -> Rotor:
    base = {
        "kind": "rotor", "id": "r", "maker": "M", "model": "R", "price": 20, "mass_g": 143, "diameter_mm": 180,
        "thickness_mm": 1.8, "minimum_mm": 1.5, "interface": "six_bolt", "construction": "one_piece",
    }  # fmt: skip
    part = parse_part(base | more)
    assert isinstance(part, Rotor)
    return part


def caliper(**more: Any) -> Caliper:
    base = {
        "kind": "caliper", "id": "c", "maker": "M", "model": "C", "price": 60, "mass_g": 120, "mount": "post",
        "fluid": "mineral", "bores_mm": [22], "pad_shape": "K2", "slot_mm": 2.0, "tab_mm": 8,
    }  # fmt: skip
    part = parse_part(base | more)
    assert isinstance(part, Caliper)
    return part


def cable_caliper(**more: Any) -> Caliper:
    return caliper(**({"fluid": "none", "bores_mm": [], "arm_ratio": 5.2, "pull": "short"} | more))


def lever(**more: Any) -> Lever:
    base = {"kind": "lever", "id": "l", "maker": "M", "model": "L", "price": 40, "mass_g": 90, "ratio": 6.0,
            "fluid": "mineral", "bore_mm": 10}  # fmt: skip
    part = parse_part(base | more)
    assert isinstance(part, Lever)
    return part


def cable_lever(**more: Any) -> Lever:
    return lever(**({"fluid": "none", "bore_mm": None, "pull": "short", "ratio": 4.6} | more))


def pad(**more: Any) -> Pad:
    base = {"kind": "pad", "id": "p", "maker": "M", "model": "P", "price": 12, "mass_g": 16, "shape": "K2",
            "compound": "resin", "material_mm": 2.0, "height_mm": 14.0}  # fmt: skip
    part = parse_part(base | more)
    assert isinstance(part, Pad)
    return part


def adapter(**more: Any) -> Adapter:
    """``fits`` as (end, rotor) pairs."""
    fits = [{"end": end, "rotor_mm": mm} for end, mm in more.pop("fits", [("front", 160)])]
    base = {"kind": "adapter", "id": "a", "maker": "M", "model": "A", "price": 9, "mass_g": 20, "from_mm": 140,
            "adapter_kind": "post_to_post", "style": "plate", "upper_mm": 4, "lower_mm": 4, "fits": fits}  # fmt: skip
    part = parse_part(base | more)
    assert isinstance(part, Adapter)
    return part


def fork(**more: Any) -> Fork:
    base = {"kind": "fork", "id": "k", "maker": "M", "model": "K", "price": 400, "mass_g": 2000, "mount": "post_mount",
            "native_mm": 160, "max_rotor_mm": 203, "axle": "mm15", "thread_material": "light_alloy"}  # fmt: skip
    part = parse_part(base | more)
    assert isinstance(part, Fork)
    return part


def hose(**more: Any) -> Hose:
    base = {"kind": "hose", "id": "h", "maker": "M", "model": "H", "price": 20, "mass_g": 60, "fluid": "mineral",
            "lever_fitting": "M8", "caliper_fitting": "M8B", "length_mm": 1800}  # fmt: skip
    part = parse_part(base | more)
    assert isinstance(part, Hose)
    return part


def bottle(**more: Any) -> FluidPart:
    base = {"kind": "fluid", "id": "f", "maker": "M", "model": "F", "price": 9, "mass_g": 100, "grade": "mineral",
            "dry_c": 190, "volume_ml": 100}  # fmt: skip
    part = parse_part(base | more)
    assert isinstance(part, FluidPart)
    return part


def six_points(thinnest_mm: float) -> tuple[float, ...]:
    """Six readings round a rotor, the first the thinnest."""
    return (thinnest_mm, *(round(thinnest_mm + 0.01, 2) for _ in range(5)))


_WHEEL = {
    "mount_spacing_mm": 74.2, "bolt_direction": BoltDirection.ALONG_POST, "native_rotor_mm": 160.0,
    "max_rotor_mm": 203.0, "thread_material": ThreadMaterial.LIGHT_ALLOY, "hole_depth_mm": 16.0,
    "hub": HubInterface.SIX_BOLT, "axle": Axle.MM12, "caliper_id": "u-two-22", "lever_id": "u-blade-b",
    "pad_id": "u-k2-semi", "pad_inner_mm": 1.7, "pad_outer_mm": 1.8, "pad_state": PadState.GOOD,
    "fluid_grade": "mineral", "fluid_age_y": 0.5, "fluid_boils_c": 130.0,
}  # fmt: skip


def own_job(**more: Any) -> Job:
    """A touring bike of our own: complete in every station, both wheels, one typed ride, one proposal."""
    job = Job(
        title="Own tourer",
        rider=Rider(name="Piet", mass_kg=77, kit_mass_kg=5, front_share_pct=52),
        bike=Bike(kind=BikeKind.TOURING, use=Use.TOURING, tread=Tread.MIXED, top_speed_kmh=48),
        load=Load(luggage_kg=14, luggage_ahead_m=0.1, luggage_height_m=0.6),
        conditions=Conditions(surface=Surface.DRY_ASPHALT, ambient_c=15),
        complaints=(Complaint.FADES,),
        wishes=Wishes(),
        front=Wheel(**_WHEEL, rotor_id="q-disc-180", adapter_id="a-pp-160-180", rotor_points_mm=six_points(1.71)),
        rear=Wheel(**_WHEEL, rotor_id="q-disc-160", rotor_points_mm=six_points(1.66)),
        rides=(
            Ride(
                id="descent",
                name="Own descent",
                start_elevation_m=900,
                sections=(
                    Section(length_m=2500, gradient_pct=7, speed_kmh=34, corner_kmh=18),
                    Section(length_m=1800, gradient_pct=9.5, speed_kmh=30, corner_kmh=12),
                    Section(length_m=1200, gradient_pct=4, speed_kmh=38),
                ),
            ),
        ),
        decisive_ride="descent",
        proposal=Proposal(front=Pick(rotor_id="q-disc-203", pad_id="u-k2-sinter"), rear=Pick(rotor_id="q-disc-180")),
        seed=5,
    )
    return job.model_copy(update=more)


def with_value(job: Job, path: str, value: Any) -> Job:
    """The job with one field changed, validated again."""
    from clavis.core.job import paths

    return Job.model_validate(paths.write(job.model_dump(mode="json"), path, value))


def file_of(job: Job, tracks: dict[str, Any] | None = None, shelf: Catalogue = CATALOGUE) -> JobFile:
    return JobFile(
        format=FORMAT, version=VERSION, clavis="test", job=job,
        tracks={name: TrackFile.of(t) for name, t in (tracks or {}).items()}, parts=shelf.every(),
    )  # fmt: skip


def mounting(job: Job, end: End = End.FRONT, catalogue: Catalogue = CATALOGUE) -> Mounting:
    """One wheel of a job with the shelf beside it."""
    return Mounting(resolve_wheel(job, end, catalogue), catalogue)


def own_mounting(end: End = End.FRONT, catalogue: Catalogue = CATALOGUE, **wheel: Any) -> Mounting:
    """A wheel of our own bike with some of it changed."""
    job = own_job()
    changed = job.wheel(end).model_copy(update=wheel)
    return mounting(job.model_copy(update={end.value: changed}), end, catalogue)


def fit_on(on: Mounting, *, stays: bool = False, **parts: Any) -> Fit:
    """The fit of a brake on a wheel: the parts that are named, the rest as it is on it."""
    brake = replace(on.wheel.on_it, **parts)
    case = FitCase(on, brake, stays)
    found = fit_of(case, results_of(case))
    assert found is not None
    return found


def said_by(key: str, on: Mounting, **parts: Any) -> CheckResult | None:
    """What one check says of a brake of these parts alone."""
    return next((c for c in results_of(FitCase(on, Brake(**parts))) if c.key == key), None)


def failing(on: Mounting, **parts: Any) -> set[str]:
    """The checks that a brake of these parts fails."""
    return {c.key for c in results_of(FitCase(on, Brake(**parts))) if c.verdict is Verdict.FAILS}


def plain(words: Words | None) -> str:
    """Words as a metric reader is told them, with plain spaces."""
    return render(words or "", System.METRIC).replace(NBSP, " ")
