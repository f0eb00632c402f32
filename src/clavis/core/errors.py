"""The errors that are meant for the person at the bench: each says what is wrong, in the reader's units."""

import numpy as np

from clavis.core.sentences import Value, Words, say


class ClavisError(Exception):
    """Base of every error that is meant for the person at the bench. ``said`` is what it says."""

    def __init__(self, said: Words = "") -> None:
        self.said = said
        super().__init__(str(said))


class QuantityError(ClavisError, ValueError):
    """A value that cannot be used: ``quantity`` is the field in plain words, ``value`` what was given, ``allowed`` the
    range."""

    def __init__(self, quantity: Words, value: Words | float, allowed: Words) -> None:
        self.quantity, self.value, self.allowed = quantity, value, allowed
        words = "{quantity}: {value} is not possible; allowed is {allowed}"
        super().__init__(say(words, quantity=quantity, value=value, allowed=allowed))


def ensure(quantity: Words, low: float, high: float, **given: float) -> None:
    """Raises QuantityError unless the one value given, named with its unit, lies within a range.

    >>> ensure("total mass", 15, 600, mass_kg=7)
    Traceback (most recent call last):
    clavis.core.errors.QuantityError: total mass: 7\xa0kg is not possible; allowed is 15\xa0kg to 600\xa0kg
    """
    ((name, value),) = given.items()
    if isinstance(value, np.ndarray):  # draws in place of a number: what they are drawn about is asked
        value = float(np.median(value))
    if not low <= value <= high:
        limits: dict[str, Value] = {f"low_{name}": low, f"high_{name}": high}
        allowed = say(f"{{low_{name}:g}} to {{high_{name}:g}}", **limits)
        raise QuantityError(quantity, say(f"{{{name}:g}}", **{name: value}), allowed)


class ProfileError(ClavisError, ValueError):
    """A road profile that cannot be turned into a braking load; the message says where and why."""
