"""Windows: a press of the take is shifted frame by frame; a lane per tune and clock shows what becomes of it."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.state.session import Session
from cinetica.desk.survey.choosers import ListChooser, TuneChooser
from cinetica.desk.survey.view import Asked, Table
from cinetica.desk.survey.windows_chart import (
    ANYWHERE,
    BUFFER,
    COYOTE_TIME,
    MIN_HOLD,
    Found,
    WindowsPaper,
)
from cinetica.desk.widgets import NumberBox, button
from cinetica.model.course import Course
from cinetica.model.parameters import as_number
from cinetica.model.take import Press
from cinetica.model.tune import parameter_by_id
from cinetica.reading.press_outcomes import BUFFERED, COYOTE, LOST, OUTCOMES
from cinetica.reading.run_reader import on_all_cores
from cinetica.reading.survey.press_shifts import FARTHEST, jump_presses
from cinetica.reading.survey.press_windows import (
    LONGEST_HELD,
    MOST_SPREAD,
    WORDS,
    clocks_of,
    held_grid,
    lanes,
    place_words,
    spread,
    tops_of,
)


class WindowsView(WindowsPaper):
    """The windows of a press."""

    WORDS = "Windows"
    TIP = "On which frames a jump press works, and what happens to it on the others"
    GUIDE = "The rooftop is unfair"

    def __init__(self, session: Session, asked: Asked) -> None:
        super().__init__(session, asked)
        self.which = 0
        self.press_chooser = ListChooser("Press of jump", 16, self._choose_press)
        self.goal_chooser = ListChooser("Where the body must land", 16, self._choose_goal)
        self.scatter = NumberBox()
        self.scatter.setFont(look.font(9))
        self.scatter.setRange(0, MOST_SPREAD)
        self.scatter.setDecimals(0)
        self.scatter.setPrefix("± ")
        self.scatter.setSuffix(" ms")
        self.scatter.setValue(40)
        self.scatter.setAccessibleName("Timing scatter")
        self.scatter.setToolTip("How far presses scatter: the standard deviation, in ms. 2,000 presses are tried.")
        self.scatter.setKeyboardTracking(False)
        self.scatter.valueChanged.connect(lambda _: self.renew())
        self.held = button("By hold time", "Adds a second axis: how many frames the press is held", switch=True)
        self.held.toggled.connect(lambda _: self.renew())
        self.tune_chooser = TuneChooser(self)

    @override
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
        """The presses of jump."""
        return jump_presses(self.drill.take) if self.drill and self.drill.view == "side" else ()

    @property
    def press(self) -> Press | None:
        """The chosen press."""
        presses = self.presses
        return presses[min(self.which, len(presses) - 1)] if presses else None

    @override
    def refresh_controls(self) -> None:
        listed = [
            (str(place), f"press {place + 1}: {start} to {end}") for place, (start, end) in enumerate(self.presses)
        ]
        self.press_chooser.fill(listed, str(min(self.which, max(0, len(listed) - 1))))
        course = self.drill.course if self.drill else None
        tops = (
            [(str(place), f"on {self._place_words(place, course)}") for place in range(len(tops_of(course)))]
            if course
            else []
        )
        if self.goal is not None and self.goal >= len(tops):
            self.goal = None
        self.goal_chooser.fill([(ANYWHERE, "lands anywhere"), *tops], ANYWHERE if self.goal is None else str(self.goal))
        self.tune_chooser.renew()

    @override
    def key(self) -> tuple[Any, ...]:
        drill = self.drill
        tunes = tuple(tune for _, tune in self.tunes)
        chosen = self.tune[1] if self.tune and self.held.isChecked() else None
        return (drill and drill.take, drill and drill.course, self.session.study.clock, self.which, str(self.goal),
                self.scatter.value(), self.held.isChecked(), chosen, len(tunes), *tunes)  # fmt: skip

    @property
    def clocks(self) -> dict[str, Any]:
        """The clocks, the study's own first."""
        found = clocks_of(self.session.study.clock, self.drill.take.seconds if self.drill else 1.0)
        return dict(sorted(found.items(), key=lambda each: each[1] != self.session.study.clock))

    @override
    def ask(self) -> None:
        drill, press, tunes, chosen = self.drill, self.press, self.tunes, self.tune
        if drill is None or press is None or chosen is None:
            why = "Seen from above, nothing jumps." if drill and drill.view == "top" else "There is no jump press here."
            self._fail(f"{why} Choose a side-view drill with a jump press.")
            return
        self.scattered = self.scatter.value()
        clocks, goal, ms, grid = self._kept_clocks(), self.goal, self.scatter.value(), self.held.isChecked()

        first = next(iter(clocks.values()))

        def steps() -> Iterator[tuple[float, Any]]:
            """Run the lanes, the spread and the grid."""
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

        self.task.ask(steps)

    _clocks: tuple[Any, float, dict[str, Any]] | None = None

    def _kept_clocks(self) -> dict[str, Any]:
        """The same objects until the clock or the take's length changes, since they are cache keys."""
        seconds, clock = self.drill.take.seconds if self.drill else 1.0, self.session.study.clock
        if self._clocks is None or self._clocks[0] is not clock or self._clocks[1] != seconds:
            self._clocks = (clock, seconds, self.clocks)
        return self._clocks[2]

    # Mouse and keys

    def _grip_at(self, at: QPointF) -> tuple[str, str] | None:
        """The draggable edge of a window under the first clock: the tune's name, and the number's id."""
        if self.result is None:
            return None
        if self.result.grid and self._grid_rect().contains(at) and abs(at.y() - self._min_hold_y()) < 5:
            return self.result.chosen[1].name, MIN_HOLD.id
        done = None
        for row in self._rows():
            first, done = row.tune is not done, row.tune
            if not first or not row.rect.contains(at):
                continue
            for stretch in row.lane.stretches:
                if stretch.outcome == "coyote" and self._near(row.rect, stretch.last + 1, at):
                    return row.tune.name, COYOTE_TIME.id
                if stretch.outcome == "buffered" and self._near(row.rect, stretch.first, at):
                    return row.tune.name, BUFFER.id
        return None

    def _near(self, rect: QRectF, shift: int, at: QPointF) -> bool:
        return abs(rect.left() + (shift + FARTHEST) * self._cell - at.x()) < max(4.0, self._cell / 2)

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        grip = self._grip_at(event.position()) if event.button() == Qt.MouseButton.LeftButton else None
        if grip is not None:
            self._held = grip
            self.session.begin(f"{parameter_by_id(grip[1]).label} of {grip[0]}")

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.result is None:
            return
        at = event.position()
        if self._held:
            self._pull(at)
        grip = self._held or self._grip_at(at)
        cursor = Qt.CursorShape.ArrowCursor
        if grip:
            cursor = Qt.CursorShape.SizeVerCursor if grip[1] == MIN_HOLD.id else Qt.CursorShape.SizeHorCursor
        self.setCursor(cursor)
        self._show_outcome(at)

    def _pull(self, at: QPointF) -> None:
        """Set the number to the frames between its start and the edge."""
        tune = self.session.study.tune(self._held[0])
        number = parameter_by_id(self._held[1])
        if number is MIN_HOLD:
            rect = self._grid_rect()
            frames = (rect.bottom() - at.y()) / rect.height() * LONGEST_HELD
        else:
            frames = self._frames_of(tune.name, number.id, (at.x() - self._left) / self._cell - FARTHEST)
        value = round(max(0.0, round(frames)) / self._rate, 4)
        self.drag_numbers(tune, [(number, min(value, number.high))])

    def _frames_of(self, name: str, id: str, edge: float) -> float:
        """The length of a window, in frames, when its edge is dragged to a shift.

        Coyote time begins where the ground ends, and the buffer ends where the ground begins again.
        """
        lane = next(next(iter(by_clock.values())) for _, tune, by_clock in self.result.lanes if tune.name == name)
        if id == COYOTE_TIME.id:
            begins = lane.shifts[lane.outcomes == COYOTE]
            return edge - float(begins.min()) if len(begins) else 0.0
        ends = lane.shifts[lane.outcomes == BUFFERED]
        return float(ends.max()) + 1 - edge if len(ends) else 0.0

    def _show_outcome(self, at: QPointF) -> None:
        shift = int(np.floor((at.x() - self._left) / self._cell)) - FARTHEST
        for place, tune, name, lane, rect in self._rows():
            if rect.contains(at) and -FARTHEST <= shift <= FARTHEST:
                cell = shift + FARTHEST
                if not lane.fits[cell]:
                    self.status.emit("There the press would start outside the take, or during another press.")
                    return
                outcome = OUTCOMES[lane.outcomes[cell]]
                where = (
                    "" if lane.outcomes[cell] == LOST
                    else f", down on {self._place_words(int(lane.places[cell]))}"
                )  # fmt: skip
                where = where.replace("down on not down", "not down")
                when = f"{abs(shift)} frames {'earlier' if shift < 0 else 'later'}" if shift else "as it is"
                stretch = next(each for each in lane.stretches if each.first <= shift <= each.last)
                wide = f" ({stretch.frames} frames so, {1000 * stretch.frames / self._rate:.0f} ms)"
                who = f"{look.letter(place)} {tune.name}, {self._formatted(name)}, {when}"
                self.status.emit(f"{who}: {WORDS[outcome]}{where}{wide}")
                return
        self.status.emit("")

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Left and Right change coyote time of the chosen tune, with Shift its buffer, with Ctrl its shortest hold."""
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        key = Qt.Key(event.key())
        if key not in steps or self.tune is None or self.result is None:
            super().keyPressEvent(event)
            return
        held = event.modifiers()
        number = (
            BUFFER if held & Qt.KeyboardModifier.ShiftModifier
            else MIN_HOLD if held & Qt.KeyboardModifier.ControlModifier else COYOTE_TIME
        )  # fmt: skip
        value = max(0.0, round(as_number(self.tune[1].get(number.id)) * self._rate) + steps[key]) / self._rate
        self.session.set_value(self.tune[1], number, round(value, 4), joins=True)

    def _place_words(self, place: int, course: Course | None = None) -> str:
        return place_words(course or self.result.drill.course, place, self.session.units)

    @override
    def table(self) -> Table:
        if self.result is None:
            return (), []
        units = self.session.units
        x_scale, y_scale = units.column("x"), units.column("y")
        head = ("tune", "clock", "shift frames", "outcome", "comes down on", f"x {x_scale.unit}", f"y {y_scale.unit}",
                "works")  # fmt: skip
        rows = [
            (tune.name, self._formatted(name), str(int(shift)), WORDS[OUTCOMES[outcome]],
             self._place_words(int(place)), f"{x_scale.shown(x):.4f}", f"{y_scale.shown(y):.4f}",
             "yes" if works else "no")
            for _, tune, by_clock in self.result.lanes for name, lane in by_clock.items()
            for shift, outcome, place, x, y, works, fits in zip(
                lane.shifts, lane.outcomes, lane.places, lane.x, lane.y, lane.works(self.goal), lane.fits, strict=True
            ) if fits
        ]  # fmt: skip
        return head, rows
