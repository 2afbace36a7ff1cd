"""The bar below the strips: step, play, where the cursor is, and what happens next."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QElapsedTimer, QTimer
from PySide6.QtGui import QActionGroup
from PySide6.QtWidgets import QMenu, QToolButton

from cinetica.desk import look
from cinetica.desk.actions.keys import keyed, keyed_tip, keys_in_force
from cinetica.desk.compare.time_axis import TimeAxis
from cinetica.desk.state.session import Session
from cinetica.desk.widgets import FoldingRow, LabelPair, ShortLabel, button
from cinetica.reading.marks import Happening, happenings_at, marked_from

SPEEDS = (("1×", 1.0), ("½", 0.5), ("¼", 0.25), ("⅛", 0.125))
# Frames per second when playing by frame, whatever the clock.
FRAMES_A_SECOND = 4.0
LONGEST_PLACE = "frame 99999   999.999 s"


class Transport(FoldingRow):
    """Labelled buttons; the same steps are on the arrow keys."""

    loop: QToolButton

    def __init__(self, session: Session, axis: TimeAxis) -> None:
        super().__init__("More", margins=(10, 14), spacing=1, air=look.px(5))
        self.setObjectName("transport")
        self.session, self.axis = session, axis
        # A share of real time; 0 is frame by frame.
        self.speed = 1.0
        # Row and mark of everything that happens, tune by tune.
        self._happened: list[list[tuple[int, int]]] = []
        self._letters: list[str] = []
        # The text about the pale curves, and the keys that clear them, as last shown.
        self._last_wake: tuple[object, ...] = ()
        self._timer = QTimer(self)
        self._timer.setInterval(16)
        self._timer.timeout.connect(self._advance)
        self._clock = QElapsedTimer()
        self._play_from, self._row_from = 0.0, 0
        self._add_buttons()
        self._add_words()
        session.cursor_moved.connect(self._refresh)
        session.figures_changed.connect(self._new_traces)
        session.wake_changed.connect(self._update_wake)
        session.traces_changed.connect(self._update_wake)

    def _add_buttons(self) -> None:
        session = self.session
        first = self._button("Start", "To the first frame ({start})", lambda: session.set_cursor(0))
        back = self._button("Back", "One frame back ({back})", lambda: self.step(-1))
        self.play_button = self._button("Play", "Play or stop ({play})", self.toggle)
        # As wide as the longer of its two texts.
        self.play_button.setMinimumWidth(max(look.width(word, 9) for word in ("Play", "Stop")) + look.px(16))
        forward = self._button("Forward", "One frame forward ({forward})", lambda: self.step(1))
        last = self._button("End", "To the last frame ({end})", lambda: session.set_cursor(session.last_row))
        self.speeds = self._speeds()
        self.loop = self._button("Loop", "Begin again at the end ({loop})", self._refresh)
        self.loop.setCheckable(True)
        folds = {first: 3, back: 1, self.play_button: 1, forward: 1, last: 3, self.speeds: 4, self.loop: 5}
        for shown, fold in folds.items():
            self.add(shown, fold=fold)
        self.add_more()

    def _add_words(self) -> None:
        self.place = ShortLabel(sample=LONGEST_PLACE)
        self.place.setFont(look.font(10, bold=True))
        self.next = ShortLabel()
        self.wake = ShortLabel()
        for label in (self.next, self.wake):
            label.setObjectName("soft")
            label.setFont(look.font(9))
        self.words = LabelPair(self.next, self.wake, gap=look.px(12))
        for each in (self.place, self.words, self.next, self.wake):
            look.on_sheet(each)
        self.row.addSpacing(look.px(8))
        self.add(self.place)
        self.add(self.words, stretch=1)

    def _button(self, text: str, tip: str, slot: object) -> QToolButton:
        made = button(text, "", slot)  # type: ignore[arg-type]
        keyed_tip(made, tip)
        return made

    def _speeds(self) -> QToolButton:
        opener = button("Speed: 1×", "How fast to play", opens=True)
        menu, group = QMenu(opener), QActionGroup(self)
        for text, speed in (*SPEEDS, ("by frame", 0.0)):
            words = f"{text} speed" if speed else f"by frame: {FRAMES_A_SECOND:g} a second"
            action = menu.addAction(words, partial(self._set_speed, text, speed))
            action.setCheckable(True)
            action.setChecked(speed == 1.0)
            group.addAction(action)
        opener.setMenu(menu)
        return opener

    def step(self, frames: int) -> None:
        """Stop playing and step by frames."""
        self.stop()
        self.session.set_cursor(self.session.cursor + frames)

    def to_mark(self, direction: int) -> None:
        """Go to the next or previous row in which anything happens."""
        rows = {row for happened in self._happened for row, _ in marked_from(happened, 0)}
        cursor = self.session.cursor
        beyond = [row for row in rows if (row - cursor) * direction > 0]
        if beyond:
            self.session.set_cursor(min(beyond) if direction > 0 else max(beyond))

    def toggle(self) -> None:
        """Play or stop."""
        if self._timer.isActive():
            self.stop()
            return
        if self.session.cursor >= self.session.last_row:
            self.session.set_cursor(0)
        self._restart_here()
        self._timer.start()
        self.play_button.setText("Stop")

    def _restart_here(self) -> None:
        self._row_from = self.session.cursor
        self._play_from = self.session.time_at(self._row_from)
        self._clock.start()

    def stop(self) -> None:
        """Stop playing."""
        self._timer.stop()
        self.play_button.setText("Play")

    def _set_speed(self, words: str, speed: float) -> None:
        self.speeds.setText(f"Speed: {words}")
        self._restart_here()
        self.speed = speed

    def _advance(self) -> None:
        elapsed = self._clock.elapsed() / 1000
        if self.speed:
            self.session.set_cursor(self.axis.row_at(self._play_from + self.speed * elapsed))
        else:
            self.session.set_cursor(self._row_from + int(elapsed * FRAMES_A_SECOND))
        if self.session.cursor >= self.session.last_row:
            if not self.loop.isChecked():
                self.stop()
                return
            self.session.set_cursor(0)
            self._restart_here()

    def _new_traces(self) -> None:
        shown = list(self.session.shown)
        self._happened = [each.trace.events.happened for each in shown]
        # The letters belong to these traces: by the time they are shown, a tune may be gone.
        self._letters = [look.LETTERS[each.place % len(look.LETTERS)] for each in shown]
        self._refresh()

    def _refresh(self, *_: object) -> None:
        cursor = self.session.cursor
        seconds = self.session.time_at(cursor)
        # Frames of the game next to frames of the clock would look alike.
        time = f"{seconds:.3f} s" if self.session.units.unit("s") == "frames" else self.session.units.time(seconds)
        self.place.setText(f"frame {cursor}   {time}")
        here, following = happenings_at(self._happened, cursor)
        if here:
            self.next.setText("here: " + ", ".join(map(self._words, here)))
        elif following:
            self.next.setText(f"next: frame {following.row}, {self._words(following)}")
        else:
            self.next.setText("no later event" if self._happened else "")
        self.words.fit()

    def _words(self, happening: Happening) -> str:
        return f"{self._letters[happening.place]} {happening.words}"

    def _update_wake(self) -> None:
        baseline = self.session.baseline
        words = baseline.state_words if baseline.is_fixed else self.session.wake_words
        shown = (words, keys_in_force("clear_wake"))
        if shown != self._last_wake:
            self._last_wake = shown
            self.wake.setText(keyed("pale: {0} ({clear_wake})", words) if words else "")
            self.words.fit()
