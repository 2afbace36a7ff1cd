"""Widgets that know how much room their text needs: labels that elide, buttons that open something, folding rows."""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QCursor, QPainter, QPaintEvent, QPen, QResizeEvent, QTextLayout, QValidator
from PySide6.QtWidgets import (
    QAbstractSpinBox,
    QComboBox,
    QDoubleSpinBox,
    QFrame,
    QHBoxLayout,
    QLabel,
    QMenu,
    QPushButton,
    QSizePolicy,
    QStyle,
    QStyleOptionComboBox,
    QStylePainter,
    QToolButton,
    QTreeWidget,
    QTreeWidgetItem,
    QWidget,
)
from typing_extensions import override

from cinetica.desk import look

_NUMBER = re.compile(r"[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?", re.IGNORECASE | re.ASCII)
_BEGUN = re.compile(r"[+−-]?\d*[.,]?\d*(e[+-]?)?", re.IGNORECASE)
_ZEROS = str.maketrans("123456789", "0" * 9)
# Spaces that leave room for the arrow after a button's text.
ARROW_ROOM = "\N{NO-BREAK SPACE}" * 4


def plain_tip(text: str) -> str:
    """A tooltip that shows the text literally: Qt would interpret what looks like HTML."""
    if "<" not in text:
        return text
    # Rarely needed, so it is not loaded at the start.
    from html import escape

    return f"<p>{escape(text).replace(chr(10), '<br>')}</p>"


class PlainLabel(QLabel):
    """A label that shows its text literally, whoever wrote it."""

    def __init__(self, text: str = "") -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(text)


class ShortLabel(QWidget):
    """A label that elides what does not fit, instead of displacing or overlapping its neighbours.

    A QLabel starts a new layout of the whole window with every text, which takes longer than painting it. `sample` is
    the longest text that can occur; with it the label keeps that width, whatever it says.
    """

    def __init__(
        self, text: str = "", *, alignment: Qt.AlignmentFlag = Qt.AlignmentFlag.AlignLeft, sample: str = ""
    ) -> None:
        super().__init__()
        self._alignment, self._sample, self._tip, self._text = alignment, sample, "", ""
        # All digits are of one width.
        self._zeros = ""
        self._measured: tuple[str, QSize] | None = None
        # A text in zeros, the width that it was shortened for, and what is left of it.
        self._shortened = ("", 0, "")
        self.setSizePolicy(
            QSizePolicy.Policy.Preferred if sample else QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred
        )
        self.setText(text)

    def text(self) -> str:
        """The whole text."""
        return self._text

    def setText(self, text: str) -> None:
        """Show another text."""
        if text == self._text:
            return
        self._text, self._zeros = text, digits_as_zeros(text)
        if not self._tip:
            self.setToolTip(plain_tip(text))
        self.setAccessibleName(text)
        self.update()

    def set_tip(self, tip: str) -> None:
        """Set a tooltip to show instead of the whole text."""
        self._tip = tip
        self.setToolTip(plain_tip(tip))

    @property
    def _asked(self) -> QSize:
        text = self._sample or self._zeros
        if self._measured is None or self._measured[0] != text:
            self._measured = (text, self.fontMetrics().size(Qt.TextFlag.TextSingleLine, text) + QSize(2, 0))
        return self._measured[1]

    @property
    def wanted(self) -> int:
        """The width at which nothing is elided."""
        return self._asked.width()

    @override
    def sizeHint(self) -> QSize:
        return QSize(self._asked)

    @override
    def changeEvent(self, event: QEvent) -> None:
        self._measured, self._shortened = None, ("", 0, "")
        super().changeEvent(event)

    @override
    def minimumSizeHint(self) -> QSize:
        hint = self.sizeHint()
        return hint if self._sample else QSize(0, hint.height())

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setPen(self.palette().color(self.foregroundRole()))
            text, wide = self._text, self.width()
            # A label that is as wide as its longest text has room for all others; to shorten takes as long as to paint.
            if len(text) > len(self._sample) or wide < self.wanted:
                zeros = self._zeros
                if self._shortened[:2] != (zeros, wide):
                    left = self.fontMetrics().elidedText(zeros, Qt.TextElideMode.ElideRight, wide)
                    self._shortened = (zeros, wide, left)
                left = self._shortened[2]
                signs = len(left.removesuffix("…"))
                text = text[:signs] + left[signs:]
            painter.drawText(self.rect(), int(self._alignment | Qt.AlignmentFlag.AlignVCenter), text)


class LabelPair(QWidget):
    """Two labels: at the ends of one line if that has room for both, else one above the other.

    Whatever they say, nothing else is laid out again.
    """

    def __init__(self, first: ShortLabel, second: ShortLabel, *, gap: int) -> None:
        super().__init__()
        self._first, self._second, self._gap = first, second, gap
        # What they were laid out for: the widths that they want, and the available room.
        self._fitted: tuple[int, ...] = ()
        for label in (first, second):
            label.setParent(self)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)

    @override
    def sizeHint(self) -> QSize:
        first, second = self._first.sizeHint(), self._second.sizeHint()
        return QSize(first.width() + self._gap + second.width(), first.height() + second.height())

    @override
    def minimumSizeHint(self) -> QSize:
        return QSize(0, self.sizeHint().height())

    def fit(self) -> None:
        """Arrange the labels; call it after their text has changed."""
        first, second = self._first.wanted, self._second.wanted if self._second.text() else 0
        wide, high = self.width(), self.height()
        if self._fitted == (first, second, wide, high):
            return
        self._fitted = (first, second, wide, high)
        beside = wide - second - self._gap if second else wide
        if not second or first <= beside:
            self._first.setGeometry(0, 0, beside, high)
            self._second.setGeometry(wide - second, 0, second, high)
        else:
            self._first.setGeometry(0, 0, wide, high // 2)
            self._second.setGeometry(0, high // 2, wide, high - high // 2)
        self._second.setVisible(second > 0)

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.fit()


def number_of(text: str) -> float | None:
    """The number typed, or None: its decimal mark is a full stop or comma, and it has no thousands separators."""
    plain = text.strip().replace("−", "-").replace(",", ".")
    try:
        number = float(plain) if _NUMBER.fullmatch(plain) else math.nan
    except ValueError:
        return None
    return number if math.isfinite(number) else None


def inset(box: QAbstractSpinBox) -> None:
    """Keep the number clear of the frame, which a style sheet does not do."""
    box.lineEdit().setTextMargins(look.px(5), 0, look.px(3), 0)


class NumberBox(QDoubleSpinBox):
    """A number box that reads and writes the same in every locale: what it shows reads back as itself."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        inset(self)

    @override
    def textFromValue(self, value: float) -> str:
        text = f"{value:.{self.decimals()}f}"
        return text.rstrip("0").rstrip(".") if "." in text else text

    @override
    def valueFromText(self, text: str) -> float:
        number = number_of(self._bare(text))
        return self.value() if number is None else number

    @override
    def validate(self, text: str, position: int) -> tuple[QValidator.State, str, int]:
        bare = self._bare(text)
        if text == self.specialValueText() and text:
            return QValidator.State.Acceptable, text, position
        number = number_of(bare)
        if number is not None and self.minimum() <= number <= self.maximum():
            return QValidator.State.Acceptable, text, position
        begun = (
            number is not None
            or bare.strip() in ("", "-", "−", "+", ".", ",", "-.", "-,")
            or _BEGUN.fullmatch(bare.strip())
        )
        return (QValidator.State.Intermediate if begun else QValidator.State.Invalid), text, position

    def _bare(self, text: str) -> str:
        return text.removeprefix(self.prefix()).removesuffix(self.suffix()).strip()


class WrappedLabel(QWidget):
    """A few lines of text, centred or `at_top`, and elided if they do not fit; the tooltip shows all of it."""

    def __init__(self, text: str, lines: int, *, at_top: bool = False) -> None:
        super().__init__()
        self._text, self._lines, self._at_top = "", lines, at_top
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.setText(text)

    def text(self) -> str:
        """The whole text."""
        return self._text

    def setText(self, text: str) -> None:
        """Show another text."""
        if text == self._text:
            return
        self._text = text
        self.setToolTip(plain_tip(text))
        self.setAccessibleName(text)
        self.update()

    @override
    def sizeHint(self) -> QSize:
        return QSize(0, self._lines * self.fontMetrics().lineSpacing() + 4)

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as painter:
            painter.setPen(self.palette().color(self.foregroundRole()))
            metrics, wide = self.fontMetrics(), float(max(1, self.width()))
            if "\n" not in self._text and metrics.horizontalAdvance(self._text) <= wide:
                area = QRectF(0, self._top_of(1), wide, metrics.lineSpacing())
                painter.drawText(area, Qt.AlignmentFlag.AlignVCenter, self._text)
                return
            layout = QTextLayout(self._text, self.font())
            layout.beginLayout()
            lines = []
            while (line := layout.createLine()).isValid():
                line.setLineWidth(wide)
                lines.append(self._text[line.textStart() : line.textStart() + line.textLength()])
            layout.endLayout()
            shown = lines[: self._lines]
            if len(lines) > self._lines:
                shown[-1] = metrics.elidedText(
                    shown[-1] + "".join(lines[self._lines :]), Qt.TextElideMode.ElideRight, self.width()
                )
            top = self._top_of(len(shown))
            for number, words in enumerate(shown):
                area = QRectF(0, top + number * metrics.lineSpacing(), wide, metrics.lineSpacing())
                painter.drawText(area, Qt.AlignmentFlag.AlignVCenter, words.rstrip())

    def _top_of(self, lines: int) -> float:
        """Where so many lines of text begin."""
        return 0.0 if self._at_top else (self.height() - lines * self.fontMetrics().lineSpacing()) / 2


# Pixels beside the text of a chooser that stay free.
ELIDING_AIR = 4


class Chooser(QComboBox):
    """A drop-down list that elides what does not fit; its tooltip shows all of it."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._tip = ""
        self.currentTextChanged.connect(self._update_tip)

    @override
    def sizeHint(self) -> QSize:
        """Room for the longest entry, with the air that `paintEvent` leaves beside it."""
        hint = super().sizeHint()
        return QSize(hint.width() + ELIDING_AIR, hint.height())

    @override
    def minimumSizeHint(self) -> QSize:
        """A few letters are enough: the rest is elided."""
        hint = self.sizeHint()
        return QSize(min(hint.width(), 16 * self.fontMetrics().horizontalAdvance("n")), hint.height())

    def set_tip(self, tip: str) -> None:
        """Set what the tooltip says besides the current choice."""
        self._tip = tip
        self._update_tip(self.currentText())

    def _update_tip(self, text: str) -> None:
        self.setToolTip(plain_tip("\n".join(part for part in (text, self._tip) if part)))

    @override
    def showPopup(self) -> None:
        """Show the list as wide as its longest entry."""
        view = self.view()
        wide = view.sizeHintForColumn(0) + 2 * view.frameWidth() + view.verticalScrollBar().sizeHint().width() + 8
        view.setMinimumWidth(min(wide, self.screen().availableGeometry().width() - 16))
        super().showPopup()

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        painter, option = QStylePainter(self), QStyleOptionComboBox()
        self.initStyleOption(option)
        painter.drawComplexControl(QStyle.ComplexControl.CC_ComboBox, option)
        room = self.style().subControlRect(
            QStyle.ComplexControl.CC_ComboBox, option, QStyle.SubControl.SC_ComboBoxEditField, self
        )
        option.currentText = self.fontMetrics().elidedText(
            option.currentText, Qt.TextElideMode.ElideRight, room.width() - ELIDING_AIR
        )
        painter.drawControl(QStyle.ControlElement.CE_ComboBoxLabel, option)


class OpensButton(QToolButton):
    """A button that opens a menu or a panel, with an arrow after its label."""

    def __init__(self, words: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.setText(words)

    @override
    def setMenu(self, menu: QMenu) -> None:
        super().setMenu(menu)
        keep_hover_true(self)

    @override
    def setText(self, words: str) -> None:
        super().setText(words + ARROW_ROOM)

    @override
    def text(self) -> str:
        return super().text().removesuffix(ARROW_ROOM)

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        self._paint_arrow(QPainter(self), super().text())

    def _paint_arrow(self, painter: QPainter, text: str) -> None:
        """Paint the arrow after the label."""
        metrics = self.fontMetrics()
        whole, words = (metrics.horizontalAdvance(part) for part in (text, text.removesuffix(ARROW_ROOM)))
        size = max(3.0, metrics.height() * 0.2)
        x = min((self.width() - whole) / 2 + words + (whole - words) * 0.62, self.width() - size - 2)
        paint_chevron(painter, QPointF(x, self.height() / 2 + 1), size, self)


def keep_hover_true(opener: QToolButton) -> None:
    """Let a button look hovered over after its menu has closed only if the pointer is there.

    While the menu is open the pointer leaves without a word: Qt sends the button no event.
    """

    def recheck_hover() -> None:
        opener.setAttribute(
            Qt.WidgetAttribute.WA_UnderMouse, opener.rect().contains(opener.mapFromGlobal(QCursor.pos()))
        )
        opener.update()

    opener.menu().aboutToHide.connect(recheck_hover)


def digits_as_zeros(words: str) -> str:
    """The text with zeros for digits, which all have the same width."""
    return words.translate(_ZEROS)


def paint_chevron(painter: QPainter, middle: QPointF, size: float, widget: QWidget) -> None:
    """Paint a downward arrow in the colour of a widget's text."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(widget.palette().color(widget.foregroundRole()), 1.5))
    corner, tip = QPointF(size, -size / 2), middle + QPointF(0, size / 2)
    painter.drawPolyline([middle + QPointF(-corner.x(), corner.y()), tip, middle + corner])


def leaves(tree: QTreeWidget) -> list[tuple[QTreeWidgetItem, QTreeWidgetItem]]:
    """The items at the second level of a tree, each with its parent."""
    tops = [top for row in range(tree.topLevelItemCount()) if (top := tree.topLevelItem(row)) is not None]
    return [(top, child) for top in tops for row in range(top.childCount()) if (child := top.child(row)) is not None]


@dataclass
class _Foldable:
    button: QToolButton
    fold: int


@dataclass(frozen=True)
class _Needed:
    """The widths of the fixed items, the foldable items with their fold, and the menu of folded items."""

    always: int
    foldable: list[tuple[int, int]]
    more: int

    def without(self, over: int, *, more: bool) -> int:
        """The width if all items with a fold greater than `over` are folded."""
        return self.always + sum(wide for fold, wide in self.foldable if fold <= over) + (self.more if more else 0)


# The property of a button that has other words where it is folded into a menu.
IN_MENU = "in_menu"


class FoldingRow(QFrame):
    """A row of widgets. If there is no room, the buttons with the highest `fold` move into a menu at its end."""

    def __init__(self, more: str, *, margins: tuple[int, int] = (9, 12), spacing: int = 3, air: int = 0) -> None:
        """`margins` at the left and right; `air` is kept free above and below the widgets."""
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        self.row = QHBoxLayout(self)
        self.row.setContentsMargins(margins[0], air, margins[1], air)
        self.row.setSpacing(spacing)
        self._foldable: list[_Foldable] = []
        self.more = OpensButton(more, self)
        self.more.setFont(look.font(9))
        self.more.setToolTip("More")
        self.more.setAccessibleName(more)
        menu = QMenu(self.more)
        menu.aboutToShow.connect(self._fill)
        self.more.setMenu(menu)
        self.more.hide()

    def add(self, widget: QWidget, *, fold: int = 0, stretch: int = 0) -> None:
        """Add a widget at the end; a button with a `fold` above 0 may be folded."""
        self.row.addWidget(widget, stretch)
        if fold and isinstance(widget, QToolButton):
            self._foldable.append(_Foldable(widget, fold))

    def add_more(self) -> None:
        """Add the menu of folded items here."""
        self.row.addWidget(self.more)

    @property
    def folded(self) -> list[QToolButton]:
        """The buttons that are folded."""
        return [each.button for each in self._foldable if each.button.isHidden()]

    @override
    def minimumSizeHint(self) -> QSize:
        """The size with everything folded that can be."""
        hint = super().minimumSizeHint()
        gone = sum(
            each.button.minimumSizeHint().width() + self.row.spacing()
            for each in self._foldable
            if not each.button.isHidden()
        )
        more = self.more.sizeHint().width() + self.row.spacing() if self._foldable and self.more.isHidden() else 0
        return QSize(max(0, hint.width() - gone + more), hint.height())

    @override
    def sizeHint(self) -> QSize:
        return QSize(super().sizeHint().width(), super().minimumSizeHint().height())

    @override
    def event(self, event: QEvent) -> bool:
        done = super().event(event)
        if event.type() == QEvent.Type.LayoutRequest:
            self._fold()
        return done

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fold()

    def _needed(self) -> _Needed:
        """The widths of everything that is shown, or could be."""
        folds = {each.button: each.fold for each in self._foldable}
        margins, spacing = self.row.contentsMargins(), self.row.spacing()
        always, foldable = margins.left() + margins.right(), []
        for place in range(self.row.count()):
            item = self.row.itemAt(place)
            widget = item.widget() if item else None
            if item is None or widget is self.more:
                continue
            if widget is None:
                always += item.minimumSize().width()
            elif widget in folds or not widget.isHidden():
                hint = widget.sizeHint() if isinstance(widget, QToolButton) else widget.minimumSizeHint()
                wide = hint.expandedTo(widget.minimumSize()).boundedTo(widget.maximumSize()).width() + spacing
                if widget in folds:
                    foldable.append((folds[widget], wide))
                else:
                    always += wide
        return _Needed(always, foldable, self.more.sizeHint().width() + spacing)

    def _fold(self) -> None:
        if not self._foldable:
            return
        needed = self._needed()
        highest = max(each.fold for each in self._foldable)
        folds = sorted({0, *(each.fold for each in self._foldable)}, reverse=True)
        fits = next((fold for fold in folds if needed.without(fold, more=fold < highest) <= self.width()), 0)
        for each in self._foldable:
            each.button.setVisible(each.fold <= fits)
        self.more.setVisible(fits < highest)

    def _fill(self) -> None:
        """Fill the menu with the folded buttons: their menus as submenus, their states as ticks."""
        menu = self.more.menu()
        menu.clear()
        for button in self.folded:
            if button.menu() is not None:
                action = button.menu().menuAction()
                action.setText(button.text())
                menu.addAction(action)
                continue
            # Short words of a button may say too little in a menu.
            action = menu.addAction(button.property(IN_MENU) or button.text(), button.click)
            action.setToolTip(button.toolTip())
            action.setCheckable(button.isCheckable())
            action.setChecked(button.isChecked())
            action.setEnabled(button.isEnabled())


def button(
    words: str,
    tip: str,
    slot: Callable[[], object] | None = None,
    *,
    size: int = 9,
    opens: bool = False,
    switch: bool = False,
) -> QToolButton:
    """A flat button; `opens`: with an arrow, for a menu; `switch`: it stays pressed."""
    made: QToolButton = OpensButton(words) if opens else QToolButton()
    made.setText(words)
    made.setToolTip(tip)
    made.setAccessibleName(words or tip)
    made.setFont(look.font(size))
    made.setCheckable(switch)
    if slot is not None:
        made.clicked.connect(lambda *_: slot())
    return made


def push_button(words: str, slot: Callable[[], object], *, main: bool = False) -> QPushButton:
    """A button for a dialog; `main`: Return presses it, unless the dialog has buttons of its own at the end."""
    made = QPushButton(words)
    made.setAutoDefault(main)
    made.clicked.connect(lambda *_: slot())
    return made


def in_a_row(*widgets: QWidget) -> QHBoxLayout:
    """Widgets side by side, from the left."""
    row = QHBoxLayout()
    for widget in widgets:
        row.addWidget(widget)
    row.addStretch(1)
    return row


def number_box(low: float, high: float, value: float, name: str, decimals: int = 3) -> NumberBox:
    """A number box with its limits, its first value, and the name that says what it is."""
    made = NumberBox()
    made.setRange(low, high)
    made.setDecimals(decimals)
    made.setValue(value)
    made.setAccessibleName(name)
    made.setToolTip(name)
    return made
