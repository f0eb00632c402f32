"""The first look round, in six steps: what each page is for, said on the page itself. Begun by a press, skipped by
another."""

import re
from dataclasses import dataclass


@dataclass(frozen=True)
class TourStep:
    """One step: the page it stands on (empty: the jobs; else a station) and what it says there."""

    room: str
    title: str
    words: str


TOUR: tuple[TourStep, ...] = (
    TourStep(
        "", "Jobs",
        "Every job of the workshop, with what it waits for. Name one to begin it, or open one that is here.",
    ),
    TourStep(
        "intake", "Intake",
        "Who rides what, carrying what, and what is wrong with it. The rider’s mass and the kind of bike are "
        "enough to begin; the rest has usual values until you know better.",
    ),
    TourStep(
        "measure", "Measure",
        "A walk round the bike, front at the left, rear at the right. What matters comes first, the rest is "
        "folded. What was not read stays unknown: nothing is assumed.",
    ),
    TourStep(
        "choose", "Choose",
        "The answer stands at the top, with price and reason. Below it the brake, link by link: force goes "
        "down, heat comes up. Keys + and − step a rotor, any figure opens its working.",
    ),
    TourStep(
        "build", "Build",
        "What is proposed becomes an order: parts, steps, torques, cautions. What bars it stands first. Print "
        "it, or take it to the stand.",
    ),
    TourStep(
        "keep", "Keep",
        "The bike’s book outlives the job: parts, readings, wear, what is due. The guide has a chapter for "
        "every page: press h.",
    ),
)  # fmt: skip


@dataclass(frozen=True)
class TourShown:
    """The step that is on: its number, whether this is its page, and the job in which the tour goes on (0: none)."""

    number: int
    step: TourStep
    here: bool
    job: int

    @property
    def last(self) -> bool:
        return self.number == len(TOUR)

    @property
    def following(self) -> int:
        return self.number + 1


def job_in(address: str) -> int:
    """The job of a page; 0 for a page of none."""
    found = re.match(r"/jobs/(\d{1,9})\b", address)
    return int(found[1]) if found else 0


def address_of_step(number: int, job: int) -> str:
    """Where a step stands.

    >>> address_of_step(1, 7), address_of_step(4, 7), address_of_step(4, 0)
    ('/', '/jobs/7/choose', '/')
    """
    room = TOUR[number - 1].room
    return f"/jobs/{job}/{room}" if room and job else "/"


def tour_of(number: int, address: str) -> TourShown | None:
    """The step that is on, as it is told on a page; None where no tour is on."""
    if not 1 <= number <= len(TOUR):
        return None
    step, path = TOUR[number - 1], address.partition("?")[0]
    room = re.match(r"^/jobs/\d+/([a-z]+)", path)
    here = path == "/" if not step.room else room is not None and room[1] == step.room
    return TourShown(number, step, here, job_in(path))
