"""The sheet: parameters down, tunes across. A cell is dragged, wheeled, typed, or double-clicked to its default."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QModelIndex, QPersistentModelIndex, QPoint, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF, QRegion, QWheelEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QCheckBox,
    QFrame,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QLineEdit,
    QSplitter,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QToolTip,
    QTreeView,
    QVBoxLayout,
    QWidget,
)

from cinetica.desk import look
from cinetica.desk.cells import COARSE, FINE, dragged, number_text, share_of_comfort
from cinetica.desk.choices import ChoicePopup
from cinetica.desk.session import Session
from cinetica.desk.sheet_model import FIRST_TUNE, LABEL, UNIT, SheetModel, explanation
from cinetica.model.parameters import Parameter
from cinetica.model.tune import Tune
from cinetica.reading.measures import Measure

Index = QModelIndex | QPersistentModelIndex
FOLDED_AT_FIRST = {"Hands", "Climb", "Contact", "Facing", "Stepping"}
ROW_HEIGHT = 24
LABEL_WIDTH, UNIT_WIDTH, TUNE_WIDTH, HIDDEN_WIDTH = 136, 42, 66, 20
HINT = "Drag a number sideways, or type. Double-click: default. Shift is fine, Ctrl coarse."


class TuneHeader(QHeaderView):
    """Letter, name and line of each tune: the key to every curve. A click shows or hides it."""

    clicked = Signal(int)

    def __init__(self, model: SheetModel, palette: look.Palette) -> None:
        super().__init__(Qt.Orientation.Horizontal)
        self._model, self.look = model, palette
        self.setSectionsClickable(True)
        self.setFixedHeight(34)
        self.setMinimumSectionSize(HIDDEN_WIDTH)
        self.sectionClicked.connect(self._click)

    def _click(self, section: int) -> None:
        if section >= FIRST_TUNE:
            self.clicked.emit(section - FIRST_TUNE)

    def paintSection(self, painter: QPainter, rect: QRect, section: int) -> None:
        painter.fillRect(rect, QColor(self.look.sheet))
        if section < FIRST_TUNE:
            return
        place, tune = self._model.tunes[section - FIRST_TUNE]
        hidden = self._model.session.is_hidden(tune)
        painter.setPen(QColor(self.look.soft) if hidden else look.ink(self.look, place))
        painter.setFont(look.font(11, bold=True))
        painter.drawText(rect.adjusted(4 if hidden else 6, 0, 0, -6), Qt.AlignmentFlag.AlignVCenter, look.letter(place))
        if hidden:
            return
        painter.setPen(QColor(self.look.ink))
        painter.setFont(look.font(9))
        name = tune.name
        name = painter.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight, rect.width() - 24)
        painter.drawText(rect.adjusted(21, 0, 0, -6), Qt.AlignmentFlag.AlignVCenter, name)
        painter.setPen(look.ink_pen(self.look, place, 2.5))
        painter.drawLine(rect.left() + 5, rect.bottom() - 5, rect.right() - 3, rect.bottom() - 5)


class CellDelegate(QStyledItemDelegate):
    """Paints a cell: its value, where it stands in its comfortable range, and an arrow where it differs."""

    def __init__(self, model: SheetModel, palette: look.Palette) -> None:
        super().__init__()
        self._model, self.look = model, palette

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(40, ROW_HEIGHT)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        rect: QRect = option.rect
        # A row is painted whole wherever one of its cells has changed; most of it need not be.
        if index.column() != LABEL and not self.parent_view().exposed.intersects(rect):
            return
        row = self._model.row_at(index)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if row is None:
            if index.column() == LABEL:
                self._paint_group(painter, rect, index)
        elif index.column() == LABEL:
            painter.setFont(look.font(9))
            painter.setPen(QColor(self.look.ink))
            text = painter.fontMetrics().elidedText(row.label, Qt.TextElideMode.ElideRight, rect.width() - 26)
            painter.drawText(rect.adjusted(26, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, text)
        elif index.column() == UNIT:
            painter.setFont(look.font(8))
            painter.setPen(QColor(self.look.soft))
            painter.drawText(rect.adjusted(0, 0, -4, 0), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, row.unit)
        else:
            current = self.parent_view().currentIndex() == index
            self._paint_value(painter, rect, row, index.column() - FIRST_TUNE, current)
        painter.restore()

    def parent_view(self) -> SheetView:
        view = self.parent()
        assert isinstance(view, SheetView)
        return view

    def _paint_group(self, painter: QPainter, rect: QRect, index: Index) -> None:
        group = self._model.groups[index.row()]
        view = self.parent_view()
        open_ = view.isExpanded(self._model.index(index.row(), 0))
        x, y = rect.left() + 12, rect.center().y() + 2
        points = [QPoint(x - 4, y - 3), QPoint(x + 4, y - 3), QPoint(x, y + 3)] if open_ else [QPoint(x - 3, y - 4), QPoint(x + 3, y), QPoint(x - 3, y + 4)]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(self.look.accent))
        painter.drawPolygon(QPolygonF(points))
        painter.setPen(QColor(self.look.accent))
        painter.setFont(look.font(9, bold=True))
        wide = QRect(rect.left() + 24, rect.top() + 3, view.viewport().width() - 24, rect.height())
        painter.drawText(wide, Qt.AlignmentFlag.AlignVCenter, group.title)
        if not open_:
            differing = sum(any(self._model.differs(row, column) for column in range(1, len(self._model.tunes))) for row in group.rows)
            folded = f"{len(group.rows)} folded" + (f", {differing} differ" if differing else "")
            painter.setFont(look.font(8))
            painter.setPen(QColor(self.look.soft))
            painter.drawText(wide.adjusted(0, 0, -10, 0), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, folded)

    def _paint_value(self, painter: QPainter, rect: QRect, row: Parameter | Measure, column: int, current: bool) -> None:
        place, tune = self._model.tunes[column]
        if self._model.session.is_hidden(tune):
            return
        cell = rect.adjusted(4, 1, -2, -1)
        differs = self._model.differs(row, column)
        if differs and isinstance(row, Parameter):
            painter.fillRect(cell, QColor(self.look.differs))
        value = self._model.value(row, column)
        painter.setFont(look.font(9))
        painter.setPen(QColor(self.look.soft if value is None or isinstance(row, Measure) else self.look.ink))
        text = self._model.text(row, column)
        flags = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        text = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, cell.width() - 16)
        painter.drawText(cell.adjusted(2, 0, -14, -1), flags, text)
        if differs:
            self._paint_arrow(painter, cell, differs)
        if isinstance(row, Parameter) and row.kind in ("number", "whole") and value is not None:
            share = share_of_comfort(row, float(value))
            y = cell.bottom()
            painter.setPen(QPen(QColor(self.look.grid), 2))
            painter.drawLine(cell.left() + 2, y, cell.right() - 12, y)
            painter.setPen(QPen(look.ink(self.look, place), 2))
            painter.drawLine(cell.left() + 2, y, cell.left() + 2 + round(share * (cell.width() - 15)), y)
        if current:
            painter.setPen(QPen(QColor(self.look.accent), 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(cell).adjusted(0.5, 0, 0, 0.5), 3, 3)

    def _paint_arrow(self, painter: QPainter, cell: QRect, direction: int) -> None:
        x, y = cell.right() - 6, cell.center().y()
        tip = y - 4 if direction > 0 else y + 4
        base = y + 2 if direction > 0 else y - 2
        painter.setBrush(QColor(self.look.warning))
        pen = painter.pen()
        painter.setPen(Qt.PenStyle.NoPen)
        painter.drawPolygon(QPolygonF([QPoint(x - 4, base), QPoint(x + 4, base), QPoint(x, tip)]))
        painter.setPen(pen)

    def createEditor(self, parent: QWidget, option: QStyleOptionViewItem, index: Index) -> QWidget:
        editor = QLineEdit(parent)
        editor.setAlignment(Qt.AlignmentFlag.AlignRight)
        editor.setFont(look.font(9))
        editor.setStyleSheet("padding: 0 2px;")
        editor.setAccessibleName(str(index.data(Qt.ItemDataRole.AccessibleTextRole)))
        return editor

    def setEditorData(self, editor: QWidget, index: Index) -> None:
        assert isinstance(editor, QLineEdit)
        editor.setText(str(index.data(Qt.ItemDataRole.EditRole)))
        editor.selectAll()

    def setModelData(self, editor: QWidget, model: object, index: Index) -> None:
        assert isinstance(editor, QLineEdit)
        if editor.text() != str(index.data(Qt.ItemDataRole.EditRole)):
            self._model.put_text(index, editor.text())

    def updateEditorGeometry(self, editor: QWidget, option: QStyleOptionViewItem, index: Index) -> None:
        editor.setGeometry(option.rect.adjusted(4, 0, -2, 0))


class SheetView(QTreeView):
    """The table itself, with the drags."""

    hovered = Signal(str)

    def __init__(self, session: Session, palette: look.Palette, *, figures: bool = False) -> None:
        super().__init__()
        self.session, self.look = session, palette
        self.sheet = SheetModel(session, self, figures=figures)
        self._folded = set(FOLDED_AT_FIRST)
        self._drag: tuple[Tune, Parameter, float, int] | None = None
        self._dragging = False
        self.exposed = QRegion()
        self.setModel(self.sheet)
        self.cell_delegate = CellDelegate(self.sheet, palette)
        self.cell_delegate.setParent(self)
        self.setItemDelegate(self.cell_delegate)
        self.tune_header = TuneHeader(self.sheet, palette)
        self.tune_header.clicked.connect(lambda column: session.toggle(self.sheet.tunes[column][1]))
        self.setHeader(self.tune_header)
        self.setFrameShape(self.Shape.NoFrame)
        look.on_sheet(self.viewport())
        self.setIndentation(0)
        self.setRootIsDecorated(False)
        self.setUniformRowHeights(True)
        self.setMouseTracking(True)
        self.setExpandsOnDoubleClick(False)
        self.setItemsExpandable(True)
        self.setSelectionMode(QAbstractItemView.SelectionMode.NoSelection)
        # Always there, so that the columns of the two tables stay one under the other.
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setEditTriggers(QAbstractItemView.EditTrigger.EditKeyPressed | QAbstractItemView.EditTrigger.AnyKeyPressed)
        self.setAccessibleName("Sheet of tunes")
        self.sheet.modelAboutToBeReset.connect(self._remember)
        self.sheet.modelReset.connect(self._restore)
        self.expanded.connect(lambda index: self._folded.discard(str(index.data())))
        self.collapsed.connect(lambda index: self._folded.add(str(index.data())))
        self._restore()

    # Rows stay folded, and the cell stays current, when the model is rebuilt

    def _remember(self) -> None:
        row, tune = self.sheet.row_at(self.currentIndex()), self.sheet.tune_at(self.currentIndex())
        self._current = (row.id, tune.name) if row and tune else None
        self._scrolled = self.verticalScrollBar().value()

    def _restore(self) -> None:
        searching = bool(self.sheet.wanted or self.sheet.differing_only)
        for row, group in enumerate(self.sheet.groups):
            index = self.sheet.index(row, 0)
            self.setFirstColumnSpanned(row, QModelIndex(), True)
            blocked = self.blockSignals(True)
            self.setExpanded(index, searching or group.title not in self._folded)
            self.blockSignals(blocked)
        for column, width in ((LABEL, LABEL_WIDTH), (UNIT, UNIT_WIDTH)):
            self.tune_header.resizeSection(column, width)
        self.fit_columns()
        if (current := getattr(self, "_current", None)) is not None:
            self.go_to(*current)
            self.verticalScrollBar().setValue(self._scrolled)

    def fit_columns(self) -> None:
        """Share the width among the tunes, but keep each wide enough to read; of a hidden one only the letter stays."""
        hidden = [self.session.is_hidden(tune) for _, tune in self.sheet.tunes]
        free = self.viewport().width() - LABEL_WIDTH - UNIT_WIDTH - 2 - HIDDEN_WIDTH * sum(hidden)
        wide = max(TUNE_WIDTH, min(150, free // max(1, len(hidden) - sum(hidden))))
        for column, is_hidden in enumerate(hidden):
            self.tune_header.resizeSection(FIRST_TUNE + column, HIDDEN_WIDTH if is_hidden else wide)

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
        if found and event.button() == Qt.MouseButton.LeftButton:
            tune, parameter = found
            if parameter.kind in ("number", "whole"):
                self._drag = (tune, parameter, float(tune.get(parameter.id)), round(event.position().x()))
                self._dragging = False

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        index = self.indexAt(event.position().toPoint())
        row = self.sheet.row_at(index)
        self.hovered.emit(explanation(row) if row is not None else "")
        found = self._parameter_cell(index)
        self.setCursor(Qt.CursorShape.SizeHorCursor if found and found[1].kind in ("number", "whole") else Qt.CursorShape.ArrowCursor)
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
            beyond = "" if low <= float(value) <= high else f" — past the comfortable {number_text(low)} to {number_text(high)}"
            self.hovered.emit(text + beyond)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        drag, dragging = self._drag, self._dragging
        self._drag, self._dragging = None, False
        if dragging:
            self.session.end()
            return
        super().mouseReleaseEvent(event)
        index = self.indexAt(event.position().toPoint())
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
            if plain and self._parameter_cell(self.currentIndex()) and event.text() and event.text() in "0123456789.,+-":
                event.accept()
                return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        index = self.currentIndex()
        found = self._parameter_cell(index)
        enter = event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if enter and index.isValid() and self.sheet.row_at(index) is None:
            self.setExpanded(index.siblingAtColumn(0), not self.isExpanded(index.siblingAtColumn(0)))
        elif found and event.modifiers() & Qt.KeyboardModifier.AltModifier and event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            if found[1].kind in ("number", "whole"):
                self._nudge(*found, (1 if event.key() == Qt.Key.Key_Up else -1) * _scale(event.modifiers()))
        elif found and event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.to_default(*found)
        elif found and enter and found[1].kind in ("switch", "choice"):
            self._pick(index, *found)
        elif found and enter:
            self.edit(index)
        elif event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown) or (found and event.text()):
            super().keyPressEvent(event)
        else:
            event.ignore()

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
        self.search.setAccessibleName("Find a number")
        self.search.setClearButtonEnabled(True)
        self.differing = QCheckBox("differing only")
        self.foot = QLabel(HINT)
        self.foot.setObjectName("soft")
        self.foot.setWordWrap(True)
        self.foot.setFont(look.font(8))
        self.foot.setFixedHeight(50)
        self.foot.setAlignment(Qt.AlignmentFlag.AlignVCenter)
        title = QLabel("Tunes")
        title.setFont(look.font(10, bold=True))
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
        session.refused.connect(self.refuse)

    @property
    def wanted_width(self) -> int:
        """Wide enough for every tune that is shown."""
        tunes = [tune for _, tune in self.session.tunes if not self.session.is_hidden(tune)]
        hidden = len(self.session.tunes) - len(tunes)
        return LABEL_WIDTH + UNIT_WIDTH + len(tunes) * (TUNE_WIDTH + 12) + hidden * HIDDEN_WIDTH + 12

    def _filter(self) -> None:
        for view in (self.view, self.figures):
            view.sheet.filter(self.search.text(), self.differing.isChecked())

    def explain(self, text: str) -> None:
        self._say(text or HINT, "soft")

    def refuse(self, text: str) -> None:
        self._say(text, "warning")
        rect = self.view.visualRect(self.view.currentIndex())
        if rect.isValid():
            QToolTip.showText(self.view.viewport().mapToGlobal(rect.bottomLeft()), text, self.view)

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


