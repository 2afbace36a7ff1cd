"""A label for words that change with every frame."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget


class ShortLabel(QWidget):
    """It shortens what does not fit, instead of pushing its neighbours aside or running into them.

    A QLabel asks for a new layout of the whole window with every text, which takes longer than to paint it.
    """

    def __init__(self, text: str = "", *, alignment: Qt.AlignmentFlag = Qt.AlignmentFlag.AlignLeft) -> None:
        super().__init__()
        self._alignment = alignment
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.setText(text)

    def text(self) -> str:
        return self._text

    def setText(self, text: str) -> None:
        self._text = text
        self.setToolTip(text)
        self.setAccessibleName(text)
        self.update()

    def sizeHint(self) -> QSize:
        return self.fontMetrics().size(Qt.TextFlag.TextSingleLine, self._text)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setPen(self.palette().color(self.foregroundRole()))
        text = self.fontMetrics().elidedText(self._text, Qt.TextElideMode.ElideRight, self.width())
        painter.drawText(self.rect(), int(self._alignment | Qt.AlignmentFlag.AlignVCenter), text)
