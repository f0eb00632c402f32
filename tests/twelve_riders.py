"""The twelve riders of docs/twelve-riders.md, on the demo catalogue: who, on what, where, and what is on it. In town and on
long tours two fingers brake, off the road one."""

from typing import Any

from clavis.core.evaluation.rides import stop_cycle
from clavis.core.job.document import (
    Bike,
    Conditions,
    HandSize,
    Job,
    Load,
    Proposal,
    Ride,
    Rider,
    School,
    Section,
    Skill,
    Use,
    Wheel,
    Wishes,
)
from clavis.core.job.pick import Pick
from clavis.core.parts.models import Axle, HubInterface, ThreadMaterial
from clavis.core.parts.mounts import BoltDirection
from clavis.core.physics.bike import BikeKind, Surface, Tread
from clavis.core.physics.descent import Style
from clavis.core.physics.friction import PadState
from tests.bikes import six_points

SOUND: dict[str, Any] = {
    "mount_spacing_mm": 74.2, "bolt_direction": BoltDirection.ALONG_POST, "native_rotor_mm": 160.0,
    "max_rotor_mm": 203.0, "thread_material": ThreadMaterial.LIGHT_ALLOY, "hole_depth_mm": 16.0, "spoke_gap_mm": 4.0,
    "hub": HubInterface.SIX_BOLT, "axle": Axle.MM12, "pad_inner_mm": 1.7, "pad_outer_mm": 1.7,
    "pad_state": PadState.GOOD, "fluid_grade": "mineral", "fluid_age_y": 0.8, "fluid_boils_c": 180.0,
}  # fmt: skip
ADAPTER = {140: None, 160: None, 180: "a-pp-160-180", 203: "a-pp-160-203", 200: "a-pp-160-203"}
TWO = {"caliper_id": "u-two-22", "lever_id": "u-blade-a", "pad_id": "u-k2-resin"}
FOUR = {"caliper_id": "u-four-1718", "lever_id": "u-blade-a", "pad_id": "u-k4-semi"}
CABLE = {
    "caliper_id": "b-cable-one", "lever_id": "b-pull-short", "pad_id": "b-c1-resin", "fluid_grade": None,
    "fluid_age_y": None, "fluid_boils_c": None,
}  # fmt: skip


def wheel(size: int, brake: dict[str, Any], **more: Any) -> Wheel:
    told = {**SOUND, "rotor_id": f"q-disc-{size}", "rotor_points_mm": six_points(1.75), **brake}
    if size != 160:
        told["adapter_id"] = ADAPTER[size]
    else:
        told["no_adapter"] = True
    return Wheel(**(told | more))


def town(stops: int = 20, kmh: float = 22) -> Ride:
    return stop_cycle("town", "Through town", stops, kmh, 300, 15)


def slope(*sections: tuple[float, float, float], corner_kmh: float | None = 18, laps: int = 1) -> Ride:
    parts = tuple(
        Section(length_m=length, gradient_pct=gradient, speed_kmh=kmh, corner_kmh=corner_kmh)
        for length, gradient, kmh in sections
    )
    return Ride(id="slope", name="The hill", start_elevation_m=1200, sections=parts, laps=laps)


def job(
    title: str,
    rider: Rider,
    bike: Bike,
    ride: Ride,
    front: Wheel,
    rear: Wheel,
    school: School,
    surface: Surface = Surface.DRY_ASPHALT,
    **more: Any,
) -> Job:
    return Job(
        title=title,
        rider=rider,
        bike=bike,
        front=front,
        rear=rear,
        rides=(ride,),
        decisive_ride=ride.id,
        conditions=Conditions(surface=surface, ambient_c=16),
        wishes=Wishes(school=school),
        proposal=Proposal(front=Pick(), rear=Pick()),
        seed=1,
        **more,
    )


def _city(kmh: float, **more: Any) -> Bike:
    return Bike(kind=BikeKind.CITY, use=Use.CITY, tread=Tread.SLICK, top_speed_kmh=kmh, **more)


def _rider(kg: float, **more: Any) -> Rider:
    return Rider(mass_kg=kg, kit_mass_kg=4, front_share_pct=55, **more)


PRACTISED, NOVICE = Skill.PRACTISED, Skill.NOVICE

RIDERS: tuple[Job, ...] = (
    job("45 kg, city, flat", _rider(45, fingers=2), _city(25), town(), wheel(160, TWO), wheel(160, TWO), School.COOL),
    job("58 kg, gravel, beginner", _rider(58, skill=NOVICE), Bike(kind=BikeKind.GRAVEL, use=Use.GRAVEL, top_speed_kmh=35),
        slope((600, 5, 26), (500, 7, 24), (500, 4, 28)), wheel(160, TWO), wheel(160, TWO), School.LIGHT_HAND,
        Surface.GRAVEL),
    job("72 kg, road, one pass", _rider(72, fingers=2), Bike(kind=BikeKind.ROAD, use=Use.ROAD, tread=Tread.SLICK, top_speed_kmh=55),
        slope((4000, 7, 42), (4000, 7.5, 40), (3500, 6.5, 45), corner_kmh=25), wheel(160, TWO),
        wheel(160, TWO, rotor_id="q-disc-140", native_rotor_mm=140.0, max_rotor_mm=160.0), School.LEAN),
    job("80 kg, touring, alpine", _rider(80, fingers=2), Bike(kind=BikeKind.TOURING, use=Use.TOURING, top_speed_kmh=55),
        slope((5000, 8, 34), (3000, 10, 30), (4000, 8, 34)), wheel(160, TWO), wheel(160, TWO), School.COOL,
        load=Load(luggage_kg=20, luggage_ahead_m=0.1, luggage_height_m=0.6)),
    job("88 kg, city, cable, rain", _rider(88, fingers=2), _city(28), town(30, 24),
        wheel(160, CABLE, pad_inner_mm=0.9, pad_outer_mm=0.8), wheel(160, CABLE, pad_inner_mm=0.9, pad_outer_mm=0.8),
        School.THRIFT, Surface.WET_ASPHALT),
    job("95 kg, trail", _rider(95, style=Style.PULSE), Bike(kind=BikeKind.TRAIL, use=Use.TRAIL, tread=Tread.KNOBBY, top_speed_kmh=40),
        slope((900, 12, 26), (900, 14, 24), (800, 10, 28), corner_kmh=14), wheel(180, FOUR),
        wheel(180, TWO | {"pad_id": "u-k2-semi"}), School.COOL, Surface.HARDPACK),
    job("105 kg, assisted city, hills", _rider(105, fingers=2), _city(32, assisted=True), slope((900, 8, 28), (600, 5, 28)),
        wheel(180, TWO | {"pad_id": "u-k2-semi"}), wheel(160, TWO | {"pad_id": "u-k2-semi"}), School.COOL),
    job("118 kg, enduro, drags", _rider(118, style=Style.DRAG), Bike(kind=BikeKind.ENDURO, use=Use.ENDURO,
        tread=Tread.KNOBBY, top_speed_kmh=45), slope((1500, 17, 22), (1200, 20, 20), (1200, 16, 24), corner_kmh=12),
        wheel(203, FOUR | {"pad_id": "u-k4-resin"}), wheel(180, FOUR | {"pad_id": "u-k4-resin"}), School.COOL,
        Surface.HARDPACK),
    job("130 kg, city, flat", _rider(130, fingers=2), _city(25), town(), wheel(160, TWO | {"pad_id": "u-k2-semi"}),
        wheel(160, TWO | {"pad_id": "u-k2-semi"}), School.COOL),
    job("140 kg, touring, hilly", _rider(140, fingers=2), Bike(kind=BikeKind.TOURING, use=Use.TOURING, top_speed_kmh=55),
        slope((2500, 9, 34), (1500, 11, 32), (2000, 7, 38)), wheel(180, TWO), wheel(180, TWO), School.LIGHT_HAND),
    job("160 kg, tandem, long pass", _rider(84, fingers=2), Bike(kind=BikeKind.TANDEM, use=Use.TANDEM, tread=Tread.SLICK,
        top_speed_kmh=60), slope((6000, 8, 34), (6000, 8.5, 32), (4000, 7, 36)),
        wheel(203, FOUR | {"pad_id": "u-k4-sinter"}, fluid_age_y=3.0, fluid_boils_c=None),
        wheel(203, FOUR | {"pad_id": "u-k4-sinter"}, fluid_age_y=3.0, fluid_boils_c=None), School.COOL,
        load=Load(passengers_kg=72, passengers_ahead_m=0.5, passengers_height_m=1.1)),
    job("62 kg, folding, howls", _rider(62, hands=HandSize.SMALL, fingers=2), Bike(kind=BikeKind.FOLDING, use=Use.CITY,
        tread=Tread.SLICK, top_speed_kmh=25), town(), wheel(160, TWO, rotor_id="q-disc-140", native_rotor_mm=140.0),
        wheel(160, TWO, rotor_id="q-disc-140", native_rotor_mm=140.0), School.QUIET),
)  # fmt: skip
