"""The undo list of a document, as Qt's undo stack: menus, the history and the title bar read it."""

from __future__ import annotations

import weakref
from collections.abc import Mapping

from PySide6.QtCore import QObject
from PySide6.QtGui import QUndoCommand, QUndoStack
from typing_extensions import override

from cinetica.desk.state.document import Document, Edit
from cinetica.model.edit_words import AsShown, changed_values
from cinetica.model.parameters import Parameter, Value
from cinetica.model.study import Study
from cinetica.reading.display_units import display_units


class UndoList(QUndoStack):
    """Records the finished edits of a document; undo and redo show the study before and after them."""

    def __init__(self, document: Document, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.document = document
        document.observe(self, follows=True)

    def edit_begun(self, name: str, *, joins: bool) -> None:
        """Nothing is recorded before the edit has ended."""

    def study_replaced(self, before: Study) -> None:
        """Nothing is recorded before the edit has ended."""

    def study_loaded(self) -> None:
        """It is cleared by whoever loads."""

    def edit_ended(self, edit: Edit | None, *, curves_first: bool) -> None:
        """Record the edit."""
        if edit is not None:
            self.push(_Command(self.document, edit))


def _shown_values(study: Study) -> AsShown:
    """Numbers as the study shows them; those of a game with their unit, since the words stay when the units change."""
    units = display_units(study)

    def as_shown(parameter: Parameter, value: Value, values: Mapping[str, Value]) -> Value:
        """A value of a parameter."""
        if units.game is None or parameter.kind != "number":
            return value
        return units.with_unit(parameter, value, values)

    return as_shown


class _Command(QUndoCommand):
    """An edit as the study before and after it; studies share unchanged parts.

    The history shows its name and the changed values; menus show only the name.
    """

    def __init__(self, document: Document, edit: Edit) -> None:
        super().__init__()
        # Weakly: the list belongs to the document, and Python's collector must not take an edit from under Qt.
        self._document = weakref.ref(document)
        self._before, self._after, self._joins = edit.before, edit.after, edit.joins
        self._describe(edit.name)

    def _describe(self, name: str) -> None:
        values = changed_values(self._before, self._after, _shown_values(self._after))
        self.setText(f"{name} {values}\n{name}" if values else name)

    @override
    def id(self) -> int:
        return 1

    @override
    def mergeWith(self, other: QUndoCommand) -> bool:
        """Merge successive wheel steps on one number into one entry."""
        if not isinstance(other, _Command) or not other._joins or other.actionText() != self.actionText():
            return False
        self._after = other._after
        self._describe(self.actionText())
        return True

    @override
    def undo(self) -> None:
        self._show(self._before)

    @override
    def redo(self) -> None:
        self._show(self._after)

    def _show(self, study: Study) -> None:
        document = self._document()
        if document is not None:
            document.show(study)
