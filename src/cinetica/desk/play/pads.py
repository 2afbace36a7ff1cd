"""The game pads that are plugged in: found, read, and released when unplugged."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QSocketNotifier, QTimer, Signal

from cinetica.motion.live import Held

if TYPE_CHECKING:
    from cinetica.desk.play.pad import Device, Pad

LOOK_EVERY_MS = 1000


class Pads(QObject):
    """Looks for pads regularly, reads the one in use, and says what it found. `find` stands in for `open_devices`.

    The module of a pad (`pad.py`) is only imported when Play is opened, to keep the start fast.
    """

    changed = Signal()
    message = Signal(str)

    def __init__(
        self, find: Callable[[], tuple[list[Device], list[str]]] | None = None, parent: QObject | None = None
    ) -> None:
        super().__init__(parent)
        self.find = find
        self.pad: Pad | None = None
        self.others: list[Device] = []
        self.words = ""
        # Whether there may be a pad that cannot be read.
        self.unreadable = False
        self._notifier: QSocketNotifier | None = None
        self._timer = QTimer(self)
        self._timer.setInterval(LOOK_EVERY_MS)
        self._timer.timeout.connect(self.look)

    def start(self) -> None:
        """Start looking for pads."""
        self.look()
        self._timer.start()

    def stop(self) -> None:
        """Stop, and close the pad."""
        self._timer.stop()
        self._close()

    def look(self) -> None:
        """Use the first pad if none is in use."""
        if self.pad is not None:
            return
        try:
            from cinetica.desk.play.pad import open_devices
        except ImportError as error:
            self._timer.stop()
            self.unreadable = True
            self._announce(f"Game pads cannot be read here: {error}.")
            return
        found, closed = (self.find or open_devices)()
        self.unreadable = bool(closed) and not found
        if found:
            self._use(found[0])
            for other in found[1:]:
                other.close()
            more = f" {len(found)} pads are there; the first is used." if len(found) > 1 else ""
            none = "" if self.pad is None or self.pad.has_sticks else " It has no sticks; its buttons and cross work."
            self._announce(f"Pad: {found[0].name}.{more}{none}")
        elif closed:
            self._announce(
                f"Cannot read a pad: {closed[0]} needs permission. Join the group “input” (sudo usermod -aG input"
                " $USER) and log in again."
            )
        else:
            self._announce("No pad is connected. The on-screen pad (V) does the same.")

    def _announce(self, words: str) -> None:
        if words != self.words:
            self.words = words
            self.message.emit(words)

    def _use(self, device: Device) -> None:
        from cinetica.desk.play.pad import Pad

        self.pad = Pad(device)
        self._notifier = QSocketNotifier(device.fileno(), QSocketNotifier.Type.Read, self)
        self._notifier.activated.connect(self.read)

    def read(self, *_: object) -> None:
        """Process all waiting events; an unplugged pad releases everything."""
        if self.pad is None:
            return
        try:
            for event in self.pad.device.read():
                learnt = self.pad.take(event)
                if learnt:
                    self.message.emit(learnt)
        except BlockingIOError:
            pass
        except OSError:
            name = self.pad.device.name
            self._close()
            self._announce(f"{name} was unplugged; all its keys are released.")
        self.changed.emit()

    def _close(self) -> None:
        if self._notifier is not None:
            self._notifier.setEnabled(False)
            self._notifier = None
        if self.pad is not None:
            self.pad.release_all()
            self.pad.device.close()
            self.pad = None

    @property
    def held(self) -> Held:
        """The input held."""
        return self.pad.held if self.pad is not None else Held()

    @property
    def thrust(self) -> float:
        """What the triggers say: forward 1, backward -1."""
        return self.pad.thrust if self.pad is not None else 0.0

    def learn(self, what: str) -> None:
        """Assign the next button, or the next stick pushed, to this."""
        if self.pad is None:
            self.message.emit("There is no pad to learn from. " + self.words)
            return
        self.pad.learning = what
        axes = {
            "stick": "Push the stick to move with.",
            "aim": "Push the second stick.",
            "thrust": "Pull the trigger for thrust.",
            "reverse": "Pull the trigger for reverse thrust.",
        }
        self.message.emit(axes.get(what) or f"Press the button for {what}.")
