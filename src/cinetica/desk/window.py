"""The window: header, pages, menus and keys."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, cast

from PySide6.QtCore import QPoint, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QKeySequence, QShowEvent
from PySide6.QtWidgets import (
    QApplication,
    QMainWindow,
    QMessageBox,
    QVBoxLayout,
    QWidget,
)
from typing_extensions import override

from cinetica import __version__
from cinetica.desk import look
from cinetica.desk.actions.catalogue import ACTIONS, TUNE_MENU
from cinetica.desk.actions.commands import A_FILE, Commands
from cinetica.desk.actions.menus import Menus
from cinetica.desk.actions.navigation import to_drill, to_missed, to_survey
from cinetica.desk.actions.shortcuts import kept_shortcuts, set_keys, shortcuts_of
from cinetica.desk.compare.page import ComparePage
from cinetica.desk.dialogs.base import run
from cinetica.desk.documents import Documents
from cinetica.desk.export.exchange import Exchange
from cinetica.desk.game_link import GameLink
from cinetica.desk.game_sign import OFF
from cinetica.desk.header import UNSAVED, Header
from cinetica.desk.pages import PAGES
from cinetica.desk.preparation import Preparation, PreparationBar
from cinetica.desk.sheet.panel import Sheet
from cinetica.desk.side_windows import SideWindows
from cinetica.desk.state.session import Session
from cinetica.desk.state.settings import Kept, Remembered, Settings
from cinetica.desk.state.study_runs import StudyRuns
from cinetica.desk.state.undo_actions import RedoAction, UndoAction
from cinetica.desk.widget_state import follow, path_to, refresh_hover
from cinetica.desk.window_geometry import keep_on_screen, restore_geometry
from cinetica.desk.workspace import Workspace
from cinetica.files.recovery import RecoveryFile
from cinetica.model.editing import MOST_TUNES

if TYPE_CHECKING:
    from cinetica.desk.overview.page import OverviewPage
    from cinetica.desk.play.page import PlayPage
    from cinetica.desk.survey.page import SurveyPage

FIRST_SIZE = QSize(1280, 800)
ABOUT = (
    f"Cinetica {__version__}\n\nTune how a game character moves, and compare the curves frame by frame.\n\n"
    "MIT License. © 2026 the Cinetica maintainers."
)


class Window(QMainWindow):
    """A window on a study."""

    closed = Signal()

    session: Session
    commands: Commands
    documents: Documents
    exchange: Exchange
    side_windows: SideWindows
    game: GameLink
    study_runs: StudyRuns

    def __init__(
        self,
        session: Session,
        palette: look.Palette = look.DAY,
        settings: Settings | None = None,
        recovery: RecoveryFile | None = None,
        beside: Window | None = None,
    ) -> None:
        """`beside`: another window on the same study, if there is one."""
        super().__init__()
        # Opens another window on the same study, if there can be several.
        self.open_beside: Callable[[], object] | None = None
        self.session, self.settings = session, settings
        # What belongs to the window goes with it. Left to Python's collector, an object of Qt's could be deleted within
        # one of Qt's own calls, and wait forever for a lock that this call holds.
        session.setParent(self)
        self.setAcceptDrops(True)
        self._make_parts(recovery, beside)
        self._kept_after = Kept.KEPT_AFTER.default
        self.actions_by_name: dict[str, QAction] = {}
        self.text_scale = look.TEXT_SCALES[0]
        if settings is not None:
            palette = self._restore_preferences(settings, palette)
        look.set_text_scale(self.text_scale)
        if QApplication.font() != look.font(10):
            QApplication.setFont(look.font(10))
        self._make_actions()
        self.study_runs = StudyRuns(session)
        self._shown_page = PAGES[0].action
        self.preparation: Preparation | None = None
        self._leaving: QWidget | None = None
        self.desk = self._new_desk()
        restore_geometry(self, FIRST_SIZE)
        if settings is not None:
            self._restore_window(settings)
        self._listen()
        self._update_study()
        self.set_look(palette)

    def _listen(self) -> None:
        session, stack = self.session, self.session.undo_stack
        for signal in (session.study_changed, session.drill_changed, stack.indexChanged, stack.cleanChanged):
            signal.connect(self._update_study)
        self.study_runs.judged.connect(self._update_targets)

    def _make_parts(self, recovery: RecoveryFile | None, beside: Window | None) -> None:
        session = self.session
        self.commands = Commands(session, self)
        self.documents = Documents(session, self, self.settings, recovery, beside.documents if beside else None)
        self.exchange = Exchange(session, self)
        self.side_windows = SideWindows(session, self, partial(to_drill, self))
        self.game = GameLink(session, self)
        self.game.changed.connect(self._update_game)

    def _restore_window(self, settings: Settings) -> None:
        """Give the window the place, size and page settings that it had when it was closed."""
        if (geometry := settings.state("geometry")) is not None:
            self.restoreGeometry(geometry)
        self.desk.restore(settings)

    def _restore_preferences(self, settings: Settings, palette: look.Palette) -> look.Palette:
        """Set text size and autosave as stored; returns the stored palette, or this one."""
        kept_scale = settings.get(Kept.TEXT_SCALE)
        self.text_scale = kept_scale if kept_scale in look.TEXT_SCALES else look.TEXT_SCALES[0]
        self.set_kept_after(settings.get(Kept.KEPT_AFTER))
        return look.NIGHT if settings.get(Kept.NIGHT) else palette

    @property
    def page(self) -> ComparePage:
        """The page Compare."""
        return self.desk.compare

    @property
    def play(self) -> PlayPage:
        """The page Play."""
        return cast("PlayPage", self.desk.page("play_page"))

    @property
    def overview(self) -> OverviewPage:
        """The page Overview."""
        return cast("OverviewPage", self.desk.page("overview"))

    @property
    def survey(self) -> SurveyPage:
        """The page Survey."""
        return cast("SurveyPage", self.desk.page("survey"))

    @property
    def sheet(self) -> Sheet:
        """The sheet."""
        return self.desk.sheet

    def _new_desk(self) -> Workspace:
        """Header and pages, created for the current text size."""
        desk = Workspace(self.session, self.study_runs)
        whole = QWidget()
        self._column = layout = QVBoxLayout(whole)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        menus = Menus(self.actions_by_name, self.documents.fill_recent)
        self.header = Header(self.session, menus, self._shown_page)
        self.header.page_wanted.connect(self.show_page)
        self.header.clock_wanted.connect(self._open_clock)
        self.header.units_wanted.connect(self.session.change_units)
        self.header.missed_wanted.connect(partial(to_missed, self))
        self.header.game_wanted.connect(self.game.show_panel)
        self._update_game()
        self.header.show_targets(self.study_runs.words)
        layout.addWidget(self.header)
        if self.preparation is not None:
            layout.addWidget(PreparationBar(self.preparation))
        layout.addWidget(desk, 1)
        self.setCentralWidget(whole)
        # Qt would begin with the first menu.
        desk.sheet.view.setFocus()
        desk.sheet.view.tune_header.menu_wanted.connect(self._open_tune_menu)
        desk.sheet.view.tune_header.rename_wanted.connect(lambda _: self.commands.rename())
        desk.sheet.figures.number_wanted.connect(self.commands.find_number)
        desk.sheet.view.survey_wanted.connect(partial(to_survey, self))
        desk.made.connect(self._page_was_made)
        self.commands.current_tune = desk.sheet.view.current_tune
        return desk

    def _page_was_made(self, action: str) -> None:
        if action == "play_page":
            self.play.recorded.connect(self._compare_recorded)
            self.play.rolling.linked = self.game.recent
            self.play.rolling.linked_place = lambda: self.session.runs.live_place
        if action == "overview":
            self.overview.opened.connect(partial(to_drill, self))
            self.overview.file_wanted.connect(partial(self.commands.hold, A_FILE))
        if action == "survey":
            self.survey.picture_wanted.connect(lambda: self.exchange.save_picture(self.survey.view, "survey"))
            self.survey.numbers_wanted.connect(lambda: self.exchange.save_table(self.survey.view))
            self.survey.report_wanted.connect(lambda: self.exchange.pin(self.survey.view))

    def prepare(self, preparation: Preparation) -> None:
        """Say on every page that the kernel is being compiled, until it has finished."""
        self.preparation = preparation
        preparation.finished.connect(partial(setattr, self, "preparation", None))
        self.page.prepare()
        self._column.insertWidget(1, PreparationBar(preparation))

    # Header and menus

    @override
    def showEvent(self, event: QShowEvent) -> None:
        """The size of the frame is known only now, when the window is on the screen."""
        super().showEvent(event)
        QTimer.singleShot(0, self, lambda: keep_on_screen(self))

    def _compare_recorded(self, name: str) -> None:
        self.show_page("compare")
        self.session.message.emit(f"“{name}” is recorded. Every tune now gets the same input.")

    def show_match(self) -> None:
        """Show the panel that matches a curve, on the page where it is drawn."""
        self.show_page("compare")
        self.side_windows.show_match(self.page.wanted)

    def show_page(self, action: str) -> None:
        """Show a page, and disable the actions of the others."""
        self._shown_page = action
        self.desk.show_page(action)
        self.header.mark_page(action)
        for page in self.desk.pages_made:
            for name in page.OWN_ACTIONS:
                self.actions_by_name[name].setEnabled(page is self.desk.shown)

    def _update_game(self) -> None:
        connection = self.game.known_connection
        self.header.show_game(connection.state if connection is not None else OFF, self.game.words)

    def _update_targets(self) -> None:
        self.header.show_targets(self.study_runs.words)

    def _open_tune_menu(self, at: QPoint) -> None:
        Menus(self.actions_by_name, self.documents.fill_recent).menu(TUNE_MENU, self).popup(at)

    def _make_actions(self) -> None:
        made: dict[str, QAction] = {"undo": UndoAction(self.session, self), "redo": RedoAction(self.session, self)}
        for id, declared in ACTIONS.items():
            action = made.get(id)
            if action is None:
                action = QAction(declared.label, self)
                action.triggered.connect(partial(self._do, partial(declared.run, self)))
            action.setToolTip(declared.sentence)
            action.setShortcuts([QKeySequence(key) for key in declared.keys])
            self.actions_by_name[id] = action
            self.addAction(action)
        for number in range(MOST_TUNES):
            action = QAction(f"Show or hide tune {number + 1}", self)
            # With Alt it works in a cell, too, into which a digit is typed.
            action.setShortcuts([QKeySequence(str(number + 1)), QKeySequence(f"Alt+{number + 1}")])
            action.triggered.connect(partial(self._do, partial(self._toggle, number)))
            self.addAction(action)
        if self.settings is not None:
            for name, keys in shortcuts_of(self.settings.get(Kept.SHORTCUTS)).items():
                set_keys(name, self.actions_by_name[name], keys)

    def _do(self, slot: Callable[[], object], _checked: bool = False) -> None:
        """Run an action, ending any drag first, since the action may remove what it drags."""
        self.session.end_from_outside()
        slot()

    def _toggle(self, number: int) -> None:
        if number < len(self.session.tunes):
            self.session.toggle(self.session.tunes[number][1])

    def change_text_size(self, by: int) -> None:
        """Step to a larger or smaller text."""
        place = (
            min(max(look.TEXT_SCALES.index(self.text_scale) + by, 0), len(look.TEXT_SCALES) - 1)
            if self.text_scale in look.TEXT_SCALES
            else 0
        )
        self.set_text_size(look.TEXT_SCALES[place])

    def set_text_size(self, scale: float) -> None:
        """Rebuild header and pages at another text size."""
        if scale == self.text_scale:
            return
        self.text_scale = scale
        look.set_text_scale(self.text_scale)
        QApplication.setFont(look.font(10))
        # Menus, tooltips and dialogs take their sizes from the style sheet's fonts.
        focused = path_to(QApplication.focusWidget(), self)
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
        self._update_study()
        self.show_page(self._shown_page)
        self.session.announce_all()
        if focused is not None and (widget := follow(focused, self)) is not None:
            widget.setFocus(Qt.FocusReason.OtherFocusReason)
        # When all of it is laid out.
        QTimer.singleShot(0, self, lambda: refresh_hover(self))

    def _update_study(self, *_: object) -> None:
        session = self.session
        saved = session.undo_stack.isClean()
        if self.header.show_study(saved, str(session.path or "not saved yet")):
            number = f" ({self.documents.number})" if self.documents.number > 1 else ""
            self.setWindowTitle(f"{session.study.name}{number}{'' if saved else f' {UNSAVED}'} — Cinetica")

    def new(self) -> None:
        """Ask for a template and show a new study."""
        from cinetica.desk.dialogs.new_study import NewStudy

        chosen = NewStudy(self).chosen()
        if chosen is not None:
            self.documents.show(chosen.make(), None)

    def new_window(self) -> None:
        """Open another window on the same study."""
        if self.open_beside is not None:
            self.open_beside()

    def _open_clock(self) -> None:
        from cinetica.desk.dialogs.clock_panel import ClockPanel

        ClockPanel(self.session, self).show_under(self.header.clock)

    def set_look(self, palette: look.Palette) -> None:
        """Set the colours of all windows of this process."""
        look.set_palette(palette)
        if self.settings is not None and self.settings.get(Kept.NIGHT) is not (palette is look.NIGHT):
            self.settings.set(Kept.NIGHT, palette is look.NIGHT)
        self._apply_palette()
        self._update_game()
        for other in QApplication.topLevelWidgets():
            if isinstance(other, Window) and other is not self:
                other._apply_palette()
                other._update_game()

    def _apply_palette(self) -> None:
        """Set the window's style sheet.

        One set on the application would restyle every widget whenever it gets a parent.
        """
        palette, sheet = look.qt_palette(look.palette()), look.style_sheet(look.palette())
        if QApplication.palette() != palette:
            QApplication.setPalette(palette)
        if self.styleSheet() != sheet:
            # Its grounds, too, whatever another window does to the application's.
            self.setPalette(palette)
            self.setStyleSheet(sheet)

    def find_command(self) -> None:
        """Search for a command, and run it."""
        from cinetica.desk.dialogs.command_search import CommandSearch

        dialog = CommandSearch(self.actions_by_name, self)
        run(dialog)
        if dialog.chosen is not None:
            dialog.chosen.trigger()

    def quit(self) -> None:
        """Close all windows; one with unsaved work asks first, and may stay open."""
        QApplication.closeAllWindows()

    def show_about(self) -> None:
        """Show version and licence."""
        QMessageBox.about(self, "About Cinetica", ABOUT)

    def show_help(self) -> None:
        """Show the guide, at the job for the current page."""
        self.side_windows.show_guide(self.desk.shown.guide)

    # Files and what stands beside the page. A dialog is imported when it is first asked for: a start does not wait for
    # it.

    def open_preferences(self) -> None:
        """Show the preferences."""
        from cinetica.desk.dialogs.preferences import Preferences

        dialog = Preferences(
            self.actions_by_name, look.palette() is look.NIGHT, self.text_scale, self._kept_after, self
        )
        dialog.look_changed = lambda night: self.set_look(look.NIGHT if night else look.DAY)
        dialog.scale_changed = self.set_text_size
        dialog.kept_after_changed = self.set_kept_after
        run(dialog)
        self._keep_settings()

    def set_kept_after(self, seconds: int) -> None:
        """Set how long after an edit unsaved work is written, in s."""
        self._kept_after = seconds
        self.documents.file.set_kept_after(seconds)

    @override
    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(url.isLocalFile() for url in event.mimeData().urls()):
            event.acceptProposedAction()

    @override
    def dropEvent(self, event: QDropEvent) -> None:
        """Open studies, and import tables as game logs."""
        event.acceptProposedAction()
        for path in (Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()):
            if path.suffix.lower() == ".json":
                self.documents.open_file(path)
            else:
                self.exchange.import_log(path)

    def _keep_settings(self) -> None:
        if self.settings is not None:
            self.settings.set_state("geometry", self.saveGeometry())
            self.settings.set(Kept.NIGHT, look.palette() is look.NIGHT)
            self.settings.set(Kept.TEXT_SCALE, self.text_scale)
            self.settings.set(Kept.KEPT_AFTER, self._kept_after)
            self.settings.set(Kept.SHORTCUTS, kept_shortcuts(self.actions_by_name))
            self.desk.keep(self.settings)
            self.settings.save()

    @override
    def closeEvent(self, event: QCloseEvent) -> None:
        if self.documents.may_leave():
            self.page.transport.stop()
            self._keep_settings()
            for signal in (self.session.undo_stack.indexChanged, self.session.undo_stack.cleanChanged):
                signal.disconnect(self._update_study)
            self.study_runs.stop()
            # The undo list is closed before the file, so that clearing it leaves no autosave behind.
            self.game.close()
            self.session.close()
            self.documents.close()
            self.side_windows.close()
            self.closed.emit()
            event.accept()
        else:
            event.ignore()
