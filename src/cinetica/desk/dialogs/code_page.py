"""A tune as code: the language and the part chosen, the code with its syntax coloured, copied or saved."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

from pygments.lexers import get_lexer_by_name
from pygments.token import Comment, Keyword, Literal, Name
from PySide6.QtCore import QObject
from PySide6.QtGui import QGuiApplication, QShowEvent, QSyntaxHighlighter, QTextCharFormat, QTextDocument
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QPlainTextEdit, QVBoxLayout, QWidget
from typing_extensions import override

from cinetica.codegen.languages import LANGUAGES, code_text, program_of, stem_of
from cinetica.codegen.program import Program
from cinetica.desk import look
from cinetica.desk.background_task import BackgroundTask, once
from cinetica.desk.state.session import Session
from cinetica.desk.widgets import Chooser, PlainLabel, push_button
from cinetica.files.atomic_write import write_atomically
from cinetica.model.tune import Tune
from cinetica.palette import Palette

# The names of the languages as Pygments knows them.
LEXERS = {"c": "c", "csharp": "csharp", "lua": "lua", "python": "python", "javascript": "javascript"}
PARTS = (
    ("step, cut where the game moves", False),
    ("whole tick, with contact for boxes and slopes", True),
)
# The colours of tokens in a palette; the first that fits.
COLORS: tuple[tuple[Any, Callable[[Palette], str]], ...] = (
    (Comment, lambda palette: palette.soft), (Literal.String.Doc, lambda palette: palette.soft),
    (Literal.Number, lambda palette: palette.inks[0]), (Keyword, lambda palette: palette.accent),
    (Name.Function, lambda palette: palette.accent), (Name.Class, lambda palette: palette.accent),
)  # fmt: skip


class Colouring(QSyntaxHighlighter):
    """Colours code by the tokens that a lexer of Pygments finds in all of it."""

    def __init__(self, document: QTextDocument) -> None:
        super().__init__(document)
        # Per line: the start, length and colour of each token.
        self._lines: list[list[tuple[int, int, Callable[[Palette], str]]]] = []

    def set_code(self, text: str, language: str) -> None:
        """Find the tokens of a text that is about to be shown."""
        self._lines, at = [[]], 0
        lexer = get_lexer_by_name(LEXERS[language], stripnl=False, ensurenl=False)
        for token, value in lexer.get_tokens(text):
            color = next((color for kind, color in COLORS if token in kind), None)
            for place, part in enumerate(value.split("\n")):
                if place:
                    self._lines.append([])
                    at = 0
                if color is not None and part:
                    self._lines[-1].append((at, len(part), color))
                at += len(part)

    @override
    def highlightBlock(self, text: str) -> None:
        number = self.currentBlock().blockNumber()
        for start, length, color in self._lines[number] if number < len(self._lines) else ():
            look_of_it = QTextCharFormat()
            look_of_it.setForeground(look.color(color(look.palette())))
            self.setFormat(start, length, look_of_it)


class CodePage(QWidget):
    """The page *As code* of *Hand over*. `tell` shows a line to the user; `save` writes and tells."""

    def __init__(
        self,
        session: Session,
        text: QPlainTextEdit,
        tell: Callable[[str], None],
        save: Callable[[Callable[[], object], str], None],
    ) -> None:
        super().__init__()
        self.session, self.text, self._tell, self._save = session, text, tell, save
        self.tunes, self.languages, self.parts = Chooser(), Chooser(), Chooser()
        for id, language in LANGUAGES.items():
            self.languages.addItem(language.name, id)
        for words, whole in PARTS:
            self.parts.addItem(words, whole)
        text.setReadOnly(True)
        text.setPlaceholderText("The code is being written.")
        self.colouring = Colouring(text.document())
        self.task = BackgroundTask(self)
        self.task.result.connect(self._take)
        self.task.failed.connect(self._fail)
        self._program: Program | None = None
        self._shown: tuple[str, str] | None = None
        self.copy_button = push_button("&Copy", self.copy, main=True)
        self.save_button = push_button("&Save as…", self.save)
        self._lay_out()
        self.tunes.currentIndexChanged.connect(self.write)
        self.parts.currentIndexChanged.connect(self.write)
        self.languages.currentIndexChanged.connect(self._show)

    def _lay_out(self) -> None:
        top, below, buttons = QHBoxLayout(), QHBoxLayout(), QHBoxLayout()
        for line, words, chooser in (
            (top, "Tune", self.tunes), (top, "in", self.languages), (below, "Part", self.parts),
        ):  # fmt: skip
            line.addWidget(PlainLabel(words))
            line.addWidget(chooser, 1)
        for button in (self.copy_button, self.save_button):
            buttons.addWidget(button)
        buttons.addStretch(1)
        column = QVBoxLayout(self)
        column.addLayout(top)
        column.addLayout(below)
        column.addWidget(self.text, 1)
        column.addLayout(buttons)

    @property
    def tune(self) -> Tune | None:
        """The tune chosen."""
        name = self.tunes.currentText()
        return next((tune for tune in self.session.study.tunes if tune.name == name), None)

    @override
    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.write()

    def write(self, *_: object) -> None:
        """Write the program again, in the background; does nothing while the page is hidden."""
        tune = self.tune
        if tune is None or not self.isVisible():
            return
        study, whole = self.session.study, bool(self.parts.currentData())
        self.task.ask(once(partial(program_of, study, tune, whole=whole)))

    def _take(self, program: QObject) -> None:
        assert isinstance(program, Program)
        self._program = program
        self._show()

    def _fail(self, why: str) -> None:
        self._program = None
        self.text.setPlainText("")
        self._tell(why)

    def _show(self, *_: object) -> None:
        if self._program is None:
            return
        language, bar = self.languages.currentData(), self.text.verticalScrollBar()
        code, at = code_text(self._program, language), bar.value()
        if self._shown == (code, language):
            return
        self._shown = (code, language)
        self.colouring.set_code(code, language)
        self.text.setPlainText(code)
        bar.setValue(at)

    @property
    def code(self) -> str:
        """The code as it is handed over; empty while it is being written."""
        return "" if self.task.busy or self._shown is None else self._shown[0]

    def copy(self) -> None:
        """Copy the code."""
        if not self.code:
            self._tell("The code is still being written.")
            return
        QGuiApplication.clipboard().setText(self.code)
        self._tell(f"Copied: {self.tunes.currentText()} in {self.languages.currentText()}, {self.parts.currentText()}.")

    def save(self) -> None:
        """Save the code."""
        tune = self.tune
        if not self.code or tune is None:
            self._tell("The code is still being written.")
            return
        language = LANGUAGES[self.languages.currentData()]
        start, code = Path.cwd() / f"{stem_of(tune)}{language.suffix}", self.code
        chosen, _ = QFileDialog.getSaveFileName(
            self, "Save the code", str(start), f"{language.name} (*{language.suffix})"
        )
        if chosen:
            self._save(lambda: write_atomically(Path(chosen), code.encode()), f"Saved in {chosen}.")
