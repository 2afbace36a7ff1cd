"""The table of the sheet, with mouse and keys."""

from __future__ import annotations

from PySide6.QtCore import (
    QEvent,
    QModelIndex,
    Qt,
    Signal,
)
from PySide6.QtGui import QContextMenuEvent, QKeyEvent, QKeySequence, QMouseEvent, QWheelEvent
from PySide6.QtWidgets import QMenu
from typing_extensions import override

from cinetica.desk.sheet.cells import COARSE, FINE, dragged, number_text
from cinetica.desk.sheet.choices import ChoicePopup
from cinetica.desk.sheet.clipboard import CopyingTable
from cinetica.desk.sheet.model import FIRST_TUNE, Index, explanation
from cinetica.desk.sheet.ranges import RangeDrag
from cinetica.desk.state.session import Session
from cinetica.model import editing
from cinetica.model.parameters import Parameter
from cinetica.model.tune import Tune
from cinetica.reading.measures import Measure
from cinetica.reading.targets import Verdict


def _scale(modifiers: Qt.KeyboardModifier) -> float:
    if modifiers & Qt.KeyboardModifier.ShiftModifier:
        return FINE
    return COARSE if modifiers & Qt.KeyboardModifier.ControlModifier else 1.0


class SheetView(CopyingTable):
    """The table with its drags. `number_wanted`: emitted to find a number that meets a missed target."""

    number_wanted = Signal(object)
    # The curve of a number is wanted: its id, and the name of the tune.
    survey_wanted = Signal(str, str)

    def __init__(self, session: Session, *, figures: bool = False) -> None:
        super().__init__(session, figures=figures)
        # Tune, parameter, its value and the pixel where the mouse went down.
        self._drag: tuple[Tune, Parameter, float, int] | None = None
        self._dragging = False
        self._range: RangeDrag | None = None
        session.let_go.connect(self._let_go)

    def _let_go(self) -> None:
        """End the drag: its edit was ended elsewhere, so the mouse changes nothing any more."""
        self._drag, self._dragging, self._range = None, False, None

    @property
    def current_number(self) -> tuple[Tune, Parameter] | None:
        """The tune and the number of the current cell."""
        found = self._parameter_cell(self.currentIndex())
        return found if found and found[1].kind in ("number", "whole") else None

    @property
    def missed(self) -> Verdict | None:
        """The missed target of the current cell's figure."""
        verdict = self._verdict_at(self.currentIndex())
        return None if verdict is None or verdict.met else verdict

    def _verdict_at(self, index: Index) -> Verdict | None:
        row, column = self.sheet.row_at(index), index.column() - FIRST_TUNE
        return self.sheet.verdict(row, column) if isinstance(row, Measure) and column >= 0 else None

    def _begin_range(self, index: QModelIndex, x: int) -> None:
        """Begin a drag that creates, or moves, the target of a figure."""
        row, tune, reading = self.sheet.row_at(index), self.sheet.tune_at(index), self.sheet.reading_at(index)
        drill = self.session.drill
        if isinstance(row, Measure) and tune is not None and reading is not None and drill is not None:
            right = x > self.visualRect(index).center().x()
            self._range = RangeDrag(
                self.session, drill.name, tune.name, row, reading.value, x, self._verdict_at(index), right
            )

    @override
    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        index = self.indexAt(event.pos())
        row, tune, drill = self.sheet.row_at(index), self.sheet.tune_at(index), self.session.drill
        verdict = self._verdict_at(index)
        if isinstance(row, Parameter) and row.kind in ("number", "whole"):
            menu = QMenu(self)
            self.setCurrentIndex(index)
            name = tune.name if tune is not None else ""
            menu.addAction("Survey this", lambda: self.survey_wanted.emit(row.id, name))
            menu.popup(event.globalPos())
            return
        if not isinstance(row, Measure) or tune is None or drill is None:
            super().contextMenuEvent(event)
            return
        menu = QMenu(self)
        self.setCurrentIndex(index)
        find = menu.addAction("Find a number that meets the target", lambda: self.number_wanted.emit(verdict))
        find.setEnabled(verdict is not None and not verdict.met)
        menu.addAction("Type a target…", lambda: self.edit(index))
        none = menu.addAction("No target", lambda: self._no_target(verdict))
        none.setEnabled(verdict is not None)
        menu.popup(event.globalPos())

    def _no_target(self, verdict: Verdict | None) -> None:
        if verdict is not None:
            self.session.alter(
                f"No target for {verdict.label.lower()}",
                lambda study: editing.without_target(study, verdict.drill, verdict.target.measure, (verdict.tune,)),
            )

    def _is_set_by_typing(self, index: QModelIndex) -> bool:
        """Whether the content of a cell can be set; for other figures, Enter goes to their frames."""
        row = self.sheet.row_at(index)
        return self._can_edit(index) and not (isinstance(row, Measure) and not row.wishable)

    # Drag, wheel, double click, keys

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        index = self.indexAt(event.position().toPoint())
        if index.isValid() and self.sheet.row_at(index) is None:
            self.toggle_group(index)
            return
        super().mousePressEvent(event)
        found = self._parameter_cell(index)
        if (
            found is None
            and (tune := self.sheet.tune_at(index)) is not None
            and tune.snapshot_of
            and isinstance(self.sheet.row_at(index), Parameter)
        ):
            self.session.refused.emit(
                f"“{tune.name}” is a snapshot and stays as it was. Duplicate it to change it, or put it back."
            )
        if found is None and event.button() == Qt.MouseButton.LeftButton:
            self._begin_range(index, round(event.position().x()))
        if found and event.button() == Qt.MouseButton.LeftButton:
            tune, parameter = found
            if parameter.kind in ("number", "whole"):
                self._drag = (tune, parameter, float(tune.get(parameter.id)), round(event.position().x()))
                self._dragging = False

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        # While a number is dragged, it is what the sheet speaks of.
        if not self._dragging:
            self._say_what_is_under(self.indexAt(event.position().toPoint()))
        if self._range is not None:
            pixels = event.position().x() - self._range.at
            if self._range.moving or abs(pixels) >= 3:
                self.hovered.emit(self._range.move(pixels * _scale(event.modifiers())))
            return
        if self._drag is None:
            return
        tune, parameter, start, at = self._drag
        pixels = event.position().x() - at
        if not self._dragging:
            if abs(pixels) < 3:
                return
            self._dragging = True
            self.session.begin(f"{parameter.label} of {tune.name}")
        self._set_by_steps(tune, parameter, start, pixels * _scale(event.modifiers()))

    def _say_what_is_under(self, index: QModelIndex) -> None:
        row = self.sheet.row_at(index)
        verdict = self._verdict_at(index)
        said = explanation(row) if row is not None else ""
        self.hovered.emit(f"Target {verdict.wanted}, {verdict.word}: {verdict.why}." if verdict else said)
        self.session.light(self._lit_by(index))
        found = self._parameter_cell(index)
        self.setCursor(
            Qt.CursorShape.SizeHorCursor
            if found and found[1].kind in ("number", "whole")
            else Qt.CursorShape.ArrowCursor
        )

    def _set_by_steps(self, tune: Tune, parameter: Parameter, start: float, steps: float) -> None:
        now = self.session.study.tune(tune.name)
        value = dragged(parameter, start, steps)
        if self.session.set_value(now, parameter, value):
            low, high = parameter.comfort
            text = f"{parameter.label} of {tune.name}: {number_text(float(value))} {parameter.unit}"
            beyond = (
                ""
                if low <= float(value) <= high
                else f" — past the comfortable {number_text(low)} to {number_text(high)}"
            )
            self.hovered.emit(text + beyond)

    def _go_to_figure(self, index: Index) -> bool:
        """Ask for the frames of a figure; returns whether there is one."""
        reading, tune = self.sheet.reading_at(index), self.sheet.tune_at(index)
        if reading is None or tune is None:
            return False
        self.figure_chosen.emit(tune.name, *reading.rows)
        return True

    @override
    def leaveEvent(self, event: QEvent) -> None:
        super().leaveEvent(event)
        self.session.light(None)

    @override
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        drag, dragging = self._drag, self._dragging or (self._range is not None and self._range.moving)
        self._drag, self._dragging, self._range = None, False, None
        if dragging:
            self.session.end()
            return
        super().mouseReleaseEvent(event)
        index = self.indexAt(event.position().toPoint())
        if event.button() == Qt.MouseButton.LeftButton:
            self._go_to_figure(index)
        found = self._parameter_cell(index)
        if drag is None and found and event.button() == Qt.MouseButton.LeftButton and index == self.currentIndex():
            self._pick(index, *found)

    def _pick(self, index: QModelIndex, tune: Tune, parameter: Parameter) -> None:
        """Toggle a switch, or open the list of a choice."""
        if parameter.kind == "switch":
            self.session.set_value(tune, parameter, not tune.get(parameter.id))
        elif parameter.kind == "choice":
            popup = ChoicePopup(self.session, tune, parameter, self)
            popup.open_at(self.viewport().mapToGlobal(self.visualRect(index).bottomLeft()))

    @override
    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        found = self._parameter_cell(self.indexAt(event.position().toPoint()))
        if found and found[1].kind in ("number", "whole"):
            self._drag = None
            self.to_default(*found)
        elif isinstance(
            self.sheet.row_at(index := self.indexAt(event.position().toPoint())), Measure
        ) and self._can_edit(index):
            self.edit(index)

    @override
    def wheelEvent(self, event: QWheelEvent) -> None:
        index = self.indexAt(event.position().toPoint())
        found = self._parameter_cell(index)
        if found and index == self.currentIndex() and found[1].kind in ("number", "whole"):
            notches = (event.angleDelta().y() or event.angleDelta().x()) / 120
            self._nudge(*found, notches * _scale(event.modifiers()))
            event.accept()
        else:
            super().wheelEvent(event)

    def _nudge(self, tune: Tune, parameter: Parameter, steps: float) -> None:
        """Change a number; successive steps on one cell are one entry of the undo list."""
        if parameter.kind == "whole" and abs(steps) < 1:
            steps = 1 if steps > 0 else -1
        value = dragged(parameter, float(tune.get(parameter.id)), steps)
        self.session.set_value(tune, parameter, value, joins=True)

    @override
    def event(self, event: QEvent) -> bool:
        # Digits type into the current cell; elsewhere they show and hide tunes.
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            plain = not event.modifiers() & ~(Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.KeypadModifier)
            types = plain and bool(event.text()) and event.text() in "0123456789.,+-<>≥≤"
            if self._can_edit(self.currentIndex()) and (types or event.key() == Qt.Key.Key_Delete):
                event.accept()
                return True
        return super().event(event)

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        index = self.currentIndex()
        known = QKeySequence.StandardKey
        for wanted, act in ((known.Copy, self.copy), (known.Paste, self.paste), (known.SelectAll, self.choose_row)):
            if event.matches(wanted):
                act()
                return
        if event.key() == Qt.Key.Key_G and not event.modifiers() and self._copy_group_here():
            return
        found = self._parameter_cell(index)
        enter = event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if enter and index.isValid() and self.sheet.row_at(index) is None:
            self.toggle_group(index)
        elif (
            found
            and event.modifiers() & Qt.KeyboardModifier.AltModifier
            and event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down)
        ):
            if found[1].kind in ("number", "whole"):
                self._nudge(*found, (1 if event.key() == Qt.Key.Key_Up else -1) * _scale(event.modifiers()))
        elif found and event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self._all_to_default()
        elif event.key() == Qt.Key.Key_Delete and (verdict := self._verdict_at(index)) is not None:
            self._no_target(verdict)
        elif found and enter and found[1].kind in ("switch", "choice"):
            self._pick(index, *found)
        elif (
            enter
            and (event.modifiers() & Qt.KeyboardModifier.ControlModifier or not self._is_set_by_typing(index))
            and self._go_to_figure(index)
        ):
            pass
        elif self._can_edit(index) and enter:
            self.edit(index)
        elif event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown) or (
            self._can_edit(index) and event.text()
        ):
            super().keyPressEvent(event)
        else:
            event.ignore()
