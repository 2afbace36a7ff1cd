"""The base class of pages: one of them is shown beside the sheet."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from PySide6.QtWidgets import QWidget

from cinetica.desk.state.session import Session
from cinetica.desk.state.settings import Store
from cinetica.desk.state.study_runs import StudyRuns
from cinetica.reading.channels import Channel


class PageContext(NamedTuple):
    """What a page is made from. `channels`: those that Compare shows over time."""

    session: Session
    study_runs: StudyRuns
    channels: Callable[[], list[Channel]]


class Page(QWidget):
    """The base of all pages; see `pages.PAGES`."""

    # The actions that belong to this page alone; they are enabled only while it is shown.
    OWN_ACTIONS: frozenset[str] = frozenset()
    # Whether it handles key presses itself: a number dragged in the sheet must not take the focus from it.
    TAKES_KEYS = False
    # Words from the title of the guide's job for this page.
    GUIDE = ""

    @property
    def guide(self) -> str:
        """The job of the guide for what is shown now."""
        return self.GUIDE

    def enter(self) -> None:
        """Called when the page is shown."""

    @property
    def first(self) -> QWidget | None:
        """The widget that gets the focus when the page is shown; None: the sheet."""
        return None

    def leave(self) -> None:
        """Called when another page is shown, or the window closes."""

    def keep(self, settings: Store) -> None:
        """Store what the user has set up, for the next start or another text size."""

    def restore(self, settings: Store) -> None:
        """Restore what was stored; the rest stays as it is."""
