"""What happens on an unexpected error: it is logged, the studies are saved, and the user is told."""

from __future__ import annotations

import logging
import platform
import sys
import traceback
from collections.abc import Callable
from datetime import datetime
from functools import cache
from pathlib import Path
from types import TracebackType

from PySide6.QtCore import QMessageLogContext, QtMsgType, qInstallMessageHandler, qVersion
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QDialogButtonBox, QPlainTextEdit, QVBoxLayout, QWidget
from typing_extensions import override

from cinetica import __version__
from cinetica.desk import look
from cinetica.desk.dialogs.base import Dialog
from cinetica.desk.widgets import PlainLabel
from cinetica.files.app_folders import log_file, state_folder
from cinetica.files.atomic_write import write_atomically
from cinetica.files.study_json import study_text
from cinetica.model.study import Study

log = logging.getLogger("cinetica")
LARGEST_LOG = 512 * 1024
Studies = Callable[[], list[Study]]


class _Log(logging.Handler):
    """A log file that is opened with its first line, since importing what that needs takes a hundredth of a start.

    If it cannot be written, warnings go to standard error.
    """

    _file: logging.Handler | None = None

    @override
    def emit(self, record: logging.LogRecord) -> None:
        if self._file is None:
            self._file = _opened_log()
        if record.levelno >= self._file.level:
            self._file.handle(record)


def _opened_log() -> logging.Handler:
    from logging.handlers import RotatingFileHandler

    try:
        file = RotatingFileHandler(log_file(), maxBytes=LARGEST_LOG, backupCount=1, encoding="utf-8", delay=True)
    except OSError:
        handler = logging.StreamHandler()
        handler.setLevel(logging.WARNING)
        return handler
    file.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
    return file


def start_log() -> None:
    """Log to the state directory."""
    log.addHandler(_Log())
    log.setLevel(logging.INFO)
    qInstallMessageHandler(_from_qt)


@cache
def log_versions() -> None:
    """Log the versions, once there is time."""
    log.info(
        "Cinetica %s, Python %s, Qt %s, %s", __version__, platform.python_version(), qVersion(), platform.platform()
    )


def _from_qt(kind: QtMsgType, context: QMessageLogContext, message: str) -> None:
    level = {
        QtMsgType.QtDebugMsg: logging.DEBUG,
        QtMsgType.QtInfoMsg: logging.INFO,
        QtMsgType.QtWarningMsg: logging.WARNING,
    }.get(kind, logging.ERROR)
    log.log(level, "Qt: %s", message)


def save_copies(studies: list[Study]) -> list[Path]:
    """Save each study to a file in the state directory; returns those that could be written."""
    written: list[Path] = []
    try:
        folder = state_folder() / "aside"
    except OSError as error:
        log.error("not saved aside: %s", error)
        return written
    for number, study in enumerate(studies, 1):
        path = folder / f"{datetime.now():%Y-%m-%d-%H-%M-%S}-{number}.json"
        try:
            folder.mkdir(exist_ok=True)
            write_atomically(path, study_text(study).encode())
        except OSError as error:
            log.error("not saved aside: %s", error)
        else:
            written.append(path)
    return written


class CrashHandler:
    """Replaces `sys.excepthook`. Shows one dialog at a time; further errors meanwhile are only logged."""

    def __init__(self, studies: Studies) -> None:
        self._studies = studies
        self.dialog: CrashDialog | None = None

    def install(self) -> None:
        """Handle all uncaught exceptions."""
        sys.excepthook = self

    def __call__(self, kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        """Log the error, save the studies and tell the user."""
        if issubclass(kind, KeyboardInterrupt):
            sys.__excepthook__(kind, error, trace)
            return
        details = "".join(traceback.format_exception(kind, error, trace))
        log.critical("unexpected error\n%s", details)
        if self.dialog is not None:
            return
        aside = save_copies(self._studies())
        self.dialog = CrashDialog(f"{kind.__name__}: {error}", details, aside)
        self.dialog.exec()
        self.dialog = None


def _log_words() -> str:
    try:
        return str(log_file())
    except OSError as error:
        return f"none, {error.strerror or error}"


class CrashDialog(Dialog):
    """What happened, where the study was saved, and the details to copy."""

    def __init__(self, what: str, details: str, aside: list[Path], parent: QWidget | None = None) -> None:
        super().__init__("Something went wrong in Cinetica", parent)
        places = "\n".join(str(path) for path in aside)
        kept = (
            f"Your study has been autosaved in\n{places}"
            if aside
            else "Your study could not be autosaved: save it under another name now."
        )
        words = PlainLabel(
            "This is a bug in Cinetica, not a mistake of yours. Your last action may not have taken"
            f" effect.\n\n{kept}\n\nYou can go on. If anything looks wrong, save under another name and restart."
        )
        words.setWordWrap(True)
        self.text = QPlainTextEdit(
            f"Cinetica {__version__}, Qt {qVersion()}, {platform.platform()}\n{what}\n\n{details}\nLog:"
            f" {_log_words()}\n",
            readOnly=True,
        )
        self.text.setFont(look.fixed_font())
        self.text.setAccessibleName("What happened")
        buttons = QDialogButtonBox()
        copy = buttons.addButton("&Copy the details", QDialogButtonBox.ButtonRole.ActionRole)
        copy.clicked.connect(lambda: QGuiApplication.clipboard().setText(self.text.toPlainText()))
        go_on = buttons.addButton("&Go on", QDialogButtonBox.ButtonRole.AcceptRole)
        go_on.setDefault(True)
        go_on.clicked.connect(self.accept)
        layout = QVBoxLayout(self)
        layout.addWidget(words)
        layout.addWidget(self.text, 1)
        layout.addWidget(buttons)
        self.fit(96, 32)
