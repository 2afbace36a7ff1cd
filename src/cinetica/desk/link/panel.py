"""The panel of the link to a running game: its state, and commands to the game."""

from __future__ import annotations

from PySide6.QtWidgets import QFormLayout, QSpinBox, QVBoxLayout, QWidget

from cinetica.desk import look
from cinetica.desk.actions.keys import keyed
from cinetica.desk.dialogs.base import Dialog
from cinetica.desk.link.game_connection import GameConnection
from cinetica.desk.link.keeping import keep_run
from cinetica.desk.link.stand_in_process import start_stand_in
from cinetica.desk.state.session import Session
from cinetica.desk.widgets import Chooser, PlainLabel, WrappedLabel, in_a_row, inset, push_button
from cinetica.link.desk_link import LinkState

STATE_WORDS = {LinkState.OFF: "Off", LinkState.WAITING: "Waiting for a game", LinkState.LINKED: "Linked"}
ABOUT = (
    "While a game is linked, the numbers of one tune go there as you change them, and its character is drawn here as a"
    " curve of its own. The stand-in is a small game to try it with; docs/link.md says how to link yours."
)


class LinkPanel(Dialog):
    """The panel, which stays open beside the window."""

    def __init__(self, connection: GameConnection, session: Session, window: QWidget) -> None:
        super().__init__("Link to a running game", window)
        self.connection, self.session = connection, session
        self.state = PlainLabel()
        self.state.setFont(look.font(11, bold=True))
        # Nothing below it moves when it changes.
        self.details = WrappedLabel("", 4, at_top=True)
        self.tunes = Chooser()
        self.tunes.setAccessibleName("Tune that is live in the game")
        self.tunes.activated.connect(lambda _: connection.choose(self.tunes.currentText()))
        self.port = QSpinBox()
        inset(self.port)
        self.port.setRange(1, 65535)
        self.port.setValue(connection.port)
        self.port.setAccessibleName("Port")
        self.port.setToolTip("The UDP port on this machine where the game says hello")
        self.port.valueChanged.connect(connection.set_port)
        self.turn = push_button("Open the link", self._turn, main=True)
        self.play = push_button("Play the take", self._play)
        self.play.setToolTip("Play the hands of this drill in the game, from the drill's start")
        self.reset = push_button("To the start", self._reset)
        self.reset.setToolTip("Put the body of the game at the start of this drill")
        self.pause = push_button("Pause", connection.pause)
        self.step = push_button("One tick", connection.step)
        self.keep = push_button("Keep the run", lambda: keep_run(connection, session))
        self.keep.setToolTip("Keep what the game did as a log on this drill, and compare it with the tune")
        self.stand_in = push_button("Start the stand-in game", self.start_stand_in)
        self.stand_in.setToolTip(
            "A small game in a window of its own, at this study's tick rate and in its game's conventions"
        )
        self._lay_out()
        connection.changed.connect(self.refresh)
        session.study_changed.connect(self.refresh)
        self.refresh()
        self.fit(64, 24)

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
        column.addLayout(in_a_row(self.stand_in))

    def _turn(self) -> None:
        reference = self.session.reference
        off = self.connection.state is LinkState.OFF
        self.connection.turn(off, self.tunes.currentText() or (reference.name if reference else ""))

    def start_stand_in(self) -> None:
        """Open the link if it is off, and start a game that links itself."""
        if self.connection.state is LinkState.OFF:
            self._turn()
        try:
            start_stand_in(self.connection.port, self.session.study)
        except OSError as error:
            self.session.refused.emit(str(error))

    def _play(self) -> None:
        if self.session.drill is not None:
            self.connection.play(self.session.drill)

    def _reset(self) -> None:
        if self.session.drill is not None:
            self.connection.reset(self.session.drill)

    def refresh(self) -> None:
        """Show the state."""
        connection = self.connection
        self.state.setText(STATE_WORDS[connection.state])
        self.details.setText(
            connection.details if connection.state is not LinkState.OFF else keyed("{link_turn} opens it, too.")
        )
        self.turn.setText("Open the link" if connection.state is LinkState.OFF else "Close the link")
        self.port.setEnabled(connection.state is LinkState.OFF)
        self.pause.setText("Go on" if connection.link is not None and connection.link.paused else "Pause")
        for button in (self.play, self.reset, self.pause, self.step):
            button.setEnabled(connection.linked)
        self.stand_in.setEnabled(not connection.linked)
        self.keep.setEnabled(connection.link is not None and connection.link.frames.last is not None)
        names = [tune.name for tune in self.session.study.tunes if not tune.snapshot_of]
        if names != [self.tunes.itemText(row) for row in range(self.tunes.count())]:
            self.tunes.clear()
            self.tunes.addItems(names)
        live = connection.tune.name if connection.link is not None and connection.tune is not None else ""
        if live:
            self.tunes.setCurrentText(live)
