"""Pictures of trials and readings: points where their figures are, in the reader's units, inside the frame."""

import re

import pytest

from clavis.core.job.trials import Side
from clavis.core.parts.mounts import End
from clavis.core.proving.prediction import predict
from clavis.core.proving.results import result_of
from clavis.core.proving.temperatures import cooling_from, heat_study
from clavis.core.units import System
from clavis.demo.proving import tried
from clavis.web.prove.heat_pictures import HEIGHT, WIDTH, course_picture, reading_picture
from clavis.web.prove.run_picture import run_picture
from tests.bikes import CATALOGUE
from tests.core.proving.test_calibration import JOB, read_set
from tests.generated import DEMO_JOBS, TRACKS

HIRE = tried(next(j for j in DEMO_JOBS if "Hire" in j.title))
RESULT = result_of(predict(HIRE, HIRE.trials[0], CATALOGUE, TRACKS))


def _value_at(picture, y: float, system_text: str = "") -> float:
    """The figure behind a height, from two of the picture's own ticks."""
    low, high = picture.y_ticks[0], picture.y_ticks[-1]
    share = (low.at - y) / (low.at - high.at)
    return float(low.text) + share * (float(high.text) - float(low.text))


@pytest.mark.parametrize(("system", "factor"), [(System.METRIC, 1.0), (System.IMPERIAL, 1 / 0.3048)])
def test_every_run_stands_where_its_figure_is(system: System, factor: float) -> None:
    picture = run_picture(RESULT, system)
    assert picture is not None
    assert len(picture.dots) == len(RESULT.points) == 25
    for dot, point in zip(picture.dots, RESULT.points, strict=True):
        assert _value_at(picture, dot.y) == pytest.approx(point.value * factor, abs=0.02 * factor)
        assert dot.side is point.run.side
    assert [d.counted for d in picture.dots].count(False) == 1
    assert [d.x for d in picture.dots] == sorted(d.x for d in picture.dots)
    for bar in picture.means:
        mean = RESULT.means[bar.side]
        assert _value_at(picture, bar.y) == pytest.approx(mean.mean * factor, abs=0.02 * factor)
        assert bar.high < bar.y < bar.low  # upward is more
    assert {bar.side for bar in picture.means} == set(Side)


def test_without_a_figure_there_is_no_picture() -> None:
    bare = HIRE.model_copy(update={"trials": (HIRE.trials[0].model_copy(update={"runs": ()}),)})
    assert run_picture(result_of(predict(bare, bare.trials[0], CATALOGUE, TRACKS)), System.METRIC) is None


@pytest.mark.parametrize("system", list(System))
def test_readings_stand_over_the_model_with_their_bands(system: System) -> None:
    study = heat_study(JOB, read_set(3, "bright"), CATALOGUE, {})
    assert study.group is not None
    clock = [0.0, 600.0]
    import numpy as np

    line = np.array([200.0, 40.0])
    picture = reading_picture(study, {End.FRONT: (np.array(clock), line, line + 5)}, system)
    assert [line.kind for line in picture.lines] == ["before", "after"]
    for dot in picture.dots:
        assert dot.high <= dot.y <= dot.low
        assert dot.raw > dot.y  # bright steel shows far too cold
        assert 0 <= dot.x <= WIDTH
        assert 0 <= dot.high <= dot.low <= HEIGHT
        assert "showed" in dot.words
    sign = "°F" if system is System.IMPERIAL else "°C"
    assert all(sign in dot.words for dot in picture.dots)


def test_two_rotors_from_one_start_begin_together() -> None:
    study = heat_study(JOB, read_set(3), CATALOGUE, {})
    assert study.group is not None
    from clavis.core.job.trials import TrialSide
    from clavis.core.proving.prediction import side_on_ride

    side = side_on_ride(JOB, None, TrialSide(name="a"), CATALOGUE, {})
    courses = [(end.value, cooling_from(w, 150.0, 15.0)) for end, w in side.setup.wheels.items()]
    assert all(c.rotor_c[0] == pytest.approx(150.0) for _, c in courses)
    assert all(c.cool_min is not None and 0 < c.cool_min < 60 for _, c in courses)
    picture = course_picture(courses, System.METRIC)
    starts = {re.match(r"[\d.]+,([\d.]+)", line.points)[1] for line in picture.lines}
    assert len(starts) == 1
    larger = max(courses, key=lambda c: c[1].stored_kj)
    assert larger[0] == End.FRONT.value  # 180 against 160
