"""What the records of a job have in common: frozen, nothing unknown in them, figures within a range."""

from typing import Any

from pydantic import BaseModel, ConfigDict, Field


class Record(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


def within(low: float, high: float, description: str = "") -> Any:
    """A figure that may be missing, with the range it must lie in."""
    return Field(None, ge=low, le=high, allow_inf_nan=False, description=description or None)
