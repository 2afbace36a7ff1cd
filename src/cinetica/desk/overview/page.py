"""The page Overview: what a change has done to every drill of the view, and whether targets are met."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.overview.cards import Cards
from cinetica.desk.page import Page
from cinetica.desk.state.session import Session
from cinetica.desk.state.settings import Kept, Store
from cinetica.desk.state.study_runs import StudyRuns
from cinetica.desk.widgets import Chooser, FoldingRow, ShortLabel, button
from cinetica.model import editing
from cinetica.model.study import Drill
from cinetica.reading.channels import Channel

CURVES = ("usual curves", "as in Compare")
ACROSS = ("as fits", "1 across", "2 across", "3 across", "4 across")


class OverviewPage(Page):
    """Cards, and above them their baseline."""

    GUIDE = "What has this number done to everything else"

    # Ask for a drill in Compare: its name, and the tune and figure concerned.
    opened = Signal(str, str, str)
    # The tunes of another file are wanted, for comparison.
    file_wanted = Signal()

    def __init__(
        self,
        session: Session,
        study_runs: StudyRuns,
        channels: Callable[[], list[Channel]] = list,
    ) -> None:
        """`channels`: those that Compare shows over time, which the cards can show too."""
        super().__init__()
        self._channels = channels
        self.session = session
        self.baseline = session.baseline
        self.cards = Cards(study_runs, self.baseline)
        self._entered = False
        self._lay_out()
        self.cards.opened.connect(self.opened)
        self.cards.chosen.connect(session.choose_drill)
        self.cards.shifted.connect(self._shift)
        self.cards.counted.connect(self._show_counts)
        session.traces_changed.connect(self._show)
        session.drill_changed.connect(self._show)
        session.shown_changed.connect(self._show)
        session.reference_changed.connect(self._show)
        session.wake_changed.connect(self._show)
        session.units_changed.connect(self._show)

    def _lay_out(self) -> None:
        self.bar = FoldingRow("More", air=look.px(2))
        self.bar.setObjectName("bar")
        self.summary = ShortLabel(sample="30 drills, 30 moved since")
        self.summary.setFont(look.font(9, bold=True))
        self.choices, self.columns, self.curves = Chooser(), Chooser(), Chooser()
        self.curves.setFont(look.font(9))
        self.curves.addItems(CURVES)
        self.curves.setAccessibleName("Curves on the cards")
        self.curves.set_tip("Velocity and height (from above both velocities), or the first two strips of Compare")
        self.curves.activated.connect(self._show)
        self.choices.setFont(look.font(9))
        for chooser, letters in ((self.choices, 16), (self.columns, 9), (self.curves, 12)):
            chooser.setSizeAdjustPolicy(Chooser.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            chooser.setMinimumContentsLength(letters)
        self.choices.setAccessibleName("What the cards are compared with")
        self.choices.set_tip("The cards list the figures that have moved since, or that differ from the reference")
        self.choices.activated.connect(self._choose)
        self.columns.setFont(look.font(9))
        self.columns.addItems(ACROSS)
        self.columns.setAccessibleName("Cards side by side")
        self.columns.set_tip("Keys on the cards: + and −")
        self.columns.setCurrentIndex(self.cards.wanted_across)
        self.columns.activated.connect(self.cards.set_across)
        self.cards.across_changed.connect(self.columns.setCurrentIndex)
        for number, widget in enumerate((self.summary, self.choices, self.columns, self.curves)):
            self.bar.add(widget, fold=0 if number < 2 else 1)
        tip = "Compare the cards with the tunes of another file"
        self.bar.add(button("Compare with a file…", tip, self.file_wanted.emit), fold=2)
        self.bar.add_more()
        self.bar.row.addStretch(1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.bar)
        layout.addWidget(self.cards, 1)

    # What is shown

    @property
    def drills(self) -> list[Drill]:
        """The drills of the current view."""
        view = self.session.drill.view if self.session.drill else "side"
        return [drill for drill in self.session.study.drills if drill.view == view]

    @override
    def enter(self) -> None:
        self._entered = True
        self._show()

    @property
    @override
    def first(self) -> QWidget:
        return self.cards

    @override
    def leave(self) -> None:
        self._entered = False
        self.cards.study_runs.of_use = []

    def _show(self, *_: object) -> None:
        if not self._entered or not self.session.reads:
            return
        self._list_choices()
        two = tuple(channel.column for channel in self._channels()[:2])
        self.cards.contents.columns = two if self.curves.currentIndex() == 1 and len(two) == 2 else ()
        self.cards.show_drills(self.drills, self.session.drill.name if self.session.drill else "")

    def _list_choices(self) -> None:
        choices = self.baseline.choices
        if self.baseline.chosen not in [id for id, _ in choices]:
            self.baseline.choose(choices[0][0])
        listed = [(self.choices.itemData(row), self.choices.itemText(row)) for row in range(self.choices.count())]
        if listed != choices:
            self.choices.clear()
            for id, words in choices:
                self.choices.addItem(words, id)
        self.choices.setCurrentIndex(self.choices.findData(self.baseline.chosen))

    def _show_counts(self, moved: int, drills: int) -> None:
        noun = "drill" if drills == 1 else "drills"
        what = "compared with" if self.baseline.is_reference else f"{moved} moved since"
        self.summary.setText(f"{drills} {noun}, {what}")

    def _choose(self, _: int) -> None:
        self.choose_baseline(self.choices.currentData())

    def choose_baseline(self, chosen: str) -> None:
        """Compare with the reference, the last edit, snapshots, a milestone or a file."""
        self.baseline.choose(chosen)
        self.session.message.emit(f"The cards are compared with {self.baseline.state_words}.")

    def _shift(self, name: str, to: int) -> None:
        """Move a drill to another place among those of the view, in the study itself."""
        self.session.alter(f"Move {name}", lambda study: editing.moved_drill(study, name, to))
        self._show()

    @override
    def keep(self, settings: Store) -> None:
        settings.set(Kept.ACROSS, self.cards.wanted_across)

    @override
    def restore(self, settings: Store) -> None:
        self.cards.set_across(settings.get(Kept.ACROSS))
