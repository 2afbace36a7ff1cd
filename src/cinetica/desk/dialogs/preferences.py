"""The user's settings: look, text size, autosave, and keys."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import (
    QDialogButtonBox,
    QFormLayout,
    QHBoxLayout,
    QHeaderView,
    QKeySequenceEdit,
    QSpinBox,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from cinetica.desk import look
from cinetica.desk.actions.catalogue import ACTIONS
from cinetica.desk.actions.shortcuts import DEFAULT_KEYS, set_keys
from cinetica.desk.dialogs.base import Dialog
from cinetica.desk.study_file import KEPT_AFTER
from cinetica.desk.widgets import Chooser, PlainLabel, inset, push_button


def _keys_table() -> QTableWidget:
    keys = QTableWidget(len(ACTIONS), 2)
    keys.setHorizontalHeaderLabels(["Action", "Key"])
    keys.verticalHeader().hide()
    keys.horizontalHeader().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
    keys.horizontalHeader().setStretchLastSection(False)
    keys.setColumnWidth(1, look.width("Ctrl+Shift+Delete") + look.px(24))
    keys.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
    keys.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
    keys.setAccessibleName("Keys")
    return keys


class Preferences(Dialog):
    """Settings apply immediately, and are stored for the next start."""

    def __init__(
        self, actions: Mapping[str, QAction], night: bool, scale: float, kept_after: int, window: QWidget
    ) -> None:
        super().__init__("Settings", window)
        self._actions = actions
        self.look_changed: Callable[[bool], object] = lambda night: None
        self.scale_changed: Callable[[float], object] = lambda scale: None
        self.kept_after_changed: Callable[[int], object] = lambda seconds: None
        self.look = Chooser()
        self.look.addItems(["Day", "Night"])
        self.look.setCurrentIndex(int(night))
        self.look.activated.connect(lambda index: self.look_changed(bool(index)))
        self.scale = Chooser()
        for size in look.TEXT_SCALES:
            self.scale.addItem("Standard" if size == 1 else f"{size:.0%}", size)
        self.scale.setCurrentIndex(max(0, self.scale.findData(scale)))
        self.scale.activated.connect(lambda _: self.scale_changed(self.scale.currentData()))
        self.kept_after = QSpinBox()
        inset(self.kept_after)
        self.kept_after.setRange(*KEPT_AFTER)
        self.kept_after.setSuffix(" s after an edit")
        self.kept_after.setValue(kept_after)
        self.kept_after.valueChanged.connect(lambda seconds: self.kept_after_changed(seconds))
        self.keys = _keys_table()
        self.edit = QKeySequenceEdit()
        self.edit.setMaximumSequenceLength(1)
        self.edit.setAccessibleName("New key for the selected action")
        self.message = PlainLabel()
        self.message.setWordWrap(True)
        self.keys.itemSelectionChanged.connect(self._chosen)
        self._lay_out()
        self._list()
        self.fit(100, 42)

    def _lay_out(self) -> None:
        form = QFormLayout()
        form.addRow("Look", self.look)
        form.addRow("Text size", self.scale)
        form.addRow("Autosave", self.kept_after)
        row = QHBoxLayout()
        row.addWidget(PlainLabel("New key"))
        row.addWidget(self.edit, 1)
        for words, slot in (
            ("&Assign", self.take),
            ("&Clear", lambda: self.set_keys(())),
            ("&Reset", self.reset),
            ("Reset &all", self.reset_all),
        ):
            row.addWidget(push_button(words, slot))
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        layout = QVBoxLayout(self)
        layout.addLayout(form)
        heading = PlainLabel("Keys")
        heading.setFont(look.font(11, bold=True))
        layout.addWidget(heading)
        layout.addWidget(self.keys, 1)
        layout.addLayout(row)
        layout.addWidget(self.message)
        layout.addWidget(buttons)

    def _list(self) -> None:
        for place, action in enumerate(ACTIONS.values()):
            keys = " or ".join(key.toString() for key in self._actions[action.id].shortcuts())
            for column, text in enumerate((action.sentence, keys)):
                item = QTableWidgetItem(text)
                item.setData(Qt.ItemDataRole.UserRole, action.id)
                self.keys.setItem(place, column, item)

    @property
    def name(self) -> str:
        """The selected action."""
        row = self.keys.currentRow()
        return list(ACTIONS)[row] if row >= 0 else ""

    def choose(self, name: str) -> None:
        """Select an action."""
        self.keys.selectRow(list(ACTIONS).index(name))

    def _chosen(self) -> None:
        shortcuts = self._actions[self.name].shortcuts() if self.name else []
        self.edit.setKeySequence(shortcuts[0] if shortcuts else QKeySequence())
        self.message.setText("")

    def take(self) -> None:
        """Assign the key to the selected action, unless another one has it."""
        key = self.edit.keySequence()
        if not self.name or key.isEmpty():
            self.message.setText("Select an action above, click in “New key” and press the key.")
            return
        holder = next(
            (each.tip for id, each in ACTIONS.items() if id != self.name and key in self._actions[id].shortcuts()), None
        )
        if holder is not None or key.toString() in map(str, range(1, 7)):
            self.message.setText(
                f"{key.toString()} already means “{holder or 'show or hide a tune'}”. Clear that key first, or choose"
                " another."
            )
            return
        self.set_keys((key.toString(),))

    def set_keys(self, keys: tuple[str, ...]) -> None:
        """Set the keys of the selected action."""
        if self.name:
            set_keys(self.name, self._actions[self.name], keys)
            self.message.setText(f"{ACTIONS[self.name].sentence}: {' or '.join(keys) or 'no key'}.")
            self._list()

    def reset(self) -> None:
        """Reset the keys of the selected action."""
        if self.name:
            self.set_keys(DEFAULT_KEYS[self.name])

    def reset_all(self) -> None:
        """Reset all keys."""
        for name, keys in DEFAULT_KEYS.items():
            set_keys(name, self._actions[name], keys)
        self._list()
        self.message.setText("All keys are reset.")
