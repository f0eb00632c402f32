"""A recording that hardly moves asks nothing of the brakes, and its job can be read."""

import json

import pytest
from starlette.testclient import TestClient

from clavis.web.shell.rooms import Station


def crept(pace_ms: float, down: float) -> bytes:
    """GPX of 600 points at 1 Hz, straight north."""
    points = "".join(
        f'<trkpt lat="{47 + pace_ms * k / 111_195:.9f}" lon="8"><ele>{500 - down * pace_ms * k:.4f}</ele>'
        f"<time>2026-01-01T10:{k // 60:02d}:{k % 60:02d}Z</time></trkpt>"
        for k in range(600)
    )
    return f'<?xml version="1.0"?><gpx><trk><trkseg>{points}</trkseg></trk></gpx>'.encode()


@pytest.mark.parametrize(("pace_ms", "down"), [(0.1, 0.0), (0.1, 0.08), (0.3, 0.1)])
@pytest.mark.parametrize("decisive", [True, False])
def test_a_slow_recording_leaves_the_job_to_be_read(
    client: TestClient, pace_ms: float, down: float, decisive: bool
) -> None:
    sent = {"file": ("slow.gpx", crept(pace_ms, down), "application/gpx+xml")}
    assert client.post("/jobs/3/rides/file", files=sent, data={"page": "p"}).status_code == 200
    rides = [ride["id"] for ride in json.loads(client.get("/jobs/3/export").content)["job"]["rides"]]
    if decisive:
        assert client.post(f"/jobs/3/rides/{rides[-1]}/decide", data={"page": "p"}).status_code == 200
    for station in Station:
        answer = client.get(f"/jobs/3/{station}")
        assert answer.status_code == 200 and "cannot be computed" not in answer.text, station
    for piece in (f"rides/{rides[-1]}/worst", "styles", "answer", "moments"):
        assert client.get(f"/jobs/3/{piece}").status_code in (200, 422), piece
