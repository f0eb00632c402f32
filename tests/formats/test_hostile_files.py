"""Files that would take all memory or all time: each is refused before the work, in words; what can be read is read."""

import io
from collections.abc import Callable
from datetime import datetime, timedelta

import numpy as np
import pytest

from clavis.core.errors import ClavisError, ProfileError
from clavis.core.physics.descent import joined
from clavis.core.physics.road import Section, Track, ensure_ride, finer, road_of_sections
from clavis.core.physics.samples import LOAD
from clavis.formats import csv_table, recordings_xml
from clavis.formats.recordings_csv import CsvChoice, CsvColumn, read_csv
from clavis.formats.recordings_xml import read_gpx

HEAD = '<?xml version="1.0"?><gpx version="1.1"><trk><trkseg>'
END = "</trkseg></trk></gpx>"
BEGIN = datetime(2026, 6, 1, 8)
YEAR_S = 365 * 24 * 3600
PLAIN = CsvChoice(
    {CsvColumn.DISTANCE: 0, CsvColumn.ELEVATION: 1, CsvColumn.TIME: None, CsvColumn.SPEED: None},
    {CsvColumn.DISTANCE: "km", CsvColumn.ELEVATION: "m", CsvColumn.TIME: "s", CsvColumn.SPEED: "m/s"},
)


def ridden(points: int, at_s: Callable[[int], float] | None = None, begin: int = 0) -> str:
    """Points along a meridian, one a second; without ``at_s`` with no times."""
    out = []
    for k in range(begin, begin + points):
        time = f"<time>{(BEGIN + timedelta(seconds=at_s(k))).isoformat()}Z</time>" if at_s else ""
        out.append(f'<trkpt lat="{46 + k * 5e-5:.6f}" lon="7"><ele>{1500 - 0.4 * k:.1f}</ele>{time}</trkpt>')
    return "".join(out)


def gpx(inside: str) -> io.BytesIO:
    return io.BytesIO((HEAD + inside + END).encode())


HOSTILE: dict[str, tuple[Callable[[], object], str]] = {
    "a clock that jumps": (lambda: read_gpx(gpx(ridden(60, lambda k: k + 20 * YEAR_S * (k > 30)))), "clock jumps"),
    "rides a year apart": (
        lambda: read_gpx(gpx(ridden(60, float) + "</trkseg><trkseg>" + ridden(60, lambda k: k + YEAR_S, 60))),
        "several rides",
    ),
    "nested": (lambda: read_gpx(gpx("<a>" * 50 + "</a>" * 50)), "nested too deep"),
    "nested in a point": (
        lambda: read_gpx(gpx('<trkpt lat="46" lon="7">' + "<a>" * 50 + "</a>" * 50 + "</trkpt>")),
        "nested too deep",
    ),
    "attributes": (
        lambda: read_gpx(gpx('<trkpt lat="46" lon="7" ' + " ".join(f'a{k}="1"' for k in range(99)) + "/>")),
        "is built as no GPX",
    ),
    "a tag without end": (lambda: read_gpx(gpx(f'<a b="{">" * 400_000}"/>')), "is built as no GPX"),
    "a remark without end": (lambda: read_gpx(gpx(f"<!--{'x' * 400_000}-->")), "is built as no GPX"),
    "names without end": (lambda: read_gpx(gpx("".join(f"<a{k}/>" for k in range(600)))), "is built as no GPX"),
    "a text without end": (
        lambda: read_gpx(gpx(f'<trkpt lat="46" lon="7"><time>{"9" * 5000}</time></trkpt>')),
        "longer than 200 letters",
    ),
    "newlines": (lambda: list(csv_table.rows(b"a;b\n1;2\n" + b"\n" * (csv_table.MOST_LINES + 1))), "lines; cut it first"),
    "metres taken for kilometres": (
        lambda: read_csv(b"way,height\n" + b"".join(b"%d,500\n" % (k * 100) for k in range(30)), PLAIN),
        "see its units",
    ),
    "heights of 1e300": (lambda: Track(np.array([0.0, 50, 99]), np.array([1.0, 1e300, 2]), None), "above the sea"),
    "ways of 1e12": (lambda: Track(np.array([0.0, 5, 1e12]), np.array([1.0, 2, 3]), None), "see its units"),
    "endless laps": (lambda: ensure_ride(200 * 20_000.0), "with all its laps"),
    "endless rests": (lambda: joined([LOAD] * 3, [240 * 3600.0] * 2), "laps and rests"),
    "through the earth": (
        lambda: road_of_sections([Section(length_m=100_000, gradient_pct=35, speed_kmh=30)], 800.0),
        "gradients of its sections",
    ),
    "pulses without end": (
        lambda: finer(road_of_sections([Section(length_m=99_000, gradient_pct=3, speed_kmh=30)], 3500.0), 0.25),
        "shorter rides",
    ),
}  # fmt: skip


@pytest.mark.parametrize("what", HOSTILE)
def test_it_is_refused_in_words(what: str) -> None:
    act, words = HOSTILE[what]
    with pytest.raises(ClavisError) as caught:
        act()
    assert words in str(caught.value).replace("\n", " ") and "\n" not in str(caught.value)


def test_too_many_elements_are_refused_long_before_the_end(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(recordings_xml, "MOST_TAGS", 50)
    read = 0

    class Counted(io.BytesIO):
        def read(self, size: int | None = -1) -> bytes:
            nonlocal read
            found = super().read(size)
            read += len(found)
            return found

    with pytest.raises(ProfileError, match="too long"):
        read_gpx(Counted((HEAD + "<x/>" * 1_000_000 + END).encode()))
    assert read <= 2 * recordings_xml.CHUNK_BYTES


def test_a_first_fix_at_nowhere_is_left_out() -> None:
    nowhere = '<trkpt lat="0" lon="0"><ele>0</ele></trkpt>'
    found = read_gpx(gpx(nowhere * 3 + ridden(120)))
    assert len(found.track.distance_m) == 120 and 600 < float(found.track.distance_m[-1]) < 700
    assert "3 points at 0°, 0°" in found.notes[0].words
    plain = read_gpx(gpx(ridden(120)))
    assert np.array_equal(plain.track.distance_m, found.track.distance_m)
