"""The fine printed grid of the paper."""

from __future__ import annotations

import math

from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor

from cinetica.desk import look
from cinetica.desk.paint.canvas import Canvas
from cinetica.desk.paint.mapping import Mapping
from cinetica.desk.paint.steps import across_step, up_step


class Grid:
    """Strong lines with fine ones between them; `square`: equally spaced in both directions."""

    key: object = None

    def __init__(self, *, square: bool = False) -> None:
        self._square = square

    def draw(self, canvas: Canvas, mapping: Mapping, palette: look.Palette) -> None:
        """Draw the layer."""
        painter, view, area = canvas.painter, mapping.view, mapping.area
        across, up = across_step(view.width(), area.width()), up_step(view.height(), area.height())
        if self._square:
            across = up = max(across, up)
        canvas.antialias(False)
        for color, step_x, step_y in (
            (palette.grid_fine, across / 5, up / 5 if self._square else 0.0),
            (palette.grid, across, up),
        ):
            ink = QColor(color)
            # Lines a pixel wide, on the pixels.
            for x in multiples(step_x, view.left(), view.right()):
                painter.fillRect(QRectF(math.floor(mapping.x(x)), area.top(), 1, area.height()), ink)
            for y in multiples(step_y, view.top(), view.bottom()) if step_y else ():
                painter.fillRect(QRectF(area.left(), math.floor(mapping.y(y)), area.width(), 1), ink)
        painter.fillRect(QRectF(area.left(), area.top(), area.width(), 1), QColor(palette.grid))


def multiples(step: float, low: float, high: float) -> list[float]:
    """All multiples of a step between two values."""
    return [number * step for number in range(math.ceil(low / step), math.floor(high / step) + 1)]
