"""Menus out of the actions that there are."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import partial

from PySide6.QtGui import QAction
from PySide6.QtWidgets import QMenu, QToolButton, QWidget

from cinetica.desk import look
from cinetica.desk.actions.keys import ALL_PAGES, PICTURE_MENU, PICTURES, RECENT, SEPARATOR
from cinetica.desk.pages import PAGES
from cinetica.desk.widgets import button


class Menus:
    """`actions` by their names; `fill_recent` fills the menu of the studies that were open last."""

    def __init__(self, actions: Mapping[str, QAction], fill_recent: Callable[[QMenu], None]) -> None:
        self._actions, self._fill_recent = actions, fill_recent

    def button(self, title: str, entries: tuple[str, ...]) -> QToolButton:
        """A button that opens a menu."""
        made = button(title, title.replace("&", ""), size=10)
        made.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        made.setMenu(self.menu(entries, made))
        return made

    def menu(self, entries: tuple[str, ...], parent: QWidget) -> QMenu:
        menu = QMenu(parent)
        menu.setFont(look.font(10))
        for entry in entries:
            if entry == SEPARATOR:
                menu.addSeparator()
            elif entry == RECENT:
                recent = menu.addMenu(RECENT)
                recent.setFont(look.font(10))
                recent.aboutToShow.connect(partial(self._fill_recent, recent))
            elif entry == PICTURES:
                pictures = self.menu(PICTURE_MENU, menu)
                pictures.setTitle(PICTURES)
                menu.addMenu(pictures)
            elif entry == ALL_PAGES:
                menu.addActions([self._actions[page.action] for page in PAGES])
            else:
                menu.addAction(self._actions[entry])
        return menu
