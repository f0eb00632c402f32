"""Writing a ride as GPX: its way, heights and times. Positions are not kept by Clavis, so the way is laid out due north
on the open ocean: every distance is right and no place is given away."""

from datetime import UTC, datetime, timedelta
from xml.etree import ElementTree as Xml

import numpy as np
from numpy.typing import NDArray

from clavis.core.job.document import Ride
from clavis.core.job.ride_profile import section_points
from clavis.core.physics.recording import EARTH_RADIUS_M
from clavis.core.physics.road import Track

NAMESPACE = "http://www.topografix.com/GPX/1/1"
START_LAT, LON = -46.5, -21.0
START = datetime(2000, 1, 1, tzinfo=UTC)
SPACING_M = 20.0
NOTE = "Distances, heights and times as ridden; the place is not: Clavis keeps no positions."


def track_of_sections(ride: Ride) -> Track:
    """Typed sections as points, their bounds among them, no further apart than SPACING_M."""
    bounds = np.array(section_points(ride.sections, ride.start_elevation_m))
    parts = [
        np.linspace(a, b, int(np.ceil((b - a) / SPACING_M)), endpoint=False)
        for a, b in zip(bounds[:-1, 0], bounds[1:, 0], strict=True)
    ]
    way = np.concatenate([*parts, bounds[-1:, 0]])
    return Track(way, np.interp(way, bounds[:, 0], bounds[:, 1]), None)


APART_M = 1000.0
"""laid between two pieces of a track, so that a reader sees that what lies between was not ridden"""


def _latitudes(track: Track) -> NDArray[np.float64]:
    way = track.distance_m - track.distance_m[0]
    piece = np.searchsorted(np.array(track.starts, dtype=np.int64), np.arange(len(way)), side="right")
    return np.asarray(START_LAT + np.degrees((way + piece * APART_M) / EARTH_RADIUS_M), dtype=np.float64)


def write_gpx(name: str, track: Track) -> str:
    """GPX 1.1; every piece of the track a segment."""
    Xml.register_namespace("", NAMESPACE)
    root = Xml.Element(f"{{{NAMESPACE}}}gpx", {"version": "1.1", "creator": "Clavis"})
    trk = Xml.SubElement(root, f"{{{NAMESPACE}}}trk")
    Xml.SubElement(trk, f"{{{NAMESPACE}}}name").text = name
    Xml.SubElement(trk, f"{{{NAMESPACE}}}desc").text = NOTE
    latitudes = _latitudes(track)
    for piece in np.split(np.arange(len(latitudes)), track.starts):
        segment = Xml.SubElement(trk, f"{{{NAMESPACE}}}trkseg")
        for k in piece:
            point = Xml.SubElement(
                segment, f"{{{NAMESPACE}}}trkpt", {"lat": f"{latitudes[k]:.7f}", "lon": f"{LON:.7f}"}
            )
            Xml.SubElement(point, f"{{{NAMESPACE}}}ele").text = f"{track.elevation_m[k]:.2f}"
            if track.time_s is not None:
                moment = START + timedelta(seconds=float(track.time_s[k] - track.time_s[0]))
                Xml.SubElement(point, f"{{{NAMESPACE}}}time").text = moment.isoformat(timespec="milliseconds")
    Xml.indent(root, space="")
    return '<?xml version="1.0" encoding="UTF-8"?>\n' + Xml.tostring(root, encoding="unicode") + "\n"
