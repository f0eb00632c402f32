"""A part that came on a bike without an order: by its rider, on the road, in another workshop. Its form is sent for
when it is wanted: it lists the whole catalogue."""

from collections.abc import Mapping

from starlette.responses import Response

from clavis.core.errors import QuantityError
from clavis.core.job.renewal import Renewal
from clavis.core.job.wheel import Wheel
from clavis.core.keeping.bike import KeptBike, Moment
from clavis.core.keeping.carry_over import BY_HAND, FOUND, FittingError, fitted_by_hand
from clavis.core.parts.catalogue import Catalogue
from clavis.core.parts.fluids import FLUID_GRADES
from clavis.core.parts.mounts import End
from clavis.core.sentences import NOTHING, Words
from clavis.core.wording.labels import choice_word
from clavis.store import bikes
from clavis.web.keep.bikes import ActDep, AtBike, AtBikeDep, with_odometer
from clavis.web.shell import routes
from clavis.web.shell.bench import catalogue_of
from clavis.web.shell.form_fields import Option
from clavis.web.shell.job_fields import part_label
from clavis.web.shell.routes import APPRENTICE
from clavis.web.shell.templates import render

router = routes.router()


def offered(catalogue: Catalogue) -> tuple[Option, ...]:
    """What may have come on a wheel, by kind: parts of the catalogue, a new line, fresh fluid."""
    found = [
        Option(f"{what.value}:{part.id}", part_label(part), choice_word(what))
        for what in FOUND
        for part in sorted(catalogue.of_kind(what.value).values(), key=lambda p: p.name)
        if not part.retired
    ]
    found.append(Option(f"{Renewal.HOSE.value}:", "new hose, or cable and housing", choice_word(Renewal.HOSE)))
    fluid = choice_word(Renewal.BLEED)
    return (*found, *(Option(f"{Renewal.BLEED.value}:{key}", row.words, fluid) for key, row in FLUID_GRADES.items()))


def _as_wheel(what: Renewal, name: str, catalogue: Catalogue) -> Wheel | None:
    """A wheel that has the part, or the filling; None where nobody knows it."""
    if what is Renewal.HOSE:
        return Wheel()
    if what is Renewal.BLEED:
        return Wheel(fluid_grade=name) if name in FLUID_GRADES else None
    return Wheel.model_validate({f"{what.value}_id": name}) if name in catalogue.of_kind(what.value) else None


def _form(at: AtBike, status: int = 200, refused: Words = NOTHING, typed: Mapping[str, str] | None = None) -> Response:
    """The form, with what was typed and why it was not kept; it then stands where it was."""
    catalogue, _ = catalogue_of(at.request, at.session)
    answer = render(
        at.request, at.reading, "keep/fitting.html", status, offered=offered(catalogue), bike_id=at.opened.id,
        today=bikes.today(), refused=refused, typed=typed or {},
    )  # fmt: skip
    if refused:
        answer.headers["HX-Retarget"], answer.headers["HX-Reswap"] = "#fitting-form", "innerHTML"
    return answer


@router.get("/bikes/{bike_id}/fitting", dependencies=APPRENTICE)
def form(at: AtBikeDep) -> Response:
    return _form(at)


@router.post("/bikes/{bike_id}/fittings", dependencies=APPRENTICE)
def fit_by_hand(c: ActDep) -> Response:
    """One part came on a wheel; what it replaced is off."""
    catalogue, _ = catalogue_of(c.request, c.session)
    end, (kind, _, name) = c.typed.choice("end", End), c.typed.text("part").partition(":")
    what = next((w for w in BY_HAND if w.value == kind), None)
    wheel = _as_wheel(what, name, catalogue) if what is not None else None
    if end is None or what is None or wheel is None:
        return _form(c, 422, "Say which wheel, and which part of the list came on it.", c.typed.words)

    def act(bike: KeptBike) -> KeptBike:
        return with_odometer(
            fitted_by_hand(bike, end, what, wheel, catalogue, moment), moment.day, moment.km, moment.who
        )

    try:
        why = c.typed.text("why")[:300]
        moment = Moment(day=c.typed.day(), km=c.typed.km(), who=c.author.who, why=why)
        return c.done(act, f"{end.value} {choice_word(what)} fitted without an order")
    except (QuantityError, FittingError) as error:
        c.session.rollback()
        return _form(c, 422, error.said, c.typed.words)
