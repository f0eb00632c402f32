"""The answer, and the views of the candidates: by school, why others are refused, what trades against what, the
ladder, where the pick flips, and how the wheels pair. Each loads itself into its page."""

from itertools import pairwise
from typing import Annotated

from fastapi import Form, HTTPException, Query, Request
from starlette.responses import Response

from clavis.core.evaluation.evaluate import wheel_result
from clavis.core.evaluation.sampling import Certainty, Drawn, certainty, draws_of
from clavis.core.evaluation.wheel_cases import wheel_case
from clavis.core.job.document import Proposal, School
from clavis.core.parts.compounds import COMPOUNDS
from clavis.core.parts.models import Axis
from clavis.core.parts.mounts import End
from clavis.core.selection.candidates import Choice
from clavis.core.selection.pairing import Pairing, pairs_of
from clavis.core.selection.recommendation import Advice, Recommendation, recommended
from clavis.core.selection.schools import SCHOOLS, WISHES, reason_of, row_of_school
from clavis.core.selection.sensitivity import Turn, flips_of
from clavis.core.selection.shortfall import Shortfall, shortfall_of
from clavis.core.selection.tradeoffs import MEASURES, Measure, tradeoff_of
from clavis.core.selection.upgrade_ladder import Ladder, ladder_of
from clavis.core.selection.usual_sizes import departure
from clavis.core.wording.labels import RENEWAL_ACTS
from clavis.web.shell import routes
from clavis.web.shell.bench import Bench
from clavis.web.shell.choices import asked_of, choice_of, pick_or_422
from clavis.web.shell.plots import scatter_of
from clavis.web.shell.readers import ReaderDep
from clavis.web.shell.rooms import Room
from clavis.web.shell.routes import APPRENTICE, LONG
from clavis.web.shell.templates import render
from clavis.web.shell.visit import ChangeDep, VisitDep

router = routes.router()
RUNNERS_UP = 2
NEEDS = "Candidates need a rider, a bike and a ride first."


def choice_or_422(b: Bench, end: End) -> Choice:
    choice = choice_of(b, end)
    if choice is None:
        raise HTTPException(422, NEEDS)
    return choice


@router.get("/jobs/{job_id}/progress/{what}/{end}", dependencies=APPRENTICE)
def progress(request: Request, reading: ReaderDep, job_id: int, what: str, end: End) -> Response:
    """How far long work has come; asked for while its answer is awaited, so it opens no job."""
    done, total = request.app.state.answers.how_far(job_id, what, end)
    return render(request, reading, "choose/progress.html", done=done, total=total)


def answers_of_schools(b: Bench) -> tuple[Recommendation, ...]:
    """Every school's answer for both wheels, the job's own first; none where a wheel takes no brake at all."""
    front, rear = choice_or_422(b, End.FRONT), choice_or_422(b, End.REAR)
    wishes, load = b.job.wishes, b.evaluation.proposed.load if b.evaluation.proposed else None

    def answer() -> tuple[Recommendation, ...]:
        ordered = sorted(SCHOOLS, key=lambda row: row.school is not wishes.school)
        content = not b.job.complaints
        found = (recommended(front, rear, row.school, wishes.budget_price, content=content) for row in ordered)
        return tuple(r for r in found if r is not None)

    return b.answer(("answer", *asked_of(b, load)), answer) if load else answer()


@router.get("/jobs/{job_id}/answer", dependencies=(*APPRENTICE, LONG))
def answer(v: VisitDep) -> Response:
    """The answer to the job, first on its page: what to take and why, and what the other priorities would."""
    b = v.bench
    found = answers_of_schools(b)
    told = [(r, r.proposal(b.job.proposal.bedded) == _without_adapters(b.job.proposal)) for r in found]
    wished = [row.words for row in WISHES if row.wish in b.job.wishes.wants]
    return v.piece(
        "choose/answer.html", told=told, advice=Advice, compounds=COMPOUNDS, acts=RENEWAL_ACTS, wished=wished
    )


def _without_adapters(proposal: Proposal) -> Proposal:
    picks = {end: proposal.of(end).model_copy(update={"adapter_id": None}) for end in End}
    return Proposal(front=picks[End.FRONT], rear=picks[End.REAR], bedded=proposal.bedded)


@router.post("/jobs/{job_id}/answer", dependencies=APPRENTICE)
def propose_answer(
    c: ChangeDep, school: Annotated[School, Form()], better: Annotated[bool, Form()] = False
) -> Response:
    """Propose what one school answers; or what would do more than the brake that it keeps."""
    b = c.bench
    found = next((r for r in answers_of_schools(b) if r.row.school is school), None)
    found = found.better if found is not None and better else found
    if found is None:
        raise HTTPException(422, "No two candidates go on these wheels.")
    proposal = found.proposal(b.job.proposal.bedded)
    return c.answered(c.keep("proposal", proposal.model_dump(mode="json")), Room.CHOOSE)


@router.get("/jobs/{job_id}/candidates/{end}", dependencies=(*APPRENTICE, LONG))
def candidates(v: VisitDep, end: End, within: bool = False) -> Response:
    """The ranked candidates of one wheel and what is refused, loaded after the sheet."""
    job, everything = v.bench.job, choice_or_422(v.bench, end)
    budget = job.wishes.budget_price
    fits = everything.within(budget) if budget is not None else everything
    choice = fits if within else everything
    own = row_of_school(job.wishes.school)
    schools = sorted(SCHOOLS, key=lambda row: row is not own)  # the job's own school first, with its runners-up
    ranked = []
    for row in schools:
        best = choice.ranked(row.school, RUNNERS_UP + 2, apart=True)
        told = [(c, reason_of(row, c, after)) for c, after in pairwise((*best, None)) if c is not None]
        ranked.append((row, told[: RUNNERS_UP + 1 if row is own else 1]))
    on_it = v.bench.evaluation.place_for(end).wheel.on_it
    return v.piece(
        "choose/candidates.html",
        end=end,
        choice=everything,
        within=within,
        budget=budget,
        affordable=len(fits.candidates),
        ranked=ranked,
        own=own,
        acts=RENEWAL_ACTS,
        untold=choice.untold(own.school),
        wished=[row.words for row in WISHES if row.wish in job.wishes.wants],
        keeps=[(axis, axis in job.keeps.of(end)) for axis in Axis if on_it.of(axis) is not None],
        unusual=departure(job, end, lean[0]) if (lean := choice.ranked(School.LEAN, 1)) else "",
    )


@router.get("/jobs/{job_id}/refused/{end}", dependencies=(*APPRENTICE, LONG))
def refused(v: VisitDep, end: End) -> Response:
    """What cannot be fitted on one wheel, by the check that refuses it."""
    choice = choice_or_422(v.bench, end)
    return v.piece("choose/refused.html", end=end, choice=choice, refused=[r for r in choice.sieve.refusals if r.count])


@router.get("/jobs/{job_id}/candidates/{end}/sure", dependencies=(*APPRENTICE, LONG))
def candidate_sure(
    v: VisitDep, end: End, rotor_id: str, caliper_id: str, lever_id: str, pad_id: str, renew: str = ""
) -> Response:
    """In how many of ten cases one candidate holds; asked for when it comes into view."""
    b = v.bench
    situation, proposed = b.evaluation.situation, b.evaluation.proposed
    pick = pick_or_422(renew, rotor_id=rotor_id, caliper_id=caliper_id, lever_id=lever_id, pad_id=pad_id)
    if situation is None or proposed is None or proposed.load is None or proposed.demand is None:
        raise HTTPException(422, NEEDS)
    case = wheel_case(b.evaluation.place_for(end), pick, bedded=b.job.proposal.bedded)
    if case.setup is None or not case.rideable:
        raise HTTPException(404, "This candidate cannot be judged.")
    setup, load, demand = case.setup, proposed.load, proposed.demand.alone

    def draw() -> Certainty:
        b.answers.courtesy.pause()()
        wheel = wheel_result(setup, situation, demand, load, case.points)
        draws = draws_of(situation.parameters, b.job.seed, own=False, narrowed=situation.narrowed)
        return certainty(wheel, Drawn(b.job, situation, load, demand, draws))

    found = b.answer(("candidate", *asked_of(b, load), end, pick), draw)
    return v.piece("choose/sure.html", part="chance", sure=found, bands=(), margins="")


@router.get("/jobs/{job_id}/ladder/{end}", dependencies=(*APPRENTICE, LONG))
def ladder(v: VisitDep, end: End) -> Response:
    """What each rung gains this wheel per money; and where nothing holds, what would. Loaded after the candidates."""
    b = v.bench
    situation, proposed, choice = b.evaluation.situation, b.evaluation.proposed, choice_of(b, end)
    if situation is None or proposed is None or proposed.load is None or choice is None:
        raise HTTPException(422, "The ladder needs a rider, a bike and a ride first.")
    load = proposed.load

    def climb() -> tuple[Ladder, Shortfall | None]:
        return (
            ladder_of(b.job, end, b.evaluation, choice, b.tracks),
            shortfall_of(b.job, situation, load, choice, b.tracks, b.answers.courtesy.pause()),
        )

    found, short = b.answer(("ladder", *asked_of(b, load), end), climb)
    return v.piece("choose/ladder.html", end=end, ladder=found, short=short)


@router.post("/jobs/{job_id}/keeps/{end}/{axis}", dependencies=APPRENTICE)
def keep_part(c: ChangeDep, end: End, axis: Axis) -> Response:
    """A part that is on the wheel shall stay, or need not; the candidates follow."""
    had = c.bench.job.keeps.of(end)
    kept = [a.value for a in Axis if (a in had) != (a is axis)]
    return c.answered(c.keep_newest(f"keeps.{end.value}", kept), Room.CHOOSE)


@router.get("/jobs/{job_id}/tradeoff/{end}", dependencies=(*APPRENTICE, LONG))
def tradeoff(
    v: VisitDep,
    end: End,
    x: Annotated[Measure, Query()] = Measure.MASS,
    y: Annotated[Measure, Query()] = Measure.MARGIN,
) -> Response:
    """Candidates by two of their figures, and those that nothing beats in both."""
    choice = choice_or_422(v.bench, end)
    found = tradeoff_of(choice.candidates, x, y)
    firsts = [(row.title, choice.ranked(row.school, 1)) for row in SCHOOLS]
    picture = scatter_of(found, [(title, best[0]) for title, best in firsts if best], v.system)
    return v.piece(
        "choose/tradeoff.html", end=end, found=found, picture=picture, figures=tuple(MEASURES.values()), x=x, y=y
    )


@router.get("/jobs/{job_id}/flips/{end}", dependencies=(*APPRENTICE, LONG))
def flips(v: VisitDep, end: End, begun: bool = False) -> Response:
    """At which mass, slope or rain the school's pick flips. The first answer shows how far the second has come."""
    b = v.bench
    if not begun:
        return v.piece("choose/sensitivity.html", end=end, found=None, begun=False)
    situation, proposed = b.evaluation.situation, b.evaluation.proposed
    if situation is None or proposed is None or proposed.load is None:
        raise HTTPException(422, NEEDS)
    setups = {wheel: w.setup for wheel, w in proposed.wheels.items()}
    report = b.answers.progress(b.opened.id, "flips", end)
    school, elsewhere, mounting = b.job.wishes.school, situation.elsewhere, b.evaluation.place_for(end)
    found = b.answer(
        ("flips", *asked_of(b, proposed.load), end),
        lambda: flips_of(b.job, mounting, school, setups, elsewhere, b.tracks, report),
    )
    now = (found.now[Turn.MASS], found.now[Turn.SLOPE]) if found else None
    return v.piece("choose/sensitivity.html", end=end, found=found, begun=True, now=now)


@router.get("/jobs/{job_id}/pairing", dependencies=(*APPRENTICE, LONG))
def pairing(v: VisitDep) -> Response:
    """The best pair of each way to pair the wheels."""
    school = v.bench.job.wishes.school
    pairs = pairs_of(choice_or_422(v.bench, End.FRONT), choice_or_422(v.bench, End.REAR), school)
    return v.piece("choose/pairing.html", pairs=pairs, school=row_of_school(school))


@router.post("/jobs/{job_id}/pairing", dependencies=APPRENTICE)
def propose_pair(c: ChangeDep, named: Annotated[Pairing, Form()]) -> Response:
    """Propose both wheels of one pair."""
    b = c.bench
    pairs = pairs_of(choice_or_422(b, End.FRONT), choice_or_422(b, End.REAR), b.job.wishes.school)
    pair = next(p for p in pairs if p.pairing is named)
    if pair.front is None or pair.rear is None:
        raise HTTPException(422, "No two candidates pair so.")
    proposal = Proposal(front=pair.front.ids, rear=pair.rear.ids, bedded=b.job.proposal.bedded)
    return c.answered(c.keep("proposal", proposal.model_dump(mode="json")), Room.CHOOSE)
