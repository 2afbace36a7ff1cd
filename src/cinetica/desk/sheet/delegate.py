"""How a cell of the sheet is painted and typed into."""

from __future__ import annotations

from typing import Protocol, cast

from PySide6.QtCore import QItemSelectionModel, QModelIndex, QPoint, QPointF, QRect, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF, QRegion
from PySide6.QtWidgets import QLineEdit, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from cinetica.desk import look
from cinetica.desk.sheet.cells import share_of_comfort
from cinetica.desk.sheet.model import FIRST_TUNE, LABEL, UNIT, Index, SheetModel
from cinetica.model.parameters import Parameter
from cinetica.reading.measures import Measure


class CellView(Protocol):
    """What the delegate asks of the table that it paints in."""

    exposed: QRegion

    def currentIndex(self) -> QModelIndex: ...
    def selectionModel(self) -> QItemSelectionModel: ...
    def isExpanded(self, index: Index) -> bool: ...
    def viewport(self) -> QWidget: ...
    def hasFocus(self) -> bool: ...
    def type_into(self, index: Index, text: str) -> None: ...


def paint_verdict(painter: QPainter, middle: QPointF, met: bool, palette: look.Palette) -> None:
    """A tick where a target is met, a cross where it is missed: drawn, and not told by colour alone."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(QColor(palette.accent if met else palette.warning), 1.8))
    size = look.px(3)
    if met:
        painter.drawPolyline(
            [middle + QPointF(-size, 0), middle + QPointF(-0.3 * size, size), middle + QPointF(size, -size)]
        )
    else:
        painter.drawLine(middle + QPointF(-size, -size), middle + QPointF(size, size))
        painter.drawLine(middle + QPointF(-size, size), middle + QPointF(size, -size))
    painter.restore()


class CellDelegate(QStyledItemDelegate):
    """Paints a cell: its value, where it stands in its comfortable range, and an arrow where it differs."""

    def __init__(self, model: SheetModel) -> None:
        super().__init__()
        self._model = model

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(40, look.height(9) + look.px(9))

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        rect: QRect = option.rect
        # A row is painted whole wherever one of its cells has changed; most of it need not be.
        if index.column() != LABEL and not self.parent_view().exposed.intersects(rect):
            return
        row = self._model.row_at(index)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if row is None:
            if index.column() == LABEL:
                self._paint_group(painter, rect, index)
        elif index.column() == LABEL:
            painter.setFont(look.font(9))
            painter.setPen(QColor(look.worn().ink))
            text = painter.fontMetrics().elidedText(row.label, Qt.TextElideMode.ElideRight, rect.width() - look.px(26))
            painter.drawText(rect.adjusted(look.px(26), 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, text)
        elif index.column() == UNIT:
            painter.setFont(look.font(8))
            painter.setPen(QColor(look.worn().soft))
            painter.drawText(
                rect.adjusted(0, 0, -4, 0),
                Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight,
                self._model.unit(row),
            )
        else:
            view = self.parent_view()
            chosen = view.currentIndex() == index or view.selectionModel().isSelected(index)
            self._paint_value(painter, rect, row, index.column() - FIRST_TUNE, chosen)
        painter.restore()

    def parent_view(self) -> CellView:
        return cast("CellView", self.parent())

    def _paint_group(self, painter: QPainter, rect: QRect, index: Index) -> None:
        group = self._model.groups[index.row()]
        view = self.parent_view()
        open_ = view.isExpanded(self._model.index(index.row(), 0))
        x, y = rect.left() + 12, rect.center().y() + 2
        points = (
            [QPoint(x - 4, y - 3), QPoint(x + 4, y - 3), QPoint(x, y + 3)]
            if open_
            else [QPoint(x - 3, y - 4), QPoint(x + 3, y), QPoint(x - 3, y + 4)]
        )
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(look.worn().accent))
        painter.drawPolygon(QPolygonF(points))
        painter.setPen(QColor(look.worn().accent))
        painter.setFont(look.font(9, bold=True))
        wide = QRect(
            rect.left() + look.px(24), rect.top() + 3, view.viewport().width() - look.px(24), rect.height() - 3
        )
        painter.drawText(wide, Qt.AlignmentFlag.AlignVCenter, group.title)
        title = look.width(group.title, 9, bold=True)
        if not open_:
            differing = sum(
                any(self._model.differs(row, column) for column in range(len(self._model.tunes))) for row in group.rows
            )
            folded = f"{len(group.rows)} folded" + (f", {differing} differ" if differing else "")
            painter.setFont(look.font(8))
            painter.setPen(QColor(look.worn().soft))
            room = wide.adjusted(title + look.px(8), 0, -10, 0)
            folded = painter.fontMetrics().elidedText(folded, Qt.TextElideMode.ElideRight, room.width())
            painter.drawText(room, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, folded)

    def _paint_value(
        self, painter: QPainter, rect: QRect, row: Parameter | Measure, column: int, current: bool
    ) -> None:
        place, tune = self._model.tunes[column]
        if self._model.session.is_hidden(tune):
            return
        cell = rect.adjusted(4, 1, -2, -1) if rect.width() > look.px(60) else rect.adjusted(2, 1, -1, -1)
        differs = self._model.differs(row, column)
        if differs and isinstance(row, Parameter):
            painter.fillRect(cell, QColor(look.worn().differs))
        value = self._model.value(row, column)
        painter.setFont(look.font(9))
        fixed = value is None or bool(tune.snapshot_of) or (isinstance(row, Measure) and not row.wishable)
        painter.setPen(QColor(look.worn().soft if fixed else look.worn().ink))
        text = self._model.text(row, column)
        flags = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        # To shorten a text takes as long as to paint it; figures are no wider than so many digits.
        if len(text) * look.width("0", 9) > cell.width() - 12:
            text = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, cell.width() - 12)
        painter.drawText(cell.adjusted(0, 0, -12, -1), flags, text)
        if differs:
            self._paint_arrow(painter, cell, differs)
        if (verdict := self._model.verdict(row, column)) is not None:
            paint_verdict(painter, QPointF(cell.left() + look.px(7), cell.center().y() + 0.5), verdict.met, look.worn())
        if isinstance(row, Measure) and not fixed:
            # Dots under a figure: it can be typed over, too.
            painter.setPen(QPen(QColor(look.worn().soft), 1, Qt.PenStyle.DotLine))
            painter.drawLine(cell.left() + 8, cell.bottom(), cell.right() - 14, cell.bottom())
        if isinstance(row, Parameter) and row.kind in ("number", "whole") and value is not None:
            share = share_of_comfort(row, float(value))
            y = cell.bottom()
            painter.setPen(QPen(QColor(look.worn().grid), 2))
            painter.drawLine(cell.left() + 2, y, cell.right() - 12, y)
            painter.setPen(QPen(look.ink(look.worn(), place), 2))
            painter.drawLine(cell.left() + 2, y, cell.left() + 2 + round(share * (cell.width() - 15)), y)
        if current:
            # The sheet has two tables; the keyboard is in one of them, or elsewhere.
            here = self.parent_view().hasFocus()
            painter.setPen(QPen(QColor(look.worn().accent if here else look.worn().grid), 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(cell).adjusted(0.75, 0.75, -0.75, -0.75), 3, 3)

    def _paint_arrow(self, painter: QPainter, cell: QRect, direction: int) -> None:
        x, y = cell.right() - 6, cell.center().y()
        tip = y - 4 if direction > 0 else y + 4
        base = y + 2 if direction > 0 else y - 2
        painter.setBrush(QColor(look.worn().warning))
        pen = painter.pen()
        painter.setPen(Qt.PenStyle.NoPen)
        painter.drawPolygon(QPolygonF([QPoint(x - 4, base), QPoint(x + 4, base), QPoint(x, tip)]))
        painter.setPen(pen)

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
            self.parent_view().type_into(index, editor.text())

    def updateEditorGeometry(self, editor: QWidget, option: QStyleOptionViewItem, index: Index) -> None:
        editor.setGeometry(option.rect.adjusted(4, 0, -2, 0))
