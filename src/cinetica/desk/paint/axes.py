"""The numbers along the sides of a plot: pyqtgraph's axis, with our steps and minus signs."""

from __future__ import annotations

from collections.abc import Callable

import pyqtgraph as pg
from PySide6.QtGui import QColor
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.paint.steps import AxisScales, across_step, multiples, up_step
from cinetica.reading.display_units import Scale

# Between numbers and paper, in pixels.
ASIDE, BELOW = 6, 3
# The longest numbers that can occur.
SAMPLES = ("−0.0005", "−10000", "−1e+05")


def numbers_width() -> int:
    """The width of the left axis, for any number, in pixels."""
    return max(look.width(sample, 8) for sample in SAMPLES) + look.px(8)


class PaperAxis(pg.AxisItem):
    """An axis with numbers only, which never cuts one off."""

    def __init__(self, orientation: str, scales: AxisScales) -> None:
        super().__init__(orientation)
        self._scales = scales
        self.enableAutoSIPrefix(False)
        # If both sides share a scale: returns the steps of both.
        self.square: Callable[[], tuple[float, float]] | None = None

    def apply_palette(self) -> None:
        """Apply the current colours and font."""
        self.setPen(pg.mkPen(None))
        self.setTickPen(pg.mkPen(None))
        self.setTextPen(QColor(look.palette().soft))
        self.setStyle(
            tickFont=look.font(8), tickTextOffset=ASIDE if self.orientation == "left" else BELOW,
            tickLength=0, tickAlpha=0, autoExpandTextSpace=False,
            hideOverlappingLabels=True, maxTickLevel=0, textFillLimits=[(0, 1.1)],
        )  # fmt: skip

    def redraw(self) -> None:
        """Redraw the numbers in the current units."""
        self.picture = None
        self.update()

    @property
    def _shown(self) -> Scale:
        return self._scales.across if self.orientation == "bottom" else self._scales.up

    @override
    def tickValues(self, minVal: float, maxVal: float, size: float) -> list[tuple[float, list[float]]]:
        low, high = self._shown.span(minVal, maxVal)
        if self.square is not None:
            step = max(self.square())
        else:
            step = across_step(high - low, size) if self.orientation == "bottom" else up_step(high - low, size)
        return [(step, [self._shown.kept(number) for number in multiples(step, low, high)])]

    @override
    def tickStrings(self, values: list[float], scale: float, spacing: float) -> list[str]:
        shown = [self._shown.wrapped(self._shown.on_axis(value)) for value in values]
        # A number that is 0 apart from rounding gets no sign.
        numbers = [0.0 if abs(number) < 1e-9 * spacing else number for number in shown]
        return [text.replace("-", "−") for text in super().tickStrings(numbers, scale, spacing)]
