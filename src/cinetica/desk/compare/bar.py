"""The bar between the stage and the lanes: how the tunes are laid over each other and drawn, and what else to show."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtGui import QActionGroup
from PySide6.QtWidgets import QFrame, QHBoxLayout, QMenu, QToolButton

from cinetica.desk import look
from cinetica.desk.compare.comparing import DRAWINGS, Comparing
from cinetica.desk.labels import ShortLabel
from cinetica.reading.alignment import ANCHORS
from cinetica.reading.channels import PRESETS

DRAWING_WORDS = {"lines": "lines between samples", "steps": "steps: held until the next tick", "points": "points: nothing but samples"}


class Bar(QFrame):
    """`show_preset` takes the name of a preset of strips."""

    def __init__(self, comparing: Comparing, show_preset: Callable[[str], None]) -> None:
        super().__init__()
        self.comparing = comparing
        self.setObjectName("bar")
        self.setFixedHeight(look.px(28))
        row = QHBoxLayout(self)
        row.setContentsMargins(9, 0, 12, 0)
        row.setSpacing(3)
        self.anchor = self._menu_button("Lay the tunes over each other at this (L goes on to the next)")
        self._choices(self.anchor, ANCHORS, {}, lambda anchor: comparing.set(anchor=anchor))
        self.difference = self._switch("Difference", "Draw each tune minus the reference (D)")
        self.difference.clicked.connect(lambda on: comparing.set(differences=on))
        self.drawing = self._menu_button("What is drawn: samples are what the game computes, lines are drawn between them")
        self._choices(self.drawing, DRAWINGS, DRAWING_WORDS, lambda drawing: comparing.set(drawing=drawing))
        self.scale = self._switch("Same scale", "Strips with the same unit share one scale")
        self.scale.clicked.connect(lambda on: comparing.set(shared_scale=on))
        self.presets = self._menu_button("Strips that belong together")
        self.presets.setText("Strips ▾")
        menu = QMenu(self.presets)
        for name in PRESETS:
            menu.addAction(name, partial(show_preset, name))
        self.presets.setMenu(menu)
        self.table = self._switch("Frame table", "All frames as numbers instead of the strips (T)")
        self.explain = self._switch("Explain", "Which rules acted in this frame, with their numbers (E)")
        self.warning = ShortLabel()
        self.warning.setObjectName("soft")
        self.warning.setFont(look.font(8))
        for each in (self.anchor, self.difference, self.drawing, self.scale, self.presets):
            row.addWidget(each)
        row.addSpacing(6)
        row.addWidget(self.warning, 1)
        row.addWidget(self.table)
        row.addWidget(self.explain)
        comparing.changed.connect(self.say)
        comparing.session.figures_changed.connect(self.say)
        self.say()

    def _menu_button(self, tip: str) -> QToolButton:
        button = QToolButton()
        button.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        button.setToolTip(tip)
        button.setAccessibleName(tip)
        button.setFont(look.font(9))
        return button

    def _switch(self, text: str, tip: str) -> QToolButton:
        button = QToolButton()
        button.setText(text)
        button.setCheckable(True)
        button.setToolTip(tip)
        button.setAccessibleName(text)
        button.setFont(look.font(9))
        return button

    def _choices(self, button: QToolButton, choices: tuple[str, ...], words: dict[str, str], choose: Callable[[str], None]) -> None:
        menu = QMenu(button)
        group = QActionGroup(menu)
        for choice in choices:
            action = menu.addAction(words.get(choice, choice), partial(choose, choice))
            action.setCheckable(True)
            action.setData(choice)
            group.addAction(action)
        button.setMenu(menu)

    def say(self) -> None:
        """Show what is chosen; and which tunes cannot be lined up."""
        comparing = self.comparing
        self.anchor.setText(f"Line up on: {comparing.anchor} ▾")
        self.drawing.setText(f"Draw: {comparing.drawing} ▾")
        self.difference.setChecked(comparing.differences)
        self.scale.setChecked(comparing.shared_scale)
        for button, chosen in ((self.anchor, comparing.anchor), (self.drawing, comparing.drawing)):
            for action in button.menu().actions():
                action.setChecked(action.data() == chosen)
        without = ", ".join(look.letter(shown.place) for shown in comparing.without_anchor)
        self.warning.setText(f"{without}: no {comparing.anchor}, not lined up" if without else "")
