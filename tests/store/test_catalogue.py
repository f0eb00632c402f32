"""The catalogue as a person keeps it: changes on record, files out and in, a plan before anything is taken."""

import csv
import io
import re

import pytest
from hypothesis import given
from hypothesis import strategies as st
from sqlalchemy.orm import Session

from clavis.core.parts.models import KIND_NAMES, PARTS, parse_part
from clavis.demo.catalogue import demo_parts
from clavis.formats import parts_file
from clavis.formats.parts_file import PartsFileError
from clavis.store import catalogue, jobs, part_imports
from tests.bikes import rotor

HEAD = "id,maker,model,diameter_mm,thickness_mm,minimum_mm,interface,construction,mass_g,price\n"
ONE = "x-one,Haldrick,One,180,1.8,1.5,six_bolt,one_piece,140,19\n"


def test_a_change_is_kept_with_who_and_what(session: Session) -> None:
    assert catalogue.keep(session, rotor(id="r-1"), "Tess")
    assert not catalogue.keep(session, rotor(id="r-1"), "Tess")
    assert catalogue.keep(session, rotor(id="r-1", price=25), "Rob")
    newest, first = catalogue.history(session, "r-1")
    assert (first.who, first.before) == ("Tess", None)
    assert (newest.who, newest.before["price"], newest.after["price"]) == ("Rob", 20, 25)
    assert catalogue.find(session, "r-1")[0].price == 25
    with pytest.raises(jobs.NotThereError):
        catalogue.find(session, "r-2")
    lever = parse_part(
        {"kind": "hub", "id": "r-1", "maker": "M", "model": "H", "price": 1, "mass_g": 1, "role": "lockring_internal"}
    )
    with pytest.raises(jobs.RefusedError, match="does not change its kind"):
        catalogue.keep(session, lever, "Tess")


def test_parts_that_jobs_use_are_counted(demo_session: Session) -> None:
    used = catalogue.uses(demo_session)
    assert used["b-load-203"] >= 2
    assert "t-heavy-220" not in used


@pytest.mark.parametrize("kind", KIND_NAMES)
def test_every_kind_goes_out_as_csv_and_comes_back_the_same(demo_session: Session, kind: str) -> None:
    text = parts_file.write_csv(demo_parts(), kind)
    rows = list(csv.reader(io.StringIO(text)))
    assert rows[0] == list(PARTS[kind].model_fields)
    found = catalogue.plan(demo_session, text.encode(), kind)
    assert (found.new, found.changed, found.bad) == ((), (), ())
    assert found.same == len(rows) - 1 == sum(p.kind == kind for p in demo_parts())


def test_everything_goes_out_as_json_and_into_an_empty_catalogue(session: Session) -> None:
    found = catalogue.plan(session, parts_file.write_json(demo_parts()).encode(), "rotor")
    assert len(found.new) == found.takes == len(demo_parts())
    assert part_imports.take(session, found, "parts.json", "Tess") == found.takes
    assert sorted(p.id for p in jobs.read_catalogue(session).every()) == sorted(p.id for p in demo_parts())
    again = catalogue.plan(session, parts_file.write_json(demo_parts()).encode(), "rotor")
    assert (again.same, again.takes) == (len(demo_parts()), 0)


def test_a_plan_tells_new_changed_and_bad_apart_and_keeps_nothing(demo_session: Session) -> None:
    text = HEAD + ONE + "q-disc-160,Quernmark,Plain 160,160,1.8,1.5,six_bolt,one_piece,114,17.5\n"
    text += "x-bad,H,Bad,180,1.4,1.5,six_bolt,one_piece,140,19\n"
    found = catalogue.plan(demo_session, text.encode(), "rotor")
    assert [p.id for p in found.new] == ["x-one"]
    assert [(c.part.id, c.fields) for c in found.changed] == [("q-disc-160", (("price", 16.0, 17.5),))]
    assert [(b.place, b.name) for b in found.bad] == [("line 4", "x-bad")]
    assert "below the thickness when new" in found.bad[0].reason
    assert catalogue.find(demo_session, "q-disc-160")[0].price == 16
    assert part_imports.take(demo_session, found, "rotors.csv", "Tess") == 2
    assert catalogue.find(demo_session, "q-disc-160")[0].price == 17.5
    assert catalogue.history(demo_session, "x-one")[0].who == "Tess"


@pytest.mark.parametrize(
    ("row", "reason"),
    [
        (ONE.replace("180", "wide"), "diameter_mm: .*given: wide"),
        (ONE.replace("six_bolt", "bayonet"), "interface: .*given: bayonet"),
        (ONE.replace("x-one", "X One"), "id: "),
        (ONE.replace("x-one", ""), "id: "),
        (ONE + ONE, "twice"),
        (ONE.replace("x-one", "u-k2-resin"), "is a pad in the catalogue"),
        (ONE.replace("\n", ",7\n"), "more cells than headings"),
    ],
)
def test_a_bad_row_names_its_line_and_its_field(demo_session: Session, row: str, reason: str) -> None:
    found = catalogue.plan(demo_session, (HEAD + row).encode(), "rotor")
    assert len(found.bad) == 1
    assert found.bad[0].place in ("line 2", "line 3")
    assert re.search(reason, found.bad[0].reason)


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"maker,model\nA,B\n", "a column “id” is needed"),
        (b"\xff\xfe\x00", "not readable as UTF-8 text"),
        (b"{}", "not a Clavis parts file"),
        (b'{"format":"clavis-parts","version":7,"parts":[]}', "version: 7"),
        (b'{"format":"clavis-parts","version":1,"parts":{}}', "a list of at most"),
        (b"{", "not JSON"),
    ],
)
def test_a_file_that_cannot_be_read_at_all(session: Session, data: bytes, words: str) -> None:
    with pytest.raises(PartsFileError, match=words):
        catalogue.plan(session, data, "rotor")


def test_rows_of_several_kinds_semicolons_and_decimal_commas(session: Session) -> None:
    text = (
        "kind;id;maker;model;mass_g;price;bores_mm;mount;fluid;pad_shape;slot_mm;tab_mm;end;interface;rim_mm\n"
        "caliper;c-1;H;C;120;54,5;15;post;mineral;K2;2;8;;;\n"
        "wheel;w-1;H;W;900;88;;;;;;;front;six_bolt;622\n"
        "engine;e-1;H;E;900;88;;;;;;;front;six_bolt;622\n"
        "wheel;w-2;H;W;900;88;15;;;;;;front;six_bolt;622\n"
    )
    found = catalogue.plan(session, text.encode(), "rotor")
    assert [(p.kind, p.id, p.price) for p in found.new] == [("caliper", "c-1", 54.5), ("wheel", "w-1", 88)]
    assert [b.reason for b in found.bad] == ["“engine” is no kind of part", "a wheel has no column “bores_mm”"]


def test_a_name_is_no_formula() -> None:
    part = rotor(maker="=SUM(A1)", model="-R")
    text = parts_file.write_csv([part], "rotor")
    assert "'=SUM(A1)" in text
    cells = dict(zip(*list(csv.reader(io.StringIO(text)))[:2], strict=True))
    assert parse_part(parts_file.from_cells("rotor", cells)) == part


@pytest.mark.parametrize("kind", ["rotor", ""], ids=["of rotors", "of whatever a row says"])
@given(data=st.binary(max_size=200), head=st.sampled_from([HEAD.encode(), b"", b"kind,id\n"]))
def test_any_bytes_are_read_or_refused(kind: str, data: bytes, head: bytes) -> None:
    try:
        good, bad = parts_file.read_rows(head + data, kind)
    except PartsFileError:
        return
    placed = [place for place, _ in good] + [b.place for b in bad]
    assert len(placed) <= data.count(b"\n") + data.count(b"\r") + 1
    assert all(b.reason for b in bad) and all(re.fullmatch(r"line \d+", place) for place in placed)
