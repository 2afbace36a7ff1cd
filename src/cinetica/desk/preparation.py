"""The first start on a machine: another process compiles the kernel, and every page says so meanwhile."""

from __future__ import annotations

import sys

from PySide6.QtCore import QElapsedTimer, QObject, QProcess, QTimer, Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QProgressBar, QWidget

from cinetica.desk import look
from cinetica.desk.warm import CURVES
from cinetica.desk.widgets import PlainLabel

# The usual time, in s; if it takes longer, the bar waits at 95%.
USUAL = 60.0
REST = 0.95
WORDS = "First start: compiling the motion kernel for this machine, once. Curves, figures and Play follow {}."
FIGURES_WORDS = "First start: compiling what reads figures. Read off, Overview and Survey follow {}."


class Preparation(QObject):
    """Compiles what the window needs in another process.

    It emits `curves_ready` as soon as traces can be run, and `finished` at the end, whether that succeeds or not.
    """

    curves_ready = Signal()
    finished = Signal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._ended = self._curves = False
        self._since = QElapsedTimer()
        self._since.start()
        self._process = QProcess(self)
        self._process.readyReadStandardOutput.connect(self._read)
        self._process.finished.connect(self._end)
        self._process.errorOccurred.connect(self._end)

    def start(self) -> None:
        """Start compiling."""
        self._process.start(sys.executable, ["-m", "cinetica.desk.warm"])

    def _read(self) -> None:
        if CURVES in bytes(self._process.readAllStandardOutput().data()).decode().split():
            self.announce_curves()

    def announce_curves(self) -> None:
        """Say once that curves can be shown."""
        if not self._curves:
            self._curves = True
            self.curves_ready.emit()

    def _end(self, *_: object) -> None:
        """Finish once, also if the process could not be started."""
        if not self._ended:
            self._ended = True
            self.finished.emit()

    @property
    def share(self) -> float:
        """The progress, 0 to 1, estimated from the usual time."""
        return min(REST, self._since.elapsed() / 1000.0 / USUAL)

    @property
    def words(self) -> str:
        """What is happening, and how long it will take."""
        left = USUAL * (1.0 - self.share)
        words = FIGURES_WORDS if self._curves else WORDS
        return words.format("in about a minute" if left > 45 else "in about half a minute" if left > 15 else "soon")


class PreparationBar(QFrame):
    """What is being prepared, the progress, and what comes next."""

    def __init__(self, preparation: Preparation, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        look.on_sheet(self)
        self._preparation = preparation
        self.label = PlainLabel()
        self.label.setFont(look.font(9))
        self.label.setWordWrap(True)
        self.bar = QProgressBar()
        self.bar.setRange(0, 100)
        self.bar.setTextVisible(False)
        self.bar.setFixedSize(look.px(160), look.px(10))
        self.bar.setAccessibleName("Progress of the preparation")
        row = QHBoxLayout(self)
        row.setContentsMargins(18, 4, 14, 4)
        row.addWidget(self.label, 1)
        row.addWidget(self.bar)
        timer = QTimer(self, interval=500)
        timer.timeout.connect(self._refresh)
        timer.start()
        preparation.finished.connect(self._dismiss)
        self._refresh()

    def _refresh(self) -> None:
        self.label.setText(self._preparation.words)
        self.bar.setValue(round(100 * self._preparation.share))

    def _dismiss(self) -> None:
        self.hide()
        self.deleteLater()
