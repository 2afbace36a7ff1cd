"""Studies left by a crash, offered at the next start."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialogButtonBox, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from cinetica.desk import look
from cinetica.desk.dialogs.base import Dialog
from cinetica.desk.widgets import PlainLabel
from cinetica.files.recovery import UnsavedStudy

LATER, OPEN, THROW_AWAY = range(3)


class RecoveryDialog(Dialog):
    """Unsaved studies. What is ticked is opened or discarded; the rest is offered again next time."""

    def __init__(self, found: Sequence[UnsavedStudy], parent: QWidget | None = None) -> None:
        super().__init__("Unsaved work from last time", parent)
        self._found = found
        self.answer = LATER
        words = PlainLabel(
            "Cinetica ended before these were saved. They were autosaved, at most a few seconds before the end. "
            "Open them, and save them where they belong; the files on disk are unchanged."
        )
        words.setWordWrap(True)
        self.list = QListWidget()
        self.list.setAccessibleName("Studies that were not saved")
        for left in found:
            item = QListWidgetItem(f"{left.study.name}\n{_when(left.at)}  ·  {left.origin or 'never saved in a file'}")
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked)
            self.list.addItem(item)
        self.list.setMinimumHeight(2 * look.height() * min(max(2, len(found)), 6))
        buttons = QDialogButtonBox()
        role = QDialogButtonBox.ButtonRole
        for words_on, place, kind in (
            ("&Open selected", OPEN, role.AcceptRole), ("&Discard selected", THROW_AWAY,
            role.DestructiveRole),
            ("&Later", LATER, role.RejectRole),
        ):  # fmt: skip
            button = buttons.addButton(words_on, kind)
            button.setDefault(place == OPEN)
            button.clicked.connect(lambda _=False, place=place: self.answered(place))
        layout = QVBoxLayout(self)
        layout.addWidget(words)
        layout.addWidget(self.list)
        layout.addWidget(buttons)
        self.fit(86, 12 + 2 * min(max(2, len(found)), 6))

    def answered(self, place: int) -> None:
        """Close with an answer."""
        self.answer = place
        self.accept()

    @property
    def ticked(self) -> list[UnsavedStudy]:
        """The studies ticked."""
        return [
            left for row, left in enumerate(self._found) if self.list.item(row).checkState() is Qt.CheckState.Checked
        ]


def _when(at: str) -> str:
    try:
        moment = datetime.fromisoformat(at).astimezone()
    except (ValueError, OverflowError):
        return "at an unknown time"
    today = moment.date() == datetime.now().astimezone().date()
    return f"today at {moment:%H:%M:%S}" if today else f"on {moment:%-d %B %Y at %H:%M:%S}"
