"""Figures of traces that were run together, read off beside Python."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from cinetica.machine.beside import beside
from cinetica.motion.records import records_of
from cinetica.motion.simulate import Trace
from cinetica.reading.measures import MEASURES, Reading
from cinetica.reading.reader import FIGURE, READER
from cinetica.reading.reading_off import Room, reading_of, readings, wanted_of

# Rooms that nobody reads off in, by their rows: facts that are the same from one time to the next stay in them.
_free: dict[int, Room] = {}


class ReadTogether:
    """All figures of all traces that `simulate_all` gave together; it begins at once."""

    def __init__(self, traces: Sequence[Trace]) -> None:
        self._traces = traces
        first, together = traces[0], traces[0].among
        assert together is not None
        self._wanted = wanted_of(None, first.drill.view)
        self._tunes = records_of([trace.tune for trace in traces])
        self._out = np.zeros((len(traces), len(MEASURES)), dtype=FIGURE)
        self._room: Room | None = _free.pop(len(first), None) or Room(len(first))
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
            _free.clear()
            _free[self._room.count] = self._room
            self._room = None
        return readings(self._out[place])
