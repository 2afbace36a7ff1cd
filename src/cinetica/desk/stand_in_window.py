"""The window of the stand-in game: the character on its solids, and the state of the link in words."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QColor, QFocusEvent, QFont, QKeyEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QApplication, QWidget
from typing_extensions import override

from cinetica.stand_in.game import StandIn

Key = Qt.Key
KEYS = {
    Key.Key_Left: "left", Key.Key_A: "left", Key.Key_Right: "right", Key.Key_D: "right", Key.Key_Up: "up",
    Key.Key_W: "up", Key.Key_Down: "down", Key.Key_S: "down", Key.Key_Space: "jump", Key.Key_Shift: "modifier",
}  # fmt: skip
# A picture of the game, not of the desk: another paper, so that nobody takes one for the other.
PAPER, EARTH, EDGE, BODY, INK = "#E8EEF2", "#9FB0BC", "#5C7282", "#2F6F4E", "#22303A"
FRAME_MS, HIGH = 15, 8.0
# How far a key changes a number, as a share of it.
SHARE = 0.05
HELP = "A D or arrows run, Space jumps, R restarts, P pauses, + − top speed"


class StandInWindow(QWidget):
    """The window. It follows the character, and its keys move it."""

    def __init__(self, game: StandIn) -> None:
        super().__init__()
        self.game = game
        self.setWindowTitle("Stand-in game")
        self.resize(560, 360)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.timer = QTimer(self, interval=FRAME_MS)
        self.timer.setTimerType(Qt.TimerType.PreciseTimer)
        self.timer.timeout.connect(self.frame)
        self.timer.start()

    def frame(self) -> None:
        """Run what is due, and paint it."""
        self.game.advance()
        self.update()

    @property
    def words(self) -> str:
        """The state of the link, in words."""
        link = self.game.link
        if not link.linked:
            return f"looking for the desk on port {link.desk[1]}"
        tune = f", with {link.tune}" if link.tune else ""
        paused = ", paused" if self.game.paused else ""
        return f"linked to {link.desk_name}{tune}{paused}"

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        body = self.game.body
        with QPainter(self) as painter:
            painter.fillRect(self.rect(), QColor(PAPER))
            tall = HIGH * max(1.0, abs(body.numbers["height"]) / 1.6)
            scale = self.height() / tall
            left, top = self.width() / 2 - body.x * scale, self.height() * 0.68 + body.y * scale
            painter.setPen(QColor(EDGE))
            painter.setBrush(QColor(EARTH))
            for solid in body.solids:
                near = QRectF(
                    QPointF(left + solid[0] * scale, top - solid[3] * scale),
                    QPointF(left + solid[2] * scale, top - solid[1] * scale),
                )
                painter.drawRect(near.intersected(QRectF(self.rect()).adjusted(-2, -2, 2, 2)))
            if math.isfinite(body.x + body.y):
                self._paint_body(painter, left, top, scale)
            painter.setPen(QColor(INK))
            painter.setFont(QFont(self.font().family(), 9))
            painter.drawText(10, 18, self.words)
            painter.drawText(10, self.height() - 8, HELP)

    def _paint_body(self, painter: QPainter, left: float, top: float, scale: float) -> None:
        body = self.game.body
        wide, high = body.numbers["width"] * scale, body.numbers["height"] * scale
        painter.setBrush(QColor(BODY))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.drawRoundedRect(QRectF(left + body.x * scale - wide / 2, top - body.y * scale - high, wide, high), 4, 4)

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        game, key = self.game, Qt.Key(event.key())
        if event.isAutoRepeat():
            return
        if key in KEYS:
            game.held.add(KEYS[key])
        elif key == Key.Key_R:
            game.begin()
        elif key == Key.Key_P:
            game.pause(not game.paused)
        elif key in (Key.Key_Plus, Key.Key_Equal, Key.Key_Minus):
            more = 1 - SHARE if key == Key.Key_Minus else 1 + SHARE
            game.change("top_speed", round(game.numbers["top_speed"] * more, 4))
        else:
            super().keyPressEvent(event)

    @override
    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if not event.isAutoRepeat() and (name := KEYS.get(Qt.Key(event.key()))):
            self.game.held.discard(name)

    @override
    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.game.held.clear()

    @override
    def closeEvent(self, event: QCloseEvent) -> None:
        self.timer.stop()
        self.game.close()
        event.accept()


def run(game: StandIn) -> int:
    """Show the game until its window is closed; returns the exit status."""
    app = QApplication.instance() or QApplication([])
    window = StandInWindow(game)
    window.show()
    return int(app.exec())
