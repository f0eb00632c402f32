"""The command line, run as a person runs it."""

import csv
import json
import subprocess
import sys
from dataclasses import dataclass
from pathlib import Path

import pytest
from typer.main import get_command
from typer.testing import CliRunner

from clavis.cli import Reached, addresses_told, app
from clavis.formats import job_file
from tests.bikes import file_of, own_job


@dataclass(frozen=True)
class Done:
    """What a command came to."""

    returncode: int
    stdout: str
    stderr: str


def clavis(*arguments: str) -> Done:
    """The command by its own door, without another interpreter."""
    done = CliRunner().invoke(app, list(arguments))
    if done.exception is not None and not isinstance(done.exception, SystemExit):
        raise done.exception
    return Done(done.exit_code, done.stdout, done.stderr)


def test_evaluate_prints_the_same_answers(tmp_path: Path) -> None:
    """As a person runs it: in an interpreter of its own."""
    from clavis.formats.answers import answers_of

    file = tmp_path / "job.json"
    file.write_text(job_file.to_json(file_of(own_job())), encoding="utf-8")
    done = subprocess.run(
        [sys.executable, "-m", "clavis.cli", "evaluate", str(file)],
        capture_output=True, text=True, timeout=120, check=False,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    assert json.loads(done.stdout) == json.loads(json.dumps(answers_of(file_of(own_job()))))


def test_a_bad_file_ends_with_two_and_one_line(tmp_path: Path) -> None:
    file = tmp_path / "job.json"
    raw = json.loads(job_file.to_json(file_of(own_job())))
    raw["job"]["rider"]["mass_kg"] = -5
    file.write_text(json.dumps(raw), encoding="utf-8")
    done = clavis("evaluate", str(file))
    assert done.returncode == 2
    assert done.stderr.count("\n") == 1
    assert "job.rider.mass_kg" in done.stderr
    assert done.stdout == ""
    missing = clavis("evaluate", str(tmp_path / "none.json"))
    assert missing.returncode == 2
    assert "No such file" in missing.stderr


def test_import_export_and_backup(tmp_path: Path) -> None:
    file, store = tmp_path / "job.json", str(tmp_path / "c.db")
    file.write_text(job_file.to_json(file_of(own_job())), encoding="utf-8")
    imported = clavis("import", str(file), "--who", "Maud", "--database", store)
    assert imported.stdout.strip() == "1", imported.stderr
    exported = clavis("export", "1", "--database", store)
    assert job_file.parse(exported.stdout.encode()).job == own_job()
    copied = clavis("backup", str(tmp_path / "copy.db"), "--database", store)
    assert copied.returncode == 0, copied.stderr
    assert clavis("export", "1", "--database", str(tmp_path / "copy.db")).stdout == exported.stdout
    again = clavis("backup", str(tmp_path / "copy.db"), "--database", store)
    assert again.returncode == 1
    assert "exists already" in again.stderr
    assert clavis("export", "9", "--database", store).returncode == 1


def test_restore_and_check(tmp_path: Path) -> None:
    file, store, copy = tmp_path / "job.json", str(tmp_path / "c.db"), str(tmp_path / "copy.db")
    file.write_text(job_file.to_json(file_of(own_job())), encoding="utf-8")
    clavis("import", str(file), "--who", "Maud", "--database", store)
    clavis("backup", copy, "--database", store)
    clavis("import", str(file), "--who", "Maud", "--database", store)
    assert clavis("export", "2", "--database", store).returncode == 0
    brought = clavis("restore", copy, "--database", store)
    assert brought.returncode == 0 and "what was there is" in brought.stdout, brought.stderr
    assert clavis("export", "2", "--database", store).returncode == 1
    assert "all is well" in clavis("check", "--database", store).stdout
    (tmp_path / "letter.db").write_text("Dear Maud")
    refused = clavis("restore", str(tmp_path / "letter.db"), "--database", store)
    assert refused.returncode == 1 and "cannot be brought back" in refused.stderr
    nothing = clavis("check", "--database", str(tmp_path / "none.db"))
    assert nothing.returncode == 1 and not (tmp_path / "none.db").exists()


def test_everything_out_and_in(tmp_path: Path) -> None:
    file, store, whole = tmp_path / "job.json", str(tmp_path / "c.db"), str(tmp_path / "all.zip")
    file.write_text(job_file.to_json(file_of(own_job())), encoding="utf-8")
    clavis("import", str(file), "--who", "Maud", "--database", store)
    out = clavis("export", "--all", whole, "--database", store)
    assert out.returncode == 0 and "files in" in out.stdout, out.stderr
    assert Path(whole).stat().st_mode & 0o777 == 0o600  # all that is kept, read by its owner alone
    assert "exists already" in clavis("export", "--all", whole, "--database", store).stderr
    taken = clavis("import", whole, "--who", "Maud", "--database", str(tmp_path / "new.db"))
    assert taken.stdout.startswith("1 jobs, 1 bikes"), taken.stderr
    again = clavis("export", "1", "--database", str(tmp_path / "new.db"))
    assert job_file.parse(again.stdout.encode()).job == own_job()
    for wrong in ([], ["1", "--all", whole]):
        assert clavis("export", *wrong, "--database", store).returncode == 2
    assert clavis("export", "1", "--database", str(tmp_path / "none.db")).returncode == 1
    assert not (tmp_path / "none.db").exists()


def test_schema_prints_json() -> None:
    assert "job" in json.loads(clavis("schema", "job").stdout)["properties"]
    assert clavis("schema", "poem").returncode == 2


def test_samples_and_trace(tmp_path: Path) -> None:
    file, trace = tmp_path / "job.json", tmp_path / "course.csv"
    file.write_text(job_file.to_json(file_of(own_job())), encoding="utf-8")
    done = clavis("evaluate", str(file), "--samples", "16", "--trace", str(trace))
    assert done.returncode == 0, done.stderr
    wheel = json.loads(done.stdout)["setups"]["fitted"]["wheels"]["front"]
    assert wheel["sampled"]["samples"] == 16
    band = wheel["sampled"]["bands"]["rotor_peak_c"]
    assert band["p10"] < wheel["peak_c"]["rotor"] < band["p90"]
    rows = list(csv.DictReader(trace.open(encoding="utf-8")))
    assert {(r["setup"], r["wheel"]) for r in rows} == {
        (s, w) for s in ("fitted", "proposed") for w in ("front", "rear")
    }
    front = [r for r in rows if (r["setup"], r["wheel"]) == ("fitted", "front")]
    assert max(float(r["rotor_c"]) for r in front) == pytest.approx(wheel["peak_c"]["rotor"], abs=0.01)
    assert float(front[-1]["distance_m"]) == pytest.approx(5500, abs=0.1)
    assert clavis("evaluate", str(file), "--trace", str(tmp_path / "no" / "where.csv")).returncode == 2


@pytest.mark.parametrize(("at", "told"), [
    (Reached(), "http://brakes.lan:8000/"),
    (Reached("0.0.0.0", 8443, certificate=Path("a.pem"), key=Path("a.key")), "https://brakes.lan:8443/"),
    (Reached(behind_proxy=True), "https://brakes.lan/, where its proxy hands on to 127.0.0.1:8000"),
])  # fmt: skip
def test_the_address_that_is_told_is_the_one_that_answers(at: Reached, told: str) -> None:
    assert addresses_told(["brakes.lan"], at) == [told]


def test_the_service_asks_for_commands_and_options_that_there_are() -> None:
    unit = (Path(__file__).parents[1] / "docs" / "service" / "clavis.service").read_text(encoding="utf-8")
    asked = [line.split()[1:] for line in unit.splitlines() if line.startswith(("ExecStart=", "ExecStartPre="))]
    commands = get_command(app).commands  # type: ignore[attr-defined]
    assert [name for name, *_ in asked] == ["warm", "serve"]
    for name, *options in asked:
        commands[name].make_context(name, options)  # raises where an option is none
