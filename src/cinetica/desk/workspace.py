"""What is below the header: the sheet on the left, and the current page beside it."""

from __future__ import annotations

from typing import cast

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QSplitter, QStackedWidget, QVBoxLayout, QWidget
from typing_extensions import override

from cinetica.desk.compare.page import ComparePage
from cinetica.desk.page import Page, PageContext
from cinetica.desk.pages import PAGES
from cinetica.desk.sheet.panel import Sheet
from cinetica.desk.state.session import Session
from cinetica.desk.state.settings import Kept, Store
from cinetica.desk.state.study_runs import StudyRuns

MANY_HIDDEN = 6


class Workspace(QWidget):
    """Sheet and pages; pages are created when first shown."""

    # A page was made: its action.
    made = Signal(str)

    def __init__(self, session: Session, study_runs: StudyRuns) -> None:
        super().__init__()
        self.session: Session = session
        self.study_runs = study_runs
        self.sheet = Sheet(session)
        self._context = PageContext(session, study_runs, lambda: self.compare.channels())
        self._pages: dict[str, Page] = {}
        self._kept: Store | None = None
        self._own_sheet_width = False
        self._stack = QStackedWidget()
        self._halves = QSplitter(Qt.Orientation.Horizontal)
        self._halves.setHandleWidth(1)
        self._halves.addWidget(self.sheet)
        self._halves.addWidget(self._stack)
        self._halves.splitterMoved.connect(self._sheet_was_moved)
        self._halves.setStretchFactor(1, 1)
        self._halves.setCollapsible(0, False)
        self._halves.setCollapsible(1, False)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self._halves)
        self.sheet.figures.figure_chosen.connect(self.compare.to_figure)
        self.compare.number_chosen.connect(self.sheet.show_number)
        session.study_changed.connect(self._fit_sheet)
        session.traces_changed.connect(self._fit_sheet)
        session.shown_changed.connect(self._fit_sheet)
        session.drill_changed.connect(self._fit_sheet)

    # The pages

    @property
    def compare(self) -> ComparePage:
        """The page Compare."""
        return cast(ComparePage, self.page("compare"))

    def page(self, action: str) -> Page:
        """The page that an action shows."""
        found = self._pages.get(action)
        if found is None:
            entry = next(entry for entry in PAGES if entry.action == action)
            found = self._pages[action] = entry.make(self._context)
            self._stack.addWidget(found)
            if self._kept is not None:
                found.restore(self._kept)
            self.made.emit(action)
        return found

    @property
    def pages_made(self) -> list[Page]:
        """The pages created so far."""
        return list(self._pages.values())

    @property
    def kept(self) -> Store | None:
        """The settings from which this was restored."""
        return self._kept

    @property
    def shown(self) -> Page:
        """The current page."""
        return cast(Page, self._stack.currentWidget())

    def show_page(self, action: str) -> None:
        """Show the page of an action."""
        page = self.page(action)
        if page is not self.shown:
            self.shown.leave()
        for view in (self.sheet.view, self.sheet.figures):
            view.setFocusPolicy(Qt.FocusPolicy.TabFocus if page.TAKES_KEYS else Qt.FocusPolicy.StrongFocus)
        self._stack.setCurrentWidget(page)
        page.enter()
        if not page.TAKES_KEYS:
            (page.first or self.sheet.view).setFocus()

    def leave(self) -> None:
        """Leave the current page: the workspace is about to be deleted."""
        for page in self._pages.values():
            page.leave()

    # The width of the sheet

    def _sheet_was_moved(self, *_: int) -> None:
        self._own_sheet_width = True

    def _fit_sheet(self) -> None:
        """Make the sheet as wide as its tunes need, but at most two fifths, until the user moves the edge.

        Slightly wider if the letters of many hidden tunes are between those shown.
        """
        if not self._own_sheet_width:
            hidden = sum(self.session.is_hidden(tune) for _, tune in self.session.tunes)
            most = self.width() * (9 if hidden > MANY_HIDDEN else 8) // 20
            width = min(self.sheet.wanted_width, most)
            if self._halves.sizes()[0] != width:
                self._halves.setSizes([width, max(1, self.width() - width)])

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit_sheet()

    # What the user has set up, kept from one start to the next

    def keep(self, settings: Store) -> None:
        """Store what the user has set up."""
        if self._own_sheet_width:
            settings.set_state("splitter_halves", self._halves.saveState())
        settings.set(Kept.FOLDED, sorted(self.sheet.view.grid.folded))
        settings.set(Kept.IN_BODIES, self.sheet.in_bodies)
        for page in self._pages.values():
            page.keep(settings)

    def restore(self, settings: Store) -> None:
        """Restore what was stored; pages created later use the same settings."""
        self._kept = settings
        width = settings.state("splitter_halves")
        self._own_sheet_width = width is not None and self._halves.restoreState(width)
        folded = settings.get(Kept.FOLDED)
        if folded is not None:
            self.sheet.view.grid.fold(folded)
        if settings.get(Kept.IN_BODIES):
            self.sheet.show_in_bodies(True)
        for page in self._pages.values():
            page.restore(settings)
