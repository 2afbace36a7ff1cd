"""Work in a thread while the window stays alive, under a dialog that says what is being done."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import TypeVar

from PySide6.QtCore import QEventLoop, Qt, QTimer
from PySide6.QtWidgets import QProgressDialog, QWidget

from cinetica.desk import look

T = TypeVar("T")
# Work that takes less than this, in ms, shows no dialog.
SOON = 500


def progress_dialog(title: str, words: str, steps: int, window: QWidget) -> QProgressDialog:
    """A dialog for work of this many steps; 0 if the number is unknown."""
    progress = QProgressDialog(words, "Cancel", 0, steps, window)
    progress.setWindowTitle(title)
    progress.setWindowModality(Qt.WindowModality.WindowModal)
    progress.setMinimumDuration(SOON)
    progress.setMinimumWidth(40 * look.width("n"))
    return progress


def meanwhile(work: Callable[[], T], is_cancelled: Callable[[], bool]) -> T | None:
    """The result of work done in a thread; None if it is cancelled before. What the work raises is raised here."""
    pool = ThreadPoolExecutor(1, thread_name_prefix="export")
    running, ended = pool.submit(work), QEventLoop()
    # Cancelled work finishes unseen.
    pool.shutdown(wait=False)
    timer = QTimer(interval=30)
    timer.timeout.connect(lambda: ended.quit() if running.done() or is_cancelled() else None)
    timer.start()
    ended.exec()
    return None if is_cancelled() else running.result()


def finished(work: Callable[[], T], title: str, words: str, window: QWidget) -> T | None:
    """The result of work that is not to be cancelled half done."""
    progress = progress_dialog(title, words, 0, window)
    progress.setCancelButton(None)
    # Shown at once: it keeps the window from being closed during the work.
    progress.setMinimumDuration(0)
    progress.setValue(0)
    try:
        # Closing the dialog cancels nothing.
        return meanwhile(work, lambda: False)
    finally:
        progress.reset()
        progress.deleteLater()
