"""Importing a game log: its layout is guessed, shown, corrected by the user, and the curve overlaid."""

from __future__ import annotations

import math
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
from cinetica.desk.dialogs.log_preview import LogPreview
from cinetica.desk.state.session import Session
from cinetica.desk.state.tune_run import TuneRun
from cinetica.desk.widgets import Chooser, NumberBox, PlainLabel, plain_tip, push_button
from cinetica.files.game_csv import (
    DELIMITERS,
    ROLES,
    TIME_UNITS,
    Found,
    Layout,
    fitted,
    from_start,
    guess,
    logged,
    rows_of,
)
from cinetica.files.proof import check_log, in_conventions_of
from cinetica.files.reading import Refused
from cinetica.model.conventions import Conventions
from cinetica.model.editing import with_log
from cinetica.model.milestone import Logged
from cinetica.model.study import Study
from cinetica.model.text import visible
from cinetica.reading.display_units import DisplayUnits
from cinetica.reading.log_fit import LIKE

SHOWN_ROWS = 6
# Frames per second that a log is tried at when the game's are not known.
USUAL_RATES = (30.0, 50.0, 60.0, 100.0, 120.0, 144.0, 240.0)
ROLE_WORDS = {"frame": "frame", "time": "time (s)", "x": "x", "y": "y", "vx": "velocity x", "vy": "velocity y"}


def _understood(session: Session, text: str) -> Found:
    """The likely layout, fitted to the reference. Refused if it is not a log."""
    layout, reference = guess(text, session.study.conventions), session.reference_shown
    found = Found(layout, None) if reference is None else _fitted(session, text, layout, reference)
    if found.fit is None and session.drill is not None:
        return Found(from_start(text, layout, session.drill.start), None)
    return found


def _fitted(session: Session, text: str, layout: Layout, reference: TuneRun) -> Found:
    """The layout fitted to a run of a tune; conventions that the person has set stay where they fit."""
    trace, drill = reference.trace, session.drill
    stated = session.study.conventions != Conventions()
    found = fitted(text, layout, trace["time"], trace["x"], trace["y"], () if stated else USUAL_RATES)
    ratio = found.layout.pixels_per_unit / layout.pixels_per_unit
    if not stated or found.fit is None or drill is None or not 1 / LIKE < ratio < LIKE:
        return found
    kept = replace(
        found.layout, pixels_per_unit=layout.pixels_per_unit, y_down=layout.y_down, per_frame=layout.per_frame
    )
    return Found(from_start(text, kept, drill.start), found.fit)


# From this share of movement that the tune does not explain, a fit is called rough.
ROUGH = 0.05


class ImportLog(Dialog):
    """The first rows of the file with a choice above each column, units beside them, and the result at once."""

    def __init__(self, session: Session, path: Path, text: str, window: QWidget) -> None:
        # May raise Refused; do this before opening a dialog, which would stay open.
        self.found = _understood(session, text)
        self.layout_now = self.found.layout
        super().__init__(f"Import a game log: {path.name}", window)
        self.session, self._text = session, text
        self.log: Logged | None = None
        self._filling = False
        drill = session.drill
        names = [tune.name for _, tune in session.tunes]
        self.drill_name = drill.name if drill else ""
        self.close_when_removed(session, tunes=names, drills=[self.drill_name] if drill else ())
        self._make_widgets(path, names)
        self._lay_out()
        self._connect()
        self._fill()
        self.fit(120, 40)
        self.accept_button.setFocus()

    def _make_widgets(self, path: Path, tunes: list[str]) -> None:
        self.name = QLineEdit(visible(path.stem))
        self.name.setMaxLength(100)
        self.reference = Chooser()
        self.reference.addItems(tunes)
        self.table = QTableWidget()
        self.table.setAccessibleName("First rows of the log")
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.delimiter = Chooser()
        for character, word in DELIMITERS.items():
            self.delimiter.addItem(word, character)
        self.comma, self.header = QCheckBox("decimal comma"), QCheckBox("header row")
        self.y_down, self.per_frame = QCheckBox("y points down"), QCheckBox("speeds per frame")
        self.pixels, self.rate = self._spin(1e-6, 1e6), self._spin(1, 10000)
        self.offset_x, self.offset_y = self._spin(-1e7, 1e7), self._spin(-1e7, 1e7)
        self.start = self._spin(-1e9, 1e9)
        self.time_unit = Chooser()
        for unit in TIME_UNITS:
            self.time_unit.addItem(unit, unit)
        self.fit_button = push_button("Fit", self.fit_to_tune)
        self.fit_button.setToolTip(
            "Find start, scale, offset and direction again, by comparing the log with the tune chosen here"
        )
        self.keep_conventions = QCheckBox("These are the game’s conventions")
        self.keep_conventions.setToolTip(
            "Keep pixels, frames per second, the direction of y and what velocities count in for “Hand over” and for"
            " the next log"
        )
        self.keep_conventions.setChecked(self.session.study.conventions == Conventions())
        self.preview = LogPreview(self.session.units)
        self.proposed, self.summary, self.verdict = PlainLabel(), PlainLabel(), PlainLabel()
        for label in (self.proposed, self.summary, self.verdict):
            label.setWordWrap(True)
        self.offset_x.setToolTip("What the log shows for x where the study has 0, in the log’s unit")
        self.offset_y.setToolTip("What the log shows for y where the study has 0, in the log’s unit")
        self.start.setToolTip("The log’s frame or time at which the drill starts; it may lie between two frames")
        self.per_frame.setToolTip("Velocities are logged in pixels per frame, not per second")
        self.time_unit.setToolTip("The unit of the log’s time column")

    def _spin(self, low: float, high: float) -> NumberBox:
        spin = NumberBox()
        spin.setDecimals(4)
        spin.setRange(low, high)
        # Otherwise it would be as wide as its limits.
        spin.setMinimumWidth(look.width("−9999.9999") + look.px(34))
        spin.setKeyboardTracking(False)
        spin.valueChanged.connect(self._take)
        return spin

    def _lay_out(self) -> None:
        left, right = QFormLayout(), QFormLayout()
        left.addRow("Name", self.name)
        left.addRow("Compare with", _side_by_side(self.reference, self.fit_button))
        left.addRow("Separator", self.delimiter)
        left.addRow("", _side_by_side(self.comma, self.header))
        left.addRow("", self.keep_conventions)
        self.start_label = PlainLabel("Drill starts at frame")
        right.addRow("Pixels per unit", self.pixels)
        right.addRow("Frames per second", self.rate)
        right.addRow(self.start_label, _side_by_side(self.start, self.time_unit))
        right.addRow("Offset x, y", _side_by_side(self.offset_x, self.offset_y))
        right.addRow("", _side_by_side(self.y_down, self.per_frame))
        halves = QHBoxLayout()
        halves.addLayout(left, 1)
        halves.addSpacing(16)
        halves.addLayout(right, 1)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        self.accept_button = buttons.addButton("Import", QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        about = PlainLabel(
            f"How this log of {self.drill_name} was read. Correct what is wrong: what each column is, and the units."
        )
        about.setObjectName("soft")
        about.setWordWrap(True)
        column.addWidget(about)
        column.addWidget(self.table, 2)
        column.addLayout(halves)
        column.addWidget(self.proposed)
        column.addWidget(self.preview, 3)
        column.addWidget(self.summary)
        column.addWidget(self.verdict)
        column.addWidget(buttons)

    def _connect(self) -> None:
        self.time_unit.currentIndexChanged.connect(self._take)
        for box in (self.comma, self.header, self.y_down, self.per_frame):
            box.toggled.connect(self._take)
        self.delimiter.currentIndexChanged.connect(self._new_delimiter)
        self.reference.currentIndexChanged.connect(self._try)

    # Preview and import

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
        self.start.setValue(layout.start)
        self.time_unit.setCurrentIndex(self.time_unit.findData(layout.time_unit))
        self.time_unit.setVisible("time" in layout.columns)
        clock = "time" if "time" in layout.columns else "frame"
        self.start_label.setText(f"Drill starts at {clock}")
        self.proposed.setText(_proposal(self.found, self.reference.currentText()))
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

    def fit_to_tune(self) -> None:
        """Fit the log to the chosen tune again, with the columns as they are named now."""
        if (chosen := self._chosen) is not None:
            self.found = _fitted(self.session, self._text, self.layout_now, chosen)
            self.layout_now = self.found.layout
            self._fill()

    @property
    def _chosen(self) -> TuneRun | None:
        """The run of the tune that the log is compared with; that of the reference while the tune is hidden."""
        name = self.reference.currentText()
        shown = (each for each in self.session.shown if each.tune.name == name and not each.trace.logged)
        return next(shown, self.session.reference_shown)

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
            offset=(self.offset_x.value(), self.offset_y.value()), start=self.start.value(),
            time_unit=self.time_unit.currentData(),
        )  # fmt: skip
        self._try()

    def _try(self, *_: object) -> None:
        """Read the log with the current layout, and show the result or what is wrong."""
        if self._filling:
            return
        self.log, self.verdict_words = None, ""
        try:
            self.log = logged(self._text, self.layout_now, self.name.text().strip() or "Log", self.drill_name)
            self.summary.setText(_about(self.log, self.session.units))
            self._check_against_tune()
        except Refused as refused:
            self.summary.setText("\n".join(refused.faults[:4]))
            self.verdict.setText("")
            self.proposed.setText("")
        except ValueError as error:
            self.summary.setText(str(error))
        self.summary.setObjectName("" if self.log else "warning")
        self.summary.style().polish(self.summary)
        self.accept_button.setEnabled(self.log is not None)
        self.preview.show_log(self.log, self._chosen)
        differs = self.conventions != self.session.study.conventions
        self.keep_conventions.setEnabled(differs)

    @property
    def conventions(self) -> Conventions:
        """The study's conventions, with what was found out about this log."""
        return in_conventions_of(self.session.study, self.layout_now).conventions

    def _check_against_tune(self) -> None:
        tune = next((tune for _, tune in self.session.tunes if tune.name == self.reference.currentText()), None)
        drill, layout = self.session.drill, self.layout_now
        self.verdict.setText("")
        if tune is None or drill is None:
            return
        tolerance = 0.5 if layout.pixels_per_unit != 1 else 0.02
        checked = check_log(self.session.study, tune, drill, self._text, layout, tolerance)
        self.verdict_words = checked.lines[0]
        self.verdict.setText("\n".join(checked.lines))

    @override
    def accept(self) -> None:
        if self.log is None:
            return
        note = f"{self.verdict_words} {_derived_words(self.log)}".strip()
        log = self.log.model_copy(update={"name": self.name.text().strip() or "Log", "note": note})
        conventions = self.conventions if self.keep_conventions.isChecked() else self.session.study.conventions

        def changed(study: Study) -> Study:
            """The study with the log and, where wanted, the conventions."""
            return with_log(study, log).model_copy(update={"conventions": conventions})

        if self.session.alter(f"Import {log.name}", changed):
            if note:
                self.session.message.emit(note)
            super().accept()


def _side_by_side(*widgets: QWidget) -> QHBoxLayout:
    """Two widgets in one row of a form; the first takes what room there is."""
    row = QHBoxLayout()
    for number, widget in enumerate(widgets):
        row.addWidget(widget, 1 if number == 0 or not isinstance(widget, QCheckBox) else 0)
    return row


def _proposal(found: Found, tune: str) -> str:
    """What was found by comparing the log with a tune, in words."""
    fit, layout = found.fit, found.layout
    if fit is None:
        return (
            f"The log moves like nothing that {tune or 'a tune'} does on this drill, so start, scale and offset are as"
            " in the file. Was this drill played?"
        )
    clock = f"{layout.start:g} {layout.time_unit}" if "time" in layout.columns else f"frame {layout.start:g}"
    lag = "" if layout.start * layout.second > 1e-9 or layout.start == 0 else ", before the log begins"
    words = [
        f"Found by comparing with {tune}: the drill starts at {clock}{lag}; {layout.pixels_per_unit:g} px per unit;"
        f" y points {'down' if layout.y_down else 'up'}."
    ]
    if not math.isclose(fit.scale, layout.pixels_per_unit, rel_tol=0.01):
        words.append(f"By its size alone it would be {fit.scale:g} px per unit.")
    if fit.x_mirrored:
        words.append("It runs the other way along x: was this drill played?")
    if fit.unexplained < 1e-4:
        words.append("It moves just as the tune does.")
    elif fit.unexplained > ROUGH:
        words.append(f"It follows the tune only roughly (correlation {math.sqrt(1 - fit.unexplained):.2f}).")
    return " ".join(words)


def _about(log: Logged, units: DisplayUnits) -> str:
    x, y = units.column("x"), units.column("y")
    (left, right), (low, high) = x.span(min(log.x), max(log.x)), y.span(min(log.y), max(log.y))
    words = f" {_derived_words(log)}" if log.derived else ""
    long = units.time(log.time[-1] - log.time[0])
    return (
        f"{len(log.time)} rows over {long}; x from {left:.2f} to {right:.2f} {x.unit},"
        f" y from {low:.2f} to {high:.2f} {y.unit}.{words}"
    )


def _derived_words(log: Logged) -> str:
    derived = [ROLE_WORDS[each] for each in log.derived]
    return f"Derived, since not logged: {', '.join(derived)}." if derived else ""
