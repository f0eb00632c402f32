"""Every field of the job has a label, a kind, and a way in and out."""

import pytest

from clavis.core.job.document import Bike, Complaint, Conditions, Load, Rider, Wishes
from clavis.core.job.wheel import Wheel
from clavis.core.physics.bike import BikeKind
from clavis.core.physics.forces import Feel
from clavis.core.units import System
from clavis.core.wording.labels import FIELDS, choice_word, field_word, place_word
from clavis.store.jobs import RefusedError
from clavis.web.shell.job_fields import field_view, read_field, worth_keeping
from tests.bikes import CATALOGUE, own_job

GROUPS = {
    "rider": Rider,
    "bike": Bike,
    "load": Load,
    "conditions": Conditions,
    "wishes": Wishes,
    "front": Wheel,
    "rear": Wheel,
}
CHIPS = {"wishes.wants"}  # several of a kind: taken up and dropped one by one, not typed
NOT_TYPED = {f"{end}.{name}" for end in ("front", "rear") for name in ("since", "read_by", "trial")}  # told by acts
PATHS = [f"{group}.{name}" for group, model in GROUPS.items() for name in model.model_fields]
PATHS = [path for path in PATHS if path not in CHIPS | NOT_TYPED]


def test_what_was_typed_is_shown_again_where_its_number_is_odd() -> None:
    job = own_job()
    kept = read_field("rider.mass_kg", "165 lb", System.METRIC)
    assert worth_keeping("rider.mass_kg", "165 lb", kept, System.METRIC)
    assert not worth_keeping("rider.mass_kg", "75 kg", 75.0, System.METRIC)
    typed = job.model_copy(
        update={"rider": job.rider.model_copy(update={"mass_kg": kept}), "typed": {"rider.mass_kg": "165 lb"}}
    )
    assert field_view(typed, "rider.mass_kg", CATALOGUE, System.METRIC).text == "165 lb"
    assert field_view(typed, "rider.mass_kg", CATALOGUE, System.IMPERIAL).text == "165"
    changed = typed.model_copy(update={"rider": job.rider.model_copy(update={"mass_kg": 74.84})})
    assert field_view(changed, "rider.mass_kg", CATALOGUE, System.METRIC).text == "74.84"


@pytest.mark.parametrize("path", PATHS)
def test_every_field_is_shown_and_reads_back_as_itself(path: str) -> None:
    view = field_view(own_job(), path, CATALOGUE, System.METRIC)
    group, name = path.split(".")
    family = "wheel" if group in ("front", "rear") else group
    assert f"{family}.{name}" in FIELDS, "the trade's word for it is missing"
    # a wheel's field may have a word for either end
    assert view.label == FIELDS.get(path, FIELDS[f"{family}.{name}"])
    value = getattr(getattr(own_job(), group), name)
    expected = value.value if hasattr(value, "value") else list(value) if isinstance(value, tuple) else value
    assert read_field(path, view.text, System.METRIC) == expected


def test_defaults_are_shown_as_such() -> None:
    view = field_view(own_job(), "bike.wheelbase_m", CATALOGUE, System.METRIC)
    assert view.is_default
    assert view.placeholder == "1.06"
    entered = field_view(
        own_job(bike=Bike(kind=BikeKind.CITY, wheelbase_m=1.2)), "bike.wheelbase_m", CATALOGUE, System.METRIC
    )
    assert not entered.is_default
    assert entered.text == "1.2"


def test_not_measured_is_said_in_its_place() -> None:
    assert field_view(own_job(), "front.fluid_age_y", CATALOGUE, System.METRIC).placeholder == "not measured"


def test_an_empty_entry_is_not_entered_where_it_may_be() -> None:
    assert read_field("rider.mass_kg", "  ", System.METRIC) is None
    with pytest.raises(RefusedError):
        read_field("conditions.ambient_c", "", System.METRIC)


@pytest.mark.parametrize(
    ("path", "text"),
    [
        ("rider.mass_kg", "19"),
        ("front.max_rotor_mm", "900"),
        ("rider.fingers", "3"),
        ("bike.kind", "x"),
        ("rides", "x"),
    ],
)
def test_out_of_range_is_refused_here(path: str, text: str) -> None:
    with pytest.raises(RefusedError):
        read_field(path, text, System.METRIC)


def test_words_of_equal_values_do_not_mix() -> None:
    """Two enumerations may share a value; each has its own words."""
    assert choice_word(Complaint.WEAK) == "weak"
    assert choice_word(Feel.WEAK) == "weak: cannot reach the limit"


def test_places_in_the_history() -> None:
    assert place_word("front.max_rotor_mm") == "front: largest rotor allowed"
    assert place_word("proposal.rear.pad_id") == "proposed rear: pads"
    assert place_word("proposal.rear") == "proposed rear setup"
    assert place_word("front") == "front wheel"
    assert field_word("rides.x.sections.0.gradient_pct") == "Gradient"
