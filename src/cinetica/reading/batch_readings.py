"""Figures of traces from one batch, read in one pass."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property

import numpy as np

from cinetica.motion.records import records_of
from cinetica.motion.simulate import Trace
from cinetica.reading.measures import MEASURES, Reading
from cinetica.reading.reader import FIGURE
from cinetica.reading.reading_off import read_traces, readings_of_all, wanted_on


class BatchReadings:
    """All figures of all traces of one `simulate_all`, read when the first one is needed."""

    def __init__(self, traces: Sequence[Trace]) -> None:
        self._traces = traces

    @cached_property
    def _found(self) -> list[dict[str, Reading]]:
        first, batch = self._traces[0], self._traces[0].batch
        assert batch is not None
        out = np.zeros((len(self._traces), len(MEASURES)), dtype=FIGURE)
        rows, tunes = batch[0].rows.reshape(-1).view(np.recarray), records_of([trace.tune for trace in self._traces])
        read_traces(first, rows, tunes, wanted_on(first.drill), out)
        return readings_of_all(out)

    def of(self, place: int) -> dict[str, Reading]:
        """The figures of one of the traces."""
        return self._found[place]
