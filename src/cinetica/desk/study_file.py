"""The file of a document: watched on disk, written, and its unsaved work kept in case of a crash.

Windows on one document share it; it is closed with the last of them.
"""

from __future__ import annotations

import hashlib
import logging
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path

from PySide6.QtCore import QCoreApplication, QFileSystemWatcher, QObject, QTimer, Signal

from cinetica.desk.state.document import Document
from cinetica.desk.state.settings import Kept
from cinetica.desk.state.undo_list import UndoList
from cinetica.files.recovery import RecoveryFile
from cinetica.files.study_json import StudyText, write_study

log = logging.getLogger(__name__)
# Seconds after the first edit at which it is kept: with the writing, less than the five that a crash may cost.
KEPT_AFTER = (1, 4)
# Writing a file causes several notifications.
SETTLED = 200


class StudyFile(QObject):
    """`not_kept`: why unsaved work could not be written."""

    not_kept = Signal(str)

    def __init__(self, document: Document, undo_list: UndoList, recovery: RecoveryFile | None) -> None:
        # It outlives the window that it was made for, if another one shows the document.
        super().__init__(QCoreApplication.instance())
        self.document, self._undo_list, self.recovery = document, undo_list, recovery
        # What each window does when another program has changed the file; the first one does it.
        self._changed: list[Callable[[], None]] = []
        self._text = StudyText()
        self.digest = b""
        self.watcher = QFileSystemWatcher(self)
        self._settle = self._timer(SETTLED, self._report_changed)
        self.watcher.fileChanged.connect(self._settle.start)
        self.wait = self._timer(1000 * Kept.KEPT_AFTER.default, self.keep)
        # The text is made and written in a thread, so that the window never waits for a disk.
        self.writer = ThreadPoolExecutor(max_workers=1, thread_name_prefix="recovery")
        undo_list.indexChanged.connect(self.schedule_autosave)
        undo_list.cleanChanged.connect(self.schedule_autosave)
        self.follow()

    def _timer(self, ms: int, slot: Callable[[], object]) -> QTimer:
        timer = QTimer(self)
        timer.setSingleShot(True)
        timer.setInterval(ms)
        timer.timeout.connect(slot)
        return timer

    def set_kept_after(self, seconds: int) -> None:
        """Set how long after an edit unsaved work is written, in s."""
        low, high = KEPT_AFTER
        self.wait.setInterval(1000 * min(max(seconds, low), high))

    # Against a crash

    @property
    def modified(self) -> bool:
        """Whether there are unsaved changes."""
        return not self._undo_list.isClean()

    def schedule_autosave(self) -> None:
        """Write unsaved work after a while."""
        if self.recovery is not None and not self.wait.isActive():
            self.wait.start()

    def keep(self) -> Future[None] | None:
        """Write unsaved work to the recovery file, or delete that if everything is saved."""
        if self.recovery is None:
            return None
        self.wait.stop()
        if not self.modified:
            return self.writer.submit(self.recovery.forget)
        done = self.writer.submit(self.recovery.keep, self.document.study, self.document.path)
        done.add_done_callback(self._report_not_kept)
        return done

    def _report_not_kept(self, done: Future[None]) -> None:
        error = done.exception()
        if isinstance(error, OSError):
            log.warning("recovery file not written: %s", error)
            self.not_kept.emit(f"Autosave failed: {error.strerror or error}. Save the study yourself.")

    # The file

    @property
    def is_changed(self) -> bool:
        """Whether another program has changed the file since it was read or written here."""
        path = self.document.path
        return path is not None and bool(self.digest) and digest_of(path) not in (self.digest, b"")

    def write(self, path: Path) -> None:
        """Save the study; OSError if that fails."""
        write_study(self.document.study, path, text=self._text)
        self.document.path = path
        self.document.note_saved()
        self.follow()
        self._undo_list.setClean()
        self.keep()

    def follow(self) -> None:
        """Watch the document's file from its present content on."""
        if self.watcher.files():
            self.watcher.removePaths(self.watcher.files())
        path = self.document.path
        self.digest = digest_of(path) if path else b""
        if path is not None and path.exists():
            self.watcher.addPath(str(path))

    # Windows

    @property
    def windows(self) -> int:
        """How many windows show the document."""
        return len(self._changed)

    def _report_changed(self) -> None:
        if self._changed:
            self._changed[0]()

    def enter(self, changed: Callable[[], None]) -> None:
        """Another window shows the document; `changed` asks what to do if another program has changed the file."""
        self._changed.append(changed)

    def leave(self, changed: Callable[[], None]) -> None:
        """A window closes; with the last one everything is saved or discarded, and the recovery file goes."""
        self._changed.remove(changed)
        if not self._changed:
            self.wait.stop()
            self._settle.stop()
            self.writer.shutdown(wait=True)
            if self.recovery is not None:
                self.recovery.close()
            self.deleteLater()


def digest_of(path: Path) -> bytes:
    """A digest of the file's content; empty if there is none."""
    try:
        return hashlib.sha256(path.read_bytes()).digest()
    except OSError:
        return b""
