"""The stations of the way through a job, the rooms beside them, and where each field and task of the core is shown."""

from enum import StrEnum

from clavis.core.job.places import Place, Task, place_of
from clavis.core.parts.mounts import End


class Station(StrEnum):
    """The eight stations in their order."""

    INTAKE = "intake"
    MEASURE = "measure"
    RIDE = "ride"
    CHOOSE = "choose"
    FIT = "fit"
    BUILD = "build"
    PROVE = "prove"
    KEEP = "keep"


class Room(StrEnum):
    """Where a change can be made: the eight stations, the guide beside Intake, the comparison beside Choose, special
    mounts beside Fit."""

    INTAKE = Station.INTAKE.value
    MEASURE = Station.MEASURE.value
    RIDE = Station.RIDE.value
    CHOOSE = Station.CHOOSE.value
    FIT = Station.FIT.value
    BUILD = Station.BUILD.value
    PROVE = Station.PROVE.value
    KEEP = Station.KEEP.value
    GUIDE = "guide"
    COMPARE = "compare"
    SPECIAL = "special"

    @property
    def folder(self) -> str:
        """Where its module and its templates stand: with the station it is beside."""
        return self.station.value

    @property
    def station(self) -> Station:
        """The station whose place in the way through a room takes."""
        beside = {Room.GUIDE: Station.INTAKE, Room.COMPARE: Station.CHOOSE, Room.SPECIAL: Station.FIT}
        return beside.get(self) or Station(self.value)


STATION_OF_TASK: dict[Task, Station] = {
    Task.RIDER_AND_BIKE: Station.INTAKE,
    Task.RIDING: Station.RIDE,
    Task.CHOICE: Station.CHOOSE,
    Task.FITTING: Station.FIT,
    Task.WORK: Station.BUILD,
    Task.LOGBOOK: Station.KEEP,
}
_WHEELS = {end.value for end in End}
_STATION_OF_HEAD = {
    **dict.fromkeys(_WHEELS, Station.MEASURE),
    "rides": Station.RIDE,
    "decisive_ride": Station.RIDE,
    "proposal": Station.CHOOSE,
    "special": Station.FIT,
    "held": Station.BUILD,
    "accepted": Station.BUILD,
    "marked": Station.BUILD,
    "trials": Station.PROVE,
    "heat_sets": Station.PROVE,
    "calibration": Station.PROVE,
}


def station_of(path: str) -> Station:
    """The station on which a field of the job is entered."""
    return _STATION_OF_HEAD.get(path.partition(".")[0], Station.INTAKE)


def address_of(job_id: int, where: Place | Task | str) -> str:
    """The page of a job on which something is entered, chosen or done: a place of the walk, a task, or a field by its
    path, which is then in hand."""
    if isinstance(where, Place):
        return f"/jobs/{job_id}/{Station.MEASURE}?place={where.value}"
    if isinstance(where, Task):
        return f"/jobs/{job_id}/{STATION_OF_TASK[where]}"
    station = station_of(where)
    query = f"?place={place_of(where).value}" if station is Station.MEASURE else ""
    return f"/jobs/{job_id}/{station}{query}#f-{where.replace('.', '-')}"
