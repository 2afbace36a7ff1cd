"""What happened in the tick under the cursor, rule by rule, and where and why two tunes diverge."""

from __future__ import annotations

import re
from collections.abc import Callable
from html import escape

from PySide6.QtCore import QEvent, Qt, QTimer, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QScrollArea,
    QTextBrowser,
    QToolButton,
    QVBoxLayout,
    QWidget,
)
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.actions.keys import keyed_tip
from cinetica.desk.compare.overlay import Comparing
from cinetica.desk.state.session import Session
from cinetica.desk.state.tune_run import TuneRun
from cinetica.desk.widgets import Chooser, NumberBox, PlainLabel
from cinetica.model.tune import PARAMETERS, Tune
from cinetica.model.world_size import world_size
from cinetica.reading.channels import BY_COLUMN
from cinetica.reading.display_units import DisplayUnits
from cinetica.reading.divergence import COMPARED, Divergence, first_divergence
from cinetica.reading.explain import Line, explain

AMOUNT = 0.05


class Explaining(QWidget):
    """A panel below the charts, with a column for each tune."""

    # A number in the explanation was clicked: its id, and the name of the tune.
    number_chosen = Signal(str, str)

    def __init__(self, comparing: Comparing) -> None:
        super().__init__()
        look.on_paper(self)
        self.comparing = comparing
        self.session: Session = comparing.session
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(0)
        self._later.timeout.connect(self.refresh)
        self.columns: list[TuneColumn] = []
        # The frame for which the first difference was found.
        self._divergence_row: int | None = None
        self._make_widgets()
        self._lay_out()
        self.session.cursor_moved.connect(self._soon)
        self.session.units_changed.connect(self._update_units)
        self.session.figures_changed.connect(self._soon)
        comparing.changed.connect(self._soon)
        self.session.drill_changed.connect(self._forget_divergence)

    def _make_widgets(self) -> None:
        self.title = PlainLabel("This frame")
        self.title.setObjectName("title")
        self.title.setFont(look.font(9, bold=True))
        self.amount = NumberBox()
        self.amount.setDecimals(4)
        self.amount.setRange(0, 1e6)
        self.amount.setSingleStep(0.01)
        self.amount.setValue(AMOUNT)
        self._usual_amount = AMOUNT
        self.amount.setAccessibleName("Smallest difference that counts")
        self.channel = Chooser()
        self.channel.addItem("any channel", "")
        for column in COMPARED:
            self.channel.addItem(BY_COLUMN[column].short_label, column)
        self.channel.setAccessibleName("Channel to compare")
        self.part_button = QToolButton()
        self.part_button.setText("First difference")
        keyed_tip(self.part_button, "Go to the first frame in which two tunes differ by more than this ({part})")
        self.part_button.clicked.connect(self.find_divergence)
        self.parted = PlainLabel()
        self.parted.setWordWrap(True)
        self.parted.setFont(look.font(9))
        self.parted.setAlignment(Qt.AlignmentFlag.AlignTop)

    def _lay_out(self) -> None:
        bar = QHBoxLayout()
        bar.setContentsMargins(12, 0, 8, 0)
        bar.setSpacing(4)
        for each in (self.part_button, PlainLabel("by"), self.amount, PlainLabel("in"), self.channel):
            each.setFont(look.font(8))
            bar.addWidget(each)
        bar.addStretch(1)
        self.channel.setMinimumContentsLength(11)
        self.channel.setSizeAdjustPolicy(Chooser.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.amount.setFixedWidth(look.width("0.0500", 8) + look.px(36))
        # Next to a narrow stage the words shrink, not the fields.
        self.setMinimumWidth(look.px(200))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(2)
        self.title.setContentsMargins(12, 2, 8, 0)
        layout.addWidget(self.title)
        layout.addLayout(bar)
        self.parted.setMargin(2)
        self.parted.setIndent(10)
        # Next to a low stage the reason scrolls instead of being cut off.
        self.reason = QScrollArea()
        self.reason.setFrameShape(QFrame.Shape.NoFrame)
        self.reason.setWidgetResizable(True)
        self.reason.setWidget(self.parted)
        self.reason.hide()
        self.reason.setMaximumHeight(4 * look.height(9))
        layout.addWidget(self.reason)
        # Many tunes are scrolled sideways.
        side_by_side = QWidget()
        self._row = QHBoxLayout(side_by_side)
        self._row.setContentsMargins(0, 0, 0, 0)
        self._row.setSpacing(1)
        scroller = QScrollArea()
        scroller.setFrameShape(QFrame.Shape.NoFrame)
        scroller.setWidgetResizable(True)
        scroller.setWidget(side_by_side)
        layout.addWidget(scroller, 1)

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._soon()

    @override
    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.StyleChange:
            # The colours are part of its HTML.
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
        if self._divergence_row is not None and self._divergence_row != self.session.cursor:
            # The divergence was found for another frame.
            self._forget_divergence()
        self.title.setText(f"Frame {self.session.cursor}")
        self._follow_size()
        shown = self.session.shown
        while len(self.columns) < len(shown):
            column = TuneColumn()
            column.number_chosen.connect(self.number_chosen)
            self.columns.append(column)
            self._row.addWidget(column, 1)
        for place, column in enumerate(self.columns):
            column.setVisible(place < len(shown))
            if place < len(shown):
                column.explain(shown[place], self.comparing.row(shown[place]), self.session.cursor, self.session.units)

    def _update_units(self) -> None:
        self._forget_divergence()
        self._soon()

    def _follow_size(self) -> None:
        """Make the tolerance follow the size of the world, in the units shown, until the user sets it."""
        usual = self.session.units.scale("u").shown(AMOUNT * world_size(self.session.reference))
        if self.amount.value() == self._usual_amount:
            self.amount.setValue(usual)
        self._usual_amount = usual

    def needed(self) -> int:
        """The height in which nothing has to be scrolled, in pixels."""
        head = sum(each.sizeHint().height() for each in (self.title, self.part_button)) + 8
        reason = self.reason.maximumHeight() if self.reason.isVisible() else 0
        return head + reason + max((column.needed() for column in self.columns if column.isVisible()), default=0)

    # Divergence

    def find_divergence(self) -> None:
        """Move the cursor to the first frame in which a tune differs from the reference, and say why."""
        reference = self.session.reference_shown
        others = [shown for shown in self.session.shown if shown is not reference]
        if reference is None or not others:
            self._show_divergence("Show two tunes to find where they first differ.")
            return
        found = [
            (shown, divergence) for shown in others if (divergence := self._divergence(reference, shown)) is not None
        ]
        if not found:
            where = self.channel.currentText()
            self._show_divergence(f"In {where} they never differ by more than {self.amount.value():g} on this drill.")
            return
        shown, divergence = min(found, key=lambda pair: pair[1].row)
        self.session.set_cursor(divergence.row)
        self._divergence_row = divergence.row
        self._show_divergence(self._words(reference, shown, divergence))

    def _divergence(self, reference: TuneRun, shown: TuneRun) -> Divergence | None:
        column = self.channel.currentData()
        return first_divergence(
            reference.trace, shown.trace, self.amount.value(), names=(look.letter(reference.place),
            look.letter(shown.place)),
            columns=(column,) if column else COMPARED, rows_later=self.comparing.shift(shown),
            units=self.session.units,
        )  # fmt: skip

    def _words(self, reference: TuneRun, shown: TuneRun, divergence: Divergence) -> str:
        channel = BY_COLUMN[divergence.column]
        scale = self.session.units.column(channel.column)
        one, other = (f"{scale.shown(value):.4g}".replace("-", "−") for value in divergence.values)
        mine, its = look.letter(reference.place), look.letter(shown.place)
        unit = f" {scale.unit}" if scale.unit else ""
        what = f"{channel.short_label} is {one}{unit} for {mine} and {other}{unit} for {its}"
        since = f" It began at frame {divergence.cause_row}." if divergence.cause_row != divergence.row else ""
        return f"{mine} and {its} differ from frame {divergence.row} on: {what}.{since} {divergence.reason}."

    def _forget_divergence(self) -> None:
        self._divergence_row = None
        self._show_divergence("")

    def _show_divergence(self, words: str) -> None:
        self.parted.setText(words)
        self.reason.setVisible(bool(words))
        # As high as its words, up to four lines.
        wanted = self.parted.heightForWidth(max(80, self.width() - look.px(20)))
        self.reason.setMaximumHeight(min(wanted + 4, 4 * look.height(9)))


class TuneColumn(QTextBrowser):
    """The rules that acted on one tune, with their numbers as links to the sheet, and their equations."""

    number_chosen = Signal(str, str)

    def __init__(self) -> None:
        super().__init__()
        self.setOpenLinks(False)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFont(look.font(9))
        self.setMinimumWidth(look.px(150))
        self.words: list[str] = []
        self._tune = ""
        self.anchorClicked.connect(lambda link: self.number_chosen.emit(link.toString(), self._tune))

    def needed(self) -> int:
        """The height of the text at the present width."""
        return round(self.document().size().height()) + 4

    def explain(self, shown: TuneRun, row: int, cursor: int, units: DisplayUnits) -> None:
        """Explain the tick that ends in a row of a tune's trace."""
        lines = explain(shown.trace, row, units)
        beside = f", its frame {row}" if row != cursor else ""
        head = f"{look.letter(shown.place)} {shown.tune.name}{beside}{_sum_words(lines, units)}"
        nothing = "the start: no rule has acted yet" if row == 0 else "nothing acted"
        if shown.trace.logged:
            nothing = "moved by the game: which rules acted there is not known here"
        self.words = [head, *(line.words for line in lines or [Line("", nothing, (0, 0, 0, 0))])]
        self.setAccessibleName(f"Rules that acted on {shown.tune.name}")
        self._tune = shown.tune.name
        palette, link = look.palette(), _linker(shown.tune)
        ink = look.ink(palette, shown.place).name()
        parts = [f'<p style="margin:2px 0 4px 0; color:{ink}"><b>{escape(head)}</b></p>']
        for line in lines:
            acted, words = any(line.change), link(line.words)
            if acted:
                words += f'<br><span style="color:{palette.soft}">{escape(line.equation)}</span>'
            color = palette.ink if acted else palette.soft
            parts.append(f'<p style="margin:0 0 4px 0; color:{color}">{words}</p>')
        if not lines:
            parts.append(f'<p style="color:{palette.soft}">{nothing}</p>')
        self.document().setDefaultStyleSheet(f"a {{ color: {palette.accent}; text-decoration: none }}")
        self.setHtml("".join(parts))


def _linker(tune: Tune) -> Callable[[str], str]:
    """A function that makes the numbers of a tune in a text links to their cells."""
    values = tune.values()
    known: dict[str, str] = {}
    for parameter in PARAMETERS:
        if parameter.kind in ("number", "whole") and parameter.matters(tune.view, values):
            for words in (parameter.label.lower(), parameter.name.replace("_", " ")):
                known.setdefault(words, parameter.id)
    names = "|".join(sorted(map(re.escape, known), key=len, reverse=True))
    pattern = re.compile(rf"\b({names}) (−?[\d.]+)")

    def linked(words: str) -> str:
        return pattern.sub(lambda found: f'<a href="{known[found[1]]}">{found[0]}</a>', escape(words, quote=False))

    return linked


def _sum_words(lines: list[Line], units: DisplayUnits) -> str:
    """The sum of all lines."""
    total = [sum(line.change[place] for line in lines) for place in range(4)]
    names = ("vx", "vy", "x", "y")
    changed = [
        f"{name} {units.column(name).change(value):+.3g}".replace("-", "−")
        for name, value in zip(names, total, strict=True)
        if abs(value) > 1e-9
    ]
    return f": {', '.join(changed)} in total" if changed else ""
