"""Twenty people at one Clavis for ten minutes: what it holds in memory, what it answers, how long who types waits, and
whether it ends when it is told to. Part of ``make bench``; ``python -m tests.soak 2`` for two minutes."""

import asyncio
import os
import random
import re
import signal
import subprocess
import sys
import tempfile
import time
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path

import httpx

from tests.generated import gpx_of

PEOPLE, MINUTES, MOST_MB, LONGEST_END_S = 20, 10.0, 500, 5
PORT = 18_431
JOBS = range(1, 9)
STATIONS = ("intake", "measure", "ride", "choose", "fit", "build", "prove", "keep")
PIECES = re.compile(r'hx-get="(/[^"]+)"[^>]*hx-trigger="load')
LONG = (
    "answer", "candidates/front", "candidates/rear", "ladder/front", "tradeoff/rear", "flips/front?begun=true",
    "refused/rear", "sure/fitted/front/chance", "trials/expected",
)  # fmt: skip
FIELDS = (
    ("rider.mass_kg", lambda dice: f"{dice.uniform(60, 95):.1f}"), ("rider.kit_mass_kg", lambda dice: f"{dice.randint(1, 9)}"),
    ("conditions.ambient_c", lambda dice: f"{dice.randint(0, 35)}"), ("title", lambda dice: f"Job {dice.randint(1, 99)}"),
)  # fmt: skip


@dataclass
class Tally:
    """What was answered, and how long each sort of asking took."""

    answers: Counter[str] = field(default_factory=Counter)
    waits_s: dict[str, list[float]] = field(default_factory=dict)
    faults: list[str] = field(default_factory=list)

    def told(self, sort: str, status: int, since: float, what: str) -> None:
        self.answers[f"{status}"] += 1
        self.waits_s.setdefault(sort, []).append(time.monotonic() - since)
        if status >= 500 and status != 503:
            self.faults.append(f"{status} {what}")


class Somebody:
    """One of the people: opens pages and what they load, types, steps parts, asks long questions and leaves early."""

    def __init__(self, number: int, client: httpx.AsyncClient, tally: Tally) -> None:
        self.dice, self.client, self.tally = random.Random(number), client, tally

    async def asked(self, sort: str, method: str, path: str, **more: object) -> str:
        since = time.monotonic()
        try:
            answer = await self.client.request(method, path, **more)  # type: ignore[arg-type]
        except (httpx.ReadError, httpx.RemoteProtocolError):
            if method != "GET":
                raise
            # a connection that was kept open is closed by either side at any time: a browser asks again as well
            answer = await self.client.request(method, path, **more)  # type: ignore[arg-type]
        self.tally.told(sort, answer.status_code, since, f"{method} {path}")
        return answer.text

    async def pages(self, job: int) -> None:
        page = await self.asked("page", "GET", f"/jobs/{job}/{self.dice.choice(STATIONS)}")
        pieces = [piece.replace("&amp;", "&") for piece in PIECES.findall(page)]
        await asyncio.gather(*(self.asked("piece", "GET", piece) for piece in pieces))

    async def lists(self, job: int) -> None:
        for path in ("/", f"/?search={self.dice.choice('abst')}", "/due", "/parts", "/bikes", "/rides"):
            await self.asked("page", "GET", path)

    async def types(self, job: int) -> None:
        for _ in range(3):
            path, value = self.dice.choice(FIELDS)
            data = {"path": path, "value": value(self.dice), "room": "intake", "page": "soak"}
            await self.asked("typed", "POST", f"/jobs/{job}/field", data=data)

    async def steps(self, job: int) -> None:
        for by in (1, -1):
            data = {"end": "front", "kind": "rotor", "by": by, "base": 99_999, "page": "soak"}
            await self.asked("step", "POST", f"/jobs/{job}/step", data=data)

    async def long_questions(self, job: int) -> None:
        await asyncio.gather(*(self.asked("long", "GET", f"/jobs/{job}/{path}") for path in self.dice.sample(LONG, 4)))

    async def leaves_early(self, job: int) -> None:
        try:
            await asyncio.wait_for(self.long_questions(job), 0.7)
        except TimeoutError:
            self.tally.answers["left"] += 1

    async def brings_files(self, job: int) -> None:
        points = self.dice.randint(600, 7200)
        files = {"file": (f"way{points}.gpx", gpx_of(points, points))}
        await self.asked("file", "POST", f"/jobs/{job}/rides/file", files=files, data={"page": "soak"})
        await self.asked("file", "GET", f"/jobs/{job}/export")

    async def prints(self, job: int) -> None:
        for path in ("papers/order", "papers/order.pdf"):
            await self.asked("paper", "GET", f"/jobs/{job}/{path}")

    async def works(self, until: float) -> None:
        usual = (self.pages, self.pages, self.types, self.steps, self.long_questions, self.leaves_early)
        while time.monotonic() < until:
            act = self.dice.choice((*usual, *usual, self.lists, self.prints, self.brings_files))
            try:
                await act(self.dice.choice(JOBS))
            except httpx.HTTPError as error:
                self.tally.faults.append(f"{type(error).__name__} in {act.__name__}")
            await asyncio.sleep(self.dice.uniform(0.1, 2))


def held_mb(pid: int, what: str) -> int:
    """``VmRSS`` now, ``VmHWM`` at most, of a running program."""
    line = next(row for row in Path(f"/proc/{pid}/status").read_text().splitlines() if row.startswith(what))
    return int(line.split()[1]) // 1024


async def crowd(pid: int, minutes: float) -> Tally:
    tally, until = Tally(), time.monotonic() + 60 * minutes
    headers = {"origin": f"http://127.0.0.1:{PORT}", "cookie": "clavis_who=Tess"}
    limits = httpx.Limits(max_connections=400)
    address = f"http://127.0.0.1:{PORT}"
    async with httpx.AsyncClient(base_url=address, headers=headers, timeout=120, limits=limits) as client:
        people = [asyncio.create_task(Somebody(k, client, tally).works(until)) for k in range(PEOPLE)]
        while time.monotonic() < until:
            await asyncio.sleep(min(60, max(until - time.monotonic(), 0.1)))
            sys.stdout.write(f"{sum(tally.answers.values()):6} answers, {held_mb(pid, 'VmRSS')} MB\n")
            sys.stdout.flush()
        for person in people:  # they go home, whatever they still wait for
            person.cancel()
        await asyncio.gather(*people, return_exceptions=True)
    return tally


def main(minutes: float) -> int:
    """0 where memory stayed below what is allowed, nothing was answered by a fault, and the program ended when told."""
    with tempfile.TemporaryDirectory() as folder:
        command = [sys.executable, "-m", "clavis.cli", "demo", "--database", f"{folder}/soak.db", "--port", f"{PORT}"]
        program = subprocess.Popen(command, env={**os.environ, "CLAVIS_INSTRUMENTS": "{}"}, stdout=subprocess.DEVNULL)
        try:
            for _ in range(300):
                try:
                    httpx.get(f"http://127.0.0.1:{PORT}/keys")
                    break
                except httpx.HTTPError:
                    time.sleep(0.1)
            tally = asyncio.run(crowd(program.pid, minutes))
            most = held_mb(program.pid, "VmHWM")
        finally:
            since = time.monotonic()
            program.send_signal(signal.SIGTERM)
            program.wait(60)
            ended_s = time.monotonic() - since
    for sort, waits in sorted(tally.waits_s.items()):
        waits.sort()
        middle, late = waits[len(waits) // 2], waits[int(len(waits) * 0.95)]
        sys.stdout.write(f"{sort:6} {len(waits):6}: median {middle:.2f}, 95 % {late:.2f}, most {waits[-1]:.2f} s\n")
    sys.stdout.write(f"answers {dict(tally.answers)}; at most {most} MB; ended {ended_s:.1f} s after it was told to\n")
    for fault in tally.faults[:20]:
        sys.stdout.write(f"   {fault}\n")
    return int(most >= MOST_MB or bool(tally.faults) or ended_s > LONGEST_END_S)


if __name__ == "__main__":
    sys.exit(main(float(sys.argv[1]) if len(sys.argv) > 1 else MINUTES))
