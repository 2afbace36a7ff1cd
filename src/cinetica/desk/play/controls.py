"""The widgets of the page Play."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QHBoxLayout, QMenu, QSplitter, QToolButton, QVBoxLayout

from cinetica.desk import look
from cinetica.desk.page import Page
from cinetica.desk.play.arena import Arena
from cinetica.desk.play.keyboard import Keyboard
from cinetica.desk.play.rolling import Rolling
from cinetica.desk.play.screen_pad import ScreenPad
from cinetica.desk.widgets import Chooser, FoldingRow, ShortLabel, button

# The keys that move a character unless they are changed, said as people say them.
SHORTER = {"Left/A Right/D Up/W Down/S": "Arrows or WASD"}


class PlayFace(Page):
    """The widgets of the page and their layout; the page defines what they do."""

    arena: Arena
    rolling: Rolling
    pad: ScreenPad
    keyboard: Keyboard

    # What the buttons and the keys do, by the names that `page.COMMANDS` has for the keys.
    acts: Mapping[str, Callable[[], object]]

    def _lay_out(self) -> None:
        # This page gives way if the sheet needs the room.
        self.setMinimumWidth(1)
        upper = QSplitter(Qt.Orientation.Horizontal)
        upper.setHandleWidth(1)
        upper.addWidget(self.arena)
        upper.addWidget(self.pad)
        upper.setStretchFactor(0, 1)
        both = QSplitter(Qt.Orientation.Vertical)
        both.setHandleWidth(2)
        both.addWidget(upper)
        both.addWidget(self.rolling)
        both.setSizes([470, 190])
        both.setStretchFactor(0, 1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self._bar())
        layout.addWidget(both, 1)
        layout.addWidget(self._foot())

    def _bar(self) -> FoldingRow:
        bar = self.bar = FoldingRow("More", air=look.px(2))
        bar.setObjectName("bar")
        self.courses = Chooser()
        self.courses.setAccessibleName("Course to play on")
        self.courses.setFont(look.font(9))
        self.courses.addItems(["drill’s course", "the yard"])
        self.courses.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.courses.activated.connect(lambda _: self.acts["course"]())
        bar.add(self.courses)
        self.pause_button = self._button("Pause", "Pause or resume (P)", self.acts["pause"], fold=1, widest="Go on")
        self._button("One tick", "Advance one tick with the keys that are held (.)", self.acts["step"], fold=5)
        self.speed_button = self._button("Speed: 1×", "1×, ½ or ¼ of real time", self.acts["speed"], fold=6)
        self._button("Respawn", "Back to the start (Backspace)", self.acts["respawn"], fold=4)
        self.shadow_button = self._button(
            "Shadows", "Run the other tunes alongside, with the same input", self.acts["shadows"], fold=7
        )
        self.shadow_button.setCheckable(True)
        self.shadow_button.setChecked(True)
        words = "Record a take from the start; stop to make it a drill (R)"
        self.record_button = self._button("Record", words, self.acts["record"], fold=2, widest="Stop recording")
        self.record_button.setCheckable(True)
        self._button("Keep last 10 s", "Make a drill of what was just played (K)", self.acts["keep"], fold=3)
        self.pad_button = self._button(
            "Pad", "On-screen pad: shows how its stick is read (V)", self.acts["pad"], fold=8
        )
        self.pad_button.setCheckable(True)
        self._button("Setup", "What the camera follows, words, keys and pad", None, fold=9).setMenu(self._menu())
        bar.add_more()
        bar.more.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        bar.row.addStretch(1)
        return bar

    def _menu(self) -> QMenu:
        menu = QMenu(self)
        menu.addAction("The camera follows the next tune (Tab)", self.acts["follow"])
        self.words_action = menu.addAction("State, held keys and grace beside the character (I)", self.acts["words"])
        self.words_action.setCheckable(True)
        self.words_action.setChecked(True)
        self.camera_action = menu.addAction("The camera as the tune's numbers say (C)", self.acts["camera"])
        self.camera_action.setCheckable(True)
        self.camera_action.setChecked(True)
        self.postures_action = menu.addAction("Postures instead of boxes (O)", self.acts["postures"])
        self.postures_action.setCheckable(True)
        self.postures_action.setChecked(True)
        self.look_action = menu.addAction("The mouse turns the look, until Escape (L)", self.acts["look"])
        self.look_action.setCheckable(True)
        menu.addSeparator()
        menu.addAction("Zoom in (+)", self.acts["nearer"])
        menu.addAction("Zoom out (−)", self.acts["farther"])
        menu.addAction("The whole course, and back (F)", self.acts["whole"])
        menu.addSeparator()
        menu.addAction("Keys and pad…", self.acts["bindings"])
        return menu

    def _foot(self) -> QFrame:
        foot = QFrame()
        foot.setObjectName("transport")
        below = QHBoxLayout(foot)
        below.setContentsMargins(14, 0, 14, 0)
        self.honest = ShortLabel(sample="key to picture 999 ms (99.9 frames)")
        self.honest.setFont(look.font(9, bold=True))
        self.hint = ShortLabel(self._hint())
        self.hint.setObjectName("soft")
        self.hint.setFont(look.font(8))
        below.addWidget(self.honest)
        below.addSpacing(16)
        below.addWidget(self.hint, 1)
        foot.setFixedHeight(look.height(9, bold=True) + look.px(20))
        return foot

    def _button(
        self, text: str, tip: str, slot: Callable[[], object] | None, *, fold: int, widest: str = ""
    ) -> QToolButton:
        made = button(text, tip, slot, opens=slot is None)
        made.setMinimumWidth(look.width(widest, 9) + look.px(14) if widest else 0)
        # The keys belong to the character: a click must not take the focus.
        made.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.bar.add(made, fold=fold)
        return made

    def _dash_hint(self, keys: Mapping[str, str]) -> str:
        """The key that dashes, where a tune does."""
        live = self.arena.game.live
        dashes = live is not None and any(tune.dash.speed > 0 for tune in live.tunes)
        return f" {keys.get('dash', 'no key')} dashes," if dashes else ""

    def _hint(self) -> str:
        """What a newcomer needs to know, with the current keys."""
        keys = self.keyboard.words()
        moves = " ".join(keys[name] for name in ("left", "right", "up", "down") if name in keys)
        return (
            f"{SHORTER.get(moves, moves)} move, {keys.get('jump', 'no key')} jumps,{self._dash_hint(keys)}"
            f" {keys.get('modifier', 'no key')} is the modifier. P pauses, R records, F1 helps."
        )
