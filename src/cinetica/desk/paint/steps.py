"""The steps of scales: strong grid lines and the numbers beside them use the same ones."""

from __future__ import annotations

import math

from cinetica.desk import look


def across_step(span: float, pixels: float) -> float:
    """The step between strong lines, and thus numbers, of a side that shows `span` on this many pixels."""
    return round_step(span, pixels / (look.width("−0.0005", 8) + 8))


def up_step(span: float, pixels: float) -> float:
    """The same for a vertical side, where numbers are above one another."""
    return round_step(span, pixels / (1.3 * look.height(8)))


def round_step(span: float, count: float) -> float:
    """The step of 1, 2 or 5 times a power of ten that divides `span` into at most `count` parts."""
    rough = max(span / max(count, 1.0), 1e-12)
    power = 10.0 ** math.floor(math.log10(rough))
    return next(power * factor for factor in (1, 2, 5, 10) if power * factor >= rough * 0.999)
