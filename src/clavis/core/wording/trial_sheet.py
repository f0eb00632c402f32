"""The run sheet of a trial on paper: what is asked, what is done before, every run with its lines to write on."""

from clavis.core.job.document import Job
from clavis.core.job.trials import Side
from clavis.core.proving.confounders import Disturbance
from clavis.core.proving.plan import PlannedRun, TrialPlan
from clavis.core.proving.prediction import told_difference
from clavis.core.sentences import Words, joined, say
from clavis.core.wording.papers import Block, Caution, Heading, Paper, Paragraph, Rows, paper_about

_FIGURE: dict[str, str] = {
    "distance_m": "stopped after", "spots_c": "spots, as shown", "cool_s": "took", "finger_n": "force at the lever",
    "time_s": "time",
}  # fmt: skip
LINE = "…………"


def _expected(plan: TrialPlan) -> Words:
    e = plan.expected
    if plan.prediction.problem:
        return say("The model cannot say what to expect: {why}.", why=plan.prediction.problem)
    if e.why_alike:
        return say("{why:cap}.", why=e.why_alike)
    if e.difference is None:
        return "The model has no figure for the difference."
    return say("The model expects: {what}.", what=told_difference(plan.row, e.difference))


def _before(plan: TrialPlan) -> list[Block]:
    out: list[Block] = []
    for side, bed in plan.bed_in:
        words = "{side}, {end}: bed in with {stops} stops from {from_kmh:.0}, {pause_s:.0} apart, before the first run."
        out.append(
            Paragraph(
                say(words, side=side.value, end=bed.end, stops=bed.stops, from_kmh=bed.from_kmh, pause_s=bed.pause_s)
            )
        )
    out.append(Paragraph(say("Warm-up: {warm_up}.", warm_up=plan.warm_up)))
    out.append(Paragraph(plan.how))
    return out


def _rest(run: PlannedRun) -> Words:
    if run.pause_min is None:
        return "over an hour"
    return say("{rest_min:.0}", rest_min=run.pause_min) if run.pause_min else "–"


def _runs(plan: TrialPlan) -> Rows:
    head: tuple[Words, ...] = (
        "run",
        "block",
        "setup",
        "rest before",
        _FIGURE[plan.row.measured],
        "speed, air, tyre",
        "disturbed by",
    )
    rows: list[tuple[Words, ...]] = []
    for run in plan.runs:
        setup = say("{side}{change}", side=run.side.value, change=": change" if run.change else "")
        rows.append((str(run.number), str(run.block), setup, _rest(run), LINE, LINE, LINE))
    return Rows(head, tuple(rows), (7, 7, 16, 14, 20, 20, 16), frozenset({0, 1}))


def trial_paper(job_id: int, job: Job, plan: TrialPlan) -> Paper:
    """The sheet as it is taken to the road."""
    trial = plan.trial
    blocks: list[Block] = [Paragraph(plan.row.words, strong=True)]
    blocks += [Paragraph(say("{side}: {name}", side=side.value, name=trial.of(side).name)) for side in Side]
    blocks.append(Paragraph(_expected(plan)))
    words = "{runs} runs in {blocks} blocks of four, order drawn by lot with seed {seed}."
    blocks.append(Paragraph(say(words, runs=len(plan.runs), blocks=trial.blocks, seed=trial.seed)))
    blocks.append(Caution(plan.kind.caution))
    blocks += [
        Heading("Before"),
        *_before(plan),
        Heading("Runs"),
        _runs(plan),
        Heading("What else could make the difference"),
    ]
    for state in plan.confounders:
        if state.presence is not Disturbance.ABSENT:
            blocks.append(
                Paragraph(say("□ {what}: {do}", what=say("{words:cap}", words=say(state.row.words)), do=state.row.do))
            )
    marks: list[Words] = [f"{k}: {name}" for k, name in enumerate(trial.marks, 1)]
    if marks:
        blocks += [Heading("Marks on the way"), Paragraph(joined(marks, "; "))]
    return paper_about(say("Run sheet, job {job}: {name}", job=job_id, name=trial.name), job, blocks)
