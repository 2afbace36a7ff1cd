"""What a page is: one of those that stand beside the sheet, of which one is shown."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from cinetica.desk.state.settings import Store


class Page(QWidget):
    """The base of all pages; see `pages.PAGES`."""

    # The actions that are this page's alone: they can be taken only while it is shown.
    OWN_ACTIONS: frozenset[str] = frozenset()
    # Whether it takes the keys as they come: a number that is dragged in the sheet must not take them away from it.
    TAKES_KEYS = False
    # The job of the guide that fits the page: words of its title.
    GUIDE = ""

    @property
    def guide(self) -> str:
        """The job of the guide that fits what is shown now."""
        return self.GUIDE

    def enter(self) -> None:
        """It is shown from now on."""

    @property
    def first(self) -> QWidget | None:
        """What has the keyboard when the page is entered; None: the sheet."""
        return None

    def leave(self) -> None:
        """Another page is shown from now on, or none any more."""

    def keep(self, settings: Store) -> None:
        """Write down what the person has set up, for the next start or for another size of text."""

    def restore(self, settings: Store) -> None:
        """Set up what was kept; what was not stays as it is."""
