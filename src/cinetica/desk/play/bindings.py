"""The dialog that binds keys, and pad buttons and sticks by using them."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QCheckBox, QGridLayout, QPushButton, QVBoxLayout, QWidget
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.dialogs.base import Dialog
from cinetica.desk.play.keyboard import DEFAULT, Keyboard, key_name
from cinetica.desk.play.pads import Pads
from cinetica.desk.widgets import PlainLabel, push_button
from cinetica.model.take import KEYS

# Keys that the desktop or the page keeps for itself.
KEPT_BACK = {
    Qt.Key.Key_Meta.value: "the desktop", Qt.Key.Key_Super_L.value: "the desktop",
    Qt.Key.Key_Escape.value: "this dialog",
    Qt.Key.Key_Print.value: "the desktop", Qt.Key.Key_Control.value: "the menus", Qt.Key.Key_Alt.value: "the menus",
}  # fmt: skip


# What a pad's axes do, and how each is chosen.
AXES = (
    ("stick", "stick", "push a stick"),
    ("aim", "second stick", "push a stick"),
    ("thrust", "thrust", "pull a trigger"),
    ("reverse", "reverse thrust", "pull a trigger"),
)


class Bindings(Dialog):
    """Click a row, then press a key to bind it. Conflicts are refused with a reason."""

    def __init__(self, keyboard: Keyboard, pads: Pads, commands: dict[int, str], parent: QWidget | None = None) -> None:
        super().__init__("Hands: keys and pad", parent)
        self.keyboard, self.pads, self._commands = keyboard, pads, commands
        self._waiting = ""
        self.keys: dict[str, QPushButton] = {}
        grid = QGridLayout()
        for row, name in enumerate(KEYS):
            grid.addWidget(PlainLabel(name), row, 0)
            self.keys[name] = self._button(f"Keys for {name}", partial(self.wait_for, name))
            grid.addWidget(self.keys[name], row, 1)
            grid.addWidget(
                self._button(f"Choose the pad's button for {name}", partial(pads.learn, name), "pad: press a button…"),
                row,
                2,
            )
        for row, (what, words, how) in enumerate(AXES, len(KEYS)):
            grid.addWidget(PlainLabel(words), row, 0)
            grid.addWidget(self._button(f"Choose the {words}", partial(pads.learn, what), f"pad: {how}…"), row, 2)
        self.adds = QCheckBox("A new key adds to those there")
        self.adds.setToolTip("Otherwise it replaces them")
        self.message = PlainLabel("Click a row, then press the new key.")
        self.message.setWordWrap(True)
        self.message.setMinimumHeight(2 * look.height(10) + 4)
        layout = QVBoxLayout(self)
        layout.addLayout(grid)
        layout.addWidget(self.adds)
        layout.addWidget(PlainLabel(pads.words))
        layout.addWidget(self.message)
        layout.addWidget(self._button("Reset keys", self.reset, "Reset keys"))
        pads.message.connect(self.message.setText)
        for child in (self, *self.findChildren(QPushButton)):
            child.installEventFilter(self)
        self._refresh()

    def _button(self, name: str, slot: object, text: str = "") -> QPushButton:
        button = push_button(text, slot)  # type: ignore[arg-type]
        button.setAccessibleName(name)
        return button

    def _refresh(self) -> None:
        for name, button in self.keys.items():
            keys = [key_name(key) for key, meant in self.keyboard.bindings.items() if meant == name]
            button.setText("press a key…" if name == self._waiting else " or ".join(keys) or "none")

    def wait_for(self, name: str) -> None:
        """Bind the next key to this."""
        self._waiting = name
        self._refresh()

    def reset(self) -> None:
        """Restore the default keys."""
        self.keyboard.bindings = dict(DEFAULT)
        self._waiting = ""
        self._refresh()

    @override
    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        # Before the buttons see the key: arrows would move the focus from one to the next.
        if (
            self._waiting
            and isinstance(event, QKeyEvent)
            and event.type() in (QEvent.Type.KeyPress, QEvent.Type.ShortcutOverride)
        ):
            if event.type() == QEvent.Type.KeyPress:
                self.bind(event.key())
            event.accept()
            return True
        return super().eventFilter(watched, event)

    def bind(self, key: int) -> None:
        """Bind the key, beside the other keys of what is waiting or instead of them, or say why not."""
        name, taken = self._waiting, self.keyboard.bindings.get(key)
        if key == Qt.Key.Key_Escape.value:
            self._waiting = ""
        elif key in KEPT_BACK or key in self._commands:
            self.message.setText(
                f"{key_name(key)} belongs to {KEPT_BACK.get(key) or 'the page: ' + self._commands[key]}; press another"
                " key."
            )
        elif taken is not None and taken != name:
            self.message.setText(
                f"{key_name(key)} is already used for {taken}; press another key, or change that one first."
            )
        else:
            kept = self.keyboard.bindings.items()
            others = {other: meant for other, meant in kept if meant != name or self.adds.isChecked()}
            self.keyboard.bindings = others | {key: name}
            self.message.setText(f"{key_name(key)} is {name} now.")
            self._waiting = ""
        self._refresh()
