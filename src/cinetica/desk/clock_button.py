"""The clock in the header, whose digits may change with every mouse move."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QShowEvent
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.paint.canvas import PIXELS, Canvas, Sketch, caption_width
from cinetica.desk.widgets import ARROW_ROOM, OpensButton, digits_as_zeros

SIZE = 10


class ClockButton(OpensButton):
    """A button that does not start a new layout, or repaint what is under it, when its digits change.

    It looks like the other buttons of the header, as `window.qss` defines them, but is drawn like the plots, since a
    style takes ten times as long. It needs an accessible name of its own.
    """

    _words = ""

    def __init__(self) -> None:
        super().__init__()
        self.setFont(look.font(SIZE))

    @override
    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        # Only now: applying a style sheet resets it.
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)

    @override
    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.StyleChange:
            self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)

    @override
    def setText(self, words: str) -> None:
        """Show other words."""
        before, self._words = self._words, words
        if digits_as_zeros(before) == digits_as_zeros(words):
            self.update()
        else:
            super().setText(words)

    @override
    def text(self) -> str:
        """The words shown."""
        return self._words

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            look.fill_ground(painter, QRectF(self.rect()), look.color(look.palette().frame))
            self._draw(Canvas(painter, QRectF(self.rect())))

    def _draw(self, canvas: Canvas) -> None:
        palette, wide, high = look.palette(), self.width(), self.height()
        ink = look.color(palette.frame_text)
        if self.underMouse() or self.isDown():
            canvas.box((0, high, wide, 0), PIXELS, look.color("white", 28))
        if self.hasFocus():
            canvas.box((0, high, wide, high - 3), PIXELS, look.color(palette.frame_soft))
        words, room = caption_width(self._words, SIZE), look.width(ARROW_ROOM, SIZE)
        left = round((wide - words - room) / 2)
        canvas.text(self._words, left, high // 2, SIZE, ink)
        size = max(3.0, look.height(SIZE) * 0.2)
        x, y = min(left + words + 0.62 * room, wide - size - 2), high / 2 + 0.5
        arrow = Sketch((x - size, x, x + size), (y - size / 2, y + size / 2, y - size / 2))
        canvas.line(arrow, PIXELS, ink, 1.5)
