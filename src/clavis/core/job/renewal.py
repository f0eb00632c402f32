"""What is done on a wheel beside other models of part: the same part new, what holds it, or work without a part."""

from enum import StrEnum

from clavis.core.parts.models import Axis


class Renewal(StrEnum):
    """The four parts of the brake stand for the same model, new."""

    ROTOR = "rotor"
    CALIPER = "caliper"
    LEVER = "lever"
    PAD = "pad"
    ADAPTER = "adapter"
    """the adapter that belongs there, new"""
    BOLTS = "bolts"
    """the caliper's and the adapter's bolts, by the sum of their stack"""
    HOSE = "hose"
    """a new hose, or cable and housing"""
    BLEED = "bleed"
    """fresh fluid and a full bleed"""
    BED_IN = "bed_in"

    @property
    def axis(self) -> Axis | None:
        """The part of the brake that is new; None for what is beside the brake."""
        return Axis(self.value) if self.value in set(Axis) else None

    @property
    def is_work(self) -> bool:
        """Nothing comes new and nothing that is bolted or joined is taken apart: it is done on what is there."""
        return self in (Renewal.BLEED, Renewal.BED_IN)


Renewals = frozenset[Renewal]
NONE: Renewals = frozenset()


def new_parts(changed: frozenset[Axis], renew: Renewals) -> frozenset[Axis]:
    """The kinds of part that are new: other models, and the same model new."""
    return changed | {renewal.axis for renewal in renew if renewal.axis is not None} if renew else changed


def leaves_as_it_is(renew: Renewals) -> bool:
    """Nothing that is bolted or joined is taken apart: the wheel is judged as it stands."""
    return all(renewal.is_work for renewal in renew)


def renewals_in(text: str) -> Renewals:
    """Renewals by name, parted by spaces, as an address or a form holds them; what is none is passed over.

    >>> sorted(renewals_in("pad bed_in wings"))
    [<Renewal.BED_IN: 'bed_in'>, <Renewal.PAD: 'pad'>]
    """
    return frozenset(Renewal(word) for word in text.split() if word in set(Renewal))
