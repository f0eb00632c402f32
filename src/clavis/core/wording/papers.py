"""What goes on paper: the order for the bench, the quote for the customer, the sheet that goes home with the rider.
Each is a list of blocks; a page and a PDF are made of the same ones."""

from collections.abc import Mapping
from dataclasses import dataclass

from clavis.core import units
from clavis.core.evaluation.condition_readings import PAD_PLAN_MM, PAD_REPLACE_MM
from clavis.core.evaluation.evaluate import Evaluation, SetupName, SetupResult
from clavis.core.evaluation.setups import WheelSetup
from clavis.core.fit.bolts import BoltChoice
from clavis.core.job.document import Job, SignOff, StepTick
from clavis.core.job.renewal import Renewal
from clavis.core.parts.fluids import AGES_OVER_Y, FLUID_GRADES, Fluid
from clavis.core.parts.models import AXES
from clavis.core.parts.mounts import End
from clavis.core.sentences import NOTHING, Words, joined, say
from clavis.core.units import System
from clavis.core.verdicts import Severity
from clavis.core.wording.job_summary import complaint_sentence, rider_sentence, setup_sentence
from clavis.core.workshop.bedding import BeddingPlan, bedding_plan
from clavis.core.workshop.labour import QuoteSum
from clavis.core.workshop.steps import Topic
from clavis.core.workshop.torques import TorqueLine
from clavis.core.workshop.work_order import OrderSection, WheelOrder, WorkOrder


@dataclass(frozen=True)
class Heading:
    words: Words


@dataclass(frozen=True)
class Paragraph:
    words: Words
    strong: bool = False


@dataclass(frozen=True)
class Caution:
    words: Words


@dataclass(frozen=True)
class Rows:
    """A table; ``shares`` are the widths of its columns, ``numbers`` those that stand to the right."""

    head: tuple[Words, ...]
    rows: tuple[tuple[Words, ...], ...]
    shares: tuple[int, ...]
    numbers: frozenset[int] = frozenset()
    last_strong: bool = False


@dataclass(frozen=True)
class Step:
    """A step with its box to tick; ``under`` is what stands small beneath it."""

    number: int
    words: Words
    under: Words
    caution: Words
    done: Words


@dataclass(frozen=True)
class Signature:
    words: Words


Block = Heading | Paragraph | Caution | Rows | Step | Signature


@dataclass(frozen=True)
class Paper:
    title: Words
    subtitle: Words
    blocks: tuple[Block, ...]


def paper_about(title: Words, job: Job, blocks: list[Block]) -> Paper:
    """A paper with rider, bike and job under its title."""
    return Paper(title, say("{rider} · {title}", rider=rider_sentence(job), title=job.title), tuple(blocks))


def calibration_note(job: Job) -> list[Block]:
    """That the figures rest on readings of the road, where they do."""
    learnt = job.learnt
    if learnt is None:
        return []
    words = "Figures calibrated by {who}, {day}, from {readings:reading|readings}."
    return [Paragraph(say(words, who=learnt.who, day=learnt.at[:10], readings=learnt.readings))]


SECTION_WORDS: Mapping[Topic, str] = {
    Topic.PREPARE: "before",
    Topic.CHECKS: "before it is ridden",
    Topic.ROAD: "on the road: {end}",
    Topic.AFTER: "after bedding in",
}


def section_words(section: OrderSection) -> Words:
    """What a part of the order is called."""
    words = SECTION_WORDS.get(section.topics[0], "{end} wheel")
    return say("{told:cap}", told=say(words, end=section.end) if section.end else say(words))


def torque_number(line: TorqueLine, system: System) -> str:
    """A torque or its range in one system of units, without the unit; empty where only the part tells."""
    if line.low_nm is None or line.high_nm is None:
        return ""
    low, high = (units.number(nm, "nm", system) for nm in (line.low_nm, line.high_nm))
    return low if low == high else f"{low}–{high}"


def torque_words(line: TorqueLine) -> Words:
    """A torque for paper, which has both systems of units."""
    if line.low_nm is None:
        return "as marked"
    metric, imperial = (f"{torque_number(line, s)}{units.NBSP}{units.sign('nm', s)}" for s in System)
    own = ", its own" if line.marked else ""
    if line.first_nm is None or line.last_nm is None:
        return f"{metric} ({imperial}){own}"
    words = "{told}{own}: first to about {first_nm:.1}, then {last_nm:.1}"
    words += "" if line.marked else " unless marked otherwise"
    return say(words, told=f"{metric} ({imperial})", own=own, first_nm=line.first_nm, last_nm=line.last_nm)


def _bolt_words(choice: BoltChoice) -> Words:
    """Which bolt goes to one place."""
    if choice.bolt is None:
        return say("{place}: {lacks}", place=choice.stack.place, lacks=choice.lacks)
    return say("{place}: {thread} × {length_mm:size}", place=choice.stack.place, thread=choice.stack.thread,
               length_mm=choice.bolt.length_mm)  # fmt: skip


def _parts(order: WorkOrder, currency: str) -> Rows:
    rows = [
        (line.end.value, line.what, line.name, say("{pieces}", pieces=line.quantity), _money(line.cost))
        for line in order.lines
    ]
    total = ("", "", "in all", "", _money(order.total))
    return Rows(
        ("for", "what", "part", "pieces", currency), (*rows, total), (8, 22, 46, 10, 14), frozenset({3, 4}), True
    )


def _money(price: float | None) -> Words:
    return "not known" if price is None else say("{it_price:.2}", it_price=price)


def _bedding(plan: BeddingPlan) -> Words:
    slope = say(", on a hill of about {slope_pct:.0}", slope_pct=plan.slope_pct) if plan.slope_pct else ", on the flat"
    return say(
        "{end:cap} alone: {stops} stops from {from_kmh:.0} down to walking pace, about {pause_s:.0} rolling "
        "between{slope}. The rotor reaches about {rotor_c:.0}; {wanted_c:.0} is wanted. Never lock it, never hold the "
        "lever standing still while hot.",
        end=plan.end, stops=plan.stops, from_kmh=plan.from_kmh, pause_s=float(plan.pause_s), slope=slope,
        rotor_c=plan.rotor_c, wanted_c=plan.wanted_c,
    )  # fmt: skip


def order_paper(number: int, job: Job, order: WorkOrder, currency: str) -> Paper:
    """The order as it hangs at the bench: parts, every step with its box, torques, bedding in, cautions, signature."""
    ticked, blocks = order.ticked(job), list[Block]()
    blocks += [Caution(caution) for caution in order.cautions]
    blocks += calibration_note(job)
    if not order.gate.may_sign:
        blocks.append(Paragraph(say("{why:cap}.", why=order.gate.words), strong=True))
    blocks += [Heading("Parts"), _parts(order, currency), Heading("Torques")]
    blocks.append(
        Rows(
            ("for", "fastener", "torque", "tool", "thread-lock"),
            tuple((t.end.value, t.words, torque_words(t), t.fastening.tool, t.fastening.lock) for t in order.torques),
            (7, 31, 24, 19, 19),
        )
    )
    for section in order.sections:
        blocks.append(Heading(section_words(section)))
        for step in section.steps:
            tick = ticked.get(step.key)
            told: list[Words] = [
                say("{what} {torque}", what=t.words, torque=torque_words(t)) for t in step.torques if section.end
            ]
            told += [_bolt_words(choice) for choice in order.bolts_of(step)]
            done: Words = NOTHING
            if tick is not None:
                words = "{who}, {at}: skipped, {why}" if tick.skipped else "{who}, {at}"
                done = say(words, who=tick.who, at=tick.at.replace("T", " "), why=tick.skipped)
            under = joined([step.row.tool, *told], "; ")
            blocks.append(Step(step.number, step.row.words, under, step.row.caution, done))
    plans = [w.bedding for w in order.wheels if w.bedding is not None]
    if plans:
        blocks.append(Heading("Bedding in"))
        blocks += [Paragraph(_bedding(plan)) for plan in plans]
    blocks.append(Signature("Released by, date"))
    return paper_about(say("Work order {number}", number=number), job, blocks)


@dataclass(frozen=True)
class Alternative:
    """One step cheaper, or dearer: what it is, its price, and how it stands."""

    words: Words
    price: float
    verdict: str


def quote_paper(
    number: int, job: Job, order: WorkOrder, money: QuoteSum, evaluation: Evaluation,
    alternatives: Mapping[str, Alternative], stands_until: str, currency: str,
) -> Paper:  # fmt: skip
    """The quote: what, why in plain words, what it costs, what it does and what it does not, one step cheaper and
    dearer, and room to accept it."""
    fitted, proposed = evaluation.fitted, evaluation.proposed
    blocks: list[Block] = [Heading("What is the matter"), Paragraph(say("{it}.", it=complaint_sentence(job)))]
    if job.complaint_words:
        blocks.append(Paragraph(say("“{words}”", words=job.complaint_words)))
    blocks.append(Paragraph(say("As it is now: {it}.", it=setup_sentence(fitted))))
    blocks += [Heading("What is done"), _parts(order, currency)]
    rows: list[tuple[Words, ...]] = [("parts", _money(money.parts))]
    rows.append((say("work, about {minutes_min:.0}", minutes_min=money.labour.minutes), _money(money.labour.price)))
    rows.append(("together", _money(money.total)))
    blocks.append(Rows(("", currency), tuple(rows), (80, 20), frozenset({1}), True))
    if money.unpriced:
        blocks.append(Paragraph(say("Without {pieces:part|parts} whose price is not known.", pieces=money.unpriced)))
    blocks += [Heading("What it does"), Paragraph(say("With it: {it}.", it=setup_sentence(proposed)))]
    if (stop := _stop_words(fitted, proposed)) is not NOTHING:
        blocks.append(Paragraph(stop))
    blocks += [Heading("What it does not do"), *[Paragraph(words) for words in _limits(proposed)]]
    if alternatives:
        blocks.append(Heading("One step cheaper, one step dearer"))
        told = tuple((name, a.words, a.verdict, _money(a.price)) for name, a in alternatives.items())
        blocks.append(Rows(("", "parts", "it", currency), told, (12, 56, 14, 18), frozenset({3})))
    blocks.append(
        Paragraph(
            say("This quote stands until {day}. Prices of parts may change until they are ordered.", day=stands_until)
        )
    )
    blocks.append(Signature("Accepted by, date"))
    return paper_about(say("Quote {number}", number=number), job, blocks)


def _stop_words(fitted: SetupResult | None, proposed: SetupResult | None) -> Words:
    before, after = (s.stop_flat if s else None for s in (fitted, proposed))
    if after is None:
        return NOTHING
    if before is None:
        return say("The stop on the flat, as the target is set, takes {after_m:.1}.", after_m=after.distance_m)
    words = "The stop on the flat takes {after_m:.1}, with what is on it now {before_m:.1}."
    return say(words, after_m=after.distance_m, before_m=before.distance_m)


MOST_LIMITS = 6


def _limits(proposed: SetupResult | None) -> list[Words]:
    found = [p for p in proposed.points if p.severity not in (Severity.NOTE, Severity.UNSEEN)] if proposed else []
    told: list[Words] = [say("{it:cap}.", it=point.told) for point in found[:MOST_LIMITS]]
    return [
        *told,
        "No brake stops better than its tyre on its ground. In the wet, and before it is bedded in, it takes longer.",
        "Temperatures and forces are estimates from typical figures.",
    ]


@dataclass(frozen=True)
class HandedOver:
    """One wheel as it goes home: what came new, the brake that is on it, the day its line was filled (empty: it was not
    opened), who bedded it in, and the plan where nobody did yet."""

    end: End
    new: tuple[str, ...]
    setup: WheelSetup
    filled: str
    bedded_by: str
    plan: BeddingPlan | None


def _bedded_by(tick: StepTick | None) -> str:
    return tick.who if tick is not None and not tick.skipped else ""


def _of_order(wheel: WheelOrder, ticked: Mapping[str, StepTick], day: str) -> HandedOver:
    work = wheel.work
    new = tuple(part.name for axis in sorted(work.changes.parts) if (part := work.setup.brake.of(axis)))
    by = _bedded_by(ticked.get(f"{work.end.value}:bed_in"))
    return HandedOver(work.end, new, work.setup, day if work.changes.opens_line else "", by, wheel.bedding)


def _of_signed(end: End, signed: SignOff, evaluation: Evaluation) -> HandedOver | None:
    """A wheel after its order; None where the order left nothing on it, or its brake is not whole."""
    case, day = evaluation.cases[SetupName.FITTED][end], signed.at[:10]
    since = {what for what, fitted in case.wheel.entered.since.items() if fitted.day == day}
    if case.setup is None or not since:
        return None
    new = tuple(part.name for axis in AXES if Renewal(axis) in since and (part := case.brake.of(axis)))
    by = _bedded_by(signed.ticks.get(f"{end.value}:bed_in"))
    result, situation = evaluation.fitted.wheels.get(end) if evaluation.fitted else None, evaluation.situation
    beds_in = Renewal.BED_IN in since and not by
    plan = bedding_plan(result, situation) if beds_in and result is not None and situation is not None else None
    return HandedOver(end, new, case.setup, day if Renewal.BLEED in since else "", by, plan)


def handed_over(job: Job, order: WorkOrder, evaluation: Evaluation, day: str) -> tuple[HandedOver, ...]:
    """The wheels of an order; once it is signed off, and is an order no more, those that it left new parts or fresh
    fluid on."""
    if order.wheels:
        ticked = order.ticked(job)
        return tuple(_of_order(wheel, ticked, day) for wheel in order.wheels)
    signed = job.signed_off
    return () if signed is None else tuple(h for end in End if (h := _of_signed(end, signed, evaluation)) is not None)


def _due(wheel: HandedOver) -> list[Words]:
    """When pads, rotor and fluid are due."""
    setup = wheel.setup
    least = setup.minimum_mm
    thin = say("{least_mm:.2}", least_mm=least) if least is not None else "what is marked on it, or its maker says"
    words = (
        "{end:cap}: pads new at {plan_mm:.1} of material, at the latest at {replace_mm:.1}; the rotor not thinner than "
        "{thin}."
    )
    told: list[Words] = [say(words, end=wheel.end, plan_mm=PAD_PLAN_MM, replace_mm=PAD_REPLACE_MM, thin=thin)]
    if wheel.filled and setup.caliper.fluid is not Fluid.NONE:
        grade = setup.filled_with.grade if setup.filled_with else setup.wheel.entered.fluid_grade
        row = FLUID_GRADES.get(grade or "")
        ages = row is not None and row.takes_up_water
        words = "{end:cap}: filled on {day} with {what}"
        words += "; new again after {years_y:.0}, it takes up water." if ages else "; its maker says when it is due."
        what = setup.filled_with.name if setup.filled_with else row.words if row else "the fluid that its maker names"
        told.append(say(words, end=wheel.end, day=wheel.filled, what=what, years_y=AGES_OVER_Y))
    return told


FIRST_CHECKS: tuple[str, ...] = (
    "Before every ride: both levers firm and far from the bar, wheels closed, no rub.",
    "After the first ride: bolts of caliper and rotor read once more with a torque wrench; bring it in for that.",
    "A lever that gets long, soft or sinks: stop riding, bring it in.",
    "No oil, polish or spray near rotor and pads. Pads that have met oil are replaced, nothing brings them back.",
    "Rotors burn skin for many minutes after a descent.",
    "This does not release the bike to traffic: its maker's instructions and the local law do.",
)


def handover_paper(number: int, job: Job, wheels: tuple[HandedOver, ...]) -> Paper:
    """What goes home with the rider: fitted what and why, bedding in, first checks, wear limits, fluid, cautions."""
    blocks: list[Block] = [Heading("What is on it now")]
    for wheel in wheels:
        what = joined(wheel.new, ", ", " and ") if wheel.new else "the parts that were on it, serviced"
        blocks.append(Paragraph(say("{end:cap}: {what}.", end=wheel.end, what=what)))
    blocks += [Heading("Why"), Paragraph(say("{it}.", it=complaint_sentence(job)))]
    if job.complaint_words:
        blocks.append(Paragraph(say("“{words}”", words=job.complaint_words)))
    if any(wheel.bedded_by or wheel.plan for wheel in wheels):
        blocks.append(Heading("Bedding in"))
    for wheel in wheels:
        if wheel.bedded_by:
            blocks.append(Paragraph(say("{end:cap}: bedded in by {who}.", end=wheel.end, who=wheel.bedded_by)))
        elif wheel.plan is not None:
            blocks.append(Paragraph(_bedding(wheel.plan)))
            blocks.append(Caution("On a closed road, or one without traffic. Full power comes only after it."))
    blocks += [Heading("First checks"), *[Paragraph(words) for words in FIRST_CHECKS], Heading("When what is due")]
    blocks += [Paragraph(words) for wheel in wheels for words in _due(wheel)]
    blocks.append(Signature("Handed over by, date"))
    return paper_about(say("For the rider, order {number}", number=number), job, blocks)
