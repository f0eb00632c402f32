"""Clavis: selects, fits, orders and proves bicycle disc brakes, wheel by wheel."""

__version__ = "0.2.0"
