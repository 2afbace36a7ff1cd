"""Work that may take noticeable time: done at once if quick, else in a thread, and the newest wins."""

from __future__ import annotations

import logging
import math
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from itertools import count
from typing import Any

from PySide6.QtCore import QObject, Qt, QTimer, Signal
from shiboken6 import isValid

log = logging.getLogger(__name__)
# Work that took less than this last time, in s, runs at once.
AT_ONCE = 0.05
# How long a drag must pause, in ms, before the fine result is computed.
RESTING = 200

# Yields the share done with the result so far, or None; finally 1 and the whole result. May be stopped between steps.
Steps = Callable[[], Iterator[tuple[float, Any]]]


class BackgroundTask(QObject):
    """Work of one kind. A new request makes earlier ones obsolete: they are abandoned, and never shown."""

    # A result, partial or final; and the share of the work that is done.
    result = Signal(object)
    progressed = Signal(float)
    failed = Signal(str)
    _result_in_thread = Signal(int, float, object)
    _failed_in_thread = Signal(int, str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._numbers = count(1)
        self._newest = 0
        # The first duration is unknown.
        self._took = math.inf
        self._pool = ThreadPoolExecutor(1, thread_name_prefix="background")
        self._result_in_thread.connect(self._take, Qt.ConnectionType.QueuedConnection)
        self._failed_in_thread.connect(self._report, Qt.ConnectionType.QueuedConnection)
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.timeout.connect(self._ask_for_the_fine)
        self._fine: Steps | None = None

    @property
    def asking(self) -> bool:
        """Whether work is in progress."""
        return self._newest != 0

    @property
    def busy(self) -> bool:
        """Whether work is in progress, or waits for the drag to pause."""
        return self.asking or self._rest.isActive()

    def ask(self, steps: Steps, fine: Steps | None = None) -> None:
        """Begin work; `fine`: work to do once there has been no other request for a while."""
        self.stop()
        self._fine = fine
        if self._took <= AT_ONCE:
            self._at_once(steps)
        else:
            self._begin(steps)
        if fine is not None:
            self._rest.start(RESTING)

    def stop(self) -> None:
        """Abandon the work in progress."""
        self._newest = 0
        self._fine = None
        self._rest.stop()

    def wait(self) -> None:
        """Wait for all results, without the pause before the fine one; for tests and exports."""
        from PySide6.QtCore import QCoreApplication

        while self.busy:
            if self._rest.isActive() and not self.asking:
                self._rest.stop()
                self._ask_for_the_fine()
            QCoreApplication.processEvents()
            time.sleep(0.002)

    def _at_once(self, steps: Steps) -> None:
        begun = time.perf_counter()
        try:
            for _, found in steps():
                last = found
        except Exception as error:
            self.failed.emit(_words(error))
            return
        self._took = time.perf_counter() - begun
        self.result.emit(last)

    def _ask_for_the_fine(self) -> None:
        if self._newest:
            self._rest.start(RESTING)
        elif self._fine is not None:
            self._begin(self._fine, timed=False)

    def _begin(self, steps: Steps, *, timed: bool = True) -> None:
        number = self._newest = next(self._numbers)

        def work() -> None:
            begun = time.perf_counter()
            try:
                for share, found in steps():
                    if self._newest != number:
                        return
                    if share >= 1.0 and timed:
                        self._took = time.perf_counter() - begun
                    self._result_in_thread.emit(number, share, found)
            except Exception as error:
                # If the window has been closed meanwhile, nobody is listening.
                if isValid(self):
                    self._failed_in_thread.emit(number, _words(error))

        self._pool.submit(work)

    def _take(self, number: int, share: float, found: Any) -> None:
        if number != self._newest:
            return
        if share >= 1.0:
            self._newest = 0
        self.progressed.emit(share)
        if found is not None:
            self.result.emit(found)

    def _report(self, number: int, why: str) -> None:
        if number == self._newest:
            self._newest = 0
            self.failed.emit(why)


def _words(error: Exception) -> str:
    """Why work failed, for the user; unexpected errors are also logged."""
    if isinstance(error, ValueError):
        return str(error)
    log.error("background task", exc_info=error)
    return f"This could not be worked out ({type(error).__name__}: {error}). The log has the details; nothing is lost."


def once(work: Callable[[], Any]) -> Steps:
    """Work of one step."""

    def steps() -> Iterator[tuple[float, Any]]:
        """Do the work."""
        yield 1.0, work()

    return steps
