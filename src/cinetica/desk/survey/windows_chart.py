"""The chart of Windows: lanes of outcomes, and a press held for longer and longer."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, NamedTuple

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPen
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.survey.chart import short
from cinetica.desk.survey.view import View
from cinetica.model.clock import clock_words
from cinetica.model.study import Drill
from cinetica.model.take import Press
from cinetica.model.tune import Tune, parameter_by_id
from cinetica.reading.survey.press_shifts import FARTHEST
from cinetica.reading.survey.press_windows import (
    LONGEST_HELD,
    WORDS,
    Lane,
)

COYOTE_TIME, BUFFER, MIN_HOLD = (parameter_by_id(f"jump.{key}") for key in ("coyote", "buffer", "min_hold"))
# One sign for each outcome, so that none needs its colour.
SIGNS = {"lost": "×", "ground": "g", "coyote": "c", "buffered": "b", "air": "a", "net": "n"}
PATTERNS = {
    "ground": Qt.BrushStyle.SolidPattern, "coyote": Qt.BrushStyle.BDiagPattern, "buffered": Qt.BrushStyle.FDiagPattern,
    "air": Qt.BrushStyle.Dense5Pattern, "net": Qt.BrushStyle.CrossPattern,
}  # fmt: skip
CELLS = 2 * FARTHEST + 1
# Names of clocks that are more than a rate.
CLOCKS = {"50 in 60": "50/s in 60", "hitch": "60, a hitch"}
ANYWHERE = "anywhere"


@dataclass(frozen=True, eq=False)
class Found:
    """The results.

    `lanes`: for each tune (with its place) a lane under each clock, by its name. `shares`: the share of scattered
    presses that works, under the first clock. `grid`: lanes of the chosen tune held for 1 to 40 frames, or nothing.
    """

    drill: Drill
    press: Press
    chosen: tuple[int, Tune]
    lanes: list[tuple[int, Tune, dict[str, Lane]]]
    shares: list[float]
    grid: list[Lane]


class LaneRow(NamedTuple):
    """A lane on the page: the tune with its place, the name of the clock, and the rectangle of the cells."""

    place: int
    tune: Tune
    clock: str
    lane: Lane
    rect: QRectF


class WindowsPaper(View):
    """The lanes and their painting; `goal`: the top that the body has to land on, if any."""

    goal: int | None = None
    scattered = 0.0
    _left_of: tuple[Any, float] = (None, 0.0)

    # Painting

    @property
    def _left(self) -> float:
        """The width of letters and clocks."""
        if self._left_of[0] is not self.result:
            self._left_of = (self.result, self._room_of_names())
        return self._left_of[1]

    def _room_of_names(self) -> float:
        names = list(self.result.lanes[0][2])
        return (
            look.width("W ", 9, bold=True) + max(look.width(self._formatted(name), 8) for name in names) + look.px(14)
        )

    def _formatted(self, name: str) -> str:
        if name == "study":
            return clock_words(self.session.study.clock)
        return f"{name}/s" if name.isdigit() else CLOCKS.get(name, name)

    @property
    def _right(self) -> float:
        return look.width("−30 to +30: 61 frames, 1016 ms  ", 8)

    @property
    def _cell(self) -> float:
        return max(2.0, (self.width() - self._left - self._right - look.px(8)) / CELLS)

    @property
    def _lane_high(self) -> float:
        lanes_ = sum(len(by_clock) for _, _, by_clock in self.result.lanes)
        room = self.height() - self._top - self._foot - len(self.result.lanes) * look.px(6)
        if self.result.grid:
            room -= self._grid_high
        return max(4.0, min(look.height(8) + look.px(9), room / max(1, lanes_)))

    @property
    def _top(self) -> float:
        return look.height(9) + look.height(8) + look.px(10)

    @property
    def _foot(self) -> float:
        return 2 * look.height(8) + look.px(10)

    @property
    def _grid_high(self) -> float:
        return min(self.height() * 0.4, LONGEST_HELD * 7.0) + look.height(9) + look.px(10)

    def _rows(self) -> Iterator[LaneRow]:
        """All lanes, from the top."""
        y, high, wide = self._top, self._lane_high, self._cell * CELLS
        for place, tune, by_clock in self.result.lanes:
            for name, lane in by_clock.items():
                yield LaneRow(place, tune, name, lane, QRectF(self._left, y, wide, high))
                y += high
            y += look.px(6)

    @override
    def paint(self, painter: QPainter) -> None:
        self._paint_head(painter)
        last = None
        for row in self._rows():
            self._paint_row(painter, row, row.tune is not last)
            last = row.tune
        if self.result.grid:
            self._paint_grid(painter)
        self._paint_key(painter)

    def _paint_head(self, painter: QPainter) -> None:
        press, step = self.result.press, 5 if self._cell * 5 > look.width("−30 ", 8) else 10
        painter.setFont(look.font(9, bold=True))
        painter.setPen(QColor(look.palette().ink))
        words = f"The press in frame {press.start}, shifted earlier (−) or later (+), in frames"
        shown = short(painter, words, self.width() - 8, self.cut)
        painter.drawText(QRectF(4, 2, self.width() - 8, look.height(9) + 2), Qt.AlignmentFlag.AlignLeft, shown)
        painter.setFont(look.font(8))
        painter.setPen(QColor(look.palette().soft))
        y = look.height(9) + look.px(5)
        for shift in range(-FARTHEST, FARTHEST, step):
            x = self._left + (shift + FARTHEST + 0.5) * self._cell
            text = f"{shift:+d}".replace("-", "−") if shift else "0"
            painter.drawText(QRectF(x - 20, y, 40, look.height(8)), Qt.AlignmentFlag.AlignCenter, text)
        painter.drawText(QRectF(self.width() - self._right, y, self._right - 4, look.height(8)),
                         Qt.AlignmentFlag.AlignLeft, "works")  # fmt: skip

    def _paint_row(self, painter: QPainter, row: LaneRow, first: bool) -> None:
        rect = row.rect
        fits_text = rect.height() >= look.height(8) - 1
        self._paint_stretches(painter, look.ink(look.palette(), row.place), row.lane, rect, fits_text)
        x = rect.left() + FARTHEST * self._cell
        painter.setPen(QPen(QColor(look.palette().warning), 1.5))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(QRectF(x, rect.top(), self._cell, rect.height()))
        if not fits_text:
            return
        painter.setFont(look.font(9, bold=True))
        painter.setPen(QColor(look.palette().ink))
        if first:
            painter.drawText(QRectF(4, rect.top(), self._left, rect.height()), Qt.AlignmentFlag.AlignVCenter,
                             look.letter(row.place))  # fmt: skip
        painter.setFont(look.font(8))
        box = QRectF(4 + look.width("W ", 9, bold=True), rect.top(), self._left, rect.height())
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, self._formatted(row.clock))
        box = QRectF(rect.right() + look.px(8), rect.top(), self._right - look.px(8), rect.height())
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, self.words_of(row.lane))

    def _paint_stretches(self, painter: QPainter, ink: QColor, lane: Lane, rect: QRectF, fits_text: bool) -> None:
        for stretch in lane.stretches:
            cells = QRectF(
                rect.left() + (stretch.first + FARTHEST) * self._cell, rect.top() + 1, stretch.frames * self._cell,
                rect.height() - 2,
            )  # fmt: skip
            painter.fillRect(cells, QColor(look.palette().paper))
            right_place = self.goal is None or stretch.place == self.goal
            color = look.mixed(ink, QColor(look.palette().paper), 0.6 if right_place else 0.2)
            if stretch.outcome in PATTERNS:
                painter.fillRect(cells, QBrush(color, PATTERNS[stretch.outcome]))
            painter.setPen(QPen(QColor(look.palette().soft), 1))
            painter.drawRect(cells)
            text = SIGNS[stretch.outcome] + f" {stretch.frames}"
            wide = look.width(text, 8) + 4
            if fits_text and wide < cells.width():
                box = QRectF(cells.center().x() - wide / 2, cells.top() + 1, wide, cells.height() - 1)
                painter.fillRect(box, QColor(look.palette().paper))
                painter.setFont(look.font(8))
                painter.setPen(QColor(look.palette().ink))
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)

    def words_of(self, lane: Lane) -> str:
        """How many frames around the press work."""
        window = lane.window(self.goal)
        if window is None:
            return "not on its own frame"
        frames = window[1] - window[0] + 1
        ms = 1000.0 * frames / self._rate
        signed = [f"{shift:+d}".replace("-", "−") if shift else "0" for shift in window]
        return f"{signed[0]} to {signed[1]}: {frames} frames, {ms:.0f} ms"

    def _grid_rect(self) -> QRectF:
        high = self._grid_high - look.height(9) - look.px(10)
        return QRectF(self._left, self.height() - self._foot - high, self._cell * CELLS, high)

    def _paint_grid(self, painter: QPainter) -> None:
        rect, tune = self._grid_rect(), self.result.chosen
        painter.setFont(look.font(9, bold=True))
        painter.setPen(QColor(look.palette().ink))
        words = f"{look.letter(tune[0])} {tune[1].name}: up, held for 1 to {LONGEST_HELD} frames"
        painter.drawText(QRectF(4, rect.top() - look.height(9) - 4, self.width() - 8, look.height(9) + 2),
                         Qt.AlignmentFlag.AlignLeft, words)  # fmt: skip
        high, ink = rect.height() / LONGEST_HELD, look.ink(look.palette(), tune[0])
        painter.fillRect(rect, QColor(look.palette().paper))
        for row, lane in enumerate(self.result.grid):
            y = rect.bottom() - (row + 1) * high
            for stretch in lane.stretches:
                if stretch.outcome not in PATTERNS:
                    continue
                there = self.goal is None or stretch.place == self.goal
                color = look.mixed(ink, QColor(look.palette().paper), 0.6 if there else 0.2)
                cells = QRectF(
                    rect.left() + (stretch.first + FARTHEST) * self._cell, y, stretch.frames * self._cell, high
                )
                painter.fillRect(cells, QBrush(color, PATTERNS[stretch.outcome]))
        y = self._min_hold_y()
        painter.setPen(QPen(QColor(look.palette().warning), 1.5))
        painter.drawLine(QPointF(rect.left(), y), QPointF(rect.right(), y))
        painter.setFont(look.font(8))
        painter.setPen(QColor(look.palette().ink))
        painter.drawText(QRectF(rect.right() + look.px(8), y - look.height(8) / 2, self._right, look.height(8)),
                         Qt.AlignmentFlag.AlignLeft, MIN_HOLD.label)  # fmt: skip

    def _min_hold_y(self) -> float:
        rect, tune = self._grid_rect(), self.result.chosen
        frames = float(tune[1].get(MIN_HOLD.id)) * self._rate
        return rect.bottom() - min(frames, LONGEST_HELD) * rect.height() / LONGEST_HELD

    @property
    def _rate(self) -> float:
        return float(self.result.drill.take.rate)

    def _paint_key(self, painter: QPainter) -> None:
        """Paint the meaning of the signs, and the share of scattered presses that works."""
        words = ", ".join(
            f"{SIGNS[each]} {WORDS[each]}" for each in ("ground", "coyote", "buffered", "air", "net", "lost")
        )
        shares = ", ".join(
            f"{look.letter(place)} {100 * share:.0f}%"
            for (place, _, _), share in zip(self.result.lanes, self.result.shares, strict=True)
        )
        painter.setFont(look.font(8))
        painter.setPen(QColor(look.palette().ink))
        high = look.height(8) + 1
        for row, text in enumerate(
            (words, f"Of 2,000 presses scattered by ±{self.scattered:g} ms, these work: {shares}")
        ):
            box = QRectF(4, self.height() - self._foot + look.px(4) + row * high, self.width() - 8, high)
            painter.drawText(box, Qt.AlignmentFlag.AlignLeft, short(painter, text, box.width(), self.cut))
