"""What moves with the frame cursor: its line in a strip, and every tune's marker."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import cache

from PySide6.QtGui import QColor

from cinetica.desk import look
from cinetica.desk.paint.canvas import PIXELS, Canvas, Mark, Sketch
from cinetica.desk.paint.mapping import Mapping

# The place of a tune, and x and y in units.
Spot = tuple[int, float, float]
# Opacities, from 0 to 255.
VEIL = 36
SIZE = 9


@cache
def _marker(palette: look.Palette, place: int) -> Mark:
    return Mark(look.shape(place, SIZE), look.ink(palette, place), 1.6, look.color(palette.paper))


class Spots:
    """A layer: each tune's marker at the frame cursor.

    `spots` are places of tunes with x and y; over time a line goes through them.
    """

    def __init__(self) -> None:
        self.spots: list[Spot] = []
        self.line: float | None = None
        self.band: tuple[int, float, float] | None = None

    @property
    def key(self) -> object:
        """What the layer depends on."""
        return tuple(self.spots), self.line, self.band

    def show_at(self, spots: Sequence[Spot], line: float | None = None) -> bool:
        """Update; returns whether anything changed."""
        before = self.key
        self.spots, self.line = list(spots), line
        return self.key != before

    def light(self, band: tuple[int, float, float] | None) -> bool:
        """Highlight a stretch of time in a tune's ink: (place, from, to). Returns whether anything changed."""
        if band == self.band:
            return False
        self.band = band
        return True

    def draw(self, canvas: Canvas, mapping: Mapping, palette: look.Palette) -> None:
        """Draw the layer."""
        if self.band is not None:
            self._draw_band(canvas, mapping, palette, *self.band)
        if self.line is not None:
            self._draw_upright(canvas, math.floor(mapping.x(self.line)), look.color(palette.ink))
        for place, x, y in self.spots:
            canvas.marks(Sketch((x,), (y,)), mapping, _marker(palette, place))

    def _draw_upright(self, canvas: Canvas, x: float, color: QColor) -> None:
        """Draw a vertical line, one pixel wide, over the full height."""
        self._draw_column(canvas, x, x + 1, color)

    def _draw_column(self, canvas: Canvas, left: float, right: float, fill: QColor) -> None:
        area = canvas.area
        canvas.box((left, area.bottom() + 1, right, area.top() - 1), PIXELS, fill)

    def _draw_band(
        self, canvas: Canvas, mapping: Mapping, palette: look.Palette, place: int, start: float, end: float
    ) -> None:
        left = math.floor(mapping.x(start))
        right = max(left + 2, math.ceil(mapping.x(end)))
        ink = look.ink(palette, place)
        self._draw_column(canvas, left, right, look.ink(palette, place, VEIL))
        # Its ends, whatever lies under them.
        self._draw_upright(canvas, left, ink)
        self._draw_upright(canvas, right - 1, ink)
