"""Starting the window: fonts, look, and the kernel, which is compiled in another process."""

from __future__ import annotations

import gc
import sys
from functools import partial
from pathlib import Path

import pyqtgraph as pg
from PySide6.QtCore import QLocale, Qt, QTimer, qInstallMessageHandler
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication

from cinetica.desk import look
from cinetica.desk.dialogs.crash_report import CrashHandler, log, log_versions, start_log
from cinetica.desk.preparation import Preparation
from cinetica.desk.state.session import Session
from cinetica.desk.state.settings import Kept, Settings
from cinetica.desk.warm import CURVES, FIGURES, is_ready
from cinetica.desk.window import Window
from cinetica.files.app_folders import recovery_folder
from cinetica.files.recovery import RecoveryFile, UnsavedStudy, unsaved_studies
from cinetica.files.shipped import OPENS_AT, shipped_study
from cinetica.model.study import Study
from cinetica.reading.reader import READER

DESKTOP_ID = "org.cinetica.Cinetica"
ICON = Path(__file__).parents[1] / "data" / f"{DESKTOP_ID}.svg"


def application() -> QApplication:
    """The QApplication, with our font."""
    app = QApplication.instance()
    if not isinstance(app, QApplication):
        app = QApplication(sys.argv[:1])
    app.setApplicationName("cinetica")
    app.setApplicationDisplayName("Cinetica")
    app.setDesktopFileName(DESKTOP_ID)
    app.setWindowIcon(QIcon(str(ICON)))
    app.setStyle("Fusion")
    # Numbers are read and written in one way on every desktop; see widgets.NumberBox.
    plain = QLocale(QLocale.Language.C)
    plain.setNumberOptions(QLocale.NumberOption.OmitGroupSeparator | QLocale.NumberOption.RejectGroupSeparator)
    QLocale.setDefault(plain)
    app.setFont(look.font(10))
    pg.setConfigOptions(antialias=True)
    return app


class Windows:
    """The windows of this process. Closing the last one ends it."""

    def __init__(self, settings: Settings) -> None:
        self.settings = settings
        self.open_ones: list[Window] = []

    def open(self, study: Study | None, path: Path | None) -> Window:
        """Open a window; the kernel is loaded once it is painted, or first compiled by another process."""
        return self._show(Window(Session(study, path), settings=self.settings, recovery=_recovery_file()))

    def open_beside(self, window: Window) -> Window:
        """Open another window on the study of a window."""
        session = Session(beside=window.session)
        session.choose_drill(window.session.selection.drill_name)
        return self._show(Window(session, settings=self.settings, beside=window))

    def _show(self, window: Window) -> Window:
        window.documents.open_another = self.open
        window.open_beside = partial(self.open_beside, window)
        # Delete its widgets with it, not whenever Python's garbage collector runs.
        window.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        window.closed.connect(partial(self.open_ones.remove, window))
        window.destroyed.connect(lambda: QTimer.singleShot(0, freeze_live_objects))
        if self.open_ones:
            corner = self.open_ones[-1].pos()
            window.move(corner.x() + 32, corner.y() + 32)
        self.open_ones.append(window)
        window.show()
        if window.documents.file.recovery is None:
            words = "Autosave is off: its folder cannot be written. Save often."
            QTimer.singleShot(0, window, lambda: window.session.refused.emit(words))
        curves, figures = is_ready(CURVES), is_ready(FIGURES)
        if curves:
            QTimer.singleShot(0, window, lambda: start_session(window, figures=figures))
        if not (curves and figures):
            prepare(window)
        return window

    def offer_recovery(self) -> None:
        """Ask what to do with studies left by a crash, if there are any."""
        try:
            found = unsaved_studies(recovery_folder())
        except OSError as error:
            log.warning("recovery folder: %s", error)
            return
        if not found:
            return
        from cinetica.desk.dialogs.base import run as run_dialog
        from cinetica.desk.dialogs.recovery import RecoveryDialog

        dialog = RecoveryDialog(found, self.open_ones[-1])
        run_dialog(dialog)
        self.settle(found, dialog.ticked, dialog.answer)

    def settle(self, found: list[UnsavedStudy], ticked: list[UnsavedStudy], answer: int) -> None:
        """Recover, keep or delete the studies left by a crash, as answered."""
        from cinetica.desk.dialogs.recovery import LATER, THROW_AWAY

        for left in found:
            if left not in ticked or answer == LATER:
                left.leave()
            elif answer == THROW_AWAY:
                left.remove()
            else:
                window = self.open_ones[-1]
                window = window if window.documents.pristine else self.open(None, None)
                window.documents.recover(left)


def _recovery_file() -> RecoveryFile | None:
    try:
        return RecoveryFile(recovery_folder())
    except OSError as error:
        log.warning("no recovery file: %s", error)
        return None


def prepare(window: Window) -> None:
    """Compile what is missing at the first start on a machine: curves are shown while figures are still to come."""
    preparation, session = Preparation(window), window.session

    def show_curves() -> None:
        if not session.ready:
            start_session(window, figures=False)

    def show_all() -> None:
        if session.ready:
            READER.load()
            session.start_figures()
        else:
            start_session(window)

    preparation.curves_ready.connect(show_curves)
    preparation.finished.connect(show_all)
    window.prepare(preparation)
    preparation.start()


def start(window: Window, *, figures: bool = True) -> None:
    """Load the kernel and show the traces; `figures`: whether figures can be read, too."""
    if figures:
        READER.load()
    window.session.start(figures=figures)


def start_session(window: Window, *, figures: bool = True) -> None:
    """As `start`, and prepare for further work once the curves are on the screen."""
    start(window, figures=figures)
    QTimer.singleShot(0, window, log_versions)
    QTimer.singleShot(0, window, freeze_live_objects)


def freeze_live_objects() -> None:
    """Exclude all live objects from Python's garbage collector.

    They stay for a while, and scanning them takes a fifth of a second. Called after a window has opened or closed.
    """
    gc.unfreeze()
    gc.collect()
    gc.freeze()


def run(study: Study | None, path: Path | None, drill: str = "") -> int:
    """Open the window, on a drill, and stay until it is closed; returns the exit status."""
    app = application()
    start_log()
    settings = Settings()
    windows = Windows(settings)
    CrashHandler(
        lambda: list({id(each.session.document): each.session.study for each in windows.open_ones}.values())
    ).install()
    first = study is None and not settings.get(Kept.STARTED)
    window = windows.open(shipped_study("harbour") if first else study, path)
    if first:
        drill = OPENS_AT["harbour"]
    if drill:
        window.session.choose_drill(drill)
    if first:
        window.page.show_first_steps()
        settings.set(Kept.STARTED, True)
    window.raise_()
    QTimer.singleShot(0, windows.offer_recovery)
    # Python handles Ctrl+C only while its own code runs; this timer makes it run.
    awake = QTimer()
    awake.start(500)
    awake.timeout.connect(lambda: None)
    return app.exec()


def picture_of(
    study: Study, path: Path, *, drill: str = "", cursor: int = 0, size: tuple[int, int] = (1280, 800)
) -> None:
    """Write a picture of the window showing a study, as PNG; OSError if it cannot be written."""
    from cinetica.desk.export.pictures import save_picture

    # Without a screen Qt warns about features that need one.
    qInstallMessageHandler(lambda *_: None)
    app = application()
    window = Window(Session(study))
    window.resize(*size)
    window.show()
    start(window)
    if drill:
        window.session.choose_drill(drill)
    window.session.set_cursor(cursor)
    app.processEvents()
    try:
        save_picture(window, path, study.name)
    finally:
        window.close()
