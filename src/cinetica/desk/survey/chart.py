"""A chart: two scales with grid and numbers, on which the views of Survey draw."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from pyqtgraph import arrayToQPath
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen

from cinetica.desk import look
from cinetica.desk.paint.steps import PLAIN, across_step, multiples, up_step
from cinetica.model.parameters import Parameter
from cinetica.model.tune import Tune
from cinetica.reading.display_units import AxisScale

AIR = 8


@dataclass(frozen=True)
class Scales:
    """The scales: x from `left` to `right`, y from `bottom` to `top`, on the pixels of `room`."""

    room: QRectF
    left: float
    right: float
    bottom: float
    top: float
    # How the numbers on both sides are shown.
    across: AxisScale = PLAIN
    up: AxisScale = PLAIN

    def x(self, value: float) -> float:
        """The pixel of x."""
        return self.room.left() + (value - self.left) / (self.right - self.left) * self.room.width()

    def y(self, value: float) -> float:
        """The pixel of y."""
        return self.room.bottom() - (value - self.bottom) / (self.top - self.bottom) * self.room.height()

    def point(self, x: float, y: float) -> QPointF:
        """The pixel of a point."""
        return QPointF(self.x(x), self.y(y))

    def x_of(self, pixel: float) -> float:
        """The x of a pixel."""
        return self.left + (pixel - self.room.left()) / max(1.0, self.room.width()) * (self.right - self.left)

    def y_of(self, pixel: float) -> float:
        """The y of a pixel."""
        return self.bottom + (self.room.bottom() - pixel) / max(1.0, self.room.height()) * (self.top - self.bottom)


def number_text(value: float) -> str:
    """A number with as many digits as can be read."""
    return f"{value + 0.0:.6g}".replace("-", "−")


def short_number(value: float) -> str:
    """A number in a sentence."""
    return f"{value:.4g}".replace("-", "−")


def room_in(area: QRectF) -> QRectF:
    """The part of an area for the curves, beside the numbers of the scales and below the title."""
    left = look.width("−0.0005", 8) + AIR
    over = look.height(9, bold=True) + look.height(8) / 2 + AIR / 2
    return area.adjusted(left, over, -look.px(14), -(look.height(8) + look.height(9) + AIR))


def padded(low: float, high: float) -> tuple[float, float]:
    """A range with a margin; never empty."""
    if not (math.isfinite(low) and math.isfinite(high)):
        return 0.0, 1.0
    span = high - low
    if span <= 1e-9 * max(abs(low), abs(high)):
        span = (abs(high) or 1.0) * 0.2
    return low - 0.06 * span, high + 0.06 * span


def paint_scales(
    painter: QPainter, scales: Scales, palette: look.Palette, title: str, across: str, cut: list[str]
) -> None:
    """Paint background, grid, numbers and titles; appends elided texts to `cut`."""
    painter.fillRect(scales.room, QColor(palette.paper))
    painter.setFont(look.font(8))
    _paint_scale_across(painter, scales, palette)
    _paint_scale_up(painter, scales, palette)
    room, high = scales.room, look.height(8)
    painter.setPen(QColor(palette.ink))
    painter.setFont(look.font(9, bold=True))
    long, bold = room.right() - 4, look.height(9, bold=True)
    painter.drawText(
        QRectF(4, room.top() - high / 2 - bold - 3, long, bold), Qt.AlignmentFlag.AlignLeft,
        short(painter, title, long, cut),
    )  # fmt: skip
    painter.setFont(look.font(9))
    painter.setPen(QColor(palette.soft))
    painter.drawText(
        QRectF(room.left(), room.bottom() + high + 3, room.width(), look.height(9) + 1), Qt.AlignmentFlag.AlignRight,
        short(painter, across, room.width(), cut),
    )  # fmt: skip


def _paint_scale_across(painter: QPainter, scales: Scales, palette: look.Palette) -> None:
    room, soft, line = scales.room, QColor(palette.soft), QPen(QColor(palette.grid))
    low, end = scales.across.span(scales.left, scales.right)
    for number in multiples(across_step(end - low, room.width()), low, end):
        x = round(scales.x(scales.across.kept(number))) + 0.5
        painter.setPen(line)
        painter.drawLine(QPointF(x, room.top()), QPointF(x, room.bottom()))
        text = number_text(scales.across.wrapped(number))
        wide = look.width(text, 8)
        painter.setPen(soft)
        at = min(max(x - wide / 2, room.left() - look.px(20)), room.right() + look.px(12) - wide)
        box = QRectF(at, room.bottom() + 2, wide + 1, look.height(8))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)


def _paint_scale_up(painter: QPainter, scales: Scales, palette: look.Palette) -> None:
    room, soft, line, high = scales.room, QColor(palette.soft), QPen(QColor(palette.grid)), look.height(8)
    low, end = scales.up.span(scales.bottom, scales.top)
    # On so large a chart every second number is enough.
    for number in multiples(up_step(end - low, room.height() / 2), low, end):
        y = round(scales.y(scales.up.kept(number))) + 0.5
        painter.setPen(line)
        painter.drawLine(QPointF(room.left(), y), QPointF(room.right(), y))
        painter.setPen(soft)
        where = QRectF(0, y - high / 2, room.left() - 4, high)
        if where.bottom() <= room.bottom() + high / 2 + 1 and where.top() >= room.top() - high / 2 - 1:
            text = number_text(scales.up.wrapped(number))
            painter.drawText(where, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, text)


def short(painter: QPainter, text: str, wide: float, cut: list[str]) -> str:
    """The text elided to fit; the whole text is then appended to `cut`, for the tooltip."""
    shown = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(wide))
    if shown != text:
        cut.append(text)
    return shown


def paint_letter(
    painter: QPainter, at: QPointF, place: int, palette: look.Palette, *, chosen: bool = False, ghost: bool = False
) -> None:
    """Paint the letter of a tune on its disc, which can be dragged."""
    radius = look.height(9) / 2 + 2
    ink = look.ink(palette, place)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(ink, 2.5 if chosen else 1.2))
    painter.setBrush(QColor(palette.paper))
    painter.drawEllipse(at, radius, radius)
    if not ghost:
        painter.setFont(look.font(9, bold=True))
        painter.setPen(QColor(palette.ink))
        box = QRectF(at.x() - radius, at.y() - radius, 2 * radius, 2 * radius)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, look.letter(place))
    painter.setBrush(Qt.BrushStyle.NoBrush)


def path_of(scales: Scales, x: NDArray[np.float64], y: NDArray[np.float64]) -> QPainterPath:
    """A line through points, broken where one is not finite."""
    across = scales.room.left() + (x - scales.left) * (scales.room.width() / (scales.right - scales.left))
    up = scales.room.bottom() - (y - scales.bottom) * (scales.room.height() / (scales.top - scales.bottom))
    return arrayToQPath(across, up, connect="finite", finiteCheck=True)


def nearest(at: QPointF, letters: Sequence[tuple[int, Tune, QPointF]]) -> Tune | None:
    """The tune whose letter is under, or very near to, the mouse."""
    near = look.height(9) / 2 + 6
    far, tune = min(
        (((at - point).manhattanLength(), tune) for _, tune, point in letters),
        key=lambda each: each[0], default=(near + 1, None),
    )  # fmt: skip
    return tune if far <= near else None


def hatch(palette: look.Palette, *, other_way: bool = False) -> QBrush:
    """The hatching of what is wanted, which can be read without colour."""
    pattern = Qt.BrushStyle.FDiagPattern if other_way else Qt.BrushStyle.BDiagPattern
    return QBrush(look.mixed(QColor(palette.accent), QColor(palette.paper), 0.6), pattern)


def rounded_for(parameter: Parameter, value: float, span: float, scale: AxisScale = PLAIN) -> float:
    """A value rounded for a scale that shows `span`, within its limits."""
    if parameter.kind == "whole":
        value = float(round(value))
    else:
        step = 10.0 ** math.floor(math.log10(max(abs(span), 1e-9) / 200.0))
        value = scale.kept(round(round(scale.on_axis(value) / step) * step, 12))
    return min(max(value, parameter.low), parameter.high)
