"""A search for any command by typing words of it."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QAction, QKeyEvent
from PySide6.QtWidgets import QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget
from typing_extensions import override

from cinetica.desk.actions.catalogue import ACTIONS, menu_path
from cinetica.desk.actions.keys import keys_in_force
from cinetica.desk.dialogs.base import Dialog

ID = Qt.ItemDataRole.UserRole


class CommandSearch(Dialog):
    """Lists the commands that contain all typed words; Enter selects the current one.

    `chosen` is then its QAction, or None if the dialog was cancelled.
    """

    def __init__(self, actions: Mapping[str, QAction], parent: QWidget) -> None:
        super().__init__("Find a command", parent)
        self._actions = actions
        self.chosen: QAction | None = None
        self.words = QLineEdit()
        self.words.setPlaceholderText("Type some of its words…")
        self.words.setAccessibleName("Words of the command")
        self.words.setClearButtonEnabled(True)
        self.list = QListWidget()
        self.list.setAccessibleName("Commands")
        self.list.setUniformItemSizes(True)
        layout = QVBoxLayout(self)
        layout.addWidget(self.words)
        layout.addWidget(self.list, 1)
        self.words.textChanged.connect(self._fill)
        self.words.returnPressed.connect(self._take)
        self.list.itemActivated.connect(lambda _: self._take())
        self.words.installEventFilter(self)
        self._fill("")
        self.fit(72, 26)

    def _fill(self, typed: str) -> None:
        """List the matches, with those available now first."""
        words = typed.lower().split()
        found = [id for id in ACTIONS if all(word in self._text(id).lower() for word in words)]
        self.list.clear()
        for id in sorted(found, key=lambda id: not self._actions[id].isEnabled()):
            item = QListWidgetItem(self._text(id))
            item.setData(ID, id)
            item.setToolTip(ACTIONS[id].sentence)
            if not self._actions[id].isEnabled():
                item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEnabled)
            self.list.addItem(item)
        self.list.setCurrentRow(0)

    def _text(self, id: str) -> str:
        keys = keys_in_force(id)
        return f"{menu_path(id)}: {ACTIONS[id].tip}{f'  ({keys[0]})' if keys else ''}"

    def _take(self) -> None:
        item = self.list.currentItem()
        if item is not None and item.flags() & Qt.ItemFlag.ItemIsEnabled:
            self.chosen = self._actions[item.data(ID)]
            self.accept()

    @override
    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Let Up and Down move in the list while typing."""
        up_and_down = (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown)
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress and event.key() in up_and_down:
            self.list.keyPressEvent(event)
            return True
        return super().eventFilter(watched, event)
