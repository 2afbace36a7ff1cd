"""The study and its edits: each is named and can be undone; a drag is a single edit."""

from __future__ import annotations

import weakref
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtGui import QUndoCommand, QUndoStack
from typing_extensions import override

from cinetica.desk.state.tune_run import TuneRun
from cinetica.model import editing
from cinetica.model.clock import Clock
from cinetica.model.course import Course
from cinetica.model.edit_validation import checked
from cinetica.model.edit_words import changed_values
from cinetica.model.parameters import Parameter, Value
from cinetica.model.study import Drill, Study
from cinetica.model.take import Take
from cinetica.model.tune import Tune


class Editing(QObject):
    """A study that is edited, with its undo list."""

    study_changed = Signal()
    wake_changed = Signal()
    # A gesture was ended from outside, such as by an undo: whoever is dragging lets go.
    let_go = Signal()
    # What was not done and why; and what was done, where it does not show by itself.
    refused = Signal(str)
    told = Signal(str)

    def __init__(self, study: Study, path: Path | None) -> None:
        super().__init__()
        self.study, self.path = study, path
        self.undo_stack = QUndoStack(self)
        self.shown: list[TuneRun] = []
        self.wake: list[TuneRun] = []
        self.wake_name = ""
        # The wake that is drawn, and of which wake and curves.
        self._pale: tuple[list[TuneRun], list[TuneRun], list[TuneRun]] | None = None
        self._gesture: tuple[str, Study] | None = None
        # The study as it was before the last edit, or the one that is going on.
        self.before_edit: Study | None = None
        # Runs while the figures wait.
        self._figures = QTimer(self)
        self._figures.setSingleShot(True)
        self._figures.timeout.connect(self._say_figures)

    @property
    def drill(self) -> Drill | None:
        """The current drill."""
        raise NotImplementedError

    def is_hidden(self, tune: Tune) -> bool:
        """Whether the tune is hidden."""
        raise NotImplementedError

    def _take(self, study: Study) -> None:
        """Show an edited study."""
        raise NotImplementedError

    def _say_figures(self) -> None:
        """Read the figures now."""
        raise NotImplementedError

    def edit(self, name: str, after: Study, *, joins: bool = False, curves_first: bool = False) -> None:
        """Change the study by one named, undoable edit.

        `joins` makes it part of the previous edit if that has the same name. `curves_first`: slow figures are read
        after the curves are painted.
        """
        if after == self.study:
            return
        try:
            checked(self.study, after)
        except ValueError as error:
            self.refused.emit(str(error))
            return
        wake = self.wake if joins and self.wake_name == name == self.undo_stack.undoText() else None
        # What the traces are told of, the wake is told of with them.
        self._begin(name)
        if wake:
            self.wake = wake
        self._take(after)
        if curves_first and self._figures.isActive():
            self._figures.start(0)
        self.end(joins=joins, curves_first=curves_first)

    def begin(self, name: str) -> None:
        """Begin an edit through many values, such as a drag. The current curves become the wake."""
        self._begin(name)
        self.wake_changed.emit()

    def _begin(self, name: str) -> None:
        self.end()
        self._gesture = (name, self.study)
        self.before_edit = self.study
        self.wake, self.wake_name = list(self.shown), name

    def end(self, *, joins: bool = False, curves_first: bool = False) -> None:
        """End the gesture: it becomes one entry of the undo list, or none if nothing changed. See `edit`."""
        if self._gesture is None:
            return
        name, before = self._gesture
        self._gesture = None
        if self._figures.isActive() and not curves_first:
            self._say_figures()
        if before == self.study:
            Editing.clear_wake(self)
        else:
            self.undo_stack.push(_Edit(self, name, before, self.study, joins))
            if not self._curves_moved:
                Editing.clear_wake(self)

    @property
    def _curves_moved(self) -> bool:
        """Whether any curve differs from its wake: a new name or note changes none."""
        now = {shown.place: shown for shown in self.shown}
        return not all(
            shown is now.get(shown.place) or (shown.place in now and shown.trace.is_as(now[shown.place].trace))
            for shown in self.wake
        )

    @property
    def in_gesture(self) -> bool:
        """Whether a gesture is in progress."""
        return self._gesture is not None

    def undo(self) -> None:
        """Undo the last edit, ending a gesture in progress first, which is then undone."""
        self.end_from_outside()
        name = self.undo_stack.undoText()
        self.undo_stack.undo()
        if name:
            self.told.emit(f"Undone: {name}.")

    def redo(self) -> None:
        """Redo the last undone edit."""
        self.end_from_outside()
        name = self.undo_stack.redoText()
        self.undo_stack.redo()
        if name:
            self.told.emit(f"Done again: {name}.")

    def end_from_outside(self) -> None:
        """End a gesture on behalf of the widget where it began."""
        self.end()
        # Also where nothing has been moved yet: what is held may be gone.
        self.let_go.emit()

    @property
    def wake_shown(self) -> list[TuneRun]:
        """The wake of the visible tunes whose curves have changed."""
        pale = self._pale
        # Whoever hides a tune has the curves run: then they are another list.
        if pale is None or pale[0] is not self.wake or pale[1] is not self.shown:
            now = {id(shown) for shown in self.shown}
            drawn = [shown for shown in self.wake if id(shown) not in now and not self.is_hidden(shown.tune)]
            pale = self._pale = (self.wake, self.shown, drawn)
        return pale[2]

    @property
    def wake_words(self) -> str:
        """What the pale curves are; empty if there are none, since an edit may move no curve of this drill."""
        pale = self.wake_name and self.wake_shown and self._curves_moved
        return f"before “{self.wake_name}”" if pale else ""

    def clear_wake(self) -> None:
        """Remove the wake."""
        self.wake, self.wake_name = [], ""
        self.wake_changed.emit()

    def set_value(self, tune: Tune, parameter: Parameter, value: Value, *, joins: bool = False) -> bool:
        """Set one number of one tune; an invalid value is refused in words and changes nothing."""
        name = f"{parameter.label} of {tune.name}"
        return self.alter(name, lambda study: editing.with_values(study, [(tune.name, parameter, value)]), joins=joins)

    def set_values(self, name: str, changes: list[tuple[str, Parameter, Value]]) -> bool:
        """Set several numbers in one edit, or none if one of them is refused."""
        return self.alter(name, lambda study: editing.with_values(study, changes))

    def alter(self, name: str, change: Callable[[Study], Study], *, joins: bool = False) -> bool:
        """Change the study by a function that may raise ValueError; then it is refused and nothing changes."""
        try:
            after = checked(self.study, change(self.study))
        except ValueError as error:
            self.refused.emit(str(error))
            return False
        if self._gesture is not None:
            self._take(after)
        else:
            self.edit(name, after, joins=joins)
        return True

    def wish(self, tune: Tune, id: str, wanted: float) -> bool:
        """Change the numbers behind a measure until it has the wanted value; refused if there is no solution."""
        drill = self.drill
        if drill is None or tune.snapshot_of:
            self.refused.emit(
                f"“{tune.name}” is a snapshot and stays as it was." if drill else "There is no drill to measure it on."
            )
            return False
        from cinetica.reading.goal_seek import seek  # It loads SciPy, which a start need not wait for.

        try:
            granted = seek(tune, drill, self.study.clock, id, wanted)
        except ValueError as refusal:
            self.refused.emit(str(refusal))
            return False
        self.edit(f"{granted.measure.label} of {tune.name}", self.study.with_tune(granted.tune, instead_of=tune.name))
        self.told.emit(granted.words)
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

    def set_clock(self, clock: Clock, name: str) -> None:
        """Replace the clock."""
        self.edit(name, self.study.model_copy(update={"clock": clock}), curves_first=True)


class _Edit(QUndoCommand):
    """An edit as the study before and after it; studies share unchanged parts.

    The history shows its name and the changed values; menus show only the name.
    """

    def __init__(self, session: Editing, name: str, before: Study, after: Study, joins: bool) -> None:
        super().__init__()
        # Weakly: the list of edits is the session's own, and Python's collector must not take an edit from under it.
        self._session = weakref.ref(session)
        self._before, self._after, self._joins = before, after, joins
        self._say(name)

    def _say(self, name: str) -> None:
        values = changed_values(self._before, self._after)
        self.setText(f"{name} {values}\n{name}" if values else name)

    @override
    def id(self) -> int:
        return 1

    @override
    def mergeWith(self, other: QUndoCommand) -> bool:
        """Merge successive wheel steps on one number into one entry."""
        if not isinstance(other, _Edit) or not other._joins or other.actionText() != self.actionText():
            return False
        self._after = other._after
        self._say(self.actionText())
        return True

    @override
    def undo(self) -> None:
        self._show(self._before)

    @override
    def redo(self) -> None:
        self._show(self._after)

    def _show(self, study: Study) -> None:
        session = self._session()
        if session is not None:
            session._take(study)
