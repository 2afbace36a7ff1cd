"""How the sheet is drawn: its groups, and the cells of their rows."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Sequence
from functools import lru_cache
from typing import NamedTuple, cast

from PySide6.QtCore import QRect, QSize, Qt
from PySide6.QtGui import QColor, QFontMetrics, QPainter

from cinetica.desk import look
from cinetica.desk.paint.canvas import FIGURES, PIXELS, Canvas, Sketch
from cinetica.desk.paint.panel import paint_parts
from cinetica.desk.paint.signs import VERDICT_WIDTH, arrow_path, pointer_path, verdict_path
from cinetica.desk.sheet.cells import share_of_comfort
from cinetica.desk.sheet.content import Cell as Shows
from cinetica.desk.sheet.content import Content, Group, Row, text_of
from cinetica.desk.sheet.model import FIRST_TUNE, LABEL, UNIT
from cinetica.model.parameters import Parameter
from cinetica.reading.measures import Measure

_FIGURE = re.compile(f"[{re.escape(''.join(FIGURES))}-]*")
# How round a chosen cell is.
CORNER = 3.0


class Cell(NamedTuple):
    """A column of a row and its place, or a whole group, by its number, where there is no row."""

    rect: QRect
    group: int
    number: int | None = None
    column: int = LABEL
    # Selected, or the current one.
    chosen: bool = False


class Drawing:
    """`is_open` tells whether a group is, `focused` whether the keyboard is in the table."""

    def __init__(self, model: Content, is_open: Callable[[int], bool], focused: Callable[[], bool]) -> None:
        self._model, self._is_open, self._focused = model, is_open, focused

    def paint(self, painter: QPainter, size: QSize, parts: Sequence[QRect], cells: Sequence[Cell]) -> None:
        """Paint these parts of a table of this size, in which these cells are."""
        ground = look.color(look.worn().sheet)
        paint_parts(painter, size, parts, ground, lambda canvas: self._draw(canvas, size.width(), cells))

    def _draw(self, canvas: Canvas, wide: int, cells: Sequence[Cell]) -> None:
        for cell in cells:
            group = self._model.groups[cell.group]
            if cell.number is None:
                self._draw_group(canvas, cell.rect, wide, group, is_open=self._is_open(cell.group))
                continue
            row = group.rows[cell.number]
            if cell.column == LABEL:
                self._draw_label(canvas, cell.rect, row)
            elif cell.column == UNIT:
                unit, rect = self._model.unit(row), cell.rect
                left = rect.left() + rect.width() - 4 - look.width(unit, 8)
                canvas.text(unit, left, rect.top() + rect.height() / 2, 8, look.color(look.worn().soft))
            else:
                column = cell.column - FIRST_TUNE
                shows = self._model.cell(cell.group, cell.number, column)
                self._draw_value(canvas, cell.rect, row, column, shows, chosen=cell.chosen)

    def _draw_label(self, canvas: Canvas, rect: QRect, row: Row) -> None:
        margin = look.px(26)
        text = _shortened(row.label, 9, rect.width() - margin)
        canvas.text(text, rect.left() + margin, rect.top() + rect.height() / 2, 9, look.color(look.worn().ink))

    def _draw_group(self, canvas: Canvas, rect: QRect, wide: int, group: Group, *, is_open: bool) -> None:
        accent, soft = look.color(look.worn().accent), look.color(look.worn().soft)
        path = arrow_path(4, up=False) if is_open else pointer_path(8)
        at = Sketch((rect.left() + 12,), (rect.top() + rect.height() / 2 + 1,))
        canvas.marks(path, at, PIXELS, look.color(look.worn().accent, 0), 0.1, accent)
        left, middle = rect.left() + look.px(24), rect.top() + (rect.height() + 3) / 2
        canvas.text(group.title, left, middle, 9, accent, bold=True)
        if not is_open:
            columns = range(len(self._model.tunes))
            differing = sum(any(self._model.differs(row, column) for column in columns) for row in group.rows)
            words = f"{len(group.rows)} folded" + (f", {differing} differ" if differing else "")
            end = rect.left() + wide - 10
            words = _shortened(words, 8, end - left - look.width(group.title, 9, bold=True) - look.px(8))
            canvas.text(words, end - look.width(words, 8), middle, 8, soft)

    def _draw_value(
        self, canvas: Canvas, rect: QRect, row: Row, column: int, shows: Shows, *, chosen: bool
    ) -> None:  # fmt: skip
        """The value of a tune, where it stands in its comfortable range, and an arrow where it differs."""
        model, palette = self._model, look.worn()
        place, tune = model.tunes[column]
        if model.session.is_hidden(tune):
            return
        # What is inside of the cell's margins.
        x, y, wide, high = cast("tuple[int, int, int, int]", rect.getRect())
        left, right = (x + 4, x + wide - 2) if wide > look.px(60) else (x + 2, x + wide - 1)
        top, bottom = y + 1, y + high - 1
        middle = (top + bottom) / 2
        value, differs, verdict = shows
        measure = isinstance(row, Measure)
        if differs and not measure:
            canvas.boxes((left, bottom, right, top), PIXELS, None, look.color(palette.differs))
        fixed = value is None or bool(tune.snapshot_of) or not (isinstance(row, Parameter) or row.wishable)
        color = look.color(palette.soft if fixed else palette.ink)
        self._draw_text(canvas, text_of(row, value), left, right - 12, middle, color)
        if differs:
            at, warning = Sketch((right - 7,), (middle,)), look.color(palette.warning)
            canvas.marks(arrow_path(4, up=differs > 0), at, PIXELS, look.color(palette.warning, 0), 0.1, warning)
        if verdict is not None:
            at, size = Sketch((left + look.px(7),), (middle + 0.5,)), look.px(3)
            rim = look.color(palette.accent if verdict.met else palette.warning)
            path, hollow = verdict_path(size, met=verdict.met), look.color(palette.paper, 0)
            canvas.marks(path, at, PIXELS, rim, VERDICT_WIDTH, hollow)
        if measure and not fixed:
            # Dots under a figure: it can be typed over, too.
            dots = Sketch((left + 8, right - 15), (bottom - 0.5, bottom - 0.5))
            canvas.line(dots, PIXELS, look.color(palette.soft), 1, (1.0, 2.0))
        if isinstance(row, Parameter) and row.kind in ("number", "whole") and value is not None:
            end = left + 2 + round(share_of_comfort(row, float(value)) * (right - left - 15))
            canvas.boxes((left + 2, bottom, right - 12, bottom - 2), PIXELS, None, look.color(palette.grid))
            canvas.boxes((left + 1, bottom, end + 1, bottom - 2), PIXELS, None, look.ink(palette, place))
        if chosen:
            # The sheet has two tables; the keyboard is in one of them, or elsewhere.
            here = self._focused()
            frame = _frame(left + 0.75, top + 0.75, right - 0.75, bottom - 0.75)
            canvas.line(frame, PIXELS, look.color(palette.accent if here else palette.grid), 1.5)

    def _draw_text(
        self, canvas: Canvas, text: str, left: float, end: float, middle: float, color: QColor
    ) -> None:  # fmt: skip
        """Figures stand in digits of one width; what is longer than the cell ends in dots."""
        # To shorten a text takes as long as to paint it; figures are no wider than so many digits.
        if len(text) * look.width("0", 9) > end - left:
            text = QFontMetrics(look.font(9)).elidedText(text, Qt.TextElideMode.ElideRight, round(end - left))
        # Figures are put together from their signs: of texts that change with every move none is kept.
        if _FIGURE.fullmatch(text):
            canvas.figure(text.replace("-", "−"), end, middle, 9, color)
        else:
            canvas.text(text, end - look.width(text, 9), middle, 9, color)


def _shortened(text: str, size: int, room: float) -> str:
    """A text, ended in dots where it has no room."""
    if look.width(text, size) <= room:
        return text
    return QFontMetrics(look.font(size)).elidedText(text, Qt.TextElideMode.ElideRight, max(0, round(room)))


@lru_cache(64)
def _frame(left: float, top: float, right: float, bottom: float) -> Sketch:
    """Around a cell, with round corners."""
    turn = 0.25 * math.pi
    arc = [(CORNER * math.cos(part * turn), CORNER * math.sin(part * turn)) for part in range(9)]
    corners = ((right - CORNER, bottom - CORNER), (left + CORNER, bottom - CORNER),
               (left + CORNER, top + CORNER), (right - CORNER, top + CORNER))  # fmt: skip
    points = [(x + dx, y + dy) for number, (x, y) in enumerate(corners) for dx, dy in arc[2 * number : 2 * number + 3]]
    points.append(points[0])
    return Sketch([x for x, _ in points], [y for _, y in points])
