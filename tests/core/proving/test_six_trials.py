"""What a good mechanic does to prove six bikes (docs/trials.md) is what Clavis plans."""

import re
from itertools import pairwise
from pathlib import Path

import pytest

from clavis.core.job.document import Bike, Job, Rider
from clavis.core.job.pick import Pick
from clavis.core.job.trials import Question, SetupFrom, Trial, TrialSide
from clavis.core.parts.models import HubInterface
from clavis.core.physics.bike import BikeKind, Surface, Tread
from clavis.core.proving.confounders import Disturbance
from clavis.core.proving.plan import TrialPlan, begun, plan_of
from tests.bikes import CATALOGUE, own_job
from tests.generated import DEMO_JOBS, TRACKS
from tests.twelve_riders import CABLE, FOUR, TWO, slope, wheel

FITTED = TrialSide(name="as it is")
SPLINED = {"hub": HubInterface.SPLINED, "native_rotor_mm": 180.0, "no_adapter": True, "adapter_id": None}


AS_IT_IS = Pick()


def other(front: Pick = AS_IT_IS, rear: Pick = AS_IT_IS) -> TrialSide:
    return TrialSide(name="to be tried", source=SetupFrom.PICKED, front=front, rear=rear)


def demo(title: str) -> Job:
    return next(job for job in DEMO_JOBS if title in job.title)


STRONG = wheel(180, FOUR)
LONG_HILL = (slope((4000, 8, 26), corner_kmh=None),)
BIKES: tuple[tuple[Job, TrialSide], ...] = (
    (
        own_job(
            rider=Rider(name="light", mass_kg=58, fingers=2), front=STRONG, rear=STRONG,
            conditions=own_job().conditions.model_copy(update={"surface": Surface.GRAVEL}),
        ),
        other(Pick(rotor_id="q-disc-203")),
    ),
    (
        own_job(bike=Bike(kind=BikeKind.CITY, tread=Tread.SLICK), front=wheel(160, CABLE), rear=wheel(160, CABLE)),
        other(Pick(pad_id="b-c1-sinter"), Pick(pad_id="b-c1-sinter")),
    ),
    (
        own_job(front=wheel(180, TWO, rotor_id="u-line-180", **SPLINED), rear=wheel(180, TWO), rides=LONG_HILL,
                decisive_ride=None),
        other(Pick(rotor_id="p-vane-180")),
    ),
    (demo("Hire bike"), other(Pick(rotor_id="q-disc-203"))),
    (demo("Gravel"), other(Pick(rotor_id="u-line-180", pad_id="t-f2-sinter"))),
    (
        own_job(front=wheel(180, TWO, rotor_id="u-line-180", **SPLINED), rear=wheel(180, TWO), rides=LONG_HILL,
                decisive_ride=None),
        other(Pick(rotor_id="p-core-180")),
    ),
)  # fmt: skip


def written() -> list[dict[str, str]]:
    """The lines under each bike."""
    text = Path(__file__).parents[3].joinpath("docs/trials.md").read_text(encoding="utf-8")
    bikes = re.split(r"^\*\*\d ", text, flags=re.M)[1:7]
    return [dict(re.findall(r"^    ([a-z]+): (.+)$", bike, flags=re.M)) for bike in bikes]


def planned(number: int) -> TrialPlan:
    job, side = BIKES[number - 1]
    question = Question(written()[number - 1]["question"])
    trial = begun("t", question, FITTED, side, job, CATALOGUE, TRACKS)
    return plan_of(job, trial, CATALOGUE, TRACKS)


@pytest.mark.parametrize("number", range(1, 7))
def test_the_plan_says_what_the_mechanic_says(number: int) -> None:
    wanted, plan = written()[number - 1], planned(number)
    e = plan.expected
    assert not plan.prediction.problem
    predicts, _, why = wanted["predicts"].partition(" because ")
    told = "alike" if e.why_alike else "unknown" if e.difference is None else "differ"
    assert told == predicts
    if why:
        assert "limit the stop" in str(e.why_alike)
        assert plan.for_expected is None
        assert plan.promised is None
    if "instead" in wanted:
        assert plan.prediction.instead is not None
        assert plan.prediction.instead.row.key.value == wanted["instead"]
        assert "test that" in str(plan.advice)
    warned = {c.row.key for c in plan.confounders if c.presence is not Disturbance.ABSENT}
    assert set(wanted.get("warns", "").split()) - {"weather", "paint"} <= warned
    if "weather" in wanted.get("warns", ""):
        assert "air" in warned
    if wanted.get("pause") == "long":
        assert min(s for s in plan.pauses_s.values() if s is not None) > 180


def test_nothing_but_the_table_is_asked() -> None:
    assert len(written()) == 6
    assert {key for bike in written() for key in bike} <= {
        "question", "predicts", "instead", "order", "warns", "pause", "marks",
    }  # fmt: skip


@pytest.mark.parametrize("number", range(1, 7))
def test_the_order_is_balanced_and_repeats(number: int) -> None:
    plan = planned(number)
    letters = "".join(run.side.value for run in plan.runs)
    assert len(letters) == 4 * plan.trial.blocks
    assert all(letters[k : k + 4] in ("ABBA", "BAAB") for k in range(0, len(letters), 4))
    assert letters == "".join(run.side.value for run in planned(number).runs)
    assert plan.runs[0].pause_s == 0
    assert not plan.runs[0].change
    assert plan.changes == sum(a != b for a, b in pairwise(letters))


def test_a_trial_is_begun_with_as_many_runs_as_show_what_is_expected() -> None:
    plan = planned(3)
    assert plan.promised is not None
    assert plan.promised >= 0.8 or plan.promised_matters >= 0.8
    assert isinstance(plan.trial, Trial)
