"""What a window does with the link to a running game. The link itself is loaded when it is first used."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING
from weakref import WeakSet

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QDialog, QWidget

from cinetica.desk.state.session import Session

if TYPE_CHECKING:
    from cinetica.desk.link.game_line import GameLine
    from cinetica.desk.play.rolling import Recent


class GameLink(QObject):
    """One for each window; those on one study share its line."""

    # The state of the line, or its counts.
    changed = Signal()
    frames_came = Signal()

    def __init__(self, session: Session, window: QWidget) -> None:
        super().__init__(window)
        self._session, self._window = session, window
        self._line: GameLine | None = None
        self._panel: QDialog | None = None
        _links.add(self)
        # Another window on the study may have opened it already.
        for other in list(_links):
            if other is not self and other._session.document is session.document and other._line is not None:
                self._use(other._line)

    @property
    def line(self) -> GameLine:
        """The line of the study, created on first use and then shared by all of its windows."""
        if self._line is None:
            from cinetica.desk.link.game_line import line_of

            line = line_of(self._session.document)
            for link in list(_links):
                if link._session.document is self._session.document and link._line is None:
                    link._use(line)
        assert self._line is not None
        return self._line

    @property
    def known_line(self) -> GameLine | None:
        """The line, if it was ever used."""
        return self._line

    def _use(self, line: GameLine) -> None:
        self._line = line
        line.changed.connect(self.changed)
        line.frames_came.connect(self.frames_came)
        line.run_changed.connect(self._session.show_game)
        line.told.connect(self._session.told)
        line.refused.connect(self._session.refused)
        self._session.follow_game(line.run_on)
        self.changed.emit()

    @property
    def words(self) -> str:
        """The state with its figures, for a tooltip."""
        return self._line.details if self._line is not None else "No link to a running game. Click to open it."

    def recent(self, seconds: float) -> Recent | None:
        """The last seconds of the linked game; None if there is none."""
        return self._line.recent(seconds) if self._line is not None else None

    # What the actions do

    def show_panel(self) -> None:
        """Show the panel of the link."""
        from cinetica.desk.link.panel import LinkPanel

        if self._panel is None:
            self._panel = LinkPanel(self.line, self._session, self._window)
        self._panel.show()
        self._panel.raise_()

    def turn(self) -> None:
        """Open the link, or close it."""
        from cinetica.link.desk_link import LinkState

        reference = self._session.reference
        self.line.turn(self.line.state is LinkState.OFF, reference.name if reference else "")

    def play(self) -> None:
        """Play the take of the current drill in the game."""
        self._on_drill(self.line.play)

    def reset(self) -> None:
        """Put the body of the game at the start of the current drill."""
        self._on_drill(self.line.reset)

    def _on_drill(self, act: Callable[..., None]) -> None:
        if self._session.drill is None:
            self._session.refused.emit("There is no drill to play. Add one from the Drill menu.")
        else:
            act(self._session.drill)

    def pause(self) -> None:
        """Pause the game, or let it go on."""
        self.line.pause()

    def step(self) -> None:
        """Run one tick of the game."""
        self.line.step()

    def keep(self) -> None:
        """Keep the run of the game as a log on the current drill."""
        from cinetica.desk.link.keeping import keep_run

        keep_run(self.line, self._session)

    def close(self) -> None:
        """Close the panel and, with the last window of the study, the line."""
        if self._panel is not None:
            self._panel.close()
        _links.discard(self)
        if self._line is None:
            return
        line, self._line = self._line, None
        others = [link for link in _links if link._line is line]
        for signal, slot in (
            (line.changed, self.changed), (line.frames_came, self.frames_came), (line.told, self._session.told),
            (line.run_changed, self._session.show_game), (line.refused, self._session.refused),
        ):  # fmt: skip
            signal.disconnect(slot)
        if not others:
            line.end()


_links: WeakSet[GameLink] = WeakSet()
