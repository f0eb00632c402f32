"""A part from the few figures that are known of it; the rest is the standard shelf's, and said to be so."""

from typing import Any

import pytest
from pydantic import ValidationError

from clavis.core.errors import QuantityError
from clavis.core.parts.figures import Figures
from clavis.core.parts.models import PARTS, Caliper, Fork, Rotor
from clavis.core.parts.quick_part import QUICK, quick_part


def test_what_is_told_stands_and_the_rest_is_of_the_part_most_like_it() -> None:
    made = quick_part("rotor", {"diameter_mm": 183.0, "interface": "six_bolt", "minimum_mm": 1.55}, "Acme", "R 183", ())
    assert isinstance(made.part, Rotor) and isinstance(made.like, Rotor)
    assert (made.part.diameter_mm, made.part.minimum_mm, made.part.figures) == (183.0, 1.55, Figures.TYPICAL)
    assert made.like.diameter_mm == 180 and made.part.mass_g == made.like.mass_g
    assert {"thickness_mm", "mass_g", "track_mm", "price"} <= set(made.borrowed)
    assert not {"diameter_mm", "interface", "minimum_mm", "model"} & set(made.borrowed)


def test_a_limit_that_nobody_told_stays_unknown() -> None:
    rotor = quick_part("rotor", {"diameter_mm": 160.0, "interface": "splined"}, "", "nameless", ()).part
    fork = quick_part("fork", {"mount": "post_mount", "native_mm": 160.0}, "", "fork", ()).part
    assert isinstance(rotor, Rotor) and isinstance(fork, Fork)
    assert rotor.minimum_mm is None and fork.max_rotor_mm is None and rotor.maker == "Any make"


def test_a_caliper_is_like_one_of_its_mount_and_line() -> None:
    told = {"mount": "flat", "fluid": "mineral", "pad_shape": "Z9"}
    made = quick_part("caliper", told, "Acme", "Flat", ())
    assert isinstance(made.part, Caliper) and isinstance(made.like, Caliper)
    assert (made.like.mount, made.like.fluid, made.part.pad_shape) == (made.part.mount, made.part.fluid, "Z9")
    assert "bores_mm" in made.borrowed


def test_the_number_is_its_own() -> None:
    told = {"diameter_mm": 160.0, "interface": "six_bolt"}
    first = quick_part("rotor", told, "Acme", "R 160", ()).part
    assert first.id == "acme-r-160"
    assert quick_part("rotor", told, "Acme", "R 160", (first.id,)).part.id == "acme-r-160-2"


@pytest.mark.parametrize(
    ("kind", "told", "model", "error"),
    [
        ("rotor", {"interface": "six_bolt"}, "R", QuantityError),
        ("rotor", {"diameter_mm": 160.0, "interface": "six_bolt"}, "", QuantityError),
        ("rotor", {"diameter_mm": 900.0, "interface": "six_bolt"}, "R", ValidationError),
        ("rotor", {"diameter_mm": 160.0, "interface": "six_bolt", "minimum_mm": 2.5}, "R", ValidationError),
        ("fork", {"mount": "post_mount"}, "F", QuantityError),
        ("fork", {"mount": "flat_rear", "native_mm": 140.0}, "F", QuantityError),
    ],
)
def test_what_cannot_be_is_refused(kind: str, told: dict[str, Any], model: str, error: type[Exception]) -> None:
    with pytest.raises(error):
        quick_part(kind, told, "", model, ())


def test_the_table_names_fields_that_there_are() -> None:
    for kind, row in QUICK.items():
        fields = set(PARTS[kind].model_fields)
        assert {*row.needed, *row.asked, *row.same, *row.near} <= fields, kind
