"""Sensitivity: the numbers that change a figure, the strongest first, and those that do not."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QKeyEvent, QMouseEvent, QPainter, QPen
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.background_task import once
from cinetica.desk.state.session import Session
from cinetica.desk.survey.chart import short
from cinetica.desk.survey.choosers import FigureChooser, TuneChooser
from cinetica.desk.survey.view import Asked, Table, View
from cinetica.reading.survey.sensitivity import Sensitivity, SensitivityReport, near_their_edge, sensitivities
from cinetica.reading.targets import Verdict

MOST_ROWS = 14


@dataclass(frozen=True, eq=False)
class Found:
    """The sensitivities, and targets that are barely met."""

    sensitivities: SensitivityReport
    near: list[tuple[Verdict, float]]


class SensitivityView(View):
    """Which numbers change a figure."""

    WORDS = "Sensitivity"
    TIP = "Which numbers move a figure most, and which do not"
    GUIDE = "Which numbers matter"
    GROUND = "paper"

    def __init__(self, session: Session, asked: Asked) -> None:
        super().__init__(session, asked)
        self.tune_chooser = TuneChooser(self)
        self.figure = FigureChooser("Figure", self, lambda: self.id, self._put)
        self.place = 0

    def _put(self, id: str) -> None:
        self.asked.figures = [id, *(each for each in self.asked.figures[1:] if each != id)]

    @override
    def controls(self) -> list[Any]:
        return [self.tune_chooser, self.figure]

    @override
    def refresh_controls(self) -> None:
        for control in self.controls():
            control.renew()

    @override
    def key(self) -> tuple[Any, ...]:
        drill = self.drill
        return (self.id, drill, self.session.study.clock, self.session.units, self.tune and self.tune[1])

    @override
    def ask(self) -> None:
        drill, chosen, study, id = self.drill, self.tune, self.session.study, self.id
        if drill is None or chosen is None:
            self._fail("There is no tune to analyse.")
            return
        tune, units = chosen[1], self.session.units

        def work() -> Found:
            """Run the variations."""
            return Found(sensitivities(tune, drill, study.clock, id), near_their_edge(study, tune, units))

        self.task.ask(once(work))

    # Painting

    @property
    def _shown(self) -> tuple[Sensitivity, ...]:
        order: tuple[Sensitivity, ...] = self.result.sensitivities.order
        return order[:MOST_ROWS]

    @property
    def _row_high(self) -> float:
        return float(look.height(9) + look.px(6))

    def _row_rect(self, row: int) -> QRectF:
        top = look.height(10) + look.px(14)
        return QRectF(8, top + row * self._row_high, self.width() - 16, self._row_high)

    @override
    def paint(self, painter: QPainter) -> None:
        found: SensitivityReport = self.result.sensitivities
        now = "is not shown" if found.value is None else f"is {self.formatted(found.measure, found.value)}"
        box = QRectF(8, 6, self.width() - 16, look.height(10) + 2)
        text = f"{found.measure.label} of {found.tune.name} {now}. Change per 1% of each number:"
        self._line(painter, box, 10, True, text)
        for row, sensitivity in enumerate(self._shown):
            self._paint_row(painter, self._row_rect(row), sensitivity, row == self.place)
        if not found.order:
            why = f"No number moves it: {found.measure.absent}." if found.value is None else "No number moves it."
            self._line(painter, self._row_rect(0), 9, False, why)
        self._paint_rest(painter, found)

    def _line(self, painter: QPainter, box: QRectF, size: int, bold: bool, text: str) -> None:
        painter.setFont(look.font(size, bold=bold))
        painter.setPen(QColor(look.palette().ink))
        shown = short(painter, text, box.width(), self.cut)
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, shown)

    def _paint_row(self, painter: QPainter, rect: QRectF, sensitivity: Sensitivity, chosen: bool) -> None:
        label_wide = min(rect.width() * 0.3, look.width("Buffered press let go  ", 9) + look.px(8))
        told_wide = look.width("−0.0000 px/frame² a step, −100.00%, −0.00 ticks ", 9)
        if chosen:
            painter.fillRect(rect, QColor(look.palette().sheet))
        self._line(
            painter, QRectF(rect.left(), rect.top(), label_wide, rect.height()), 9, chosen, sensitivity.parameter.label
        )
        box = QRectF(rect.right() - told_wide, rect.top(), told_wide, rect.height())
        self._line(painter, box, 9, False, self.words_of(sensitivity))
        bar = QRectF(
            rect.left() + label_wide, rect.top() + 3, box.left() - rect.left() - label_wide - 10, rect.height() - 6
        )
        middle = bar.center().x()
        painter.setPen(QPen(QColor(look.palette().grid), 1))
        painter.drawLine(QPointF(middle, rect.top()), QPointF(middle, rect.bottom()))
        if sensitivity.share is None or bar.width() < 10:
            return
        most = max(abs(each.share) for each in self.result.sensitivities.order if each.share is not None)
        long = sensitivity.share / most * bar.width() / 2
        ink = look.ink(look.palette(), self.tune[0] if self.tune else 0)
        # What raises the figure is full, what lowers it hatched.
        brush = Qt.BrushStyle.SolidPattern if long > 0 else Qt.BrushStyle.BDiagPattern
        block = QRectF(middle, bar.top(), long, bar.height()).normalized()
        painter.setPen(QPen(ink, 1))
        painter.setBrush(QBrush(ink, brush))
        painter.drawRect(block)
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def words_of(self, sensitivity: Sensitivity) -> str:
        """How a number changes the figure, in words."""
        scale = self.session.units.scale(self.result.sensitivities.measure.unit)
        if sensitivity.share is None or sensitivity.change is None:
            return "the figure appears or disappears"
        per = " a step" if sensitivity.parameter.kind == "whole" else ""
        ticks = "" if sensitivity.ticks is None else f", {sensitivity.ticks:+.2f} ticks"
        text = (
            f"{scale.change(sensitivity.change):+.4f} {scale.unit}".rstrip()
            + f"{per}, {100 * sensitivity.share:+.2f}%{ticks}"
        )
        return text.replace("-", "−")

    def _paint_rest(self, painter: QPainter, found: SensitivityReport) -> None:
        """Paint what has no effect, what was left out, and targets that are barely met."""
        lines = []
        if len(found.order) > MOST_ROWS:
            lines.append(
                f"And, with less effect: {', '.join(each.parameter.label for each in found.order[MOST_ROWS:])}."
            )
        if found.off:
            lines.append(f"Switched off now, at 0: {', '.join(each.parameter.label for each in found.off)}.")
        if found.idle and found.value is not None:
            lines.append(f"No effect: {', '.join(each.label for each in found.idle)}.")
        near = [
            f"{verdict.label} on {verdict.drill} ({_shown(verdict, left):.3g} left of {verdict.wanted})"
            for verdict, left in self.result.near
        ]
        lines.append(f"Barely met: {'; '.join(near)}." if near else "No target of this tune is barely met.")
        rows = max(1, len(self._shown))
        top = self._row_rect(rows).top() + look.px(6)
        painter.setFont(look.font(9))
        painter.setPen(QColor(look.palette().ink))
        box = QRectF(8, top, self.width() - 16, max(0.0, self.height() - top - 4))
        painter.drawText(box, Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignLeft, "\n".join(lines))

    # Mouse and keys

    def _row_at(self, at: QPointF) -> int | None:
        if self.result is None:
            return None
        return next((row for row in range(len(self._shown)) if self._row_rect(row).contains(at)), None)

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        row = self._row_at(event.position())
        if row is None:
            self.status.emit("")
            return
        parameter = self._shown[row].parameter
        self.status.emit(f"{parameter.label}: {parameter.meaning} Click to draw its curve.")

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        row = self._row_at(event.position())
        if row is not None:
            self.place = row
            self._open()

    def _open(self) -> None:
        self.asked.number = self._shown[self.place].parameter.id
        self.asked.tune = self.result.sensitivities.tune.name
        self.wants_curve()

    def wants_curve(self) -> None:
        """Replaced by the page: shows the curve of a number."""

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        if self.result is None or not self._shown:
            super().keyPressEvent(event)
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.place = min(max(self.place + (1 if key == Qt.Key.Key_Down else -1), 0), len(self._shown) - 1)
            self.update()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._open()
        else:
            super().keyPressEvent(event)

    @override
    def table(self) -> Table:
        if self.result is None:
            return (), []
        found: SensitivityReport = self.result.sensitivities
        scale = self.session.units.scale(found.measure.unit)
        head = ("number", "change per 1% or step", scale.unit or "unit", "share", "ticks")
        rows = [
            (each.parameter.id, "" if each.change is None else repr(scale.change(each.change)), scale.unit,
             "" if each.share is None else repr(each.share), "" if each.ticks is None else repr(each.ticks))
            for each in (*found.order, *found.off)
        ] + [(each.id, "0", scale.unit, "0", "") for each in found.idle]  # fmt: skip
        return head, rows


def _shown(verdict: Verdict, left: float) -> float:
    """What is left of the range of a target, as it is shown."""
    return verdict.units.scale(verdict.measure.unit).change(left) if verdict.measure else left
