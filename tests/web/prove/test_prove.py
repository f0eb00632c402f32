"""Station 7 through the pages: plan, runs, result, temperatures, calibration; refusals that lose nothing."""

import re

import pytest
from starlette.testclient import TestClient

from clavis.core.job.trials import Question
from tests.web.told import entries_of, told, told_at

TANDEM, CARGO, GRAVEL, HIRE, COMMUTER, TOURER = 7, 6, 5, 4, 3, 2


def page(client: TestClient, job: int, **query: str) -> str:
    return told_at(client, f"/jobs/{job}/prove", **query)


def post(client: TestClient, job: int, address: str, **data: str):
    """As the page posts, from the address it stands at."""
    form = {"page": "p", "room": "prove", **data}
    return client.post(
        f"/jobs/{job}/{address}", data=form, headers={"hx-current-url": f"http://testserver/jobs/{job}/prove?view=runs"}
    )


def begun(client: TestClient, question: str = "stops_shorter") -> str:
    answer = post(client, TANDEM, "trials", question=question, a="fitted", b="proposed")
    assert answer.status_code == 200, answer.text
    return re.search(r"trial=([a-z0-9-]+)", answer.headers["hx-redirect"])[1]


def test_every_question_is_offered_with_what_the_model_expects(client: TestClient) -> None:
    offers = told(client.get(f"/jobs/{TANDEM}/trials/expected"))
    assert "Does B stop shorter than A? stop from a line 4.15 m 3.45 m B stops 0.70 m shorter 24" in offers
    assert "the model knows of no difference" in offers
    same = client.get(f"/jobs/{TANDEM}/trials/expected", params={"a": "fitted", "b": "fitted"})
    assert same.status_code == 422
    assert client.get(f"/jobs/{TANDEM}/trials/expected", params={"a": "fitted", "b": "gone"}).status_code == 404


def test_a_job_without_a_second_setup_is_told_where_to_get_one(client: TestClient) -> None:
    folding = page(client, 1)
    assert "Propose a setup on Choose" in folding


def test_what_cannot_be_known_is_unknown(client: TestClient) -> None:
    post(client, TANDEM, "field", path="rider.mass_kg", value="", base="9999")
    offers = told(client.get(f"/jobs/{TANDEM}/trials/expected"))
    assert offers.count("unknown") >= len(Question)
    assert "stops 0.70 m shorter" not in offers


def test_a_plan_has_runs_order_pauses_and_what_else_could_make_the_difference(client: TestClient) -> None:
    begun(client)
    plan = page(client, TANDEM)
    assert "24 runs, 6 blocks of four" in plan
    assert re.search(r"show what is expected with a chance of 9\d%", plan)
    assert "More than one kind of part differs" in plan
    assert "bed in the front: 12 stops from 45 km/h" in plan
    assert "seed 11" in plan
    sheet = told(client.get(f"/jobs/{TANDEM}/trials/stops-shorter/sheet"))
    assert "24 runs in 6 blocks of four, order drawn by lot with seed 11" in sheet
    pdf = client.get(f"/jobs/{TANDEM}/trials/stops-shorter/sheet.pdf")
    assert pdf.content.startswith(b"%PDF")


def test_another_lot_another_order_but_not_once_runs_are_ridden(client: TestClient) -> None:
    trial = begun(client)
    letters = re.findall(
        r'class="side side-([AB])"', client.get(f"/jobs/{TANDEM}/prove").text.split("order-letters")[1]
    )
    post(client, TANDEM, f"trials/{trial}/set", what="seed")
    again = re.findall(r'class="side side-([AB])"', client.get(f"/jobs/{TANDEM}/prove").text.split("order-letters")[1])
    assert letters[:24] != again[:24]
    assert record(client, trial, 0, distance_m="4.2").status_code == 200
    assert post(client, TANDEM, f"trials/{trial}/set", what="seed").status_code == 409
    assert post(client, TANDEM, f"trials/{trial}/set", what="order", value="randomised").status_code == 409


@pytest.mark.parametrize(
    ("what", "value", "status"), [("kind", "nonsense", 422), ("end", "left", 422), ("seed", "", 200)]
)
def test_a_choice_that_is_none_is_refused(client: TestClient, what: str, value: str, status: int) -> None:
    assert post(client, TANDEM, f"trials/{begun(client)}/set", what=what, value=value).status_code == status


def test_what_matters_is_read_in_the_readers_units(client: TestClient) -> None:
    trial = begun(client)
    assert post(client, TANDEM, f"trials/{trial}/difference", what="matters", value="2 ft").status_code == 200
    assert "show 0.61 m, the least that matters" in page(client, TANDEM, view="plan")
    assert post(client, TANDEM, f"trials/{trial}/difference", what="matters", value="much").status_code == 422
    assert post(client, TANDEM, f"trials/{trial}/difference", what="matters", value="0").status_code == 422
    assert post(client, TANDEM, f"trials/{trial}/difference", what="spread", value="0.5").status_code == 200
    assert "runs scatter by 0.50 m, as you said" in page(client, TANDEM)


def record(client: TestClient, trial: str, place: int, job: int = TANDEM, **typed: str):
    return post(client, job, f"trials/{trial}/runs", place=str(place), **typed)


def test_runs_are_kept_one_by_one_and_what_cannot_be_read_comes_back_as_typed(client: TestClient) -> None:
    trial = begun(client)
    refused = record(client, trial, 0, distance_m="4,2 m", speed_kmh="fast", tyre_bar="3")
    assert refused.status_code == 422
    assert entries_of(refused)["distance_m"] == "4,2 m"
    assert entries_of(refused)["speed_kmh"] == "fast"
    assert "fast" in told(refused)
    assert "0 of 24 runs" in page(client, TANDEM)
    kept = record(client, trial, 0, distance_m="4,2 m", speed_kmh="25.5", tyre_bar="45 psi")
    assert kept.status_code == 200
    assert "Run 2" in told(kept)
    runs = page(client, TANDEM, view="runs")
    assert "at 25.5 km/h, 3.1 bar" in runs
    assert "1 of 24 runs" in runs


def test_a_run_without_a_figure_is_kept_only_where_it_is_left_out(client: TestClient) -> None:
    trial = begun(client)
    assert "needed, unless" in told(record(client, trial, 0))
    out = record(client, trial, 0, left_out="a walker on the line")
    assert out.status_code == 200
    assert "Run 1" in told(out)  # its place is ridden again
    assert "a walker on the line" in page(client, TANDEM, view="runs")


def test_a_run_that_was_written_wrong_is_put_right(client: TestClient) -> None:
    trial = begun(client)
    record(client, trial, 0, distance_m="42", speed_kmh="25")
    piece = client.get(f"/jobs/{TANDEM}/trials/{trial}/runs/r1/correct")
    assert f'data-field="trials.{trial}.runs.r1.distance_m"' in piece.text
    path = f"trials.{trial}.runs.r1.distance_m"
    assert post(client, TANDEM, "field", path=path, value="far").status_code == 422
    assert post(client, TANDEM, "field", path=path, value="4.2").status_code == 200
    assert "4.20 m" in page(client, TANDEM, view="runs")
    assert "a run of a trial" in told(client.get(f"/jobs/{TANDEM}/history")).lower()
    assert client.get(f"/jobs/{TANDEM}/trials/{trial}/runs/r9/correct").status_code == 404


def test_a_place_is_not_ridden_twice_and_none_is_made_up(client: TestClient) -> None:
    trial = begun(client)
    record(client, trial, 0, distance_m="4.2")
    assert record(client, trial, 0, distance_m="4.3").status_code == 409
    assert record(client, trial, 99, distance_m="4.3").status_code == 409
    assert record(client, "no-such", 0, distance_m="4.3").status_code == 404


def test_a_run_is_left_out_with_a_reason_and_counted_again(client: TestClient) -> None:
    result = page(client, HIRE, view="result")
    assert "Real B stops 1.21 m shorter" in result
    runs = re.findall(r"/runs/(r\d+)/out", client.get(f"/jobs/{HIRE}/prove?view=runs").text)
    assert post(client, HIRE, f"trials/stops-shorter/runs/{runs[0]}/out", reason="bad").status_code == 422
    assert post(client, HIRE, f"trials/stops-shorter/runs/{runs[0]}/out", reason="wind from behind").status_code == 200
    assert "within 5 blocks" in page(client, HIRE, view="result")
    assert post(client, HIRE, f"trials/stops-shorter/runs/{runs[0]}/out").status_code == 200
    assert "within 6 blocks" in page(client, HIRE, view="result")
    # the walker's run was ridden again: it cannot count beside its successor
    assert post(client, HIRE, "trials/stops-shorter/runs/r25/out").status_code == 409


@pytest.mark.parametrize(
    ("job", "says"),
    [
        (HIRE, "Real B stops 1.21 m shorter, at 95 % between 0.69 m and 1.73 m."),
        (CARGO, "Cannot tell 156 more runs would."),
        (GRAVEL, "No difference that matters The two differ by less than the 1.00 m that would matter."),
        (COMMUTER, "Cannot tell Spoiled: all runs of one setup before all of the other"),
    ],
)
def test_the_demos_trials_say_what_they_show_first(client: TestClient, job: int, says: str) -> None:
    assert says in page(client, job, view="result")


def test_the_figures_stand_under_the_picture(client: TestClient) -> None:
    result = page(client, HIRE, view="result")
    assert "B less A, within 6 blocks −1.21 m −1.73 m to −0.69 m" in result
    assert "by exchanging A and B in every way; no lower than 0.031 with so many runs" in result
    assert "as loose runs (Welch)" in result
    drawn = client.get(f"/jobs/{HIRE}/prove?view=result").text
    assert drawn.count('class="run-dot') == 25
    assert drawn.count("not-counted") == 1


def test_somebody_says_that_a_confounder_was_attended_to(client: TestClient) -> None:
    trial = begun(client)
    assert "nothing_else" in client.get(f"/jobs/{TANDEM}/prove").text
    post(client, TANDEM, f"trials/{trial}/attended/nothing_else")
    assert "Tess Bench, 20" in page(client, TANDEM)
    post(client, TANDEM, f"trials/{trial}/attended/nothing_else", back="true")
    assert "Tess Bench, 20" not in page(client, TANDEM)
    assert post(client, TANDEM, f"trials/{trial}/attended/no_such").status_code == 404


def test_marks_cut_a_run_at_the_bridge(client: TestClient) -> None:
    trial = begun(client, "goes_quicker")
    post(client, TANDEM, f"trials/{trial}/marks", value="bridge, barn")
    for place in range(8):
        typed = (
            {"mark_0": "60", "mark_1": "90", "time_s": str(120 + place)} if place != 5 else {"mark_0": f"{60 + place}"}
        )
        assert record(client, trial, place, **typed).status_code == 200
    assert "cut at bridge: it counts as far as there" in page(client, TANDEM, view="runs")
    at_bridge = client.get(f"/jobs/{TANDEM}/prove?view=result&mark=0").text
    assert "not-counted" not in at_bridge
    assert post(client, TANDEM, f"trials/{trial}/marks", value="bridge").status_code == 409


def test_an_undone_trial_comes_back(client: TestClient) -> None:
    trial = begun(client)
    post(client, TANDEM, f"trials/{trial}/remove")
    assert "Does B stop shorter than A? A" not in page(client, TANDEM)
    post(client, TANDEM, "undo")
    assert "24 runs, 6 blocks" in page(client, TANDEM)


def test_the_phone_has_the_next_run(client: TestClient) -> None:
    trial = begun(client)
    phone = told(client.get(f"/jobs/{TANDEM}/trials/{trial}/ride"))
    assert "Run 1" in phone
    answer = record(client, trial, 0, distance_m="4.2", on="phone")
    assert answer.headers["hx-redirect"] == f"/jobs/{TANDEM}/trials/{trial}/ride"
    assert "Run 2" in told(client.get(f"/jobs/{TANDEM}/trials/{trial}/ride"))


# Temperatures and calibration.


def test_readings_are_worked_back_to_the_stop(client: TestClient) -> None:
    heat = page(client, TANDEM, view="temperatures")
    assert re.search(r"Front rotor at the stop 2\d\d °C 2\d\d to 2\d\d °C", heat)
    assert "Cooling from the same 150 °C" in heat


def test_a_reading_that_rises_is_named_and_the_set_cannot_be_accepted(client: TestClient) -> None:
    heat = page(client, CARGO, view="temperatures")
    assert "Front, 120 s after the stop: 29 K hotter than before" in heat
    assert "No single decay: not worked back." in heat
    assert post(client, CARGO, "heat/after-the-hill/accept").status_code == 409
    post(client, CARGO, "heat/after-the-hill/readings/t5/out", reason="spot was on the pads")
    assert post(client, CARGO, "heat/after-the-hill/accept").status_code == 200


def test_readings_are_typed_and_refused_beside_their_entry(client: TestClient) -> None:
    answer = post(client, TANDEM, "heat")
    set_id = re.search(r"set=([a-z0-9-]+)", answer.headers["hx-redirect"])[1]
    refused = post(client, TANDEM, f"heat/{set_id}/readings", end="front", after="soon", shown="120")
    assert refused.status_code == 422
    assert entries_of(refused)["after"] == "soon"
    assert entries_of(refused)["shown"] == "120"
    kept = post(client, TANDEM, f"heat/{set_id}/readings", end="front", after="30", shown="248 F")
    assert kept.status_code == 200
    assert "120.0 °C" in page(client, TANDEM, view="temperatures", set=set_id)
    post(client, TANDEM, f"heat/{set_id}/remove")
    assert "120.0 °C" not in page(client, TANDEM, view="temperatures")


def test_a_calibration_takes_effect_when_accepted_and_can_be_undone(client: TestClient) -> None:
    sheet = client.get(f"/jobs/{TANDEM}/choose").text
    assert post(client, TANDEM, "calibration").status_code == 409
    post(client, TANDEM, "heat/foot-of-the-pass/accept")
    found = page(client, TANDEM, view="calibration")
    assert re.search(r"Share at the front 55% 44% 4\d to 4\d%", found)
    assert client.get(f"/jobs/{TANDEM}/choose").text.count("calibrated") == sheet.count("calibrated")
    assert post(client, TANDEM, "calibration").status_code == 200
    calibrated = client.get(f"/jobs/{TANDEM}/choose").text
    assert 'view=calibration">calibrated</a>' in calibrated
    assert "Figures calibrated by Tess Bench" in told(client.get(f"/jobs/{TANDEM}/papers/order"))
    assert told(client.get(f"/jobs/{TANDEM}/choose?view=candidates")).count("calibrated") >= 1
    assert "°F" not in page(client, TANDEM, view="calibration")
    client.cookies.set("clavis_units", "imperial")
    assert "°F" in page(client, TANDEM, view="calibration")
    assert "°C" not in page(client, TANDEM, view="calibration")
    client.cookies.delete("clavis_units")
    assert post(client, TANDEM, "calibration/back").status_code == 200
    after = client.get(f"/jobs/{TANDEM}/choose").text
    assert 'view=calibration">calibrated</a>' not in after
    figures = re.compile(r'class="num">([\d.,]+)')
    assert figures.findall(after) == figures.findall(sheet)


def test_what_was_learnt_is_offered_to_a_like_bike_and_never_applied(client: TestClient) -> None:
    post(client, TANDEM, "heat/foot-of-the-pass/accept")
    post(client, TANDEM, "calibration")
    exported = client.get(f"/jobs/{TANDEM}/export").content
    answer = client.post("/import", files={"file": ("job.json", exported)}, headers={"sec-fetch-site": "same-origin"})
    assert answer.status_code == 303, told(answer)
    other = int(re.search(r"/jobs/(\d+)", answer.headers.get("hx-redirect") or answer.headers["location"])[1])
    post(client, other, "calibration/back")
    offer = page(client, other, view="calibration")
    assert f"Job {TANDEM}, Tandem for the long pass, is a bike of the same kind" in offer
    assert "This job’s figures are calibrated" not in offer
    assert "is a bike of the same kind" not in page(client, GRAVEL, view="calibration")
    assert post(client, other, f"calibration/from/{TANDEM}").status_code == 200
    assert f"taken over from job {TANDEM}" in page(client, other, view="calibration")
    post(client, TANDEM, "undo")  # what is taken back there is offered no more
    post(client, other, "calibration/back")
    assert "is a bike of the same kind" not in page(client, other, view="calibration")


def test_readings_that_contradict_are_refused_with_why(client: TestClient) -> None:
    """Each ride by itself is a decay; together they would need two shares of one rider."""
    fronts = {"After noon": (317, 232, 176, 124), "At dusk": (197, 150, 118, 86)}
    rears = {"After noon": (167, 130, 103, 77), "At dusk": (302, 224, 171, 121)}
    for name, front in fronts.items():
        set_id = re.search(r"set=([a-z0-9-]+)", post(client, TANDEM, "heat", name=name).headers["hx-redirect"])[1]
        for k, after in enumerate((20, 60, 120, 240)):
            for end, shown in (("front", front[k]), ("rear", rears[name][k])):
                post(client, TANDEM, f"heat/{set_id}/readings", end=end, after=str(after), shown=str(shown))
        assert post(client, TANDEM, f"heat/{set_id}/accept").status_code == 200
    found = page(client, TANDEM, view="calibration")
    assert "No calibration: the readings contradict the model" in found
    assert "Accept the calibration" not in found
    assert post(client, TANDEM, "calibration").status_code == 409


# Logged rides and instruments.

LOG = b"time (s),speed (km/h),front brake (bar),rear brake (bar)\n" + b"".join(
    f"{k},{20 - k % 5},{8 if 10 < k < 30 else 0},{4 if 10 < k < 25 else 0}\n".encode() for k in range(60)
)


def upload(client: TestClient, address: str, data: bytes, **form: str):
    return client.post(
        f"/jobs/{TANDEM}/{address}", files={"file": ("ride.csv", data)}, data={"page": "p", **form},
        headers={"hx-current-url": f"http://testserver/jobs/{TANDEM}/prove?view=log"},
    )  # fmt: skip


CHOSEN = {
    "time": "0",
    "speed": "1",
    "front_brake": "2",
    "rear_brake": "3",
    "front_brake_unit": "bar",
    "rear_brake_unit": "bar",
}


def test_a_table_asks_for_its_columns_and_becomes_a_logged_ride(client: TestClient) -> None:
    asked = upload(client, "logs/file", LOG)
    assert "ride.csv: which column holds what?" in told(asked)
    assert re.search(r'name="front_brake">.*?<option value="2" selected>', asked.text, re.S)
    kept = upload(client, "logs/table", LOG, **CHOSEN)
    assert "view=log&log=ride" in kept.headers["hx-redirect"]
    told_of = page(client, TANDEM, view="log")
    assert "1 drag, 0 snubs, 0 stops" in told_of
    assert "of the energy, by pressure" in told_of
    assert "Power while braking unknown" in told_of
    post(client, TANDEM, "logs/ride/remove")
    assert "1 drag" not in page(client, TANDEM, view="log")


@pytest.mark.parametrize(
    ("data", "form", "says"),
    [
        (b"no table", {}, "holds no table"),
        (LOG, {**CHOSEN, "speed": ""}, "choose a column for: speed"),
        (LOG, {**CHOSEN, "speed": "77"}, "not of this table"),
        (LOG.replace(b"\n7,", b"\nseven,"), CHOSEN, "line 9, column 1"),
    ],
)
def test_a_table_that_cannot_be_read_is_refused_in_words(
    client: TestClient, data: bytes, form: dict[str, str], says: str
) -> None:
    answer = upload(client, "logs/table", data, **form)
    assert answer.status_code == 422
    assert says in told(answer)
    assert "0 of" not in page(client, TANDEM, view="log")


def test_exchanged_sensors_are_said_by_name_and_taken_back(client: TestClient) -> None:
    upload(client, "logs/table", LOG, **CHOSEN)
    post(client, TANDEM, "logs/ride/exchanged")
    assert "the temperature sensors are swapped" in page(client, TANDEM, view="log")
    post(client, TANDEM, "logs/ride/exchanged", back="true")
    assert "the temperature sensors are swapped" not in page(client, TANDEM, view="log")


def test_without_an_instrument_none_is_offered_and_asked_it_says_so(client: TestClient) -> None:
    trial = begun(client)
    assert "data-hold" not in client.get(f"/jobs/{TANDEM}/prove?view=runs").text
    answer = client.get(f"/jobs/{TANDEM}/instruments/tape/reading", params={"trial": trial, "side": "A"})
    assert answer.json() == {"problem": "no tape is connected"}
    assert "no logger is connected" in told(post(client, TANDEM, "logs/download"))
    assert client.get(f"/jobs/{TANDEM}/instruments/hammer/reading").status_code == 422
