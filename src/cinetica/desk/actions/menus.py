"""Menus built from the catalogue of actions."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import partial

from PySide6.QtGui import QAction
from PySide6.QtWidgets import QMenu, QToolButton, QWidget

from cinetica.desk import look
from cinetica.desk.actions.catalogue import RECENT, Action, Again, Menu
from cinetica.desk.widgets import button, keep_hover_true


class Menus:
    """`actions` by id; `fill_recent` fills the menu of recent studies."""

    def __init__(self, actions: Mapping[str, QAction], fill_recent: Callable[[QMenu], None]) -> None:
        self._actions, self._fill_recent = actions, fill_recent

    def button(self, declared: Menu) -> QToolButton:
        """A button that opens a menu."""
        made = button(declared.title, declared.title.replace("&", ""), size=10)
        made.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        made.setMenu(self.menu(declared, made))
        keep_hover_true(made)
        return made

    def menu(self, declared: Menu, parent: QWidget) -> QMenu:
        """A menu, with its submenus."""
        menu = QMenu(declared.title, parent)
        menu.setFont(look.font(10))
        menu.setToolTipsVisible(True)
        for entry in declared.entries:
            if entry is None:
                menu.addSeparator()
            elif isinstance(entry, Action | Again):
                menu.addAction(self._actions[entry.id])
            else:
                menu.addMenu(self.menu(entry, menu))
        if declared is RECENT:
            menu.aboutToShow.connect(partial(self._fill_recent, menu))
        return menu
