"""The demo jobs: a made-up workshop's bench. All riders are invented."""

from collections.abc import Mapping
from datetime import timedelta

from sqlalchemy import delete
from sqlalchemy.orm import Session

from clavis.core.evaluation.rides import stop_cycle
from clavis.core.job.document import (
    Bike,
    Complaint,
    Conditions,
    HandSize,
    Job,
    Load,
    Proposal,
    Ride,
    Rider,
    School,
    Skill,
    SpeedFrom,
    Stay,
    StayState,
    Use,
    Wish,
    Wishes,
)
from clavis.core.job.pick import Pick
from clavis.core.job.special_mount import SpecialMount, SpecialMounts
from clavis.core.job.wheel import (
    FittedBrake,
    LeverFeel,
    LimitSource,
    LineState,
    PistonState,
    Presence,
    RotorFace,
    Seen,
    Wheel,
)
from clavis.core.parts.models import AnyPart, Axle, HubInterface
from clavis.core.parts.mounts import BoltDirection, End, SpacingTool, ThreadMaterial
from clavis.core.physics.bike import BikeKind, Surface, Tread
from clavis.core.physics.descent import Style
from clavis.core.physics.friction import PadState
from clavis.core.physics.road import Section
from clavis.demo import bikes
from clavis.demo.catalogue import demo_parts
from clavis.demo.proving import tried
from clavis.demo.roads import RIDES
from clavis.formats.recordings_xml import read_gpx
from clavis.store import jobs, ride_library, workshop
from clavis.store.tables import (
    BikeChangeRow,
    BikeRow,
    BoardRow,
    CalibrationRow,
    ChangeRow,
    DueRow,
    JobPartRow,
    JobRow,
    JobTrackRow,
    LibraryRideRow,
    PartRow,
    PersonRow,
    PhotoRow,
    RideLogRow,
    StockRow,
    SupplyRow,
    TrackRow,
    WorkshopRow,
)

BENCH = jobs.Author("Demo bench", "demo")

_LOOKED = {
    "rotor_cracks": Seen.NO, "rotor_face": RotorFace.CLEAN, "rotor_runout_mm": 0.1, "pistons": PistonState.EVEN,
    "line_state": LineState.GOOD, "lever_feel": LeverFeel.FIRM,
}  # fmt: skip
"""what is seen on a bike that was looked over"""
_POST = {
    "mount_spacing_mm": 74.2,
    "bolt_direction": BoltDirection.ALONG_POST,
    "thread_material": ThreadMaterial.LIGHT_ALLOY,
}
_IS = {"mount_spacing_mm": 51.0, "bolt_direction": BoltDirection.CROSSWISE, "thread_material": ThreadMaterial.STEEL}
_FLAT_FRONT = {
    "mount_spacing_mm": 70.1,
    "spacing_tool": SpacingTool.GAUGE,
    "bolt_direction": BoltDirection.INTO_LEG,
    "thread_material": ThreadMaterial.LIGHT_ALLOY,
}
_FLAT_REAR = {
    "mount_spacing_mm": 34.0,
    "bolt_direction": BoltDirection.THROUGH_STAY,
    "thread_material": ThreadMaterial.LIGHT_ALLOY,
}


def six_points(thinnest_mm: float) -> tuple[float, ...]:
    """Six readings round a rotor worn a little unevenly; the third is the thinnest."""
    return tuple(round(thinnest_mm + more, 2) for more in (0.01, 0.01, 0.0, 0.02, 0.01, 0.02))


def tandem(tracks: Mapping[str, str]) -> Job:
    """A loaded touring tandem facing a long pass on brakes of a light bike."""
    common = {
        "hub": HubInterface.SIX_BOLT, "rotor_id": "q-disc-180", "caliper_id": "u-two-22", "lever_id": "u-blade-a",
        "pad_id": "u-k2-resin", "pad_state": PadState.GOOD, "pad_inner_mm": 1.6, "pad_outer_mm": 1.7, "rotor_points_mm": six_points(1.72),
        "native_rotor_mm": 160.0, "adapter_id": "a-pp-160-180", "fluid_grade": "mineral", "fluid_age_y": 1.0, "fluid_boils_c": 105.0,
        "axle": Axle.MM15, "spoke_gap_mm": 4.6, "upper_bolt_mm": 28.0, "lower_bolt_mm": 30.0, **_POST, **_LOOKED, "lever_feel": LeverFeel.NOT_CHECKED,
    }  # fmt: skip
    return Job(
        title="Tandem for the long pass",
        rider=Rider(name="Osric and Maud Fennimore", mass_kg=82, kit_mass_kg=4, fingers=2, skill=Skill.PRACTISED),
        bike=Bike(kind=BikeKind.TANDEM, use=Use.TANDEM, tread=Tread.SLICK, top_speed_kmh=60),
        load=Load(
            luggage_kg=26, luggage_ahead_m=0.35, luggage_height_m=0.7, passengers_kg=68, passengers_ahead_m=0.55,
            passengers_height_m=1.1,
        ),
        conditions=Conditions(surface=Surface.DRY_ASPHALT, ambient_c=24),
        complaints=(Complaint.FADES, Complaint.LONG_LEVER),
        complaint_words="On the last pass the lever went long after a quarter of an hour.",
        wishes=Wishes(school=School.COOL, budget_price=600),
        front=Wheel(**{**common, "max_rotor_mm": 203.0}),
        rear=Wheel(**{**common, "max_rotor_mm": 203.0, "axle": Axle.MM12}),
        rides=(
            Ride(id="pass", name="Long pass", track_id=tracks["long-pass"], hold_kmh=32, times_a_year=12),
            stop_cycle("town", "Town, luggage on: 25 stops", 25, 22, 350, 20).model_copy(update={"times_a_year": 60.0}),
        ),
        decisive_ride="pass",
        proposal=Proposal(
            front=Pick(rotor_id="b-load-203", caliper_id="p-four-1618", lever_id="p-arm-swing", pad_id="p-p4-sinter"),
            rear=Pick(rotor_id="b-load-203", caliper_id="p-four-1618", lever_id="p-arm-swing", pad_id="p-p4-sinter"),
        ),
        seed=11,
    )  # fmt: skip


def cargo(tracks: Mapping[str, str]) -> Job:
    """An assisted longtail with regeneration, two children on it, in a wet hill town."""
    common = {
        "hub": HubInterface.SIX_BOLT, "caliper_id": "u-two-22", "lever_id": "q-grip", "pad_id": "u-k2-resin",
        "pad_state": PadState.GOOD, "fluid_grade": "mineral", "fluid_age_y": 1.0, "fluid_boils_c": 120.0, "no_adapter": True, "hose_slack_mm": 26.0, **_POST, **_LOOKED,
    }  # fmt: skip
    return Job(
        title="Longtail for the school run",
        rider=Rider(name="Ida Quillfeather", mass_kg=64, kit_mass_kg=3, hands=HandSize.SMALL, front_share_pct=45),
        bike=Bike(
            kind=BikeKind.CARGO, use=Use.CARGO, assisted=True, top_speed_kmh=32, regen_end=End.REAR, regen_share_pct=40,
            regen_limit_w=250,
        ),
        load=Load(passengers_kg=44, passengers_ahead_m=0.1, passengers_height_m=0.95, luggage_kg=8),
        conditions=Conditions(surface=Surface.WET_ASPHALT, ambient_c=9),
        complaints=(Complaint.WEAK, Complaint.WET_NOISE),
        complaint_words="Two fingers and all my weight at the school gate when it rains.",
        wishes=Wishes(school=School.LIGHT_HAND, budget_price=400),
        front=Wheel(**common, rotor_id="q-disc-180", native_rotor_mm=180.0, max_rotor_mm=203.0, axle=Axle.MM15,
                    rotor_points_mm=six_points(1.78), pad_inner_mm=1.4, pad_outer_mm=1.5),
        rear=Wheel(**common, rotor_id="q-disc-180", native_rotor_mm=180.0, max_rotor_mm=180.0, axle=Axle.MM12, carrying_id="g-haul",
                   limit_source=LimitSource.DOCUMENT,
                   rotor_points_mm=six_points(1.61), pad_inner_mm=0.8, pad_outer_mm=0.9),
        rides=(
            Ride(id="town", name="Hill town in the rain", track_id=tracks["hill-town"], speed_from=SpeedFrom.RECORDED,
                 times_a_year=180),
            stop_cycle("errands", "Errands on the flat: 30 stops", 30, 24, 260, 20).model_copy(update={"times_a_year": 150.0}),
        ),
        decisive_ride="town",
        proposal=Proposal(front=Pick(rotor_id="b-load-203", pad_id="u-k2-semi"), rear=Pick(pad_id="u-k2-semi")),
        special=SpecialMounts(front=SpecialMount(  # asked about: a heavier caliper with crosswise bolts of its own
            caliper_id="b-haul-quad", upper_x_mm=92.0, upper_y_mm=78.0, lower_x_mm=104.0, lower_y_mm=28.0, rotor_mm=203.0, pitch_mm=84.0,
            line_to_edge_mm=6.0, pad_angle_deg=24.0, mount_face_mm=28.0, caliper_face_mm=14.0, ear_mm=12.0, tab_mm=6.0,
            material=ThreadMaterial.LIGHT_ALLOY,
        )),
        seed=12,
    )  # fmt: skip


def gravel(_tracks: Mapping[str, str]) -> Job:
    """A very light rider whose rear wheel locks: not a case for the largest rotor."""
    common = {
        "hub": HubInterface.SPLINED, "rotor_id": "u-line-160", "caliper_id": "t-flat-21", "lever_id": "t-hood",
        "pad_id": "t-f2-resin", "pad_state": PadState.GOOD, "fluid_grade": "mineral", "fluid_age_y": 1.0, "fluid_boils_c": 120.0,
        "axle": Axle.MM12, "max_rotor_mm": 160.0, "native_rotor_mm": 140.0, "fluid_id": "t-oil",
        "spoke_gap_mm": 3.4, "hose_slack_mm": 24.0, **_LOOKED,
    }  # fmt: skip
    return Job(
        title="Gravel bike that grabs",
        rider=Rider(name="Wren Tolliver", mass_kg=49, kit_mass_kg=3, skill=Skill.NOVICE),
        bike=Bike(kind=BikeKind.GRAVEL, use=Use.GRAVEL, tread=Tread.MIXED, mass_kg=8.9, top_speed_kmh=45),
        conditions=Conditions(surface=Surface.GRAVEL, ambient_c=18),
        complaints=(Complaint.GRABS,),
        complaint_words="The back wheel locks before I know it.",
        wishes=Wishes(school=School.LEAN, budget_price=150),
        front=Wheel(**common, **_FLAT_FRONT, carrying_id="k-lane", limit_source=LimitSource.DOCUMENT, adapter_id="a-ff-flip", rotor_points_mm=six_points(1.74), pad_inner_mm=1.3, pad_outer_mm=1.4),
        rear=Wheel(**common, **_FLAT_REAR, carrying_id="g-lane", limit_source=LimitSource.DOCUMENT, adapter_id="a-fr-140-160", tab_mm=15.0, rotor_points_mm=six_points(1.76), pad_inner_mm=1.5, pad_outer_mm=1.6),
        rides=(
            Ride(id="lane", name="Gravel lane home", start_elevation_m=520, times_a_year=60, sections=(
                Section(length_m=900, gradient_pct=6, speed_kmh=28, corner_kmh=14),
                Section(length_m=1400, gradient_pct=9, speed_kmh=26, corner_kmh=12),
                Section(length_m=700, gradient_pct=4, speed_kmh=32),
                Section(length_m=600, gradient_pct=11, speed_kmh=22, corner_kmh=10),
            )),
        ),
        decisive_ride="lane",
        proposal=Proposal(rear=Pick(rotor_id="t-light-140")),
        seed=13,
    )  # fmt: skip


def hire(tracks: Mapping[str, str]) -> Job:
    """A hire bike on lift-served trails: arm pump, and fade by the afternoon."""
    common = {
        "hub": HubInterface.SIX_BOLT, "rotor_id": "q-disc-180", "caliper_id": "p-two-21", "lever_id": "p-arm",
        "pad_id": "p-p2-resin", "fluid_grade": "dot51", "native_rotor_mm": 180.0, "no_adapter": True,
        "spoke_gap_mm": 4.2, "hose_slack_mm": 16.0, **_POST,
    }  # fmt: skip
    return Job(
        title="Hire bike no. 14",
        rider=Rider(name="Hire rider, heavy", mass_kg=96, kit_mass_kg=6, skill=Skill.NOVICE, front_share_pct=40),
        bike=Bike(kind=BikeKind.ENDURO, use=Use.DOWNHILL, tread=Tread.KNOBBY, top_speed_kmh=40),
        conditions=Conditions(surface=Surface.HARDPACK, ambient_c=22),
        complaints=(Complaint.ARM_PUMP, Complaint.FADES),
        complaint_words="Arms gone by the third lap; rear lever long after lunch.",
        wishes=Wishes(school=School.COOL, budget_price=350),
        front=Wheel(**common, max_rotor_mm=203.0, axle=Axle.MM20, rotor_points_mm=six_points(1.66), pad_inner_mm=1.2, pad_outer_mm=1.3,
                    pad_state=PadState.GLAZED, fluid_age_y=1.5),
        rear=Wheel(**common, axle=Axle.MM12, rotor_points_mm=six_points(1.52), pad_inner_mm=1.1, pad_outer_mm=1.2, pad_state=PadState.GLAZED),
        rides=(
            Ride(id="trail", name="Lift trail", track_id=tracks["lift-trail"], speed_from=SpeedFrom.RECORDED, times_a_year=400),
            park_day(tracks),
        ),
        decisive_ride="trail",
        proposal=Proposal(
            front=Pick(rotor_id="t-heavy-200", caliper_id="p-four-1618", pad_id="p-p4-sinter"),
            rear=Pick(rotor_id="t-heavy-200", caliper_id="p-four-1618", pad_id="p-p4-sinter"),
        ),
        seed=14,
    )  # fmt: skip


def commuter(_tracks: Mapping[str, str]) -> Job:
    """An all-weather commuter on cable discs and IS mounts."""
    common = {
        "hub": HubInterface.SIX_BOLT, "rotor_id": "q-disc-160", "caliper_id": "b-cable-one", "lever_id": "b-pull-short",
        "pad_id": "b-c1-resin", "pad_state": PadState.GOOD, "axle": Axle.QUICK_RELEASE, "tab_mm": 5.0,
        "hose_slack_mm": 22.0, **_IS, **_LOOKED,
    }  # fmt: skip
    return Job(
        title="Commuter on cable discs",
        rider=Rider(name="Bram Oakeshott", mass_kg=88, kit_mass_kg=7, fingers=2, style=Style.PULSE),
        bike=Bike(kind=BikeKind.CITY, use=Use.CITY, top_speed_kmh=38),
        load=Load(luggage_kg=9),
        conditions=Conditions(surface=Surface.WET_ASPHALT, ambient_c=7),
        complaints=(Complaint.WEAK, Complaint.WEARS_PADS),
        complaint_words="Pads last six weeks in winter.",
        wishes=Wishes(school=School.THRIFT, budget_price=120),
        front=Wheel(**common, adapter_id="a-is-160-140", max_rotor_mm=180.0, rotor_points_mm=six_points(1.69), pad_inner_mm=1.2, pad_outer_mm=1.3),
        rear=Wheel(**common, adapter_id="a-is-180-160", max_rotor_mm=160.0, rotor_points_mm=six_points(1.58), pad_inner_mm=0.9, pad_outer_mm=1.0),
        rides=(
            Ride(id="hill", name="Brewery hill", start_elevation_m=180, times_a_year=220, sections=(
                Section(length_m=600, gradient_pct=7, speed_kmh=30, corner_kmh=8),
                Section(length_m=400, gradient_pct=10, speed_kmh=26, corner_kmh=5),
                Section(length_m=900, gradient_pct=2, speed_kmh=28, corner_kmh=4),
            )),
        ),
        decisive_ride="hill",
        proposal=Proposal(front=Pick(rotor_id="q-disc-180", pad_id="b-c1-semi"), rear=Pick(pad_id="b-c1-semi")),
        seed=15,
    )  # fmt: skip


def tourer(_tracks: Mapping[str, str]) -> Job:
    """A steel tourer on rim brakes: tabs on frame and fork, hubs without a seat for a rotor."""
    common = {
        "fitted_brake": FittedBrake.RIM, "mount_there": Presence.THERE, "hub_there": Presence.MISSING, "tab_mm": 5.0,
        "spacing_tool": SpacingTool.TAPE, **_IS,
    }  # fmt: skip
    return Job(
        title="Steel tourer, discs wanted",
        rider=Rider(name="Wilmot Dray", mass_kg=79, kit_mass_kg=4, fingers=2),
        bike=Bike(kind=BikeKind.TOURING, use=Use.TOURING, tyre_size="42-622", top_speed_kmh=52),
        load=Load(luggage_kg=22, luggage_ahead_m=0.2, luggage_height_m=0.6),
        conditions=Conditions(surface=Surface.WET_ASPHALT, ambient_c=12),
        complaints=(Complaint.CONVERSION, Complaint.WEAK),
        complaint_words="Rims worn through twice; the frame has tabs, so why not discs.",
        wishes=Wishes(school=School.THRIFT, budget_price=300, wants=(Wish.WET_DAYS, Wish.KEEP_PARTS)),
        front=Wheel(**common, max_rotor_mm=180.0, limit_source=LimitSource.MAKER_ANSWER),
        rear=Wheel(**common, max_rotor_mm=160.0, limit_source=LimitSource.MARKED),
        rides=(
            Ride(id="moor", name="Down from the moor", start_elevation_m=560, times_a_year=40, sections=(
                Section(length_m=2200, gradient_pct=6, speed_kmh=38, corner_kmh=20),
                Section(length_m=1500, gradient_pct=9, speed_kmh=32, corner_kmh=14),
            )),
        ),
        decisive_ride="moor",
        seed=16,
    )  # fmt: skip


def tourer_of_last_year() -> Job:
    """A tourer on hydraulic discs, served and handed over a year ago."""
    common = {
        "fitted_brake": FittedBrake.DISC, "hub": HubInterface.SPLINED, "rotor_id": "u-line-180", "caliper_id": "u-two-22",
        "lever_id": "u-blade-a", "pad_id": "u-k2-semi", "axle": Axle.MM12, "fluid_grade": "mineral", "fluid_age_y": 0.0,
        "fluid_boils_c": 120.0, "no_adapter": True, "spacing_tool": SpacingTool.GAUGE, "native_rotor_mm": 180.0,
        "limit_source": LimitSource.MARKED, "hole_depth_mm": 16.0, "pad_state": PadState.GOOD, "pad_inner_mm": 2.3,
        "pad_outer_mm": 2.3, "rotor_points_mm": six_points(1.79), **_POST, **_LOOKED,
    }  # fmt: skip
    return Job(
        title="Steel tourer, last year’s service",
        rider=Rider(name="Hesper Vane", mass_kg=71, kit_mass_kg=4, fingers=1),
        bike=Bike(kind=BikeKind.TOURING, use=Use.TOURING, tyre_size="40-622", top_speed_kmh=50),
        load=Load(luggage_kg=14, luggage_ahead_m=0.2, luggage_height_m=0.6),
        complaints=(Complaint.LONG_LEVER,),
        front=Wheel(**common, max_rotor_mm=203.0),
        rear=Wheel(**common, max_rotor_mm=180.0),
        rides=(
            Ride(id="ridge", name="Over the ridge and down", start_elevation_m=620, times_a_year=60, sections=(
                Section(length_m=2600, gradient_pct=7, speed_kmh=38, corner_kmh=22),
                Section(length_m=900, gradient_pct=9, speed_kmh=32, corner_kmh=16),
                Section(length_m=4000, gradient_pct=0.5, speed_kmh=22),
            )),
        ),
        decisive_ride="ridge",
        seed=21,
    )  # fmt: skip


def folding(_tracks: Mapping[str, str]) -> Job:
    """A folding bike with small wheels: new pads, and it howls; the rear rotor pulses."""
    common = {
        "fitted_brake": FittedBrake.DISC, "hub": HubInterface.SIX_BOLT, "rotor_id": "q-disc-140", "caliper_id": "u-two-22",
        "lever_id": "u-blade-a", "pad_id": "u-k2-semi", "axle": Axle.QUICK_RELEASE, "fluid_grade": "mineral",
        "fluid_age_y": 0.2, "fluid_boils_c": 120.0, "no_adapter": True, "spacing_tool": SpacingTool.GAUGE, "max_rotor_mm": 160.0,
        "limit_source": LimitSource.DOCUMENT, "hole_depth_mm": 14.0, **_POST, **_LOOKED,
    }  # fmt: skip
    return Job(
        title="Folding bike that howls",
        rider=Rider(name="Sunniva Hale", mass_kg=58, kit_mass_kg=6, fingers=2, hands=HandSize.SMALL),
        bike=Bike(kind=BikeKind.FOLDING, use=Use.CITY, tyre_size="40-355", tread=Tread.SLICK, top_speed_kmh=28),
        conditions=Conditions(surface=Surface.WET_ASPHALT, ambient_c=14),
        complaints=(Complaint.HOWLS, Complaint.PULSES),
        complaint_words="New pads a month ago, since then it howls; the rear one pulses.",
        wishes=Wishes(school=School.QUIET, budget_price=90, wants=(Wish.QUIET, Wish.WET_DAYS)),
        front=Wheel(**common | {"rotor_face": RotorFace.DIRTY}, rotor_points_mm=six_points(1.71), pad_inner_mm=1.8,
                    pad_outer_mm=1.8, pad_state=PadState.GLAZED),
        rear=Wheel(**common, rotor_points_mm=(1.66, 1.69, 1.71, 1.70, 1.67, 1.65), pad_inner_mm=1.7, pad_outer_mm=1.6,
                   ),
        rides=(
            Ride(id="quay", name="Down to the quay", start_elevation_m=90, times_a_year=230, sections=(
                Section(length_m=350, gradient_pct=8, speed_kmh=24, corner_kmh=6),
                Section(length_m=500, gradient_pct=4, speed_kmh=22, corner_kmh=3),
            )),
        ),
        decisive_ride="quay",
        seed=17,
    )  # fmt: skip


JOBS = (tandem, cargo, gravel, hire, commuter, tourer, folding)


def _keep_tracks(session: Session) -> dict[str, str]:
    names = {}
    for path in sorted(RIDES.glob("*.gpx")):
        with path.open("rb") as stream:
            names[path.stem] = jobs.keep_track(session, read_gpx(stream).track)
    return names


def library(tracks: Mapping[str, str]) -> tuple[Ride, ...]:
    """Rides that jobs share."""
    return (
        Ride(id="long-pass", name="Long pass", track_id=tracks["long-pass"], hold_kmh=32),
        Ride(id="hill-town", name="Hill town in the rain", track_id=tracks["hill-town"], speed_from=SpeedFrom.RECORDED),
        Ride(id="lift-trail", name="Lift trail, one run", track_id=tracks["lift-trail"], speed_from=SpeedFrom.RECORDED),
        park_day(tracks),
        stop_cycle("city-stops", "City: 40 stops", 40, 25, 280, 15),
        stop_cycle("delivery-round", "Delivery round: 90 doors", 90, 18, 110, 75),
        Ride(id="school-run", name="School run", start_elevation_m=140, times_a_year=180, sections=(
            Section(length_m=400, gradient_pct=0, speed_kmh=22, stand_s=25),
            Section(length_m=650, gradient_pct=9, speed_kmh=26, stand_s=15, surface=Surface.WET_ASPHALT),
            Section(length_m=300, gradient_pct=4, speed_kmh=22, stand_s=90),
            Section(length_m=500, gradient_pct=7, speed_kmh=26, stand_s=10, surface=Surface.WET_COBBLES),
        )),
        Ride(id="steep-lane", name="Steep lane to the mill", start_elevation_m=310, sections=(
            Section(length_m=500, gradient_pct=12, speed_kmh=28, corner_kmh=10),
            Section(length_m=350, gradient_pct=19, speed_kmh=20, corner_kmh=8),
            Section(length_m=450, gradient_pct=11, speed_kmh=28, stand_s=5),
        )),
    )  # fmt: skip


def park_day(tracks: Mapping[str, str]) -> Ride:
    """Eight runs from the lift, a quarter of an hour between."""
    return Ride(id="lift-day", name="Lift day: 8 runs", track_id=tracks["lift-trail"], speed_from=SpeedFrom.RECORDED,
                laps=8, rest_min=14, times_a_year=90)  # fmt: skip


SHELF_PIECES = {"bolt": 12, "small": 20, "pad": 2, "fluid": 1, "hub": 1}
"""what a small workshop keeps of each kind; rotors of the commonest size, and what else is ordered for a job"""


def _on_the_shelf(part: AnyPart) -> int:
    usual_rotor = part.kind == "rotor" and part.diameter_mm in (160, 180) and part.construction.value == "one_piece"
    return 1 if usual_rotor else SHELF_PIECES.get(part.kind, 0)


_STAYS: dict[str, tuple[StayState, int, str]] = {
    "Tandem for the long pass": (StayState.ON_THE_BENCH, 3, "Tess"),
    "Longtail for the school run": (StayState.WAITS_FOR_PARTS, 6, "Rolf"),
    "Gravel bike that grabs": (StayState.READY, 0, "Tess"),
    "Hire bike no. 14": (StayState.BOOKED, 9, ""),
    "Commuter on cable discs": (StayState.ON_THE_BENCH, -1, "Rolf"),
}
"""state, days from today until it is promised, mechanic"""


def stay_of(title: str) -> Stay:
    """Where a demo bike stands in the workshop, as of today."""
    if title not in _STAYS:
        return Stay()
    state, days, mechanic = _STAYS[title]
    promised = jobs.now().date() + timedelta(days=days)
    return Stay(state=state, promised_on=promised.isoformat(), mechanic=mechanic)


def fill_if_empty(session: Session) -> bool:
    """Lay the demo world into an empty database; False where something stands already."""
    if session.query(JobRow).first() is not None or session.query(PartRow).first() is not None:
        return False
    jobs.keep_new_parts(session, demo_parts())
    session.add_all(
        StockRow(part_id=part.id, pieces=pieces, who=BENCH.who, changed_at=jobs.now())
        for part in demo_parts()
        if (pieces := _on_the_shelf(part))
    )
    workshop.set_terms(session, {"name": "Workshop at the old lock", "hourly_price": 64.0}, BENCH.who)
    tracks = _keep_tracks(session)
    for make in reversed(JOBS):
        job = tried(make(tracks))
        jobs.create_job(session, job.model_copy(update={"stay": stay_of(job.title)}), BENCH, demo=True)
    for ride in library(tracks):
        ride_library.keep(session, ride, BENCH.who)
    bikes.lay_down(session, jobs.read_catalogue(session), tourer_of_last_year(), BENCH)
    session.commit()
    return True


def reset(session: Session) -> None:
    """Take everything out and lay the demo world again."""
    for table in (
        JobPartRow, JobTrackRow, LibraryRideRow, WorkshopRow, SupplyRow, StockRow, CalibrationRow, RideLogRow, ChangeRow,
        BoardRow, JobRow, TrackRow, PartRow, DueRow, PhotoRow, BikeChangeRow, BikeRow, PersonRow,
    ):  # fmt: skip
        session.execute(delete(table))
    session.commit()
    fill_if_empty(session)
