"""Python's collector, at times that suit.

Left to itself it runs wherever something is made: in the middle of a drag; in another thread, where it must not take a
widget away; and in the middle of a call of Qt's. What it then takes away can wait for a lock that this very call holds,
and the program stands still for ever (seen: a closed window's rest, taken away while pyqtgraph disconnects a signal).
"""

from __future__ import annotations

import gc

from PySide6.QtCore import QTimer
from PySide6.QtGui import QGuiApplication

# Between looks, in ms.
BETWEEN = 500


class Collector(QTimer):
    """It looks from the event loop, where no call of Qt's is under way, and not while a mouse button is held."""

    def __init__(self, app: QGuiApplication) -> None:
        super().__init__(app)
        self.timeout.connect(self._look)

    def begin(self) -> None:
        """From now on only this collects. What is there by now stays for a while: it is not looked at again, which
        would take a fifth of a second. To be called whenever a window has opened."""
        gc.disable()
        gc.unfreeze()
        gc.collect()
        gc.freeze()
        self.start(BETWEEN)

    def _look(self) -> None:
        if not QGuiApplication.mouseButtons():
            look()


def look() -> None:
    """Collect what Python's own collector would have by now."""
    young, middle, old = gc.get_count()
    most = gc.get_threshold()
    if old > most[2]:
        gc.collect(2)
    elif middle > most[1]:
        gc.collect(1)
    elif young > most[0]:
        gc.collect(0)


def collector() -> Collector:
    """The one of the application."""
    app = QGuiApplication.instance()
    assert isinstance(app, QGuiApplication)
    found = app.findChild(Collector)
    return found if isinstance(found, Collector) else Collector(app)
