"""Reach: how wide a gap and how high a step a tune crosses, as an outline over the course and as a table.

Seen from above: how far it gets in every direction, and how much room a turn needs.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import partial
from typing import Any

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPen, QPolygonF, QResizeEvent
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QInputDialog, QMenu, QTableWidget, QTableWidgetItem
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.state.session import Session
from cinetica.desk.survey import ground_reach
from cinetica.desk.survey.chart import Scales, paint_scales, room_in
from cinetica.desk.survey.choosers import TuneChooser
from cinetica.desk.survey.view import Asked, Table, View
from cinetica.desk.widgets import OpensButton, button
from cinetica.model.editing import with_target
from cinetica.model.targets import HOW, Target, range_from_text
from cinetica.model.tune import Tune
from cinetica.model.world_size import world_size
from cinetica.reading.measures import MEASURES, REACHED, Measure
from cinetica.reading.run_reader import on_all_cores
from cinetica.reading.survey.ground_reach import head as turn_head
from cinetica.reading.survey.ground_reach import table as turn_table
from cinetica.reading.survey.reach import (
    RUNNING,
    STANDING,
    STARTS,
    Outline,
    Reach,
    head,
    outline,
    reach,
    steps_table,
    table,
)

HEADS = ("Height", "Stand", "safe", "Run", "safe")
TIPS = (
    "How much higher (or lower) the far ledge is, in {u}",
    "The widest gap between two edges that a standing jump crosses, in {u}",
    "The same gap with jump held 3 frames less than needed",
    "The widest gap between two edges that a running jump crosses, coyote time included, in {u}",
    "The same gap with jump pressed 3 frames earlier and held 3 frames less than needed",
)


@dataclass(frozen=True, eq=False)
class Found:
    """Outlines for each tune (with its place), standing and running, and the reach of the chosen tune."""

    outlines: list[tuple[int, Tune, dict[str, Outline]]]
    tune: Tune
    reaches: dict[str, Reach]

    @property
    def lowest(self) -> float:
        """The lowest difference in height, in u."""
        return self.reaches[RUNNING].gaps[0].level


class ReachView(View):
    """How far each tune goes."""

    WORDS = "Reach"
    TIP = (
        "How wide a gap and how high a step each tune can cross; from above, how far it gets and what room a turn needs"
    )
    GUIDE = "The widest gap and the highest step"

    def __init__(self, session: Session, asked: Asked) -> None:
        super().__init__(session, asked)
        self.tune_chooser = TuneChooser(self)
        self.over = button(
            "Over the course", "Draw it where the reference stands at the frame cursor, over the course", switch=True
        )
        self.over.toggled.connect(lambda _: self.update())
        self.target = OpensButton("Target")
        self.target.setFont(look.font(9))
        self.target.setToolTip("Set a target for a figure of this tune’s reach, on this drill")
        menu = QMenu(self.target)
        for measure in (each for each in MEASURES if each.id in REACHED):
            action = menu.addAction(f"{measure.label}…", partial(self._ask_target, measure))
            action.setToolTip(measure.meaning)
        self.target.setMenu(menu)
        session.cursor_moved.connect(self._follow_cursor)
        self.rows = QTableWidget(0, len(HEADS), self)
        self.rows.setFont(look.font(9))
        self.rows.horizontalHeader().setFont(look.font(9))
        self.rows.verticalHeader().hide()
        self.rows.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.rows.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.rows.setAccessibleName("Widest gaps by difference in height")
        self.setFocusProxy(self.rows)
        self.rows.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)

    @override
    def controls(self) -> list[Any]:
        return [self.tune_chooser, self.target, self.over]

    @override
    def refresh_controls(self) -> None:
        self.tune_chooser.renew()
        for widget in (self.over, self.target):
            widget.setVisible(self.drill is None or self.drill.view == "side")

    def ask_range(self, question: str) -> str:
        """Ask for a range; empty if it is cancelled. Tests put their own answer in."""
        answer, given = QInputDialog.getText(self, "Target", question)
        return answer if given else ""

    def _ask_target(self, measure: Measure) -> None:
        """Set a target for a figure of the chosen tune's reach."""
        drill, chosen = self.drill, self.tune
        scale = self.session.units.scale(measure.unit)
        text = self.ask_range(f"{measure.label} should be, in {scale.unit} ({HOW}):") if drill and chosen else ""
        if not text or drill is None or chosen is None:
            return
        try:
            ends = range_from_text(text, scale.unit)
            if ends is None:
                raise ValueError(f"“{text}” is not a range: {HOW}.")
            low, high = (None if end is None else scale.kept(end) for end in ends)
            target = Target(measure=measure.id, low=low, high=high, tunes=(chosen[1].name,))
        except ValueError as error:
            self.session.refused.emit(str(error))
            return
        if self.session.alter(
            f"Target for {measure.label.lower()}", lambda study: with_target(study, drill.name, target)
        ):
            words = self.session.units.target_words(target, measure)
            self.session.message.emit(f"{measure.label} of {chosen[1].name} should be {words}.")

    @override
    def key(self) -> tuple[Any, ...]:
        tunes = tuple(tune for _, tune in self.tunes)
        return (self.session.study.clock, self.session.units, self.tune and self.tune[1], len(tunes), *tunes)

    @override
    def ask(self) -> None:
        tunes, chosen, clock = self.tunes, self.tune, self.session.study.clock
        if chosen is None:
            self._fail("There is no tune to show. Show one first.")
            return
        if chosen[1].view == "top":
            above = [each for each in tunes if each[1].view == "top"]
            units = self.session.units
            self.task.ask(lambda: ground_reach.find(above, chosen[1], clock, units))
            return

        def steps() -> Iterator[tuple[float, Any]]:
            """Run the outlines, then the gaps."""
            asked = [(tune, start) for _, tune in tunes for start in STARTS]
            drawn = on_all_cores(lambda each: outline(each[0], clock, each[1]), asked)
            yield 0.5, None
            by_tune = [dict(zip(STARTS, drawn[at : at + len(STARTS)], strict=True)) for at in range(0, len(drawn), 2)]
            listed = [(*each, both) for each, both in zip(tunes, by_tune, strict=True)]
            found = on_all_cores(lambda start: reach(chosen[1], clock, start), STARTS)
            yield 1.0, Found(listed, chosen[1], dict(zip(STARTS, found, strict=True)))

        self.task.ask(steps)

    @override
    def _take(self, result: Any) -> None:
        super()._take(result)
        self._fill()

    @override
    def _fail(self, why: str) -> None:
        super()._fail(why)
        self.rows.hide()

    def _fill(self) -> None:
        self.rows.show()
        above = isinstance(self.result, ground_reach.FoundAbove)
        heads, tips = (ground_reach.HEADS, ground_reach.TIPS) if above else (HEADS, TIPS)
        self.rows.setColumnCount(len(heads))
        self.rows.setHorizontalHeaderLabels(list(heads))
        for column, tip in enumerate(tips):
            if (head := self.rows.horizontalHeaderItem(column)) is not None:
                head.setToolTip(tip.format(u=self.session.units.unit("u"), s=self.session.units.unit("s")))
        cells = [[(text, "") for text in row] for row in self.result.cells()] if above else self._gap_cells()
        self.rows.setRowCount(len(cells))
        for row, texts in enumerate(cells):
            for column, (text, tip) in enumerate(texts):
                item = QTableWidgetItem(text.replace("-", "−"))
                item.setToolTip(tip)
                item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                self.rows.setItem(row, column, item)
            self.rows.setRowHeight(row, look.height(9) + look.px(3))
        self._place_rows()

    def _gap_cells(self) -> list[list[tuple[str, str]]]:
        """The rows of the table, each cell with its tooltip."""
        found: Found = self.result
        stand, ran = found.reaches[STANDING], found.reaches[RUNNING]
        rows = []
        for one, other in zip(reversed(stand.gaps), reversed(ran.gaps), strict=True):
            level = self.session.units.scale("u").shown(one.level)
            cells = [(f"{level:+.6g}" if one.level else "0", "")]
            for gap in (one, other):
                far = self._formatted(gap.distance, with_unit=True)
                tip = f"Jump distance, of the feet alone: {far}" if gap.distance is not None else ""
                cells += [(self._formatted(gap.widest), tip), (self._formatted(gap.safe), tip)]
            rows.append(cells)
        return rows

    def _formatted(self, length: float | None, *, with_unit: bool = False) -> str:
        units = self.session.units
        if length is None:
            return "–"
        return units.figure_words(length, "u") if with_unit else units.figure(length, "u")

    def _place_rows(self) -> None:
        # Each column has room for the widest head, with its margins; the outline keeps two fifths.
        every = (*HEADS, *ground_reach.HEADS)
        heads = self.rows.columnCount() * (max(look.width(head, 9) for head in every) + look.px(14)) + look.px(12)
        wide = max(min(heads, self.width() * 3 // 5), 10)
        under = look.height(9) * 6 + look.px(12)
        self.rows.setGeometry(self.width() - wide, 0, wide, max(10, self.height() - under))

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._place_rows()

    def _follow_cursor(self, _: int) -> None:
        if self.over.isChecked():
            self.update()

    # Painting

    @property
    def _area(self) -> QRectF:
        return QRectF(0, 0, self.width() - self.rows.width() - 4, self.height())

    def _anchor(self) -> tuple[float, float]:
        """Where the feet are assumed to stand."""
        shown = self.session.reference_shown
        if not self.over.isChecked() or shown is None:
            return 0.0, 0.0
        row = min(self.session.cursor, len(shown.trace) - 1)
        return float(shown.trace["x"][row]), float(shown.trace["y"][row])

    def _scales(self) -> Scales:
        lines = [each.hull for _, _, both in self.result.outlines for each in both.values()]
        x0, y0 = self._anchor()
        low = self.result.lowest
        across = [x for points in lines for x, y in points if y >= low]
        high = max((y for points in lines for _, y in points), default=1.0)
        size = world_size(self.result.tune)
        left, right = min(across, default=0.0) - size, max(across, default=1.0) + 0.5 * size
        room = room_in(self._area)
        bottom, top = low - 0.3 * size, high + 0.7 * size
        # One unit is as long across as up.
        unit = min(room.width() / max(1e-9, right - left), room.height() / max(1e-9, top - bottom))
        if unit > 0:
            right, bottom = left + room.width() / unit, top - room.height() / unit
        units = self.session.units
        across_scale, up_scale = (
            (units.column("x"), units.column("y")) if self.over.isChecked() else (units.scale("u"), units.scale("u"))
        )
        return Scales(room, x0 + left, x0 + right, y0 + bottom, y0 + top, across_scale, up_scale)

    @override
    def paint(self, painter: QPainter) -> None:
        if isinstance(self.result, ground_reach.FoundAbove):
            self.result.paint(painter, self._area, self.cut)
            self._paint_under_table(painter, self.result.words)
            return
        scales, (x0, y0) = self._scales(), self._anchor()
        title = "Where the feet get to: thin from standing, thick from a run"
        paint_scales(painter, scales, look.palette(), title, self.session.units.unit("u"), self.cut)
        painter.save()
        painter.setClipRect(scales.room)
        self._paint_ground(painter, scales, x0, y0)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        chosen = self.result.tune
        for place, tune, both in self.result.outlines:
            for start, each in both.items():
                ends = [scales.point(x0 + x, y0 + y) for x, y in each.hull]
                if tune is chosen and start == RUNNING:
                    color = look.ink(look.palette(), place)
                    color.setAlpha(26)
                    painter.setPen(Qt.PenStyle.NoPen)
                    painter.setBrush(color)
                    painter.drawPolygon(QPolygonF(ends))
                    painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.setPen(look.ink_pen(look.palette(), place, 2.4 if start == RUNNING else 1.0))
                painter.drawPolyline(QPolygonF(ends))
        painter.restore()
        self._paint_words(painter)

    def _paint_ground(self, painter: QPainter, scales: Scales, x0: float, y0: float) -> None:
        earth, edge = QColor(look.palette().earth), QPen(QColor(look.palette().earth_edge), 1)
        painter.setPen(edge)
        drill = self.drill
        if self.over.isChecked() and drill is not None:
            for left, bottom, right, top in (*drill.course.solids, *drill.course.oneway):
                rect = QRectF(scales.point(left, top), scales.point(right, bottom)).normalized()
                painter.fillRect(rect.intersected(scales.room.adjusted(-2, -2, 2, 2)), earth)
                painter.drawRect(rect)
            for slope in drill.course.slopes:
                painter.drawLine(scales.point(slope[0], slope[1]), scales.point(slope[2], slope[3]))
        else:
            floor = QRectF(
                QPointF(scales.room.left(), scales.y(0.0)), scales.point(0.0, -0.35 * world_size(self.result.tune))
            ).normalized()
            painter.fillRect(floor, earth)
            painter.drawLine(scales.point(scales.left, 0.0), scales.point(0.0, 0.0))

    def _paint_words(self, painter: QPainter) -> None:
        """Paint steps and falls of the tune, below the table."""
        found: Found = self.result
        ran, stand = found.reaches[RUNNING], found.reaches[STANDING]
        fall = "no fall off the edge in this time" if ran.fall is None else (
            f"a run off the edge falls {self._formatted(abs(found.lowest), with_unit=True)} in"
            f" {self.session.units.figure_words(ran.fall[0], 's')}, {self._formatted(ran.fall[1], with_unit=True)} far"
        )  # fmt: skip
        level = ", ".join(
            f"{start} {self._formatted(gap.distance, with_unit=True)}"
            for start, each in ((STANDING, stand), (RUNNING, ran))
            for gap in each.gaps
            if gap.level == 0.0 and gap.distance is not None
        )
        text = (f"{found.tune.name}: jump distance on the level {level}; " if level else f"{found.tune.name}: ") + (
            f"highest step {self._formatted(max(ran.step, stand.step), with_unit=True)}, with 3 frames to spare "
            f"{self._formatted(max(ran.easy_step, stand.easy_step), with_unit=True)}; {fall}."
        )
        self._paint_under_table(painter, text)

    def _paint_under_table(self, painter: QPainter, text: str) -> None:
        painter.setPen(QColor(look.palette().ink))
        painter.setFont(look.font(9))
        top = self.rows.height() + 4
        box = QRectF(self.rows.x() + 4, top, self.rows.width() - 8, self.height() - top)
        painter.drawText(box, Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignLeft, text)

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.result is None:
            return
        if isinstance(self.result, ground_reach.FoundAbove):
            self.status.emit(self.result.words_at(self._area, event.position()))
            return
        scales, (x0, y0) = self._scales(), self._anchor()
        if not scales.room.contains(event.position()):
            self.status.emit("")
            return
        x, y = scales.x_of(event.position().x()) - x0, scales.y_of(event.position().y()) - y0
        words = []
        for place, _, both in self.result.outlines:
            ends = {start: each.farthest(y) for start, each in both.items()}
            words.append(f"{look.letter(place)} " + ", ".join(
                f"{start} {self._formatted(far, with_unit=True)}" if far is not None else f"{start} out of reach"
                for start, far in ends.items()
            ))  # fmt: skip
        self.status.emit(
            f"{self._formatted(x, with_unit=True)} far, {self._formatted(y, with_unit=True)} high; "
            f"farthest there: {'; '.join(words)}"
        )

    @override
    def table(self) -> Table:
        if self.result is None:
            return (), []
        if isinstance(self.result, ground_reach.FoundAbove):
            return turn_head(self.result.units), turn_table(self.result.tune, self.result.turns, self.result.units)
        found, units = list(self.result.reaches.values()), self.session.units
        steps = ((f"highest step {units.unit('u')}", *each) for each in steps_table(found, units))
        return head(units), [*table(found, units), *steps]
