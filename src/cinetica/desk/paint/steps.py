"""Steps of a scale: the strong lines of the grid and the numbers beside them come from the same ones."""

from __future__ import annotations

import math

from cinetica.desk import look


def across_step(span: float, pixels: float) -> float:
    """The step between strong lines, and so between numbers, of a side that shows `span` on so many pixels."""
    return round_step(span, pixels / (look.width("−0.0005", 8) + 8))


def up_step(span: float, pixels: float) -> float:
    """The same for a side that goes up, where numbers stand one over the other."""
    return round_step(span, pixels / (1.3 * look.height(8)))


def round_step(span: float, count: float) -> float:
    """The step 1, 2 or 5 times a power of ten that cuts `span` into at most `count` parts."""
    rough = max(span / max(count, 1.0), 1e-12)
    power = 10.0 ** math.floor(math.log10(rough))
    return next(power * factor for factor in (1, 2, 5, 10) if power * factor >= rough * 0.999)
