"""A rate as the share of a gap that it closes in one tick, as games write it, and back."""

from __future__ import annotations

import math
from collections.abc import Mapping

from cinetica.model.parameters import Parameter, Value

# At this rate an exponential closes all but the last digit of a gap within a tick of one second.
WHOLE = 36.7


def is_exact(parameter: Parameter, values: Mapping[str, Value]) -> bool:
    """Whether a rate closes 1 - exp(-rate·h) in a tick rather than rate·h, by the form that the tune has chosen."""
    return parameter.share == "exact" or values.get(parameter.share, "exact") == "exact"


def share_per_tick(rate: float, h: float, exact: bool) -> float:
    """The share that a rate (/s) closes in a tick of h s.

    In the linear form it may exceed 1, which closes the whole gap.
    """
    return -math.expm1(-rate * h) if exact else rate * h


def rate_from_share(share: float, h: float, exact: bool) -> float:
    """The rate (/s) that closes this share in a tick of h s; ValueError if there is none."""
    if not share >= 0.0:
        raise ValueError("A share cannot be negative.")
    if not exact:
        return share / h
    if share >= 1.0:
        raise ValueError("Exactly 100% in a tick needs an infinite rate: type less, such as 99.9%.")
    return -math.log1p(-share) / h
