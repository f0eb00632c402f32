"""What is picked for one wheel."""

from pydantic import Field

from clavis.core.job.renewal import Renewal
from clavis.core.parts.models import Axis, Identifier
from clavis.core.records import Record


class Pick(Record):
    """A proposal for one wheel; None keeps what is fitted, unless ``renew`` says that the same model comes new."""

    rotor_id: Identifier | None = None
    caliper_id: Identifier | None = None
    lever_id: Identifier | None = None
    pad_id: Identifier | None = None
    adapter_id: Identifier | None = Field(None, description="chosen by hand among those that serve")
    wheel_id: Identifier | None = Field(None, description="another wheel, whose hub takes a rotor")
    renew: tuple[Renewal, ...] = Field((), max_length=len(Renewal))

    @property
    def part_ids(self) -> dict[Axis, str | None]:
        """The parts that are chosen; None where the one that is on the wheel stays."""
        return {axis: getattr(self, f"{axis.value}_id") for axis in Axis}
