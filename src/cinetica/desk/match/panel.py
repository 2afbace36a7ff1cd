"""The panel that matches a curve: what is wanted, which numbers may move, the search as it goes on, and the answer."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QHideEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QFormLayout,
    QHeaderView,
    QProgressBar,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.background_task import BackgroundTask
from cinetica.desk.dialogs.base import Dialog
from cinetica.desk.match.drawing import WantedEditor
from cinetica.desk.state.session import Session
from cinetica.desk.state.tune_run import TuneRun
from cinetica.desk.widgets import Chooser, PlainLabel, in_a_row, number_box, push_button
from cinetica.model.editing import free_name
from cinetica.model.parameters import Parameter, as_number
from cinetica.model.study import Drill
from cinetica.model.tune import PARAMETERS, Tune, parameter_by_id
from cinetica.motion.simulate import simulate
from cinetica.reading.match.hands import hands_of
from cinetica.reading.match.runs import Free, free_number
from cinetica.reading.match.search import OF_MOTION, Match, matching, numbers_that_matter, open_choices, open_start
from cinetica.reading.match.wanted import COLUMNS, Wanted, from_log, from_points, from_trace

DRAWN = "drawn curve"
CHANNEL_WORDS = {"x": "x", "y": "height", "vx": "velocity x", "vy": "velocity y"}
# Choices that can be left open.
OPEN = ("drive.law", "jump.short_hop", "stepping.integrator")
SECONDS = 10.0
# A channel whose deviation is at most this, in u or u/s, counts as met.
MET = 1e-6
NUMBER, LOW, HIGH, FITS = range(4)
HEADS = ("may move", "from", "to", "answer")


class MatchPanel(Dialog):
    """The panel, which stays open beside the window. A search runs in a thread and draws the best so far."""

    def __init__(self, session: Session, wanted: WantedEditor, window: QWidget) -> None:
        super().__init__("Match a curve", window)
        self.session, self.wanted_editor = session, wanted
        self.answer: Match | None = None
        self._stops = False
        # The problem that the answer belongs to, and the drill whose presses were found for it.
        self._drill: Drill | None = None
        self._derived: Drill | None = None
        self._filling = False
        self.task = BackgroundTask(self)
        self.task.result.connect(self._came)
        self.task.progressed.connect(lambda share: self.progress.setValue(round(100 * share)))
        self.task.failed.connect(self._failed)
        self._make_widgets()
        self._lay_out()
        session.study_changed.connect(self._renew)
        session.drill_changed.connect(self._renew)
        session.free_changed.connect(self._fill_numbers)
        wanted.changed.connect(self._renew)
        self._renew()
        self.fit(74, 34)

    # Widgets

    def _make_widgets(self) -> None:
        self.curve = Chooser()
        self.curve.setAccessibleName("Wanted curve")
        self.curve.setSizeAdjustPolicy(Chooser.SizeAdjustPolicy.AdjustToContents)
        self.curve.activated.connect(lambda _: self._show_derived())
        self.begins = Chooser()
        self.begins.setAccessibleName("Tune to begin with")
        self.begins.activated.connect(lambda _: self._fill_numbers())
        self.draw = QCheckBox("Draw it")
        self.draw.setToolTip(
            "Click on a strip of x, height or velocity for a point; drag it; Delete removes it. On the stage a click"
            " says where the body should be in the frame of the cursor"
        )
        self.draw.toggled.connect(self.wanted_editor.turn)
        self.clear = push_button("Clear", self.wanted_editor.clear)
        self.weights = {name: number_box(0, 1000, 1.0, f"Weight of {words}") for name, words in CHANNEL_WORDS.items()}
        self.start, self.end = number_box(0, 1e6, 0.0, "From, in s"), number_box(0, 1e6, 0.0, "To, in s; 0 for the end")
        self.end.setSpecialValueText("end")
        self._make_choices()
        self._make_numbers()
        self.search = push_button("Search", self.toggle, main=True)
        self.take = push_button("Take as a new tune", self.take_answer)
        self.progress = QProgressBar()
        self.progress.setTextVisible(False)
        self.outcome = PlainLabel()
        self.outcome.setWordWrap(True)
        self.outcome.setMinimumHeight(5 * look.height(10))
        self.outcome.setAlignment(Qt.AlignmentFlag.AlignTop)

    def _make_choices(self) -> None:
        """What else a search may change: the presses, some rules, and where the curve begins."""
        self.find_hands = QCheckBox("Find the presses from the log")
        self.find_hands.setToolTip("Where nobody knows what was pressed: from the log's own jumps, starts and stops")
        self.left_open = {id: QCheckBox(parameter_by_id(id).label.lower()) for id in OPEN}
        for id, box in self.left_open.items():
            box.setToolTip(f"Try each option of {parameter_by_id(id).label.lower()}, and take the best")
        self.open_start = QCheckBox("start")
        self.open_start.setToolTip(
            "Also try the curve half a frame and a frame earlier and later: a log may lag behind the game's hands"
        )

    def _make_numbers(self) -> None:
        self.numbers = QTableWidget(0, len(HEADS))
        self.numbers.setAccessibleName("Numbers that may move")
        self.numbers.setHorizontalHeaderLabels(HEADS)
        self.numbers.verticalHeader().hide()
        self.numbers.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self.numbers.horizontalHeader().setStretchLastSection(True)
        self.numbers.setMinimumHeight(6 * look.height(10))
        self.numbers.itemChanged.connect(self._number_changed)
        self.choose = push_button("Choose for me", self.choose_for_me)
        self.choose.setToolTip("The numbers that move this curve most")

    def _lay_out(self) -> None:
        form = QFormLayout()
        form.addRow("Wanted", in_a_row(self.curve, self.draw, self.clear))
        form.addRow("Begin with", self.begins)
        weights = [each for name, words in CHANNEL_WORDS.items() for each in (PlainLabel(words), self.weights[name])]
        form.addRow("Weights", in_a_row(*weights))
        form.addRow("Between", in_a_row(self.start, PlainLabel("and"), self.end, PlainLabel("s"), self.find_hands))
        form.addRow("Left open", in_a_row(*self.left_open.values(), self.open_start))
        column = QVBoxLayout(self)
        column.addLayout(form)
        column.addWidget(self.numbers, 1)
        column.addLayout(in_a_row(self.choose, self.search, self.take))
        column.addWidget(self.progress)
        column.addWidget(self.outcome)

    # What can be chosen

    @property
    def tune(self) -> Tune | None:
        """The tune that the search begins with."""
        return next((tune for _, tune in self.session.tunes if tune.name == self.begins.currentText()), None)

    def _renew(self) -> None:
        """List the possible curves and starting tunes of the current drill."""
        drill = self.session.drill
        logs, tunes = [log.name for log in self.session.logs], [tune.name for _, tune in self.session.tunes]
        drawn = [DRAWN] if drill is not None and drill.wanted else []
        _list(self.curve, [*drawn, *logs, *tunes])
        if drawn and self.draw.isChecked():
            self.curve.setCurrentText(DRAWN)
        _list(self.begins, [tune.name for _, tune in self.session.tunes if not tune.snapshot_of])
        self.clear.setEnabled(bool(drawn))
        side = drill is not None and drill.view == "side"
        self.left_open["jump.short_hop"].setEnabled(side)
        self._show_derived()
        self._fill_numbers()

    def _show_derived(self) -> None:
        log = next((log for log in self.session.logs if log.name == self.curve.currentText()), None)
        self.find_hands.setEnabled(log is not None)
        if log is not None:
            for name in COLUMNS:
                self.weights[name].setValue(0.0 if name in log.derived else 1.0)

    def _fill_numbers(self) -> None:
        tune = self.tune
        self._filling = True
        shown = [] if tune is None else [each for each in PARAMETERS if _may_move(each, tune, self.session.free)]
        shown.sort(key=lambda each: each.id not in self.session.free)
        self.numbers.setRowCount(len(shown))
        estimates = {each.free.id: each for each in self.answer.estimates} if self.answer else {}
        for row, parameter in enumerate(shown):
            assert tune is not None
            name = QTableWidgetItem(parameter.label)
            name.setData(Qt.ItemDataRole.UserRole, parameter.id)
            name.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsUserCheckable | Qt.ItemFlag.ItemIsSelectable)
            free = parameter.id in self.session.free
            name.setCheckState(Qt.CheckState.Checked if free else Qt.CheckState.Unchecked)
            name.setToolTip(parameter.meaning)
            usual = free_number(tune, parameter.id)
            estimate = estimates.get(parameter.id)
            self.numbers.setItem(row, NUMBER, name)
            self.numbers.setItem(row, LOW, self._number_item(parameter, usual.low))
            self.numbers.setItem(row, HIGH, self._number_item(parameter, usual.high))
            answer = QTableWidgetItem("" if estimate is None else self._estimate_words(parameter, estimate))
            answer.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable)
            self.numbers.setItem(row, FITS, answer)
        self._filling = False

    def _number_item(self, parameter: Parameter, value: float) -> QTableWidgetItem:
        shown = as_number(self.session.units.value(parameter, value, self._values()))
        item = QTableWidgetItem(f"{shown:.6g}".replace("-", "−"))
        item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        return item

    def _values(self) -> dict[str, Any]:
        return self.tune.values() if self.tune is not None else {}

    def _estimate_words(self, parameter: Parameter, estimate: Any) -> str:
        units, values = self.session.units, self._values()
        value, low, high = (
            as_number(units.value(parameter, each, values)) for each in (estimate.value, estimate.low, estimate.high)
        )
        low, high = min(low, high), max(low, high)
        words = f"{value:.5g}" if estimate.determined else f"{value:.5g}, not determined: {low:.3g} to {high:.3g}"
        return (f"{words}, at its bound" if estimate.bound else words).replace("-", "−")

    def _number_changed(self, item: QTableWidgetItem) -> None:
        if not self._filling and item.column() == NUMBER:
            ids = [parameter.id for parameter, _ in self._ticked()]
            self.session.free_changed.disconnect(self._fill_numbers)
            self.session.set_free(ids)
            self.session.free_changed.connect(self._fill_numbers)

    def _ticked(self) -> Iterator[tuple[Parameter, int]]:
        """The numbers that are ticked, each with its row."""
        for row in range(self.numbers.rowCount()):
            name = self.numbers.item(row, NUMBER)
            if name is not None and name.checkState() is Qt.CheckState.Checked:
                yield parameter_by_id(name.data(Qt.ItemDataRole.UserRole)), row

    def free_numbers(self) -> list[Free]:
        """The numbers that are ticked, with their bounds; ValueError with a reason for invalid bounds."""
        tune = self.tune
        if tune is None:
            raise ValueError("There is no tune to begin with.")
        found = []
        for parameter, row in self._ticked():
            ends = [self._bound(parameter, row, column) for column in (LOW, HIGH)]
            found.append(free_number(tune, parameter.id, min(ends), max(ends)))
        return found

    def _bound(self, parameter: Parameter, row: int, column: int) -> float:
        item = self.numbers.item(row, column)
        text = (item.text() if item is not None else "").replace("−", "-").replace(",", ".")
        try:
            number = float(text)
        except ValueError as error:
            raise ValueError(f"The bound “{text}” of {parameter.label.lower()} is not a number.") from error
        return self.session.units.kept(parameter, number, self._values())

    # What is wanted

    def wanted(self) -> Wanted:
        """The wanted curve with its weights, between its times; ValueError with a reason if there is none."""
        session, name = self.session, self.curve.currentText()
        drill = session.drill
        if drill is None or not name:
            raise ValueError("There is no curve to match: draw one, or lay a log of the game over this drill.")
        weights = {channel: box.value() for channel, box in self.weights.items()}
        log = next((log for log in session.logs if log.name == name), None)
        if name == DRAWN and drill.wanted:
            found = _drawn(drill, session.study.clock.tick_rate)
        elif log is not None:
            found = from_log(log)
        else:
            tune = next((tune for _, tune in session.tunes if tune.name == name), None)
            if tune is None:
                raise ValueError(f"“{name}” is no longer there.")
            found = from_trace(simulate(tune, drill, session.study.clock))
        found = found.weighted({channel: weights[channel] for channel in found.columns})
        end = self.end.value() or float(found.time[-1])
        return found.between(self.start.value(), end) if (self.start.value() or self.end.value()) else found

    # The search

    def choose_for_me(self) -> None:
        """Tick the numbers that change this curve most."""
        drill, tune = self.session.drill, self.tune
        if drill is None or tune is None:
            return
        try:
            found = numbers_that_matter(tune, drill, self.session.study.clock, self.wanted())
        except ValueError as error:
            self._failed(str(error))
            return
        self.session.set_free(each.id for each in found)
        self._fill_numbers()

    def toggle(self) -> None:
        """Begin a search, or stop it and keep the best."""
        if self.task.asking:
            self._stops = True
            return
        try:
            wanted, free, tune = self.wanted(), self.free_numbers(), self.tune
            drill = self.session.drill
            assert drill is not None
            assert tune is not None
            self._derived = None
            if self.find_hands.isChecked() and self.find_hands.isEnabled():
                log = next(log for log in self.session.logs if log.name == self.curve.currentText())
                drill = self._derived = drill.model_copy(update={"take": hands_of(log, drill.view)})
            ids = [id for id, box in self.left_open.items() if box.isChecked() and box.isEnabled()]
            choices = open_choices(tune, ids)
        except ValueError as error:
            self._failed(str(error))
            return
        self.answer, self._stops, self._drill = None, False, drill
        self.search.setText("Stop")
        self.take.setEnabled(False)
        self.outcome.setText("Searching …")
        clock, stops = self.session.study.clock, lambda: self._stops
        moves = open_start(clock) if self.open_start.isChecked() else (0.0,)

        def steps() -> Iterator[tuple[float, Match]]:
            """Search."""
            yield from matching(tune, drill, clock, wanted, free, choices, moves=moves, seconds=SECONDS, stops=stops)

        self.task.ask(steps)

    def _came(self, found: Match) -> None:
        """Show a result of the search: the best so far, or the answer."""
        self.answer = found
        if self._drill is not None:
            named = found.tune.model_copy(update={"name": "Best so far"})
            trace = simulate(named, self._drill, self.session.study.clock)
            self.session.show_best(TuneRun(self.session.runs.best_place, named, trace, live=True))
        self.outcome.setText(self._words(found))
        if found.estimates:
            self.search.setText("Search")
            self.take.setEnabled(True)
            self.progress.setValue(100)
            self._fill_numbers()

    def _words(self, found: Match) -> str:
        units, lines = self.session.units, []
        for name, gap in found.gaps.items():
            if gap.greatest <= MET:
                lines.append(f"{CHANNEL_WORDS[name]}: met")
                continue
            scale = units.column(name)
            greatest, mean = (abs(scale.change(each)) for each in (gap.greatest, gap.mean))
            frame = round(gap.time * self.session.study.clock.tick_rate)
            lines.append(
                f"{CHANNEL_WORDS[name]}: off by {greatest:.3g} {scale.unit} at most, at frame {frame}; {mean:.2g} on"
                " average"
            )
        if found.choices:
            lines.append(
                ", ".join(f"{parameter_by_id(id).label.lower()} {value}" for id, value in found.choices.items())
            )
        if found.moved:
            frames, way = found.moved * self.session.study.clock.tick_rate, "later" if found.moved > 0 else "earlier"
            words = "1 frame" if abs(frames) == 1 else f"{abs(frames):g} frames"
            lines.append(f"the curve fits best {words} {way}")
        lines.append(f"{found.runs} runs in {found.seconds:.1f} s")
        return "\n".join(lines)

    def _failed(self, why: str) -> None:
        self.outcome.setText(why)
        self.search.setText("Search")
        self.progress.setValue(0)

    def take_answer(self) -> None:
        """Add the answer as a new tune; if presses were found, add a drill with them, too."""
        if self.answer is None:
            return
        study = self.session.study
        base = self.begins.currentText()
        name = free_name(f"{base} matched"[:100], [tune.name for tune in study.tunes])
        tunes = (*study.tunes, self.answer.tune.model_copy(update={"name": name, "snapshot_of": ""}))
        changed = study.model_copy(update={"tunes": tunes})
        if self._derived is not None:
            drill = free_name(f"{self._derived.name} (derived)"[:100], [each.name for each in study.drills])
            note = "Its presses were found from a log, not recorded."
            made = self._derived.model_copy(update={"name": drill, "note": note, "targets": ()})
            changed = changed.model_copy(update={"drills": (*changed.drills, made)})
        self.session.edit(f"Match {base}", changed)
        self.session.show_best(None)
        self.session.message.emit(f"“{name}” is the answer, beside the others.")

    @override
    def hideEvent(self, event: QHideEvent) -> None:
        self._stops = True
        self.task.stop()
        self.draw.setChecked(False)
        self.session.show_best(None)
        self.search.setText("Search")
        super().hideEvent(event)


def _may_move(parameter: Parameter, tune: Tune, free: frozenset[str]) -> bool:
    if parameter.kind not in ("number", "whole") or not parameter.matters(tune.view, tune.values()):
        return False
    usual = parameter.group in OF_MOTION and not parameter.rare
    return parameter.id in free or usual


def _drawn(drill: Drill, tick_rate: float) -> Wanted:
    """The curve that is drawn on a drill, at the ticks that it spans."""
    times = np.arange(round(drill.take.seconds * tick_rate) + 1) / tick_rate
    columns: dict[str, Any] = {}
    parts = []
    for drawn in drill.wanted:
        parts.append(
            from_points(drawn.channel, [(frame / drill.take.rate, value) for frame, value in drawn.points], times)
        )
    start, end = max(float(part.time[0]) for part in parts), min(float(part.time[-1]) for part in parts)
    for part in parts:
        columns |= part.between(start, end).columns
    time = parts[0].between(start, end).time
    return Wanted(time, columns, dict.fromkeys(columns, 1.0))


def _list(chooser: Chooser, names: list[str]) -> None:
    """Fill a list, keeping the chosen entry if it is still there."""
    if names != [chooser.itemText(row) for row in range(chooser.count())]:
        chosen = chooser.currentText()
        chooser.clear()
        chooser.addItems(names)
        if chosen in names:
            chooser.setCurrentText(chosen)
