"""Map: two numbers span the plane, a figure is drawn as contour lines, and each tune is a draggable letter."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPen
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.state.session import Session
from cinetica.desk.survey.chart import (
    Scales,
    hatch,
    nearest,
    number_text,
    paint_letter,
    paint_scales,
    path_of,
    room_in,
    rounded_for,
)
from cinetica.desk.survey.choosers import FigureChooser, NumberChooser, RangeBoxes, TuneChooser
from cinetica.desk.survey.view import BY_ID, Asked, Table, View
from cinetica.model.parameters import Parameter, as_number
from cinetica.model.tune import Tune
from cinetica.reading.measures import Measure
from cinetica.reading.survey.parameter_map import COARSE, FINE, Grid, Map, map_of

# The strength of the ink on the lowest and the highest band of the wash.
LIGHT, DARK = 0.02, 0.34
STEPS = {
    Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1),
}  # fmt: skip


class MapView(View):
    """A figure over two numbers."""

    WORDS = "Map"
    TIP = "A figure over two numbers, as level lines"
    GUIDE = "A place where two targets are met"

    def __init__(self, session: Session, asked: Asked) -> None:
        super().__init__(session, asked)
        self.tunes_chooser = TuneChooser(self)
        self.figure = FigureChooser("Figure", self, lambda: self.id, self._put_figure)
        self.second = FigureChooser(
            "Another figure, dashed", self, lambda: asked.second, lambda id: setattr(asked, "second", id), "no other"
        )
        self.x_number = NumberChooser("Number across", asked, "number", self)
        self.y_number = NumberChooser("Number up", asked, "other", self)
        self.x_range = RangeBoxes(self, lambda: self.x_parameter)
        self.y_range = RangeBoxes(self, lambda: self.y_parameter)

    def _put_figure(self, id: str) -> None:
        self.asked.figures = [id, *(each for each in self.asked.figures[1:] if each != id)]

    @override
    def controls(self) -> list[Any]:
        return [self.tunes_chooser, self.figure, self.second, self.x_number, self.x_range, self.y_number, self.y_range]

    @override
    def rows_of_controls(self) -> list[list[Any]]:
        controls = self.controls()
        return [controls[:3], controls[3:]]

    @override
    def refresh_controls(self) -> None:
        for control in self.controls():
            control.renew()

    @property
    def drawn(self) -> list[str]:
        """The figure, and the one drawn with it."""
        known = [measure.id for measure in self.measures]
        return list(dict.fromkeys([self.id, *([self.asked.second] if self.asked.second in known else [])]))

    @property
    def x_parameter(self) -> Parameter | None:
        """The number across."""
        return self.number_called(self.asked.number)

    @property
    def y_parameter(self) -> Parameter | None:
        """The number up, which differs from the one across."""
        found, x = self.number_called(self.asked.other, other=True), self.x_parameter
        return found if found is not x else next((each for each in self.numbers if each is not x), None)

    @override
    def key(self) -> tuple[Any, ...]:
        x, y, drill, chosen = self.x_parameter, self.y_parameter, self.drill, self.tune
        if x is None or y is None or chosen is None or drill is None:
            return ()
        # Where the letter stands does not matter to the map: what two numbers span does not depend on them.
        rest = tuple(value for id, value in chosen[1].values().items() if id not in (x.id, y.id))
        return (x, y, tuple(self.drawn), drill.take, drill.course, drill.targets, self.session.study.clock,
                self.range_of(x), self.range_of(y), self.session.units, chosen[1].name, rest)  # fmt: skip

    @override
    def ask(self) -> None:
        x, y, drill, chosen = self.x_parameter, self.y_parameter, self.drill, self.tune
        if x is None or y is None or chosen is None or drill is None:
            self._fail("A map needs two numbers that matter.")
            return
        clock, ids, units = self.session.study.clock, self.drawn, self.session.units
        spans = (x, *self.range_of(x)), (y, *self.range_of(y))
        self.task.ask(
            lambda: map_of(chosen[1], drill, clock, spans[0], spans[1], ids, COARSE, units),
            lambda: map_of(chosen[1], drill, clock, spans[0], spans[1], ids, FINE, units),
        )

    # Painting

    @property
    def scales(self) -> Scales:
        """The scales."""
        found: Map = self.result
        room = room_in(QRectF(0, 0, self.width(), self.height()))
        right = found.across[-1] if len(found.across) > 1 else found.across[0] + 1
        top = found.up[-1] if len(found.up) > 1 else found.up[0] + 1
        return Scales(room, float(found.across[0]), float(right), float(found.up[0]), float(top),
                      self.scale_of(found.x), self.scale_of(found.y))  # fmt: skip

    @override
    def paint(self, painter: QPainter) -> None:
        found: Map = self.result
        scales, measure = self.scales, BY_ID[self.result.ids[0]]
        values = found.figures[measure.id]
        title = f"{self.titled(measure)}, of {found.tune.name}; up: {self.label_of(found.y)}"
        if np.isnan(values).all():
            title = f"{measure.label} is not shown anywhere here: {measure.absent}"
        paint_scales(painter, scales, look.palette(), title, self.label_of(found.x), self.cut)
        painter.save()
        painter.setClipRect(scales.room)
        self._paint_wash(painter, scales, found, values)
        self._paint_allowed(painter, scales, found)
        taken = list(self._taken)
        if len(self.result.ids) > 1:
            pen = QPen(QColor(look.palette().soft), 1.4)
            pen.setDashPattern([5, 3])
            self._paint_lines(painter, scales, found, self.result.ids[1], pen, taken)
        self._paint_lines(painter, scales, found, measure.id, QPen(QColor(look.palette().ink), 1.2), taken)
        painter.restore()
        self._paint_key(painter, scales, found)
        for place, tune, at in self._letters(scales):
            paint_letter(painter, at, place, look.palette(), chosen=tune.name == found.tune.name)

    def _paint_key(self, painter: QPainter, scales: Scales, found: Map) -> None:
        """Paint what the hatching means, at the bottom left."""
        if found.allowed is None:
            return
        count = len(found.targets)
        name = found.tune.name
        many = "both" if count == 2 else f"all {count}"
        whose = f"the target of {name} is" if count == 1 else f"{many} targets of {name} are"
        words = f"{whose} met" if found.allowed.any() else f"nowhere here {whose} met"
        painter.setFont(look.font(8))
        high, sample = look.height(8) + 4, look.px(16)
        words = look.shortened(words, 8, scales.room.width() - sample - 24)
        box = QRectF(scales.room.left() + 4, scales.room.bottom() - high - 4, sample + look.width(words, 8) + 18, high)
        painter.fillRect(box, QColor(look.palette().paper))
        swatch = QRectF(box.left() + 4, box.top() + 3, sample, high - 6)
        painter.fillRect(swatch, hatch(look.palette()))
        painter.setPen(QPen(QColor(look.palette().accent), 1.5))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(swatch)
        painter.setPen(QColor(look.palette().ink))
        painter.drawText(box.adjusted(sample + 10, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, words)

    def _paint_wash(self, painter: QPainter, scales: Scales, found: Map, values: Any) -> None:
        """Shade the bands between the lines, darker for higher figures."""
        self._taken: list[QRectF] = []
        edges = [level for level, _ in found.lines[self.result.ids[0]]]
        bands = np.digitize(np.nan_to_num(values, nan=-np.inf), edges)
        colors = np.zeros((len(edges) + 1,), dtype=np.uint32)
        ink, paper, nowhere = QColor(look.palette().accent), QColor(look.palette().paper), QColor(look.palette().earth)
        for band in range(len(colors)):
            share = LIGHT + (DARK - LIGHT) * band / max(1, len(edges))
            colors[band] = look.mixed(ink, paper, share).rgba()
        pixels = np.where(np.isfinite(values), colors[bands], nowhere.rgba()).astype(np.uint32)[::-1]
        pixels = np.ascontiguousarray(pixels)
        high, wide = pixels.shape
        image = QImage(pixels.data, wide, high, 4 * wide, QImage.Format.Format_RGB32)
        # A point is the middle of its pixel.
        dx = scales.room.width() / max(1, wide - 1) / 2
        dy = scales.room.height() / max(1, high - 1) / 2
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, False)
        painter.drawImage(scales.room.adjusted(-dx, -dy, dx, dy), image)
        if not np.isfinite(values).all():
            self._draw_nowhere(painter, scales, found, values)

    def _draw_nowhere(self, painter: QPainter, scales: Scales, found: Map, values: Any) -> None:
        """Label the middle of the region without the figure, if there is room."""
        rows, columns = np.nonzero(~np.isfinite(values))
        middle = int(np.argmin(np.hypot(rows - rows.mean(), columns - columns.mean())))
        at = scales.point(float(found.across[columns[middle]]), float(found.up[rows[middle]]))
        text = "not shown"
        wide, high = look.width(text, 8) + 6, look.height(8)
        box = QRectF(at.x() - wide / 2, at.y() - high / 2, wide, high)
        box.moveLeft(min(max(box.left(), scales.room.left() + 2), scales.room.right() - wide - 2))
        painter.setFont(look.font(8))
        painter.fillRect(box, QColor(look.palette().paper))
        painter.setPen(QColor(look.palette().ink))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
        self._taken = [box]

    def _paint_allowed(self, painter: QPainter, scales: Scales, found: Map) -> None:
        if found.allowed is None:
            return
        dx = (found.across[1] - found.across[0]) / 2 if len(found.across) > 1 else 0.5
        dy = (found.up[1] - found.up[0]) / 2 if len(found.up) > 1 else 0.5
        painter.setPen(Qt.PenStyle.NoPen)
        for row, up in enumerate(found.up):
            edges = np.flatnonzero(np.diff(np.concatenate([[False], found.allowed[row], [False]])))
            for first, end in zip(edges[::2], edges[1::2], strict=True):
                corner = scales.point(found.across[first] - dx, up + dy)
                other = scales.point(found.across[end - 1] + dx, up - dy)
                painter.fillRect(QRectF(corner, other), hatch(look.palette()))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(look.palette().accent), 2))
        for line in found.rim:
            painter.drawPath(path_of(scales, line[:, 0], line[:, 1]))

    def _paint_lines(
        self, painter: QPainter, scales: Scales, found: Map, id: str, pen: QPen, taken: list[QRectF]
    ) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(look.font(8))
        high = look.height(8)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for level, lines in found.lines[id]:
            painter.setPen(pen)
            for line in lines:
                painter.drawPath(path_of(scales, line[:, 0], line[:, 1]))
            text = number_text(self.session.units.reading(BY_ID[id], level))
            wide = look.width(text, 8) + 4
            for x, y in _places_on(lines):
                at = scales.point(x, y)
                box = QRectF(at.x() - wide / 2, at.y() - high / 2, wide, high)
                if scales.room.adjusted(2, 2, -2, -2).contains(box) and not any(box.intersects(old) for old in taken):
                    taken.append(box)
                    painter.fillRect(box, QColor(look.palette().paper))
                    painter.setPen(
                        QColor(look.palette().ink if pen.style() == Qt.PenStyle.SolidLine else look.palette().soft)
                    )
                    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
                    break

    def _letters(self, scales: Scales) -> list[tuple[int, Tune, QPointF]]:
        found: Map = self.result
        listed = []
        for place, tune in self.tunes:
            at = scales.point(as_number(tune.get(found.x.id)), as_number(tune.get(found.y.id)))
            if scales.room.adjusted(-1, -1, 1, 1).contains(at):
                listed.append((place, tune, at))
        return listed

    # Mouse and keys

    def _letter_at(self, at: QPointF) -> Tune | None:
        if self.result is None:
            return None
        return nearest(at, self._letters(self.scales))

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton or self.result is None or self.tune is None:
            return
        tune = self._letter_at(event.position())
        if tune is None and not self.scales.room.contains(event.position()):
            return
        found: Map = self.result
        self._held = (tune or self.tune[1]).name
        self.session.begin(f"{found.x.label} and {found.y.label} of {self._held}")
        if tune is not None and tune.name != found.tune.name:
            self.asked.tune = tune.name
            self.changed.emit()
        elif tune is None:
            self._put(event.position())

    def _put(self, at: QPointF) -> None:
        found: Map = self.result
        scales = self.scales
        tune = self.session.study.tune(self._held)
        (left, right), (low, high) = (
            scales.across.span(scales.left, scales.right), scales.up.span(scales.bottom, scales.top)
        )  # fmt: skip
        x = rounded_for(found.x, scales.x_of(at.x()), right - left, scales.across)
        y = rounded_for(found.y, scales.y_of(at.y()), high - low, scales.up)
        self.drag_numbers(tune, [(found.x, x), (found.y, y)])

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.result is None:
            return
        if self._held:
            self._put(event.position())
        over = self._held or self._letter_at(event.position())
        self.setCursor(Qt.CursorShape.SizeAllCursor if over else Qt.CursorShape.CrossCursor)
        self._show_values(event.position())

    def _show_values(self, at: QPointF) -> None:
        found: Map = self.result
        scales = self.scales
        if not scales.room.contains(at):
            self.status.emit("")
            return
        column = int(np.abs(found.across - scales.x_of(at.x())).argmin())
        row = int(np.abs(found.up - scales.y_of(at.y())).argmin())
        words = [
            f"{BY_ID[id].label} {self.formatted(BY_ID[id], float(found.figures[id][row, column]))}"
            if np.isfinite(found.figures[id][row, column]) else f"{BY_ID[id].label} not shown"
            for id in self.result.ids if id in found.figures
        ]  # fmt: skip
        met = "" if found.allowed is None else f". {_targets_words(found, row, column, self.formatted)}"
        where = (
            f"{found.x.label} {self.number_words(found.x, float(found.across[column]))}, "
            f"{found.y.label} {self.number_words(found.y, float(found.up[row]))}"
        )
        self.status.emit(f"{where}: {', '.join(words)}{met}")

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        if key not in STEPS or self.result is None or self.tune is None:
            super().keyPressEvent(event)
            return
        found, scales, tune = self.result, self.scales, self.tune[1]
        far = 5 if event.modifiers() & Qt.KeyboardModifier.ControlModifier else 1
        changes = []
        for number, step, ends, scale in (
            (found.x, STEPS[key][0], (scales.left, scales.right), scales.across),
            (found.y, STEPS[key][1], (scales.bottom, scales.top), scales.up),
        ):
            if step:
                by = step * far * (1.0 if number.kind == "whole" else (ends[1] - ends[0]) / 100)
                low, high = scale.span(*ends)
                changes.append((number, rounded_for(number, as_number(tune.get(number.id)) + by, high - low, scale)))
        self.drag_numbers(tune, changes)

    @override
    def table(self) -> Table:
        if self.result is None:
            return (), []
        found: Map = self.result
        across, up, units = self.scale_of(found.x), self.scale_of(found.y), self.session.units
        head = (found.x.id, found.y.id, *found.figures)
        if units.game is not None:
            head = (f"{found.x.id} {across.unit}".rstrip(), f"{found.y.id} {up.unit}".rstrip(), *(
                f"{id} {units.unit(BY_ID[id].unit)}".rstrip() for id in found.figures
            ))  # fmt: skip
        rows = [
            (repr(across.on_axis(float(x))), repr(up.on_axis(float(y))), *(
                "" if np.isnan(values[row, column]) else repr(units.reading(BY_ID[id], float(values[row, column])))
                for id, values in found.figures.items()
            ))
            for row, y in enumerate(found.up) for column, x in enumerate(found.across)
        ]  # fmt: skip
        return head, rows


def _targets_words(found: Map, row: int, column: int, worded: Callable[[Measure, float], str]) -> str:
    """Which targets are missed at a point, and by how much."""
    missed = []
    for target, by in found.missed_at(row, column):
        measure = BY_ID[target.measure]
        if by is None:
            missed.append(f"{measure.label} is not shown")
        else:
            far = worded(measure, abs(by))
            missed.append(f"{measure.label} is {far} too {'high' if by > 0 else 'low'}")
    return f"Missed: {'; '.join(missed)}" if missed else "All targets met"


def _places_on(lines: list[Grid]) -> list[tuple[float, float]]:
    """Where a contour line may carry its value: on its longest piece, in the middle first."""
    if not lines:
        return []
    longest = max(lines, key=len)
    return [tuple(longest[int(share * (len(longest) - 1))].tolist()) for share in (0.5, 0.3, 0.7, 0.15, 0.85)]
