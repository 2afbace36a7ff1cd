"""The panel of the link to a running game: its state, and what is asked of the game."""

from __future__ import annotations

from PySide6.QtWidgets import QFormLayout, QSpinBox, QVBoxLayout, QWidget

from cinetica.desk import look
from cinetica.desk.actions.keys import keyed
from cinetica.desk.dialogs.base import Dialog
from cinetica.desk.link.game_line import GameLine
from cinetica.desk.link.keeping import keep_run
from cinetica.desk.state.session import Session
from cinetica.desk.widgets import Chooser, PlainLabel, in_a_row, inset, push_button
from cinetica.link.desk_link import LinkState

STATE_WORDS = {LinkState.OFF: "Off", LinkState.WAITING: "Waiting for a game", LinkState.LINKED: "Linked"}
ABOUT = (
    "While a game is linked, the numbers of one tune go there as you change them, and its character is drawn here as a"
    " curve of its own. `cinetica stand-in` is a small game to try it with; docs/link.md says how to link yours."
)


class LinkPanel(Dialog):
    """Stays open beside the window."""

    def __init__(self, line: GameLine, session: Session, window: QWidget) -> None:
        super().__init__("Link to a running game", window)
        self.line, self.session = line, session
        self.state = PlainLabel()
        self.state.setFont(look.font(11, bold=True))
        self.details = PlainLabel()
        self.details.setWordWrap(True)
        # As high as its longest words: nothing below it moves.
        self.details.setMinimumHeight(4 * look.height(10))
        self.tunes = Chooser()
        self.tunes.setAccessibleName("Tune that is live in the game")
        self.tunes.activated.connect(lambda _: line.choose(self.tunes.currentText()))
        self.port = QSpinBox()
        inset(self.port)
        self.port.setRange(1, 65535)
        self.port.setValue(line.port)
        self.port.setAccessibleName("Port")
        self.port.setToolTip("The UDP port on this machine where the game says hello")
        self.port.valueChanged.connect(line.set_port)
        self.turn = push_button("Open", self._turn, main=True)
        self.play = push_button("Play the take", self._play)
        self.play.setToolTip("Play the hands of this drill in the game, from the drill's start")
        self.reset = push_button("To the start", self._reset)
        self.reset.setToolTip("Put the body of the game at the start of this drill")
        self.pause = push_button("Pause", line.pause)
        self.step = push_button("One tick", line.step)
        self.keep = push_button("Keep the run", lambda: keep_run(line, session))
        self.keep.setToolTip("Keep what the game did as a log on this drill, and compare it with the tune")
        self._lay_out()
        line.changed.connect(self.say)
        session.study_changed.connect(self.say)
        self.say()
        self.fit(64, 20)

    def _lay_out(self) -> None:
        about = PlainLabel(ABOUT)
        about.setObjectName("soft")
        about.setWordWrap(True)
        form = QFormLayout()
        form.addRow("Live tune", self.tunes)
        form.addRow("Port", self.port)
        column = QVBoxLayout(self)
        for widget in (self.state, self.details):
            column.addWidget(widget)
        column.addLayout(form)
        column.addLayout(in_a_row(self.turn, self.play, self.reset))
        column.addLayout(in_a_row(self.pause, self.step, self.keep))
        column.addStretch(1)
        column.addWidget(about)

    def _turn(self) -> None:
        reference = self.session.reference
        off = self.line.state is LinkState.OFF
        self.line.turn(off, self.tunes.currentText() or (reference.name if reference else ""))

    def _play(self) -> None:
        if self.session.drill is not None:
            self.line.play(self.session.drill)

    def _reset(self) -> None:
        if self.session.drill is not None:
            self.line.reset(self.session.drill)

    def say(self) -> None:
        """Show the state."""
        line = self.line
        self.state.setText(STATE_WORDS[line.state])
        self.details.setText(line.details if line.state is not LinkState.OFF else keyed("{link_turn} opens it, too."))
        self.turn.setText("Open" if line.state is LinkState.OFF else "Close")
        self.port.setEnabled(line.state is LinkState.OFF)
        self.pause.setText("Go on" if line.link is not None and line.link.paused else "Pause")
        for button in (self.play, self.reset, self.pause, self.step):
            button.setEnabled(line.linked)
        self.keep.setEnabled(line.link is not None and line.link.frames.last is not None)
        names = [tune.name for tune in self.session.study.tunes if not tune.snapshot_of]
        if names != [self.tunes.itemText(row) for row in range(self.tunes.count())]:
            self.tunes.clear()
            self.tunes.addItems(names)
        live = line.tune.name if line.link is not None and line.tune is not None else ""
        if live:
            self.tunes.setCurrentText(live)
