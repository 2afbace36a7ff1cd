"""What all widgets on the shared time axis have in common: frame cursor, zoom and pan; and the ruler below them."""

from __future__ import annotations

import math

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QWheelEvent
from PySide6.QtWidgets import QWidget
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.compare.time_axis import ROOM, TimeAxis
from cinetica.desk.paint.steps import multiples, round_step
from cinetica.desk.state.session import Session


class OnTimeAxis(QWidget):
    """A widget on the time axis: a drag moves the frame cursor, the wheel zooms, and pans with Shift."""

    def __init__(self, session: Session, axis: TimeAxis) -> None:
        super().__init__()
        self.session, self.axis = session, axis
        axis.changed.connect(self.update)
        session.units_changed.connect(self.update)

    def _to_cursor(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton and event.position().x() >= ROOM.left - 4:
            self.session.set_cursor(self.axis.row_at(self.axis.time(event.position().x(), self.width())))

    mousePressEvent = mouseMoveEvent = _to_cursor

    @override
    def wheelEvent(self, event: QWheelEvent) -> None:
        turn_axis(self.axis, event, self.axis.time(event.position().x(), self.width()))

    def move_cursor(self, *_: object) -> None:
        """Repaint; what does not move with the cursor is cached."""
        # The flag of the frame may reach a little further left; the titles there are not repainted.
        left = ROOM.left - look.px(40)
        self.update(left, 0, self.width() - left, self.height())

    def at(self, time: float) -> float:
        """The pixel of a time."""
        return self.axis.x(time, self.width())

    @property
    def cursor_x(self) -> int:
        """The pixel column of the frame cursor."""
        return math.floor(self.at(self.session.time_at(self.session.cursor)))


def turn_axis(axis: TimeAxis, event: QWheelEvent, time: float) -> None:
    """Zoom or pan the axis by a wheel event at a time."""
    turn = (event.angleDelta().y() or event.angleDelta().x()) / 120
    if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
        axis.pan(-0.1 * turn)
    else:
        axis.zoom(0.85**turn, time)
    event.accept()


class Ruler(OnTimeAxis):
    """Times below the strips."""

    def __init__(self, session: Session, axis: TimeAxis) -> None:
        super().__init__(session, axis)
        self.setFixedHeight(look.height(8) + 6)

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setFont(look.font(8))
            painter.setPen(QColor(look.palette().soft))
            scale = self.session.units.scale("s")
            high, wide = self.height(), look.width("−0.0005", 8)
            painter.drawText(
                QRectF(0, 0, ROOM.left - 8 - wide / 2, high),
                Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight,
                f"time, {scale.unit}",
            )
            start, end = scale.span(self.axis.start, self.axis.end)
            step = round_step(end - start, (self.width() - ROOM.left - ROOM.right) / (2 * wide))
            for number in multiples(step, start, end):
                x = self.at(scale.kept(number))
                if ROOM.left <= x <= self.width() - ROOM.right:
                    text = f"{number + 0.0:.6g}".replace("-", "−")
                    painter.drawText(QRectF(x - wide, 0, 2 * wide, high), Qt.AlignmentFlag.AlignCenter, text)
