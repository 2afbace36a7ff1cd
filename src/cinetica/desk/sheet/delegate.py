"""How a cell of the sheet is typed into; it is painted by `drawing.py`."""

from __future__ import annotations

from typing import Protocol, cast

from PySide6.QtCore import QSize, Qt
from PySide6.QtWidgets import QLineEdit, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from cinetica.desk import look
from cinetica.desk.sheet.model import Index


class CellView(Protocol):
    """What the delegate asks of its table."""

    def type_into(self, index: Index, text: str) -> None: ...


class CellDelegate(QStyledItemDelegate):
    """How high rows are, and the line that is typed into."""

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(40, look.height(9) + look.px(9))

    def createEditor(self, parent: QWidget, option: QStyleOptionViewItem, index: Index) -> QWidget:
        editor = QLineEdit(parent)
        editor.setAlignment(Qt.AlignmentFlag.AlignRight)
        editor.setFont(look.font(9))
        editor.setStyleSheet("padding: 0 2px;")
        editor.setAccessibleName(str(index.data(Qt.ItemDataRole.AccessibleTextRole)))
        return editor

    def setEditorData(self, editor: QWidget, index: Index) -> None:
        assert isinstance(editor, QLineEdit)
        editor.setText(str(index.data(Qt.ItemDataRole.EditRole)))
        editor.selectAll()

    def setModelData(self, editor: QWidget, model: object, index: Index) -> None:
        assert isinstance(editor, QLineEdit)
        if editor.text() != str(index.data(Qt.ItemDataRole.EditRole)):
            cast("CellView", self.parent()).type_into(index, editor.text())

    def updateEditorGeometry(self, editor: QWidget, option: QStyleOptionViewItem, index: Index) -> None:
        editor.setGeometry(option.rect.adjusted(4, 0, -2, 0))
