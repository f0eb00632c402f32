"""One table of what must not pass, and what every place says of it: head line, board, sheet, candidates, comparison,
Fit, parts list and order, ticks and sign-off, ``clavis evaluate``, and the reading of a job file."""

import json
import shutil
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import pytest
from starlette.testclient import TestClient

from clavis.core.evaluation.evaluate import SetupName, evaluate
from clavis.core.evaluation.gate import GateLevel, gate_of
from clavis.core.evaluation.sheet import sheet_rows
from clavis.core.fit.checks import CHECKS
from clavis.core.fit.mounting import Mounting
from clavis.core.job.document import Job, SignOff
from clavis.core.job.resolved_wheel import resolve_wheel
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.links import Link
from clavis.core.parts.mounts import End
from clavis.core.selection.compare import compare
from clavis.core.selection.sieve import sieve
from clavis.core.verdicts import Severity, Verdict
from clavis.core.wording.job_summary import setup_sentence
from clavis.formats.answers import answers_of
from clavis.formats.job_file import to_json
from tests.bikes import CATALOGUE, adapter, file_of, plain, rotor, six_points, with_value
from tests.conftest import browserlike
from tests.core.workshop.test_sign_off import GOOD, with_all_done
from tests.web.build.test_gate import job_of, post, tick_all
from tests.web.told import told, told_at

EXTRA = [
    rotor(id="x-resin", model="Resin only 180", resin_only=True),
    rotor(id="x-rivet", model="Riveted 180", rivet_out_mm=2.5, rivet_radius_mm=73),
    rotor(id="x-thick", model="Thick 180", thickness_mm=2.6, minimum_mm=2.3),
    adapter(id="x-plate", model="Plate", adapter_kind="flat_front_plate", fits=[("front", 160)], pitch_mm=70, hole_mm=5.5,
            flange_mm=3),
]  # fmt: skip
FEW = 4
"""steps that are tried where none may be taken"""
HERE = Catalogue.of([*CATALOGUE.every(), *EXTRA])
BASE = with_value(GOOD, "target_decel_g", 0.15)
"""our own tourer, all looked at and in order, asked for a soft stop: with new pads in front it holds"""
CABLE = {
    "front.caliper_id": "b-cable-one", "front.lever_id": "b-pull-short", "front.pad_id": "b-c1-semi",
    "proposal.front.pad_id": None, "proposal.front.renew": ["bed_in"], "front.fluid_grade": None,
}  # fmt: skip
FORK = {
    "front.mount_spacing_mm": 70.6, "front.spacing_tool": "gauge", "front.bolt_direction": "into_leg",
    "front.native_rotor_mm": 140.0, "front.caliper_id": "t-flat-21", "front.lever_id": "t-hood", "bike.bar": "drop",
    "front.pad_id": "t-f2-resin", "front.rotor_id": "q-disc-160", "front.adapter_id": "x-plate",
    "proposal.front.pad_id": "t-f2-semi", "rear.lever_id": "t-hood",
}  # fmt: skip
KEEPS_PADS = {"proposal.front": {"renew": ["bleed"]}}
KEEPS_LINE = {"proposal.front": {"pad_id": "u-k2-sinter"}}


@pytest.fixture(scope="module")
def client(tmp_path_factory: pytest.TempPathFactory, new_database: Path) -> Iterator[TestClient]:
    """One workshop for all: each test looks at the job that it laid down, and no part changes."""
    with browserlike(Path(shutil.copy(new_database, tmp_path_factory.mktemp("wrong") / "wrong.db"))) as opened:
        yield opened


@dataclass(frozen=True)
class Wrong:
    """One thing that is wrong or unknown at the front: what makes it so, the code of its point, its words, its link, and
    how far it lets the work go."""

    name: str
    change: dict[str, Any]
    code: str
    words: str
    link: Link
    level: GateLevel = GateLevel.WORK
    severity: Severity = Severity.FAILS
    extra: dict[str, Any] = field(default_factory=dict)


_W, _S = GateLevel.WORK, GateLevel.SIGNING
STOP, UNKNOWN = Severity.STOP, Severity.UNKNOWN
PAIRS = [
    # every pair of kinds of part that can mismatch
    Wrong("DOT lever, mineral caliper", {"proposal.front.lever_id": "p-arm"}, "line", "a DOT lever on a mineral caliper",
          Link.LEVER, severity=STOP),
    Wrong("hydraulic lever, cable caliper", CABLE | {"proposal.front.lever_id": "u-blade-a"}, "line",
          "a mineral lever on a cable caliper", Link.LEVER, severity=STOP),
    Wrong("long pull, short-pull caliper", CABLE | {"proposal.front.lever_id": "b-pull-long"}, "pull",
          "long pull at the lever, short pull at the caliper", Link.LEVER),
    Wrong("drop-bar lever, flat bar", {"proposal.front.lever_id": "t-hood", "bike.bar": "flat"}, "bar",
          "a lever for a drop bar on a flat one", Link.LEVER),
    Wrong("no hose for both ends", {"proposal.front.lever_id": "h-stile-far"}, "fitting", "no hose joins M8H", Link.LINE),
    Wrong("pad of another shape", {"proposal.front.pad_id": "p-p2-resin"}, "shape", "pad shape P2 in a caliper for K2",
          Link.PAD),
    Wrong("sintered pads, resin-only rotor", {"proposal.front.rotor_id": "x-resin"}, "compound",
          "the rotor is marked for resin pads only", Link.PAD),
    Wrong("pads higher than the track", {"proposal.front.rotor_id": "t-light-180"}, "inner", "it would ride the arms",
          Link.PAD),
    Wrong("splined rotor, six-bolt hub", {"proposal.front.rotor_id": "u-line-180"}, "hub",
          "a splined rotor does not go on a six-bolt hub", Link.ROTOR),
    Wrong("rotor above the fork's limit", {"proposal.front.rotor_id": "q-disc-220"}, "largest",
          "above 203, the largest that the fork allows", Link.ROTOR, severity=STOP),
    Wrong("rotor below the native size", {"proposal.front.rotor_id": "q-disc-140"}, "smallest", "below the native size 160",
          Link.ROTOR),
    Wrong("rotor thicker than the slot", {"proposal.front.rotor_id": "x-thick"}, "slot", "rotor of 2.6 mm in a slot",
          Link.ROTOR),
    Wrong("rivets that meet the caliper", {"proposal.front.rotor_id": "x-rivet"}, "rivets", "they would meet the caliper",
          Link.ROTOR),
    Wrong("caliper that no part carries", {"proposal.front.caliper_id": "b-haul-quad", "proposal.front.pad_id": "b-b9-semi"},
          "chain", "no adapter is made", Link.CALIPER),
    Wrong("adapter by hand that does not carry it", {"proposal.front.adapter_id": "a-pp-180-203"}, "chain",
          "it does not carry 160 to 180", Link.CALIPER),
    Wrong("wrong adapter on the bike", {"front.adapter_id": "a-pp-160-203"} | KEEPS_PADS, "chain", "belongs there",
          Link.CALIPER),
    Wrong("rotor off its position", {"front.adapter_id": "a-pp-160-203"} | KEEPS_PADS, "edge", "over the rotor's edge",
          Link.ROTOR),
    Wrong("no bolt of a stock length", {"front.hole_depth_mm": 6.0, "proposal.front.renew": ["bolts"]}, "bolts", "bolt",
          Link.CALIPER),
    Wrong("plate that misses the fork's holes", FORK, "pitch", "choose another plate", Link.CALIPER),
]  # fmt: skip
CONDITIONS = [
    # what is unsafe stays unsafe, whatever else is ordered
    Wrong("pads at 0.0 mm with a good face", {"front.pad_inner_mm": 0.0} | KEEPS_PADS, "pads_gone", "0.0 mm of material left",
          Link.PAD, severity=STOP),
    Wrong("pads at metal, on one side", {"front.pad_state": "metal", "front.pad_inner_mm": 0.0} | KEEPS_PADS, "metal",
          "backing plate has met the rotor", Link.PAD, severity=STOP),
    Wrong("rotor that met metal, pads new", {"front.pad_state": "metal"} | KEEPS_LINE, "met_metal",
          "without friction material", Link.ROTOR, severity=STOP),
    Wrong("oil on the pads", {"front.pad_state": "oiled"} | KEEPS_PADS, "oil", "oil on the friction face", Link.PAD,
          severity=STOP),
    Wrong("oil on the rotor", {"front.rotor_face": "oiled"} | KEEPS_LINE, "rotor_oil", "oil on the track", Link.ROTOR,
          severity=STOP),
    Wrong("cracked rotor", {"front.rotor_cracks": "yes"} | KEEPS_LINE, "cracks", "a crack was seen", Link.ROTOR,
          severity=STOP),
    Wrong("rotor under its minimum", {"front.rotor_points_mm": list(six_points(1.4))} | KEEPS_LINE, "rotor_minimum",
          "thinnest 1.40 mm", Link.ROTOR, severity=STOP),
    Wrong("line that leaks", {"front.line_state": "leaking"} | KEEPS_LINE, "leak", "fluid outside the line", Link.LINE,
          severity=STOP),
    Wrong("wrong fluid in the line", {"front.fluid_grade": "dot4", "front.fluid_boils_c": None} | KEEPS_LINE, "wrong_fluid",
          "made for mineral fluid", Link.LINE, severity=STOP),
    Wrong("lever all but at the bar", {"front.lever_bite_mm": 5.0} | KEEPS_LINE, "bite_at_bar", "bites 5 mm from the bar",
          Link.LEVER, severity=STOP),
    Wrong("piston stuck", {"front.pistons": "stuck"} | KEEPS_LINE, "stuck", "does not come back", Link.CALIPER),
    Wrong("pads worn", {"front.pad_inner_mm": 0.8} | KEEPS_PADS, "pads_thin", "0.8 mm of material left", Link.PAD),
]  # fmt: skip
UNKNOWNS = [
    Wrong("limit that nobody knows", {"front.max_rotor_mm": None, "front.limit_source": None}, "largest",
          "ask the maker of the fork", Link.ROTOR, _S, UNKNOWN),
    Wrong("mount in conflict", {"front.bolt_direction": "crosswise"}, "mount", "mount evidence disagrees", Link.CALIPER,
          _S, UNKNOWN),
    Wrong("pitch read with a tape", FORK | {"front.spacing_tool": "tape"}, "pitch", "a tape is not good enough",
          Link.CALIPER, _S, UNKNOWN),
    Wrong("adapter that nobody named", {"front.adapter_id": None} | KEEPS_PADS, "chain", "look which part is on it",
          Link.CALIPER, _S, UNKNOWN),
    Wrong("rotor that nobody read", {"front.rotor_points_mm": []}, "rotor_unread", "thickness not read", Link.ROTOR, _S,
          UNKNOWN),
    Wrong("rotor read with a vernier", {"front.rotor_instrument": "vernier"}, "vernier", "bridge the worn hollow",
          Link.ROTOR, _S, UNKNOWN),
    Wrong("lever firm after pumping", {"front.lever_feel": "pumps_up"}, "pumps_up", "the second pull bites earlier",
          Link.LEVER, _S, UNKNOWN),
    Wrong("old mineral fluid", {"front.fluid_age_y": 4.0, "front.fluid_boils_c": 190.0, "rider.mass_kg": 160.0}, "boil", "",
          Link.LINE, GateLevel.NAME, Severity.FAILS),
]  # fmt: skip
EVERY = [*PAIRS, *CONDITIONS, *UNKNOWNS]
VOID = {"pads_gone", "metal", "met_metal", "oil", "rotor_oil", "cracks", "rotor_minimum", "leak", "pumps_up", "stuck"}


def job_of_row(row: Wrong) -> Job:
    job = BASE
    for path, value in row.change.items():
        job = with_value(job, path, value)
    return job


def judged(row: Wrong):
    return evaluate(job_of_row(row), HERE, {})


def laid(client: TestClient, job: Job) -> int:
    answer = client.post("/import", files={"file": ("job.json", to_json(file_of(job, shelf=HERE)).encode())})
    assert answer.status_code == 303, answer.text
    return int(answer.headers["location"].split("/")[2])


def test_the_base_holds_so_that_each_row_stands_alone() -> None:
    evaluation = evaluate(BASE, HERE, {})
    assert evaluation.proposed.verdict is Verdict.HOLDS
    assert gate_of(BASE, evaluation).may_sign


def test_every_check_that_two_kinds_of_part_can_fail_has_its_row() -> None:
    assert {row.key for row in CHECKS} - {r.code for r in EVERY} == {"arc", "holes", "leg", "spokes", "hose"}
    # these are room on one bike, and told by the trial fit


@pytest.mark.parametrize("row", EVERY, ids=lambda r: r.name)
def test_list_sentence_sheet_and_gate_say_it(row: Wrong) -> None:
    job, evaluation = job_of_row(row), judged(row)
    points = [p for p in evaluation.points(SetupName.PROPOSED) if p.code == row.code and p.end is End.FRONT]
    assert len(points) == 1, [p.code for p in evaluation.points(SetupName.PROPOSED)]
    (point,) = points
    assert point.severity is row.severity
    assert row.words in plain(point.words)
    assert point.link is row.link
    gate = gate_of(job, evaluation)
    at = {GateLevel.WORK: gate.work, GateLevel.SIGNING: gate.signing, GateLevel.NAME: gate.name}[row.level]
    assert point in at
    assert gate.may_work is (row.level is not GateLevel.WORK)
    assert not gate.may_sign
    setup = evaluation.proposed
    assert setup.verdict is (Verdict.UNKNOWN if row.severity is UNKNOWN else Verdict.FAILS)
    first = setup.points_of(End.FRONT)[0]
    assert plain(first.words) in plain(setup_sentence(setup))
    marks = {r.link: r.cells[End.FRONT].points for r in sheet_rows(setup, evaluation.situation)}
    assert point in marks[row.link]
    if row.code in VOID:
        assert End.FRONT not in setup.wheels  # no figure of force or heat


@pytest.mark.parametrize("row", PAIRS, ids=lambda r: r.name)
def test_no_candidate_has_it_and_no_comparison_recommends_it(row: Wrong) -> None:
    job, evaluation = job_of_row(row), judged(row)
    proposed = evaluation.cases[SetupName.PROPOSED][End.FRONT].brake
    if job.proposal.front.adapter_id is None and row.code not in ("chain", "edge", "bolts", "pitch"):
        shelf = Catalogue.of(
            p for p in HERE.every()
            if p.kind not in ("rotor", "caliper", "lever", "pad")
            or p.id in {getattr(proposed, kind).id for kind in ("rotor", "caliper", "lever", "pad")}
        )  # fmt: skip
        found = sieve(Mounting(resolve_wheel(job, End.FRONT, HERE), shelf))
        assert len(found.left) == 0
        assert {r.row.key for r in found.refusals if r.count}
    compared = compare(job, evaluation, {})
    recommended = None if compared.winner is None else compared.columns[compared.winner]
    assert recommended is None or recommended.verdict() is not Verdict.FAILS


@pytest.mark.parametrize("row", EVERY, ids=lambda r: r.name)
def test_pages_refuse_it_and_say_why(client: TestClient, row: Wrong) -> None:
    """Head line and board; the sheet; Fit; order, ticks and sign-off."""
    number = laid(client, job_of_row(row).model_copy(update={"title": f"Row {row.code}"}))
    point = next(p for p in judged(row).points(SetupName.PROPOSED) if p.code == row.code and p.end is End.FRONT)
    words = plain(point.words)
    board = told_at(client, "/", search=f"Row {row.code}")
    assert "fails" in board or "unknown" in board
    first = plain(judged(row).proposed.points_of(End.FRONT)[0].words)
    assert first in board
    order = told_at(client, f"/jobs/{number}/build")
    assert first in order.split("Work order")[0]  # the head line
    assert words in order.split("Work order")[1]  # and the gate
    assert ("Not to be ordered or begun" in order) is (row.level is GateLevel.WORK)
    assert row.words in told_at(client, f"/jobs/{number}/choose")
    if row.code in {check.key for check in CHECKS}:
        assert row.words in told_at(client, f"/jobs/{number}/fit")
    begun = row.level is not GateLevel.WORK
    ticked = tick_all(client, number, None if begun else FEW)
    assert set(ticked) == ({204} if begun else {409})
    if row.level is not GateLevel.NAME:
        assert post(client, number, f"answer/{point.key}", reason="seen, known and meant so").status_code == 409
    refused = post(client, number, "sign-off")
    assert refused.status_code == 409
    assert job_of(client, number).signed_off is None


@pytest.mark.parametrize("row", EVERY[::2], ids=lambda r: r.name)
def test_evaluate_says_it_and_a_file_cannot_carry_a_sign_off_past_it(client: TestClient, row: Wrong) -> None:
    done = with_all_done(job_of_row(row))
    forged = done.model_copy(update={"signed_off": SignOff(who="Nobody", at="2026-11-28T10:00")})
    answers = answers_of(file_of(forged, shelf=HERE))
    told_of = {p["code"]: p for p in answers["gate"]["points"] if p["end"] == "front"}
    assert told_of[row.code]["level"] == row.level.value
    assert answers["gate"]["may_work"] is (row.level is not GateLevel.WORK)
    assert answers["signed_off"]["validity"] == "void"
    number = laid(client, forged)
    assert job_of(client, number).signed_off is None
    page = told(client.get(f"/jobs/{number}/build"))
    assert "Signed off by" not in page
    assert "read the job from a file: whoever signs, signs here" in page
    exported = json.loads(client.get(f"/jobs/{number}/export").content)
    assert exported["job"]["signed_before"][-1]["signed"]["who"] == "Nobody"


UNSEEN = [
    ("rotor_cracks", "not_checked", "rotor cracks"), ("rotor_face", "not_checked", "oil on the rotor"),
    ("rotor_runout_mm", None, "run-out"), ("pistons", "not_checked", "pistons"),
    ("line_state", "not_checked", "hose or housing"), ("lever_feel", "not_checked", "the lever's feel"),
]  # fmt: skip


@pytest.mark.parametrize(("name", "value", "label"), UNSEEN, ids=[row[0] for row in UNSEEN])
def test_what_was_not_looked_at_is_said_with_the_verdict(client: TestClient, name: str, value: Any, label: str) -> None:
    """A clean verdict says what it rests on: holds, if in order; and the order is not signed before somebody looks, or
    answers for it."""
    job = with_value(BASE, f"front.{name}", value)
    job = with_value(job, "proposal.front", {"pad_id": "u-k2-sinter"})
    setup = evaluate(job, HERE, {}).proposed
    assert setup.verdict is Verdict.HOLDS
    assert f"both wheels hold, if in order: {label} (front), not yet checked" in plain(setup_sentence(setup))
    number = laid(client, job)
    page = told_at(client, f"/jobs/{number}/build")
    assert f"hold, if in order: {label} (front), not yet checked" in page.split("Work order")[0]
    assert f"front: {label}: not yet checked" in page.split("Work order")[1]
    tick_all(client, number)
    assert post(client, number, "sign-off").status_code == 409
