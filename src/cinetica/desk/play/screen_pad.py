"""An on-screen pad for the mouse: a stick and two buttons, with a live view of the dead zone."""

from __future__ import annotations

import math
from collections import deque

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QSlider, QVBoxLayout, QWidget
from typing_extensions import override

from cinetica.desk import look
from cinetica.model.tune import Tune
from cinetica.motion.intent import join_axes, shape_stick
from cinetica.motion.records import tune_records

TRAIL = 240

# In hundredths of the stick's travel; a pad that drifts more is broken.
MOST_DRIFT = 40


class StickView(QWidget):
    """The raw stick as a dot, the dead zone as a ring, the shaped intent as a diamond, and the stick's trail."""

    moved = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.stick = (0.0, 0.0)
        # The stick of a real pad, shown while the on-screen one rests; and the drift of the on-screen one.
        self.real = (0.0, 0.0)
        self.drift = (0.0, 0.0)
        self.tune: Tune | None = None
        self._trail: deque[tuple[float, float]] = deque(maxlen=TRAIL)
        self.setMinimumSize(max(look.px(120), look.width("intent  −0.00  −0.00", 8) + look.px(28)), look.px(96))
        self.setAccessibleName("On-screen stick: drag to push it")
        self.setToolTip(
            "Drag to push the stick. Dot: raw. Ring: dead zone. Diamond: the resulting intent. The line is where the"
            " stick has been."
        )

    @property
    def raw(self) -> tuple[float, float]:
        """The stick shown: the one on the screen or, while that rests, the real one."""
        return self.real if self.stick == (0.0, 0.0) and self.real != (0.0, 0.0) else self.own

    @property
    def own(self) -> tuple[float, float]:
        """The position of the on-screen stick, with its drift."""
        x, y = (max(-1.0, min(1.0, value + drift)) for value, drift in zip(self.stick, self.drift, strict=True))
        return x, y

    def intent(self) -> tuple[float, float]:
        """The followed tune's intent, before it is turned by the view."""
        if self.tune is None:
            return self.raw
        p = tune_records([self.tune])[0]
        x, y = join_axes(*shape_stick(*self.raw, p), p.diagonal_rule)
        return float(x), float(y)

    def push(self, x: float, y: float) -> None:
        """Move the stick, at most to its round rim."""
        length = math.hypot(x, y)
        self.stick = (x / length, y / length) if length > 1 else (x, y)
        self._trail.append(self.raw)
        self.moved.emit()
        self.update()

    def release_all(self) -> None:
        """Release the stick."""
        self.push(0.0, 0.0)

    def show_real(self, stick: tuple[float, float]) -> None:
        """Show the stick of a real pad."""
        if stick != self.real:
            self.real = stick
            self._trail.append(self.raw)
            self.update()

    @property
    def _radius(self) -> float:
        return max(10.0, min(self.width(), self.height() - 4 * look.height(8)) / 2 - 10)

    def at(self, x: float, y: float) -> QPointF:
        """The pixel of a stick position."""
        return QPointF(self.width() / 2 + x * self._radius, self.height() / 2 - y * self._radius)

    def _to_mouse(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self.push(
                (event.position().x() - self.width() / 2) / self._radius,
                (self.height() / 2 - event.position().y()) / self._radius,
            )

    mousePressEvent = mouseMoveEvent = _to_mouse

    @override
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.release_all()

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            middle, radius = self.at(0, 0), self._radius
            painter.setPen(QPen(QColor(look.palette().grid), 1.5))
            painter.setBrush(QColor(look.palette().paper))
            painter.drawEllipse(middle, radius, radius)
            painter.drawLine(self.at(-1, 0), self.at(1, 0))
            painter.drawLine(self.at(0, -1), self.at(0, 1))
            if self.tune is not None and self.tune.input.dead_zone_shape != "none":
                zone = self.tune.input.dead_zone * radius
                painter.setPen(QPen(QColor(look.palette().warning), 1, Qt.PenStyle.DashLine))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                if self.tune.input.dead_zone_shape == "axial":
                    painter.drawRect(
                        round(middle.x() - zone), round(middle.y() - zone), round(2 * zone), round(2 * zone)
                    )
                else:
                    painter.drawEllipse(middle, zone, zone)
            painter.setPen(QPen(QColor(look.palette().soft), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPolyline(QPolygonF([self.at(*spot) for spot in self._trail]))
            painter.setPen(QPen(QColor(look.palette().ink), 2))
            painter.setBrush(QColor(look.palette().paper))
            painter.drawEllipse(self.at(*self.raw), 6.0, 6.0)
            painter.setPen(QPen(QColor(look.palette().accent), 2))
            painter.drawPath(look.shape(3, 12).translated(self.at(*self.intent())))
            painter.setFont(look.font(8))
            for row, (words, place, pair) in enumerate((("stick", 0, self.raw), ("intent", 3, self.intent()))):
                line = 2 + (row + 0.5) * look.height(8)
                painter.setPen(QPen(QColor(look.palette().soft), 1.2))
                painter.drawPath(look.shape(place, look.px(7)).translated(QPointF(look.px(10), line)))
                area = QRectF(look.px(20), line - look.height(8) / 2, self.width() - look.px(20), look.height(8))
                painter.drawText(
                    area, Qt.AlignmentFlag.AlignVCenter, f"{words}  {pair[0]:+.2f}  {pair[1]:+.2f}".replace("-", "−")
                )


class ScreenPad(QWidget):
    """The stick, with buttons for jump and modifier. `held` are the buttons that are down."""

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        look.on_sheet(self)
        self.held: set[str] = set()
        self.view = StickView()
        self.view.moved.connect(self.changed)
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 8, 8, 8)
        column.addWidget(self.view, 1)
        row = QHBoxLayout()
        for key, words in (("jump", "Jump"), ("modifier", "Modifier")):
            button = QPushButton(words)
            button.setFont(look.font(9))
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.setAccessibleName(f"{words} button of the on-screen pad")
            button.pressed.connect(lambda key=key: self.press(key))
            button.released.connect(lambda key=key: self.release(key))
            row.addWidget(button)
        column.addLayout(row)
        column.addLayout(self._drift_row())

    def _drift_row(self) -> QHBoxLayout:
        """The controls for the offset of the resting stick, as a worn pad has it."""
        self.drift = QSlider(Qt.Orientation.Horizontal)
        self.drift.setRange(0, MOST_DRIFT)
        self.drift.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.drift.setAccessibleName("Drift of the on-screen pad, in hundredths")
        self.drift.setToolTip("A worn stick does not rest at its centre. Choose a dead zone wider than the drift.")
        words = QLabel()
        words.setFont(look.font(9))
        words.setMinimumWidth(look.width("Drift 0.00", 9) + 4)

        def drifts(hundredths: int) -> None:
            words.setText(f"Drift {hundredths / 100:.2f}")
            self.view.drift = (hundredths / 100, 0.0)
            self.view.update()
            self.changed.emit()

        self.drift.valueChanged.connect(drifts)
        drifts(0)
        row = QHBoxLayout()
        row.addWidget(words)
        row.addWidget(self.drift, 1)
        return row

    def press(self, key: str) -> None:
        """Press a button."""
        self.held.add(key)
        self.changed.emit()

    def release(self, key: str) -> None:
        """Release a button."""
        self.held.discard(key)
        self.changed.emit()

    def release_all(self) -> None:
        """Release everything, as when it is hidden or the window loses the focus."""
        self.held.clear()
        self.view.release_all()
