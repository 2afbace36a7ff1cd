"""The stage of the page Play: the course, the character with its shadows, drawn between ticks, the camera following."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray
from pyqtgraph.functions import arrayToQPolygonF
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QBrush, QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from cinetica.desk import look
from cinetica.desk.paint.course import paint_slope
from cinetica.desk.play.game import Game
from cinetica.model.tune import Follow, Tune
from cinetica.motion.records import STATES
from cinetica.motion.simulate import mark_names
from cinetica.reading.body import box_of, too_steep
from cinetica.reading.spans import GRACE_WORDS, grace_left

# Height of the world in view, in u; how far the camera lets the character go from the middle, as a share of the view.
VIEW_HEIGHT = 9.0
LEASH = 0.12
TRAIL_SECONDS = 1.5
MARK_SECONDS = 0.6


class Arena(QWidget):
    """`places` are those of the tunes in the study, which give them their letters and inks; `followed` is the one in
    the middle."""

    painted = Signal()

    def __init__(self, game: Game) -> None:
        super().__init__()
        self.game = game
        self.places: list[int] = []
        self.followed = 0
        self.words_shown = True
        # The camera of the tune's own rules, or one that lets the character run a little way from the middle.
        self.own_camera = True
        self._camera = QPointF(0, 0)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName("The character on its course")
        self.setMinimumHeight(look.px(96))

    def centre(self) -> None:
        """Put the camera on the character at once."""
        live = self.game.live
        if live is not None and self.followed < len(live.tunes):
            self._camera = self._between(self.followed, "camera_") if self.own_camera else self.position(self.followed)

    def position(self, place: int) -> QPointF:
        """Where a tune's body is drawn: between its last two rows, by the share of the tick that has passed."""
        return self._between(place, "")

    def _between(self, place: int, what: str) -> QPointF:
        live = self.game.live
        assert live is not None
        trace = live.trace(place)
        last, before = trace[-1], trace[max(0, len(trace) - 2)]
        share = self.game.share if not self.game.paused else 1.0
        x, y = (
            float(before[column]) + (float(last[column]) - float(before[column])) * share
            for column in (f"{what}x", f"{what}y")
        )
        return QPointF(x, y)

    @property
    def _scale(self) -> float:
        """Pixels for a unit."""
        return max(8.0, self.height() / VIEW_HEIGHT)

    def _follow(self) -> None:
        if self.own_camera:
            self._camera = self._between(self.followed, "camera_")
            return
        middle, reach = self.position(self.followed), LEASH * VIEW_HEIGHT
        for axis, value in (("x", middle.x()), ("y", middle.y())):
            at = getattr(self._camera, axis)()
            away = value - at
            if abs(away) > reach:
                getattr(self._camera, f"set{axis.upper()}")(value - np.sign(away) * reach)

    def to_screen(self, at: QPointF) -> QPointF:
        return QPointF(
            self.width() / 2 + (at.x() - self._camera.x()) * self._scale,
            self.height() * 0.6 - (at.y() - self._camera.y()) * self._scale,
        )

    def _rect(self, left: float, bottom: float, right: float, top: float) -> QRectF:
        return QRectF(self.to_screen(QPointF(left, top)), self.to_screen(QPointF(right, bottom)))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(look.worn().paper))
        live, drill = self.game.live, self.game.drill
        if live is None or drill is None:
            return
        self._follow()
        self._paint_grid(painter)
        self._paint_course(painter)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for place in reversed(range(len(live.tunes))):
            self._paint_body(painter, place)
        painter.end()
        self.painted.emit()

    def _paint_grid(self, painter: QPainter) -> None:
        painter.setPen(QPen(QColor(look.worn().grid_fine), 1))
        corner, opposite = self.width() / 2 / self._scale, self.height() / self._scale
        zero, scale = self.to_screen(QPointF(0, 0)), self._scale
        for x in range(int(self._camera.x() - corner) - 1, int(self._camera.x() + corner) + 2):
            at = round(zero.x() + x * scale)
            painter.drawLine(at, 0, at, self.height())
        for y in range(int(self._camera.y() - opposite) - 1, int(self._camera.y() + opposite) + 2):
            at = round(zero.y() - y * scale)
            painter.drawLine(0, at, self.width(), at)

    def _paint_course(self, painter: QPainter) -> None:
        assert self.game.drill is not None
        course = self.game.drill.course
        earth, edge = QColor(look.worn().earth), QColor(look.worn().earth_edge)
        for solid in course.climb:
            painter.fillRect(self._rect(*solid), QBrush(edge, Qt.BrushStyle.DiagCrossPattern))
        whole = QRectF(self.rect())
        painter.setPen(QPen(edge, 1))
        painter.setBrush(earth)
        for solid in course.solids:
            if (rect := self._rect(*solid)).intersects(whole):
                painter.drawRect(rect)
        for solid in course.oneway:
            rect = self._rect(*solid)
            painter.fillRect(rect, QBrush(edge, Qt.BrushStyle.Dense5Pattern))
            painter.setPen(QPen(edge, 2))
            painter.drawLine(rect.topLeft(), rect.topRight())
        for slope in course.slopes:
            one, other = (self.to_screen(QPointF(x, y)) for x, y in ((slope.x0, slope.y0), (slope.x1, slope.y1)))
            if QRectF(one, other).normalized().adjusted(0, 0, 1, 8).intersects(whole):
                paint_slope(painter, look.worn(), one, other, "–" if too_steep(self._followed_tune, slope) else "")
        if self.own_camera:
            self._paint_window(painter)

    @property
    def _followed_tune(self) -> Tune:
        assert self.game.live is not None
        return self.game.live.tunes[self.followed]

    def _paint_window(self, painter: QPainter) -> None:
        """The part of the view in which the body moves before the camera follows."""
        camera, tune = self._followed_tune.camera, self._followed_tune
        if camera.follow is Follow.NONE or not (camera.window_width or camera.window_height):
            return
        wide, high = camera.window_width * self._scale, camera.window_height * self._scale
        lift = 0.0 if tune.view == "top" else tune.body.height / 2
        middle = self.to_screen(self._camera + QPointF(0, lift))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(look.worn().soft), 1, Qt.PenStyle.DashLine))
        painter.drawRect(QRectF(middle.x() - wide / 2, middle.y() - high / 2, wide, high))

    def _paint_body(self, painter: QPainter, place: int) -> None:
        live = self.game.live
        assert live is not None
        tune, trace = live.tunes[place], live.trace(place)
        number = self.places[place] if place < len(self.places) else place
        ink = look.ink(look.worn(), number)
        at = self.position(place)
        box = self._rect(*box_of(tune, at.x(), at.y()))
        self._paint_trail(painter, trace, number, 0.0 if tune.view == "top" else tune.body.height / 2)
        wash = QColor(ink)
        wash.setAlpha(90 if place == self.followed else 30)
        painter.setBrush(wash)
        painter.setPen(look.ink_pen(look.worn(), number, 2.4 if place == self.followed else 1.4))
        painter.drawRect(box)
        painter.setPen(ink)
        painter.setFont(look.font(10, bold=True))
        high, wide = look.height(10, bold=True), look.width("W", 10, bold=True)
        over = QRectF(box.center().x() - wide / 2 + wide * place, box.top() - high - 2, wide, high)
        painter.drawText(over, Qt.AlignmentFlag.AlignCenter, look.letter(number))
        if place == self.followed and self.words_shown:
            self._paint_words(painter, box)

    def _paint_trail(self, painter: QPainter, trace: NDArray[Any], number: int, lift: float) -> None:
        assert self.game.live is not None
        recent = trace[-max(2, round(TRAIL_SECONDS * self.game.live.tick_rate)) :]
        zero = self.to_screen(QPointF(0, lift))
        points = arrayToQPolygonF(zero.x() + recent["x"] * self._scale, zero.y() - recent["y"] * self._scale)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(look.ink_pen(look.worn(), number, 1, 150))
        painter.drawPolyline(points)

    def words(self) -> str:
        """State, held keys, what is left of the grace, and what has just happened to the one that is followed."""
        live = self.game.live
        assert live is not None
        trace, tune = live.trace(self.followed), live.tunes[self.followed]
        row = trace[-1]
        words = [STATES[int(row["state"])]]
        held = sorted(self.game.hands().keys)
        if held:
            words.append("holds " + " ".join(held))
        words += [f"{GRACE_WORDS[word]} {left:.2f} s left" for word, left in grace_left(tune, row)]
        recent = trace[-max(1, round(MARK_SECONDS * live.tick_rate)) :]
        marked = np.flatnonzero(recent["marks"] & ~(1 << 10))
        if len(marked):
            words.append(" + ".join(name.replace("_", " ") for name in mark_names(int(recent["marks"][marked[-1]]))))
        return "   ·   ".join(words)

    def _paint_words(self, painter: QPainter, box: QRectF) -> None:
        text = self.words()
        painter.setFont(look.font(8))
        width = painter.fontMetrics().horizontalAdvance(text) + 14
        width = min(width, self.width() - 12)
        left = min(max(box.center().x() - width / 2, 6.0), max(6.0, self.width() - width - 6.0))
        high = look.height(8) + 4
        area = QRectF(left, max(2.0, box.top() - look.height(10, bold=True) - 6 - high), width, high)
        text = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, width - 8)
        ground = QColor(look.worn().paper)
        ground.setAlpha(225)
        painter.fillRect(area, ground)
        painter.setPen(QColor(look.worn().ink))
        painter.drawText(area, Qt.AlignmentFlag.AlignCenter, text)
