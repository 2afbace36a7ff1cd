"""The header of the window: study, menus, pages, drill and clock."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QComboBox, QLabel, QSizePolicy
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.actions.catalogue import MENUS
from cinetica.desk.actions.keys import keyed_tip
from cinetica.desk.actions.menus import Menus
from cinetica.desk.clock_button import ClockButton
from cinetica.desk.game_sign import OFF, game_button, show_state
from cinetica.desk.pages import PAGES
from cinetica.desk.state.session import Session
from cinetica.desk.widgets import IN_MENU, Chooser, FoldingRow, ShortLabel, button, plain_tip
from cinetica.model.clock import Clock, clock_words
from cinetica.model.game_units import words
from cinetica.model.study import Drill
from cinetica.model.targets import HOW
from cinetica.reading.display_units import DisplayUnits

# Shown after the name of a study with unsaved changes.
UNSAVED = "•"
UNITS_SHOWN = ("u", "px", "game")
NO_TARGETS, MOST_MISSED = "no targets", "99 of 99 missed"
HOW_TARGETS = f"No figure has a target yet: {HOW} on one."


class Header(FoldingRow):
    """A row that folds what has no room into a menu."""

    # A page, by its action.
    page_wanted = Signal(str)
    clock_wanted = Signal()
    units_wanted = Signal()
    game_wanted = Signal()
    # The first target that is missed.
    missed_wanted = Signal()

    def __init__(self, session: Session, menus: Menus, shown_page: str) -> None:
        super().__init__("More", margins=(18, 14), spacing=2)
        self.session = session
        # What was last shown, and the drills whose notes it includes.
        self._last: tuple[object, ...] = ()
        self._last_clock: Clock | None = None
        self._last_units: DisplayUnits | None = None
        self._listed: tuple[Drill, ...] | None = None
        self._notes: tuple[tuple[str, str], ...] = ()
        self.setObjectName("header")
        self.brand = QLabel("Cinetica")
        self.brand.setFont(look.font(14, bold=True))
        self.brand.setObjectName("brand")
        self.study_name = ShortLabel()
        self.study_name.setObjectName("quiet")
        self.study_name.setFont(look.font(10))
        self.add(self.brand)
        # Its space is reserved from the start, so that the first edit does not move anything.
        self.unsaved = ShortLabel(sample=UNSAVED)
        self.unsaved.setObjectName("quiet")
        self.unsaved.setFont(look.font(10))
        self.row.addSpacing(look.px(8))
        self.add(self.study_name, stretch=20)
        self.add(self.unsaved)
        for place, menu in enumerate(MENUS):
            self.add(menus.button(menu), fold=1 + len(PAGES) + place)
        self.add_more()
        self.row.addStretch(1)
        self._add_pages(shown_page)
        self.row.addSpacing(look.px(6))
        self._add_drills_and_clock()
        self.setFixedHeight(self.brand.sizeHint().height() + look.px(22))

    @override
    def _fold(self) -> None:
        """The program's name gives way to the study's name and the menus."""
        gone = self.brand.sizeHint().width() + self.row.spacing() if self.brand.isHidden() else 0
        name = self.study_name.sizeHint().width()
        room = self.width() - self._needed().without(1 + len(PAGES) + len(MENUS), more=False) - gone
        room -= self.drills.sizeHint().width() - self.drills.minimumSizeHint().width()
        self.brand.setVisible(room >= name)
        # At least half of the name: three letters would be useless.
        room += self.brand.sizeHint().width()
        self.study_name.setVisible(room >= name / 2)
        super()._fold()

    def _add_pages(self, shown_page: str) -> None:
        self.page_buttons = {}
        # With very little room they, too, fold into the menu, after everything else.
        for place, entry in enumerate(PAGES):
            shown = button(entry.words, "", partial(self.page_wanted.emit, entry.action), size=10, switch=True)
            keyed_tip(shown, f"{entry.words}: {entry.meaning} ({{{entry.action}}})")
            self.page_buttons[entry.action] = shown
            self.add(shown, fold=1 + place)
        self.mark_page(shown_page)

    def _add_drills_and_clock(self) -> None:
        self.drills = Chooser()
        self.drills.setObjectName("drills")
        self.drills.setAccessibleName("Drill")
        self.drills.setFont(look.font(10))
        self.drills.setMaximumWidth(look.px(230))
        self.drills.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.drills.setMinimumContentsLength(12)
        self.drills.setMaxVisibleItems(30)
        self.drills.activated.connect(self._choose_drill)
        self.clock = ClockButton()
        self.clock.setAccessibleName("Clock")
        # As high as the other buttons, with its text on one line with theirs.
        self.clock.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)
        self.clock.clicked.connect(self.clock_wanted)
        self.targets = button(NO_TARGETS, "", self.missed_wanted.emit, size=10)
        self.targets.setAccessibleName("Targets")
        # As wide as the longest words that it shows: the header does not move when a target is set or met.
        self.targets.setFixedWidth(max(look.width(words, 10) for words in (NO_TARGETS, MOST_MISSED)) + look.px(10) + 22)
        self.show_targets("")
        # As wide as the longest of its words, so that the header does not move.
        self.units = button("", "", self.units_wanted.emit, size=10)
        self.units.setFixedWidth(max(look.width(unit, 10) for unit in UNITS_SHOWN) + look.px(24))
        self.units.setAccessibleName("Units")
        self.units.setProperty(IN_MENU, "Units of the game")
        self.game = game_button()
        self.game.clicked.connect(self.game_wanted)
        self.game.setProperty(IN_MENU, "Link to a running game")
        self.show_game(OFF, "")
        self.add(self.targets)
        self.add(self.drills)
        self.row.addSpacing(look.px(6))
        self.add(self.units, fold=1)
        self.add(self.game, fold=1)
        self.add(self.clock)

    def _choose_drill(self, _: int) -> None:
        self.session.choose_drill(self.drills.currentData())

    def mark_page(self, action: str) -> None:
        """Mark the page that is shown."""
        for name, each in self.page_buttons.items():
            each.setChecked(name == action)

    def show_targets(self, words: str) -> None:
        """Say how many targets are missed; empty if there are none."""
        # What a drill cannot show is in the tooltip, and of hundreds how many there are.
        short = words.partition(",")[0]
        self.targets.setText((short if len(short) <= len(MOST_MISSED) else f"{short.split()[0]} missed") or NO_TARGETS)
        self.targets.setToolTip(f"Targets: {words}. Click to go to the first missed one." if words else HOW_TARGETS)

    def show_game(self, state: str, words: str) -> None:
        """Say whether a game is linked, and in the tooltip its figures."""
        show_state(self.game, state)
        self.game.setToolTip(plain_tip(words or "No link to a running game. Click to open it."))

    def show_study(self, saved: bool, path: str) -> bool:
        """Update the header; returns whether anything but the clock changed, which never happens during a drag."""
        session = self.session
        if session.study.clock != self._last_clock:
            self._last_clock = session.study.clock
            self._update_clock()
        self._update_units()
        if session.study.drills is not self._listed:
            self._listed = session.study.drills
            self._notes = tuple((drill.name, drill.note) for drill in self._listed)
        name = session.study.name
        shown = (name, saved, path, session.drill and session.drill.name, self._notes)
        if shown == self._last:
            return False
        self._last = shown
        self.study_name.setText(name)
        self.study_name.setMaximumWidth(self.study_name.sizeHint().width())
        self.study_name.set_tip(f"{name}\n{path}")
        self.unsaved.setText("" if saved else UNSAVED)
        keyed_tip(self.unsaved, "" if saved else "Unsaved changes ({save} saves)")
        self.unsaved.setAccessibleName("" if saved else "not saved")
        self._list_drills()
        return True

    def _list_drills(self) -> None:
        drill, drills = self.session.drill, self.session.study.drills
        box = self.drills
        box.set_tip(drill.note if drill else "")
        listed = [box.itemData(row) for row in range(box.count())]
        if drill and [each.name for each in drills] == listed and box.currentData() == drill.name:
            box.setItemData(box.currentIndex(), plain_tip(drill.note), Qt.ItemDataRole.ToolTipRole)
            return
        box.clear()
        for place, each in enumerate(drills):
            box.addItem(each.name, each.name)
            box.setItemData(place, plain_tip(each.note), Qt.ItemDataRole.ToolTipRole)
            if each is drill:
                box.setCurrentIndex(place)

    def _update_units(self) -> None:
        units = self.session.units
        if units == self._last_units:
            return
        self._last_units = units
        length = units.unit("u")
        self.units.setText(length if units.game is None or length != "u" else "game")
        if units.game is None:
            keyed_tip(self.units, "Numbers are shown in u and s. Click to show them in the game's units ({units})")
        else:
            how = words(units.game)
            keyed_tip(self.units, f"Numbers are shown as the game counts them: {how}. Click for u and s ({{units}})")

    def _update_clock(self) -> None:
        clock = clock_words(self.session.study.clock)
        self.clock.setText(f"Clock  {clock}")
        self.clock.setToolTip(f"The clock that every tune runs on: {clock}")
