"""The frame table: a row per tick, each tune's value of the chosen channels, and differences from the reference."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from typing import Any

from PySide6.QtCore import QAbstractTableModel, QEvent, QItemSelectionModel, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtGui import QColor, QGuiApplication, QKeyEvent, QKeySequence
from PySide6.QtWidgets import QAbstractItemView, QHBoxLayout, QMenu, QTableView, QVBoxLayout, QWidget
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.compare.overlay import Comparing
from cinetica.desk.state.session import Session
from cinetica.desk.state.tune_run import TuneRun
from cinetica.desk.widgets import OpensButton, ShortLabel
from cinetica.motion.records import STATES
from cinetica.motion.simulate import mark_names
from cinetica.reading.channels import BY_COLUMN, CHANNELS, Channel

Index = QModelIndex | QPersistentModelIndex
FIRST_COLUMNS = ("vx", "vy", "y")
WORDY = ("state", "marks")


class FrameModel(QAbstractTableModel):
    """Computes only the cells that are in view, however long the take."""

    def __init__(self, comparing: Comparing) -> None:
        super().__init__()
        self.comparing, self.session = comparing, comparing.session
        self.channels = [BY_COLUMN[column] for column in FIRST_COLUMNS]
        # For each column after frame and time: the channel, the tune, and whether it is the difference.
        self._columns: list[tuple[Channel, TuneRun, bool]] = []
        self._rows = 0

    def rebuild(self) -> None:
        """Show the current traces."""
        self.beginResetModel()
        reference = self.session.reference_shown
        self._rows = len(reference.trace) if reference else 0
        self._columns = []
        for channel in self.channels:
            for shown in self.session.shown:
                self._columns.append((channel, shown, False))
                if shown is not reference and channel.column not in WORDY:
                    self._columns.append((channel, shown, True))
        self.endResetModel()

    @override
    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else self._rows

    @override
    def columnCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else 2 + len(self._columns)

    def text(self, row: int, column: int, form: str = ".4f") -> str:
        """The text of a cell, with numbers in the given format."""
        reference = self.session.reference_shown
        if reference is None:
            return ""
        if column == 0:
            return str(row)
        if column == 1:
            return format(self.session.units.scale("s").shown(float(reference.trace["time"][row])), form)
        channel, shown, is_difference = self._columns[column - 2]
        at = row + self.comparing.shift(shown)
        if not 0 <= at < len(shown.trace):
            return ""
        value = shown.trace[channel.column][at]
        if channel.column == "state":
            return STATES[int(value)]
        if channel.column == "marks":
            return " + ".join(mark_names(int(value)))
        scale = self.session.units.column(channel.column)
        if is_difference:
            return format(scale.change(float(value) - float(reference.trace[channel.column][row])), form)
        return format(scale.shown(float(value)), form)

    @override
    def data(self, index: Index, role: int = 0) -> Any:
        if role == Qt.ItemDataRole.DisplayRole:
            return self.text(index.row(), index.column())
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        if role == Qt.ItemDataRole.ForegroundRole:
            if index.column() < 2 or self._columns[index.column() - 2][2]:
                return QColor(look.palette().soft)
        return None

    @override
    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> Any:
        if orientation != Qt.Orientation.Horizontal:
            return None
        if role == Qt.ItemDataRole.DisplayRole:
            return self.heading(section)
        if role == Qt.ItemDataRole.ForegroundRole and section >= 2:
            return look.ink(look.palette(), self._columns[section - 2][1].place)
        return None

    def heading(self, section: int) -> str:
        """The heading of a column."""
        if section < 2:
            return ("frame", f"time, {self.session.units.unit('s')}")[section]
        channel, shown, is_difference = self._columns[section - 2]
        unit = self.session.units.unit(channel.unit)
        unit = f", {unit}" if unit else ""
        letter = look.letter(shown.place)
        reference = self.session.reference_shown
        minus = f" − {look.letter(reference.place)}" if is_difference and reference else ""
        return f"{letter}{minus}\n{channel.short_label}{unit}"

    def lines(self, rows: list[int]) -> Iterator[str]:
        """Tab-separated text: a heading, then these rows."""
        columns = range(self.columnCount())
        yield "\t".join(self.heading(column).replace("\n", " ") for column in columns)
        for row in rows:
            yield "\t".join(self.text(row, column, ".12g") for column in columns)


class FrameTable(QWidget):
    """The table with its menu of channels. It follows the frame cursor and moves it."""

    def __init__(self, comparing: Comparing) -> None:
        super().__init__()
        look.on_paper(self)
        self.comparing = comparing
        self.session: Session = comparing.session
        self.model = FrameModel(comparing)
        self.view = QTableView()
        self._make_view()
        self.channels = OpensButton("Columns")
        self._lay_out()
        self.session.figures_changed.connect(self.refresh)
        self.session.units_changed.connect(self.refresh)
        self.session.cursor_moved.connect(self._follow)
        comparing.changed.connect(self.refresh)
        self.view.selectionModel().currentRowChanged.connect(self._lead)

    def _make_view(self) -> None:
        self.view.setModel(self.model)
        self.view.setAccessibleName("Frame table")
        self.view.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.view.setFrameShape(self.view.Shape.NoFrame)
        self.view.setShowGrid(False)
        self.view.setFont(look.font(9))
        self.view.verticalHeader().hide()
        self.view.verticalHeader().setDefaultSectionSize(look.height(9) + 4)
        self.view.horizontalHeader().setFont(look.font(8, bold=True))
        self.view.horizontalHeader().setDefaultSectionSize(look.width("Since ground, u/s²", 8, bold=True) + 14)
        self.view.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.view.installEventFilter(self)

    def _lay_out(self) -> None:
        self.channels.setObjectName("title")
        self.channels.setFont(look.font(9, bold=True))
        self.channels.setAccessibleName("Channels in the frame table")
        menu = QMenu(self.channels)
        for channel in CHANNELS:
            action = menu.addAction(channel.name)
            action.setCheckable(True)
            action.setChecked(channel in self.model.channels)
            action.toggled.connect(partial(self._show_channel, channel))
        self.channels.setMenu(menu)
        copy = QKeySequence(QKeySequence.StandardKey.Copy).toString(QKeySequence.SequenceFormat.NativeText)
        hint = ShortLabel(
            f"Click a row to move the frame cursor there. {copy} copies the selected rows, or all, as tab-separated"
            " text."
        )
        hint.setObjectName("soft")
        hint.setFont(look.font(8))
        bar = QHBoxLayout()
        bar.setContentsMargins(10, 2, 14, 2)
        bar.addWidget(self.channels)
        bar.addWidget(hint, 1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(bar)
        layout.addWidget(self.view)

    def _show_channel(self, channel: Channel, on: bool) -> None:
        chosen = {*self.model.channels, channel} if on else {*self.model.channels} - {channel}
        self.model.channels = [each for each in CHANNELS if each in chosen]
        self.refresh()

    def refresh(self) -> None:
        """Show the current traces, if visible."""
        if self.isVisible():
            self.model.rebuild()
            self._follow()

    @override
    def showEvent(self, event: object) -> None:
        super().showEvent(event)  # type: ignore[arg-type]
        self.refresh()

    def _follow(self, *_: object) -> None:
        if not self.isVisible() or self.view.currentIndex().row() == self.session.cursor:
            return
        index = self.model.index(self.session.cursor, max(0, self.view.currentIndex().column()))
        flags = QItemSelectionModel.SelectionFlag.ClearAndSelect | QItemSelectionModel.SelectionFlag.Rows
        self.view.selectionModel().setCurrentIndex(index, flags)

    def _lead(self, index: QModelIndex, _: QModelIndex) -> None:
        if index.isValid():
            self.session.set_cursor(index.row())

    @override
    def eventFilter(self, watched: Any, event: QEvent) -> bool:
        if (
            isinstance(event, QKeyEvent)
            and event.type() != QEvent.Type.KeyRelease
            and event.matches(QKeySequence.StandardKey.Copy)
        ):
            if event.type() == QEvent.Type.KeyPress:
                self.copy()
            event.accept()
            return True
        return bool(super().eventFilter(watched, event))

    def copy(self) -> None:
        """Copy the selected rows or, if only one is selected, all rows as tab-separated text."""
        selected = sorted({index.row() for index in self.view.selectionModel().selectedRows()})
        rows = selected if len(selected) > 1 else list(range(self.model.rowCount()))
        QGuiApplication.clipboard().setText("\n".join(self.model.lines(rows)) + "\n")
        self.session.message.emit(f"Copied {len(rows)} rows of the frame table.")
