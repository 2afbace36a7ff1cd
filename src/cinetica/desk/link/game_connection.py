"""The connection of a document to a running game: the socket in Qt's event loop, and its effects on the study.

All windows on a study share it. Nothing here waits for the game.
"""

from __future__ import annotations

from weakref import WeakKeyDictionary

import numpy as np
from PySide6.QtCore import QObject, QSocketNotifier, QTimer, Signal

from cinetica.desk.play.rolling import Recent
from cinetica.desk.state.document import Document, Edit
from cinetica.files.reading import Refused
from cinetica.link.conventions import logged_run, number_from, solids_of, start_of, values_of
from cinetica.link.desk_link import Changed, DeskLink, Event, Linked, LinkState, Lost, Marked
from cinetica.link.frames import Frame
from cinetica.link.messages import PORT
from cinetica.link.take_rows import rows_of, take_rows
from cinetica.model.game_units import game_name
from cinetica.model.milestone import Logged
from cinetica.model.study import Drill, Study
from cinetica.model.text import visible
from cinetica.model.tune import PARAMETERS, Tune
from cinetica.reading.display_units import game_units

# How often what is due is sent, and how often a run that grows is shown, in ms.
TICK_MS, SHOW_MS = 20, 66
# How many unknown names are listed.
MOST_NAMED = 6


class GameConnection(QObject):
    """The connection of a document: off, waiting for a game, or linked to one."""

    # The state, the game or its counts have changed.
    changed = Signal()
    # The run of the game has grown, was replaced, or is gone.
    run_changed = Signal()
    # New frames have arrived.
    frames_received = Signal()
    message = Signal(str)
    refused = Signal(str)

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.link: DeskLink | None = None
        self.port = PORT
        # The tune that is live in the game, and the drill whose start it was given; empty for none.
        self.tune_name = self.drill_name = ""
        self._notifier: QSocketNotifier | None = None
        # Changes of the game that wait for the end of a drag here.
        self._waiting: list[Changed] = []
        # The last event of a frame that the game has reported.
        self._mark: Marked | None = None
        self._shown_rows = -1
        self._tick = QTimer(self, interval=TICK_MS)
        self._tick.timeout.connect(self._send_due)
        self._show = QTimer(self, singleShot=True, interval=SHOW_MS)
        self._show.timeout.connect(self._run_grew)
        self._last: object = None
        document.observe(self, follows=True)

    # On and off

    @property
    def state(self) -> LinkState:
        """Off, waiting or linked."""
        return self.link.state if self.link is not None else LinkState.OFF

    @property
    def linked(self) -> bool:
        """Whether there is a game."""
        return self.state is LinkState.LINKED

    def turn(self, on: bool, tune: str = "") -> None:
        """Wait for a game, or end; `tune` is the one that is live there."""
        if on == (self.link is not None):
            return
        if not on:
            self._close()
            self.message.emit("The link to the game is off.")
            return
        link = DeskLink(self.port, name=self._study.name[:100])
        try:
            link.open()
        except OSError as error:
            self.refused.emit(
                f"Port {self.port} cannot be used: {error.strerror or error}. Another study may be linked; else choose"
                " another port."
            )
            return
        self.link = link
        self._notifier = QSocketNotifier(link.fileno(), QSocketNotifier.Type.Read, self)
        self._notifier.activated.connect(self._receive)
        self._tick.start()
        self.choose(tune)
        self.message.emit(f"Waiting for a game on port {link.port}.")
        self.changed.emit()

    def _close(self) -> None:
        self._tick.stop()
        self._show.stop()
        if self._notifier is not None:
            self._notifier.setEnabled(False)
            self._notifier.deleteLater()
            self._notifier = None
        if self.link is not None:
            self.link.close()
        self.link = None
        self._waiting.clear()
        self._shown_rows = -1
        self.changed.emit()
        self.run_changed.emit()

    def set_port(self, port: int) -> None:
        """Listen on another port, from the next time on."""
        self.port = port

    # To the game

    @property
    def _study(self) -> Study:
        return self.document.study

    @property
    def tune(self) -> Tune | None:
        """The tune that is live in the game."""
        tunes = self._study.tunes
        return next((tune for tune in tunes if tune.name == self.tune_name), tunes[0] if tunes else None)

    def choose(self, tune: str) -> None:
        """Make a tune the live one."""
        self.tune_name = tune
        self._send_numbers()
        self.changed.emit()

    def _send_numbers(self) -> None:
        if self.link is not None and (tune := self.tune) is not None:
            self.tune_name = tune.name
            self.link.show(tune.name[:100], values_of(tune, self._study.conventions))

    def play(self, drill: Drill) -> None:
        """Play the take of a drill in the game, from the drill's start."""
        if self.link is None or not self.linked:
            self.refused.emit("No game is linked.")
            return
        self.reset(drill)
        take = drill.take
        self.link.play(take_rows(take), take.rate, take.length)
        unsent = " Its shoves and moves of a mouse are not sent." if take.shoves or take.mouse else ""
        self.message.emit(f"The game plays “{drill.name}”.{unsent}")

    def reset(self, drill: Drill) -> None:
        """Put the body of the game at the start of a drill."""
        if self.link is None or not self.linked:
            self.refused.emit("No game is linked.")
            return
        self.drill_name = drill.name
        self.link.reset(start_of(self._study, drill), solids_of(self._study, drill))

    def pause(self) -> None:
        """Pause the game, or let it go on."""
        if self.link is not None and self.linked:
            self.link.pause(not self.link.paused)
            self.changed.emit()

    def step(self) -> None:
        """Run one tick of the game."""
        if self.link is not None and self.linked:
            self.link.step()
            self.changed.emit()

    # From the game

    def _receive(self, *_: object) -> None:
        if self.link is None:
            return
        before = self.link.frames.received
        for event in self.link.receive():
            self._take(event)
        if self.link is not None and self.link.frames.received != before:
            self.frames_received.emit()
            if not self._show.isActive():
                self._show.start()

    def _send_due(self) -> None:
        if self.link is None:
            return
        for event in self.link.tick():
            self._take(event)
        shown = (self.state, self.words, self.details)
        if shown != self._last:
            self._last = shown
            self.changed.emit()

    def _take(self, event: Event) -> None:
        match event:
            case Linked(name):
                self.drill_name, self._mark = "", None
                self.message.emit(f"{visible(name)} is linked.")
                self.changed.emit()
            case Lost(name):
                self.message.emit(f"{visible(name)} is gone. It is linked again as soon as it says hello.")
                self.changed.emit()
            case Marked():
                self._mark = event
            case Changed():
                if self.document.is_editing:
                    self._waiting.append(event)
                else:
                    self._change(event)

    def _change(self, change: Changed) -> None:
        """Make a number that was changed in the game an edit here."""
        tune = self.tune
        if tune is None:
            return
        who = visible(change.who) or "the game"
        try:
            parameter, changed = number_from(change, tune, self._study.conventions)
            after = self.document.accepts(self._study.with_tune(changed, instead_of=tune.name))
        except (ValueError, Refused) as error:
            self.refused.emit(str(error))
            return
        name = f"{parameter.label} of {tune.name}, by {who}"
        self.document.begin(name)
        self.document.show(after)
        self.document.end()
        self.message.emit(f"{name}.")

    # The run of the game

    def run_on(self, drill: Drill) -> Logged | None:
        """The game's run since it was last put at its start, as a log of a drill; None if it is of another one."""
        if self.link is None or (self.drill_name and drill.name != self.drill_name):
            return None
        frames = self.frames_on(drill)
        try:
            return logged_run(frames, self._study, drill, self._live_name)
        except ValueError:
            return None

    def frames_on(self, drill: Drill) -> list[Frame]:
        """The frames of that run, up to the drill's length."""
        if self.link is None:
            return []
        rate = self.link.peer.tick_rate if self.link.peer else drill.take.rate
        return self.link.frames.run(rows_of(drill.take, rate) + 1)

    def recent(self, seconds: float) -> Recent | None:
        """The last seconds of the game, in our units; None without frames of a game that is linked."""
        if self.link is None or self.link.peer is None or self.link.frames.last is None:
            return None
        rate = self.link.peer.tick_rate
        frames = self.link.frames.newest(max(2, round(seconds * rate)))
        units = game_units(self._study)
        values = np.array([(each.x, each.y, each.vx, each.vy) for each in frames])
        columns = {
            column: np.asarray(units.column(column).kept(values[:, place]))
            for place, column in enumerate(("x", "y", "vx", "vy"))
        }
        columns["speed"] = np.hypot(columns["vx"], columns["vy"])
        return Recent(rate, columns)

    @property
    def _live_name(self) -> str:
        name = self.link.peer.name if self.link is not None and self.link.peer is not None else "Game"
        return f"{visible(name)[:90]} (live)"

    def _run_grew(self) -> None:
        if self.link is None:
            return
        last = self.link.frames.last
        rows = last.number if last else -1
        if rows != self._shown_rows:
            self._shown_rows = rows
            self.run_changed.emit()

    # In words

    @property
    def words(self) -> str:
        """The state, for the header."""
        if self.link is None:
            return "Game: off"
        if not self.linked:
            return "Game: waiting"
        return f"Game: {self.link.frames_a_second:.0f}/s"

    @property
    def details(self) -> str:
        """To whom it is linked, frames a second, what was lost, the round trip, and what the game does not know."""
        link = self.link
        if link is None:
            return "No link to a running game. Click to open it."
        if link.peer is None:
            other = f" A game speaks version {link.version_refused} of the protocol." if link.version_refused else ""
            return f"Waiting for a game on port {link.port}.{other}"
        trip = link.round_trip
        took = "" if trip is None else f", {1000 * trip:.1f} ms there and back"
        refused = link.refusals
        dropped = refused.bad + refused.foreign + refused.flooded
        odd = f" {dropped} messages were not taken." if dropped else ""
        lost = f"{link.frames.lost} lost" if link.frames.lost else "none lost"
        mark = f" Last event: {visible(self._mark.word)}, frame {self._mark.number}." if self._mark else ""
        return (
            f"Linked to {visible(link.peer.name)}: {link.frames_a_second:.0f} frames/s, {lost}{took}.{odd}{mark}"
            f" {self.unknown_words}"
        ).strip()

    @property
    def unknown_words(self) -> str:
        """The numbers that are set here and that the game does not know, by name."""
        tune = self.tune
        if self.link is None or tune is None or not self.link.unknown:
            return ""
        unknown, values, conventions = set(self.link.unknown), tune.values(), self._study.conventions
        set_here = [
            game_name(each, conventions)
            for each in PARAMETERS
            if game_name(each, conventions) in unknown and values[each.id] != each.default
        ]
        rest = len(unknown) - len(set_here)
        named = ", ".join(set_here[:MOST_NAMED]) + (
            f" and {len(set_here) - MOST_NAMED} more" if len(set_here) > MOST_NAMED else ""
        )
        if not set_here:
            return f"It does not know {rest} numbers, all at their default."
        return f"It does not know {named}" + (f", and {rest} that are at their default." if rest else ".")

    # Observing the document

    def edit_begun(self, name: str, *, joins: bool) -> None:
        """An edit begins."""

    def study_replaced(self, before: Study) -> None:
        """Send what has changed, within a drag, too."""
        if self.link is not None:
            self._send_numbers()

    def edit_ended(self, edit: Edit | None, *, curves_first: bool) -> None:
        """Take over what the game has changed meanwhile."""
        waiting, self._waiting = self._waiting, []
        for change in waiting:
            self._change(change)

    def study_loaded(self) -> None:
        """Another study has been loaded: its tunes are others."""
        if self.link is not None:
            self.tune_name = self.drill_name = ""
            self.link.name = self._study.name[:100]
            self._send_numbers()

    def end(self) -> None:
        """Close; called with the last window of the document."""
        self._close()
        self.document.forget(self)


_CONNECTIONS: WeakKeyDictionary[Document, GameConnection] = WeakKeyDictionary()


def connection_of(document: Document) -> GameConnection:
    """The connection of a document, created on first use."""
    found = _CONNECTIONS.get(document)
    if found is None:
        found = _CONNECTIONS[document] = GameConnection(document)
    return found


def known_connection(document: Document) -> GameConnection | None:
    """The connection of a document, if it was ever used."""
    return _CONNECTIONS.get(document)
