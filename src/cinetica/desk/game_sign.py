"""The small place in the header that shows the link to a running game: off, waiting, or linked."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QIcon, QPainter, QPen, QPixmap
from PySide6.QtWidgets import QToolButton

from cinetica.desk import look

OFF, WAITING, LINKED = "off", "waiting", "linked"
SIZE = 10


def game_button() -> QToolButton:
    """The button; `show_state` says what it shows."""
    made = QToolButton()
    made.setText("Game")
    made.setFont(look.font(SIZE))
    made.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
    side = look.px(10)
    made.setIconSize(QSize(side, side))
    show_state(made, OFF)
    return made


def show_state(button: QToolButton, state: str) -> None:
    """Show a state: a ring while it is off, half a disc while it waits, a disc while it is linked."""
    side, ratio = button.iconSize().width(), button.devicePixelRatio()
    picture = QPixmap(round(side * ratio), round(side * ratio))
    picture.setDevicePixelRatio(ratio)
    picture.fill(Qt.GlobalColor.transparent)
    ink = QColor(look.palette().frame_text)
    with QPainter(picture) as painter:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        disc = QRectF(1, 1, side - 2, side - 2)
        painter.setPen(QPen(ink, 1.3))
        painter.drawEllipse(disc)
        if state != OFF:
            painter.setBrush(ink)
            painter.drawPie(disc, 90 * 16, 360 * 16 if state == LINKED else 180 * 16)
    button.setIcon(QIcon(picture))
    button.setAccessibleName(f"Game: {state}")
