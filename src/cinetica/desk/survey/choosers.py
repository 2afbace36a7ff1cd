"""The controls above the views of Survey: number, range, figures and tune."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QHBoxLayout, QMenu, QWidget

from cinetica.desk import look
from cinetica.desk.widgets import Chooser, NumberBox, OpensButton, PlainLabel
from cinetica.model.parameters import Parameter

if TYPE_CHECKING:
    from cinetica.desk.survey.view import Asked, View

MOST_FIGURES = 4


class ListChooser(Chooser):
    """A list of (id, words), filled again only if it changes."""

    def __init__(self, name: str, letters: int, chosen: Callable[[str], None]) -> None:
        super().__init__()
        self._entries: list[tuple[str, str]] = []
        self.setFont(look.font(9))
        self.setAccessibleName(name)
        self.set_tip(name)
        self.setSizeAdjustPolicy(Chooser.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.setMinimumContentsLength(letters)
        self.activated.connect(lambda _: chosen(str(self.currentData())))

    def fill(self, entries: list[tuple[str, str]], chosen: str) -> None:
        """Fill the list."""
        if entries != self._entries:
            self._entries = entries
            self.clear()
            for id, words in entries:
                self.addItem(words, id)
        place = next((row for row, (id, _) in enumerate(entries) if id == chosen), 0)
        if place != self.currentIndex():
            self.setCurrentIndex(place)


class NumberChooser(ListChooser):
    """Chooses a number; `which` is the field of the request that it sets."""

    def __init__(self, name: str, asked: Asked, which: str, view: View) -> None:
        super().__init__(name, 18, self._choose)
        self._asked, self._which, self._view = asked, which, view

    def _choose(self, id: str) -> None:
        setattr(self._asked, self._which, id)
        self._view.changed.emit()

    def renew(self) -> None:
        """Update the list."""
        chosen = self._view.number_called(getattr(self._asked, self._which), other=self._which == "other")
        self.fill(
            [(each.id, f"{each.label} ({each.section.lower()})") for each in self._view.numbers],
            chosen.id if chosen else "",
        )


class TuneChooser(ListChooser):
    """Chooses a tune."""

    def __init__(self, view: View) -> None:
        super().__init__("Tune", 10, self._choose)
        self._view = view

    def _choose(self, name: str) -> None:
        self._view.asked.tune = name
        self._view.changed.emit()

    def renew(self) -> None:
        """Update the list."""
        chosen = self._view.tune
        self.fill(
            [(tune.name, f"{look.letter(place)} {tune.name}") for place, tune in self._view.tunes],
            chosen[1].name if chosen else "",
        )


class FigureChooser(ListChooser):
    """Chooses a figure; with `none` it may be none."""

    def __init__(
        self, name: str, view: View, get: Callable[[], str], put: Callable[[str], None], none: str = ""
    ) -> None:
        super().__init__(name, 14, self._choose)
        self._view, self._get, self._put, self._none = view, get, put, none

    def _choose(self, id: str) -> None:
        self._put(id)
        self._view.changed.emit()

    def renew(self) -> None:
        """Update the list."""
        none = [("", self._none)] if self._none else []
        self.fill([*none, *((each.id, each.label) for each in self._view.measures)], self._get())


class FiguresButton(OpensButton):
    """Chooses several figures, to be shown above one another."""

    def __init__(self, view: View) -> None:
        super().__init__("Figures")
        self._view = view
        self.setFont(look.font(9))
        self.setToolTip(f"Up to {MOST_FIGURES} figures, one over the other")
        self.setAccessibleName("Figures")
        menu = QMenu(self)
        menu.aboutToShow.connect(self._fill)
        self.setMenu(menu)

    def renew(self) -> None:
        """Update the label."""
        known = {measure.id: measure.label for measure in self._view.measures}
        chosen = [known[id] for id in self._view.ids if id in known]
        self.setText(chosen[0] if len(chosen) == 1 else f"{len(chosen)} figures" if chosen else "Figures")

    def _fill(self) -> None:
        menu = self.menu()
        menu.clear()
        for measure in self._view.measures:
            action = menu.addAction(measure.label)
            action.setCheckable(True)
            action.setChecked(measure.id in self._view.ids)
            action.setToolTip(measure.meaning)
            action.triggered.connect(lambda on, id=measure.id: self._choose(id, on))

    def _choose(self, id: str, on: bool) -> None:
        asked = self._view.asked
        known = [measure.id for measure in self._view.measures]
        others = [each for each in self._view.ids if each != id and each in known]
        if on and len(others) >= MOST_FIGURES:
            self._view.session.refused.emit(f"There is room for {MOST_FIGURES} figures. Remove one first.")
            return
        asked.figures = [*others, id] if on else others or [id]
        self._view.changed.emit()


class RangeBoxes(QWidget):
    """The range of a number."""

    def __init__(self, view: View, parameter: Callable[[], Parameter | None]) -> None:
        super().__init__()
        self._view, self._parameter = view, parameter
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(3)
        self.low, self.high, to = NumberBox(), NumberBox(), PlainLabel("to")
        to.setFont(look.font(9))
        for box, name in ((self.low, "From"), (self.high, "To")):
            box.setFont(look.font(9))
            box.setDecimals(4)
            box.setFixedWidth(look.width("10000.25", 9) + look.px(16))
            box.setKeyboardTracking(False)
            box.setAccessibleName(name)
            box.setToolTip(f"{name} which value")
            box.editingFinished.connect(self._set)
        for widget in (self.low, to, self.high):
            row.addWidget(widget)

    def renew(self) -> None:
        """Update the range."""
        parameter = self._parameter()
        if parameter is None or not self._view.tunes:
            return
        for box, value in zip((self.low, self.high), self._shown(parameter), strict=True):
            if box.value() == value and box.minimum() < value:
                continue
            box.blockSignals(True)
            # Values outside can be typed, and are refused with a reason.
            box.setRange(-1e9, 1e9)
            box.setValue(value)
            box.blockSignals(False)

    def _shown(self, parameter: Parameter) -> tuple[float, float]:
        return self._view.scale_of(parameter).span(*self._view.range_of(parameter))

    def _set(self) -> None:
        parameter = self._parameter()
        if parameter is None:
            return
        typed = self.low.value(), self.high.value()
        if typed != tuple(round(value, self.low.decimals()) for value in self._shown(parameter)):
            scale = self._view.scale_of(parameter)
            low, high = (scale.kept(value) for value in typed)
            # Where upward is negative the ends change places.
            self._view.set_range(parameter, *((high, low) if scale.units.turns(parameter) < 0 else (low, high)))
