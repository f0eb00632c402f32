"""The command line: serve, demo, evaluate, export, import, backup."""

import contextlib
import csv
import gc
import json
import logging
import os
import socket
import sys
import threading
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer
from pydantic import BaseModel

from clavis import __version__

if TYPE_CHECKING:
    from sqlalchemy import Engine
    from sqlalchemy.orm import Session

    from clavis.instruments.line_server import Readings

app = typer.Typer(help="Clavis: bicycle disc brakes, wheel by wheel.", no_args_is_help=True, add_completion=False)


def _say_version(asked: bool) -> None:
    if asked:
        typer.echo(f"Clavis {__version__}")
        raise typer.Exit


@app.callback()
def common(
    version: Annotated[
        bool, typer.Option("--version", callback=_say_version, is_eager=True, help="say which it is")
    ] = False,
) -> None:
    """Clavis: bicycle disc brakes, wheel by wheel."""


PortOption = Annotated[int, typer.Option(envvar="PORT", help="port to listen on")]
DatabaseOption = Annotated[Path, typer.Option(envvar="CLAVIS_DATABASE", help="the SQLite file")]
DEFAULT_DATABASE = Path("var/clavis.db")
DEMO_DATABASE = Path("var/demo.db")


def _fail(text: str, code: int = 1) -> None:
    typer.echo(text, err=True)
    raise typer.Exit(code)


def _opened(database: Path) -> "Engine":
    """The database; one line, and code 1, where it cannot be used."""
    from clavis.store import database as databases

    try:
        return databases.open_engine(database)
    except databases.DatabaseTroubleError as error:
        _fail(str(error))
        raise


@dataclass(frozen=True)
class Reached:
    """How the pages are reached: where they are served, under which names, and whether over TLS or behind a proxy."""

    host: str = "127.0.0.1"
    port: int = 8000
    names: tuple[str, ...] = ()
    certificate: Path | None = None
    key: Path | None = None
    behind_proxy: bool = False
    sign_in: bool = False

    @property
    def over_network(self) -> bool:
        from clavis.store import accounts

        return accounts.over_network(self.host, behind_proxy=self.behind_proxy)

    def allowed(self) -> list[str]:
        """Names under which a browser may ask: this machine's own, where it is reached over a network."""
        own = _own_names() if self.host in ("0.0.0.0", "::") else [self.host]  # noqa: S104
        return list(dict.fromkeys(["127.0.0.1", "localhost", *(own if self.over_network else []), *self.names]))


def addresses_told(names: list[str], at: Reached) -> list[str]:
    """Where a browser finds what is served: behind a proxy that is the proxy's own port, which it alone knows."""
    if at.behind_proxy:
        return [f"https://{name}/, where its proxy hands on to {at.host}:{at.port}" for name in names]
    return [f"{'https' if at.certificate else 'http'}://{name}:{at.port}/" for name in names]


FIRST_OWNER = "clavis account add NAME --role owner"


def _own_names() -> list[str]:
    """The machine's name and addresses in its networks."""
    name = socket.gethostname().lower()
    found = [name, f"{name}.local"]
    with contextlib.suppress(OSError):
        found += socket.gethostbyname_ex(name)[2]
    with contextlib.suppress(OSError), socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        probe.connect(("192.0.2.1", 9))  # sends nothing: it tells by which address one would leave
        found.append(probe.getsockname()[0])
    return found


def _serve(database: Path, at: Reached) -> None:
    import uvicorn

    from clavis.store import accounts
    from clavis.store import database as databases

    host, port = at.host, at.port
    if bool(at.certificate) != bool(at.key):
        _fail("--tls-certificate and --tls-key go together", 2)
    for file in (at.certificate, at.key):
        if file is not None and not os.access(file, os.R_OK):
            _fail(f"{file} cannot be read", 2)
    engine = _opened(database)  # what is the matter with it is said here, before anything is served
    with databases.sessions(engine)() as session:
        if (at.over_network or at.sign_in) and not accounts.has_owner(session):
            _fail(f"nobody comes in without an account: make the first one,  {FIRST_OWNER}")
    engine.dispose()

    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError:
            _fail(f"port {port} is taken; choose another: PORT={port + 1} make demo")
    # the pages are named, not imported: they read their settings from the environment
    os.environ |= {"CLAVIS_DATABASE": str(database), "CLAVIS_HOST": host, "CLAVIS_PORT": str(port)}
    os.environ |= {"CLAVIS_SIGN_IN": str(at.sign_in), "CLAVIS_BEHIND_PROXY": str(at.behind_proxy)}
    allowed = at.allowed()
    os.environ.setdefault("CLAVIS_ALLOWED_HOSTS", json.dumps(allowed))
    shown = [name for name in allowed if name not in ("127.0.0.1", "localhost")] if at.over_network else [host]
    for address in addresses_told(shown or [host], at):
        typer.echo(f"Clavis is at {address}  (stop with Ctrl+C)")
    if at.over_network and not at.certificate and not at.behind_proxy:
        typer.echo(
            "Passwords cross this network in the clear: give a certificate, or serve behind a proxy (docs/network.md)."
        )
    logging.getLogger("uvicorn.error").setLevel(logging.WARNING)
    gc.disable()  # while everything is loaded: a quarter of the start; ``served`` looks through it once
    with contextlib.suppress(KeyboardInterrupt):
        uvicorn.run(
            "clavis.web.app:served", factory=True, host=host, port=port, log_level="warning", server_header=False,
            timeout_graceful_shutdown=ENDS_WITHIN_S, ssl_certfile=at.certificate, ssl_keyfile=at.key,
            proxy_headers=at.behind_proxy, forwarded_allow_ips="127.0.0.1",
        )  # fmt: skip


ENDS_WITHIN_S = 2
"""what is still under way when the program is to end has so long; every change is kept whole or not at all"""


def _leave() -> None:
    """End, also where a thread works on something that nobody will read."""
    logging.shutdown()
    sys.stdout.flush()
    sys.stderr.flush()
    os._exit(0)


@app.command()
def serve(
    database: DatabaseOption = DEFAULT_DATABASE,
    host: Annotated[str, typer.Option(help="address to listen on; 0.0.0.0: every network")] = "127.0.0.1",
    port: PortOption = 8000,
    name: Annotated[list[str] | None, typer.Option(help="a further name by which browsers ask for it")] = None,
    tls_certificate: Annotated[Path | None, typer.Option(help="file with the certificate, as PEM")] = None,
    tls_key: Annotated[Path | None, typer.Option(help="file with its key, as PEM")] = None,
    behind_proxy: Annotated[bool, typer.Option(help="a proxy on this machine hands requests on")] = False,
    sign_in: Annotated[bool, typer.Option(help="ask for sign-in on this machine as well")] = False,
) -> None:
    """Start empty, for real use. On this machine alone unless told otherwise; over a network everybody signs in."""
    _serve(database, Reached(host, port, tuple(name or ()), tls_certificate, tls_key, behind_proxy, sign_in))
    _leave()


@app.command()
def demo(database: DatabaseOption = DEMO_DATABASE, port: PortOption = 8000, reset: bool = False) -> None:
    """Start with the demo world; a second start keeps what was changed, ``--reset`` brings the world back."""
    from clavis.demo import world
    from clavis.store import database as databases

    engine = _opened(database)
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
        _serve(database, Reached(port=port))
    _leave()


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

    sessions = databases.sessions(_opened(database))

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
    from clavis.formats.recordings_xml import read_gpx
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
    job: Annotated[int | None, typer.Argument(help="number of the job")] = None,
    everything: Annotated[Path | None, typer.Option("--all", help="write everything into this archive")] = None,
    database: DatabaseOption = DEFAULT_DATABASE,
) -> None:
    """Write a job as an open JSON file to standard output; or everything as one open archive that can be imported."""
    from clavis.formats import job_file
    from clavis.store import database as databases
    from clavis.store import job_transfer, jobs

    if (job is None) == (everything is None):
        _fail("export: the number of a job, or --all and the archive to write", 2)
    if not database.exists():
        _fail(f"{database} is not there")
    if everything is not None:
        _export_all(database, everything)
        return
    assert job is not None
    with databases.sessions(_opened(database))() as session:
        try:
            sys.stdout.write(job_file.to_json(job_transfer.write_job(session, job)) + "\n")
        except jobs.NotThereError as error:
            _fail(str(error))


def _export_all(database: Path, target: Path) -> None:
    from clavis.store import archive
    from clavis.store import database as databases
    from clavis.store.file_copies import make_empty

    if target.exists():
        _fail(f"{target} exists already")
    half = target.with_name(f"{target.name}.part")
    try:
        half.unlink(missing_ok=True)
        make_empty(half)  # of all that is kept only its owner may read a copy
        with half.open("wb") as out, databases.sessions(_opened(database))() as session:
            count = archive.write(session, out)
        half.replace(target)
    except OSError as error:
        _fail(f"{target} could not be written: {error.strerror}")
        return
    finally:
        half.unlink(missing_ok=True)
    typer.echo(f"{count} files in {target}")


@app.command("import")
def import_job(
    file: Annotated[Path, typer.Argument(help="a job file, or an archive of everything")],
    who: Annotated[str, typer.Option(help="name that stands in the history")],
    database: DatabaseOption = DEFAULT_DATABASE,
) -> None:
    """Read a job file into the database and print the new job's number; or everything of an archive, beside what is
    there."""
    from clavis.formats import job_file
    from clavis.store import archive, job_transfer, jobs
    from clavis.store import database as databases

    if file.suffix == ".zip":
        with databases.sessions(_opened(database))() as session:
            try:
                with file.open("rb") as stream:
                    taken = archive.take(session, stream, jobs.Author(who[:40], "command line"))
            except OSError as error:
                _fail(f"{file}: {error.strerror}", 2)
                return
            except archive.ArchiveError as error:
                _fail(f"{file}: {error}", 2)
                return
        typer.echo(f"{taken.jobs} jobs, {taken.bikes} bikes, {taken.parts} parts, {taken.people} people, "
                   f"{taken.photos} photographs")  # fmt: skip
        return
    try:
        parsed = job_file.parse(file.read_bytes())
    except OSError as error:
        _fail(f"{file}: {error.strerror}", 2)
        return
    except job_file.JobFileError as error:
        _fail(f"{file}: {error}", 2)
        return
    with databases.sessions(_opened(database))() as session:
        typer.echo(job_transfer.keep(session, parsed, jobs.Author(who[:40], "command line")))


accounts_app = typer.Typer(help="Who may come in over a network.", no_args_is_help=True)
app.add_typer(accounts_app, name="account")
PasswordOption = Annotated[bool, typer.Option(help="read the password from standard input instead of asking")]


def _password(from_input: bool) -> str:
    if from_input:
        return sys.stdin.readline().rstrip("\n")
    return str(typer.prompt("Password", hide_input=True, confirmation_prompt=True))


@contextlib.contextmanager
def _accounts_of(database: Path) -> "Iterator[Session]":
    """A session in which accounts are changed; what cannot be is said in one line."""
    from clavis.store import database as databases
    from clavis.store import jobs

    with databases.sessions(_opened(database))() as session:
        try:
            yield session
        except (jobs.RefusedError, jobs.NotThereError) as error:
            _fail(str(error))


@accounts_app.command("add")
def account_add(
    name: str,
    role: Annotated[str, typer.Option(help="apprentice, mechanic or owner")] = "mechanic",
    password_stdin: PasswordOption = False,
    database: DatabaseOption = DEFAULT_DATABASE,
) -> None:
    """Let somebody in. The first one is an owner's."""
    from clavis.store import accounts

    if role not in set(accounts.Role):
        _fail(f"no such role; there are: {', '.join(accounts.Role)}", 2)
    with _accounts_of(database) as session:
        made = accounts.add(session, name, _password(password_stdin), accounts.Role(role), "command line")
    typer.echo(f"{made.name}, {made.role.value}: {accounts.MAY[made.role]}")


@accounts_app.command("list")
def account_list(database: DatabaseOption = DEFAULT_DATABASE) -> None:
    """Everybody who may come in, and who may no more."""
    from clavis.store import accounts

    with _accounts_of(database) as session:
        for account in accounts.every(session):
            typer.echo(f"{account.name}, {account.role.value}{'' if account.active else ', switched off'}")


@accounts_app.command("password")
def account_password(
    name: str, password_stdin: PasswordOption = False, database: DatabaseOption = DEFAULT_DATABASE
) -> None:
    """Another password; whoever is signed in with the account signs in again."""
    from clavis.store import accounts

    with _accounts_of(database) as session:
        account = accounts.find(session, name)
        accounts.change(session, account.id, "command line", password=_password(password_stdin))
    typer.echo(f"{account.name} has another password")


@accounts_app.command("off")
def account_off(name: str, database: DatabaseOption = DEFAULT_DATABASE) -> None:
    """Let an account in no more; its name stays on what it did."""
    from clavis.store import accounts

    with _accounts_of(database) as session:
        account = accounts.find(session, name)
        accounts.change(session, account.id, "command line", active=False)
    typer.echo(f"{account.name} is switched off")


@app.command()
def backup(
    target: Annotated[Path, typer.Argument(help="file to write")], database: DatabaseOption = DEFAULT_DATABASE
) -> None:
    """Copy the database whole while it is in use."""
    from clavis.store import looking_after

    try:
        looking_after.copy(database, target)
    except looking_after.BackupError as error:
        _fail(str(error))
    typer.echo(f"copied to {target}")


@app.command()
def restore(
    backup: Annotated[Path, typer.Argument(help="a copy, made by backup or by the day")],
    database: DatabaseOption = DEFAULT_DATABASE,
) -> None:
    """Bring a copy back in the place of the database, also while that is in use; what was there is kept beside it."""
    from clavis.store import jobs, looking_after

    try:
        before = looking_after.restore(backup, database, jobs.now())
    except looking_after.BackupError as error:
        _fail(str(error))
        return
    typer.echo(f"{database} is {backup} again" + (f"; what was there is {before}" if before else ""))


@app.command()
def check(
    database: DatabaseOption = DEFAULT_DATABASE,
    backups: Annotated[Path | None, typer.Option(envvar="CLAVIS_BACKUPS", help="folder of the daily copies")] = None,
) -> None:
    """Look whether all is well: the file, its references, every document, and the clock. Ends with code 1 where
    something is not."""
    from datetime import date

    from clavis.store import looking_after

    try:
        found = looking_after.check(database)
    except looking_after.BackupError as error:
        _fail(str(error))
        return
    if wrong := looking_after.clock_trouble(backups or database.parent / "backups", date.today()):
        found.append(looking_after.Trouble("clock", wrong))
    for trouble in found:
        typer.echo(f"{trouble.where}: {trouble.what}")
    if found:
        raise typer.Exit(1)
    typer.echo(f"{database}: all is well")


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
