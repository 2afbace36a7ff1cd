"""Importing a game log: its layout is guessed, shown, corrected by the user, and the curve overlaid."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QCheckBox,
    QDialogButtonBox,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.dialogs.base import Dialog
from cinetica.desk.state.session import Session
from cinetica.desk.widgets import Chooser, NumberBox, PlainLabel, plain_tip
from cinetica.files.game_csv import DELIMITERS, ROLES, Layout, from_start, guess, logged, rows_of, with_likely_units
from cinetica.files.proof import check_log
from cinetica.files.reading import Refused
from cinetica.model.conventions import Conventions
from cinetica.model.editing import with_log
from cinetica.model.milestone import Logged
from cinetica.model.text import visible

SHOWN_ROWS = 8
ROLE_WORDS = {"frame": "frame", "time": "time (s)", "x": "x", "y": "y", "vx": "velocity x", "vy": "velocity y"}


def _understood(session: Session, text: str) -> Layout:
    """The likely layout. Refused if it is not a log."""
    layout, reference = guess(text, session.study.conventions), session.reference_shown
    if reference is not None and session.study.conventions == Conventions():
        # The person has not said what the game's numbers are: they are as large as ours in one scale.
        layout = with_likely_units(text, layout, reference.trace["x"], reference.trace["y"])
    return layout if session.drill is None else from_start(text, layout, session.drill.start)


class ImportLog(Dialog):
    """The first rows of the file with a choice above each column, units beside them, and the result at once."""

    def __init__(self, session: Session, path: Path, text: str, window: QWidget) -> None:
        # Refused, if it is: before there is a dialog, which would stay.
        self.layout_now = _understood(session, text)
        super().__init__(f"A curve from the game: {path.name}", window)
        self.session, self._text = session, text
        self.log: Logged | None = None
        self._filling = False
        self.name = QLineEdit(visible(path.stem))
        self.name.setMaxLength(100)
        self.reference = Chooser()
        drill = session.drill
        self.reference.addItems([tune.name for _, tune in session.tunes])
        self.drill_name = drill.name if drill else ""
        names = [tune.name for _, tune in session.tunes]
        self.close_without(session, tunes=names, drills=[self.drill_name] if drill else ())
        self.table = QTableWidget()
        self.table.setAccessibleName("First rows of the log")
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.delimiter = Chooser()
        for character, word in DELIMITERS.items():
            self.delimiter.addItem(word, character)
        self.comma, self.header = QCheckBox("decimal comma"), QCheckBox("the first row has names")
        self.y_down, self.per_frame = QCheckBox("y points down"), QCheckBox("velocities count per frame")
        self.pixels, self.rate = self._spin(1e-6, 1e6), self._spin(1, 10000)
        self.offset_x, self.offset_y = self._spin(-1e7, 1e7), self._spin(-1e7, 1e7)
        self.said = PlainLabel()
        self.said.setWordWrap(True)
        self.verdict = PlainLabel()
        self.verdict.setWordWrap(True)
        self._lay_out()
        self._fill()
        self.fit(120, 40)

    def _spin(self, low: float, high: float) -> NumberBox:
        spin = NumberBox()
        spin.setDecimals(4)
        spin.setRange(low, high)
        spin.setKeyboardTracking(False)
        spin.valueChanged.connect(self._take)
        return spin

    def _lay_out(self) -> None:
        left, right = QFormLayout(), QFormLayout()
        left.addRow("Name of the curve", self.name)
        left.addRow("Logged on", PlainLabel(self.drill_name))
        left.addRow("Compare with", self.reference)
        left.addRow("Columns are cut by", self.delimiter)
        left.addRow("", self.comma)
        left.addRow("", self.header)
        right.addRow("Pixels in a unit", self.pixels)
        right.addRow("Frames per second", self.rate)
        right.addRow("", self.y_down)
        right.addRow("", self.per_frame)
        right.addRow("x of the start, as logged", self.offset_x)
        right.addRow("y of the start, as logged", self.offset_y)
        for box in (self.comma, self.header, self.y_down, self.per_frame):
            box.toggled.connect(self._take)
        self.delimiter.currentIndexChanged.connect(self._new_delimiter)
        self.reference.currentIndexChanged.connect(self._try)
        halves = QHBoxLayout()
        halves.addLayout(left, 1)
        halves.addSpacing(24)
        halves.addLayout(right, 1)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        self.accept_button = buttons.addButton("Import", QDialogButtonBox.ButtonRole.AcceptRole)
        self.accept_button.setDefault(True)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        about = PlainLabel(
            "This is how the log was understood. Correct what is wrong: what each column is, and the units."
        )
        about.setObjectName("soft")
        about.setWordWrap(True)
        column.addWidget(about)
        column.addWidget(self.table, 1)
        column.addLayout(halves)
        column.addWidget(self.said)
        column.addWidget(self.verdict)
        column.addWidget(buttons)

    # What is shown and what is taken

    def _fill(self) -> None:
        self._filling = True
        layout = self.layout_now
        self.delimiter.setCurrentIndex(self.delimiter.findData(layout.delimiter))
        self.comma.setChecked(layout.decimal_comma)
        self.header.setChecked(layout.header)
        self.y_down.setChecked(layout.y_down)
        self.per_frame.setChecked(layout.per_frame)
        self.pixels.setValue(layout.pixels_per_unit)
        self.rate.setValue(layout.rate)
        self.offset_x.setValue(layout.offset[0])
        self.offset_y.setValue(layout.offset[1])
        self._fill_table()
        self._filling = False
        self._try()

    def _fill_table(self) -> None:
        rows = rows_of(self._text, self.layout_now.delimiter, SHOWN_ROWS)
        width = max(map(len, rows))
        self.table.clear()
        self.table.setRowCount(len(rows) + 1)
        self.table.setColumnCount(width)
        self.table.horizontalHeader().hide()
        self.table.setVerticalHeaderLabels(["is", *map(str, range(1, len(rows) + 1))])
        roles = {place: role for role, place in self.layout_now.columns.items()}
        for column in range(width):
            chooser = Chooser()
            chooser.setAccessibleName(f"What column {column + 1} is")
            chooser.addItem("not used", None)
            for role in ROLES:
                chooser.addItem(ROLE_WORDS[role], role)
            chooser.setCurrentIndex(chooser.findData(roles.get(column)))
            chooser.currentIndexChanged.connect(
                lambda _, column=column, chooser=chooser: self.set_role(column, chooser.currentData())
            )
            self.table.setCellWidget(0, column, chooser)
            self.table.setColumnWidth(column, max(look.width(word) for word in ROLE_WORDS.values()) + look.px(48))
            self.table.setRowHeight(0, chooser.sizeHint().height() + 2)
        for number, row in enumerate(rows, 1):
            for column, cell in enumerate(row):
                item = QTableWidgetItem(visible(cell[:40]))
                item.setToolTip(plain_tip(cell[:200]))
                item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                self.table.setItem(number, column, item)

    def set_role(self, column: int, role: str | None) -> None:
        """Set what a column is."""
        if self._filling:
            return
        layout = self.layout_now
        if role is None:
            columns = {other: at for other, at in layout.columns.items() if at != column}
            self.layout_now = replace(layout, columns=columns)
        else:
            self.layout_now = layout.with_column(role, column)
        self._fill()

    def _new_delimiter(self) -> None:
        if not self._filling:
            self.layout_now = replace(self.layout_now, delimiter=self.delimiter.currentData(), columns={})
            self._fill()

    def _take(self, *_: object) -> None:
        if self._filling:
            return
        self.layout_now = replace(
            self.layout_now, decimal_comma=self.comma.isChecked(), header=self.header.isChecked(),
            y_down=self.y_down.isChecked(),
            per_frame=self.per_frame.isChecked(), pixels_per_unit=self.pixels.value(), rate=self.rate.value(),
            offset=(self.offset_x.value(), self.offset_y.value()),
        )  # fmt: skip
        self._try()

    def _try(self, *_: object) -> None:
        """Read the log with the current layout, and show the result or what is wrong."""
        if self._filling:
            return
        self.log, self.verdict_words = None, ""
        try:
            self.log = logged(self._text, self.layout_now, self.name.text().strip() or "Log", self.drill_name)
            self.said.setText(_about(self.log))
            self._hold_against()
        except Refused as refused:
            self.said.setText("\n".join(refused.faults[:4]))
            self.verdict.setText("")
        except ValueError as error:
            self.said.setText(str(error))
        self.said.setObjectName("" if self.log else "warning")
        self.said.style().polish(self.said)
        self.accept_button.setEnabled(self.log is not None)

    def _hold_against(self) -> None:
        tune = next((tune for _, tune in self.session.tunes if tune.name == self.reference.currentText()), None)
        drill, layout = self.session.drill, self.layout_now
        self.verdict.setText("")
        if tune is None or drill is None:
            return
        tolerance = 0.5 if layout.pixels_per_unit != 1 else 0.02
        study = self.session.study
        per = type(study.conventions.per)
        conventions = study.conventions.model_copy(update={
            "pixels_per_unit": layout.pixels_per_unit, "y_down": layout.y_down, "rate": layout.rate,
            "per": per.FRAME if layout.per_frame else per.SECOND,
        })  # fmt: skip
        checked = check_log(
            study.model_copy(update={"conventions": conventions}), tune, drill, self._text, layout, tolerance
        )
        self.verdict_words = checked.lines[0]
        self.verdict.setText("\n".join(checked.lines))

    @override
    def accept(self) -> None:
        if self.log is None:
            return
        note = f"{self.verdict_words} {_derived_words(self.log)}".strip()
        log = self.log.model_copy(update={"name": self.name.text().strip() or "Log", "note": note})
        if self.session.alter(f"Curve {log.name}", lambda study: with_log(study, log)):
            if note:
                self.session.told.emit(note)
            super().accept()


def _about(log: Logged) -> str:
    seconds = log.time[-1] - log.time[0]
    words = f" {_derived_words(log)}" if log.derived else ""
    return (
        f"{len(log.time)} rows over {seconds:.3f} s; x from {min(log.x):.2f} to {max(log.x):.2f} u, y from"
        f" {min(log.y):.2f} to {max(log.y):.2f} u.{words}"
    )


def _derived_words(log: Logged) -> str:
    derived = [ROLE_WORDS[each] for each in log.derived]
    return f"Derived, since not logged: {', '.join(derived)}." if derived else ""
