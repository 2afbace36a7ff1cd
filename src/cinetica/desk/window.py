"""The window: header, page, menus and keys."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QAction, QCloseEvent, QKeySequence
from PySide6.QtWidgets import (
    QApplication,
    QComboBox,
    QDialog,
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QMenu,
    QMessageBox,
    QTextBrowser,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from cinetica.desk import look
from cinetica.desk.clock_panel import ClockPanel, clock_words
from cinetica.desk.compare.page import ComparePage
from cinetica.desk.keys import KEYS, help_text
from cinetica.desk.session import Session
from cinetica.files.study_json import Refused, read_study, write_study

FILES = "Cinetica studies (*.json)"


class Window(QMainWindow):
    def __init__(self, session: Session, palette: look.Palette = look.DAY) -> None:
        super().__init__()
        self.session, self.look = session, palette
        self.page = ComparePage(session, palette)
        self.actions_by_name: dict[str, QAction] = {}
        self._make_actions()
        whole = QWidget()
        layout = QVBoxLayout(whole)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self._header())
        layout.addWidget(self.page, 1)
        self.setCentralWidget(whole)
        self.resize(1280, 800)
        session.study_changed.connect(self._say_study)
        session.undo_stack.indexChanged.connect(self._say_study)
        session.drill_changed.connect(self._list_drills)
        self._list_drills()
        self._say_study()
        self.set_look(palette)

    # Header and menus

    def _header(self) -> QFrame:
        header = QFrame()
        header.setObjectName("header")
        header.setFixedHeight(46)
        row = QHBoxLayout(header)
        row.setContentsMargins(18, 0, 14, 0)
        row.setSpacing(4)
        name = QLabel("Cinetica")
        name.setFont(look.font(14, bold=True))
        self.study_name = QLabel()
        self.study_name.setObjectName("quiet")
        self.study_name.setMaximumWidth(260)
        row.addWidget(name)
        row.addSpacing(12)
        row.addWidget(self.study_name)
        row.addSpacing(10)
        for title, entries in (
            ("Study", ("open", "save", "save_as", "quit")),
            ("Edit", ("undo", "redo", "clear_wake", "find")),
            ("View", ("fit", "night")),
            ("Help", ("help",)),
        ):
            row.addWidget(self._menu_button(title, entries))
        row.addStretch(1)
        self.drills = QComboBox()
        self.drills.setAccessibleName("Drill")
        self.drills.setMinimumWidth(150)
        self.drills.setMaximumWidth(280)
        self.drills.activated.connect(lambda _: self.session.choose_drill(self.drills.currentData()))
        self.clock = QToolButton()
        self.clock.setAccessibleName("Clock")
        self.clock.clicked.connect(self._open_clock)
        drill = QLabel("Drill ▾")
        drill.setObjectName("quiet")
        row.addWidget(drill)
        row.addWidget(self.drills)
        row.addSpacing(8)
        row.addWidget(self.clock)
        return header

    def _menu_button(self, title: str, entries: tuple[str, ...]) -> QToolButton:
        button = QToolButton()
        button.setText(title)
        button.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(button)
        for entry in entries:
            menu.addAction(self.actions_by_name[entry])
        button.setMenu(menu)
        return button

    def _make_actions(self) -> None:
        transport, session = self.page.transport, self.session
        slots: dict[str, Callable[[], object]] = {
            "back": lambda: transport.step(-1),
            "forward": lambda: transport.step(1),
            "back_ten": lambda: transport.step(-10),
            "forward_ten": lambda: transport.step(10),
            "start": lambda: session.set_cursor(0),
            "end": lambda: session.set_cursor(session.last_row),
            "previous_mark": lambda: transport.to_mark(-1),
            "next_mark": lambda: transport.to_mark(1),
            "play": transport.toggle,
            "fit": self.page.fit,
            "find": self.page.sheet.search.setFocus,
            "clear_wake": session.clear_wake,
            "open": self.open,
            "save": self.save,
            "save_as": self.save_as,
            "night": lambda: self.set_look(look.DAY if self.look is look.NIGHT else look.NIGHT),
            "help": self.show_help,
            "quit": self.close,
        }
        stack = session.undo_stack
        made = {"undo": stack.createUndoAction(self, "Undo"), "redo": stack.createRedoAction(self, "Redo")}
        for name, keys, meaning in KEYS:
            action = made.get(name) or QAction(f"{meaning[0].upper()}{meaning[1:]}", self)
            if name in slots:
                action.triggered.connect(lambda _=False, slot=slots[name]: slot())
            action.setShortcuts([QKeySequence(key) for key in keys])
            self.actions_by_name[name] = action
            self.addAction(action)
        for number in range(6):
            action = QAction(f"Show or hide tune {number + 1}", self)
            action.setShortcut(QKeySequence(str(number + 1)))
            action.triggered.connect(lambda _=False, number=number: self._toggle(number))
            self.addAction(action)

    def _toggle(self, number: int) -> None:
        if number < len(self.session.tunes):
            self.session.toggle(self.session.tunes[number][1])

    def _list_drills(self) -> None:
        drill = self.session.drill
        self.drills.clear()
        for place, each in enumerate(self.session.study.drills):
            self.drills.addItem(each.name, each.name)
            self.drills.setItemData(place, each.note, 3)
            if each is drill:
                self.drills.setCurrentIndex(place)
        self.drills.setToolTip(drill.note if drill else "")

    def _say_study(self, *_: object) -> None:
        study = self.session.study
        changed = "" if self.session.undo_stack.isClean() else " •"
        self.study_name.setText(self.study_name.fontMetrics().elidedText(study.name, Qt.TextElideMode.ElideRight, 240) + changed)
        self.study_name.setToolTip(f"{study.name}\n{self.session.path or 'not saved in a file yet'}")
        self.setWindowTitle(f"{study.name}{changed} — Cinetica")
        self.clock.setText(f"Clock  {clock_words(study.clock)} ▾")

    def _open_clock(self) -> None:
        panel = ClockPanel(self.session, self.look, self)
        corner = self.clock.mapToGlobal(QPoint(self.clock.width(), self.clock.height()))
        panel.move(corner.x() - panel.sizeHint().width(), corner.y())
        panel.show()

    def set_look(self, palette: look.Palette) -> None:
        self.look = palette
        app = QApplication.instance()
        if isinstance(app, QApplication) and app.styleSheet() != look.style_sheet(palette):
            app.setPalette(look.qt_palette(palette))
            app.setStyleSheet(look.style_sheet(palette))
        self.page.set_look(palette)

    def show_help(self) -> None:
        dialog = QDialog(self)
        dialog.setWindowTitle("How to use Cinetica")
        dialog.resize(620, 640)
        text = QTextBrowser()
        text.setHtml(help_text())
        layout = QVBoxLayout(dialog)
        layout.addWidget(text)
        dialog.exec()

    # Files

    def open(self) -> None:
        if not self._may_leave():
            return
        chosen, _ = QFileDialog.getOpenFileName(self, "Open a study", str(self.session.path or Path.cwd()), FILES)
        if chosen:
            self.open_file(Path(chosen))

    def open_file(self, path: Path) -> None:
        try:
            study = read_study(path)
        except Refused as refused:
            QMessageBox.warning(self, "This file cannot be opened", "\n".join(refused.faults))
            return
        self.session.load(study, path)

    def save(self) -> bool:
        return self._write(self.session.path) if self.session.path else self.save_as()

    def save_as(self) -> bool:
        start = self.session.path or Path.cwd() / f"{self.session.study.name.lower().replace(' ', '-')}.json"
        chosen, _ = QFileDialog.getSaveFileName(self, "Save the study", str(start), FILES)
        return self._write(Path(chosen)) if chosen else False

    def _write(self, path: Path) -> bool:
        try:
            write_study(self.session.study, path)
        except OSError as error:
            QMessageBox.warning(self, "The study was not saved", f"{path}: {error.strerror or error}\nChoose another place; nothing is lost.")
            return False
        self.session.path = path
        self.session.undo_stack.setClean()
        self._say_study()
        return True

    def _may_leave(self) -> bool:
        """Whether the study may be left: it is saved, or the person saves or gives up the changes."""
        if self.session.undo_stack.isClean():
            return True
        buttons = QMessageBox.StandardButton
        answer = QMessageBox.question(
            self, "Keep the changes?", f"“{self.session.study.name}” has changes that are not saved.",
            buttons.Save | buttons.Discard | buttons.Cancel, buttons.Save)  # fmt: skip
        return self.save() if answer == buttons.Save else answer == buttons.Discard

    def closeEvent(self, event: QCloseEvent) -> None:
        if self._may_leave():
            self.page.transport.stop()
            self.session.undo_stack.indexChanged.disconnect(self._say_study)
            event.accept()
        else:
            event.ignore()
