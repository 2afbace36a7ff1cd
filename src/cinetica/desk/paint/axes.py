"""The numbers along a plot's sides, as one kept picture."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import pyqtgraph as pg
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QTransform

from cinetica.desk import look
from cinetica.desk.paint.grid import multiples
from cinetica.desk.paint.kept import Kept
from cinetica.desk.paint.steps import across_step, up_step

# Between numbers and paper, in pixels.
ASIDE, BELOW = 6, 3
_HOW = {
    "left": int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter) | int(Qt.TextFlag.TextDontClip),
    "bottom": int(Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop) | int(Qt.TextFlag.TextDontClip),
}
# The longest numbers that can come up.
SAMPLES = ("−0.0005", "−10000", "−1e+05")


def numbers_width() -> int:
    """Room for any number of an axis at the left, in pixels."""
    return max(look.width(sample, 8) for sample in SAMPLES) + look.px(8)


class PaperAxis(pg.AxisItem):
    """An axis of nothing but numbers, none of which is cut off."""

    def __init__(self, orientation: str) -> None:
        super().__init__(orientation)
        self._kept = Kept()
        # What is to be drawn, worked out anew whenever pyqtgraph has thrown it away.
        self.picture: Any = None
        # How often what it shows was worked out: part of the key.
        self._version = 0
        self.enableAutoSIPrefix(False)
        # Where both sides have one scale: the steps of both.
        self.square: Callable[[], tuple[float, float]] | None = None

    def _updateLabel(self) -> None:
        """It has none; pyqtgraph would lay out an empty one whenever anything changes."""

    def dress(self) -> None:
        """In the colours that are worn."""
        self.setPen(pg.mkPen(None))
        self.setTickPen(pg.mkPen(None))
        self.setTextPen(QColor(look.worn().soft))
        # Only what pyqtgraph measures by; see `generateDrawSpecs`.
        self.setStyle(tickLength=0, tickTextOffset=ASIDE if self.orientation == "left" else BELOW)

    def tickSpacing(self, low: float, high: float, size: float) -> list[tuple[float, float]]:
        span = high - low
        if self.square is not None:
            across, up = self.square()
            return [(max(across, up), 0.0)]
        return [(across_step(span, size) if self.orientation == "bottom" else up_step(span, size), 0.0)]

    def tickStrings(self, values: list[float], scale: float, spacing: float) -> list[str]:
        return [text.replace("-", "−") for text in super().tickStrings(values, scale, spacing)]

    def generateDrawSpecs(self, painter: QPainter) -> list[tuple[QRectF, str]]:
        """The numbers, each with its place; pyqtgraph's own way, for ticks of several levels, takes ten times as
        long."""
        room, (low, high) = self.mapRectFromParent(self.geometry()), self.range
        upright = self.orientation == "left"
        long, tall = (room.height() if upright else room.width()), 0.8 * look.height(8)
        if not (low < high and long > 0):
            return []
        step, found = self.tickSpacing(low, high, long)[0][0], []
        values = multiples(step, low, high)
        # The room that a font keeps over and under its figures may be cut.
        seen = room.adjusted(-0.5, 0, 0.5, 0)
        for value, text in zip(values, self.tickStrings(values, self.scale, step), strict=True):
            at, wide = (value - low) / (high - low) * long, look.width(text, 8)
            if upright:
                place = QRectF(room.right() - ASIDE - wide, room.bottom() - at - tall / 2, wide, tall)
            else:
                place = QRectF(room.left() + at - wide / 2, room.top() + BELOW, wide, tall)
            if seen.contains(place):
                found.append((place, text))
        return found

    def drawPicture(self, painter: QPainter, numbers: list[tuple[QRectF, str]]) -> None:
        painter.setFont(look.font(8))
        painter.setPen(self.textPen())
        for place, text in numbers:
            painter.drawText(place, _HOW[self.orientation], text)

    def paint(self, painter: QPainter, option: object, widget: object) -> None:
        if self.picture is None:
            # Whatever changes an axis throws its picture away.
            self.picture = self.generateDrawSpecs(painter)
            self._version += 1
        transform = painter.transform()
        area = transform.mapRect(QRectF(self.mapRectFromParent(self.geometry())))
        self._kept.lay(
            painter, area, QColor(look.worn().paper), (self._version, look.worn()), lambda on: self._draw(on, transform)
        )

    def _draw(self, painter: QPainter, transform: QTransform) -> None:
        if self.picture is not None:
            painter.translate(transform.dx(), transform.dy())
            self.drawPicture(painter, self.picture)
