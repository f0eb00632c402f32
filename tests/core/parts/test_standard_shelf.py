"""The standard shelf: complete by standard, no limit assumed, doubted as widely as it says."""

from itertools import product

import numpy as np
import pytest

from clavis.core.evaluation.evaluate import SetupName, evaluate
from clavis.core.evaluation.gate import evidence_of, gate_of, same_evidence
from clavis.core.evaluation.sampling import draws_of
from clavis.core.fit.adapters import CHAIN, label_conflict, position_mm, solve_chain
from clavis.core.job.document import Job, Proposal
from clavis.core.job.pick import Pick
from clavis.core.parameters import ModelParameters
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.figures import FIGURES, Figures
from clavis.core.parts.models import Adapter, Axis, HubInterface
from clavis.core.parts.mounts import IS_ZERO_OFFSET_MM, MOUNT_ROWS, AdapterKind, BoltStyle, CaliperMount, End, MountKind
from clavis.core.parts.standard_shelf import standard_shelf
from tests.bikes import CATALOGUE, own_job

SHELF = Catalogue.of(standard_shelf())
BOTH = Catalogue.of([*CATALOGUE.every(), *standard_shelf()])
ADAPTERS = tuple(SHELF.adapters.values())
STANDARD_MM = (140.0, 160.0, 180.0, 200.0, 203.0, 220.0, 223.0)
FARTHEST_MM = 63.0
"""a step that parts are made for"""


@pytest.mark.parametrize("row", [row for row in CHAIN if row.adapter], ids=lambda row: f"{row.mount}-{row.caliper}")
def test_every_mount_has_its_steps(row) -> None:
    """From each native size to the next two at least, and to any that is farther where such parts are made."""
    of_mount = MOUNT_ROWS[row.mount]
    for end in of_mount.ends:
        zero = [IS_ZERO_OFFSET_MM[end]] if row.mount is MountKind.IS else of_mount.native_sizes_mm
        for native in zero:
            served = [
                mm for mm in STANDARD_MM
                if mm >= native and solve_chain(row.mount, native, end, row.caliper, mm, ADAPTERS).possible
            ]  # fmt: skip
            wanted = [mm for mm in STANDARD_MM if native <= mm <= native + 20]
            if row.adapter in (AdapterKind.FLAT_TO_POST, AdapterKind.POST_TO_FLAT):
                wanted = [mm for mm in (native + 20,) if mm in STANDARD_MM and native <= 160]
            assert set(wanted) <= set(served), (row.mount, end, native, served)


@pytest.mark.parametrize("adapter", ADAPTERS, ids=lambda a: a.id)
def test_an_adapter_carries_the_caliper_to_the_rotor_that_it_names(adapter: Adapter) -> None:
    """Half the step in height, counted from the native size, and the packet says no other."""
    for fit in adapter.fits:
        native = adapter.from_mm or IS_ZERO_OFFSET_MM[fit.end]
        mount = MountKind.IS if adapter.from_mm is None else MountKind.POST
        assert position_mm(mount, native, adapter, fit.rotor_mm, fit.end) == pytest.approx(fit.rotor_mm)
        if adapter.style is BoltStyle.THROUGH:
            assert (adapter.upper_mm + adapter.lower_mm) / 2 == pytest.approx((fit.rotor_mm - native) / 2)
    assert not label_conflict(adapter)


def test_no_two_parts_share_a_number() -> None:
    assert len({part.id for part in standard_shelf()}) == len(standard_shelf())


def test_the_usual_sizes_are_there_for_both_hubs() -> None:
    rotors = {(r.diameter_mm, r.interface) for r in SHELF.rotors.values()}
    assert rotors == set(product(STANDARD_MM, HubInterface))
    calipers = {(c.mount, c.fluid, c.four_pistons) for c in SHELF.calipers.values() if c.offered}
    assert {
        (CaliperMount.POST, "mineral", True),
        (CaliperMount.FLAT, "dot", False),
        (CaliperMount.POST, "none", False),
    } <= calipers
    shapes = {c.pad_shape for c in SHELF.calipers.values()}
    assert {(p.shape, p.compound) for p in SHELF.pads.values()} == set(product(shapes, COMPOUNDS))


def test_what_only_a_maker_can_state_is_unknown() -> None:
    assert {r.minimum_mm for r in SHELF.rotors.values()} == {None}
    assert {f.max_rotor_mm for f in SHELF.forks.values()} == {None}
    assert {f.dry_c for f in SHELF.fluids.values()} == {None}


def test_a_stand_in_is_never_offered() -> None:
    stand_ins = [p for p in standard_shelf() if p.figures is Figures.STAND_IN]
    assert stand_ins and not any(p.offered for p in stand_ins)
    job = own_job()
    place = evaluate(job, BOTH, {}).place_for(End.FRONT)
    for axis in (Axis.CALIPER, Axis.LEVER):
        offered = {p.id for p in BOTH.of_kind(axis.value).values() if p.offered}
        assert not offered & {p.id for p in stand_ins}
    assert place.catalogue is BOTH


def with_caliper(caliper_id: str, lever_id: str, **readings) -> Job:
    wheel = own_job().front.model_copy(update={"caliper_id": caliper_id, "lever_id": lever_id, **readings})
    return own_job(front=wheel)


STANDING = with_caliper("std-unknown-two-piston-caliper-post-mount-mineral", "std-unknown-lever-flat-bar-mineral")


def test_what_rests_on_usual_figures_is_said_and_answered_for_by_name() -> None:
    evaluation = evaluate(STANDING, BOTH, {})
    point = next(p for p in evaluation.points(SetupName.FITTED) if p.code == "usual_figures")
    assert point.end is End.FRONT and point.settles == "front.caliper_id"
    assert "Unknown two-piston caliper" in str(point.words) and "Unknown lever" in str(point.words)
    proposed = STANDING.model_copy(update={"proposal": Proposal(front=Pick(pad_id="std-pad-two-piston-resin"))})
    gate = gate_of(proposed, evaluate(proposed, BOTH, {}))
    assert any(p.code == "usual_figures" for p in gate.name)
    assert not any(p.code == "usual_figures" for p in evaluate(own_job(), BOTH, {}).points(SetupName.FITTED))


def test_an_answer_for_usual_figures_is_for_these_parts_and_no_others() -> None:
    """However many parts there are, so that their names are more than an answer keeps."""

    of_the_shelf = Catalogue.of(p for p in BOTH.every() if p.kind != "adapter" or p.figures is Figures.TYPICAL)

    def asked(rotor_id: str):
        front = Pick(rotor_id=rotor_id, pad_id="std-pad-two-piston-resin")
        job = STANDING.model_copy(update={"proposal": Proposal(front=front)})
        points = evaluate(job, of_the_shelf, {}).points(SetupName.PROPOSED)
        return next(p for p in points if p.code == "usual_figures")

    thin, thick = asked("std-rotor-203-18-plain-six-bolt"), asked("std-rotor-203-20-plain-six-bolt")
    assert "adapter" in str(thin.words) and len(str(thin.words)) > 300
    assert same_evidence(evidence_of(thin.words), thin.words)
    assert not same_evidence(evidence_of(thin.words), thick.words)


def test_a_thicker_rotor_asks_for_the_slot_of_a_caliper_nobody_can_name() -> None:
    thicker = Proposal(front=Pick(rotor_id="std-rotor-180-20-plain-six-bolt"))
    unread = STANDING.model_copy(update={"proposal": thicker})
    point = next(p for p in evaluate(unread, BOTH, {}).points(SetupName.PROPOSED) if p.code == "slot")
    assert "measure its slot" in str(point.words) and point.settles == "front.slot_read_mm"
    read = unread.model_copy(update={"front": unread.front.model_copy(update={"slot_read_mm": 2.3})})
    assert not any(p.code == "slot" for p in evaluate(read, BOTH, {}).points(SetupName.PROPOSED))


def test_which_hose_a_nameless_caliper_takes_is_not_known() -> None:
    lever = Proposal(front=Pick(lever_id="u-blade-b"))
    job = STANDING.model_copy(update={"proposal": lever})
    point = next(p for p in evaluate(job, BOTH, {}).points(SetupName.PROPOSED) if p.code == "fitting")
    assert "which ends its hose has" in str(point.words) and not point.grave


@pytest.mark.parametrize("figures", list(Figures))
def test_the_doubt_has_the_width_of_its_row(figures: Figures) -> None:
    """Lever and caliper both usual: 1.12 and 1.12 make e^√2·ln 1.12 = 1.174 at 90 %."""
    caliper = next(c for c in BOTH.calipers.values() if c.figures is figures)
    lever = next(v for v in BOTH.levers.values() if v.figures is figures)
    pad = next((p for p in BOTH.pads.values() if p.figures is figures), None)
    draws = draws_of(ModelParameters(), 3, 4000, own=False)
    low, middle, high = np.percentile(draws.force_of(End.FRONT, caliper, lever), (5, 50, 95))
    expected = {Figures.STATED: 1.0, Figures.TYPICAL: 1.174, Figures.STAND_IN: 1.449}[figures]
    assert (low, middle, high) == pytest.approx((1 / expected, 1.0, expected), rel=0.01)
    if pad is not None:
        usual = FIGURES[figures].friction_ratio or 0.12
        assert np.percentile(draws.friction_of(End.FRONT, pad), 95) == pytest.approx(1 + usual, rel=0.01)


def test_what_a_calibration_told_is_not_doubted_again() -> None:
    pad = next(iter(SHELF.pads.values()))
    draws = draws_of(ModelParameters(), 3, 4000, own=False, narrowed={"friction_front": 0.04})
    assert np.percentile(draws.friction_of(End.FRONT, pad), 95) == pytest.approx(1.04, rel=0.01)
    assert np.percentile(draws.friction_of(End.REAR, pad), 95) == pytest.approx(1.2, rel=0.01)


def test_the_minimum_that_is_marked_on_the_rotor_counts() -> None:
    """Read on the part, it stands before the catalogue's, and where the catalogue has none it settles the question."""
    rotor = "std-rotor-180-20-plain-six-bolt"
    six = (1.83, 1.83, 1.82, 1.84, 1.83, 1.84)
    bare = with_caliper("u-two-22", "u-blade-a", rotor_id=rotor, rotor_points_mm=six)
    asked = next(p for p in evaluate(bare, BOTH, {}).points(SetupName.FITTED) if p.code == "no_minimum")
    assert asked.settles == "front.rotor_minimum_mm"
    for minimum_mm, unsafe in ((1.8, False), (1.83, True)):
        read = bare.model_copy(update={"front": bare.front.model_copy(update={"rotor_minimum_mm": minimum_mm})})
        evaluation = evaluate(read, BOTH, {})
        codes = {p.code for p in evaluation.points(SetupName.FITTED)}
        assert ("rotor_minimum" in codes) == unsafe and "no_minimum" not in codes
