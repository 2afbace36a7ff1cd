"""Figures of traces that were run together, read off beside Python."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from cinetica.machine.beside import beside
from cinetica.motion.records import records_of
from cinetica.motion.simulate import Trace
from cinetica.reading.measures import MEASURES, Reading
from cinetica.reading.reader import FIGURE, READER
from cinetica.reading.reading_off import Room, reading_of, readings_of_all, wanted_of

# A room that nobody reads off in: facts that are the same from one time to the next stay in it.
_free: list[Room] = []


class ReadTogether:
    """All figures of all traces that `simulate_all` gave together; it begins at once."""

    def __init__(self, traces: Sequence[Trace]) -> None:
        self._traces = traces
        first, together = traces[0], traces[0].among
        assert together is not None
        self._wanted = wanted_of(None, first.drill.view)
        self._tunes = records_of([trace.tune for trace in traces])
        self._out = np.zeros((len(traces), len(MEASURES)), dtype=FIGURE)
        self._found: list[dict[str, Reading]] | None = None
        self._room: Room | None = _room_for(len(first))
        rows = together[0].rows.reshape(-1).view(np.recarray)
        read = reading_of(first, rows, self._tunes, self._room, self._wanted, self._out)
        self._helper = beside("figures")
        self._number = 0 if self._helper is None else self._helper.ask(READER.address, read.args, (self, read))
        if self._helper is None:
            read()

    def of(self, place: int) -> dict[str, Reading]:
        """The figures of one of the traces; it waits until they are there."""
        if self._helper is not None:
            self._helper.wait(self._number)
        if self._room is not None:
            _free[:] = [self._room]
            self._room = None
        if self._found is None:
            self._found = readings_of_all(self._out)
        return self._found[place]


def _room_for(rows: int) -> Room:
    """The free one, if it is large enough and not much too large."""
    if _free and _free[0].most // 4 <= rows <= _free[0].most:
        room = _free.pop()
        if room.count != rows:
            room.fit(rows)
        return room
    # With some room for a tick rate that goes up.
    room = Room(rows + rows // 4)
    room.fit(rows)
    return room
