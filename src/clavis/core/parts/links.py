"""The links of a brake from finger to road, in the order in which force passes through them."""

from enum import StrEnum


class Link(StrEnum):
    HAND = "hand"
    LEVER = "lever"
    LINE = "line"
    CALIPER = "caliper"
    PAD = "pad"
    ROTOR = "rotor"
    WHEEL = "wheel"
    ROAD = "road"
