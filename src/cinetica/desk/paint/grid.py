"""The fine printed grid of the paper."""

from __future__ import annotations

import math

from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor

from cinetica.desk import look
from cinetica.desk.paint.canvas import Canvas
from cinetica.desk.paint.mapping import Mapping
from cinetica.desk.paint.steps import AxisScales, across_step, multiples, up_step


class Grid:
    """Strong lines with fine ones between them; `square`: equally spaced in both directions."""

    def __init__(self, scales: AxisScales, *, square: bool = False) -> None:
        self._scales, self._square = scales, square

    @property
    def key(self) -> object:
        """The units of the numbers on the lines."""
        return self._scales.across, self._scales.up

    def draw(self, canvas: Canvas, mapping: Mapping, palette: look.Palette) -> None:
        """Draw the layer."""
        painter, view, area = canvas.painter, mapping.view, mapping.area
        (left, right), (low, high) = self._scales.spans(view)
        across, up = across_step(right - left, area.width()), up_step(high - low, area.height())
        if self._square:
            across = up = max(across, up)
        canvas.antialias(False)
        for color, step_x, step_y in (
            (palette.grid_fine, across / 5, up / 5 if self._square else 0.0),
            (palette.grid, across, up),
        ):
            ink = QColor(color)
            # Lines a pixel wide, on the pixels.
            for number in multiples(step_x, left, right):
                x = mapping.x(self._scales.across.kept(number))
                painter.fillRect(QRectF(math.floor(x), area.top(), 1, area.height()), ink)
            for number in multiples(step_y, low, high) if step_y else ():
                y = mapping.y(self._scales.up.kept(number))
                painter.fillRect(QRectF(area.left(), math.floor(y), area.width(), 1), ink)
        painter.fillRect(QRectF(area.left(), area.top(), area.width(), 1), QColor(palette.grid))
