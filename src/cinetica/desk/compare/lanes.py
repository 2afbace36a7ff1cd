"""The hands' lanes: one for each key, one for each axis of a stick."""

from __future__ import annotations

from typing import Literal, cast

from PySide6.QtCore import QPoint, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF

from cinetica.desk import look
from cinetica.desk.compare.on_time_axis import OnTimeAxis
from cinetica.desk.compare.time_axis import ROOM, TimeAxis
from cinetica.desk.paint.kept import Kept
from cinetica.desk.paint.signs import paint_triangle
from cinetica.desk.state.session import Session
from cinetica.model import takes
from cinetica.model.take import KEYS, Press, Push, Take
from cinetica.model.takes import STICKS, Stick

Part = Literal["start", "end", "middle"]
GRIP = 5


class Lanes(OnTimeAxis):
    """Where everything is, and how it looks."""

    def __init__(self, session: Session, axis: TimeAxis) -> None:
        super().__init__(session, axis)
        self.lane, self.top = look.height(8) + look.px(8), look.height(8, bold=True) + 5
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.selected: tuple[str, Press | Push] | None = None
        self.current_lane = 0
        # Lanes that the person has added, though nothing is in them.
        self._added: list[str] = []
        self._picture = Kept()
        self._painted: tuple[object, ...] = ()

    def _resize(self) -> None:
        """There may be more lanes than before, or fewer."""
        if self.sizeHint().height() != self.height():
            self.updateGeometry()
        self.update()

    def _follow_traces(self) -> None:
        """The hands stay while a number is dragged; only what stands at the frame cursor can be another time."""
        if self._painted != self._shown_now:
            self._resize()

    @property
    def _shown_now(self) -> tuple[object, ...]:
        session = self.session
        return session.drill, session.cursor, session.time_at(session.cursor)

    @property
    def take(self) -> Take | None:
        return self.session.drill.take if self.session.drill else None

    @property
    def lanes(self) -> list[str]:
        """Those that the take uses, and those that the person has added."""
        take = self.take
        if take is None:
            return []
        sticks = [stick for stick in STICKS if getattr(take, stick) or stick in self._added]
        return [key for key in KEYS if getattr(take.keys, key) or key in self._added] + [
            f"{stick} {axis}" for stick in sticks for axis in "xy"
        ]

    def paintEvent(self, event: QPaintEvent) -> None:
        self._painted = self._shown_now
        painter = QPainter(self)
        chosen = (self.selected, self.current_lane, tuple(self._added), self.hasFocus())
        drawn = (self.session.drill, self.axis.start, self.axis.end, look.worn(), chosen)
        self._picture.lay(painter, QRectF(self.rect()), QColor(look.worn().paper), drawn, self._paint_lanes)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_flag(painter)
        self._paint_over(painter)

    def _paint_over(self, painter: QPainter) -> None:
        """What lies over the lanes while they are edited."""

    def _paint_lanes(self, painter: QPainter) -> None:
        painter.fillRect(QRectF(self.width() - ROOM.right, 0, 1, self.height()), QColor(look.worn().grid))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setClipRect(QRectF(0, 0, self.width() - ROOM.right + 1, self.height()))
        painter.setFont(look.font(8))
        take, lanes = self.take, self.lanes
        if take is not None and not lanes:
            painter.setPen(QColor(look.worn().soft))
            area = QRectF(ROOM.left, self.top, self.width() - ROOM.left - ROOM.right, self.lane)
            words = "The hands do nothing yet: add a lane from the menu Hands."
            words = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, round(area.width()))
            painter.drawText(area, Qt.AlignmentFlag.AlignVCenter, words)
        for number, name in enumerate(lanes):
            y = self.top + number * self.lane
            here = number == self.current_lane and self.hasFocus()
            color = QColor(look.worn().accent if here else look.worn().soft)
            painter.setPen(color)
            painter.drawText(
                QRectF(0, y, ROOM.left - 8, self.lane),
                Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight,
                name,
            )
            if here:
                x = ROOM.left - 8 - look.width(name, 8) - look.px(7)
                paint_triangle(painter, QPointF(x, y + self.lane / 2), look.px(8), "right", color)
            painter.setPen(QColor(look.worn().grid_fine))
            painter.drawLine(
                QPointF(ROOM.left, y + self.lane - 0.5), QPointF(self.width() - ROOM.right, y + self.lane - 0.5)
            )
            assert take is not None
            if name in KEYS:
                self._paint_presses(painter, y, name, take)
            else:
                self._paint_stick(painter, y, name, take)
        self._paint_end(painter, take)

    def _paint_end(self, painter: QPainter, take: Take | None) -> None:
        """Where the take ends."""
        if take is not None and (x := self.at(take.seconds)) < self.width() - ROOM.right:
            painter.setPen(QPen(QColor(look.worn().soft), 1, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(x, self.top), QPointF(x, self.height()))

    def _rect(self, press: Press, y: float, rate: float) -> QRectF:
        left, right = self.at(press.start / rate), self.at(press.end / rate)
        return QRectF(max(left, ROOM.left), y + 4, right - max(left, ROOM.left), self.lane - 9)

    def _paint_presses(self, painter: QPainter, y: float, name: str, take: Take) -> None:
        for press in takes.presses_of(take, name):
            rect = self._rect(press, y, take.rate)
            if rect.width() <= 0:
                continue
            selected = self.selected == (name, press)
            painter.setPen(QPen(QColor(look.worn().ink), 2) if selected else Qt.PenStyle.NoPen)
            painter.setBrush(QColor(look.worn().accent))
            painter.drawRoundedRect(rect, 3, 3)

    def _paint_stick(self, painter: QPainter, y: float, name: str, take: Take) -> None:
        """The stick's axis as steps between -1 and 1, with a dot for each push."""
        stick, axis = name.split()
        points = [QPointF(self.at(0), self._height_of(0.0, y))]
        dots: list[tuple[Push, QPointF]] = []
        for push in takes.pushes_of(take, cast(Stick, stick)):
            at = QPointF(self.at(push.frame / take.rate), self._height_of(push.x if axis == "x" else push.y, y))
            points += [QPointF(at.x(), points[-1].y()), at]
            dots.append((push, at))
        points.append(QPointF(self.at(take.seconds), points[-1].y()))
        painter.save()
        painter.setClipRect(QRectF(ROOM.left - 4, y, self.width() - ROOM.right - ROOM.left + 4, self.lane))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(look.worn().accent), 1.5))
        painter.drawPolyline(QPolygonF(points))
        for push, at in dots:
            selected = self.selected is not None and self.selected[0].split()[0] == stick and self.selected[1] == push
            painter.setPen(QPen(QColor(look.worn().ink), 2) if selected else Qt.PenStyle.NoPen)
            painter.setBrush(QColor(look.worn().accent))
            painter.drawEllipse(at, 3.0, 3.0)
        painter.restore()

    def _height_of(self, value: float, y: float) -> float:
        return y + self.lane / 2 - (self.lane / 2 - 3) * value

    def _paint_flag(self, painter: QPainter) -> None:
        x = self.paint_cursor(painter, self.top - 2, self.height())
        self._paint_label(painter, x, str(self.session.cursor), 1)

    def _paint_label(self, painter: QPainter, x: float, text: str, y: float) -> None:
        painter.setFont(look.font(8, bold=True))
        width = painter.fontMetrics().horizontalAdvance(text) + 14
        left = min(max(x - width / 2, 2.0), self.width() - width - 2)
        flag = QRectF(left, y, width, self.top - 2)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(look.worn().ink))
        painter.drawRoundedRect(flag, 3, 3)
        painter.setPen(QColor(look.worn().paper))
        painter.drawText(flag, Qt.AlignmentFlag.AlignCenter, text)

    def _lane_at(self, y: float) -> str | None:
        number = int((y - self.top) // self.lane)
        return self.lanes[number] if y >= self.top and 0 <= number < len(self.lanes) else None

    def frame_at(self, x: float) -> int:
        """The frame of the take under a pixel."""
        return int(self.axis.time(x, self.width()) * (self.take.rate if self.take else 60.0) + 1e-6)

    def _edge_at(self, x: float) -> int:
        """The border between frames that is nearest to a pixel."""
        return round(self.axis.time(x, self.width()) * (self.take.rate if self.take else 60.0))

    def thing_at(self, at: QPointF) -> tuple[str, Press | Push | None, Part] | None:
        """The lane under the mouse, and in it the press or push, and which part of it."""
        lane, take = self._lane_at(at.y()), self.take
        if lane is None or take is None or at.x() < ROOM.left - GRIP or at.x() > self.width() - ROOM.right + GRIP:
            return None
        y = self.top + self.lanes.index(lane) * self.lane
        if lane in KEYS:
            for press in takes.presses_of(take, lane):
                rect = self._rect(press, y, take.rate)
                grip = min(GRIP, max(1.0, rect.width() / 4))
                if rect.left() - GRIP <= at.x() <= rect.right() + GRIP:
                    part: Part = (
                        "start" if at.x() < rect.left() + grip else "end" if at.x() > rect.right() - grip else "middle"
                    )
                    return lane, press, part
            return lane, None, "end"
        pushes = takes.pushes_of(take, cast(Stick, lane.split()[0]))
        near = [push for push in pushes if abs(self.at(push.frame / take.rate) - at.x()) <= GRIP]
        return lane, near[0] if near else None, "middle"

    def spot_of(self, lane: str, frame: float) -> QPoint:
        """The pixel of a frame in a lane."""
        assert self.take is not None
        return QPoint(
            round(self.at(frame / self.take.rate)), round(self.top + (self.lanes.index(lane) + 0.5) * self.lane)
        )
