"""What the workshop sets for itself: one row."""

import secrets
from contextlib import suppress
from typing import Any

from pydantic import ValidationError
from sqlalchemy.orm import Session

from clavis.core.records import describe
from clavis.core.workshop.labour import WorkshopTerms
from clavis.store import jobs
from clavis.store.database import writing
from clavis.store.tables import WorkshopRow


def terms(session: Session) -> WorkshopTerms:
    """As it was set; the table's own minutes and no hour's price where nobody set any."""
    row = session.get(WorkshopRow, 1)
    with suppress(ValidationError):  # what cannot be read is as if it had not been set
        return WorkshopTerms() if row is None else WorkshopTerms.model_validate(row.document)
    return WorkshopTerms()


def new_calendar_key(session: Session, who: str) -> str:
    """The address of the workshop's calendar, given anew: whoever knew an older one reads it no more."""
    told = {"calendar_key": secrets.token_urlsafe(18)}
    if not terms(session).calendar_id:
        told["calendar_id"] = secrets.token_hex(8)
    return set_terms(session, told, who).calendar_key


def set_terms(session: Session, told: dict[str, Any], who: str) -> WorkshopTerms:
    """Set what is told and leave the rest. Raises RefusedError for what cannot be."""
    with writing(session):
        try:
            found = WorkshopTerms.model_validate(terms(session).model_dump() | told)
        except ValidationError as error:
            first = error.errors()[0]
            raise jobs.RefusedError(".".join(map(str, first["loc"])), describe(first)) from None
        row = session.get(WorkshopRow, 1)
        if row is None:
            row = WorkshopRow(id=1)
            session.add(row)
        row.document, row.who, row.changed_at = found.model_dump(mode="json"), who[:40], jobs.now()
        return found
