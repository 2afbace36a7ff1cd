"""The steps of scales: strong grid lines and the numbers beside them use the same ones."""

from __future__ import annotations

import math
from dataclasses import dataclass

from PySide6.QtCore import QRectF

from cinetica.desk import look
from cinetica.reading.display_units import Scale

PLAIN = Scale()


@dataclass
class AxisScales:
    """How the numbers on both sides of a plot are shown."""

    across: Scale = PLAIN
    up: Scale = PLAIN

    def spans(self, view: QRectF) -> tuple[tuple[float, float], tuple[float, float]]:
        """What is in view, as it is shown, across and up."""
        return self.across.span(view.left(), view.right()), self.up.span(view.top(), view.bottom())

    def lengths(self, view: QRectF) -> tuple[float, float]:
        """How much is in view, as it is shown, across and up."""
        (left, right), (low, high) = self.spans(view)
        return right - left, high - low


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


def multiples(step: float, low: float, high: float) -> list[float]:
    """All multiples of a step between two values, but for rounding."""
    return [number * step for number in range(math.ceil(low / step - 1e-9), math.floor(high / step + 1e-9) + 1)]
