"""What happened in the tick under the cursor, rule by rule, and where and why two tunes diverge."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QModelIndex, QPersistentModelIndex, QRect, QSize, Qt, QTimer
from PySide6.QtGui import QColor, QFont, QFontMetrics, QResizeEvent
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QScrollArea,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QToolButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.actions.keys import keyed_tip
from cinetica.desk.compare.overlay import Comparing
from cinetica.desk.state.session import Session
from cinetica.desk.state.tune_run import TuneRun
from cinetica.desk.widgets import Chooser, NumberBox, PlainLabel, plain_tip
from cinetica.reading.channels import BY_COLUMN
from cinetica.reading.divergence import COMPARED, Divergence, first_divergence
from cinetica.reading.explain import Line, explain

AMOUNT = 0.05


class Explaining(QWidget):
    """A panel beside the stage."""

    def __init__(self, comparing: Comparing) -> None:
        super().__init__()
        look.on_paper(self)
        self.comparing = comparing
        self.session: Session = comparing.session
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(0)
        self._later.timeout.connect(self.refresh)
        self.title = PlainLabel("This frame")
        self.title.setObjectName("title")
        self.title.setFont(look.font(9, bold=True))
        self.amount = NumberBox()
        self.amount.setDecimals(3)
        self.amount.setRange(0, 1e6)
        self.amount.setSingleStep(0.01)
        self.amount.setValue(AMOUNT)
        self.amount.setAccessibleName("Difference from which on two tunes count as parted")
        self.channel = Chooser()
        self.channel.addItem("any channel", "")
        for column in COMPARED:
            self.channel.addItem(BY_COLUMN[column].short_label, column)
        self.channel.setAccessibleName("Channel in which to look for the parting")
        self.part_button = QToolButton()
        self.part_button.setText("Where they part")
        keyed_tip(self.part_button, "To the first frame in which two tunes differ by more than this ({part})")
        self.part_button.clicked.connect(self.find_divergence)
        self.parted = PlainLabel()
        self.parted.setWordWrap(True)
        self.parted.setFont(look.font(9))
        self.parted.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.lines = self._new_lines()
        # The frame of which it was said where the tunes part.
        self._said_at: int | None = None
        self._lay_out()
        self.session.cursor_moved.connect(self._soon)
        self.session.figures_changed.connect(self._soon)
        comparing.changed.connect(self._soon)
        self.session.drill_changed.connect(self._forget_divergence)

    @staticmethod
    def _new_lines() -> QTreeWidget:
        lines = QTreeWidget()
        lines.setHeaderHidden(True)
        lines.setFrameShape(lines.Shape.NoFrame)
        lines.setFont(look.font(9))
        lines.setWordWrap(True)
        lines.setItemDelegate(_Wrapped(lines))
        lines.setIndentation(look.px(12))
        lines.setRootIsDecorated(False)
        lines.setAccessibleName("Rules that acted in the tick under the cursor")
        return lines

    def _lay_out(self) -> None:
        bar = QHBoxLayout()
        bar.setContentsMargins(12, 0, 8, 0)
        bar.setSpacing(4)
        for each in (self.part_button, PlainLabel("by"), self.amount, PlainLabel("in"), self.channel):
            each.setFont(look.font(8))
            bar.addWidget(each)
        self.channel.setMinimumContentsLength(6)
        self.channel.setSizeAdjustPolicy(Chooser.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.amount.setMinimumWidth(look.width("0.050", 8) + look.px(14))
        # Beside a narrow stage the words give way, not the fields.
        self.setMinimumWidth(look.px(200))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(2)
        self.title.setContentsMargins(12, 2, 8, 0)
        layout.addWidget(self.title)
        layout.addLayout(bar)
        self.parted.setMargin(2)
        self.parted.setIndent(10)
        # Beside a low stage the reason is scrolled, and not cut off.
        self.reason = QScrollArea()
        self.reason.setFrameShape(QFrame.Shape.NoFrame)
        self.reason.setWidgetResizable(True)
        self.reason.setWidget(self.parted)
        self.reason.hide()
        layout.addWidget(self.reason, 2)
        layout.addWidget(self.lines, 3)

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._soon()

    @override
    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.StyleChange:
            # Colours stand in its words.
            self._soon()

    @override
    def showEvent(self, event: object) -> None:
        super().showEvent(event)  # type: ignore[arg-type]
        self._soon()

    def _soon(self, *_: object) -> None:
        if self.isVisible():
            self._later.start()

    def refresh(self) -> None:
        """Explain the tick under the cursor for every visible tune."""
        if self._said_at is not None and self._said_at != self.session.cursor:
            # What was said is of another frame than the heading.
            self._forget_divergence()
        self.lines.clear()
        self.title.setText(f"Frame {self.session.cursor}")
        for shown in self.session.shown:
            row = self.comparing.row(shown)
            lines = explain(shown.trace, row)
            beside = f", its frame {row}" if row != self.session.cursor else ""
            head = QTreeWidgetItem([f"{look.letter(shown.place)} {shown.tune.name}{beside}{_sum_words(lines)}"])
            head.setToolTip(0, plain_tip(head.text(0)))
            head.setForeground(0, look.ink(look.worn(), shown.place))
            head.setFont(0, look.font(9, bold=True))
            self.lines.addTopLevelItem(head)
            for line in lines or [
                Line("", "the start: nothing has acted yet" if row == 0 else "nothing acted", (0, 0, 0, 0))
            ]:
                item = QTreeWidgetItem([line.words])
                item.setForeground(0, QColor(look.worn().ink if any(line.change) else look.worn().soft))
                if line.rule:
                    item.setToolTip(0, plain_tip(f"{line.words}\n{line.rule}: {line.equation}"))
                head.addChild(item)
            head.setExpanded(True)

    # Where they part

    def find_divergence(self) -> None:
        """Move the cursor to the first frame in which a tune differs from the reference, and say why."""
        reference = self.session.reference_shown
        others = [shown for shown in self.session.shown if shown is not reference]
        if reference is None or not others:
            self._say_divergence("Two tunes must be shown to find where they part.")
            return
        found = [
            (shown, divergence) for shown in others if (divergence := self._divergence(reference, shown)) is not None
        ]
        if not found:
            where = self.channel.currentText()
            self._say_divergence(f"In {where} they never differ by more than {self.amount.value():g} on this drill.")
            return
        shown, divergence = min(found, key=lambda pair: pair[1].row)
        self.session.set_cursor(divergence.row)
        self._said_at = divergence.row
        self._say_divergence(self._words(reference, shown, divergence))

    def _divergence(self, reference: TuneRun, shown: TuneRun) -> Divergence | None:
        column = self.channel.currentData()
        return first_divergence(
            reference.trace, shown.trace, self.amount.value(), names=(look.letter(reference.place),
            look.letter(shown.place)),
            columns=(column,) if column else COMPARED, rows_later=self.comparing.shift(shown),
        )  # fmt: skip

    def _words(self, reference: TuneRun, shown: TuneRun, divergence: Divergence) -> str:
        channel = BY_COLUMN[divergence.column]
        one, other = (f"{value:.4g}".replace("-", "−") for value in divergence.values)
        mine, its = look.letter(reference.place), look.letter(shown.place)
        unit = f" {channel.unit}" if channel.unit else ""
        what = f"{channel.short_label} is {one}{unit} for {mine} and {other}{unit} for {its}"
        since = f" It began at frame {divergence.cause_row}." if divergence.cause_row != divergence.row else ""
        return f"{mine} and {its} differ from frame {divergence.row} on: {what}.{since} {divergence.reason}."

    def _forget_divergence(self) -> None:
        self._said_at = None
        self._say_divergence("")

    def _say_divergence(self, words: str) -> None:
        self.parted.setText(words)
        self.reason.setVisible(bool(words))


class _Wrapped(QStyledItemDelegate):
    """Lines as high as their text needs at the available width; a tree view alone would cut them off."""

    def __init__(self, tree: QTreeWidget) -> None:
        super().__init__(tree)
        self._tree = tree

    @override
    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> QSize:
        indent = self._tree.indentation() if index.parent().isValid() else 0
        room = QRect(0, 0, max(80, self._tree.viewport().width() - indent - 10), 10_000)
        font = index.data(Qt.ItemDataRole.FontRole)
        metrics = QFontMetrics(font) if isinstance(font, QFont) else self._tree.fontMetrics()
        return QSize(room.width(), metrics.boundingRect(room, Qt.TextFlag.TextWordWrap, str(index.data())).height() + 4)


def _sum_words(lines: list[Line]) -> str:
    """The sum of all lines."""
    total = [sum(line.change[place] for line in lines) for place in range(4)]
    names = ("vx", "vy", "x", "y")
    changed = [
        f"{name} {value:+.3g}".replace("-", "−") for name, value in zip(names, total, strict=True) if abs(value) > 1e-9
    ]
    return f": {', '.join(changed)} in all" if changed else ""
