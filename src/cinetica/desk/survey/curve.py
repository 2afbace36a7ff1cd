"""Curve: figures against one number over its range, a line per tune, and a letter at its current value."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPen
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.background_task import once
from cinetica.desk.state.session import Session
from cinetica.desk.survey.chart import (
    Scales,
    hatch,
    nearest,
    padded,
    paint_letter,
    paint_scales,
    path_of,
    room_in,
    rounded_for,
)
from cinetica.desk.survey.choosers import FiguresButton, NumberChooser, RangeBoxes
from cinetica.desk.survey.view import BY_ID, Asked, Table, View
from cinetica.model.parameters import Parameter, as_number
from cinetica.model.tune import Tune
from cinetica.reading.survey.parameter_map import points
from cinetica.reading.sweeps import run_each_and_read

SAMPLES = 200


@dataclass(frozen=True, eq=False)
class Curves:
    """`values`: for each tune its figures by id, arrays as long as `at`; NaN where a figure is absent."""

    number: Parameter
    ids: tuple[str, ...]
    at: NDArray[np.float64]
    values: list[tuple[int, Tune, dict[str, NDArray[np.float64]]]]


class CurveView(View):
    """Figures against one number."""

    WORDS = "Curve"
    TIP = "Figures against one number over its range"
    GUIDE = "What does this number do at all"

    def __init__(self, session: Session, asked: Asked) -> None:
        super().__init__(session, asked)
        self.number = NumberChooser("Number", asked, "number", self)
        self.range = RangeBoxes(self, lambda: self.parameter)
        self.figures = FiguresButton(self)

    @override
    def controls(self) -> list[Any]:
        return [self.figures, self.number, self.range]

    @override
    def refresh_controls(self) -> None:
        self.number.renew()
        self.range.renew()
        self.figures.renew()

    @property
    def parameter(self) -> Parameter | None:
        """The number."""
        return self.number_called(self.asked.number)

    @override
    def key(self) -> tuple[Any, ...]:
        number, drill = self.parameter, self.drill
        range = self.range_of(number) if number and self.tunes else (0.0, 1.0)
        tunes = tuple(tune for _, tune in self.tunes)
        return (number, tuple(self.ids), drill and drill.take, drill and drill.course, self.session.study.clock,
                range, self.session.units, len(tunes), *tunes)  # fmt: skip

    @override
    def ask(self) -> None:
        number, drill, clock, ids = self.parameter, self.drill, self.session.study.clock, self.ids
        assert number is not None
        assert drill is not None
        at, tunes = points(number, *self.range_of(number), SAMPLES), self.tunes

        def work() -> Curves:
            """Run the tunes."""
            found = run_each_and_read([tune for _, tune in tunes], drill, clock, {number.id: at}, ids)
            return Curves(number, tuple(ids), at, [(*each, read) for each, read in zip(tunes, found, strict=True)])

        self.task.ask(once(work))

    # Painting

    def scales_of(self, row: int) -> Scales:
        """The scales of the figure in this row."""
        assert self.result is not None
        high = self.height() / len(self.result.ids)
        id = self.result.ids[row]
        values = [each[id] for _, _, each in self.result.values if id in each]
        known = np.concatenate(values) if values else np.zeros(0)
        known = known[np.isfinite(known)]
        edges = [edge for low, high_, _ in self._targets(id) for edge in (low, high_) if edge is not None]
        low, top = (known.min(), known.max()) if len(known) else (0.0, 1.0)
        bottom, top = padded(
            float(min(low, *edges)) if edges else float(low), float(max(top, *edges) if edges else top)
        )
        at = self.result.at
        right = float(at[-1]) if at[-1] > at[0] else float(at[0]) + 1.0
        return Scales(
            room_in(QRectF(0, row * high, self.width(), high)), float(at[0]), right, bottom, top,
            self.scale_of(self.result.number), self.session.units.scale(BY_ID[id].unit),
        )  # fmt: skip

    def _targets(self, id: str) -> list[tuple[float | None, float | None, str]]:
        names = {tune.name for _, tune in self.tunes}
        return [
            (target.low, target.high, target.words) for target in (self.drill.targets if self.drill else ())
            if target.measure == id and any(target.concerns(name) for name in names)
        ]  # fmt: skip

    @override
    def paint(self, painter: QPainter) -> None:
        for row, id in enumerate(self.result.ids):
            self._paint_figure(painter, row, id)

    def _paint_figure(self, painter: QPainter, row: int, id: str) -> None:
        measure, number, scales = BY_ID[id], self.result.number, self.scales_of(row)
        never = all(np.isnan(each[id]).all() for _, _, each in self.result.values if id in each)
        title = self.titled(measure) + (f": not shown anywhere here, {measure.absent}" if never else "")
        last = row == len(self.result.ids) - 1
        paint_scales(painter, scales, look.palette(), title, self.label_of(number) if last else "", self.cut)
        painter.save()
        painter.setClipRect(scales.room)
        for low, high, _ in self._targets(id):
            under = scales.room.bottom() if low is None else scales.y(low)
            over = scales.room.top() if high is None else scales.y(high)
            painter.fillRect(QRectF(scales.room.left(), over, scales.room.width(), max(2.0, under - over)),
                             hatch(look.palette()))  # fmt: skip
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        stairs = measure.unit in ("ticks", "") or number.kind == "whole"
        for place, _, each in self.result.values:
            if id in each:
                pen = look.ink_pen(look.palette(), place)
                painter.strokePath(path_of(scales, *_with_stairs(self.result.at, each[id], stairs)), pen)
        painter.restore()
        for place, tune, at in self._dots(row, id, scales):
            painter.setPen(QPen(look.ink(look.palette(), place), 1))
            painter.drawLine(QPointF(at.x(), at.y()), QPointF(at.x(), scales.room.bottom()))
            paint_letter(painter, at, place, look.palette(), chosen=bool(self.tune and tune.name == self.tune[1].name))

    def _dots(self, row: int, id: str, scales: Scales) -> list[tuple[int, Tune, QPointF]]:
        """Where each tune is now; at the bottom edge if the figure is absent."""
        found = []
        for shown in self.session.shown:
            tune = next((each for place, each in self.tunes if place == shown.place and each is shown.tune), None)
            if tune is None or shown.trace.logged:
                continue
            reading = shown.readings.get(id)
            x = scales.x(as_number(tune.get(self.result.number.id)))
            if scales.room.left() - 1 <= x <= scales.room.right() + 1:
                foot = scales.room.bottom() - look.height(9)
                y = scales.y(reading.value) if reading else foot
                found.append((shown.place, tune, QPointF(x, min(max(y, scales.room.top()), scales.room.bottom()))))
        return found

    # Mouse and keys

    def _dot_at(self, at: QPointF) -> Tune | None:
        if self.result is None:
            return None
        rows = enumerate(self.result.ids)
        return nearest(at, [dot for row, id in rows for dot in self._dots(row, id, self.scales_of(row))])

    def _row_at(self, at: QPointF) -> int:
        return min(max(int(at.y() / max(1.0, self.height() / len(self.result.ids))), 0), len(self.result.ids) - 1)

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        tune = self._dot_at(event.position()) if event.button() == Qt.MouseButton.LeftButton else None
        if tune is not None:
            self._held = self.asked.tune = tune.name
            self.session.begin(f"{self.result.number.label} of {tune.name}")
            self.changed.emit()

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.result is None:
            return
        scales = self.scales_of(self._row_at(event.position()))
        x = scales.x_of(event.position().x())
        if self._held:
            tune = self.session.study.tune(self._held)
            low, high = scales.across.span(scales.left, scales.right)
            value = rounded_for(self.result.number, x, high - low, scales.across)
            self.drag_numbers(tune, [(self.result.number, value)])
        self.setCursor(
            Qt.CursorShape.SizeHorCursor if self._held or self._dot_at(event.position()) else Qt.CursorShape.CrossCursor
        )
        self._show_values(x, self._row_at(event.position()))

    def _show_values(self, x: float, row: int) -> None:
        number, id = self.result.number, self.result.ids[row]
        measure = BY_ID[id]
        place = int(np.abs(self.result.at - x).argmin())
        words = [
            f"{look.letter(at)} {self.formatted(measure, float(each[id][place]))}" if np.isfinite(each[id][place])
            else f"{look.letter(at)} not shown"
            for at, _, each in self.result.values if id in each
        ]  # fmt: skip
        value = self.number_words(number, float(self.result.at[place]))
        self.status.emit(f"{number.label} {value}: {measure.label} {', '.join(words)}")

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, chosen = event.key(), self.tune
        if self.result is None or chosen is None:
            super().keyPressEvent(event)
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            names = [tune.name for _, tune in self.tunes]
            step = 1 if key == Qt.Key.Key_Down else -1
            self.asked.tune = names[(names.index(chosen[1].name) + step) % len(names)]
            self.changed.emit()
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            number, tune = self.result.number, chosen[1]
            span = float(self.result.at[-1] - self.result.at[0])
            by = 1.0 if number.kind == "whole" else span / 100
            by *= 5 if event.modifiers() & Qt.KeyboardModifier.ControlModifier else 1
            value = as_number(tune.get(number.id)) + (by if key == Qt.Key.Key_Right else -by)
            scale = self.scale_of(number)
            low, high = scale.span(float(self.result.at[0]), float(self.result.at[-1]))
            value = rounded_for(number, value, high - low, scale)
            self.session.set_value(tune, number, round(value) if number.kind == "whole" else value, joins=True)
        else:
            super().keyPressEvent(event)

    @override
    def table(self) -> Table:
        if self.result is None:
            return (), []
        number = self.result.number
        scale, units = self.scale_of(number), self.session.units
        head = (f"{number.id} {scale.unit}".strip(), *(
            f"{tune.name}: {id} {units.unit(BY_ID[id].unit)}".strip()
            for _, tune, each in self.result.values for id in each
        ))  # fmt: skip
        rows = [
            (repr(scale.on_axis(float(x))), *(
                "" if np.isnan(each[id][place]) else repr(units.reading(BY_ID[id], float(each[id][place])))
                for _, _, each in self.result.values for id in each
            ))
            for place, x in enumerate(self.result.at)
        ]  # fmt: skip
        return head, rows


def _with_stairs(
    at: NDArray[np.float64], values: NDArray[np.float64], stairs: bool
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """The points of a curve; as steps if the figure counts whole things."""
    if not stairs:
        return at, values
    half = (at[1] - at[0]) / 2 if len(at) > 1 else 0.5
    return np.column_stack((at - half, at + half)).ravel(), np.repeat(values, 2)
