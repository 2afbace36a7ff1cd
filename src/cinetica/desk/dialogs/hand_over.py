"""Exporting a tune's numbers to the programmer, in the game's conventions, and importing numbers back."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QPlainTextEdit,
    QTabWidget,
    QVBoxLayout,
    QWidget,
)
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.actions.keys import keyed
from cinetica.desk.dialogs.base import Dialog
from cinetica.desk.dialogs.code_page import CodePage
from cinetica.desk.dialogs.conventions_panel import ConventionsSide
from cinetica.desk.dialogs.numbers_found import NumbersFound
from cinetica.desk.export.waiting import finished
from cinetica.desk.state.session import Session
from cinetica.desk.widgets import Chooser, PlainLabel, push_button
from cinetica.files.atomic_write import write_atomically
from cinetica.files.file_names import file_name
from cinetica.files.game_numbers import find_numbers, likely_conventions, likely_words, with_numbers
from cinetica.files.handover import FORMATS, WHICH_WORDS, Which, at_milestone, numbers_text
from cinetica.files.proof import write_proof
from cinetica.files.reading import Refused
from cinetica.model.clock import Clock, Mode
from cinetica.model.conventions import Conventions, Per, Times
from cinetica.model.editing import with_new_tune
from cinetica.model.game_units import words
from cinetica.model.parameters import Value
from cinetica.model.study import Study
from cinetica.model.tune import Tune


class HandOver(Dialog):
    """Conventions on the left, chosen once per study; on the right the numbers to export, or to import."""

    def __init__(self, session: Session, tune: Tune, window: QWidget) -> None:
        super().__init__("Hand over", window)
        self.close_when_removed(session, tunes=[each.name for each in session.study.tunes])
        self.session = session
        self._filling, self._refused = False, ""
        self._make_choices(tune)
        self.text, self.pasted = _code("Numbers to hand over"), _code("Numbers from the game")
        self.text.setReadOnly(True)
        self.pasted.setPlaceholderText("Paste the game's numbers here, in any of the formats, or open a file.")
        self.message = PlainLabel()
        self.message.setWordWrap(True)
        self.outcome = PlainLabel()
        self.outcome.setWordWrap(True)
        self.outcome.setMinimumHeight(2 * look.height() + 4)
        self.conventions = ConventionsSide(self.room().width())
        self.conventions.changed.connect(self._take)
        self.directions = QTabWidget()
        self.code = CodePage(session, _code("The tune as code"), self.outcome.setText, self._result_or_reason)
        self._pages = {"numbers": self._out(), "code": self.code, "import": self._back()}
        for page, title in zip(self._pages.values(), ("To the game", "As code", "From the game"), strict=True):
            self.directions.addTab(page, title)
        self._lay_out()
        for chooser in (self.tunes, self.formats, self.which):
            chooser.currentIndexChanged.connect(self._show)
        self.pasted.textChanged.connect(self._read_pasted)
        self.tunes.currentTextChanged.connect(self.code.tunes.setCurrentText)
        self.code.tunes.currentTextChanged.connect(self.tunes.setCurrentText)
        session.study_changed.connect(self._study_changed)
        self._fill()
        self.fit(130, 42)

    def _make_choices(self, tune: Tune) -> None:
        self.tunes = Chooser()
        self.tunes.addItems([each.name for each in self.session.study.tunes])
        self.tunes.setCurrentText(tune.name)
        self.formats = Chooser()
        for id, format in FORMATS.items():
            self.formats.addItem(format.name, id)
        self.which = Chooser()
        for which, label in WHICH_WORDS.items():
            self.which.addItem(label, which)

    def _lay_out(self) -> None:
        halves = QHBoxLayout()
        halves.addWidget(self.conventions, 0)
        halves.addWidget(self.directions, 1)
        layout = QVBoxLayout(self)
        layout.addLayout(halves, 1)
        layout.addWidget(self.outcome)

    def show_page(self, name: str) -> None:
        """Show one of the pages: numbers, code or import."""
        self.directions.setCurrentWidget(self._pages[name])

    # Layout

    def _out(self) -> QWidget:
        page = QWidget()
        row, below = QHBoxLayout(), QHBoxLayout()
        for line, label, chooser in (
            (row, "Tune", self.tunes), (row, "as", self.formats), (below, "Numbers", self.which),
        ):  # fmt: skip
            line.addWidget(PlainLabel(label))
            line.addWidget(chooser, 1)
        buttons = QHBoxLayout()
        buttons.addWidget(push_button("&Copy", self.copy, main=True))
        buttons.addWidget(push_button("&Save as…", self.save))
        buttons.addWidget(push_button("&Proof for the programmer…", self.prove))
        buttons.addStretch(1)
        column = QVBoxLayout(page)
        column.addLayout(row)
        column.addLayout(below)
        column.addWidget(self.text, 1)
        column.addLayout(buttons)
        return page

    def _back(self) -> QWidget:
        page = QWidget()
        buttons = QHBoxLayout()
        self.found = NumbersFound(in_game=self.session.units.game is not None)
        self.found.changed.connect(self._show_found)
        self._likely: Conventions | None = None
        self.likely_button = push_button("Use these &conventions", self.use_likely)
        self.likely_button.hide()
        self.take_over = push_button("Import as a &new tune", self.as_new_tune)
        self.change = push_button("Update the &tune", self.into_tune)
        buttons.addWidget(push_button("&Open a file…", self.open))
        buttons.addStretch(1)
        buttons.addWidget(self.change)
        buttons.addWidget(self.take_over)
        column = QVBoxLayout(page)
        column.addWidget(self.pasted, 2)
        column.addWidget(self.found, 3)
        column.addWidget(self.message)
        column.addWidget(self.likely_button, alignment=Qt.AlignmentFlag.AlignLeft)
        column.addLayout(buttons)
        return page

    # Conventions

    def _study_changed(self) -> None:
        if not self._filling:
            self._fill()

    def _fill(self) -> None:
        """Show the study's conventions and the numbers in them."""
        self._filling = True
        self.conventions.fill(self.session.study.conventions)
        names = [each.name for each in self.session.study.tunes]
        chosen = self.tunes.currentText()
        for chooser in (self.tunes, self.code.tunes):
            if names != [chooser.itemText(row) for row in range(chooser.count())]:
                chooser.clear()
                chooser.addItems(names)
                chooser.setCurrentText(chosen)
        self._filling = False
        self._show()
        self.code.write()
        self._read_pasted()

    def _take(self) -> None:
        """Store the conventions in the study, as an edit."""
        if self._filling:
            return
        try:
            conventions = self.conventions.chosen
        except ValueError as error:
            self.outcome.setText(_reason(error))
            self._fill()
            return
        self.outcome.setText(_rates_differ(conventions, self.session.study.clock))
        self.session.alter(
            "Conventions of the game", lambda study: study.model_copy(update={"conventions": conventions}), joins=True
        )

    # Export

    @property
    def tune(self) -> Tune | None:
        """The tune chosen."""
        name = self.tunes.currentText()
        return next((tune for tune in self.session.study.tunes if tune.name == name), None)

    def _show(self, *_: object) -> None:
        tune = self.tune
        if self._filling or tune is None:
            return
        study, which, before = self.session.study, Which(self.which.currentData()), None
        if which is Which.CHANGED:
            try:
                before = at_milestone(study, tune)
            except KeyError as error:
                self.outcome.setText(f"All that matter are shown: {error.args[0]}.")
        at = self.text.verticalScrollBar().value()
        text = numbers_text(tune, study.conventions, self.formats.currentData(), which, before)
        self.text.setPlainText(text)
        self.text.verticalScrollBar().setValue(at)
        self.change.setText(f"Change {_short(tune.name)}")

    def copy(self) -> None:
        """Copy the numbers."""
        QGuiApplication.clipboard().setText(self.text.toPlainText())
        self.outcome.setText(
            f"Copied: {self.tunes.currentText()} as {self.formats.currentText()}, in"
            f" {words(self.session.study.conventions)}."
        )

    def save(self) -> None:
        """Save the numbers."""
        format = FORMATS[self.formats.currentData()]
        start = Path.cwd() / f"{file_name(self.tunes.currentText())}{format.suffix}"
        chosen, _ = QFileDialog.getSaveFileName(
            self, "Save the numbers", str(start), f"{format.name} (*{format.suffix})"
        )
        if chosen:
            self._result_or_reason(
                lambda: write_atomically(Path(chosen), self.text.toPlainText().encode()), f"Saved in {chosen}."
            )

    def prove(self) -> None:
        """Write the proof."""
        tune = self.tune
        chosen = QFileDialog.getExistingDirectory(self, "Folder for the proof", str(Path.cwd())) if tune else ""
        if tune is not None and chosen:
            done = f"The proof of {tune.name} is in {chosen}; begin with index.html."
            study = self.session.study
            self._result_or_reason(
                lambda: finished(
                    lambda: write_proof(study, tune, Path(chosen)), "Proof", f"Writing the proof of {tune.name}…", self
                ),
                done,
            )

    def _result_or_reason(self, write: Callable[[], object], done: str) -> None:
        try:
            write()
        except OSError as error:
            done = f"Not written: {error.filename or ''} {error.strerror or error}. Choose another place."
        except Refused as refused:
            done = "; ".join(refused.faults)
        self.outcome.setText(done)

    # Import

    @override
    def open(self) -> None:
        chosen, _ = QFileDialog.getOpenFileName(self, "Open the game's numbers", str(Path.cwd()))
        if chosen:
            try:
                with Path(chosen).open("rb") as file:
                    self.pasted.setPlainText(file.read(2 * 2**20).decode("utf-8-sig", errors="replace"))
            except OSError as error:
                self.outcome.setText(f"{chosen}: {error.strerror or error}")

    def _read_pasted(self) -> None:
        """Show what is in the text, number by number."""
        text, conventions = self.pasted.toPlainText(), self.session.study.conventions
        numbers, refused = None, ""
        try:
            numbers = find_numbers(text, conventions) if text.strip() else None
        except Refused as error:
            refused = "\n".join(error.faults)
        self.found.show_numbers(numbers, conventions, self.tune)
        if text.strip() and not refused and numbers is not None and not (numbers.entries or numbers.unread):
            refused = "No number in it; it should have lines such as top_speed = 7.5."
        self._refused = refused
        self._show_found()

    def _show_found(self) -> None:
        """Say how many are taken, which names are unknown, and conventions that would fit better."""
        values, tune, entries = self.found.values, self.tune, self.found.entries
        self.take_over.setEnabled(bool(values))
        self.change.setEnabled(bool(values) and tune is not None and not tune.snapshot_of)
        changed = [id for id, value in values.items() if tune is not None and not _same(tune.get(id), value)]
        proposed = [each for each in entries if each.value is not None and each.parameter is not None
                    and each.parameter.id not in values]  # fmt: skip
        words = self._refused
        if entries and not words:
            words = f"{len(values)} number{'s' * (len(values) != 1)} taken;"
            words += f" {len(changed)} differ from {self.tunes.currentText()}."
            words += f" Proposed by name: {len(proposed)}. Tick what is right." if proposed else ""
            if notes := [f"¹ {each.assigned.note}." for each in entries if each.assigned.note]:
                words += f"\n{notes[0]}"
        conventions = self.session.study.conventions
        self._likely = likely_conventions(entries, tune, conventions) if tune is not None else None
        if self._likely is not None:
            words += f"\n{likely_words(self._likely)}"
        self.likely_button.setVisible(self._likely is not None)
        self.message.setText(words)

    def use_likely(self) -> None:
        """Make the proposed conventions those of the study."""
        if (likely := self._likely) is not None:
            self.session.alter(
                "Conventions of the game", lambda study: study.model_copy(update={"conventions": likely})
            )

    def into_tune(self) -> None:
        """Import the numbers into the tune."""
        tune = self.tune
        if tune is not None:
            self._take_over(f"Numbers from the game for {tune.name}", lambda study, numbers: study.with_tune(
                with_numbers(tune, _without_noise(tune, numbers)), instead_of=tune.name))  # fmt: skip

    def as_new_tune(self) -> None:
        """Import the numbers as a new tune."""
        like = self.tune or Tune(name="New tune")

        def added(study: Study, numbers: dict[str, Value]) -> Study:
            """Add the tune."""
            tune = with_numbers(like, _without_noise(like, numbers))
            return with_new_tune(
                study,
                tune.model_copy(update={"name": f"{like.name}, from the game", "snapshot_of": ""}),
                after=like.name,
            )

        self._take_over("Tune from the game", added)

    def _take_over(self, name: str, change: Callable[[Study, dict[str, Value]], Study]) -> None:
        values = self.found.values
        if not values:
            return
        try:
            after = change(self.session.study, values)
        except Refused as refused:
            self.message.setText("\n".join(refused.faults[:4]))
            return
        except ValueError as error:
            self.message.setText(str(error))
            return
        self.session.edit(name, after)
        self.outcome.setText(keyed("{0}: done. Undo ({undo}) takes it back.", name))


def _code(name: str) -> QPlainTextEdit:
    """A text in a monospaced font, without wrapped lines."""
    made = QPlainTextEdit()
    made.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
    made.setAccessibleName(name)
    made.setFont(look.fixed_font())
    return made


def _same(mine: Any, other: Any) -> bool:
    """Equal except for the rounding error of a conversion."""
    if all(isinstance(number, int | float) and not isinstance(number, bool) for number in (mine, other)):
        return abs(mine - other) <= 1e-12 * max(abs(mine), abs(other))
    return mine == other


def _without_noise(tune: Tune, numbers: dict[str, Value]) -> dict[str, Value]:
    return {id: value for id, value in numbers.items() if not _same(tune.get(id), value)}


def _short(name: str) -> str:
    return name if len(name) <= 24 else f"{name[:23]}…"


def _rates_differ(conventions: Conventions, clock: Clock) -> str:
    """A hint if numbers count in frames, and the game's frame rate differs from the study's tick rate."""
    in_frames = conventions.per is Per.FRAME or conventions.times is Times.FRAME
    if not in_frames or clock.mode is not Mode.LOCKED or clock.tick_rate == conventions.rate:
        return ""
    return (
        f"The game has {conventions.rate:g} frames per second, this study {clock.tick_rate:g} ticks. Set the clock, at"
        " the upper right of the window, to the game's frames for the same curves."
    )


def _reason(error: ValueError) -> str:
    errors = getattr(error, "errors", None)
    if errors is None:
        return str(error)
    fault = errors()[0]
    if "pattern" in fault["type"]:
        return "A name begins with a letter, and has only letters, digits and _."
    return str(fault["msg"]).replace("Value error, ", "")
