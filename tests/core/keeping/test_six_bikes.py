"""What a good mechanic does with six bikes that come back (docs/keeping.md) is what Clavis says."""

import re
from datetime import date
from pathlib import Path
from typing import Any

import pytest

from clavis.core.job.document import Complaint
from clavis.core.job.renewal import Renewal
from clavis.core.keeping.bike import (
    BikeVisit,
    KeptBike,
    LogEntry,
    Moment,
    OdometerReading,
    Outcome,
    PartLife,
    WearReading,
)
from clavis.core.keeping.cures import cure_of
from clavis.core.keeping.due import due_of
from clavis.core.keeping.hints import hints_of
from clavis.core.keeping.wear_state import WearNeed, wear_state, wear_states
from clavis.core.parts.mounts import End

TODAY = date(2026, 11, 29)
FRONT, REAR = End.FRONT, End.REAR


def part(
    number: int, end: End, what: Renewal, day: str | None = "2025-11-20", km: float | None = 0, **more: Any
) -> PartLife:
    fitted = Moment(day=day, km=km, who="Tess") if day else None
    return PartLife(id=f"life-{number}", end=end, what=what, fitted=fitted, **more)


def pads(number: int, end: End, day: str = "2025-11-20", km: float | None = 0, rate: float = 0.25e-3) -> PartLife:
    return part(
        number,
        end,
        Renewal.PAD,
        day,
        km,
        new_mm=2.0,
        expected_mm_per_km=rate,
        rotor_mm_per_km=0.02e-3,
        compound="resin",
        name="Two resin",
    )


def rotor(number: int, end: End, km: float = 0) -> PartLife:
    return part(
        number,
        end,
        Renewal.ROTOR,
        "2025-11-20",
        km,
        new_mm=1.8,
        replace_mm=1.5,
        expected_mm_per_km=0.02e-3,
        name="Line 180",
    )


def read(number: int, life: int, day: str, km: float | None, mm: float, gauge: str = "pad_gauge") -> WearReading:
    return WearReading(id=f"read-{number}", life=f"life-{life}", day=day, km=km, mm=mm, gauge=gauge)


COMMUTER = KeptBike(
    name="Commuter",
    weekly_km=60,
    lives=(pads(1, FRONT), pads(2, REAR, rate=0.1e-3)),
    readings=(read(1, 1, "2026-11-29", 3100, 1.3), read(2, 2, "2026-11-29", 3100, 1.8)),
    odometer=(OdometerReading(id="odo-1", day="2026-11-29", km=3100),),
)
HIRE = KeptBike(
    name="Hire 14",
    lives=(pads(1, FRONT, "2026-10-20"),),
    readings=(read(1, 1, "2026-11-05", 400, 1.9), read(2, 1, "2026-11-29", 900, 1.8)),
)
TRAIL = KeptBike(name="Trail", lives=(rotor(1, FRONT),), readings=(read(1, 1, "2026-11-29", 4000, 1.58, "vernier"),))
CARGO = KeptBike(
    name="Cargo",
    lives=(pads(1, REAR), rotor(2, REAR)),
    readings=(
        read(1, 1, "2026-08-01", 900, 1.35),
        read(2, 1, "2026-11-29", 1300, 1.0),
        read(3, 2, "2026-11-29", 1300, 1.78, "micrometer"),
    ),
)
TOURING = KeptBike(
    name="Touring",
    lives=(
        part(1, FRONT, Renewal.BLEED, None, grade="dot4"),
        part(2, FRONT, Renewal.BOLTS, "2026-11-22", 5200),
    ),
)
GRAVEL = KeptBike(
    name="Gravel",
    visits=(BikeVisit(id="visit-1", day="2026-11-01", complaints=(Complaint.HOWLS,), outcome=Outcome.GONE),),
    entries=tuple(
        LogEntry(id=f"entry-{k}", day="2026-11-01", what=what, visit="visit-1")
        for k, what in enumerate(("front pads new", "front rotor new", "front bleed"), 1)
    ),
)
BIKES = (COMMUTER, HIRE, TRAIL, CARGO, TOURING, GRAVEL)


def answers(bike: KeptBike) -> dict[str, str]:
    """What Clavis says, in the words of the document."""
    states = wear_states(bike, TODAY)
    due = due_of(bike, TODAY)
    found = {f"{s.life.end} {'pad' if s.life.what is Renewal.PAD else 'rotor'}": s.need.value for s in states}
    found["dates"] = "months" if any(s.replace_by for s in states) else "none"
    found["orders"] = ", ".join(d.about.removesuffix("s") for d in due if d.order is not None)
    found["asks"] = "micrometer" if any("micrometer" in str(d.why) for d in due) else ""
    found["hint"] = " ".join(h.key for h in hints_of(states))
    found |= {d.about.split()[-1]: d.urgency.value for d in due if d.about.endswith(("fluid", "bolts"))}
    found["entries"] = str(len(bike.entries))
    found["cure"] = "; ".join(str(cure_of(bike, v).words) for v in bike.visits)
    return found


def told() -> list[dict[str, str]]:
    text = (Path(__file__).parents[3] / "docs/keeping.md").read_text()
    six = text.split("## Six bikes")[1].split("\n## ")[0]
    blocks = re.split(r"\n\*\*\d ", six)[1:]
    return [dict(re.findall(r"^    ([a-z ]+): (.+)$", block, re.M)) for block in blocks]


@pytest.mark.parametrize("number", range(6))
def test_what_a_good_mechanic_does_is_what_clavis_says(number: int) -> None:
    expected, said = told()[number], answers(BIKES[number])
    assert expected
    for name, words in expected.items():
        if name == "hint":
            assert set(words.split()) <= set(said[name].split()), said[name]
        else:
            assert words in said[name], (name, said)


def test_the_hire_bike_asks_nothing_and_orders_nothing() -> None:
    assert not due_of(HIRE, TODAY) and not hints_of(wear_states(HIRE, TODAY))


def test_one_change_alone_is_the_cure_and_a_shown_one_too() -> None:
    visit = GRAVEL.visits[0]
    assert cure_of(GRAVEL, visit).open
    alone = GRAVEL.model_copy(update={"entries": GRAVEL.entries[:1]})
    assert not cure_of(alone, visit).open and "front pads new" in str(cure_of(alone, visit).words)
    shown = visit.model_copy(update={"cured_by": "entry-2", "shown_by": "the trial of November"})
    assert str(cure_of(GRAVEL, shown).words) == "gone by: front rotor new (shown by the trial of November)"
    stays = visit.model_copy(update={"outcome": Outcome.STAYS})
    assert str(cure_of(GRAVEL, stays).words) == "it stays"
    assert cure_of(GRAVEL, visit.model_copy(update={"outcome": Outcome.NOT_SAID})).open


def test_due_is_unsafe_first_and_keeps_its_names() -> None:
    worn = COMMUTER.model_copy(update={"readings": (*COMMUTER.readings, read(3, 2, "2026-11-29", 3100, 0.1))})
    due = due_of(worn, TODAY)
    assert [d.urgency.value for d in due] == ["unsafe", "plan"]
    later = due_of(worn, date(2026, 12, 24))
    assert {d.key for d in due} <= {d.key for d in later}


def test_bolts_are_asked_for_until_someone_tightened_them() -> None:
    done = LogEntry(id="entry-1", day="2026-11-28", end=FRONT, what="bolts tightened", tightened=True)
    due = [d.about for d in due_of(TOURING.model_copy(update={"entries": (done,)}), TODAY)]
    assert "front bolts" not in due and "front fluid" in due
    before = done.model_copy(update={"day": "2026-11-01"})
    assert "front bolts" in [d.about for d in due_of(TOURING.model_copy(update={"entries": (before,)}), TODAY)]


def test_old_fluid_says_where_it_boils_now() -> None:
    filling = part(1, FRONT, Renewal.BLEED, "2024-05-29", None, grade="dot4")
    due = due_of(KeptBike(lives=(filling,)), TODAY)
    assert due[0].urgency.value == "replace" and "155" in str(due[0].why)
    assert not due_of(KeptBike(lives=(filling.model_copy(update={"fitted": Moment(day="2026-05-29")}),)), TODAY)


def test_a_rotor_without_a_minimum_is_asked_for() -> None:
    unknown = rotor(1, FRONT).model_copy(update={"replace_mm": None})
    state = wear_state(KeptBike(lives=(unknown,)), unknown, TODAY)
    assert state.need is WearNeed.ASK and state.replace is None
    assert "minimum is not known" in str(due_of(KeptBike(lives=(unknown,)), TODAY)[0].why)


def test_hints_that_stand_in_the_readings() -> None:
    thicker = HIRE.model_copy(
        update={"readings": (read(1, 1, "2026-11-05", 400, 1.4), read(2, 1, "2026-11-29", 900, 1.9))}
    )
    assert "thicker_than_before" in [h.key for h in hints_of(wear_states(thicker, TODAY))]
    one = read(1, 1, "2026-11-29", 900, 1.2).model_copy(update={"other_mm": 1.9})
    assert "one_pad_alone" in [
        h.key for h in hints_of(wear_states(HIRE.model_copy(update={"readings": (one,)}), TODAY))
    ]


def test_what_pads_taught_goes_on_to_the_next() -> None:
    """The same pads anew start where the last ones ended, others half way."""
    worn = pads(1, FRONT).model_copy(update={"removed": Moment(day="2026-06-01", km=2000)})
    taught = read(1, 1, "2026-06-01", 2000, 1.1)

    def lasts(compound: str, *readings: WearReading) -> float:
        new = pads(2, FRONT, "2026-06-01", 2000).model_copy(update={"compound": compound})
        bike = KeptBike(lives=(worn, new), readings=readings)
        found = wear_state(bike, new, TODAY).replace
        assert found is not None
        return found.middle_km - 2000

    assert lasts("resin", taught) < 0.75 * lasts("resin")
    assert lasts("resin", taught) < lasts("sintered", taught) < lasts("sintered")


def test_a_reading_belongs_to_something_that_wears() -> None:
    with pytest.raises(ValueError, match="belongs to no part"):
        KeptBike(readings=(read(1, 7, "2026-11-29", 900, 1.2),))
    with pytest.raises(ValueError, match="micrometer"):
        KeptBike(lives=(rotor(1, FRONT),), readings=(read(1, 1, "2026-11-29", 900, 1.7, "ruler"),))
    with pytest.raises(ValueError, match="same name"):
        KeptBike(lives=(rotor(1, FRONT), rotor(1, REAR)))
    with pytest.raises(ValueError, match="only pads and rotors"):
        KeptBike(lives=(part(1, FRONT, Renewal.LEVER),), readings=(read(1, 1, "2026-11-29", 900, 1.7),))
