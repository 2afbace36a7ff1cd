"""The header of the sheet: letter, name and line of each tune, which is the key to every curve."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QRect, Qt, Signal
from PySide6.QtGui import QColor, QContextMenuEvent, QMouseEvent, QPainter
from PySide6.QtWidgets import QApplication, QHeaderView
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.sheet.model import FIRST_TUNE, SheetModel

# A tune's name that needs more room than this next to its letter goes below it.
SHORT_NAME = "Bramble"


def hidden_width() -> int:
    """The width of a hidden tune: only a small letter stays, to leave room for the others."""
    return look.width("W", 8, bold=True) + 3


def tight_width() -> int:
    """The width below which a column has its name under the letter."""
    return look.width("W", 11, bold=True) + look.width(SHORT_NAME, 9) + look.px(18)


class TuneHeader(QHeaderView):
    """A click makes a tune the reference, or shows it again; a drag copies or moves; columns are tunes."""

    chosen = Signal(int)
    rename_wanted = Signal(int)
    menu_wanted = Signal(QPoint)
    pressed_on = Signal(int)
    # A column's name was dragged to this place on the screen.
    dropped = Signal(int, QPoint)

    def __init__(self, model: SheetModel) -> None:
        super().__init__(Qt.Orientation.Horizontal)
        self._model = model
        self._pressed: tuple[int, QPoint] | None = None
        self._dragging = False
        self.setSectionsClickable(False)
        self.setFixedHeight(look.height(11, bold=True) + look.height(7) + look.px(9))
        self.setMinimumSectionSize(hidden_width())
        self.setAccessibleName("Tunes")

    def _column_at(self, at: QPoint) -> int | None:
        """The tune at a point; None outside the tunes, and on a game log."""
        column = self.logicalIndexAt(at) - FIRST_TUNE
        return column if column >= 0 and not self._model.is_log(column) else None

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        column = self._column_at(event.position().toPoint())
        if column is not None:
            self.pressed_on.emit(column)
            if event.button() == Qt.MouseButton.LeftButton:
                self._pressed = (column, event.position().toPoint())

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pressed is None:
            return
        if (event.position().toPoint() - self._pressed[1]).manhattanLength() >= QApplication.startDragDistance():
            self._dragging = True
            self.setCursor(Qt.CursorShape.DragCopyCursor)

    @override
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        pressed, dragging = self._pressed, self._dragging
        self._pressed, self._dragging = None, False
        self.unsetCursor()
        if pressed is None or event.button() != Qt.MouseButton.LeftButton:
            return
        if dragging:
            self.dropped.emit(pressed[0], self.viewport().mapToGlobal(event.position().toPoint()))
        else:
            self.chosen.emit(pressed[0])

    @override
    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        column = self._column_at(event.position().toPoint())
        if column is not None:
            self.rename_wanted.emit(column)

    @override
    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        column = self._column_at(event.pos())
        if column is not None:
            self.pressed_on.emit(column)
            self.menu_wanted.emit(event.globalPos())

    @override
    def paintSection(self, painter: QPainter, rect: QRect, section: int) -> None:
        painter.fillRect(rect, QColor(look.palette().sheet))
        if section < FIRST_TUNE:
            return
        session = self._model.session
        place, tune = self._model.tunes[section - FIRST_TUNE]
        hidden, ink = session.is_hidden(tune), look.ink(look.palette(), place)
        painter.setFont(look.font(11, bold=True))
        if hidden:
            painter.setFont(look.font(8, bold=True))
            painter.setPen(QColor(look.palette().soft))
            painter.drawText(rect.adjusted(2, 0, 0, -6), Qt.AlignmentFlag.AlignVCenter, look.letter(place))
            return
        tight = rect.width() < tight_width()
        high, wide = look.height(11, bold=True), look.width("W", 11, bold=True) + look.px(4)
        box = QRect(rect.left() + 3, rect.top() + (1 if tight else (rect.height() - 6 - high) // 2), wide, high)
        # By name: during a drag the model may still hold the previous tune.
        is_log = self._model.is_log(section - FIRST_TUNE)
        if session.reference is not None and tune.name == session.reference.name and not is_log:
            # The reference's letter is printed white on its ink.
            painter.fillRect(box, ink)
            painter.setPen(QColor(look.palette().sheet))
        else:
            painter.setPen(ink)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, look.letter(place))
        painter.setPen(QColor(look.palette().soft if tune.snapshot_of or is_log else look.palette().ink))
        painter.setFont(look.font(7 if tight else 9))
        if tight:
            # Six tunes: the name stands under the letter.
            room = QRect(rect.left() + 4, box.bottom() + 1, rect.width() - 5, look.height(7))
        else:
            room = rect.adjusted(box.width() + 7, 0, 0, -6)
        name = painter.fontMetrics().elidedText(tune.name, Qt.TextElideMode.ElideRight, room.width() - 2)
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, name)
        painter.setPen(look.ink_pen(look.palette(), place, 2.5))
        painter.drawLine(rect.left() + 5, rect.bottom() - 5, rect.right() - 3, rect.bottom() - 5)
