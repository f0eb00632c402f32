"""What a good mechanic does with six bikes (docs/orders.md) is what the order says, step by step."""

import re
from pathlib import Path

import pytest

from clavis.core.evaluation.evaluate import evaluate
from clavis.core.job.document import Bike, BikeHeld, Job, Proposal
from clavis.core.job.pick import Pick
from clavis.core.job.renewal import Renewal
from clavis.core.job.wheel import FittedBrake, LineRuns, Presence, Wheel
from clavis.core.parts.models import Axle, Bar, HubInterface
from clavis.core.parts.mounts import BoltDirection, ThreadMaterial
from clavis.core.physics.bike import BikeKind
from clavis.core.workshop.torques import MARKED, Fastener
from clavis.core.workshop.work_order import work_order
from tests.bikes import CATALOGUE, own_job
from tests.generated import DEMO_JOBS, TRACKS
from tests.twelve_riders import CABLE, TWO, wheel

FLAT_REAR = {
    "mount_spacing_mm": 34.0, "bolt_direction": BoltDirection.THROUGH_STAY, "native_rotor_mm": 140.0, "tab_mm": 15.0,
    "hub": HubInterface.SPLINED, "rotor_id": "u-line-160", "caliper_id": "t-flat-21", "lever_id": "t-hood",
    "pad_id": "t-f2-resin", "adapter_id": "a-fr-140-160", "no_adapter": False, "max_rotor_mm": 160.0,
}  # fmt: skip
IS_TABS = {
    "mount_spacing_mm": 51.0, "bolt_direction": BoltDirection.CROSSWISE, "tab_mm": 5.0, "native_rotor_mm": None,
    "thread_material": ThreadMaterial.STEEL, "max_rotor_mm": 180.0,
}  # fmt: skip
RIM = Wheel(
    fitted_brake=FittedBrake.RIM, mount_there=Presence.THERE, hub_there=Presence.MISSING, axle=Axle.QUICK_RELEASE,
    line_runs=LineRuns.OUTSIDE, **IS_TABS,
)  # fmt: skip


def on(front: Wheel, rear: Wheel, **more: object) -> Job:
    return own_job(front=front, rear=rear, **more)


def converted(end: str) -> Pick:
    return Pick(
        rotor_id="q-disc-160", caliper_id="b-cable-one", lever_id="b-pull-short", pad_id="b-c1-resin",
        wheel_id=next(w.id for w in CATALOGUE.wheels.values() if w.end == end and w.interface == "six_bolt"),
    )  # fmt: skip


PLAIN = wheel(160, TWO)
ONLY_A_NEW_LEVER = Pick(lever_id="u-blade-c")
BIKES: tuple[Job, ...] = (
    on(PLAIN, PLAIN, proposal=Proposal(front=Pick(pad_id="u-k2-semi"))),
    on(
        wheel(160, TWO, hub=HubInterface.SPLINED, axle=Axle.MM15, rotor_id="u-line-160"), PLAIN,
        bike=Bike(kind=BikeKind.CITY, assisted=True, cutoff_switches=True), held=BikeHeld.INVERTED,
        proposal=Proposal(front=Pick(rotor_id="u-line-180")),
    ),
    on(
        PLAIN, wheel(160, TWO, line_runs=LineRuns.INSIDE, **FLAT_REAR), bike=Bike(kind=BikeKind.GRAVEL, bar=Bar.DROP),
        proposal=Proposal(rear=Pick(
            renew=(Renewal.CALIPER, Renewal.LEVER, Renewal.PAD, Renewal.HOSE), pad_id=None,
        )),
    ),
    on(
        wheel(160, CABLE, line_runs=LineRuns.OUTSIDE, adapter_id="a-is-160-140", no_adapter=False,
              **IS_TABS | {"axle": Axle.QUICK_RELEASE}), PLAIN,
        proposal=Proposal(front=Pick(pad_id="b-c1-semi", renew=(Renewal.HOSE,))),
    ),
    on(
        RIM, RIM, bike=Bike(kind=BikeKind.TOURING, tyre_size="42-622"),
        proposal=Proposal(front=converted("front"), rear=converted("rear")),
    ),
    on(PLAIN, PLAIN, proposal=Proposal(front=ONLY_A_NEW_LEVER, rear=Pick(renew=(Renewal.BLEED,)))),
)  # fmt: skip


def written(chapter: str = "Six bikes") -> list[list[tuple[str, str]]]:
    """Of each bike of a chapter the place and the key of every step, in the order of the page."""
    text = Path("docs/orders.md").read_text(encoding="utf-8").split(f"## {chapter}")[1].split("\n## ")[0]
    bikes = []
    for part in re.split(r"^\*\*\d ", text, flags=re.M)[1:]:
        lines = re.findall(r"^    (bike|front|rear): (.+)$", part, flags=re.M)
        bikes.append([(place, key) for place, keys in lines for key in keys.split()])
    return bikes


@pytest.mark.parametrize("number", range(1, 7))
def test_the_order_is_what_a_good_mechanic_does(number: int) -> None:
    job = BIKES[number - 1]
    order = work_order(job, evaluate(job, CATALOGUE, {}))
    assert [tuple(step.key.split(":")) for step in order.steps] == written()[number - 1]
    assert [step.number for step in order.steps] == list(range(1, len(order.steps) + 1))


def test_there_are_six() -> None:
    assert len(written()) == len(BIKES) == 6


@pytest.mark.parametrize("place", range(len(DEMO_JOBS)))
def test_the_demo_orders_are_those_that_were_read(place: int) -> None:
    read = [*written("The orders of the demo world"), [], []][place]
    order = work_order(DEMO_JOBS[place], evaluate(DEMO_JOBS[place], CATALOGUE, TRACKS))
    assert [tuple(step.key.split(":")) for step in order.steps] == read


@pytest.mark.parametrize("job", [*BIKES, *DEMO_JOBS], ids=lambda job: job.title[:24])
def test_each_fastener_that_a_step_tightens_has_torque_tool_and_lock(job: Job) -> None:
    """A figure, or the word that only the part has one; a quick release has no torque."""
    order = work_order(job, evaluate(job, CATALOGUE, TRACKS))
    for line in order.torques:
        assert line.fastening.tool
        assert line.fastening.lock
        assert (line.low_nm is not None) != (MARKED in line.fastening.note), line.key
    assert len({line.key for line in order.torques}) == len(order.torques)
    for step in order.steps:
        lines = {line.kind for line in step.torques}
        if step.row.fastens == (Fastener.AXLE,):
            quick = {w.work.wheel.axle for w in order.wheels if step.end in (None, w.work.end)} == {Axle.QUICK_RELEASE}
            assert (lines == set()) == quick, step.key
        elif step.row.fastens:
            assert lines, step.key
