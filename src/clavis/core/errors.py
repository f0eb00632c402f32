"""The errors of the core's door: each names the quantity, the value given and what is allowed."""


class ClavisError(Exception):
    """Base of every error that is meant for the person at the bench."""


class QuantityError(ClavisError, ValueError):
    """A value that cannot be used.

    ``quantity`` is the field in plain words, ``value`` what was given, ``allowed`` the range in words.
    """

    def __init__(self, quantity: str, value: object, allowed: str) -> None:
        self.quantity, self.value, self.allowed = quantity, value, allowed
        super().__init__(f"{quantity}: {value} is not possible; allowed is {allowed}")


class ProfileError(ClavisError, ValueError):
    """A road profile that cannot be turned into a braking load; the message says where and why."""
