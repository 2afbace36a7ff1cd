"""Windows: a press of the take is shifted frame by frame; a lane for each tune and clock says what became of it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from PySide6.QtCore import QEvent, QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QKeyEvent, QMouseEvent, QPainter, QPen

from cinetica.desk import look
from cinetica.desk.state.session import Session
from cinetica.desk.survey.chart import short
from cinetica.desk.survey.choosers import ListChooser, TuneChooser
from cinetica.desk.survey.view import Asked, Table, View
from cinetica.desk.widgets import NumberBox, button
from cinetica.model.clock import clock_words
from cinetica.model.study import Drill
from cinetica.model.take import Press
from cinetica.model.tune import Tune, parameter_by_id
from cinetica.reading.fates import BUFFERED, COYOTE, LOST, OUTCOMES
from cinetica.reading.reading_off import on_all_cores
from cinetica.reading.survey.shifting import FARTHEST, jump_presses
from cinetica.reading.survey.windows import (
    LONGEST_HELD,
    MOST_SPREAD,
    WORDS,
    Lane,
    clocks_of,
    held_grid,
    lanes,
    place_words,
    spread,
    tops_of,
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
    """`lanes`: for each tune (with its place) a lane under each clock, by its name. `shares`: what of a scattered hand
    works, under the first clock. `grid`: lanes of the chosen tune held for 1 to 40 frames, or nothing."""

    drill: Drill
    press: Press
    chosen: tuple[int, Tune]
    lanes: list[tuple[int, Tune, dict[str, Lane]]]
    shares: list[float]
    grid: list[Lane]


class WindowsView(View):
    WORDS = "Windows"
    TIP = "On which frames a press of jump works, and what becomes of it on the others"
    GUIDE = "The rooftop is unfair"

    def __init__(self, session: Session, asked: Asked, palette: look.Palette) -> None:
        super().__init__(session, asked, palette)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("What becomes of a press that comes earlier or later")
        self.which = 0
        self.goal: int | None = None
        self.press_chooser = ListChooser("Press of jump", 16, self._choose_press)
        self.goal_chooser = ListChooser("Where the body has to come down", 16, self._choose_goal)
        self.scatter = NumberBox()
        self.scatter.setFont(look.font(9))
        self.scatter.setRange(0, MOST_SPREAD)
        self.scatter.setDecimals(0)
        self.scatter.setPrefix("± ")
        self.scatter.setSuffix(" ms")
        self.scatter.setValue(40)
        self.scatter.setAccessibleName("Scatter of the hand")
        self.scatter.setToolTip("How far presses scatter: the standard deviation, in ms. 2,000 presses are tried.")
        self.scatter.setKeyboardTracking(False)
        self.scatter.valueChanged.connect(lambda _: self.renew())
        self.held = button("Held 1 to 40", "A second axis: how many frames the press is held", switch=True)
        self.held.toggled.connect(lambda _: self.renew())
        self.tune_chooser = TuneChooser(self)
        self._grip: tuple[str, str] | None = None
        self._left_of: tuple[Any, float] = (None, 0.0)
        session.let_go.connect(self._let_go)

    def controls(self) -> list[Any]:
        return [self.press_chooser, self.goal_chooser, self.scatter, self.held, self.tune_chooser]

    def _choose_press(self, which: str) -> None:
        self.which = int(which)
        self.changed.emit()

    def _choose_goal(self, goal: str) -> None:
        self.goal = None if goal == ANYWHERE else int(goal)
        self.changed.emit()

    @property
    def presses(self) -> tuple[Press, ...]:
        return jump_presses(self.drill.take) if self.drill and self.drill.view == "side" else ()

    @property
    def press(self) -> Press | None:
        presses = self.presses
        return presses[min(self.which, len(presses) - 1)] if presses else None

    def refresh_controls(self) -> None:
        listed = [
            (str(place), f"press {place + 1}: {start} to {end}") for place, (start, end) in enumerate(self.presses)
        ]
        self.press_chooser.fill(listed, str(min(self.which, max(0, len(listed) - 1))))
        course = self.drill.course if self.drill else None
        tops = (
            [(str(place), f"on {place_words(course, place)}") for place in range(len(tops_of(course)))]
            if course
            else []
        )
        if self.goal is not None and self.goal >= len(tops):
            self.goal = None
        self.goal_chooser.fill([(ANYWHERE, "down anywhere"), *tops], ANYWHERE if self.goal is None else str(self.goal))
        self.tune_chooser.renew()

    def key(self) -> tuple[Any, ...]:
        drill = self.drill
        tunes = tuple(tune for _, tune in self.tunes)
        chosen = self.tune[1] if self.tune and self.held.isChecked() else None
        return (drill and drill.take, drill and drill.course, self.session.study.clock, self.which, str(self.goal),
                self.scatter.value(), self.held.isChecked(), chosen, len(tunes), *tunes)  # fmt: skip

    @property
    def clocks(self) -> dict[str, Any]:
        found = clocks_of(self.session.study.clock, self.drill.take.seconds if self.drill else 1.0)
        return dict(sorted(found.items(), key=lambda each: each[1] != self.session.study.clock))

    def ask(self) -> None:
        drill, press, tunes, chosen = self.drill, self.press, self.tunes, self.tune
        if drill is None or press is None or chosen is None:
            why = (
                "Seen from above nothing jumps." if drill and drill.view == "top" else "There is no press of jump here."
            )
            self._fail(f"{why} Choose a drill seen from the side in which jump is pressed.")
            return
        clocks, goal, ms, grid = self._kept_clocks(), self.goal, self.scatter.value(), self.held.isChecked()

        first = next(iter(clocks.values()))

        def steps() -> Iterator[tuple[float, Any]]:
            made = lanes([tune for _, tune in tunes], drill, list(clocks.values()), press)
            by_tune = [made[place * len(clocks) : (place + 1) * len(clocks)] for place in range(len(tunes))]
            yield 0.6, None
            shares = on_all_cores(lambda each: spread(each[1], drill, first, press, ms, goal), tunes)
            yield 0.8, None
            more = held_grid(chosen[1], drill, first, press) if grid else []
            listed = [
                (place, tune, dict(zip(clocks, each, strict=True)))
                for (place, tune), each in zip(tunes, by_tune, strict=True)
            ]
            yield 1.0, Found(drill, press, chosen, listed, shares, more)

        self.aside.ask(steps)

    _clocks: tuple[Any, float, dict[str, Any]] | None = None

    def _kept_clocks(self) -> dict[str, Any]:
        """The same objects while the clock and the length of the take stay: what is made of them is kept by them."""
        seconds, clock = self.drill.take.seconds if self.drill else 1.0, self.session.study.clock
        if self._clocks is None or self._clocks[0] is not clock or self._clocks[1] != seconds:
            self._clocks = (clock, seconds, self.clocks)
        return self._clocks[2]

    # Painting

    @property
    def _left(self) -> float:
        """The room of letters and clocks."""
        if self._left_of[0] is not self.result:
            self._left_of = (self.result, self._room_of_names())
        return self._left_of[1]

    def _room_of_names(self) -> float:
        names = list(self.result.lanes[0][2])
        return look.width("W ", 9, bold=True) + max(look.width(self._told(name), 8) for name in names) + look.px(14)

    def _told(self, name: str) -> str:
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

    def _lane_rects(self) -> Iterator[tuple[int, Tune, str, Lane, QRectF]]:
        """Every lane with the place of its cells."""
        y, high, wide = self._top, self._lane_high, self._cell * CELLS
        for place, tune, by_clock in self.result.lanes:
            for name, lane in by_clock.items():
                yield place, tune, name, lane, QRectF(self._left, y, wide, high)
                y += high
            y += look.px(6)

    def paint(self, painter: QPainter) -> None:
        self._paint_head(painter)
        last = None
        for place, tune, name, lane, rect in self._lane_rects():
            self._paint_lane(painter, place, tune, name, lane, rect, tune is not last)
            last = tune
        if self.result.grid:
            self._paint_grid(painter)
        self._paint_key(painter)

    def _paint_head(self, painter: QPainter) -> None:
        press, step = self.result.press, 5 if self._cell * 5 > look.width("−30 ", 8) else 10
        painter.setFont(look.font(9, bold=True))
        painter.setPen(QColor(self.look.ink))
        words = f"The press in frame {press.start}, so many frames earlier (−) or later (+)"
        shown = short(painter, words, self.width() - 8, self.cut)
        painter.drawText(QRectF(4, 2, self.width() - 8, look.height(9) + 2), Qt.AlignmentFlag.AlignLeft, shown)
        painter.setFont(look.font(8))
        painter.setPen(QColor(self.look.soft))
        y = look.height(9) + look.px(5)
        for shift in range(-FARTHEST, FARTHEST, step):
            x = self._left + (shift + FARTHEST + 0.5) * self._cell
            text = f"{shift:+d}".replace("-", "−") if shift else "0"
            painter.drawText(QRectF(x - 20, y, 40, look.height(8)), Qt.AlignmentFlag.AlignCenter, text)
        painter.drawText(QRectF(self.width() - self._right, y, self._right - 4, look.height(8)),
                         Qt.AlignmentFlag.AlignLeft, "works")  # fmt: skip

    def _paint_lane(
        self, painter: QPainter, place: int, tune: Tune, name: str, lane: Lane, rect: QRectF, first: bool
    ) -> None:
        ink = look.ink(self.look, place)
        fits_text = rect.height() >= look.height(8) - 1
        for stretch in lane.stretches:
            cells = QRectF(
                rect.left() + (stretch.first + FARTHEST) * self._cell, rect.top() + 1, stretch.frames * self._cell,
                rect.height() - 2,
            )  # fmt: skip
            painter.fillRect(cells, QColor(self.look.paper))
            right_place = self.goal is None or stretch.place == self.goal
            color = look.mixed(ink, QColor(self.look.paper), 0.6 if right_place else 0.2)
            if stretch.outcome in PATTERNS:
                painter.fillRect(cells, QBrush(color, PATTERNS[stretch.outcome]))
            painter.setPen(QPen(QColor(self.look.soft), 1))
            painter.drawRect(cells)
            text = SIGNS[stretch.outcome] + f" {stretch.frames}"
            wide = look.width(text, 8) + 4
            if fits_text and wide < cells.width():
                box = QRectF(cells.center().x() - wide / 2, cells.top() + 1, wide, cells.height() - 1)
                painter.fillRect(box, QColor(self.look.paper))
                painter.setFont(look.font(8))
                painter.setPen(QColor(self.look.ink))
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
        x = rect.left() + FARTHEST * self._cell
        painter.setPen(QPen(QColor(self.look.warning), 1.5))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(QRectF(x, rect.top(), self._cell, rect.height()))
        if not fits_text:
            return
        painter.setFont(look.font(9, bold=True))
        painter.setPen(QColor(self.look.ink))
        if first:
            painter.drawText(QRectF(4, rect.top(), self._left, rect.height()), Qt.AlignmentFlag.AlignVCenter,
                             look.letter(place))  # fmt: skip
        painter.setFont(look.font(8))
        box = QRectF(4 + look.width("W ", 9, bold=True), rect.top(), self._left, rect.height())
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, self._told(name))
        box = QRectF(rect.right() + look.px(8), rect.top(), self._right - look.px(8), rect.height())
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, self.words_of(lane))

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
        painter.setPen(QColor(self.look.ink))
        words = f"{look.letter(tune[0])} {tune[1].name}: up, held for 1 to {LONGEST_HELD} frames"
        painter.drawText(QRectF(4, rect.top() - look.height(9) - 4, self.width() - 8, look.height(9) + 2),
                         Qt.AlignmentFlag.AlignLeft, words)  # fmt: skip
        high, ink = rect.height() / LONGEST_HELD, look.ink(self.look, tune[0])
        painter.fillRect(rect, QColor(self.look.paper))
        for row, lane in enumerate(self.result.grid):
            y = rect.bottom() - (row + 1) * high
            for stretch in lane.stretches:
                if stretch.outcome not in PATTERNS:
                    continue
                there = self.goal is None or stretch.place == self.goal
                color = look.mixed(ink, QColor(self.look.paper), 0.6 if there else 0.2)
                cells = QRectF(
                    rect.left() + (stretch.first + FARTHEST) * self._cell, y, stretch.frames * self._cell, high
                )
                painter.fillRect(cells, QBrush(color, PATTERNS[stretch.outcome]))
        y = self._min_hold_y()
        painter.setPen(QPen(QColor(self.look.warning), 1.5))
        painter.drawLine(QPointF(rect.left(), y), QPointF(rect.right(), y))
        painter.setFont(look.font(8))
        painter.setPen(QColor(self.look.ink))
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
        """What the signs mean, and what a scattered hand gets."""
        words = ", ".join(
            f"{SIGNS[each]} {WORDS[each]}" for each in ("ground", "coyote", "buffered", "air", "net", "lost")
        )
        shares = ", ".join(
            f"{look.letter(place)} {100 * share:.0f} %"
            for (place, _, _), share in zip(self.result.lanes, self.result.shares, strict=True)
        )
        painter.setFont(look.font(8))
        painter.setPen(QColor(self.look.ink))
        high = look.height(8) + 1
        for row, text in enumerate(
            (words, f"Of 2,000 presses scattered by ± {self.scatter.value():g} ms work: {shares}")
        ):
            box = QRectF(4, self.height() - self._foot + look.px(4) + row * high, self.width() - 8, high)
            painter.drawText(box, Qt.AlignmentFlag.AlignLeft, short(painter, text, box.width(), self.cut))

    # Mouse and keys

    def _grip_at(self, at: QPointF) -> tuple[str, str] | None:
        """The edge of a window that a number sets, under the first clock: the tune's name, and the number's id."""
        if self.result is None:
            return None
        if self.result.grid and self._grid_rect().contains(at) and abs(at.y() - self._min_hold_y()) < 5:
            return self.result.chosen[1].name, MIN_HOLD.id
        done = None
        for _, tune, _, lane, rect in self._lane_rects():
            first, done = tune is not done, tune
            if not first or not rect.contains(at):
                continue
            for stretch in lane.stretches:
                if stretch.outcome == "coyote" and self._near(rect, stretch.last + 1, at):
                    return tune.name, COYOTE_TIME.id
                if stretch.outcome == "buffered" and self._near(rect, stretch.first, at):
                    return tune.name, BUFFER.id
        return None

    def _near(self, rect: QRectF, shift: int, at: QPointF) -> bool:
        return abs(rect.left() + (shift + FARTHEST) * self._cell - at.x()) < max(4.0, self._cell / 2)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        grip = self._grip_at(event.position()) if event.button() == Qt.MouseButton.LeftButton else None
        if grip is not None:
            self._grip = grip
            self.session.begin(f"{parameter_by_id(grip[1]).label} of {grip[0]}")

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.result is None:
            return
        at = event.position()
        if self._grip is not None:
            self._pull(at)
        grip = self._grip or self._grip_at(at)
        cursor = Qt.CursorShape.ArrowCursor
        if grip:
            cursor = Qt.CursorShape.SizeVerCursor if grip[1] == MIN_HOLD.id else Qt.CursorShape.SizeHorCursor
        self.setCursor(cursor)
        self._tell(at)

    def _pull(self, at: QPointF) -> None:
        """Set the number to the frames between its own moment and the edge."""
        assert self._grip is not None
        tune = self.session.study.tune(self._grip[0])
        number = parameter_by_id(self._grip[1])
        if number is MIN_HOLD:
            rect = self._grid_rect()
            frames = (rect.bottom() - at.y()) / rect.height() * LONGEST_HELD
        else:
            frames = self._frames_of(tune.name, number.id, (at.x() - self._left) / self._cell - FARTHEST)
        value = round(max(0.0, round(frames)) / self._rate, 4)
        self.drag_numbers(tune, [(number, min(value, number.high))], lambda: None)

    def _frames_of(self, name: str, id: str, edge: float) -> float:
        """How many frames the window has where its edge is dragged to a shift: coyote time begins where the ground
        ends, and the buffer ends where the ground begins again."""
        lane = next(next(iter(by_clock.values())) for _, tune, by_clock in self.result.lanes if tune.name == name)
        if id == COYOTE_TIME.id:
            begins = lane.shifts[lane.outcomes == COYOTE]
            return edge - float(begins.min()) if len(begins) else 0.0
        ends = lane.shifts[lane.outcomes == BUFFERED]
        return float(ends.max()) + 1 - edge if len(ends) else 0.0

    def _tell(self, at: QPointF) -> None:
        shift = int(np.floor((at.x() - self._left) / self._cell)) - FARTHEST
        for place, tune, name, lane, rect in self._lane_rects():
            if rect.contains(at) and -FARTHEST <= shift <= FARTHEST:
                cell = shift + FARTHEST
                if not lane.fits[cell]:
                    self.said.emit("There the press would lie outside of the take.")
                    return
                outcome = OUTCOMES[lane.outcomes[cell]]
                where = (
                    "" if lane.outcomes[cell] == LOST
                    else f", down on {place_words(self.result.drill.course, int(lane.places[cell]))}"
                )  # fmt: skip
                where = where.replace("down on not down", "not down")
                when = f"{abs(shift)} frames {'earlier' if shift < 0 else 'later'}" if shift else "as it is"
                stretch = next(each for each in lane.stretches if each.first <= shift <= each.last)
                wide = f" ({stretch.frames} frames so, {1000 * stretch.frames / self._rate:.0f} ms)"
                who = f"{look.letter(place)} {tune.name}, {self._told(name)}, {when}"
                self.said.emit(f"{who}: {WORDS[outcome]}{where}{wide}")
                return
        self.said.emit("")

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._grip is not None:
            self._grip = None
            self.session.end()

    def _let_go(self) -> None:
        self._grip = None

    def leaveEvent(self, event: QEvent) -> None:
        self.said.emit("")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Left and Right: coyote time of the chosen tune; with Shift its buffer; with Ctrl its shortest hold."""
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        key = Qt.Key(event.key())
        if key not in steps or self.tune is None:
            super().keyPressEvent(event)
            return
        held = event.modifiers()
        number = (
            BUFFER if held & Qt.KeyboardModifier.ShiftModifier
            else MIN_HOLD if held & Qt.KeyboardModifier.ControlModifier else COYOTE_TIME
        )  # fmt: skip
        value = max(0.0, round(float(self.tune[1].get(number.id)) * self._rate) + steps[key]) / self._rate
        self.session.set_value(self.tune[1], number, round(value, 4), joins=True)

    def table(self) -> Table:
        if self.result is None:
            return (), []
        head = ("tune", "clock", "shift frames", "outcome", "comes down on", "x u", "y u", "works")
        rows = [
            (tune.name, self._told(name), str(int(shift)), WORDS[OUTCOMES[outcome]],
             place_words(self.result.drill.course, int(place)), f"{x:.4f}", f"{y:.4f}", "yes" if works else "no")
            for _, tune, by_clock in self.result.lanes for name, lane in by_clock.items()
            for shift, outcome, place, x, y, works, fits in zip(
                lane.shifts, lane.outcomes, lane.places, lane.x, lane.y, lane.works(self.goal), lane.fits, strict=True
            ) if fits
        ]  # fmt: skip
        return head, rows
