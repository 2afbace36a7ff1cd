"""The sheet: parameters down, tunes across. A cell is dragged, wheeled, typed, or double-clicked to its default."""

from __future__ import annotations

from PySide6.QtCore import (
    QEvent,
    QItemSelection,
    QItemSelectionModel,
    QModelIndex,
    QPersistentModelIndex,
    QPoint,
    Qt,
    Signal,
)
from PySide6.QtGui import QGuiApplication, QKeyEvent, QKeySequence, QMouseEvent, QPaintEvent, QRegion, QWheelEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QCheckBox,
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QSplitter,
    QToolTip,
    QTreeView,
    QVBoxLayout,
    QWidget,
)

from cinetica.desk import look
from cinetica.desk.sheet.cells import COARSE, FINE, dragged, number_text, value_from_text, wish_from_text
from cinetica.desk.sheet.choices import ChoicePopup
from cinetica.desk.sheet.delegate import CellDelegate
from cinetica.desk.sheet.header import TuneHeader, hidden_width, tight_width
from cinetica.desk.sheet.model import FIRST_TUNE, LABEL, UNIT, SheetModel, explanation
from cinetica.desk.state.session import Session
from cinetica.desk.widgets import WrappedLabel, plain_tip
from cinetica.model import editing
from cinetica.model.parameters import Parameter, Value
from cinetica.model.tune import PARAMETERS, Tune
from cinetica.reading.measures import MEASURES, Measure

Index = QModelIndex | QPersistentModelIndex
FOLDED_AT_FIRST = {"Hands", "Climb", "Contact", "Facing", "Stepping"}
# What stands in a column at the most: a label, a unit, a value of a usual tune, and one of six tunes side by side.
LABEL_INDENT = 26
_ROWS: tuple[Parameter | Measure, ...] = (*PARAMETERS, *MEASURES)
USUAL_VALUE, NARROW_VALUE = "sustain", "−99.99"


def label_width() -> int:
    return max(look.width(row.label, 9) for row in _ROWS) + look.px(LABEL_INDENT) + 4


def unit_width() -> int:
    return max(look.width(row.unit, 8) for row in _ROWS) + 10


def tune_width(value: str) -> int:
    """A column of this value with its arrow and margins."""
    return look.width(value, 9) + look.px(22)


HINT = (
    "Drag a number sideways, or type. Double-click: default. Shift is fine, Ctrl coarse. Type over a dotted figure to"
    " set what you mean."
)


class SheetView(QTreeView):
    """The table itself, with the drags."""

    hovered = Signal(str)
    # A figure was clicked on: the tune's name, first and last row that it was read off.
    figure_chosen = Signal(str, int, int)

    def __init__(self, session: Session, palette: look.Palette, *, figures: bool = False) -> None:
        super().__init__()
        self.session, self.look = session, palette
        self.sheet = SheetModel(session, self, figures=figures)
        self.folded = set(FOLDED_AT_FIRST)
        self._tune_name = ""
        self._drag: tuple[Tune, Parameter, float, int] | None = None
        self._dragging = False
        self.exposed = QRegion()
        self.setModel(self.sheet)
        self.cell_delegate = CellDelegate(self.sheet, palette)
        self.cell_delegate.setParent(self)
        self.setItemDelegate(self.cell_delegate)
        self.tune_header = TuneHeader(self.sheet, palette)
        self.tune_header.chosen.connect(self._choose_reference)
        self.tune_header.pressed_on.connect(self._go_to_column)
        self.tune_header.dropped.connect(self._drop)
        self.setHeader(self.tune_header)
        self.setFrameShape(self.Shape.NoFrame)
        look.on_sheet(self.viewport())
        self.setIndentation(0)
        self.setRootIsDecorated(False)
        self.setUniformRowHeights(True)
        self.setMouseTracking(True)
        self.setExpandsOnDoubleClick(False)
        self.setItemsExpandable(True)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectItems)
        # Always there, so that the columns of the two tables stay one under the other.
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setEditTriggers(QAbstractItemView.EditTrigger.EditKeyPressed | QAbstractItemView.EditTrigger.AnyKeyPressed)
        self.setAccessibleName("Sheet of tunes")
        session.let_go.connect(self._let_go)
        self.sheet.modelAboutToBeReset.connect(self._remember)
        self.sheet.modelReset.connect(self._restore)
        self.expanded.connect(lambda index: self.folded.discard(str(index.data())))
        self.collapsed.connect(lambda index: self.folded.add(str(index.data())))
        self._restore()

    def _let_go(self) -> None:
        """The edit that was dragged has been ended: what the mouse still does moves nothing."""
        self._drag, self._dragging = None, False

    def currentChanged(self, current: Index, previous: Index) -> None:
        super().currentChanged(current, previous)
        tune = self.sheet.tune_at(current)
        if tune is not None:
            self._tune_name = tune.name
        if self.hasFocus():
            self.session.light(self._lit_by(current))

    def current_tune(self) -> Tune | None:
        """The tune in whose column the person was last."""
        return next((tune for _, tune in self.sheet.tunes if tune.name == self._tune_name), None)

    def _go_to_column(self, column: int) -> None:
        self._tune_name = self.sheet.tunes[column][1].name
        if self.sheet.row_at(self.currentIndex()) is not None:
            self.setCurrentIndex(self.currentIndex().siblingAtColumn(FIRST_TUNE + column))

    def _choose_reference(self, column: int) -> None:
        """A click on the name of a hidden tune shows it again; else it becomes the one that the others are held
        against."""
        tune = self.sheet.tunes[column][1]
        if self.session.is_hidden(tune):
            self.session.toggle(tune)
        else:
            self.session.choose_reference(tune)

    def fold(self, groups: list[str]) -> None:
        """Just these groups are folded."""
        self.folded = set(groups)
        self._restore()

    # Rows stay folded, and the cell stays current, when the model is rebuilt

    def _remember(self) -> None:
        row, tune = self.sheet.row_at(self.currentIndex()), self.sheet.tune_at(self.currentIndex())
        self._current = (row.id, tune.name, self.currentIndex().column()) if row and tune else None
        self._scrolled = self.verticalScrollBar().value()

    def _restore(self) -> None:
        searching = bool(self.sheet.wanted or self.sheet.differing_only)
        for row, group in enumerate(self.sheet.groups):
            index = self.sheet.index(row, 0)
            self.setFirstColumnSpanned(row, QModelIndex(), True)
            blocked = self.blockSignals(True)
            self.setExpanded(index, searching or group.title not in self.folded)
            self.blockSignals(blocked)
        self.fit_columns()
        if (current := getattr(self, "_current", None)) is not None:
            id, name, column = current
            names = [tune.name for _, tune in self.sheet.tunes]
            # Of a tune that was renamed the column is still there.
            self.go_to(id, name if name in names or not names else names[min(column - FIRST_TUNE, len(names) - 1)])
            self.verticalScrollBar().setValue(self._scrolled)

    def fit_columns(self) -> None:
        """Share the width among the tunes, but keep each wide enough to read; of a hidden one only the letter stays."""
        hidden = [self.session.is_hidden(tune) for _, tune in self.sheet.tunes]
        # Where larger text leaves little room, labels give some of theirs: they end in dots, and their tooltip has all.
        labels = min(label_width(), self.viewport().width() * 9 // 20)
        for column, width in ((LABEL, labels), (UNIT, unit_width())):
            self.tune_header.resizeSection(column, width)
        free = self.viewport().width() - labels - unit_width() - 2 - hidden_width() * sum(hidden)
        shown = max(1, len(hidden) - sum(hidden))
        least = max(tune_width(USUAL_VALUE), tight_width()) if shown < 5 else tune_width(NARROW_VALUE)
        wide = max(least, min(look.px(150), free // shown))
        for column, is_hidden in enumerate(hidden):
            self.tune_header.resizeSection(FIRST_TUNE + column, hidden_width() if is_hidden else wide)

    def resizeEvent(self, event: object) -> None:
        super().resizeEvent(event)  # type: ignore[arg-type]
        self.fit_columns()

    def paintEvent(self, event: QPaintEvent) -> None:
        self.exposed = event.region()
        super().paintEvent(event)

    def cell(self, id: str, tune: str) -> QModelIndex:
        """The index of a parameter or measure in a tune's column; invalid if it is not shown."""
        names = [tune_.name for _, tune_ in self.sheet.tunes]
        for place, group in enumerate(self.sheet.groups):
            for number, row in enumerate(group.rows):
                if row.id == id and tune in names:
                    return self.sheet.index(number, FIRST_TUNE + names.index(tune), self.sheet.index(place, 0))
        return QModelIndex()

    def go_to(self, id: str, tune: str) -> None:
        index = self.cell(id, tune)
        if index.isValid():
            self.setCurrentIndex(index)

    # A tune's name dragged on to another tune

    def _drop(self, column: int, at: QPoint) -> None:
        """On another name: move there. On a cell: copy the value of that row. On a group: copy the group."""
        if column >= len(self.sheet.tunes):
            # Another study has been opened meanwhile.
            return
        source = self.sheet.tunes[column][1].name
        on_header = self.tune_header.viewport().mapFromGlobal(at)
        if self.tune_header.viewport().rect().contains(on_header):
            to = self.tune_header.logicalIndexAt(on_header) - FIRST_TUNE
            if to >= 0 and to != column:
                self.session.alter(f"Move {source}", lambda study: editing.moved_tune(study, source, to - column))
            return
        spot = self.viewport().mapFromGlobal(at)
        index, to = self.indexAt(spot), self.columnAt(spot.x()) - FIRST_TUNE
        if not index.isValid() or not 0 <= to < len(self.sheet.tunes) or to == column:
            return
        target, row = self.sheet.tunes[to][1].name, self.sheet.row_at(index)
        if isinstance(row, Parameter):
            self._copy_values(source, target, row.label, [row])
        elif row is None and index.internalId() == 0:
            self.copy_group(source, target, index.row())

    def copy_group(self, source: str, target: str, place: int) -> None:
        """Put all values of a group of one tune into another."""
        group = self.sheet.groups[place]
        self._copy_values(source, target, group.title, [row for row in group.rows if isinstance(row, Parameter)])

    def _copy_values(self, source: str, target: str, what: str, parameters: list[Parameter]) -> None:
        done = self.session.alter(
            f"{what} of {source} to {target}",
            lambda study: editing.with_copied_values(study, source, target, parameters),
        )
        if done:
            self.hovered.emit(f"{what} of {source} copied to {target}.")

    # Several cells at once, and cells as text

    @property
    def _tick_rate(self) -> float:
        return self.session.study.clock.tick_rate

    def _chosen(self) -> list[tuple[Tune, Parameter]]:
        """The parameter cells that are selected, and the current one."""
        indexes = sorted(
            {*self.selectedIndexes(), self.currentIndex()},
            key=lambda index: (index.internalId(), index.row(), index.column()),
        )
        return [found for index in indexes if (found := self._parameter_cell(index)) is not None]

    def commitData(self, editor: QWidget) -> None:
        """Qt also calls it for a line that has been taken away meanwhile, with its row or as another one was opened."""
        if not editor.isHidden():
            super().commitData(editor)

    def type_into(self, index: Index, text: str) -> None:
        """What was typed into a cell goes to all that are chosen with it; a figure that was read off becomes a wish."""
        row, tune = self.sheet.row_at(index), self.sheet.tune_at(index)
        if row is None or tune is None:
            return
        try:
            if isinstance(row, Measure):
                self.session.wish(tune, row.id, wish_from_text(row, text))
                return
            value = value_from_text(row, text, self._tick_rate)
        except ValueError as error:
            self.session.refused.emit(str(error))
            return
        cells = [cell for cell in self._chosen() if cell[1] is row]
        if len(cells) <= 1:
            self.session.set_value(tune, row, value)
        else:
            self.session.set_values(
                f"{row.label} of {len(cells)} tunes", [(each.name, row, value) for each, _ in cells]
            )

    def choose_row(self) -> None:
        """Select the current row in every tune."""
        index = self.currentIndex()
        if self._parameter_cell(index):
            last = FIRST_TUNE + len(self.sheet.tunes) - 1
            selection = QItemSelection(index.siblingAtColumn(FIRST_TUNE), index.siblingAtColumn(last))
            self.selectionModel().select(selection, QItemSelectionModel.SelectionFlag.ClearAndSelect)
            self.hovered.emit("Chosen in every tune: what you type now goes to all of them.")

    def copy(self) -> None:
        """The chosen cells as text: rows are lines, tunes are separated by tabs."""
        indexes = [
            index
            for index in {*self.selectedIndexes(), self.currentIndex()}
            if self.sheet.row_at(index) and index.column() >= FIRST_TUNE
        ]
        rows = sorted({(index.internalId(), index.row()) for index in indexes})
        columns = sorted({index.column() for index in indexes})
        texts = {
            (index.internalId(), index.row(), index.column()): str(index.data(Qt.ItemDataRole.EditRole))
            for index in indexes
        }
        lines = ["\t".join(texts.get((*row, column), "") for column in columns) for row in rows]
        QGuiApplication.clipboard().setText("\n".join(lines))
        self.hovered.emit(f"Copied {len(indexes)} cell{'s' if len(indexes) != 1 else ''}.")

    def paste(self) -> None:
        """Text with tabs goes from the current cell to the right and down; one value goes to all chosen cells."""
        lines = [line.split("\t") for line in QGuiApplication.clipboard().text().strip("\n").split("\n")]
        try:
            changes = self._pasted(lines)
        except ValueError as error:
            self.session.refused.emit(f"{error} Nothing was pasted.")
            return
        if changes and self.session.set_values(
            f"Paste {len(changes)} value{'s' if len(changes) != 1 else ''}", changes
        ):
            self.hovered.emit(f"Pasted {len(changes)} value{'s' if len(changes) != 1 else ''}.")

    def _pasted(self, lines: list[list[str]]) -> list[tuple[str, Parameter, Value]]:
        if len(lines) == 1 and len(lines[0]) == 1:
            return [
                (tune.name, parameter, value_from_text(parameter, lines[0][0], self._tick_rate))
                for tune, parameter in self._chosen()
            ]
        index = self.currentIndex()
        changes = []
        for line in lines:
            for number, text in enumerate(line):
                cell = index.siblingAtColumn(index.column() + number)
                found = self._parameter_cell(cell) if cell.isValid() else None
                if text.strip() and found is None:
                    raise ValueError(f"There is no cell that takes “{text}”.")
                if text.strip() and found is not None:
                    changes.append((found[0].name, found[1], value_from_text(found[1], text, self._tick_rate)))
            index = (
                self.indexBelow(index).siblingAtColumn(index.column())
                if self.indexBelow(index).isValid()
                else QModelIndex()
            )
        return changes

    # Drag, wheel, double click, keys

    def _parameter_cell(self, index: QModelIndex) -> tuple[Tune, Parameter] | None:
        row, tune = self.sheet.row_at(index), self.sheet.tune_at(index)
        if isinstance(row, Parameter) and tune is not None and self.sheet.flags(index) & Qt.ItemFlag.ItemIsEditable:
            return tune, row
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        index = self.indexAt(event.position().toPoint())
        if index.isValid() and self.sheet.row_at(index) is None:
            self.setExpanded(index.siblingAtColumn(0), not self.isExpanded(index.siblingAtColumn(0)))
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
        if found and event.button() == Qt.MouseButton.LeftButton:
            tune, parameter = found
            if parameter.kind in ("number", "whole"):
                self._drag = (tune, parameter, float(tune.get(parameter.id)), round(event.position().x()))
                self._dragging = False

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        index = self.indexAt(event.position().toPoint())
        row = self.sheet.row_at(index)
        self.hovered.emit(explanation(row) if row is not None else "")
        self.session.light(self._lit_by(index))
        found = self._parameter_cell(index)
        self.setCursor(
            Qt.CursorShape.SizeHorCursor
            if found and found[1].kind in ("number", "whole")
            else Qt.CursorShape.ArrowCursor
        )
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

    def _lit_by(self, index: Index) -> tuple[str, str] | None:
        """The tune and the figure of a cell."""
        row, tune = self.sheet.row_at(index), self.sheet.tune_at(index)
        return None if row is None or tune is None or self.sheet.reading_at(index) is None else (tune.name, row.id)

    def _go_to_figure(self, index: Index) -> bool:
        """Ask for the frames of a figure; whether there is one."""
        reading, tune = self.sheet.reading_at(index), self.sheet.tune_at(index)
        if reading is None or tune is None:
            return False
        self.figure_chosen.emit(tune.name, *reading.rows)
        return True

    def leaveEvent(self, event: QEvent) -> None:
        super().leaveEvent(event)
        self.session.light(None)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        drag, dragging = self._drag, self._dragging
        self._drag, self._dragging = None, False
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
        """Turn a switch, or open the list of a choice."""
        if parameter.kind == "switch":
            self.session.set_value(tune, parameter, not tune.get(parameter.id))
        elif parameter.kind == "choice":
            popup = ChoicePopup(self.session, tune, parameter, self.look, self)
            popup.open_at(self.viewport().mapToGlobal(self.visualRect(index).bottomLeft()))

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        found = self._parameter_cell(self.indexAt(event.position().toPoint()))
        if found and found[1].kind in ("number", "whole"):
            self.to_default(*found)
        elif isinstance(
            self.sheet.row_at(index := self.indexAt(event.position().toPoint())), Measure
        ) and self._can_edit(index):
            self.edit(index)

    def to_default(self, tune: Tune, parameter: Parameter) -> None:
        self._drag = None
        self.session.set_value(self.session.study.tune(tune.name), parameter, parameter.default)

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
        """One entry of the undo list for a run of notches on the same cell."""
        if parameter.kind == "whole" and abs(steps) < 1:
            steps = 1 if steps > 0 else -1
        value = dragged(parameter, float(tune.get(parameter.id)), steps)
        self.session.set_value(tune, parameter, value, joins=True)

    def event(self, event: QEvent) -> bool:
        # Digits type into the current cell; elsewhere they show and hide tunes.
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            plain = not event.modifiers() & ~(Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.KeypadModifier)
            types = plain and bool(event.text()) and event.text() in "0123456789.,+-"
            if self._can_edit(self.currentIndex()) and (types or event.key() == Qt.Key.Key_Delete):
                event.accept()
                return True
        return super().event(event)

    def _can_edit(self, index: QModelIndex) -> bool:
        """Whether a line to type into can be opened here now: not while one is open."""
        free = index.isValid() and self.state() != QAbstractItemView.State.EditingState
        return free and bool(self.sheet.flags(index) & Qt.ItemFlag.ItemIsEditable)

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
            self.setExpanded(index.siblingAtColumn(0), not self.isExpanded(index.siblingAtColumn(0)))
        elif (
            found
            and event.modifiers() & Qt.KeyboardModifier.AltModifier
            and event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down)
        ):
            if found[1].kind in ("number", "whole"):
                self._nudge(*found, (1 if event.key() == Qt.Key.Key_Up else -1) * _scale(event.modifiers()))
        elif found and event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self._all_to_default()
        elif found and enter and found[1].kind in ("switch", "choice"):
            self._pick(index, *found)
        elif (
            enter
            and (event.modifiers() & Qt.KeyboardModifier.ControlModifier or not self._can_edit(index))
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

    def _copy_group_here(self) -> bool:
        """Copy the current group from the reference into the current tune."""
        index, tune, reference = self.currentIndex(), self.current_tune(), self.session.reference
        if not index.isValid() or tune is None or reference is None or tune is reference or self.sheet.figures:
            return False
        place = index.internalId() - 1 if index.internalId() else index.row()
        self.copy_group(reference.name, tune.name, place)
        return True

    def _all_to_default(self) -> None:
        cells = self._chosen()
        words = (
            f"{cells[0][1].label} of {cells[0][0].name}"
            if len(cells) == 1
            else f"{len(cells)} values to their defaults"
        )
        self.session.set_values(words, [(tune.name, parameter, parameter.default) for tune, parameter in cells])

    def moveCursor(self, action: QAbstractItemView.CursorAction, modifiers: Qt.KeyboardModifier) -> QModelIndex:
        """Tab goes from tune to tune in a row, then to the next row."""
        index = self.currentIndex()
        last = FIRST_TUNE + len(self.sheet.tunes) - 1
        if action == QAbstractItemView.CursorAction.MoveNext and FIRST_TUNE - 1 < index.column() < last:
            return index.siblingAtColumn(index.column() + 1)
        if action == QAbstractItemView.CursorAction.MovePrevious and index.column() > FIRST_TUNE:
            return index.siblingAtColumn(index.column() - 1)
        return super().moveCursor(action, modifiers)


def _scale(modifiers: Qt.KeyboardModifier) -> float:
    if modifiers & Qt.KeyboardModifier.ShiftModifier:
        return FINE
    return COARSE if modifiers & Qt.KeyboardModifier.ControlModifier else 1.0


class Sheet(QFrame):
    """Title, search, the table, and a foot that explains what is under the mouse or what was refused."""

    def __init__(self, session: Session, palette: look.Palette) -> None:
        super().__init__()
        look.on_sheet(self)
        self.session = session
        self.view = SheetView(session, palette)
        self.figures = SheetView(session, palette, figures=True)
        self.figures.setHeaderHidden(True)
        self.figures.setAccessibleName("Figures read off the traces")
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find a number…")
        self.search.setFont(look.font(9))
        self.search.setAccessibleName("Find a number")
        self.search.setClearButtonEnabled(True)
        self.search.setToolTip("Find a number by its name or its group")
        self.search.setMinimumWidth(look.width("Find…", 9) + look.px(30))
        self.differing = QCheckBox("differing only")
        self.differing.setFont(look.font(9))
        self.foot = WrappedLabel(HINT, 3)
        self.foot.setObjectName("soft")
        self.foot.setFont(look.font(8))
        bar = QHBoxLayout()
        bar.setContentsMargins(14, 0, 12, 6)
        bar.addWidget(self.search, 1)
        bar.addWidget(self.differing)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 8, 0, 0)
        layout.setSpacing(4)
        layout.addLayout(bar)
        halves = QSplitter(Qt.Orientation.Vertical)
        halves.setHandleWidth(1)
        halves.addWidget(self.view)
        halves.addWidget(self.figures)
        for view in (self.view, self.figures):
            view.setMinimumHeight(3 * look.height(9))
            view.setMinimumWidth(look.px(120))
        halves.setSizes([430, 200])
        halves.setStretchFactor(0, 1)
        layout.addWidget(halves, 1)
        foot = QHBoxLayout()
        foot.setContentsMargins(14, 0, 12, 4)
        foot.addWidget(self.foot)
        layout.addLayout(foot)
        self.search.textChanged.connect(self._filter)
        self.differing.toggled.connect(self._filter)
        for view in (self.view, self.figures):
            view.hovered.connect(self.explain)
            session.figures_changed.connect(view.sheet.refresh)
            session.drill_changed.connect(view.sheet.rebuild)
            session.shown_changed.connect(view.fit_columns)
        # The two tables have the same columns: they move sideways together.
        across, below = self.view.horizontalScrollBar(), self.figures.horizontalScrollBar()
        across.valueChanged.connect(below.setValue)
        below.valueChanged.connect(across.setValue)
        self.figures.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        session.shown_changed.connect(self.view.tune_header.viewport().update)
        session.reference_changed.connect(self._hold_against_another)
        session.loaded.connect(self._begin_anew)
        session.refused.connect(self.refuse)
        session.told.connect(self.explain)

    def _hold_against_another(self) -> None:
        for view in (self.view, self.figures):
            view.sheet.rebuild()
        self.view.tune_header.viewport().update()

    @property
    def wanted_width(self) -> int:
        """Wide enough for every tune that is shown."""
        tunes = [tune for _, tune in self.session.tunes if not self.session.is_hidden(tune)]
        hidden = len(self.session.tunes) - len(tunes)
        tune = max(tune_width(USUAL_VALUE), tight_width()) if len(tunes) < 5 else tune_width(NARROW_VALUE)
        return label_width() + unit_width() + max(2, len(tunes)) * tune + hidden * hidden_width() + look.px(14)

    def _begin_anew(self) -> None:
        """Another study: nothing is searched for, every row is there, and nothing was said of it yet."""
        self.search.clear()
        self.differing.setChecked(False)
        self.explain("")

    def _filter(self) -> None:
        for view in (self.view, self.figures):
            view.sheet.filter(self.search.text(), self.differing.isChecked())

    def explain(self, text: str) -> None:
        self._say(text or HINT, "soft")

    def refuse(self, text: str) -> None:
        self._say(text, "warning")
        rect = self.view.visualRect(self.view.currentIndex())
        if rect.isValid():
            QToolTip.showText(self.view.viewport().mapToGlobal(rect.bottomLeft()), plain_tip(text), self.view)

    def _say(self, text: str, kind: str) -> None:
        self.foot.setText(text)
        if self.foot.objectName() != kind:
            self.foot.setObjectName(kind)
            self.foot.style().unpolish(self.foot)
            self.foot.style().polish(self.foot)

    def set_look(self, palette: look.Palette) -> None:
        for view in (self.view, self.figures):
            view.look = view.cell_delegate.look = view.tune_header.look = palette
            view.viewport().update()
            view.tune_header.viewport().update()
