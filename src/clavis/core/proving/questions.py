"""What can be asked of two setups on the road, how it is tested, and with what it is measured: two tables.

Of every question less is better: B answers it where its figure is the lower."""

from collections.abc import Mapping
from dataclasses import dataclass

from clavis.core.job.trials import Question, TrialKind
from clavis.core.records import figure

_JUDGED = "judged, a practised rider and a careful reading; your own runs replace it"
_MATTERS = "judged, what a rider would notice; ask the rider"


@dataclass(frozen=True, kw_only=True)
class TrialQuestion:
    """One question. ``measured`` is the field of a run that holds its figure, in ``unit``; a difference is in
    ``difference_unit``. ``less`` and ``more`` tell a difference in words."""

    key: Question
    words: str
    short: str
    measured: str
    unit: str
    difference_unit: str
    decimals: int
    kinds: tuple[TrialKind, ...]
    of_wheel: bool
    """read at one wheel"""
    spread_ratio: float = figure("", _JUDGED, "scatter of one run to the next, of the figure")
    least_spread: float = figure("", "judged, a careful reading", "the least scatter, in the question's unit")
    matters_ratio: float = figure("", _MATTERS, "smallest difference that matters, of the figure")
    less: str
    more: str
    how: str


QUESTIONS: Mapping[Question, TrialQuestion] = {
    row.key: row
    for row in (
        TrialQuestion(
            key=Question.STOPS_SHORTER, words="Does B stop shorter than A?", short="stops shorter",
            measured="distance_m", unit="m", difference_unit="m", decimals=2, kinds=(TrialKind.STOP,),
            of_wheel=False, spread_ratio=0.08, least_spread=0.15, matters_ratio=0.05,
            less="B stops {by_m:.2} shorter", more="B stops {by_m:.2} longer",
            how="Brake at the line as hard as it holds; measure from the line to the front wheel’s axle, and "
                "write the speed at the line.",
        ),
        TrialQuestion(
            key=Question.RUNS_COOLER, words="Does B run cooler than A?", short="runs cooler",
            measured="spots_c", unit="c", difference_unit="k", decimals=0,
            kinds=(TrialKind.DRAG_DESCENT, TrialKind.FREE_DESCENT),
            of_wheel=True, spread_ratio=0.06, least_spread=4.0, matters_ratio=0.10,
            less="B’s rotor is {by_k:.0} cooler at the bottom", more="B’s rotor is {by_k:.0} hotter at the bottom",
            how="Read the same wheel at the bottom, always {after_s:.0} after the stop, on three spots or more.",
        ),
        TrialQuestion(
            key=Question.COOLS_FASTER, words="Does B cool faster than A?", short="cools faster",
            measured="cool_s", unit="s", difference_unit="s", decimals=0, kinds=(TrialKind.COOLING,),
            of_wheel=True, spread_ratio=0.06, least_spread=3.0, matters_ratio=0.10,
            less="B cools {by_s:.0} sooner", more="B takes {by_s:.0} longer to cool",
            how="Heat the rotor above the first reading, stand still out of the wind, and time from the first reading to "
                "the second.",
        ),
        TrialQuestion(
            key=Question.LESS_HAND, words="Does B need less hand than A?", short="needs less hand",
            measured="finger_n", unit="n", difference_unit="n", decimals=0,
            kinds=(TrialKind.STOP, TrialKind.DRAG_DESCENT), of_wheel=True,
            spread_ratio=0.10, least_spread=2.0, matters_ratio=0.10,
            less="B needs {by_n:.0} less at the lever", more="B needs {by_n:.0} more at the lever",
            how="Ride the same stop or slope at the same speed; read the force at the lever with a pull scale, or "
                "from the line’s pressure.",
        ),
        TrialQuestion(
            key=Question.GOES_QUICKER, words="Is B quicker down than A?", short="goes quicker",
            measured="time_s", unit="s", difference_unit="s", decimals=1, kinds=(TrialKind.FREE_DESCENT,),
            of_wheel=False, spread_ratio=0.02, least_spread=0.5, matters_ratio=0.015,
            less="B is {by_s:.1} quicker", more="B is {by_s:.1} slower",
            how="Same line, same rider, a clear way: from a standing start at the top to the last mark.",
        ),
    )
}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class TrialKindRow:
    """One way to test. ``caution`` stands where it is ridden; ``fields`` of a trial say how it is ridden, ``beside`` of
    a run are written with its figure."""

    key: TrialKind
    words: str
    about: str
    caution: str
    fields: tuple[str, ...] = ()
    beside: tuple[str, ...]
    descends: bool = True
    """one of the job's rides is ridden"""


KINDS: Mapping[TrialKind, TrialKindRow] = {
    row.key: row
    for row in (
        TrialKindRow(
            key=TrialKind.STOP, words="stop from a line", about="from one speed, on one ground", descends=False,
            fields=("speed_kmh", "surface", "gradient_pct"), beside=("speed_kmh", "tyre_bar"),
            caution="Closed ground with a long run-out. Wear helmet and gloves; begin below the speed that is to be "
                    "tested. A wheel that locks ends the run.",
        ),
        TrialKindRow(
            key=TrialKind.DRAG_DESCENT, words="descent on the brake", about="at one speed, on the brake all the way",
            fields=("speed_kmh",), beside=("air_c", "start_c"),
            caution="Long drags bring brakes to their limits: look at the predicted temperatures first, stop where the "
                    "lever grows long or the force fades. Rotors burn skin.",
        ),
        TrialKindRow(
            key=TrialKind.FREE_DESCENT, words="descent as ridden", about="as the rider rides it",
            beside=("tyre_bar", "air_c"),
            caution="A timed run is no race on an open road: closed way, marshals at its crossings, and the law.",
        ),
        TrialKindRow(
            key=TrialKind.COOLING, words="cooling, standing", about="from one reading to another, out of the wind",
            fields=("from_c", "to_c"), beside=("air_c",),
            caution="Heat the rotor on closed ground. It burns skin for minutes after the stop: hands off, and dry leaves "
                    "away.",
        ),
    )
}  # fmt: skip

BEST_KIND: Mapping[Question, TrialKind] = {key: row.kinds[0] for key, row in QUESTIONS.items()}
