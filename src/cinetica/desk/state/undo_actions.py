"""Undo and redo, labelled with the name of the edit. During a drag they end it first."""

from __future__ import annotations

from PySide6.QtCore import QObject
from PySide6.QtGui import QAction

from cinetica.desk.state.session import Session


class UndoAction(QAction):
    """Undo. A QUndoStack's own action would undo what the drag in progress then restores."""

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__("Undo", parent)
        self._session, self._can = session, session.undo_stack.canUndo()
        self.triggered.connect(self._act)
        session.undo_stack.undoTextChanged.connect(self._name)
        session.undo_stack.canUndoChanged.connect(self._can_or_not)
        # A drag is an edit, too, though it is not in the list yet.
        session.wake_changed.connect(self._enable)
        self._name(session.undo_stack.undoText())
        self._enable()

    def _act(self, *_: object) -> None:
        self._session.undo()

    def _name(self, text: str) -> None:
        self.setText(f"Undo {text}".strip().replace("&", "&&"))

    def _can_or_not(self, can: bool) -> None:
        self._can = can
        self._enable()

    def _enable(self) -> None:
        self.setEnabled(self._can or self._session.in_gesture)


class RedoAction(QAction):
    """Redo."""

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__("Redo", parent)
        self._session = session
        self.triggered.connect(self._act)
        session.undo_stack.redoTextChanged.connect(self._name)
        session.undo_stack.canRedoChanged.connect(self.setEnabled)
        self._name(session.undo_stack.redoText())
        self.setEnabled(session.undo_stack.canRedo())

    def _act(self, *_: object) -> None:
        self._session.redo()

    def _name(self, text: str) -> None:
        self.setText(f"Redo {text}".strip().replace("&", "&&"))
