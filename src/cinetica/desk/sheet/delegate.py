"""How a cell of the sheet is painted and typed into."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache
from typing import NamedTuple, Protocol, cast

from PySide6.QtCore import QPoint, QRect, QSize, Qt
from PySide6.QtGui import QColor, QFontMetrics, QPainter, QPolygonF, QRegion
from PySide6.QtWidgets import QLineEdit, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from cinetica.desk import look
from cinetica.desk.paint.canvas import FIGURES, PIXELS, Canvas, Sketch
from cinetica.desk.paint.panel import paint_parts
from cinetica.desk.paint.signs import VERDICT_WIDTH, arrow_path, verdict_path
from cinetica.desk.sheet.cells import share_of_comfort
from cinetica.desk.sheet.content import Row
from cinetica.desk.sheet.model import FIRST_TUNE, LABEL, UNIT, Index, SheetModel
from cinetica.model.parameters import Parameter
from cinetica.reading.measures import Measure

# How round a chosen cell is.
CORNER = 3.0


class ValueCell(NamedTuple):
    """What a tune has in a row: where it is seen, the tune's column, and whether it is selected or the current one."""

    rect: QRect
    row: Row
    column: int
    chosen: bool


class CellView(Protocol):
    """What the delegate asks of the table that it paints in, which has the `noted` cells painted all together."""

    exposed: QRegion
    noted: list[ValueCell]

    def is_chosen(self, index: Index) -> bool: ...
    def isExpanded(self, index: Index) -> bool: ...
    def viewport(self) -> QWidget: ...
    def hasFocus(self) -> bool: ...
    def type_into(self, index: Index, text: str) -> None: ...


@lru_cache(64)
def _frame(left: float, top: float, right: float, bottom: float) -> Sketch:
    """Around a cell, with round corners."""
    turn = 0.25 * math.pi
    arc = [(CORNER * math.cos(part * turn), CORNER * math.sin(part * turn)) for part in range(9)]
    corners = ((right - CORNER, bottom - CORNER), (left + CORNER, bottom - CORNER),
               (left + CORNER, top + CORNER), (right - CORNER, top + CORNER))  # fmt: skip
    points = [(x + dx, y + dy) for number, (x, y) in enumerate(corners) for dx, dy in arc[2 * number : 2 * number + 3]]
    points.append(points[0])
    return Sketch([x for x, _ in points], [y for _, y in points])


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
            view.noted.append(ValueCell(QRect(rect), row, index.column() - FIRST_TUNE, view.is_chosen(index)))
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

    def paint_values(self, painter: QPainter, size: QSize, cells: Sequence[ValueCell]) -> None:
        """Paint the cells of tunes, on the ground of the sheet, which is so large."""
        ground = look.color(look.worn().sheet)
        paint_parts(painter, size, [cell.rect for cell in cells], ground, lambda canvas: self._draw_all(canvas, cells))

    def _draw_all(self, canvas: Canvas, cells: Sequence[ValueCell]) -> None:
        for cell in cells:
            if not self._model.session.is_hidden(self._model.tunes[cell.column][1]):
                self._draw(canvas, cell)

    def _draw(self, canvas: Canvas, cell: ValueCell) -> None:
        model, palette = self._model, look.worn()
        rect, row, column, chosen = cell
        place, tune = model.tunes[column]
        # What is inside of the cell's margins.
        x, y, wide, high = rect.left(), rect.top(), rect.width(), rect.height()
        left, right = (x + 4, x + wide - 2) if wide > look.px(60) else (x + 2, x + wide - 1)
        top, bottom = y + 1, y + high - 1
        middle = (top + bottom) / 2
        value, differs = model.value(row, column), model.differs(row, column)
        verdict = model.verdict(row, column)
        measure = isinstance(row, Measure)
        if differs and not measure:
            canvas.boxes((left, bottom, right, top), PIXELS, None, look.color(palette.differs))
        fixed = value is None or bool(tune.snapshot_of) or (isinstance(row, Measure) and not row.wishable)
        color = look.color(palette.soft if fixed else palette.ink)
        self._draw_text(canvas, model.text(row, column), left, right - 12, middle, color)
        if differs:
            at, warning = Sketch((right - 7,), (middle,)), look.color(palette.warning)
            canvas.marks(arrow_path(4, up=differs > 0), at, PIXELS, look.color(palette.warning, 0), 0.1, warning)
        if verdict is not None:
            at, size = Sketch((left + look.px(7),), (middle + 0.5,)), look.px(3)
            rim = look.color(palette.accent if verdict.met else palette.warning)
            path, hollow = verdict_path(size, met=verdict.met), look.color(palette.paper, 0)
            canvas.marks(path, at, PIXELS, rim, VERDICT_WIDTH, hollow)
        if measure and not fixed:
            # Dots under a figure: it can be typed over, too.
            dots = Sketch((left + 8, right - 15), (bottom - 0.5, bottom - 0.5))
            canvas.line(dots, PIXELS, look.color(palette.soft), 1, (1.0, 2.0))
        if isinstance(row, Parameter) and row.kind in ("number", "whole") and value is not None:
            end = left + 2 + round(share_of_comfort(row, float(value)) * (right - left - 15))
            canvas.boxes((left + 2, bottom, right - 12, bottom - 2), PIXELS, None, look.color(palette.grid))
            canvas.boxes((left + 1, bottom, end + 1, bottom - 2), PIXELS, None, look.ink(palette, place))
        if chosen:
            # The sheet has two tables; the keyboard is in one of them, or elsewhere.
            here = self.parent_view().hasFocus()
            frame = _frame(left + 0.75, top + 0.75, right - 0.75, bottom - 0.75)
            canvas.line(frame, PIXELS, look.color(palette.accent if here else palette.grid), 1.5)

    def _draw_text(
        self, canvas: Canvas, text: str, left: float, end: float, middle: float, color: QColor
    ) -> None:  # fmt: skip
        """Figures stand in digits of one width; what is longer than the cell ends in dots."""
        # To shorten a text takes as long as to paint it; figures are no wider than so many digits.
        if len(text) * look.width("0", 9) > end - left:
            text = QFontMetrics(look.font(9)).elidedText(text, Qt.TextElideMode.ElideRight, round(end - left))
        if FIGURES.keys() >= set(text):
            canvas.figure(text, end, middle, 9, color)
        else:
            canvas.text(text, end - look.width(text, 9), middle, 9, color)

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
