"""What one window works on: a document, the selection from it, and the frame cursor, with Qt's signals."""

from __future__ import annotations

import time
from collections import deque
from collections.abc import Callable, Iterable
from pathlib import Path

from PySide6.QtCore import QCoreApplication, QObject, QTimer, Signal

from cinetica.desk.state.baseline import EDIT, SAVED, Baseline
from cinetica.desk.state.document import Document, Edit
from cinetica.desk.state.selection import Selection
from cinetica.desk.state.tune_run import TuneRun
from cinetica.desk.state.undo_list import UndoList
from cinetica.desk.state.visible_runs import VisibleRuns
from cinetica.desk.state.wake import Wake
from cinetica.model import editing
from cinetica.model.clock import Clock
from cinetica.model.course import Course
from cinetica.model.game_units import words as conventions_words
from cinetica.model.milestone import Logged
from cinetica.model.parameters import Parameter, Value
from cinetica.model.study import Drill, Study, UnitSystem
from cinetica.model.take import Take
from cinetica.model.tune import Tune
from cinetica.reading.display_units import DisplayUnits, display_units

# While a number is dragged, figures that take less than AT_ONCE (s) are painted with the curves, those that take less
# than QUICK right after them; others wait for RESTING (ms).
AT_ONCE, QUICK, RESTING = 0.006, 0.012, 120


class Session(QObject):
    """Signals over a document and the choices of its window. Every change of state goes through here."""

    # Another study is shown: what was set up for the one before has no meaning.
    loaded = Signal()
    study_changed = Signal()
    # Numbers are shown in other units.
    units_changed = Signal()
    # Another drill is chosen; and, the input or the course of the current one is edited.
    drill_changed = Signal()
    drill_edited = Signal()
    traces_changed = Signal()
    # What is read from the traces: figures, states, marks. During a drag they may follow the curves a little later.
    figures_changed = Signal()
    # The poses are shown, or no longer.
    poses_switched = Signal()
    # Other numbers are free for a search.
    free_changed = Signal()
    wake_changed = Signal()
    # Which stretch of which tune's trace is highlighted.
    lit_changed = Signal()
    cursor_moved = Signal(int)
    shown_changed = Signal()
    reference_changed = Signal()
    # A gesture was ended from outside, such as by an undo: the widget that is dragging lets go.
    gesture_ended = Signal()
    # What was refused and why; and what was done, where it does not show by itself.
    refused = Signal(str)
    message = Signal(str)

    def __init__(self, study: Study | None = None, path: Path | None = None, *, beside: Session | None = None) -> None:
        """Work on a study, or on the document of the session `beside`."""
        super().__init__()
        self.document: Document = beside.document if beside else Document(study, path)
        # Sessions of one document share it, and it may outlive the first of them.
        self.undo_stack: UndoList = (
            beside.undo_stack if beside else UndoList(self.document, QCoreApplication.instance())
        )
        self.document.observe(self)
        self.selection = Selection(self.document)
        self.runs = VisibleRuns(self.document, self.selection)
        self.baseline = Baseline(self.document, self.selection, self.runs, self.wake_changed.emit)
        self.undo_stack.cleanChanged.connect(self._saved)
        self._wake = Wake()
        self.cursor = 0
        self.lit: tuple[str, str] | None = None
        # The name of the tune that was changed last.
        self.touched = ""
        # The numbers that a search may move, by id.
        self.free: frozenset[str] = frozenset()
        # Whether lanes and figures of the poses are shown.
        self.poses_shown = False
        # Whether traces can be run, and figures be read.
        self.ready = self.reads = False
        # The last times; the shortest counts, since any one may have been held up.
        self._figures_took = deque((0.0,) * 3, 3)
        # Runs while the figures wait.
        self._figures = QTimer(self)
        self._figures.setSingleShot(True)
        self._figures.timeout.connect(self._announce_figures)

    def start(self, *, figures: bool = True) -> None:
        """Begin to run the (loaded) kernel and show traces; `figures`: whether figures can be read, too."""
        self.ready, self.reads = True, figures
        self._run()
        self.drill_changed.emit()

    def start_figures(self) -> None:
        """Begin to read figures, where the first start showed curves without them."""
        self.reads = True
        self.study_changed.emit()
        self.announce_all()

    def announce_all(self) -> None:
        """Emit the drill, its traces and figures again, for new widgets."""
        self.drill_changed.emit()
        self.traces_changed.emit()
        self.figures_changed.emit()

    def show_poses(self, on: bool) -> None:
        """Show the figures of the poses, too, or not."""
        if on is not self.poses_shown:
            self.poses_shown = on
            self.poses_switched.emit()
            self.figures_changed.emit()

    # The document and its edits

    @property
    def study(self) -> Study:
        """The study as it is now."""
        return self.document.study

    @property
    def units(self) -> DisplayUnits:
        """The units in which the study is shown."""
        return display_units(self.study)

    @property
    def path(self) -> Path | None:
        """The file of the study; None if it was never saved."""
        return self.document.path

    @path.setter
    def path(self, path: Path | None) -> None:
        self.document.path = path

    def load(self, study: Study, path: Path | None) -> None:
        """Show another study."""
        self.end_from_outside()
        self.undo_stack.clear()
        self.document.load(study, path)

    def close(self) -> None:
        """Leave the document; its undo list goes with the last session."""
        self.document.forget(self)
        if self.document.is_left:
            self.undo_stack.clear()
            self.undo_stack.setParent(self)

    def edit(self, name: str, after: Study, *, joins: bool = False, curves_first: bool = False) -> None:
        """Change the study by one named, undoable edit.

        `joins` makes it part of the previous edit if that has the same name. `curves_first`: slow figures are read
        after the curves are painted.
        """
        if after == self.study:
            return
        try:
            self.document.accepts(after)
        except ValueError as error:
            self.refused.emit(str(error))
            return
        self.document.begin(name, joins=joins)
        self.document.show(after)
        self.document.end(joins=joins, curves_first=curves_first)

    def begin(self, name: str) -> None:
        """Begin an edit through many values, such as a drag. The current curves become the wake."""
        self.document.begin(name)
        self.wake_changed.emit()

    def end(self) -> None:
        """End the gesture: it becomes one entry of the undo list, or none if nothing changed."""
        self.document.end()

    @property
    def in_gesture(self) -> bool:
        """Whether a gesture is in progress."""
        return self.document.is_editing

    def end_from_outside(self) -> None:
        """End a gesture on behalf of the widget where it began."""
        self.document.end()
        # Even if nothing has been moved yet: what the mouse holds may no longer exist.
        self.gesture_ended.emit()

    def undo(self) -> None:
        """Undo the last edit, ending a gesture in progress first, which is then undone."""
        self.end_from_outside()
        name = self.undo_stack.undoText()
        self._to_what_returns(self.undo_stack.undo)
        if name:
            self.message.emit(f"Undone: {name}.")

    def redo(self) -> None:
        """Redo the last undone edit."""
        self.end_from_outside()
        name = self.undo_stack.redoText()
        self._to_what_returns(self.undo_stack.redo)
        if name:
            self.message.emit(f"Redone: {name}.")

    def _to_what_returns(self, step: Callable[[], None]) -> None:
        """Undo or redo; if that brings a drill back or makes one again, show it."""
        before = {drill.name for drill in self.study.drills}
        step()
        back = [drill.name for drill in self.study.drills if drill.name not in before]
        # A renamed drill is still shown.
        if len(back) == 1 and len(self.study.drills) > len(before):
            self.choose_drill(back[0])

    def alter(self, name: str, change: Callable[[Study], Study], *, joins: bool = False) -> bool:
        """Change the study by a function that may raise ValueError; then it is refused and nothing changes."""
        try:
            after = self.document.accepts(change(self.study))
        except ValueError as error:
            self.refused.emit(str(error))
            return False
        if self.in_gesture:
            self.document.show(after)
        else:
            self.edit(name, after, joins=joins)
        return True

    def set_value(self, tune: Tune, parameter: Parameter, value: Value, *, joins: bool = False) -> bool:
        """Set one number of one tune; an invalid value is refused with a reason and changes nothing."""
        name = f"{parameter.label} of {tune.name}"
        return self.alter(name, lambda study: editing.with_values(study, [(tune.name, parameter, value)]), joins=joins)

    def set_values(self, name: str, changes: list[tuple[str, Parameter, Value]]) -> bool:
        """Set several numbers in one edit, or none if one of them is refused."""
        return self.alter(name, lambda study: editing.with_values(study, changes))

    def seek(self, tune: Tune, id: str, wanted: float) -> bool:
        """Change the numbers behind a measure until it has the wanted value; refused if there is no solution."""
        drill = self.drill
        if drill is None or tune.snapshot_of:
            self.refused.emit(
                f"“{tune.name}” is a snapshot and cannot be changed."
                if drill
                else "There is no drill to measure it on."
            )
            return False
        from cinetica.reading.goal_seek import seek  # It loads SciPy, which a start need not wait for.

        try:
            granted = seek(tune, drill, self.study.clock, id, wanted, self.units)
        except ValueError as refusal:
            self.refused.emit(str(refusal))
            return False
        self.edit(f"{granted.measure.label} of {tune.name}", self.study.with_tune(granted.tune, instead_of=tune.name))
        self.message.emit(granted.words)
        return True

    def set_drill(self, name: str, drill: Drill, *, joins: bool = False) -> None:
        """Replace the current drill with an edited one of the same name."""
        self.alter(name, lambda study: editing.with_drill(study, drill, instead_of=drill.name), joins=joins)

    def set_take(self, name: str, take: Take, *, joins: bool = False) -> None:
        """Replace the input of the current drill."""
        if self.drill is not None:
            self.set_drill(name, self.drill.model_copy(update={"take": take}), joins=joins)

    def set_course(self, name: str, course: Course, *, joins: bool = False) -> None:
        """Replace the course of the current drill."""
        if self.drill is not None:
            self.set_drill(name, self.drill.model_copy(update={"course": course}), joins=joins)

    def change_units(self) -> None:
        """Show numbers in the game's units, or in ours again."""
        if self.units.game is not None:
            self.alter("Our units", lambda study: editing.with_units(study, UnitSystem.OURS))
            self.message.emit("Numbers are shown in u and s.")
            return
        self.alter("Units of the game", lambda study: editing.with_units(study, UnitSystem.GAME))
        same = conventions_words(self.study.conventions)
        self.message.emit(f"Numbers are shown as the game counts them: {same}. Hand over changes that.")

    def set_clock(self, clock: Clock, name: str) -> None:
        """Replace the clock."""
        self.edit(name, self.study.model_copy(update={"clock": clock}), curves_first=True)

    # What the document tells its observers

    def edit_begun(self, name: str, *, joins: bool) -> None:
        """Make the current curves the wake; an edit that joins the previous one keeps its wake."""
        goes_on = joins and self._wake.runs and self._wake.name == name == self.undo_stack.undoText()
        if not goes_on:
            self._wake.begin(name, self.shown)

    def study_replaced(self, before: Study) -> None:
        """Show the study, on another drill if the current one is gone."""
        if display_units(before) != self.units:
            self.units_changed.emit()
        had = {id(tune) for tune in before.tunes}
        self.touched = next((tune.name for tune in self.study.tunes if id(tune) not in had), self.touched)
        drill = next((each for each in before.drills if each.name == self.selection.drill_name), None)
        if self.selection.keep_drill(before, drill):
            # What was there before was on the drill that is gone.
            self._wake.clear()
            self.study_changed.emit()
            self._run(quietly=True)
            self.drill_changed.emit()
            self._announce_traces()
            return
        self.study_changed.emit()
        self._run()
        if self.drill is not drill:
            self.drill_edited.emit()

    def edit_ended(self, edit: Edit | None, *, curves_first: bool) -> None:
        """Read the figures that still wait, and drop a wake in which nothing differs."""
        if self._figures.isActive():
            if curves_first:
                self._figures.start(0)
            else:
                self._announce_figures()
        if edit is None or not self._wake.moved(self.shown):
            self._drop_wake()

    def study_loaded(self) -> None:
        """Start over with another study."""
        self.clear_wake()
        self.selection.reset()
        self.loaded.emit()
        self.units_changed.emit()
        self.study_changed.emit()
        self._run()
        self.drill_changed.emit()
        self.set_cursor(0)

    # The part of the study that is shown

    @property
    def drill(self) -> Drill | None:
        """The current drill."""
        return self.selection.drill

    @property
    def tunes(self) -> list[tuple[int, Tune]]:
        """The tunes that can run on the drill, each with its place among those of its view."""
        return self.selection.tunes

    @property
    def reference(self) -> Tune | None:
        """The tune that the others are compared with: the one chosen, or the first."""
        return self.selection.reference

    @property
    def logs(self) -> list[Logged]:
        """The game logs of this drill."""
        return self.selection.logs

    @property
    def overlay(self) -> str:
        """The name of the overlaid drill; empty if there is none."""
        return self.selection.overlay

    def is_hidden(self, tune: Tune) -> bool:
        """Whether the tune is hidden."""
        return self.selection.is_hidden(tune.name)

    def choose_drill(self, name: str) -> None:
        """Make a drill the current one."""
        if name == self.selection.drill_name:
            return
        self._drop_wake()
        self.selection.choose_drill(name)
        self._run(quietly=True)
        self.drill_changed.emit()
        self._announce_traces()
        self.set_cursor(min(self.cursor, self.last_row))

    def choose_reference(self, tune: Tune) -> None:
        """Make a tune the reference."""
        self.selection.choose_reference(tune.name)
        self._run(quietly=True)
        self.reference_changed.emit()
        self._announce_traces()

    def toggle(self, tune: Tune) -> None:
        """Hide a tune, or show it again."""
        self.selection.toggle(tune.name)
        self._run()
        self.shown_changed.emit()

    def lay_over(self, name: str) -> None:
        """Overlay the reference on another drill: the same tune with other input. An empty name removes it."""
        self.selection.overlay = name
        self._run()
        self.shown_changed.emit()

    # The runs

    @property
    def shown(self) -> list[TuneRun]:
        """The runs of everything visible."""
        return self.runs.shown

    @property
    def reference_shown(self) -> TuneRun | None:
        """The reference if it is visible, else the first visible tune."""
        return self.runs.reference

    def run(self, place: int, tune: Tune, drill: Drill) -> TuneRun:
        """Run a tune on a drill under the study's clock; ValueError if the take is too long for it."""
        return self.runs.run(place, tune, drill)

    def follow_game(self, live_log: Callable[[Drill], Logged | None]) -> None:
        """Show the run of a linked game beside the tunes; `live_log` gives it for a drill, None where there is none."""
        self.runs.live_log = live_log
        self._run()

    def set_free(self, ids: Iterable[str]) -> None:
        """Let a search move these numbers, and no others."""
        free = frozenset(ids)
        if free != self.free:
            self.free = free
            self.free_changed.emit()

    def show_best(self, best: TuneRun | None) -> None:
        """Show the best result of a search so far next to the tunes; None hides it."""
        if best is not self.runs.best:
            self.runs.best = best
            self._run()

    def show_game(self) -> None:
        """Show the run of the linked game as it is now."""
        self._run()

    def _run(self, *, quietly: bool = False) -> None:
        """Run every visible tune that has no current trace."""
        if not self.ready:
            return
        try:
            self.runs.update()
        except ValueError as error:
            self.refused.emit(str(error))
        if not quietly:
            self._announce_traces()
            if self.cursor > self.last_row:
                self.set_cursor(self.last_row)

    def _announce_traces(self) -> None:
        self.traces_changed.emit()
        took = min(self._figures_took)
        if self.in_gesture and took >= AT_ONCE:
            # Where the figures take long, they wait until the drag pauses, so that the curves go on following it.
            self._figures.start(0 if took < QUICK else RESTING)
        else:
            self._announce_figures()

    def _announce_figures(self) -> None:
        self._figures.stop()
        begin = time.perf_counter()
        self.figures_changed.emit()
        self._figures_took.append(time.perf_counter() - begin)

    def light(self, lit: tuple[str, str] | None) -> None:
        """Highlight the rows that a figure comes from, given the names of tune and figure, or nothing."""
        if lit != self.lit:
            self.lit = lit
            self.lit_changed.emit()

    @property
    def highlighted_rows(self) -> tuple[TuneRun, int, int] | None:
        """The highlighted tune, with the first and last row of the figure as it is now."""
        if self.lit is None:
            return None
        name, figure = self.lit
        shown = next((each for each in self.shown if each.tune.name == name and not each.trace.logged), None)
        reading = shown.readings.get(figure) if shown else None
        return None if shown is None or reading is None else (shown, *reading.rows)

    # The wake

    @property
    def wake_shown(self) -> list[TuneRun]:
        """The baseline on the current drill, or else what was there before the last edit."""
        drill = self.drill
        if not self.baseline.is_fixed or drill is None or not self.ready:
            return self._wake.drawn(self.shown, self.selection.is_hidden)
        return self.baseline.runs_on(drill)

    @property
    def wake_words(self) -> str:
        """What the pale curves are; empty if there are none, since an edit may move no curve of this drill."""
        pale = self._wake.name and self.wake_shown and self._wake.moved(self.shown)
        return f"before “{self._wake.name}”" if pale else ""

    def hold(self, chosen: str) -> None:
        """Compare with one of `Baseline.choices`: its curves are the wake, also if they had been cleared."""
        self.baseline.choose(chosen)
        if chosen == EDIT and (drill := self.drill) is not None and not self.in_gesture:
            self._wake.begin(self.undo_stack.undoText(), self.baseline.runs_on(drill))
            self.wake_changed.emit()

    def _saved(self, clean: bool) -> None:
        """Redraw the pale curves if they show the last save, which has just changed."""
        if clean and self.baseline.chosen == SAVED:
            self.wake_changed.emit()

    def clear_wake(self) -> None:
        """Remove the wake, and return to comparing with the last edit."""
        self.baseline.clear()
        self._drop_wake()

    def _drop_wake(self) -> None:
        self._wake.clear()
        self.wake_changed.emit()

    # The frame cursor

    @property
    def last_row(self) -> int:
        """The last row of the longest trace."""
        return self.runs.last_row

    def set_cursor(self, row: int) -> None:
        """Move the frame cursor."""
        row = max(0, min(row, self.last_row))
        if row != self.cursor:
            self.cursor = row
            self.cursor_moved.emit(row)

    def time_at(self, row: int) -> float:
        """The time of a row, in s; the same for all tunes, since they share the clock."""
        reference = self.reference_shown
        if reference is None:
            return 0.0
        return reference.trace.value("time", min(row, len(reference.trace) - 1))
