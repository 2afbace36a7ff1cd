"""What a window does with the link to a running game. The link itself is loaded when it is first used."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING
from weakref import WeakSet

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QDialog, QWidget

from cinetica.desk.state.session import Session

if TYPE_CHECKING:
    from cinetica.desk.link.game_connection import GameConnection
    from cinetica.desk.play.rolling import Recent


class GameLink(QObject):
    """The link as a window sees it. Windows on one study share its connection."""

    # The state of the connection, or its counts.
    changed = Signal()
    frames_received = Signal()

    def __init__(self, session: Session, window: QWidget) -> None:
        super().__init__(window)
        self._session, self._window = session, window
        self._connection: GameConnection | None = None
        self._panel: QDialog | None = None
        _links.add(self)
        # Another window on the study may have opened it already.
        for other in list(_links):
            if other is not self and other._session.document is session.document and other._connection is not None:
                self._use(other._connection)

    @property
    def connection(self) -> GameConnection:
        """The connection of the study, created on first use and then shared by all of its windows."""
        if self._connection is None:
            from cinetica.desk.link.game_connection import connection_of

            connection = connection_of(self._session.document)
            for link in list(_links):
                if link._session.document is self._session.document and link._connection is None:
                    link._use(connection)
        assert self._connection is not None
        return self._connection

    @property
    def known_connection(self) -> GameConnection | None:
        """The connection, if it was ever used."""
        return self._connection

    def _use(self, connection: GameConnection) -> None:
        self._connection = connection
        connection.changed.connect(self.changed)
        connection.frames_received.connect(self.frames_received)
        connection.run_changed.connect(self._session.show_game)
        connection.message.connect(self._session.message)
        connection.refused.connect(self._session.refused)
        self._session.follow_game(connection.run_on)
        self.changed.emit()

    @property
    def words(self) -> str:
        """The state with its figures, for a tooltip."""
        return (
            self._connection.details if self._connection is not None else "No link to a running game. Click to open it."
        )

    def recent(self, seconds: float) -> Recent | None:
        """The last seconds of the linked game; None if there is none."""
        return self._connection.recent(seconds) if self._connection is not None else None

    # What the actions do

    def show_panel(self) -> None:
        """Show the panel of the link."""
        from cinetica.desk.link.panel import LinkPanel

        if self._panel is None:
            self._panel = LinkPanel(self.connection, self._session, self._window)
        self._panel.show()
        self._panel.raise_()

    def turn(self) -> None:
        """Open the link, or close it."""
        from cinetica.link.desk_link import LinkState

        reference = self._session.reference
        self.connection.turn(self.connection.state is LinkState.OFF, reference.name if reference else "")

    def play(self) -> None:
        """Play the take of the current drill in the game."""
        self._on_drill(self.connection.play)

    def reset(self) -> None:
        """Put the body of the game at the start of the current drill."""
        self._on_drill(self.connection.reset)

    def _on_drill(self, act: Callable[..., None]) -> None:
        if self._session.drill is None:
            self._session.refused.emit("There is no drill to play. Add one from the Drill menu.")
        else:
            act(self._session.drill)

    def pause(self) -> None:
        """Pause the game, or let it go on."""
        self.connection.pause()

    def step(self) -> None:
        """Run one tick of the game."""
        self.connection.step()

    def keep(self) -> None:
        """Keep the run of the game as a log on the current drill."""
        from cinetica.desk.link.keeping import keep_run

        keep_run(self.connection, self._session)

    def close(self) -> None:
        """Close the panel and, with the last window of the study, the connection."""
        if self._panel is not None:
            self._panel.close()
        _links.discard(self)
        if self._connection is None:
            return
        connection, self._connection = self._connection, None
        others = [link for link in _links if link._connection is connection]
        for signal, slot in (
            (connection.changed, self.changed), (connection.frames_received, self.frames_received),
            (connection.message, self._session.message),
            (connection.run_changed, self._session.show_game), (connection.refused, self._session.refused),
        ):  # fmt: skip
            signal.disconnect(slot)
        if not others:
            connection.end()


_links: WeakSet[GameLink] = WeakSet()
