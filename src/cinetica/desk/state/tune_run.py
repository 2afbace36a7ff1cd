"""A tune on the page, with everything read from its trace."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property, partial

from cinetica.model.clock import Clock
from cinetica.model.study import Drill
from cinetica.model.tune import Tune
from cinetica.motion.simulate import SHORT, Trace, simulate_all
from cinetica.reading.batch_readings import BatchReadings
from cinetica.reading.measures import OF_POSES, Reading
from cinetica.reading.reader import READER
from cinetica.reading.reading_off import read_off


@dataclass(frozen=True, eq=False)
class TuneRun:
    """A tune's place in its view, which gives letter and ink, and its trace."""

    place: int
    tune: Tune
    trace: Trace
    # What gives the figures, where they are being read off.
    read: Callable[[], dict[str, Reading]] | None = None
    # Whether it is the run of a game that is linked, which goes on.
    live: bool = False

    @property
    def readings(self) -> dict[str, Reading]:
        """The figures, read on first use so that curves need not wait for them.

        There are none while what reads them is still being compiled, at the first start.
        """
        return self._read if READER.is_ready() else {}

    @property
    def pose_readings(self) -> dict[str, Reading]:
        """The figures of the poses, read on first use too."""
        return self._read_poses if READER.is_ready() else {}

    @cached_property
    def _read_poses(self) -> dict[str, Reading]:
        return read_off(self.trace, OF_POSES)

    @cached_property
    def _read(self) -> dict[str, Reading]:
        return self.read() if self.read else read_off(self.trace)


def run_tunes(tunes: Sequence[tuple[int, Tune]], drill: Drill, clock: Clock) -> list[TuneRun]:
    """Run tunes, each with its place, on a drill; ValueError if the take is too long for the clock."""
    traces = simulate_all([tune for _, tune in tunes], drill, clock)
    if not traces or len(traces[0]) > SHORT:
        return [TuneRun(*each, trace) for each, trace in zip(tunes, traces, strict=True)]
    figures = BatchReadings(traces)
    return [
        TuneRun(*each, trace, partial(figures.of, at))
        for at, (each, trace) in enumerate(zip(tunes, traces, strict=True))
    ]
