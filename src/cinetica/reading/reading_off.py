"""Reading figures off: those that a run shows, and those of its tune's reach, whatever the drill."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from cinetica.model.clock import Clock
from cinetica.model.study import Drill
from cinetica.motion.records import Records, tune_record
from cinetica.motion.simulate import Trace
from cinetica.reading.display_units import OURS, DisplayUnits
from cinetica.reading.measures import MEASURES, NO_TICKS, REACHED, Reading
from cinetica.reading.reader import FIGURE
from cinetica.reading.run_reader import read_rows, read_runs, runs_of, wanted_of

REACH_PLACES = {id: place for place, measure in enumerate(MEASURES) for id in REACHED if measure.id == id}
_ON_REQUEST = frozenset(measure.id for measure in MEASURES if measure.on_request)
_UNITS = {measure.id: measure.unit for measure in MEASURES}
_IDS = tuple(measure.id for measure in MEASURES)


def figures_of(tunes: Records, drill: Drill, clock: Clock, measures: Sequence[str], threads: int = 0) -> NDArray[Any]:
    """The figures of many tunes on a drill, and of their reach, as `run_reader.read_runs` gives them.

    Raises ValueError if the take is too long for the clock.
    """
    return read_runs(
        runs_of(tunes, drill, clock), measures, threads=threads,
        also=lambda tunes, wanted, out: _read_reach(tunes, clock, wanted, out),
    )  # fmt: skip


def wanted_on(drill: Drill) -> NDArray[np.bool_]:
    """A mask of the measures that a drill shows by itself: all but those on request, and those that have a target."""
    asked = asked_by(drill)
    return wanted_of(None, drill.view) | wanted_of(asked, drill.view) if asked else wanted_of(None, drill.view)


def asked_by(drill: Drill) -> frozenset[str]:
    """The measures on request that have a target on a drill."""
    return frozenset(target.measure for target in drill.targets if target.measure in _ON_REQUEST)


def read_off(trace: Trace, measures: Iterable[str] | None = None, units: DisplayUnits = OURS) -> dict[str, Reading]:
    """The measures that this trace shows, by id, in the order of declaration; optionally only those of these ids.

    Their values are in `units`. Those on request are among them where they are asked for, or have a target on the
    drill.
    """
    wanted = wanted_on(trace.drill) if measures is None else wanted_of(measures, trace.drill.view)
    out = np.zeros((1, len(MEASURES)), dtype=FIGURE)
    tunes = tune_record(trace.tune)
    read_traces(trace, trace.rows, tunes, wanted, out)
    found = readings(out[0])
    return found if units.game is None else {
        id: reading._replace(value=units.scale(_UNITS[id]).shown(reading.value)) for id, reading in found.items()
    }  # fmt: skip


def read_traces(trace: Trace, rows: Records, tunes: Records, wanted: NDArray[np.bool_], out: NDArray[Any]) -> None:
    """Read the figures of several traces of one drill and clock into `out`, shape (traces, len(MEASURES)).

    `trace` is any of them; `rows` and `tunes` are those of all, one after the other.
    """
    read_rows(trace, rows, tunes, wanted, out)
    if not trace.logged:
        _read_reach(tunes, trace.clock, wanted, out)


def _read_reach(tunes: NDArray[Any], clock: Clock, wanted: NDArray[np.bool_], out: NDArray[Any]) -> None:
    """Fill in the figures of the tunes themselves: one record for all runs, or one for each."""
    asked = [id for id, place in REACH_PLACES.items() if wanted[place]]
    if not asked:
        return
    # Imported on first use, to keep the start fast.
    from cinetica.reading.survey.reach import reach_figures

    for run in range(len(out)):
        at = run if len(tunes) > 1 else 0
        for id, value in reach_figures(tunes[at : at + 1], clock).items():
            if id in asked:
                out[run, REACH_PLACES[id]] = (value, 0, 0, NO_TICKS, True)


def readings(figures: NDArray[Any]) -> dict[str, Reading]:
    """The figures that one run shows, by id; `figures` has shape (len(MEASURES),) and dtype FIGURE."""
    return readings_of_all(figures[np.newaxis])[0]


def readings_of_all(figures: NDArray[Any]) -> list[dict[str, Reading]]:
    """As `readings`, for several runs, shape (runs, len(MEASURES))."""
    runs, places = figures["shows"].nonzero()
    found: list[dict[str, Reading]] = [{} for _ in figures]
    shown = figures[runs, places].tolist()
    for run, place, (value, first, last, ticks, _) in zip(runs.tolist(), places.tolist(), shown, strict=True):
        found[run][_IDS[place]] = Reading(value, (first, last), None if ticks == NO_TICKS else ticks)
    return found
