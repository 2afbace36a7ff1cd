"""The page Survey: its five views, and the controls above them."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QButtonGroup, QMenu, QStackedWidget, QVBoxLayout, QWidget
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.page import Page
from cinetica.desk.state.session import Session
from cinetica.desk.state.settings import Kept, Store
from cinetica.desk.survey.curve import CurveView
from cinetica.desk.survey.map import MapView
from cinetica.desk.survey.reach import ReachView
from cinetica.desk.survey.sensitivity import SensitivityView
from cinetica.desk.survey.view import Asked, View
from cinetica.desk.survey.windows import WindowsView
from cinetica.desk.widgets import FoldingRow, OpensButton, ShortLabel, button

VIEWS: tuple[type[View], ...] = (CurveView, MapView, WindowsView, ReachView, SensitivityView)


class SurveyPage(Page):
    """The views.

    `picture_wanted`, `numbers_wanted`, `report_wanted`: emitted to export the current view as a picture or table, or to
    add it to the report.
    """

    picture_wanted = Signal()
    numbers_wanted = Signal()
    report_wanted = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.asked = Asked()
        self.views = [view(session, self.asked) for view in VIEWS]
        self._entered = False
        self._lay_out()
        for view in self.views:
            view.status.connect(self.status.setText)
            view.changed.connect(self._renew)
        sensitivity = self.view_called("Sensitivity")
        assert isinstance(sensitivity, SensitivityView)
        sensitivity.wants_curve = lambda: self.show_view("Curve")  # type: ignore[method-assign]
        session.traces_changed.connect(self._renew)
        session.units_changed.connect(self._renew)
        session.drill_changed.connect(self._renew)
        session.shown_changed.connect(self._renew)
        session.reference_changed.connect(self._renew)

    def _new_top(self) -> FoldingRow:
        """The buttons of the views, and what can be exported."""
        top = FoldingRow("More", air=look.px(2))
        top.setObjectName("bar")
        self._buttons = QButtonGroup(self)
        for number, view in enumerate(self.views):
            made = button(view.WORDS, view.TIP, partial(self.show_view, view.WORDS), switch=True)
            made.setChecked(number == 0)
            self._buttons.addButton(made, number)
            top.add(made)
        self.export = OpensButton("Export")
        self.export.setFont(look.font(9))
        self.export.setToolTip("Export this view as a picture, as numbers, or to the report")
        self.export.setAccessibleName("Export")
        menu = QMenu(self.export)
        menu.addAction("Picture…", self.picture_wanted.emit)
        menu.addAction("Numbers as CSV…", self.numbers_wanted.emit)
        menu.addAction("Add to the report", self.report_wanted.emit)
        self.export.setMenu(menu)
        top.add(self.export)
        top.row.addStretch(1)
        return top

    @staticmethod
    def _new_controls(view: View) -> QWidget:
        """The rows of controls above a view."""
        controls = QWidget()
        rows = QVBoxLayout(controls)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(0)
        for row in view.rows_of_controls():
            bar = FoldingRow("More", air=look.px(2))
            bar.setObjectName("bar")
            for widget in row:
                bar.add(widget)
            bar.row.addStretch(1)
            rows.addWidget(bar)
        return controls

    def _lay_out(self) -> None:
        top = self._new_top()
        self._over: list[QWidget] = []
        self._stack = QStackedWidget()
        for view in self.views:
            self._over.append(self._new_controls(view))
            self._stack.addWidget(view)
        self.status = ShortLabel()
        self.status.setFont(look.font(9))
        self.status.setMinimumHeight(look.height(9) + look.px(4))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(top)
        for number, controls in enumerate(self._over):
            layout.addWidget(controls)
            controls.setVisible(number == 0)
        layout.addWidget(self._stack, 1)
        layout.addWidget(self.status)

    @property
    @override
    def guide(self) -> str:
        return self.view.GUIDE

    # The views

    @property
    def view(self) -> View:
        """The current view."""
        return self.views[self._stack.currentIndex()]

    def view_called(self, words: str) -> View:
        """The view with this button."""
        return next(view for view in self.views if words == view.WORDS)

    def show_view(self, words: str) -> None:
        """Show the view with this button."""
        self.view.leave()
        number = next(place for place, view in enumerate(self.views) if words == view.WORDS)
        self._buttons.button(number).setChecked(True)
        for place, controls in enumerate(self._over):
            controls.setVisible(place == number)
        self._stack.setCurrentIndex(number)
        self.status.setText("")
        if self._entered:
            self.view.entered = True
            self._renew()
            if self.view.focusPolicy() != Qt.FocusPolicy.NoFocus:
                self.view.setFocus()

    def survey(self, number: str, tune: str = "") -> None:
        """Show the curve of a tune's number."""
        self.asked.number = number
        self.asked.tune = tune or self.asked.tune
        self.show_view("Curve")

    def _renew(self) -> None:
        if self._entered and self.session.reads:
            self.view.renew()

    @override
    def enter(self) -> None:
        self._entered = self.view.entered = True
        self._renew()

    @property
    @override
    def first(self) -> QWidget:
        return self.view

    @override
    def leave(self) -> None:
        self._entered = False
        self.view.leave()

    @override
    def keep(self, settings: Store) -> None:
        settings.set(Kept.SURVEY, [self.view.WORDS, self.asked.number, self.asked.other, *self.asked.figures])

    @override
    def restore(self, settings: Store) -> None:
        kept = settings.get(Kept.SURVEY)
        if len(kept) >= 4 and kept[0] in [view.WORDS for view in self.views]:
            self.asked.number, self.asked.other, self.asked.figures = kept[1], kept[2], list(kept[3:])
            self.show_view(kept[0])
