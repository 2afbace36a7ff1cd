"""The sheet: parameters down, tunes across. Cells are dragged, wheeled, typed, or double-clicked to reset."""

from __future__ import annotations

from PySide6.QtCore import (
    Qt,
    QTimer,
)
from PySide6.QtWidgets import (
    QCheckBox,
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QSplitter,
    QToolTip,
    QVBoxLayout,
)

from cinetica.desk import look
from cinetica.desk.actions.keys import keyed
from cinetica.desk.sheet.header import hidden_width, tight_width
from cinetica.desk.sheet.view import SheetView
from cinetica.desk.sheet.widths import NARROW_VALUE, USUAL_VALUE, label_width, tune_width, unit_width
from cinetica.desk.state.session import Session
from cinetica.desk.widgets import WrappedLabel, plain_tip
from cinetica.model.parameters import Parameter

# ms
REFUSAL_STAYS = 15_000
HINT = (
    "Drag a number sideways, or type. Double-click: default. Shift is fine, Ctrl coarse. Type over a dotted figure to"
    " set it."
)


class Sheet(QFrame):
    """Title, search, the table, and a line that explains what is under the mouse or what was refused."""

    view: SheetView
    search: QLineEdit
    differing: QCheckBox

    def __init__(self, session: Session) -> None:
        super().__init__()
        look.on_sheet(self)
        self.session = session
        self.view = SheetView(session)
        self.figures = SheetView(session, figures=True)
        self.figures.tune_header.hide()
        self.figures.setAccessibleName("Figures measured on the curves")
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find a number…")
        self.search.setFont(look.font(9))
        self.search.setAccessibleName("Find a number")
        self.search.setClearButtonEnabled(True)
        self.search.setToolTip("Find a number by its name or its group")
        self.search.setMinimumWidth(look.width("Find…", 9) + look.px(30))
        self.differing = QCheckBox("differing only")
        self.differing.setFont(look.font(9))
        self.foot = WrappedLabel(HINT, 3)
        self.foot.setObjectName("soft")
        self.foot.setFont(look.font(8))
        look.on_sheet(self.foot)
        self._lay_out()
        self._listen()

    def _lay_out(self) -> None:
        bar = QHBoxLayout()
        bar.setContentsMargins(14, 0, 12, 6)
        bar.addWidget(self.search, 1)
        bar.addWidget(self.differing)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 8, 0, 0)
        layout.setSpacing(4)
        layout.addLayout(bar)
        halves = QSplitter(Qt.Orientation.Vertical)
        halves.setHandleWidth(1)
        halves.addWidget(self.view)
        halves.addWidget(self.figures)
        for view in (self.view, self.figures):
            view.setMinimumHeight(3 * look.height(9))
            view.setMinimumWidth(look.px(120))
        halves.setSizes([430, 200])
        halves.setStretchFactor(0, 1)
        layout.addWidget(halves, 1)
        foot = QHBoxLayout()
        foot.setContentsMargins(14, 0, 12, 4)
        foot.addWidget(self.foot)
        layout.addLayout(foot)

    def _listen(self) -> None:
        session = self.session
        self.search.textChanged.connect(self._filter)
        # Enter in the search goes to the first number found.
        self.search.returnPressed.connect(self._to_found)
        self.differing.toggled.connect(self._filter)
        for view in (self.view, self.figures):
            view.hovered.connect(self.explain)
            session.figures_changed.connect(view.sheet.refresh)
            session.free_changed.connect(view.viewport().update)
            session.drill_changed.connect(view.sheet.rebuild)
            session.shown_changed.connect(view.fit_columns)
        # The two tables have the same columns: they move sideways together.
        across, below = self.view.horizontalScrollBar(), self.figures.horizontalScrollBar()
        across.valueChanged.connect(below.setValue)
        below.valueChanged.connect(across.setValue)
        self.figures.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        session.shown_changed.connect(self.view.tune_header.viewport().update)
        session.reference_changed.connect(self._reference_changed)
        session.loaded.connect(self._start_over)
        # A refusal has been read by then; the next edit takes it away, too.
        self._refusal_read = QTimer(self, singleShot=True, interval=REFUSAL_STAYS)
        self._refusal_read.timeout.connect(lambda: self.explain(""))
        session.study_changed.connect(self._forget_refusal)
        session.refused.connect(self.refuse)
        session.message.connect(self.explain)

    def _reference_changed(self) -> None:
        for view in (self.view, self.figures):
            view.sheet.rebuild()
        self.view.tune_header.viewport().update()

    @property
    def wanted_width(self) -> int:
        """The width at which every visible tune and game log fits."""
        columns = self.view.sheet.columns_wanted()
        hidden = sum(self.session.is_hidden(tune) for _, tune in columns)
        visible = len(columns) - hidden
        each = max(tune_width(USUAL_VALUE), tight_width()) if visible < 5 else tune_width(NARROW_VALUE)
        names = label_width() + unit_width(self.session.units)
        return names + max(2, visible) * each + hidden * hidden_width() + look.px(14)

    @property
    def all_rules(self) -> bool:
        """Whether rules that are off are shown, too."""
        return self.view.sheet.all_rules

    def show_all_rules(self, on: bool) -> None:
        """Show rules that are off, too, or only those in use."""
        self.view.sheet.show_all_rules(on)

    @property
    def in_bodies(self) -> bool:
        """Whether lengths are shown in bodies."""
        return self.figures.sheet.in_bodies

    def show_in_bodies(self, on: bool) -> None:
        """Show measured lengths in body heights and widths, or in u."""
        self.figures.sheet.show_in_bodies(on)

    def free_current(self) -> None:
        """Let a search move the current number, or no longer."""
        row = self.view.sheet.row_at(self.view.currentIndex())
        if not isinstance(row, Parameter) or row.kind not in ("number", "whole"):
            self.session.refused.emit("Choose a number in the sheet first: that is what a search can move.")
            return
        self.session.set_free(self.session.free ^ {row.id})
        moves = row.id in self.session.free
        self.session.message.emit(f"{row.label} {'may move' if moves else 'stays'} when a curve is matched.")

    def _start_over(self) -> None:
        """Reset for another study: no search, all rows, no message."""
        self.search.clear()
        self.differing.setChecked(False)
        self.explain("")

    def _to_found(self) -> None:
        """Go to the first number, or else figure, that was found."""
        (self.view if self.view.sheet.groups else self.figures).to_numbers()

    def _filter(self) -> None:
        for view in (self.view, self.figures):
            view.sheet.filter(self.search.text(), self.differing.isChecked())

    def show_number(self, id: str, tune: str) -> None:
        """Go to a number of a tune, opening its group."""
        self.search.clear()
        if not self.view.grid.cell(id, tune).isValid():
            self.show_all_rules(True)
        self.view.grid.open_group_of(id)
        self.view.go_to(id, tune)
        self.view.setFocus()

    def explain(self, text: str) -> None:
        """Show an explanation."""
        self._refusal_read.stop()
        self._show_message(text or HINT, "soft")

    def _forget_refusal(self) -> None:
        if self._refusal_read.isActive():
            self.explain("")

    def refuse(self, text: str) -> None:
        """Show why something was refused."""
        self._show_message(keyed("{0} (Guide: {help})", text), "warning")
        self._refusal_read.start()
        rect = self.view.visualRect(self.view.currentIndex())
        if rect.isValid():
            QToolTip.showText(self.view.viewport().mapToGlobal(rect.bottomLeft()), plain_tip(text), self.view)

    def _show_message(self, text: str, kind: str) -> None:
        self.foot.setText(text)
        if self.foot.objectName() != kind:
            self.foot.setObjectName(kind)
            self.foot.style().unpolish(self.foot)
            self.foot.style().polish(self.foot)
