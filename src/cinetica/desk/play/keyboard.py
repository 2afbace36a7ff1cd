"""Which keyboard key stands for which input, and which are held."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence

from cinetica.model.take import KEYS

Bindings = dict[int, str]
DEFAULT: Bindings = {
    Qt.Key.Key_Left.value: "left", Qt.Key.Key_A.value: "left", Qt.Key.Key_Right.value: "right",
    Qt.Key.Key_D.value: "right",
    Qt.Key.Key_Up.value: "up", Qt.Key.Key_W.value: "up", Qt.Key.Key_Down.value: "down", Qt.Key.Key_S.value: "down",
    Qt.Key.Key_Space.value: "jump", Qt.Key.Key_Shift.value: "modifier", Qt.Key.Key_X.value: "dash",
}  # fmt: skip


class Keyboard:
    """Held keys. Two keyboard keys may stand for the same input, which is held while either is."""

    def __init__(self, bindings: Bindings | None = None) -> None:
        self.bindings = dict(bindings or DEFAULT)
        self._down: set[int] = set()

    def bind_as(self, kept: list[str]) -> None:
        """Restore stored bindings, each “key=name”; invalid ones leave the defaults."""
        pairs = [entry.partition("=") for entry in kept]
        if pairs and all(key.isdigit() and name in KEYS for key, _, name in pairs):
            self.bindings = {int(key): name for key, _, name in pairs}

    def press(self, key: int) -> bool:
        """Press a key; returns whether it is bound."""
        if key in self.bindings:
            self._down.add(key)
        return key in self.bindings

    def release(self, key: int) -> bool:
        """Release a key; returns whether it is bound."""
        self._down.discard(key)
        return key in self.bindings

    def release_all(self) -> None:
        """Release everything, as when the window loses the focus."""
        self._down.clear()

    @property
    def held(self) -> frozenset[str]:
        """The inputs held."""
        return frozenset(self.bindings[key] for key in self._down)

    def words(self) -> dict[str, str]:
        """The keys of each input, in words; inputs without keys are left out."""
        keys = {name: [key_name(key) for key, meant in self.bindings.items() if meant == name] for name in KEYS}
        return {name: "/".join(each) for name, each in keys.items() if each}


def key_name(key: int) -> str:
    """The name of a key on this desktop."""
    return {Qt.Key.Key_Shift.value: "Shift"}.get(key) or QKeySequence(key).toString(
        QKeySequence.SequenceFormat.NativeText
    )
