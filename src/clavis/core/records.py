"""What the records of a job have in common: frozen, nothing unknown in them, figures within a range."""

from collections.abc import Mapping
from typing import Any

from pydantic import BaseModel, ConfigDict, Field


class Record(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


def within(low: float, high: float, description: str = "") -> Any:
    """A figure that may be missing, with the range it must lie in."""
    return Field(None, ge=low, le=high, allow_inf_nan=False, description=description or None)


def describe(error: Mapping[str, Any]) -> str:
    """A pydantic error as one plain sentence with the value that was given."""
    message = str(error["msg"]).removeprefix("Value error, ").replace("Input should", "it should")
    given = error.get("input")
    shown = f" (given: {given!s:.40})" if isinstance(given, str | int | float) else ""
    return message + shown
