"""A mouse that turns the look: captured while it does, and released by Escape."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, QPoint, Qt, Signal
from PySide6.QtGui import QCursor, QMouseEvent
from PySide6.QtWidgets import QWidget
from typing_extensions import override


class MouseLook(QObject):
    """Gathers how far the mouse has moved, in pixels, which stand for counts: to the right, and up.

    The cursor is hidden and put back to the middle after each move, so that no edge of the screen stops it. A desktop
    that does not let a program place the cursor leaves it where it is.
    """

    changed = Signal(bool)

    def __init__(self, over: QWidget) -> None:
        super().__init__(over)
        self._over = over
        self.captured = False
        self._at = QPoint()
        self._moved = QPoint()

    def capture(self, on: bool) -> None:
        """Take the mouse, or let it go."""
        if on == self.captured:
            return
        self.captured = on
        self._moved = QPoint()
        if on:
            self._over.setMouseTracking(True)
            self._over.installEventFilter(self)
            self._over.setCursor(Qt.CursorShape.BlankCursor)
            self._over.grabMouse()
            self._centre()
        else:
            self._over.removeEventFilter(self)
            self._over.releaseMouse()
            self._over.unsetCursor()
        self.changed.emit(on)

    def taken(self) -> tuple[float, float]:
        """The counts since the last call."""
        moved, self._moved = self._moved, QPoint()
        return float(moved.x()), float(-moved.y())

    def _centre(self) -> None:
        middle = self._over.mapToGlobal(self._over.rect().center())
        QCursor.setPos(middle)
        self._at = QCursor.pos()

    @override
    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.MouseMove and isinstance(event, QMouseEvent):
            to = event.globalPosition().toPoint()
            self._moved += to - self._at
            self._at = to
            if not self._over.rect().adjusted(40, 40, -40, -40).contains(event.position().toPoint()):
                self._centre()
            return True
        return False
