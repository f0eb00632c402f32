"""Hubs: which lockring and tool a splined hub takes, by its axle.

Six-bolt rotors go on splined hubs with an adapter, never the other way round.
"""

from dataclasses import dataclass

from clavis.core.parts.models import Axle, HubInterface


@dataclass(frozen=True)
class HubRow:
    """What holds the rotor on one hub and axle, and the tool for it."""

    hub: HubInterface
    axles: tuple[Axle, ...]
    fastener: str
    tool: str
    note: str
    role: str = ""
    """the catalogue's role of that fastener; empty for bolts that come with the rotor"""


HUBS: tuple[HubRow, ...] = (
    HubRow(
        HubInterface.SPLINED,
        (Axle.QUICK_RELEASE, Axle.MM12),
        "internal-spline lockring",
        "cassette tool",
        "an external lockring suits as well; it carries no braking torque; a six-bolt rotor needs its adapter",
        "lockring_internal",
    ),
    HubRow(
        HubInterface.SPLINED,
        (Axle.MM15, Axle.MM20),
        "external-notch lockring",
        "16-notch bottom-bracket tool",
        "the internal tool does not fit over this axle; a six-bolt rotor needs its adapter",
        "lockring_external",
    ),
    HubRow(
        HubInterface.SIX_BOLT,
        tuple(Axle),
        "six bolts",
        "T25 star key",
        "takes six-bolt rotors only; the play is taken up by hand, against the wheel's rotation",
    ),
)


def hub_row(hub: HubInterface | None, axle: Axle | None) -> HubRow | None:
    """The row of a hub and axle; None while either is not known."""
    if hub is None or axle is None:
        return None
    return next(row for row in HUBS if row.hub is hub and axle in row.axles)
