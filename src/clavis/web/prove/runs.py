"""The runs of a trial: recorded one by one at the keyboard, on the phone or from an instrument; left out and taken
back; and the sheet they are ridden by."""

from dataclasses import dataclass
from functools import partial
from typing import Annotated, Any

from fastapi import Form, HTTPException
from starlette.responses import HTMLResponse, Response

from clavis.core import entries, units
from clavis.core.errors import QuantityError
from clavis.core.job.document import SHORTEST_REASON
from clavis.core.job.trials import MOST_RUNS, RunFrom, Side, Trial, TrialRun
from clavis.core.physics.infrared import SURFACES
from clavis.core.proving.plan import TrialPlan
from clavis.core.proving.questions import KINDS, QUESTIONS
from clavis.core.proving.results import TrialResult, next_place, order_of
from clavis.core.records import next_id
from clavis.core.sentences import Words, joined, say
from clavis.core.wording.labels import field_word
from clavis.core.wording.trial_sheet import trial_paper
from clavis.core.workshop.labour import PaperSize
from clavis.formats.paper_pdf import paper_pdf
from clavis.store import workshop
from clavis.web.prove.instruments import Connected, connected
from clavis.web.prove.kept import left_out_for, plan_kept, trial_named
from clavis.web.shell import routes
from clavis.web.shell.bench import Bench
from clavis.web.shell.form_fields import FieldSpec
from clavis.web.shell.readers import FormDep
from clavis.web.shell.rooms import Room
from clavis.web.shell.routes import APPRENTICE
from clavis.web.shell.templates import text_of
from clavis.web.shell.visit import Change, ChangeDep, VisitDep

router = routes.router()


@dataclass(frozen=True)
class RunEntry:
    """One entry of the form for a run: what is typed, in which unit, and what stood there."""

    name: str
    label: str
    unit: str
    text: str = ""
    error: str = ""


def entries_of(trial: Trial, system: units.System) -> tuple[RunEntry, ...]:
    """What is written down of a run of this trial."""
    measured = QUESTIONS[trial.question].measured
    names = [measured]
    if measured == "spots_c":
        names.append("after_s")
    names += [name for name in KINDS[trial.kind].beside if name not in names]
    out = [_entry(name, system) for name in names]
    marks = [RunEntry(f"mark_{k}", f"at {name}", units.sign("s", system)) for k, name in enumerate(trial.marks)]
    return (*marks, *out) if measured == "time_s" else tuple(out)


def _spec(name: str) -> FieldSpec:
    return FieldSpec.of(name, TrialRun.model_fields[name])


def _entry(name: str, system: units.System) -> RunEntry:
    return RunEntry(name, field_word(f"run.{name}"), _spec(name).unit(system))


def shown(b: Bench, plan: TrialPlan, result: TrialResult) -> dict[str, Any]:
    """What the view of the runs needs."""
    return {
        "entries": entries_of(plan.trial, b.reading.system),
        "instruments": instruments_of(b, plan.trial),
        "next_run": plan.next_run,
        "on": "",
        "side": "",
        "wet": False,
        "left_out": "",
        "shortest": SHORTEST_REASON,
        "figure_of": {p.run.id: p for p in result.points},
        "ridden": {run.place for run in plan.trial.counted},
        "written": partial(written, plan.trial),
    }


def written(trial: Trial, run: TrialRun) -> tuple[Words, ...]:
    """What was written down with a run beside its figure; of a thermometer's the raw readings with what they were read
    on, which are no temperatures of the rotor."""
    out: list[Words] = []
    if run.spots_c:
        shown = joined([say("{spot_c:.0}", spot_c=c) for c in run.spots_c], ", ")
        out.append(say("showed {shown} on {surface}", shown=shown, surface=SURFACES[trial.read_on].words))
    told = (("at {speed_kmh:.1}", "speed_kmh"), ("{after_s:.0} after the stop", "after_s"), ("air {air_c:.0}", "air_c"),
            ("{tyre_bar:.1}", "tyre_bar"), ("began at {start_c:.0}", "start_c"))  # fmt: skip
    out += [say(words, **{name: getattr(run, name)}) for words, name in told if getattr(run, name) is not None]
    marks = zip(trial.marks, run.mark_s, strict=False)
    out += [say("{mark} {time_s:.1}", mark=name, time_s=s) for name, s in marks if s is not None]
    if run.wet:
        out.append("wet")
    if run.source is not RunFrom.KEYBOARD:
        out.append(say("by {source}", source=run.source.value))
    return tuple(out)


def instruments_of(b: Bench, trial: Trial) -> tuple[Connected, ...]:
    """What can send the figure of a run."""
    return connected(b.instruments, [QUESTIONS[trial.question].measured])


@dataclass(frozen=True)
class _Typed:
    """What was typed of a run: its kept values, and what could not be read, by entry."""

    values: dict[str, Any]
    refused: dict[str, str]


def _read(c: Change, trial: Trial, typed: dict[str, str]) -> _Typed:
    """Every entry of the form, each refused by itself so that nothing typed is lost."""
    values: dict[str, Any] = {}
    refused: dict[str, str] = {}
    for entry in entries_of(trial, c.system):
        text = typed.get(entry.name, "").strip()
        try:
            if entry.name.startswith("mark_"):
                values[entry.name] = (
                    entries.parse(text, "s", c.system, entry.label, low=0.1, high=36_000) if text else None
                )
            else:
                values[entry.name] = _spec(entry.name).read(text, c.system, entry.label)
        except QuantityError as error:
            refused[entry.name] = c.reading.told(error.said)
    return _Typed(values, refused)


def _made(c: Change, trial: Trial, place: int, typed: dict[str, str], read: _Typed) -> dict[str, Any]:
    """A run as it is kept."""
    values = dict(read.values)
    marks = [values.pop(name) for name in list(values) if name.startswith("mark_")]
    source = typed.get("source", RunFrom.KEYBOARD.value)
    return c.author.tick().model_dump() | {
        "id": next_id("r", (run.id for run in trial.runs)), "place": place,
        "side": typed["side"] if typed.get("side") in {s.value for s in Side} else order_of(trial)[place],
        "mark_s": marks, "wet": typed.get("wet") == "on", "source": source,
        "left_out": typed.get("left_out", "").strip(),
        **{name: value for name, value in values.items() if value is not None},
    }  # fmt: skip


@router.post("/jobs/{job_id}/trials/{trial_id}/runs", dependencies=APPRENTICE)
def record(c: ChangeDep, trial_id: str, form: FormDep) -> Response:
    """Keep a run in its place. What cannot be read comes back as typed, with the reason beside it."""
    trial = trial_named(c.bench, trial_id)
    typed = {name: str(value) for name, value in form.items()}
    place = entries.place_in(typed.get("place", ""), len(order_of(trial)))
    if place is None:
        raise HTTPException(409, "The order has no such place any more. Reload to see it.")
    if any(run.place == place for run in trial.counted):
        raise HTTPException(409, "This run is recorded already: reload to see it. Nothing was overwritten.")
    if len(trial.runs) >= MOST_RUNS:
        raise HTTPException(422, f"A trial keeps {MOST_RUNS} runs.")
    read = _read(c, trial, typed)
    kept = _made(c, trial, place, typed, read)
    if not read.refused and not kept["left_out"] and not _has_figure(trial, kept):
        measured = QUESTIONS[trial.question].measured
        read.refused[measured] = "needed, unless the run is left out"
    if read.refused:
        return HTMLResponse(_form(c, c.bench, trial, place, typed, read), 422)
    now = c.or_refused(lambda: c.keep_newest(f"trials.{trial_id}.runs.{kept['id']}", kept))
    if typed.get("on") == "phone":
        return c.gone_to(f"trials/{trial_id}/ride")
    after = trial_named(now, trial_id)
    return HTMLResponse(_form(c, now, after, next_place(after), {}, _Typed({}, {})) + c.followed(now, Room.PROVE))


def _has_figure(trial: Trial, kept: dict[str, Any]) -> bool:
    value = kept.get(QUESTIONS[trial.question].measured)
    return bool(value) or any(s is not None for s in kept["mark_s"])


def _form(c: Change, b: Bench, trial: Trial, place: int | None, typed: dict[str, str], read: _Typed) -> str:
    """The form with what was typed and why it was not kept; empty for the next run."""
    again = [
        RunEntry(e.name, e.label, e.unit, typed.get(e.name, ""), read.refused.get(e.name, ""))
        for e in entries_of(trial, c.system)
    ]
    next_run = None if place is None else plan_kept(b, trial).runs[place]
    form = c.piece(
        "prove/run_form.html", b=b, trial=trial, next_run=next_run, entries=again, on=typed.get("on", ""),
        instruments=instruments_of(b, trial),
        side=typed.get("side", ""), wet=typed.get("wet") == "on", left_out=typed.get("left_out", ""),
    )  # fmt: skip
    return text_of(form)


@router.post("/jobs/{job_id}/trials/{trial_id}/runs/{run_id}/out", dependencies=APPRENTICE)
def leave_out(c: ChangeDep, trial_id: str, run_id: str, reason: Annotated[str, Form(max_length=200)] = "") -> Response:
    """A run is not counted, for a reason; without one it counts again. It is never deleted."""
    run = next((r for r in trial_named(c.bench, trial_id).runs if r.id == run_id), None)
    if run is None:
        raise HTTPException(404, "There is no such run any more. Reload to see it.")
    trial = trial_named(c.bench, trial_id)
    kept = left_out_for(reason)
    if not kept and any(r.place == run.place and r.id != run.id for r in trial.counted):
        raise HTTPException(409, "Its place was ridden again: leave that run out first.")
    path = f"trials.{trial_id}.runs.{run_id}.left_out"
    return c.answered(c.or_refused(lambda: c.keep_newest(path, kept)), Room.PROVE)


@router.get("/jobs/{job_id}/trials/{trial_id}/runs/{run_id}/correct", dependencies=APPRENTICE)
def correct(v: VisitDep, trial_id: str, run_id: str) -> Response:
    """What was written of a run, to be put right: each field saves itself, and stands in the history as it was."""
    trial = trial_named(v.bench, trial_id)
    if all(run.id != run_id for run in trial.runs):
        raise HTTPException(404, "There is no such run any more. Reload to see it.")
    names = [e.name for e in entries_of(trial, v.system) if not e.name.startswith("mark_")]
    return v.piece(
        "prove/run_correct.html", fields=[v.bench.field(f"trials.{trial_id}.runs.{run_id}.{n}") for n in names]
    )


@router.get("/jobs/{job_id}/trials/{trial_id}/sheet.pdf", dependencies=APPRENTICE)
def sheet_pdf(v: VisitDep, trial_id: str, size: PaperSize | None = None) -> Response:
    """The run sheet for the printer."""
    terms = workshop.terms(v.session)
    paper = trial_paper(v.job_id, v.bench.job, plan_kept(v.bench, trial_named(v.bench, trial_id)))
    body = paper_pdf(paper, size or terms.paper, v.system, terms.name)
    name = f'inline; filename="trial-{v.job_id}-{trial_id}.pdf"'
    return Response(body, media_type="application/pdf", headers={"Content-Disposition": name})


@router.get("/jobs/{job_id}/trials/{trial_id}/sheet", dependencies=APPRENTICE)
def sheet(v: VisitDep, trial_id: str) -> Response:
    """The run sheet as a page."""
    trial = trial_named(v.bench, trial_id)
    here = f"/jobs/{v.job_id}"
    return v.page(
        None, "shell/paper.html", paper=trial_paper(v.job_id, v.bench.job, plan_kept(v.bench, trial)),
        terms=workshop.terms(v.session), back=f"{here}/prove?trial={trial_id}&view=plan", back_words=trial.name,
        pdf=f"{here}/trials/{trial_id}/sheet.pdf",
    )  # fmt: skip


@router.get("/jobs/{job_id}/trials/{trial_id}/ride", dependencies=APPRENTICE)
def phone(v: VisitDep, trial_id: str) -> Response:
    """The run that is next, large, on a phone."""
    trial = trial_named(v.bench, trial_id)
    plan = plan_kept(v.bench, trial)
    return v.page(
        None, "prove/ride.html", trial=trial, plan=plan, next_run=plan.next_run, entries=entries_of(trial, v.system),
        instruments=instruments_of(v.bench, trial), on="phone", wet=False, left_out="", side="",
    )  # fmt: skip
