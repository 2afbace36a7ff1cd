"""What every widget on the shared time axis has in common: the frame cursor, zoom and pan; and the ruler below them all."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QWheelEvent
from PySide6.QtWidgets import QWidget

from cinetica.desk import look
from cinetica.desk.compare.time_axis import ROOM, TimeAxis, round_step
from cinetica.desk.session import Session

# Half the width of the flag with the number of the frame, in pixels.
CURSOR_REACH = 48


class OnTimeAxis(QWidget):
    """A widget on the time axis: a drag moves the frame cursor, the wheel zooms, with Shift it pans."""

    def __init__(self, session: Session, axis: TimeAxis, palette: look.Palette) -> None:
        super().__init__()
        self.session, self.axis, self.look = session, axis, palette
        self._cursor_x = 0
        axis.changed.connect(self.update)

    def set_look(self, palette: look.Palette) -> None:
        self.look = palette
        self.update()

    def _to_cursor(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton and event.position().x() >= ROOM.left - 4:
            self.session.set_cursor(self.axis.row_at(self.axis.time(event.position().x(), self.width())))

    mousePressEvent = mouseMoveEvent = _to_cursor

    def wheelEvent(self, event: QWheelEvent) -> None:
        turn_axis(self.axis, event, self.axis.time(event.position().x(), self.width()))

    def move_cursor(self, *_: object) -> None:
        """Repaint where the cursor was and where it is now, and the readout's title."""
        now = round(self.at(self.session.time_at(self.session.cursor)))
        for x in (self._cursor_x, now):
            self.update(x - CURSOR_REACH, 0, 2 * CURSOR_REACH, self.height())
        self.update(self.width() - ROOM.right, 0, ROOM.right, self.height())
        self._cursor_x = now

    def at(self, time: float) -> float:
        return self.axis.x(time, self.width())

    def paint_cursor(self, painter: QPainter, top: float, bottom: float) -> float:
        x = self.at(self.session.time_at(self.session.cursor))
        painter.setPen(QPen(QColor(self.look.ink), 1))
        painter.drawLine(QPointF(x, top), QPointF(x, bottom))
        return x


    def blank(self, height: int) -> QPixmap:
        """A piece of paper: what moves less often than the cursor is painted once, on such pictures."""
        picture = QPixmap(QSize(self.width(), height) * self.devicePixelRatio())
        picture.setDevicePixelRatio(self.devicePixelRatio())
        picture.fill(QColor(self.look.paper))
        return picture


def turn_axis(axis: TimeAxis, event: QWheelEvent, time: float) -> None:
    turn = (event.angleDelta().y() or event.angleDelta().x()) / 120
    if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
        axis.pan(-0.1 * turn)
    else:
        axis.zoom(0.85**turn, time)
    event.accept()


class Ruler(OnTimeAxis):
    """Seconds under the strips."""

    def __init__(self, session: Session, axis: TimeAxis, palette: look.Palette) -> None:
        super().__init__(session, axis, palette)
        self.setFixedHeight(20)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setFont(look.font(8))
        painter.setPen(QColor(self.look.soft))
        painter.drawText(QRectF(0, 0, ROOM.left - 8, 18), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, "time, s")
        step = round_step(self.axis.end - self.axis.start, (self.width() - ROOM.left - ROOM.right) / 90)
        number = int(self.axis.start // step)
        while (time := number * step) <= self.axis.end:
            x = self.at(time)
            if ROOM.left <= x <= self.width() - ROOM.right:
                painter.drawText(QRectF(x - 40, 0, 80, 18), Qt.AlignmentFlag.AlignCenter, f"{time:.6g}")
            number += 1
