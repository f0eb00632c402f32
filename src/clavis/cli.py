"""The command line: serve, demo, evaluate, export, import, backup."""

import contextlib
import csv
import json
import logging
import os
import socket
import sqlite3
import sys
import threading
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer
from pydantic import BaseModel

if TYPE_CHECKING:
    pass

if TYPE_CHECKING:
    from clavis.instruments.line_server import Readings

app = typer.Typer(help="Clavis: bicycle disc brakes, wheel by wheel.", no_args_is_help=True, add_completion=False)
PortOption = Annotated[int, typer.Option(envvar="PORT", help="port to listen on")]
DatabaseOption = Annotated[Path, typer.Option(envvar="CLAVIS_DATABASE", help="the SQLite file")]
DEFAULT_DATABASE = Path("var/clavis.db")
DEMO_DATABASE = Path("var/demo.db")


def _fail(text: str, code: int = 1) -> None:
    typer.echo(text, err=True)
    raise typer.Exit(code)


def _serve(database: Path, host: str, port: int) -> None:
    import uvicorn

    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError:
            _fail(f"port {port} is taken; choose another: PORT={port + 1} make demo")
    # the pages are named, not imported: they read their settings from the environment
    os.environ |= {"CLAVIS_DATABASE": str(database), "CLAVIS_HOST": host, "CLAVIS_PORT": str(port)}
    typer.echo(f"Clavis is at http://{host}:{port}/  (stop with Ctrl+C)")
    logging.getLogger("uvicorn.error").setLevel(logging.WARNING)
    with contextlib.suppress(KeyboardInterrupt):
        uvicorn.run(
            "clavis.web.app:served", factory=True, host=host, port=port, log_level="warning", server_header=False
        )


@app.command()
def serve(database: DatabaseOption = DEFAULT_DATABASE, host: str = "127.0.0.1", port: PortOption = 8000) -> None:
    """Start empty, for real use. Bound to the loopback address unless told otherwise."""
    _serve(database, host, port)


@app.command()
def demo(
    database: DatabaseOption = DEMO_DATABASE, host: str = "127.0.0.1", port: PortOption = 8000, reset: bool = False
) -> None:
    """Start with the demo world; a second start keeps what was changed, ``--reset`` brings the world back."""
    from clavis.demo import world
    from clavis.store import database as databases

    engine = databases.open_engine(database)
    with databases.sessions(engine)() as session:
        if reset:
            world.reset(session)
            typer.echo("The demo world is laid out afresh.")
            return
        world.fill_if_empty(session)
    engine.dispose()
    if "CLAVIS_SUPPLIER_URL" not in os.environ:
        os.environ["CLAVIS_SUPPLIER_URL"] = _stand_in_beside()
    with contextlib.ExitStack() as beside:
        if "CLAVIS_INSTRUMENTS" not in os.environ:
            os.environ["CLAVIS_INSTRUMENTS"] = json.dumps(_instruments_beside(database, beside))
        _serve(database, host, port)


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


AFTER_THE_PAGES_S = 3.0
"""the stand-ins of the road start when the pages are there: five processes at once would hold them up"""


def _instruments_beside(database: Path, beside: contextlib.ExitStack) -> dict[str, str]:
    """A stand-in for every instrument of the road, each a process of its own that ends with the demo; where they will
    be."""
    import subprocess

    from clavis.instruments.line_protocol import RoadInstrument

    ports = {kind: _free_port() for kind in RoadInstrument}

    def start() -> None:
        for kind, port in ports.items():
            clavis = [sys.executable, "-m", "clavis.cli", "instrument", kind.value]
            command = [*clavis, "--database", str(database), "--port", str(port), "--beside"]
            process = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.DEVNULL)  # noqa: S603
            beside.callback(process.terminate)

    later = threading.Timer(AFTER_THE_PAGES_S, start)
    later.daemon = True
    later.start()
    return {kind.value: f"socket://127.0.0.1:{port}" for kind, port in ports.items()}


def _stand_in_beside() -> str:
    """Start the supplier's stand-in beside the demo, on a port of its own; its address."""
    import uvicorn

    from clavis.demo.catalogue import demo_parts
    from clavis.supplier.stand_in import create_shop

    port = _free_port()
    config = uvicorn.Config(create_shop(demo_parts()), host="127.0.0.1", port=port, log_level="warning")
    threading.Thread(target=uvicorn.Server(config).run, daemon=True).start()
    return f"http://127.0.0.1:{port}"


@app.command()
def supplier(host: str = "127.0.0.1", port: PortOption = 8100, mode: str = "well") -> None:
    """The supplier's stand-in by itself: offers the demo's parts, sells nothing. ``--mode`` has it fail as they do:
    slow, down, out_of_stock, dearer, nonsense."""
    import uvicorn

    from clavis.demo.catalogue import demo_parts
    from clavis.supplier.stand_in import Mode, create_shop

    if mode not in set(Mode):
        _fail(f"no such mode; it has: {', '.join(Mode)}", 2)
    shop = create_shop(demo_parts())
    shop.state.shop.mode = Mode(mode)
    typer.echo(f"The supplier's stand-in is at http://{host}:{port}/  (stop with Ctrl+C)")
    with contextlib.suppress(KeyboardInterrupt):
        uvicorn.run(shop, host=host, port=port, log_level="warning", server_header=False)


@app.command()
def instrument(
    kind: Annotated[str, typer.Argument(help="thermometer, tape, stopwatch, force or logger")],
    database: DatabaseOption = DEMO_DATABASE,
    host: str = "127.0.0.1",
    port: PortOption = 8200,
    beside: Annotated[bool, typer.Option(help="end with whoever started it: when its standard input closes")] = False,
) -> None:
    """A stand-in for an instrument of the road: it reads an invented truth about the bikes of a database, and speaks as
    a real one would. Connect it with CLAVIS_INSTRUMENTS='{"tape": "socket://127.0.0.1:8200"}'."""
    from clavis.instruments.line_protocol import RoadInstrument
    from clavis.instruments.line_server import RoadServer

    if kind not in set(RoadInstrument):
        _fail(f"no such instrument; there are: {', '.join(RoadInstrument)}", 2)
    server = RoadServer(RoadInstrument(kind), host, port, lambda: _read_from(database))
    if beside:
        threading.Thread(target=_until_closed, args=(server.shutdown,), daemon=True).start()
    typer.echo(f"The {kind}’s stand-in is at socket://{host}:{port}  (stop with Ctrl+C)")
    with contextlib.suppress(KeyboardInterrupt), server:
        server.serve_forever()


def _until_closed(end: Callable[[], None]) -> None:
    sys.stdin.read()
    end()


def _read_from(database: Path) -> "Readings":
    """What a stand-in reads from: the bikes of a database, each with a truth that nobody knows."""
    from clavis.core.job.document import Job
    from clavis.core.physics.road import Track
    from clavis.instruments.line_protocol import NotHeldError
    from clavis.instruments.stand_in_road import StandIn, World
    from clavis.store import database as databases
    from clavis.store import jobs

    sessions = databases.sessions(databases.open_engine(database))

    def job(number: int) -> tuple[Job, dict[str, Track]]:
        with sessions() as session:
            try:
                found = jobs.open_job(session, number).job
            except jobs.NotThereError:
                raise NotHeldError("there is no such bike") from None
            return found, jobs.tracks_of(session, found.rides)

    with sessions() as session:
        return StandIn(World(job, jobs.read_catalogue(session)))


@app.command()
def warm() -> None:
    """Compile what start-up needs, so that every later start is fast."""
    from clavis.core.evaluation.evaluate import evaluate
    from clavis.core.evaluation.sheet import sheet_rows
    from clavis.core.parts.catalogue import Catalogue
    from clavis.demo import world
    from clavis.demo.catalogue import demo_parts
    from clavis.demo.roads import RIDES
    from clavis.formats.recordings import read_gpx
    from clavis.formats.tracks import checksum

    tracks, names = {}, {}
    for path in RIDES.glob("*.gpx"):
        with path.open("rb") as stream:
            track = read_gpx(stream).track
        names[path.stem] = checksum(track)
        tracks[checksum(track)] = track
    catalogue = Catalogue.of(demo_parts())
    for make in world.JOBS:
        found = evaluate(make(names), catalogue, tracks)
        for setup in found.setups.values():
            if found.situation:
                sheet_rows(setup, found.situation)


@app.command()
def evaluate(
    file: Annotated[Path, typer.Argument(help="a job file")],
    samples: Annotated[int, typer.Option(min=0, max=20_000, help="draw so many samples for bands and chances")] = 0,
    trace: Annotated[Path | None, typer.Option(help="write every wheel's course of temperatures here, as CSV")] = None,
) -> None:
    """Print a job's answers as JSON. A file that cannot be read ends with code 2 and one line naming the field."""
    from clavis.formats import job_file
    from clavis.formats.answers import TRACE_HEAD, answers_of, trace_rows

    try:
        data = file.read_bytes()
    except OSError as error:
        _fail(f"{file}: {error.strerror}", 2)
        return
    try:
        parsed = job_file.parse(data)
    except job_file.JobFileError as error:
        _fail(f"{file}: {error}", 2)
        return
    if trace is not None:
        try:
            with trace.open("w", encoding="utf-8", newline="") as stream:
                writer = csv.writer(stream)
                writer.writerow(TRACE_HEAD)
                writer.writerows(trace_rows(parsed))
        except OSError as error:
            _fail(f"{trace}: {error.strerror}", 2)
    json.dump(answers_of(parsed, samples), sys.stdout, ensure_ascii=False, indent=1)
    sys.stdout.write("\n")


@app.command("export")
def export_job(
    job: Annotated[int, typer.Argument(help="number of the job")], database: DatabaseOption = DEFAULT_DATABASE
) -> None:
    """Write a job as an open JSON file to standard output."""
    from clavis.formats import job_file
    from clavis.store import database as databases
    from clavis.store import job_transfer, jobs

    with databases.sessions(databases.open_engine(database))() as session:
        try:
            sys.stdout.write(job_file.to_json(job_transfer.write_job(session, job)) + "\n")
        except jobs.NotThereError as error:
            _fail(str(error))


@app.command("import")
def import_job(
    file: Annotated[Path, typer.Argument(help="a job file")],
    who: Annotated[str, typer.Option(help="name that stands in the history")],
    database: DatabaseOption = DEFAULT_DATABASE,
) -> None:
    """Read a job file into the database; prints the new job's number."""
    from clavis.formats import job_file
    from clavis.store import database as databases
    from clavis.store import job_transfer, jobs

    try:
        parsed = job_file.parse(file.read_bytes())
    except OSError as error:
        _fail(f"{file}: {error.strerror}", 2)
        return
    except job_file.JobFileError as error:
        _fail(f"{file}: {error}", 2)
        return
    with databases.sessions(databases.open_engine(database))() as session:
        typer.echo(job_transfer.keep(session, parsed, jobs.Author(who[:40], "command line")))


@app.command()
def backup(
    target: Annotated[Path, typer.Argument(help="file to write")], database: DatabaseOption = DEFAULT_DATABASE
) -> None:
    """Copy the database whole while it is in use."""
    if not database.exists():
        _fail(f"{database} is not there")
    if target.exists():
        _fail(f"{target} exists already")
    with contextlib.closing(sqlite3.connect(database)) as source, contextlib.closing(sqlite3.connect(target)) as copy:
        source.backup(copy)
    typer.echo(f"copied to {target}")


@app.command()
def schema(kind: Annotated[str, typer.Argument(help="job, answers or rides")] = "job") -> None:
    """Print the JSON Schema of the job file, of what ``evaluate`` prints, or of the rides file."""
    from clavis.formats.answer_models import Answers
    from clavis.formats.job_file import JobFile
    from clavis.formats.rides_file import RidesFile

    models: dict[str, type[BaseModel]] = {"job": JobFile, "answers": Answers, "rides": RidesFile}
    if kind not in models:
        _fail("schema: job, answers or rides", 2)
    json.dump(models[kind].model_json_schema(), sys.stdout, indent=1, ensure_ascii=False, sort_keys=True)
    sys.stdout.write("\n")


if __name__ == "__main__":
    app()
