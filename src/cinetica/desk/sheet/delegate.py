"""How a cell of the sheet is painted, and edited."""

from __future__ import annotations

from typing import Protocol, cast

from PySide6.QtCore import QRect, QRectF, Qt
from PySide6.QtGui import QColor, QPainter
from PySide6.QtWidgets import QLineEdit, QStyle, QStyledItemDelegate, QStyleOptionViewItem, QWidget
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.paint.canvas import PIXELS, Box, Canvas, Mark, Pen, Sketch
from cinetica.desk.paint.signs import VERDICT_WIDTH, arrow_path, pointer_path, verdict_path
from cinetica.desk.sheet.content import ABSENT
from cinetica.desk.sheet.model import FIRST_TUNE, LABEL, UNIT, Index, SheetModel
from cinetica.model.curves import Point
from cinetica.model.parameters import Parameter
from cinetica.reading.measures import Measure


class CellView(Protocol):
    """What the delegate needs of its table."""

    @property
    def sheet(self) -> SheetModel:
        """The model."""

    def type_into(self, index: Index, text: str) -> None:
        """Set what was typed."""

    def is_open(self, group: int) -> bool:
        """Whether the rows of a group are shown."""

    def hasFocus(self) -> bool:
        """Whether the table has the focus."""

    def currentIndex(self) -> Index:
        """The current cell."""

    def viewport(self) -> QWidget:
        """What the cells are painted on."""


class CellDelegate(QStyledItemDelegate):
    """Paints groups, labels, units and values; creates the editor."""

    @property
    def _view(self) -> CellView:
        return cast("CellView", self.parent())

    # Painting

    @override
    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        rect, sheet = option.rect, self._view.sheet
        painter.save()
        try:
            painter.fillRect(rect, look.color(look.palette().sheet))
            canvas = Canvas(painter, QRectF(rect))
            place = sheet.place_at(index)
            assert place is not None
            group, number = place
            if number is None:
                self._paint_group(canvas, rect, group)
            elif index.column() == LABEL:
                row = sheet.groups[group].rows[number]
                self._paint_label(canvas, rect, row.label, free=row.id in sheet.session.free)
            elif index.column() == UNIT:
                unit, soft = sheet.unit(sheet.groups[group].rows[number]), look.color(look.palette().soft)
                canvas.figure(unit, rect.left() + rect.width() - 4, rect.center().y() + 0.5, 8, soft)
            elif self._has_value(index.column() - FIRST_TUNE):
                chosen = option.state & QStyle.StateFlag.State_Selected or index == self._view.currentIndex()
                self._paint_value(canvas, rect, group, number, index.column() - FIRST_TUNE, chosen=bool(chosen))
        finally:
            painter.restore()

    def _has_value(self, column: int) -> bool:
        """Whether cells of a column show anything: not if it is hidden, nor where a game log has no numbers."""
        sheet = self._view.sheet
        return not sheet.session.is_hidden(sheet.tunes[column][1]) and (sheet.figures or not sheet.is_log(column))

    def _paint_group(self, canvas: Canvas, rect: QRect, group: int) -> None:
        sheet, accent, soft = self._view.sheet, look.color(look.palette().accent), look.color(look.palette().soft)
        shown = sheet.groups[group]
        is_open = self._view.is_open(group) and not shown.is_line
        path, middle = arrow_path(4, up=False) if is_open else pointer_path(8), rect.top() + rect.height() / 2 + 1
        canvas.marks(Sketch((rect.left() + 12,), (middle,)), PIXELS, Mark(path, accent, 0, accent))
        begins = rect.left() + look.px(24)
        # With more tunes than fit, the row extends beyond the visible part.
        ends = min(rect.right(), self._view.viewport().width()) - 10
        canvas.text(shown.title, begins, middle, 9, accent, bold=True)
        if is_open and shown.more:
            canvas.figure(f"{shown.more} more", ends, middle, 8, soft)
        if shown.is_line:
            canvas.figure(shown.line_words, ends, middle, 8, soft)
        elif not is_open:
            columns = range(len(sheet.tunes))
            differing = sum(any(sheet.differs(row, column) for column in columns) for row in shown.rows)
            words = f"{len(shown.rows)} folded" + (f", {differing} differ" if differing else "")
            room = ends - begins - look.width(shown.title, 9, bold=True) - look.px(8)
            words = look.shortened(words, 8, room)
            canvas.figure(words, ends, middle, 8, soft)

    def _paint_label(self, canvas: Canvas, rect: QRect, label: str, *, free: bool = False) -> None:
        margin = look.px(26)
        if free:
            # Two arrowheads: a search may move it.
            accent, middle, size = look.color(look.palette().accent), rect.top() + rect.height() / 2, look.px(4)
            at = rect.left() + look.px(14)
            for way in (-1, 1):
                x = at + way * look.px(2)
                arrow = Sketch((x, x + way * size, x), (middle - size, middle, middle + size))
                canvas.line(arrow, PIXELS, accent, 1.5)
        text = look.shortened(label, 9, rect.width() - margin)
        canvas.text(text, rect.left() + margin, rect.top() + rect.height() / 2, 9, look.color(look.palette().ink))

    def _paint_value(self, canvas: Canvas, rect: QRect, group: int, number: int, column: int, *, chosen: bool) -> None:
        """Paint a tune's value.

        With its position in the comfortable range, an arrow if it differs, and a sign if there is a target.
        """
        sheet, palette = self._view.sheet, look.palette()
        row, (place, tune) = sheet.groups[group].rows[number], sheet.tunes[column]
        text, share, differs, verdict = sheet.cell(group, number, column)
        measure = isinstance(row, Measure)
        fixed = text is ABSENT or bool(tune.snapshot_of) or (isinstance(row, Measure) and not row.seekable)
        fixed = fixed or sheet.is_log(column)
        wide = rect.width() > look.px(60)
        left, right = rect.left() + (4 if wide else 2), rect.left() + rect.width() - (2 if wide else 1)
        top, bottom = rect.top() + 1, rect.top() + rect.height() - 1
        middle = (top + bottom) / 2
        if differs:
            if not measure:
                canvas.box((left, bottom, right, top), PIXELS, look.color(palette.differs))
            self._paint_mark(canvas, right - 7, middle, Mark(arrow_path(4, up=differs > 0), *_filled(palette.warning)))
        ink = look.color(palette.soft if fixed else palette.ink)
        curve = sheet.value(row, column)
        if isinstance(curve, tuple) and isinstance(row, Parameter):
            room = (left + 4, bottom - 3, right - 14, top + 3)
            canvas.stroke(_picture(curve, row.comfort[1], room), PIXELS, Pen(look.ink(palette, place), 1.5, ()))
        else:
            canvas.figure(look.shortened(text, 9, right - 12 - left).replace("-", "−"), right - 12, middle, 9, ink)
        if verdict is not None and verdict.value is not None:
            self._paint_mark(canvas, left + look.px(7), middle + 0.5, _verdict_mark(met=verdict.met))
        if measure and not fixed:
            # Dots under a figure: it can be typed over, too.
            dots = Sketch((left + 8, right - 15), (bottom - 0.5, bottom - 0.5))
            canvas.stroke(dots, PIXELS, Pen(look.color(palette.soft), 1, (1.0, 2.0)))
        if share is not None:
            end = left + 2 + round(share * (right - left - 15))
            canvas.box((left + 2, bottom, right - 12, bottom - 2), PIXELS, look.color(palette.grid))
            canvas.box((left + 1, bottom, end + 1, bottom - 2), PIXELS, look.ink(palette, place))
        if chosen:
            self._paint_frame(canvas, (left + 0.75, bottom - 0.75, right - 0.75, top + 0.75))

    def _paint_frame(self, canvas: Canvas, box: tuple[float, float, float, float]) -> None:
        """Frame the current cell: the sheet has two tables, and the keyboard is in one of them, or elsewhere."""
        palette = look.palette()
        canvas.outline(box, look.color(palette.accent if self._view.hasFocus() else palette.grid), 1.5)

    @staticmethod
    def _paint_mark(canvas: Canvas, x: float, y: float, mark: Mark) -> None:
        canvas.marks(Sketch((x,), (y,)), PIXELS, mark)

    # Typing

    @override
    def createEditor(self, parent: QWidget, option: QStyleOptionViewItem, index: Index) -> QWidget:
        editor = QLineEdit(parent)
        editor.setAlignment(Qt.AlignmentFlag.AlignRight)
        editor.setFont(look.font(9))
        editor.setStyleSheet("padding: 0 2px;")
        editor.setAccessibleName(str(index.data(Qt.ItemDataRole.AccessibleTextRole)))
        return editor

    @override
    def setEditorData(self, editor: QWidget, index: Index) -> None:
        assert isinstance(editor, QLineEdit)
        editor.setText(str(index.data(Qt.ItemDataRole.EditRole)))
        editor.selectAll()

    @override
    def setModelData(self, editor: QWidget, model: object, index: Index) -> None:
        assert isinstance(editor, QLineEdit)
        if editor.text() != str(index.data(Qt.ItemDataRole.EditRole)):
            self._view.type_into(index, editor.text())

    @override
    def updateEditorGeometry(self, editor: QWidget, option: QStyleOptionViewItem, index: Index) -> None:
        editor.setGeometry(option.rect.adjusted(4, 0, -2, 0))


def _picture(curve: tuple[Point, ...], most: float, room: Box) -> Sketch:
    """A drawn curve within a box: left, bottom, right, top. `most` is the height that it always shows."""
    left, bottom, right, top = room
    far, high = max(1.0, curve[-1].x), max(most, *(point.y for point in curve))
    xs = (0.0, *(point.x for point in curve), far)
    ys = (curve[0].y, *(point.y for point in curve), curve[-1].y)
    across = tuple(left + x / far * (right - left) for x in xs)
    return Sketch(across, tuple(bottom - y / high * (bottom - top) for y in ys))


def _verdict_mark(*, met: bool) -> Mark:
    """The sign of a target that is met or missed."""
    rim = look.color(look.palette().accent if met else look.palette().warning)
    return Mark(verdict_path(look.px(3), met=met), rim, VERDICT_WIDTH, QColor(0, 0, 0, 0))


def _filled(name: str) -> tuple[QColor, float, QColor]:
    """Rim, its width, and fill of a mark without a rim."""
    return look.color(name), 0.0, look.color(name)
