"""How the sheet is drawn: its groups, and the cells of their rows."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Sequence
from functools import lru_cache
from typing import NamedTuple

from PySide6.QtCore import QRect, QSize, Qt
from PySide6.QtGui import QFontMetrics, QPainter

from cinetica.desk import look
from cinetica.desk.paint.canvas import FIGURES, PIXELS, Canvas, Gathered, Sketch
from cinetica.desk.paint.panel import paint_parts
from cinetica.desk.paint.signs import VERDICT_WIDTH, arrow_path, pointer_path, verdict_path
from cinetica.desk.sheet.content import ABSENT, Content, Group, Row
from cinetica.desk.sheet.model import FIRST_TUNE, LABEL, UNIT
from cinetica.reading.measures import Measure

_FIGURE = re.compile(f"[{re.escape(''.join(FIGURES))}-]*")
# How round a chosen cell is.
CORNER = 3.0


class Line(NamedTuple):
    """Cells of a row, from the first column to the last, or a whole group, where there is no row."""

    top: int
    group: int
    number: int | None = None
    first: int = LABEL
    last: int = LABEL


class Places(NamedTuple):
    """Where columns are, from the left edge and how wide, and how high every row is."""

    columns: list[tuple[int, int]]
    high: int


class Pile:
    """What the cells of many rows have alike, to be drawn all in one go: cells do not lie on each other."""

    def __init__(self) -> None:
        # Values: text, its end and its middle; and by whether they are fixed, or can be typed over, those that are
        # figures.
        self.words = list[tuple[str, float, float, bool]]()
        self.figures: dict[bool, list[tuple[str, float, float]]] = {True: [], False: []}
        # Where a value is more than the reference's, or less; where a target is met, or missed.
        self.more, self.less = Gathered(), Gathered()
        self.met, self.missed = Gathered(), Gathered()
        self.dots = Gathered()
        # Boxes: under what differs, under bars, and the bars themselves, by the tune's place.
        self.differing, self.scales = list[float](), list[float]()
        self.bars: dict[int, list[float]] = {}
        self.frames = list[Sketch]()

    def write(self, text: str, left: float, end: float, middle: float, *, fixed: bool) -> None:
        """A text that ends at `end`; one that is longer than its cell ends in dots."""
        # To shorten a text takes as long as to paint it; figures are no wider than so many digits.
        if len(text) * look.width("0", 9) > end - left:
            text = QFontMetrics(look.font(9)).elidedText(text, Qt.TextElideMode.ElideRight, round(end - left))
        # Figures are put together from their signs, of one width: of texts that change with every move none is kept.
        if _FIGURE.fullmatch(text):
            self.figures[fixed].append((text.replace("-", "−"), end, middle))
        else:
            self.words.append((text, end - look.width(text, 9), middle, fixed))

    def draw(self, canvas: Canvas, *, focused: bool) -> None:
        palette, color = look.worn(), look.color
        inks = {True: color(palette.soft), False: color(palette.ink)}
        canvas.boxes(self.differing, PIXELS, None, color(palette.differs))
        for fixed, figures in self.figures.items():
            canvas.figures(figures, 9, inks[fixed])
        for text, left, middle, fixed in self.words:
            canvas.text(text, left, middle, 9, inks[fixed])
        warning, hollow = color(palette.warning), color(palette.paper, 0)
        for up, arrows in ((True, self.more), (False, self.less)):
            canvas.marks(arrow_path(4, up=up), arrows, PIXELS, color(palette.warning, 0), 0.1, warning)
        for met, verdicts, rim in ((True, self.met, palette.accent), (False, self.missed, palette.warning)):
            path = verdict_path(look.px(3), met=met)
            canvas.marks(path, verdicts, PIXELS, color(rim), VERDICT_WIDTH, hollow)
        canvas.line(self.dots, PIXELS, color(palette.soft), 1, (1.0, 2.0))
        canvas.boxes(self.scales, PIXELS, None, color(palette.grid))
        for place, bars in self.bars.items():
            canvas.boxes(bars, PIXELS, None, look.ink(palette, place))
        # The sheet has two tables; the keyboard is in one of them, or elsewhere.
        for frame in self.frames:
            canvas.line(frame, PIXELS, color(palette.accent if focused else palette.grid), 1.5)


class Drawing:
    """`is_open` tells whether a group is, `focused` whether the keyboard is in the table."""

    def __init__(self, model: Content, is_open: Callable[[int], bool], focused: Callable[[], bool]) -> None:
        self._model, self._is_open, self._focused = model, is_open, focused
        # Cells that are selected, and the current one: group, number in it, and column.
        self.framed: set[tuple[int, int, int]] = set()

    def paint(
        self, painter: QPainter, size: QSize, parts: Sequence[QRect], lines: Sequence[Line], places: Places
    ) -> None:  # fmt: skip
        """Paint these parts of a table of this size, in which these lines are."""
        ground = look.color(look.worn().sheet)
        paint_parts(painter, size, parts, ground, lambda canvas: self._draw(canvas, size.width(), lines, places))

    def _draw(self, canvas: Canvas, wide: int, lines: Sequence[Line], places: Places) -> None:
        pile = Pile()
        hidden = [self._model.session.is_hidden(tune) for _, tune in self._model.tunes]
        for line in lines:
            group = self._model.groups[line.group]
            if line.number is None:
                self._draw_group(canvas, line.top, wide, places, group, is_open=self._is_open(line.group))
                continue
            row, middle = group.rows[line.number], line.top + places.high / 2
            if line.first <= LABEL <= line.last:
                self._draw_label(canvas, *places.columns[LABEL], middle, row)
            if line.first <= UNIT <= line.last:
                self._draw_unit(canvas, *places.columns[UNIT], middle, row)
            columns = range(max(line.first, FIRST_TUNE), line.last + 1)
            self._gather(pile, line, row, [column for column in columns if not hidden[column - FIRST_TUNE]], places)
        pile.draw(canvas, focused=self._focused())

    def _draw_label(self, canvas: Canvas, left: int, wide: int, middle: float, row: Row) -> None:
        margin = look.px(26)
        canvas.text(_shortened(row.label, 9, wide - margin), left + margin, middle, 9, look.color(look.worn().ink))

    def _draw_unit(self, canvas: Canvas, left: int, wide: int, middle: float, row: Row) -> None:
        unit = self._model.unit(row)
        canvas.text(unit, left + wide - 4 - look.width(unit, 8), middle, 8, look.color(look.worn().soft))

    def _draw_group(
        self, canvas: Canvas, top: int, wide: int, places: Places, group: Group, *, is_open: bool
    ) -> None:  # fmt: skip
        accent, soft = look.color(look.worn().accent), look.color(look.worn().soft)
        path, left = arrow_path(4, up=False) if is_open else pointer_path(8), places.columns[LABEL][0]
        at = Sketch((left + 12,), (top + places.high / 2 + 1,))
        canvas.marks(path, at, PIXELS, look.color(look.worn().accent, 0), 0.1, accent)
        begins, middle = left + look.px(24), top + (places.high + 3) / 2
        canvas.text(group.title, begins, middle, 9, accent, bold=True)
        if not is_open:
            columns = range(len(self._model.tunes))
            differing = sum(any(self._model.differs(row, column) for column in columns) for row in group.rows)
            words = f"{len(group.rows)} folded" + (f", {differing} differ" if differing else "")
            end = left + wide - 10
            words = _shortened(words, 8, end - begins - look.width(group.title, 9, bold=True) - look.px(8))
            canvas.text(words, end - look.width(words, 8), middle, 8, soft)

    def _gather(self, pile: Pile, line: Line, row: Row, columns: Sequence[int], places: Places) -> None:
        """The values of tunes, where they stand in their comfortable range, and arrows where they differ."""
        assert line.number is not None
        measure, narrow, aside = isinstance(row, Measure), look.px(60), look.px(7)
        can_be_typed = not isinstance(row, Measure) or row.wishable
        # What is inside of a cell's margins.
        top, bottom = line.top + 1, line.top + places.high - 1
        middle = (top + bottom) / 2
        for column in columns:
            x, wide = places.columns[column]
            left, right = (x + 4, x + wide - 2) if wide > narrow else (x + 2, x + wide - 1)
            place, tune = self._model.tunes[column - FIRST_TUNE]
            text, share, differs, verdict = self._model.cell(line.group, line.number, column - FIRST_TUNE)
            fixed = text is ABSENT or not can_be_typed or bool(tune.snapshot_of)
            pile.write(text, left, right - 12, middle, fixed=fixed)
            if differs:
                if not measure:
                    pile.differing += (left, bottom, right, top)
                (pile.more if differs > 0 else pile.less).add(right - 7, middle)
            if verdict is not None:
                (pile.met if verdict.met else pile.missed).add(left + aside, middle + 0.5)
            if measure and not fixed:
                # Dots under a figure: it can be typed over, too.
                pile.dots.add(left + 8, bottom - 0.5)
                pile.dots.add(right - 15, bottom - 0.5)
                pile.dots.add(math.nan, math.nan)
            if share is not None:
                end = left + 2 + round(share * (right - left - 15))
                pile.scales += (left + 2, bottom, right - 12, bottom - 2)
                pile.bars.setdefault(place, []).extend((left + 1, bottom, end + 1, bottom - 2))
            if (line.group, line.number, column) in self.framed:
                pile.frames.append(_frame(left + 0.75, top + 0.75, right - 0.75, bottom - 0.75))


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
