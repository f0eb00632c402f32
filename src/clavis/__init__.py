"""Clavis: selects, fits, orders and proves bicycle disc brakes, wheel by wheel."""

__version__ = "0.1.0"
