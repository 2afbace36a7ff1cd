"""The numbers along the sides of a plot: pyqtgraph's axis, with our steps and minus signs."""

from __future__ import annotations

from collections.abc import Callable

import pyqtgraph as pg
from PySide6.QtGui import QColor
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.paint.steps import across_step, up_step

# Between numbers and paper, in pixels.
ASIDE, BELOW = 6, 3
# The longest numbers that can come up.
SAMPLES = ("−0.0005", "−10000", "−1e+05")


def numbers_width() -> int:
    """The width of the left axis, for any number, in pixels."""
    return max(look.width(sample, 8) for sample in SAMPLES) + look.px(8)


class PaperAxis(pg.AxisItem):
    """An axis of numbers only, none of which is cut off."""

    def __init__(self, orientation: str) -> None:
        super().__init__(orientation)
        self.enableAutoSIPrefix(False)
        # Where both sides have one scale: the steps of both.
        self.square: Callable[[], tuple[float, float]] | None = None

    def dress(self) -> None:
        """Apply the current colours and font."""
        self.setPen(pg.mkPen(None))
        self.setTickPen(pg.mkPen(None))
        self.setTextPen(QColor(look.worn().soft))
        self.setStyle(
            tickFont=look.font(8), tickTextOffset=ASIDE if self.orientation == "left" else BELOW,
            tickLength=0, tickAlpha=0, autoExpandTextSpace=False,
            hideOverlappingLabels=True, maxTickLevel=0, textFillLimits=[(0, 1.1)],
        )  # fmt: skip

    @override
    def tickSpacing(self, low: float, high: float, size: float) -> list[tuple[float, float]]:
        span = high - low
        if self.square is not None:
            across, up = self.square()
            return [(max(across, up), 0.0)]
        return [(across_step(span, size) if self.orientation == "bottom" else up_step(span, size), 0.0)]

    @override
    def tickStrings(self, values: list[float], scale: float, spacing: float) -> list[str]:
        return [text.replace("-", "−") for text in super().tickStrings(values, scale, spacing)]
