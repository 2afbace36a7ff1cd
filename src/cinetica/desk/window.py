"""The window: header, page, menus and keys."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, cast

from PySide6.QtCore import QPoint, QSize, QTimer, Signal
from PySide6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QKeySequence, QShowEvent
from PySide6.QtWidgets import (
    QApplication,
    QComboBox,
    QDialog,
    QLabel,
    QMainWindow,
    QMenu,
    QSizePolicy,
    QTextBrowser,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from cinetica.desk import look
from cinetica.desk.actions.commands import Commands
from cinetica.desk.actions.keys import (
    KEYS,
    MENUS,
    PICTURE_MENU,
    PICTURES,
    RECENT,
    SEPARATOR,
    TUNE_MENU,
    help_text,
    keyed_tip,
)
from cinetica.desk.actions.shortcuts import kept_shortcuts, set_keys, shortcuts_of
from cinetica.desk.compare.page import ComparePage
from cinetica.desk.dialogs.base import Dialog, run
from cinetica.desk.dialogs.clock_panel import ClockPanel
from cinetica.desk.documents import Documents
from cinetica.desk.export.exchange import Exchange
from cinetica.desk.pages import PAGES
from cinetica.desk.placing import keep_on_screen, place_at_first
from cinetica.desk.sheet.panel import Sheet
from cinetica.desk.state.session import Session
from cinetica.desk.state.settings import Kept, Remembered, Settings
from cinetica.desk.state.undoing import RedoAction, UndoAction
from cinetica.desk.widgets import Chooser, FoldingRow, OpensButton, ShortLabel, button, plain_tip
from cinetica.desk.workspace import Workspace
from cinetica.files.recovery import RecoveryFile
from cinetica.model.clock import clock_words
from cinetica.model.editing import MOST_TUNES

if TYPE_CHECKING:
    from cinetica.desk.play.page import PlayPage

FIRST_SIZE = QSize(1280, 800)


class Window(QMainWindow):
    closed = Signal()

    def __init__(
        self,
        session: Session,
        palette: look.Palette = look.DAY,
        settings: Settings | None = None,
        recovery: RecoveryFile | None = None,
    ) -> None:
        super().__init__()
        self.session, self.look, self.settings = session, palette, settings
        self.setAcceptDrops(True)
        self.commands = Commands(session, self)
        self.documents = Documents(session, self, settings, recovery)
        self.exchange = Exchange(session, self)
        self._history: QDialog | None = None
        self._kept_after = Kept.KEPT_AFTER.default
        self.actions_by_name: dict[str, QAction] = {}
        self._text_scale = look.TEXT_SCALES[0]
        if settings is not None:
            kept_scale = settings.get(Kept.TEXT_SCALE)
            self._text_scale = kept_scale if kept_scale in look.TEXT_SCALES else look.TEXT_SCALES[0]
            self.look = look.NIGHT if settings.get(Kept.NIGHT) else palette
            self._set_kept_after(settings.get(Kept.KEPT_AFTER))
        look.set_text_scale(self._text_scale)
        if QApplication.font() != look.font(10):
            QApplication.setFont(look.font(10))
        self._make_actions()
        self._shown_page = PAGES[0].action
        self._leaving: QWidget | None = None
        if settings is not None:
            for name, keys in shortcuts_of(settings.get(Kept.SHORTCUTS)).items():
                set_keys(name, self.actions_by_name[name], keys)
        self.desk = self._new_desk()
        place_at_first(self, FIRST_SIZE)
        if settings is not None:
            if (geometry := settings.state("geometry")) is not None:
                self.restoreGeometry(geometry)
            self.desk.restore(settings)
        session.study_changed.connect(self._say_study)
        session.study_changed.connect(self._list_drills)
        session.undo_stack.indexChanged.connect(self._say_study)
        session.undo_stack.cleanChanged.connect(self._say_study)
        session.drill_changed.connect(self._list_drills)
        self._list_drills()
        self._say_study()
        self.set_look(self.look)

    @property
    def page(self) -> ComparePage:
        """The page Compare."""
        return self.desk.compare

    @property
    def play(self) -> PlayPage:
        return cast("PlayPage", self.desk.page("play_page"))

    @property
    def sheet(self) -> Sheet:
        return self.desk.sheet

    def _new_desk(self) -> Workspace:
        """Header and what lies under it, made for the present size of text."""
        desk = Workspace(self.session, self.look)
        whole = QWidget()
        layout = QVBoxLayout(whole)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self._header())
        layout.addWidget(desk, 1)
        self.setCentralWidget(whole)
        desk.sheet.view.tune_header.menu_wanted.connect(self._open_tune_menu)
        desk.sheet.view.tune_header.rename_wanted.connect(lambda _: self.commands.rename())
        desk.made.connect(self._page_was_made)
        self.commands.current_tune = desk.sheet.view.current_tune
        return desk

    def _page_was_made(self, action: str) -> None:
        if action == "play_page":
            self.play.recorded.connect(self._compare_recorded)

    # Header and menus

    def _header(self) -> FoldingRow:
        header = FoldingRow("Menu", margins=(18, 14), spacing=2)
        header.setObjectName("header")
        name = QLabel("Cinetica")
        name.setFont(look.font(14, bold=True))
        name.setObjectName("brand")
        self.study_name = ShortLabel()
        self.study_name.setObjectName("quiet")
        self.study_name.setFont(look.font(10))
        header.add(name)
        header.row.addSpacing(look.px(8))
        header.add(self.study_name, stretch=2)
        for place, (title, entries) in enumerate(MENUS):
            header.add(self._menu_button(title, entries), fold=1 + place)
        header.add_more()
        header.row.addStretch(1)
        self.page_buttons = []
        for entry in PAGES:
            shown = button(entry.words, "", partial(self.show_page, entry.action), size=10, switch=True)
            keyed_tip(shown, f"{entry.words}: {self.actions_by_name[entry.action].text()} ({{{entry.action}}})")
            shown.setChecked(entry.action == self._shown_page)
            self.page_buttons.append(shown)
            header.add(shown)
        header.row.addSpacing(look.px(6))
        self.drills = Chooser()
        self.drills.setObjectName("drills")
        self.drills.setAccessibleName("Drill")
        self.drills.setFont(look.font(10))
        self.drills.setMaximumWidth(look.px(230))
        self.drills.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.drills.setMinimumContentsLength(12)
        self.drills.setMaxVisibleItems(30)
        self.drills.activated.connect(self._choose_drill)
        self.clock = OpensButton()
        self.clock.setFont(look.font(10))
        self.clock.setAccessibleName("Clock")
        self.clock.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Preferred)
        self.clock.clicked.connect(self._open_clock)
        header.add(self.drills)
        header.row.addSpacing(look.px(6))
        header.add(self.clock)
        header.setFixedHeight(name.sizeHint().height() + look.px(22))
        return header

    def showEvent(self, event: QShowEvent) -> None:
        """How much the frame takes is known only once the window is on the screen."""
        super().showEvent(event)
        QTimer.singleShot(0, self, lambda: keep_on_screen(self))

    def _compare_recorded(self, name: str) -> None:
        self.show_page("compare")
        self.session.told.emit(f"“{name}” is recorded. Here every tune answers the same hands.")

    def show_page(self, action: str) -> None:
        """Show the page of an action; the actions that are another page's alone cannot be taken."""
        self._shown_page = action
        self.desk.show_page(action)
        for entry, each in zip(PAGES, self.page_buttons, strict=True):
            each.setChecked(entry.action == action)
        for page in self.desk.pages_made:
            for name in page.OWN_ACTIONS:
                self.actions_by_name[name].setEnabled(page is self.desk.shown)

    def _choose_drill(self, _: int) -> None:
        self.session.choose_drill(self.drills.currentData())

    def _menu_button(self, title: str, entries: tuple[str, ...]) -> QToolButton:
        made = button(title, title.replace("&", ""), size=10)
        made.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        made.setMenu(self._menu(entries, made))
        return made

    def _menu(self, entries: tuple[str, ...], parent: QWidget) -> QMenu:
        menu = QMenu(parent)
        menu.setFont(look.font(10))
        for entry in entries:
            if entry == SEPARATOR:
                menu.addSeparator()
            elif entry == RECENT:
                recent = menu.addMenu(RECENT)
                recent.setFont(look.font(10))
                recent.aboutToShow.connect(partial(self.documents.fill_recent, recent))
            elif entry == PICTURES:
                pictures = self._menu(PICTURE_MENU, menu)
                pictures.setTitle(PICTURES)
                menu.addMenu(pictures)
            else:
                menu.addAction(self.actions_by_name[entry])
        return menu

    def _open_tune_menu(self, at: QPoint) -> None:
        self._menu(TUNE_MENU, self).popup(at)

    def _make_actions(self) -> None:
        made: dict[str, QAction] = {"undo": UndoAction(self.session, self), "redo": RedoAction(self.session, self)}
        slots = self._slots()
        for name, keys, meaning in KEYS:
            action = made.get(name) or QAction(f"{meaning[0].upper()}{meaning[1:]}", self)
            if name in slots:
                action.triggered.connect(partial(self._do, slots[name]))
            action.setShortcuts([QKeySequence(key) for key in keys])
            self.actions_by_name[name] = action
            self.addAction(action)
        for number in range(MOST_TUNES):
            action = QAction(f"Show or hide tune {number + 1}", self)
            action.setShortcut(QKeySequence(str(number + 1)))
            action.triggered.connect(partial(self._do, partial(self._toggle, number)))
            self.addAction(action)

    def _do(self, slot: Callable[[], object], _checked: bool = False) -> None:
        """A drag that is still going on ends first: what it drags may be gone after the action."""
        self.session.end_from_outside()
        slot()

    def _slots(self) -> dict[str, Callable[[], object]]:
        """What each key of `keys.KEYS` does. The page is looked up when it is done: it changes with the size of
        text."""
        session, commands = self.session, self.commands
        return {
            "back": lambda: self.page.transport.step(-1),
            "forward": lambda: self.page.transport.step(1),
            "back_ten": lambda: self.page.transport.step(-10),
            "forward_ten": lambda: self.page.transport.step(10),
            "start": lambda: session.set_cursor(0),
            "end": lambda: session.set_cursor(session.last_row),
            "previous_mark": lambda: self.page.transport.to_mark(-1),
            "next_mark": lambda: self.page.transport.to_mark(1),
            "play": lambda: self.page.transport.toggle(),
            "loop": lambda: self.page.transport.loop.toggle(),
            "fit": lambda: self.page.fit(),
            "line_up": lambda: self.page.comparing.next_anchor(),
            "difference": lambda: self.page.comparing.set(differences=not self.page.comparing.differences),
            "part": lambda: self.page.find_parting(),
            "explain": lambda: self.page.bar.explain.toggle(),
            "table": lambda: self.page.bar.table.toggle(),
            "rates": self.show_rates,
            "course": lambda: self.page.stage.toggle_editing(),
            "hands": lambda: self.page.hands.setFocus(),
            "sheet": lambda: self.sheet.view.setFocus(),
            "find": lambda: self.sheet.search.setFocus(),
            "differing": lambda: self.sheet.differing.toggle(),
            "clear_wake": session.clear_wake,
            "new_tune": commands.new_tune, "duplicate": commands.duplicate, "rename": commands.rename,
            "tune_note": commands.edit_note,
            "snapshot": commands.snapshot, "put_back": commands.put_back, "reference": commands.make_reference,
            "hide": commands.hide,
            "tune_left": partial(commands.move, -1), "tune_right": partial(commands.move, 1),
            "remove_tune": commands.remove,
            "new_drill": partial(commands.new_drill, "side"), "new_drill_above": partial(commands.new_drill, "top"),
            "copy_drill": commands.copy_drill, "rename_drill": commands.rename_drill,
            "drill_note": commands.edit_drill_note,
            "remove_drill": commands.remove_drill, "previous_drill": partial(commands.next_drill, -1),
            "next_drill": partial(commands.next_drill, 1),
            "lay_over": commands.lay_over, "drill_length": lambda: self.page.hands.ask_length(),
            **{entry.action: partial(self.show_page, entry.action) for entry in PAGES},
            "new": self.new, "new_window": self.new_window, "open": self.documents.open, "save": self.documents.save,
            "save_as": self.documents.save_as,
            "report": self.exchange.save_report, "save_traces": self.exchange.save_traces,
            "save_measures": self.exchange.save_measures,
            "picture_page": lambda: self.exchange.save_picture(self.page, "page"),
            "picture_stage": lambda: self.exchange.save_picture(self.page.stage, "stage"),
            "picture_strips": lambda: self.exchange.save_picture(self.page.below_stage, "curves"),
            "picture_strip": lambda: self.exchange.save_strip(self.page.strips),
            "history": self.show_history, "milestone": self.commands.milestone,
            "hand_over": partial(self._hand_over, 0), "import_numbers": partial(self._hand_over, 1),
            "proof": lambda: self.exchange.write_proof(self.commands.tune),
            "import_log": self.exchange.import_log, "remove_log": self.exchange.remove_log,
            "settings": self.open_preferences,
            "night": lambda: self.set_look(look.DAY if self.look is look.NIGHT else look.NIGHT),
            "larger": partial(self.change_text_size, 1), "smaller": partial(self.change_text_size, -1),
            "help": self.show_help, "quit": self.close,
        }  # fmt: skip

    def _toggle(self, number: int) -> None:
        if number < len(self.session.tunes):
            self.session.toggle(self.session.tunes[number][1])

    def change_text_size(self, by: int) -> None:
        """The next larger or smaller text."""
        place = (
            min(max(look.TEXT_SCALES.index(self._text_scale) + by, 0), len(look.TEXT_SCALES) - 1)
            if self._text_scale in look.TEXT_SCALES
            else 0
        )
        self.set_text_size(look.TEXT_SCALES[place])

    def set_text_size(self, scale: float) -> None:
        """Header and page are made anew."""
        if scale == self._text_scale:
            return
        self._text_scale = scale
        look.set_text_scale(self._text_scale)
        QApplication.setFont(look.font(10))
        # Menus, tooltips and dialogs take their sizes from the style sheet's fonts.
        self.desk.leave()
        chosen = Remembered(self.desk.kept)
        self.desk.keep(chosen)
        # What is asking may be a menu of the page that goes: it goes when the event loop comes round, and until then
        # it must be held, since Qt still calls its widgets.
        if (leaving := self.takeCentralWidget()) is not None:
            leaving.hide()
            leaving.deleteLater()
            self._leaving = leaving
        self.desk = self._new_desk()
        self.desk.restore(chosen)
        self._list_drills()
        self._say_study()
        self.set_look(self.look)
        self.show_page(self._shown_page)
        self.session.drill_changed.emit()
        self.session.traces_changed.emit()
        self.session.figures_changed.emit()

    def _list_drills(self) -> None:
        drill, names = self.session.drill, [each.name for each in self.session.study.drills]
        self.drills.set_tip(drill.note if drill else "")
        if (
            names == [self.drills.itemData(row) for row in range(self.drills.count())]
            and drill
            and self.drills.currentData() == drill.name
        ):
            self.drills.setItemData(self.drills.currentIndex(), plain_tip(drill.note), 3)
            return
        self.drills.clear()
        for place, each in enumerate(self.session.study.drills):
            self.drills.addItem(each.name, each.name)
            self.drills.setItemData(place, plain_tip(each.note), 3)
            if each is drill:
                self.drills.setCurrentIndex(place)

    def _say_study(self, *_: object) -> None:
        study = self.session.study
        changed = "" if self.session.undo_stack.isClean() else " •"
        self.study_name.setText(study.name + changed)
        self.study_name.set_tip(f"{study.name}\n{self.session.path or 'not saved in a file yet'}")
        self.setWindowTitle(f"{study.name}{changed} — Cinetica")
        self.clock.setText(f"Clock  {clock_words(study.clock)}")
        self.clock.setToolTip(f"The clock under which every tune runs: {clock_words(study.clock)}")

    def new(self) -> None:
        from cinetica.desk.dialogs.new_study import NewStudy

        chosen = NewStudy(self).chosen()
        if chosen is not None:
            self.documents.show(chosen.make(), None)

    def new_window(self) -> None:
        """What is here now, once more: two drills of one study side by side. It is a study of its own from then on."""
        if self.documents.open_another is not None:
            self.documents.open_another(self.session.study, None)

    def _hand_over(self, direction: int) -> None:
        from cinetica.desk.dialogs.hand_over import HandOver

        if tune := self.commands.tune:
            dialog = HandOver(self.session, tune, self)
            dialog.directions.setCurrentIndex(direction)
            run(dialog)

    def show_rates(self) -> None:
        from cinetica.desk.dialogs.rates import Rates

        if self.commands.drill and (tune := self.commands.tune):
            run(Rates(self.session, tune, self))

    def _open_clock(self) -> None:
        panel = ClockPanel(self.session, self.look, self)
        corner = self.clock.mapToGlobal(QPoint(self.clock.width(), self.clock.height()))
        panel.move(corner.x() - panel.sizeHint().width(), corner.y())
        panel.show()

    def set_look(self, palette: look.Palette) -> None:
        self.look = palette
        self._dress()
        self.desk.set_look(palette)

    def _dress(self) -> None:
        """The window's own style sheet: with the application's, every widget would be dressed anew whenever it gets a
        parent."""
        palette, sheet = look.qt_palette(self.look), look.style_sheet(self.look)
        if QApplication.palette() != palette:
            QApplication.setPalette(palette)
        if self.styleSheet() != sheet:
            # Its grounds, too, whatever another window does to the application's.
            self.setPalette(palette)
            self.setStyleSheet(sheet)

    def help_dialog(self) -> QDialog:
        dialog = Dialog("How to use Cinetica", self)
        text = QTextBrowser()
        text.setHtml(help_text())
        layout = QVBoxLayout(dialog)
        layout.addWidget(text)
        dialog.fit(84, 44)
        return dialog

    def show_help(self) -> None:
        run(self.help_dialog())

    # Files and what stands beside the page. A dialog is imported when it is first asked for: a start does not wait for
    # it.

    def open_preferences(self) -> None:
        from cinetica.desk.dialogs.preferences import Preferences

        dialog = Preferences(self.actions_by_name, self.look is look.NIGHT, self._text_scale, self._kept_after, self)
        dialog.look_changed = lambda night: self.set_look(look.NIGHT if night else look.DAY)
        dialog.scale_changed = self.set_text_size
        dialog.kept_after_changed = self._set_kept_after
        run(dialog)
        self._keep_settings()

    def _set_kept_after(self, seconds: int) -> None:
        self._kept_after = seconds
        self.documents.set_kept_after(seconds)

    def show_history(self) -> None:
        from cinetica.desk.dialogs.history import History

        if self._history is None:
            self._history = History(self.session, self)
        self._history.show()
        self._history.raise_()

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(url.isLocalFile() for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """Studies are opened, tables are taken as curves from the game."""
        event.acceptProposedAction()
        for path in (Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()):
            if path.suffix.lower() == ".json":
                self.documents.open_file(path)
            else:
                self.exchange.import_log(path)

    def _keep_settings(self) -> None:
        if self.settings is not None:
            self.settings.set_state("geometry", self.saveGeometry())
            self.settings.set(Kept.NIGHT, self.look is look.NIGHT)
            self.settings.set(Kept.TEXT_SCALE, self._text_scale)
            self.settings.set(Kept.KEPT_AFTER, self._kept_after)
            self.settings.set(Kept.SHORTCUTS, kept_shortcuts(self.actions_by_name))
            self.desk.keep(self.settings)
            self.settings.save()

    def closeEvent(self, event: QCloseEvent) -> None:
        if self.documents.may_leave():
            self.page.transport.stop()
            self._keep_settings()
            for signal in (self.session.undo_stack.indexChanged, self.session.undo_stack.cleanChanged):
                signal.disconnect(self._say_study)
            self.documents.close()
            if self._history is not None:
                self._history.close()
            self.closed.emit()
            event.accept()
        else:
            event.ignore()
