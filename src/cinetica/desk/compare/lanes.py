"""The lanes above the strips: what the hands did, and in which state each tune was, with its windows of grace."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QBrush, QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QPolygonF, QWheelEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from cinetica.desk import look
from cinetica.desk.compare.time_axis import LEFT, RIGHT, TimeAxis, round_step
from cinetica.desk.session import Session, Shown
from cinetica.model.take import KEYS, Push, Take
from cinetica.reading.spans import Span, grace_spans, state_spans

LANE, STATE_LANE, TOP = 22, 20, 18
STATE_ALPHA = {"ground": 36, "rise": 120, "fall": 74, "climb": 150}
GRACE_WORDS = {"coyote": "coyote time", "buffer": "jump buffer"}


class OnTimeAxis(QWidget):
    """A widget on the time axis: a drag moves the frame cursor, the wheel zooms, with Shift it pans."""

    def __init__(self, session: Session, axis: TimeAxis, palette: look.Palette) -> None:
        super().__init__()
        self.session, self.axis, self.look = session, axis, palette
        axis.changed.connect(self.update)

    def set_look(self, palette: look.Palette) -> None:
        self.look = palette
        self.update()

    def _to_cursor(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton and event.position().x() >= LEFT - 4:
            self.session.set_cursor(self.axis.row_at(self.axis.time(event.position().x(), self.width())))

    mousePressEvent = mouseMoveEvent = _to_cursor

    def wheelEvent(self, event: QWheelEvent) -> None:
        turn_axis(self.axis, event, self.axis.time(event.position().x(), self.width()))

    def at(self, time: float) -> float:
        return self.axis.x(time, self.width())

    def paint_cursor(self, painter: QPainter, top: float, bottom: float) -> float:
        x = self.at(self.session.time_at(self.session.cursor))
        painter.setPen(QPen(QColor(self.look.ink), 1))
        painter.drawLine(QPointF(x, top), QPointF(x, bottom))
        return x


def turn_axis(axis: TimeAxis, event: QWheelEvent, time: float) -> None:
    turn = (event.angleDelta().y() or event.angleDelta().x()) / 120
    if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
        axis.pan(-0.1 * turn)
    else:
        axis.zoom(0.85**turn, time)
    event.accept()


class Lanes(OnTimeAxis):
    """One lane for each key and stick that the take uses, and one state lane for each tune."""

    def __init__(self, session: Session, axis: TimeAxis, palette: look.Palette) -> None:
        super().__init__(session, axis, palette)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setMouseTracking(True)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self._spans: dict[int, tuple[Shown, list[Span], list[Span]]] = {}
        self._lanes: dict[int, tuple[Shown, QPixmap]] = {}
        self._ground: QPixmap | None = None
        self._ground_for: object = None
        session.cursor_moved.connect(self.update)
        session.figures_changed.connect(self._resize)
        session.drill_changed.connect(self._resize)
        self.setAccessibleName("Hands and states")

    def _resize(self) -> None:
        if self.sizeHint().height() != self.height():
            self.updateGeometry()
        self.update()

    @property
    def hands(self) -> list[str]:
        drill = self.session.drill
        if drill is None:
            return []
        take = drill.take
        sticks = [name for name, pushes in (("stick", take.stick), ("aim", take.aim)) if pushes]
        return [key for key in KEYS if getattr(take.keys, key)] + [f"{stick} {axis}" for stick in sticks for axis in "xy"]

    def sizeHint(self) -> QSize:
        return QSize(400, TOP + LANE * max(1, len(self.hands)) + STATE_LANE * len(self.session.shown) + 10)

    minimumSizeHint = sizeHint

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        place = (self.session.drill, self.axis.start, self.axis.end, self.size(), len(self.session.shown), self.look)
        if self._ground is None or self._ground_for != place:
            self._ground, self._ground_for = self._painted_hands(), place
            self._lanes.clear()
        painter.drawPixmap(0, 0, self._ground)
        for number, shown in enumerate(self.session.shown):
            kept = self._lanes.get(shown.place)
            if kept is None or kept[0] is not shown:
                kept = self._lanes[shown.place] = (shown, self._painted_lane(shown))
            painter.drawPixmap(0, self._states_top + number * STATE_LANE, kept[1])
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(look.font(9, bold=True))
        painter.setPen(QColor(self.look.accent))
        painter.drawText(QRectF(14, self._states_top, 60, STATE_LANE), Qt.AlignmentFlag.AlignVCenter, "State")
        self._paint_readout_title(painter)
        self._paint_flag(painter)

    def _blank(self, height: int) -> QPixmap:
        """What moves less often than the cursor is painted once, on pictures of the paper."""
        picture = QPixmap(QSize(self.width(), height) * self.devicePixelRatio())
        picture.setDevicePixelRatio(self.devicePixelRatio())
        picture.fill(QColor(self.look.paper))
        return picture

    def _painted_lane(self, shown: Shown) -> QPixmap:
        picture = self._blank(STATE_LANE)
        painter = QPainter(picture)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setClipRect(QRectF(0, 0, self.width() - RIGHT + 1, STATE_LANE))
        self._paint_states(painter, 0, shown)
        painter.end()
        return picture

    @property
    def _states_top(self) -> int:
        return TOP + LANE * max(1, len(self.hands))

    def _painted_hands(self) -> QPixmap:
        picture = self._blank(self.height())
        painter = QPainter(picture)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(look.font(9, bold=True))
        painter.setPen(QColor(self.look.accent))
        painter.drawText(QRectF(14, TOP, 80, LANE), Qt.AlignmentFlag.AlignVCenter, "Hands")
        painter.setClipRect(QRectF(0, 0, self.width() - RIGHT + 1, self.height()))
        self._paint_hands(painter)
        painter.end()
        return picture

    def _paint_readout_title(self, painter: QPainter) -> None:
        painter.setPen(QColor(self.look.grid))
        painter.drawLine(QPointF(self.width() - RIGHT + 0.5, 0), QPointF(self.width() - RIGHT + 0.5, self.height()))
        if not self.session.shown:
            return
        painter.setFont(look.font(8))
        painter.setPen(QColor(self.look.soft))
        area = QRectF(self.width() - RIGHT + 14, self.height() - 20, RIGHT - 26, 16)
        painter.drawText(area, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, f"at frame {self.session.cursor}")
        reference = self.session.shown[0]
        if len(self.session.shown) > 1:
            letter = look.letter(reference.place)
            painter.drawText(area, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, f"minus {letter}")

    def _paint_hands(self, painter: QPainter) -> None:
        drill = self.session.drill
        if drill is None:
            return
        painter.setFont(look.font(8))
        if not self.hands:
            painter.setPen(QColor(self.look.soft))
            painter.drawText(QRectF(LEFT, TOP, 300, LANE), Qt.AlignmentFlag.AlignVCenter, "the hands do nothing in this drill")
        for number, name in enumerate(self.hands):
            y = TOP + number * LANE
            painter.setPen(QColor(self.look.soft))
            painter.drawText(QRectF(0, y, LEFT - 8, LANE), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, name)
            painter.setPen(QColor(self.look.grid_fine))
            painter.drawLine(QPointF(LEFT, y + LANE - 0.5), QPointF(self.width() - RIGHT, y + LANE - 0.5))
            if name in KEYS:
                self._paint_presses(painter, y, getattr(drill.take.keys, name), drill.take.rate)
            else:
                stick, axis = name.split()
                self._paint_stick(painter, y, getattr(drill.take, stick), axis, drill.take)

    def _paint_presses(self, painter: QPainter, y: float, presses: tuple[tuple[int, int], ...], rate: float) -> None:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(self.look.accent))
        for start, end in presses:
            left, right = self.at(start / rate), self.at(end / rate)
            if right >= LEFT:
                painter.drawRoundedRect(QRectF(max(left, LEFT), y + 4, right - max(left, LEFT), LANE - 9), 3, 3)

    def _paint_stick(self, painter: QPainter, y: float, pushes: tuple[Push, ...], axis: str, take: Take) -> None:
        """The stick's axis as steps between -1 and 1."""
        middle, reach = y + LANE / 2, LANE / 2 - 3
        points = [QPointF(self.at(0), middle)]
        for push in sorted(pushes, key=lambda push: push.frame):
            value = push.x if axis == "x" else push.y
            x = self.at(push.frame / take.rate)
            points += [QPointF(x, points[-1].y()), QPointF(x, middle - reach * value)]
        points.append(QPointF(self.at(take.seconds), points[-1].y()))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(self.look.accent), 1.5))
        painter.save()
        painter.setClipRect(QRectF(LEFT, y, self.width() - RIGHT - LEFT, LANE))
        painter.drawPolyline(QPolygonF(points))
        painter.restore()

    def _spans_of(self, shown: Shown) -> tuple[list[Span], list[Span]]:
        kept = self._spans.get(shown.place)
        if kept is None or kept[0] is not shown:
            kept = (shown, state_spans(shown.trace), grace_spans(shown.trace))
            self._spans[shown.place] = kept
        return kept[1], kept[2]

    def _paint_states(self, painter: QPainter, y: float, shown: Shown) -> None:
        states, grace = self._spans_of(shown)
        ink = look.ink(self.look, shown.place)
        painter.setFont(look.font(9, bold=True))
        painter.setPen(ink)
        area = QRectF(0, y, LEFT - 8, STATE_LANE)
        painter.drawText(area, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, look.letter(shown.place))
        painter.setFont(look.font(8))
        for span in states:
            rect = self._lane_rect(span, y)
            if rect.width() <= 0:
                continue
            fill = QColor(ink)
            fill.setAlpha(STATE_ALPHA[span.word])
            painter.fillRect(rect, fill)
            if rect.width() > painter.fontMetrics().horizontalAdvance(span.word) + 8:
                painter.setPen(QColor(self.look.ink))
                painter.drawText(rect.adjusted(5, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, span.word)
        for span in grace:
            self._paint_grace(painter, self._lane_rect(span, y), span.word, ink)

    def _lane_rect(self, span: Span, y: float) -> QRectF:
        left, right = max(self.at(span.start), LEFT), self.at(span.end)
        return QRectF(left, y + 2, right - left - 1, STATE_LANE - 4)

    def _paint_grace(self, painter: QPainter, rect: QRectF, word: str, ink: QColor) -> None:
        """Coyote time is hatched one way, the jump buffer the other."""
        if rect.width() <= 0:
            return
        pattern = Qt.BrushStyle.FDiagPattern if word == "coyote" else Qt.BrushStyle.BDiagPattern
        painter.fillRect(rect, QColor(self.look.paper))
        painter.fillRect(rect, QBrush(ink, pattern))
        painter.setPen(QPen(ink, 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(rect)

    def _paint_flag(self, painter: QPainter) -> None:
        x = self.paint_cursor(painter, TOP - 2, self.height())
        text = str(self.session.cursor)
        painter.setFont(look.font(8, bold=True))
        width = painter.fontMetrics().horizontalAdvance(text) + 14
        flag = QRectF(x - width / 2, 1, width, TOP - 2)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(self.look.ink))
        painter.drawRoundedRect(flag, 3, 3)
        painter.setPen(QColor(self.look.paper))
        painter.drawText(flag, Qt.AlignmentFlag.AlignCenter, text)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._to_cursor(event)
        self.setToolTip(self._words_at(event.position()))

    def _words_at(self, at: QPointF) -> str:
        """What lies under the mouse, in words."""
        number = int((at.y() - self._states_top) // STATE_LANE)
        if not 0 <= number < len(self.session.shown) or at.y() < self._states_top:
            return ""
        shown = self.session.shown[number]
        time = self.axis.time(at.x(), self.width())
        spans, grace = self._spans_of(shown)
        for span in grace:
            if span.start <= time <= span.end:
                return f"{shown.tune.name}: {GRACE_WORDS[span.word]}, {span.end - span.start:.3f} s"
        return next((f"{shown.tune.name}: {span.word}, {span.end - span.start:.3f} s" for span in spans if span.start <= time <= span.end), "")


class Ruler(OnTimeAxis):
    """Seconds under the strips."""

    def __init__(self, session: Session, axis: TimeAxis, palette: look.Palette) -> None:
        super().__init__(session, axis, palette)
        self.setFixedHeight(20)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setFont(look.font(8))
        painter.setPen(QColor(self.look.soft))
        painter.drawText(QRectF(0, 0, LEFT - 8, 18), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, "time, s")
        step = round_step(self.axis.end - self.axis.start, (self.width() - LEFT - RIGHT) / 90)
        number = int(self.axis.start // step)
        while (time := number * step) <= self.axis.end:
            x = self.at(time)
            if LEFT <= x <= self.width() - RIGHT:
                painter.drawText(QRectF(x - 40, 0, 80, 18), Qt.AlignmentFlag.AlignCenter, f"{time:.6g}")
            number += 1
