"""The bar between the stage and the lanes: how the tunes are aligned and drawn, and what else to show."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtGui import QActionGroup
from PySide6.QtWidgets import QMenu, QToolButton

from cinetica.desk import look
from cinetica.desk.actions.keys import keyed_tip
from cinetica.desk.compare.overlay import DRAWINGS, Comparing
from cinetica.desk.widgets import FoldingRow, ShortLabel, button
from cinetica.reading.alignment import ANCHORS
from cinetica.reading.channels import PRESETS

DRAWING_WORDS = {
    "lines": "lines between samples",
    "steps": "steps: held until the next tick",
    "points": "points: samples only",
}


class Bar(FoldingRow):
    """`show_preset` takes the name of a preset of strips."""

    table: QToolButton
    explain: QToolButton

    def __init__(self, comparing: Comparing, show_preset: Callable[[str], None]) -> None:
        super().__init__("More", air=look.px(3))
        self.comparing = comparing
        self.setObjectName("bar")
        self.anchor = self._button(
            "Line up on: start", "Line the curves up on this event ({line_up} for the next)", opens=True
        )
        self._choices(self.anchor, ANCHORS, {}, lambda anchor: comparing.set(anchor=anchor))
        self.difference = self._button("Difference", "Draw each tune minus the reference ({difference})", switch=True)
        self.difference.clicked.connect(lambda on: comparing.set(differences=on))
        self.drawing = self._button("Draw: lines", "Samples are what the game computes; lines connect them", opens=True)
        self._choices(self.drawing, DRAWINGS, DRAWING_WORDS, lambda drawing: comparing.set(drawing=drawing))
        self.scale = self._button("Same scale", "Strips with the same unit share one scale", switch=True)
        self.scale.clicked.connect(lambda on: comparing.set(shared_scale=on))
        self.presets = self._button("Strips", "Sets of strips", opens=True)
        menu = QMenu(self.presets)
        for name in PRESETS:
            menu.addAction(name, partial(show_preset, name))
        self.presets.setMenu(menu)
        self.table = self._button("Frame table", "All frames as numbers instead of the strips ({table})", switch=True)
        self.explain = self._button(
            "Explain", "Which rules acted in this frame, with their numbers ({explain})", switch=True
        )
        self._lay_out()
        self._last: tuple[object, ...] = ()
        comparing.changed.connect(self.refresh)
        comparing.session.figures_changed.connect(self.refresh)
        self.refresh()

    def _lay_out(self) -> None:
        self.warning = ShortLabel()
        self.warning.setObjectName("soft")
        self.warning.setFont(look.font(8))
        for each, fold in (
            (self.anchor, 1),
            (self.difference, 2),
            (self.drawing, 5),
            (self.scale, 6),
            (self.presets, 4),
        ):
            self.add(each, fold=fold)
        self.add(self.warning, stretch=1)
        self.add(self.table, fold=3)
        self.add(self.explain, fold=1)
        self.add_more()

    def _button(self, words: str, tip: str, *, opens: bool = False, switch: bool = False) -> QToolButton:
        made = button(words, "", opens=opens, switch=switch)
        keyed_tip(made, tip)
        return made

    def _choices(
        self, button: QToolButton, choices: tuple[str, ...], words: dict[str, str], choose: Callable[[str], None]
    ) -> None:
        menu = QMenu(button)
        group = QActionGroup(menu)
        for choice in choices:
            action = menu.addAction(words.get(choice, choice), partial(choose, choice))
            action.setCheckable(True)
            action.setData(choice)
            group.addAction(action)
        button.setMenu(menu)

    def refresh(self) -> None:
        """Show the current choices, and which tunes cannot be aligned."""
        comparing = self.comparing
        without = ", ".join(look.letter(shown.place) for shown in comparing.without_anchor)
        shown = (without, comparing.anchor, comparing.drawing, comparing.differences, comparing.shared_scale)
        if shown == self._last:
            return
        self._last = shown
        self.anchor.setText(f"Line up on: {comparing.anchor}")
        self.drawing.setText(f"Draw: {comparing.drawing}")
        self.difference.setChecked(comparing.differences)
        self.scale.setChecked(comparing.shared_scale)
        for opener, chosen in ((self.anchor, comparing.anchor), (self.drawing, comparing.drawing)):
            for action in opener.menu().actions():
                action.setChecked(action.data() == chosen)
        self.warning.setText(f"{without}: no {comparing.anchor}, not lined up" if without else "")
