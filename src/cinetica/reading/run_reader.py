"""Reading figures into arrays: from rows that are there, or from thousands of runs on all cores."""

from __future__ import annotations

import os
import threading
from collections.abc import Callable, Iterable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cache, lru_cache
from typing import Any, NamedTuple, TypeVar

import numpy as np
from numpy.typing import NDArray

from cinetica.machine.code import pointer, uncompiled
from cinetica.model.clock import Clock
from cinetica.model.identity_cache import cached_by_identity
from cinetica.model.study import Drill
from cinetica.model.take import Take
from cinetica.motion.clock import schedule
from cinetica.motion.records import (
    HAND,
    JUMP,
    STATE,
    TRACE,
    TUNE,
    Ground,
    Records,
    Start,
    empty_records,
    ground,
    start_of,
)
from cinetica.motion.simulate import Trace
from cinetica.reading.facts import NOTES, PUSH, SHAPES, Facts
from cinetica.reading.measures import MEASURES, Measure
from cinetica.reading.press_outcomes import PRESS_OUTCOME, follow
from cinetica.reading.reader import FIGURE, READER, read_run
from cinetica.reading.survey.press_shifts import Shifted, first_press_shifted

# Runs that a thread takes at a time, so that a core that is busy otherwise takes fewer.
CHUNK, SMALLEST = 128, 16
ROOMS = 8
NO_ROWS, NO_JUMPS, NO_OUTCOMES = np.zeros(0, np.int64), empty_records(JUMP, 0), empty_records(PRESS_OUTCOME, 0)
WINDOW = next(place for place, measure in enumerate(MEASURES) if measure.id == "frames_that_work")
Item = TypeVar("Item")
Done = TypeVar("Done")
# Takes the tunes of a part (one, or one for each run), the mask of the measures, and the figures of the part.
Also = Callable[["NDArray[Any]", "NDArray[np.bool_]", "NDArray[Any]"], None]


@dataclass(frozen=True, eq=False)
class Runs:
    """A batch: `count` runs under `schedule.dts`, on one course from one start.

    There is one tune for all or one for each run, and the same goes for inputs; `hands` then has `count` times the rows
    of a run, one run after the other. `pressed`: how often jump is pressed in the take.
    """

    count: int
    tunes: Records
    ground: Ground
    start: Start
    view: str
    hands: Records
    dts: NDArray[np.float64]
    pressed: int
    # The first press of jump, shifted; None where jump is not pressed, or what is asked is what becomes of presses.
    shifted: Shifted | None = None

    @property
    def rows(self) -> int:
        """The number of rows of a run."""
        return len(self.dts)


def runs_of(tunes: Records, drill: Drill, clock: Clock) -> Runs:
    """Tunes on a drill under a clock. Raises ValueError if the take is too long for it."""
    planned = schedule(drill.take, clock)
    hands, dts, *_ = planned
    return Runs(
        len(tunes),
        tunes,
        planned.on(ground(drill.course)),
        start_of(drill),
        drill.view,
        hands,
        dts,
        presses_in(drill.take),
        first_press_shifted(drill.take, clock) if drill.view == "side" else None,
    )


def cores() -> int:
    """The number of cores that this process may use."""
    return len(os.sched_getaffinity(0))


class Room:
    """The buffers with which one thread reads figures from runs of a given length."""

    def __init__(self, rows: int) -> None:
        self.tunes, self.states = empty_records(TUNE, 2), empty_records(STATE, 3)
        self.lengths, self.pushes = np.zeros(rows), empty_records(PUSH, rows)
        self.again, self.rows = empty_records(TRACE, rows), empty_records(TRACE, rows)
        self.moved, self.notes = empty_records(HAND, rows), empty_records(NOTES, 1)


class About(NamedTuple):
    """What all runs of a batch have in common."""

    ground: Ground
    start: Start
    view: str
    dts: NDArray[np.float64]
    pressed: int = 0
    shifted: Shifted | None = None
    logged: bool = False


class Work(NamedTuple):
    """What to read, and where the results go. `tunes`, `hands` and `rows` are for all runs, or one after the other."""

    tunes: NDArray[Any]
    hands: NDArray[Any]
    rows: NDArray[Any]
    # The measures that are wanted, shape (len(MEASURES),).
    wanted: NDArray[np.bool_]
    # Receives the figures, shape (runs, len(MEASURES)) of dtype FIGURE; and what became of presses.
    out: NDArray[Any]
    outcomes: NDArray[Any] | None = None
    # Whether `rows` has the runs already; else they are run into it.
    is_run: bool = False


_rooms = threading.local()


def _room(rows: int) -> Room:
    """The buffers of the current thread; the last few are kept, since only a few lengths occur in turn."""
    kept: dict[int, Room] | None = getattr(_rooms, "kept", None)
    if kept is None:
        kept = _rooms.kept = {}
    room = kept.pop(rows, None) or Room(rows)
    kept[rows] = room
    if len(kept) > ROOMS:
        kept.pop(next(iter(kept)))
    return room


def read_runs(
    runs: Runs,
    measures: Sequence[str],
    *,
    traces: Records | None = None,
    outcomes: Records | None = None,
    threads: int = 0,
    also: Also | None = None,
) -> NDArray[Any]:
    """The figures of every run, shape (count, len(MEASURES)) of dtype FIGURE; those not in `measures` show nothing.

    - `traces`: receives the rows of every run, one run after the other, count × rows of dtype TRACE.
    - `outcomes`: presses to be followed, one for each run, of dtype PRESS_OUTCOME.
    - `threads`: 0 means one per core.
    - `also`: called with each part that has been read, to add other figures to it.
    """
    out = np.zeros((runs.count, len(MEASURES)), dtype=FIGURE)
    wanted = wanted_of(measures, runs.view)
    threads = threads or cores()
    # Distribute a small number of runs evenly, too.
    chunk = min(CHUNK, max(SMALLEST, -(-runs.count // (2 * threads))))
    parts = [(at, min(at + chunk, runs.count)) for at in range(0, runs.count, chunk)]
    threads = min(threads, len(parts))
    if threads <= 1:
        _read(runs, (0, runs.count), wanted, out, traces, outcomes, also)
    else:
        on_all_cores(lambda part: _read(runs, part, wanted, out, traces, outcomes, also), parts)
    return out


def _read(
    runs: Runs,
    part: tuple[int, int],
    wanted: NDArray[np.bool_],
    out: NDArray[Any],
    traces: Records | None,
    outcomes: Records | None,
    also: Also | None,
) -> None:
    """Read a part of the runs, from the first up to an end."""
    first, end = part
    room, rows = _room(runs.rows), runs.rows
    about = About(runs.ground, runs.start, runs.view, runs.dts, runs.pressed, runs.shifted)
    tunes = runs.tunes[first:end] if len(runs.tunes) > 1 else runs.tunes
    hands = runs.hands[first * rows : end * rows] if len(runs.hands) > rows else runs.hands
    kept = room.rows if traces is None else traces[first * rows : end * rows]
    followed = None if outcomes is None else outcomes[first:end]
    _reader()(room, about, Work(tunes, hands, kept, wanted, out[first:end], followed))
    if also is not None:
        also(tunes, wanted, out[first:end])


def read_rows(trace: Trace, rows: Records, tunes: Records, wanted: NDArray[np.bool_], out: NDArray[Any]) -> None:
    """Read the figures of several traces of one drill and clock into `out`, shape (traces, len(MEASURES)).

    `trace` is any of them; `rows` and `tunes` are those of all, one after the other.
    """
    drill = trace.drill
    if trace.logged:
        hands = empty_records(HAND, len(trace))
        about = About(ground(drill.course), start_of(drill), drill.view, np.zeros(len(trace)), logged=True)
    else:
        planned = schedule(drill.take, trace.clock)
        hands, dts, *_ = planned
        shifts = bool(wanted[WINDOW]) and drill.view == "side"
        shifted = first_press_shifted(drill.take, trace.clock) if shifts else None
        about = About(
            planned.on(ground(drill.course)), start_of(drill), drill.view, dts, presses_in(drill.take), shifted
        )
    _reader()(_room(len(trace)), about, Work(tunes, hands, rows, wanted, out, is_run=True))


def on_all_cores(work: Callable[[Item], Done], items: Iterable[Item]) -> list[Done]:
    """Map `work` over the items in threads, in order. Worthwhile if most of the time is spent in machine code."""
    # Load it in one thread only.
    if not uncompiled():
        READER.function  # noqa: B018
    return list(_pool().map(work, items))


@cache
def _pool() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(cores(), thread_name_prefix="figures")


def wanted_of(measures: Iterable[str] | None, view: str) -> NDArray[np.bool_]:
    """A mask of the measures; None means all."""
    return _mask(None if measures is None else frozenset(measures), view)


@lru_cache(256)
def _mask(ids: frozenset[str] | None, view: str) -> NDArray[np.bool_]:
    def is_wanted(measure: Measure) -> bool:
        return not measure.on_request if ids is None else measure.id in ids

    return np.array([is_wanted(measure) and view in measure.views for measure in MEASURES])


@cached_by_identity(64)
def presses_in(take: Take) -> int:
    """How often jump is pressed within the take; presses that touch or overlap are one."""
    held = np.zeros(take.length + 1, dtype=bool)
    for start, end in take.keys.jump:
        held[start + 1 : end + 1] = True
    return int(np.count_nonzero(held[1:] & ~held[:-1]))


def _begin(room: Room, about: About) -> tuple[Records, Records, NDArray[np.int64]]:
    """Fill in what the runs have in common.

    Returns the input without jump, what jump does in each shift, and the rows of the shifted presses.
    """
    n, shifted = room.notes[0], about.shifted
    n.x, n.y = about.start.x, about.start.y
    # The initial state of every run.
    about.start.put_into(room.states[2:])
    n.side, n.logged, n.pressed, n.count = about.view == "side", about.logged, about.pressed, len(room.lengths)
    n.shifts = 0 if shifted is None else len(shifted.rows)
    for name, shapes in zip(SHAPES, about.ground, strict=True):
        n[name] = len(shapes)
    room.lengths[:] = about.dts
    if shifted is None:
        return room.moved, NO_JUMPS, NO_ROWS
    jumps = np.ascontiguousarray(shifted.hands.jumps).reshape(-1)
    return shifted.hands.plain, jumps.view(np.recarray), np.ascontiguousarray(shifted.rows)


@cache
def _reader() -> Callable[[Room, About, Work], None]:
    return _plainly if uncompiled() else _compiled


def _compiled(room: Room, about: About, work: Work) -> None:
    count, each = len(work.out), len(room.lengths)
    plain, jumps, shift_rows = _begin(room, about)
    steps = (int(len(work.tunes) > 1), int(len(work.hands) > each), int(len(work.rows) > each))
    outcomes = NO_OUTCOMES if work.outcomes is None else work.outcomes
    scratch = (room.tunes, room.states, room.lengths, room.again, room.pushes, room.moved)
    given = (work.hands, work.rows, plain, jumps, shift_rows)
    READER.function(
        pointer(room.notes), count, *steps, not work.is_run, pointer(work.tunes), pointer(work.wanted),
        pointer(work.out), work.outcomes is not None, pointer(outcomes),
        *map(pointer, (*scratch, *given, *about.ground)),
    )  # fmt: skip


def _plainly(room: Room, about: About, work: Work) -> None:
    """As `_compiled`, without the compiler."""
    each = len(room.lengths)
    plain, jumps, shift_rows = _begin(room, about)
    for i in range(len(work.out)):
        at = i * each if len(work.rows) > each else 0
        hand = i * each if len(work.hands) > each else 0
        f = Facts(
            room.notes[0], work.rows[at : at + each], work.hands[hand : hand + each], room.tunes, room.states,
            room.lengths, room.again, room.pushes, room.moved, plain, jumps, shift_rows, *about.ground,
        )  # fmt: skip
        tune = work.tunes[i if len(work.tunes) > 1 else 0]
        read_run(f, tune, work.wanted, work.out[i].view(np.recarray), not work.is_run)
        if work.outcomes is not None:
            follow(f, work.outcomes[i])
