"""The table of the sheet, with mouse and keys."""

from __future__ import annotations

from collections.abc import Iterator

from PySide6.QtCore import (
    QEvent,
    QItemSelection,
    QItemSelectionModel,
    QModelIndex,
    QPoint,
    Qt,
    Signal,
)
from PySide6.QtGui import (
    QContextMenuEvent,
    QGuiApplication,
    QKeyEvent,
    QKeySequence,
    QMouseEvent,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QMenu, QTableView, QWidget
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.sheet.cell_editor import Cell, CellEditor
from cinetica.desk.sheet.cells import COARSE, FINE
from cinetica.desk.sheet.choices import ChoicePopup
from cinetica.desk.sheet.curve_editor import CurveEditor
from cinetica.desk.sheet.delegate import CellDelegate
from cinetica.desk.sheet.grid import SheetGrid
from cinetica.desk.sheet.header import TuneHeader
from cinetica.desk.sheet.model import FIRST_TUNE, Index, SheetModel, explanation
from cinetica.desk.sheet.number_drag import NumberDrag
from cinetica.desk.sheet.ranges import RangeDrag
from cinetica.desk.state.session import Session
from cinetica.model import editing
from cinetica.model.parameters import Parameter
from cinetica.model.tune import Tune
from cinetica.reading.measures import Measure
from cinetica.reading.targets import Verdict

NUMBERS = ("number", "whole")
TARGET_EXAMPLES = "A target: “2.3-2.5”, “>= 2.4” or “2.4 ± 0.1”; then “all” for all tunes, or “on every drill”."


def _scale(modifiers: Qt.KeyboardModifier) -> float:
    if modifiers & Qt.KeyboardModifier.ShiftModifier:
        return FINE
    return COARSE if modifiers & Qt.KeyboardModifier.ControlModifier else 1.0


class SheetView(QTableView):
    """The table: it holds the model, the grid that arranges it, and the editor that its mouse and keys drive.

    `number_wanted`: emitted to find a number that meets a missed target.
    """

    hovered = Signal(str)
    # A figure was clicked on: the tune's name, first and last row that it was read off.
    figure_chosen = Signal(str, int, int)
    number_wanted = Signal(object)
    # The curve of a number is wanted: its id, and the name of the tune.
    survey_wanted = Signal(str, str)

    def __init__(self, session: Session, *, figures: bool = False) -> None:
        super().__init__()
        self.session = session
        self.sheet = SheetModel(session, self, figures=figures)
        self.editor = CellEditor(session, self.sheet)
        self.tune_header = TuneHeader(self.sheet)
        self._drag: NumberDrag | RangeDrag | None = None
        # The tune of the last current column.
        self._tune_name = ""
        self.setModel(self.sheet)
        self.setItemDelegate(CellDelegate(self))
        self.setHorizontalHeader(self.tune_header)
        self.grid = SheetGrid(self, self.sheet, self.tune_header, session)
        self._set_up()
        self.tune_header.chosen.connect(self._choose_reference)
        self.tune_header.pressed_on.connect(self._go_to_column)
        self.tune_header.dropped.connect(self._drop)
        session.gesture_ended.connect(self._end_gesture)
        self.grid.restore()

    def _set_up(self) -> None:
        rows = self.verticalHeader()
        rows.hide()
        rows.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        rows.setMinimumSectionSize(1)
        rows.setDefaultSectionSize(look.height(9) + look.px(9))
        self.setFrameShape(self.Shape.NoFrame)
        self.setShowGrid(False)
        self.setCornerButtonEnabled(False)
        look.on_sheet(self.viewport())
        self.setMouseTracking(True)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectItems)
        # Always there, so that the columns of the two tables stay one under the other.
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setEditTriggers(QAbstractItemView.EditTrigger.EditKeyPressed | QAbstractItemView.EditTrigger.AnyKeyPressed)
        self.setAccessibleName("Sheet of tunes")

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.grid.fit_columns()

    def fit_columns(self) -> None:
        """Divide the width among the tunes; Qt disconnects this when the view is deleted."""
        self.grid.fit_columns()

    # What the delegate asks for

    def is_open(self, group: int) -> bool:
        """Whether the rows of a group are shown."""
        return self.grid.is_open(group)

    def type_into(self, index: Index, text: str) -> None:
        """Set what was typed into a cell."""
        self.editor.type_into(index, text, self._selected)

    @override
    def commitData(self, editor: QWidget) -> None:
        """Commit; Qt also calls this for an editor removed meanwhile, with its row or for another one."""
        if not editor.isHidden():
            super().commitData(editor)

    # The current cell

    @override
    def currentChanged(self, current: Index, previous: Index) -> None:
        super().currentChanged(current, previous)
        tune = self.sheet.tune_at(current)
        if tune is not None:
            self._tune_name = tune.name
        if self.hasFocus():
            self.session.light(self.sheet.figure_at(current))

    def cell(self, id: str, tune: str) -> QModelIndex:
        """The index of a parameter or measure in a tune's column; invalid if it is not shown."""
        return self.grid.cell(id, tune)

    def go_to(self, id: str, tune: str) -> None:
        """Make a cell the current one."""
        self.grid.go_to(id, tune)

    def current_tune(self) -> Tune | None:
        """The tune of the last current column."""
        return next((tune for _, tune in self.session.tunes if tune.name == self._tune_name), None)

    def _go_to_column(self, column: int) -> None:
        self._tune_name = self.sheet.tunes[column][1].name
        if self.sheet.row_at(self.currentIndex()) is not None:
            self.setCurrentIndex(self.currentIndex().siblingAtColumn(FIRST_TUNE + column))

    def _choose_reference(self, column: int) -> None:
        """Show a hidden tune again; make any other the reference. A game log cannot be it."""
        if self.sheet.is_log(column):
            return
        tune = self.sheet.tunes[column][1]
        if self.session.is_hidden(tune):
            self.session.toggle(tune)
        else:
            self.session.choose_reference(tune)

    def to_numbers(self) -> None:
        """Focus the table, on a number that can be typed over."""
        self.setFocus()
        if self.sheet.tune_at(self.currentIndex()) is None or self.sheet.row_at(self.currentIndex()) is None:
            group = next((place for place in range(len(self.sheet.groups)) if self.grid.is_open(place)), None)
            if group is not None and self.sheet.tunes:
                self.setCurrentIndex(self.sheet.index(self.sheet.row_of(group, 0), FIRST_TUNE))

    @property
    def current_number(self) -> Cell | None:
        """The tune and the number of the current cell."""
        found = self.sheet.cell_at(self.currentIndex())
        return found if found and found[1].kind in NUMBERS else None

    @property
    def missed(self) -> Verdict | None:
        """The missed target of the current cell's figure."""
        verdict = self.sheet.verdict_at(self.currentIndex())
        return verdict if verdict is not None and verdict.missed else None

    @property
    def _selected(self) -> list[Index]:
        """The selected cells, and the current one."""
        return list({*self.selectedIndexes(), self.currentIndex()})

    def choose_row(self) -> None:
        """Select the current row in every tune."""
        index = self.currentIndex()
        if self.sheet.cell_at(index):
            last = FIRST_TUNE + len(self.sheet.tunes) - 1
            selection = QItemSelection(index.siblingAtColumn(FIRST_TUNE), index.siblingAtColumn(last))
            self.selectionModel().select(selection, QItemSelectionModel.SelectionFlag.ClearAndSelect)
            self.hovered.emit("Selected in every tune: what you type is set in all of them.")

    @override
    def moveCursor(self, action: QAbstractItemView.CursorAction, modifiers: Qt.KeyboardModifier) -> QModelIndex:
        """Let Tab go from tune to tune in a row, then to the next row."""
        index, last = self.currentIndex(), FIRST_TUNE + len(self.sheet.tunes) - 1
        steps = {QAbstractItemView.CursorAction.MoveNext: 1, QAbstractItemView.CursorAction.MovePrevious: -1}
        step = steps.get(action)
        if step is None or not index.isValid():
            return super().moveCursor(action, modifiers)
        in_row = self.sheet.row_at(index) is not None and FIRST_TUNE <= index.column() + step <= last
        if in_row and index.column() >= FIRST_TUNE:
            return index.siblingAtColumn(index.column() + step)
        row = self.grid.next_row(index.row(), step)
        return index if row is None else self.sheet.index(row, FIRST_TUNE if step > 0 else last)

    @override
    def focusNextPrevChild(self, onward: bool) -> bool:
        """Let Tab leave the table only after its last cell, and backward before its first."""
        index, actions = self.currentIndex(), QAbstractItemView.CursorAction
        if self.hasFocus() and self.sheet.tune_at(index) is not None:
            action = actions.MoveNext if onward else actions.MovePrevious
            there = self.moveCursor(action, Qt.KeyboardModifier.NoModifier)
            if there.isValid() and there != index:
                self.setCurrentIndex(there)
                return True
        return super().focusNextPrevChild(onward)

    # Copied, pasted, dropped

    def copy(self) -> None:
        """Copy the selected cells as text: rows are lines, tunes are separated by tabs."""
        cells = [index for index in self._selected if self.sheet.row_at(index) and index.column() >= FIRST_TUNE]
        QGuiApplication.clipboard().setText(self.editor.text_of(cells))
        self.hovered.emit(f"Copied {len(cells)} cell{'s' if len(cells) != 1 else ''}.")

    def paste(self) -> None:
        """Paste tab-separated text from the current cell on; a single value goes to all selected cells."""
        lines = [line.split("\t") for line in QGuiApplication.clipboard().text().strip("\n").split("\n")]
        if len(lines) == 1 and len(lines[0]) == 1:
            texts = [(index, lines[0][0]) for index in self._selected if self.sheet.cell_at(index)]
        else:
            texts = list(self._from_here(lines))
        self._report(self.editor.paste(texts))

    def _from_here(self, lines: list[list[str]]) -> Iterator[tuple[Index, str]]:
        """The cells from the current one to the right and down, with their texts."""
        index = self.currentIndex()
        for line in lines:
            for number, text in enumerate(line):
                if text.strip():
                    yield index.siblingAtColumn(index.column() + number), text
            below = self.grid.next_row(index.row(), 1)
            index = QModelIndex() if below is None else self.sheet.index(below, index.column())

    def _drop(self, column: int, at: QPoint) -> None:
        """Move the tune if dropped on a name, copy the value on a cell, copy the group on a group."""
        if self.sheet.is_log(column):
            # It is a game log, or another study has been opened meanwhile.
            return
        source = self.sheet.tunes[column][1].name
        on_header = self.tune_header.viewport().mapFromGlobal(at)
        if self.tune_header.viewport().rect().contains(on_header):
            to = self.tune_header.logicalIndexAt(on_header) - FIRST_TUNE
            if to >= 0 and to != column and not self.sheet.is_log(to):
                self.session.alter(f"Move {source}", lambda study: editing.moved_tune(study, source, to - column))
            return
        spot = self.viewport().mapFromGlobal(at)
        index, to = self.indexAt(spot), self.columnAt(spot.x()) - FIRST_TUNE
        if index.isValid() and to >= 0 and to != column and not self.sheet.is_log(to):
            self._report(self.editor.drop(source, self.sheet.tunes[to][1].name, index))

    def _copy_group_here(self) -> bool:
        """Copy the current group from the reference to the current tune."""
        index, tune, reference = self.currentIndex(), self.current_tune(), self.session.reference
        if not index.isValid() or tune is None or reference is None or tune is reference or self.sheet.figures:
            return False
        place = self.sheet.place_at(index)
        if place is None:
            return False
        self._report(self.editor.copy_group(reference.name, tune.name, place[0]))
        return True

    def _report(self, done: str) -> None:
        if done:
            self.hovered.emit(done)

    # Menus

    @override
    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        index = self.indexAt(event.pos())
        row, tune, drill = self.sheet.row_at(index), self.sheet.tune_at(index), self.session.drill
        verdict = self.sheet.verdict_at(index)
        if isinstance(row, Parameter) and row.kind in NUMBERS:
            menu = QMenu(self)
            self.setCurrentIndex(index)
            name = tune.name if tune is not None else ""
            menu.addAction("Survey this", lambda: self.survey_wanted.emit(row.id, name))
            menu.popup(event.globalPos())
            return
        if (
            not isinstance(row, Measure)
            or tune is None
            or drill is None
            or self.sheet.is_log(index.column() - FIRST_TUNE)
        ):
            super().contextMenuEvent(event)
            return
        menu = QMenu(self)
        self.setCurrentIndex(index)
        find = menu.addAction("Find a number that meets the target", lambda: self.number_wanted.emit(verdict))
        find.setEnabled(verdict is not None and verdict.missed)
        menu.addAction("Type a target…", lambda: self._type_target(index))
        every = menu.addAction("Target on every drill that shows it", lambda: self._spread_target(verdict))
        every.setEnabled(verdict is not None)
        none = menu.addAction("No target", lambda: self._remove_target(verdict))
        none.setEnabled(verdict is not None)
        menu.popup(event.globalPos())

    def _type_target(self, index: QModelIndex) -> None:
        """Open the cell, and say what can be typed."""
        self.edit(index)
        self.sheet.session.message.emit(TARGET_EXAMPLES)

    def _spread_target(self, verdict: Verdict | None) -> None:
        if verdict is not None:
            self.editor.spread_target(verdict.target)

    def _remove_target(self, verdict: Verdict | None) -> None:
        if verdict is not None:
            self.editor.remove_target(verdict)

    def _can_edit(self, index: QModelIndex) -> bool:
        """Whether an editor can be opened here now: not while another is open."""
        free = index.isValid() and self.state() != QAbstractItemView.State.EditingState
        return free and bool(self.sheet.flags(index) & Qt.ItemFlag.ItemIsEditable)

    def _is_set_by_typing(self, index: QModelIndex) -> bool:
        """Whether the content of a cell can be set; for other figures, Enter goes to their frames."""
        row = self.sheet.row_at(index)
        return self._can_edit(index) and not (isinstance(row, Measure) and not row.seekable)

    # The mouse

    def _end_gesture(self) -> None:
        """End the drag: its edit was ended elsewhere, so the mouse changes nothing any more."""
        self._drag = None

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        index = self.indexAt(event.position().toPoint())
        if index.isValid() and self.sheet.row_at(index) is None:
            if self._is_on_more(index, event.position().x()):
                self.sheet.show_all_rules(True)
            else:
                self.grid.toggle_group(index)
            return
        super().mousePressEvent(event)
        row, tune, found = self.sheet.row_at(index), self.sheet.tune_at(index), self.sheet.cell_at(index)
        if found is None and tune is not None and tune.snapshot_of and isinstance(row, Parameter):
            self.session.refused.emit(
                f"“{tune.name}” is a snapshot and cannot be changed. Duplicate it to change it, or restore it."
            )
        if event.button() == Qt.MouseButton.LeftButton:
            self._drag = self._drag_from(index, round(event.position().x()))

    def _is_on_more(self, index: QModelIndex, x: float) -> bool:
        """Whether a pixel is on the words that say how many rules are left out of a group."""
        place = self.sheet.place_at(index)
        more = self.sheet.groups[place[0]].more if place and self.grid.is_open(place[0]) else 0
        return bool(more) and x > self.viewport().width() - look.width(f"{more} more", 8) - look.px(16)

    def _drag_from(self, index: QModelIndex, x: int) -> NumberDrag | RangeDrag | None:
        """The drag that a press on a cell may become: of a number, or of the target of a figure."""
        row, tune, found = self.sheet.row_at(index), self.sheet.tune_at(index), self.sheet.cell_at(index)
        if found is not None:
            return NumberDrag(self.session, *found, x) if found[1].kind in NUMBERS else None
        reading, drill = self.sheet.reading_at(index), self.session.drill
        if not isinstance(row, Measure) or tune is None or reading is None or drill is None:
            return None
        right = x > self.visualRect(index).center().x()
        verdict = self.sheet.verdict_at(index)
        scale = self.session.units.scale(row.unit)
        value = scale.shown(reading.value)
        return RangeDrag(self.session, drill.name, tune.name, row, value, x, verdict, right, scale)

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        drag = self._drag
        # While a number is dragged, the text below the sheet is about that number.
        if not (isinstance(drag, NumberDrag) and drag.moving):
            self._explain_under(self.indexAt(event.position().toPoint()))
        if drag is not None:
            self._report(drag.move(event.position().x() - drag.at, _scale(event.modifiers())))

    def _explain_under(self, index: QModelIndex) -> None:
        row, verdict, found = self.sheet.row_at(index), self.sheet.verdict_at(index), self.sheet.cell_at(index)
        words = explanation(row, self.session.units, found[0] if found else None) if row is not None else ""
        self.hovered.emit(f"Target {verdict.wanted}, {verdict.word}: {verdict.why}." if verdict else words)
        self.session.light(self.sheet.figure_at(index))
        is_number = found is not None and found[1].kind in NUMBERS
        self.setCursor(Qt.CursorShape.SizeHorCursor if is_number else Qt.CursorShape.ArrowCursor)

    @override
    def leaveEvent(self, event: QEvent) -> None:
        super().leaveEvent(event)
        self.session.light(None)

    @override
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        drag, self._drag = self._drag, None
        if drag is not None and drag.moving:
            self.session.end()
            return
        super().mouseReleaseEvent(event)
        index = self.indexAt(event.position().toPoint())
        if event.button() != Qt.MouseButton.LeftButton:
            return
        self._go_to_figure(index)
        found = self.sheet.cell_at(index)
        if found and found[1].kind not in NUMBERS and index == self.currentIndex():
            self._pick(index, *found)

    def _go_to_figure(self, index: Index) -> bool:
        """Ask for the frames of a figure; returns whether there is one."""
        reading, tune = self.sheet.reading_at(index), self.sheet.tune_at(index)
        if reading is None or tune is None:
            return False
        self.figure_chosen.emit(tune.name, *reading.rows)
        return True

    def _pick(self, index: QModelIndex, tune: Tune, parameter: Parameter) -> None:
        """Toggle a switch, or open the list of a choice or the picture of a curve."""
        if parameter.kind == "switch":
            self.session.set_value(tune, parameter, not tune.get(parameter.id))
        elif parameter.kind == "choice":
            popup = ChoicePopup(self.session, tune, parameter, self)
            popup.open_at(self.viewport().mapToGlobal(self.visualRect(index).bottomLeft()))
        else:
            there = [each for each in self.findChildren(CurveEditor) if each.shows(tune, parameter)]
            editor = there[0] if there else CurveEditor(self.session, tune, parameter, self)
            editor.show()
            editor.activateWindow()

    @override
    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        index = self.indexAt(event.position().toPoint())
        found = self.sheet.cell_at(index)
        if found and found[1].kind in NUMBERS:
            self._drag = None
            self.editor.to_default([found])
        elif isinstance(self.sheet.row_at(index), Measure) and self._can_edit(index):
            self.edit(index)

    @override
    def wheelEvent(self, event: QWheelEvent) -> None:
        index = self.indexAt(event.position().toPoint())
        found = self.sheet.cell_at(index)
        if found and index == self.currentIndex() and found[1].kind in NUMBERS:
            notches = (event.angleDelta().y() or event.angleDelta().x()) / 120
            self.editor.nudge(*found, notches * _scale(event.modifiers()))
            event.accept()
        else:
            super().wheelEvent(event)

    # The keys

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
        if not self._act_on(event):
            moves = event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown)
            if moves or (self._can_edit(self.currentIndex()) and event.text()):
                super().keyPressEvent(event)
            else:
                event.ignore()

    def _act_on(self, event: QKeyEvent) -> bool:
        """Do what a key stands for; returns whether it stands for anything here."""
        known = QKeySequence.StandardKey
        for wanted, act in ((known.Copy, self.copy), (known.Paste, self.paste), (known.SelectAll, self.choose_row)):
            if event.matches(wanted):
                act()
                return True
        key, modifiers, found = event.key(), event.modifiers(), self.sheet.cell_at(self.currentIndex())
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            return self._enter(with_control=bool(modifiers & Qt.KeyboardModifier.ControlModifier))
        if found and modifiers & Qt.KeyboardModifier.AltModifier and key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            if found[1].kind in NUMBERS:
                self.editor.nudge(*found, (1 if key == Qt.Key.Key_Up else -1) * _scale(modifiers))
            return True
        if key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            return self._delete(also_target=key == Qt.Key.Key_Delete)
        return key == Qt.Key.Key_G and not modifiers and self._copy_group_here()

    def _enter(self, *, with_control: bool) -> bool:
        """Fold a group, pick a choice, go to the frames of a figure, or type into the cell."""
        index = self.currentIndex()
        found = self.sheet.cell_at(index)
        if index.isValid() and self.sheet.row_at(index) is None:
            self.grid.toggle_group(index)
        elif found and found[1].kind not in NUMBERS:
            self._pick(index, *found)
        elif (with_control or not self._is_set_by_typing(index)) and self._go_to_figure(index):
            pass
        elif self._can_edit(index):
            self.edit(index)
        else:
            return False
        return True

    def _delete(self, *, also_target: bool) -> bool:
        """Reset the selected numbers, or remove the target of a figure."""
        verdict = self.sheet.verdict_at(self.currentIndex())
        if self.sheet.cell_at(self.currentIndex()):
            self.editor.to_default(self.editor.cells(self._selected))
        elif also_target and verdict is not None:
            self.editor.remove_target(verdict)
        else:
            return False
        return True
