"""Figures read off runs: of one trace, or of thousands of runs that nobody looks at, on all cores."""

from __future__ import annotations

import ctypes
import os
import threading
from collections.abc import Callable, Iterable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cache, lru_cache, partial
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from cinetica.machine.code import address, uncompiled
from cinetica.model.clock import Clock
from cinetica.model.memo import by_identity
from cinetica.model.study import Drill
from cinetica.model.take import Take
from cinetica.motion.clock import schedule
from cinetica.motion.native import RUN
from cinetica.motion.records import HAND, JUMP, STATE, TRACE, TUNE, Ground, Records, empty_records, ground, tune_record
from cinetica.motion.simulate import Trace
from cinetica.reading.facts import FACTS, LENGTH, PUSH, SHAPES, WHOLE, PlainFacts
from cinetica.reading.fates import follow
from cinetica.reading.measures import MEASURES, NO_TICKS, Reading
from cinetica.reading.reader import FIGURE, READER, read_run
from cinetica.reading.survey.shifting import Shifted, first_press_shifted

# Runs that a thread takes at a time: a core that something else keeps busy then takes fewer.
CHUNK, SMALLEST = 128, 16
ROOMS = 8
NO_ROWS, NO_JUMPS = np.zeros(0, dtype=np.int64), np.zeros(0, dtype=JUMP)
WINDOW = next(place for place, measure in enumerate(MEASURES) if measure.id == "frames_that_work")
Item = TypeVar("Item")
Done = TypeVar("Done")


@dataclass(frozen=True, eq=False)
class Runs:
    """What is run: `count` runs under `schedule.dts`, on one course from one start. Tunes and hands are either one for
    all or one for each; `hands` has `count` times the rows of one run, one run after the other.

    `pressed`: how often jump goes down in the take.
    """

    count: int
    tunes: Records
    ground: Ground
    start: tuple[float, float]
    view: str
    hands: Records
    dts: NDArray[np.float64]
    pressed: int
    # The first press of jump, shifted; None where jump is not pressed, or what is asked is what becomes of presses.
    shifted: Shifted | None = None

    @property
    def rows(self) -> int:
        return len(self.dts)


def runs_of(tunes: Records, drill: Drill, clock: Clock) -> Runs:
    """Tunes on a drill under a clock. ValueError if the take is too long for it."""
    hands, dts, _ = schedule(drill.take, clock)
    return Runs(
        len(tunes),
        tunes,
        ground(drill.course),
        drill.start,
        drill.view,
        hands,
        dts,
        presses_in(drill.take),
        first_press_shifted(drill.take, clock) if drill.view == "side" else None,
    )


def cores() -> int:
    """On how many this process may run."""
    return len(os.sched_getaffinity(0))


class Room:
    """The arrays that one thread reads off with, for runs of up to so many rows; `count` is that of the runs now."""

    def __init__(self, rows: int) -> None:
        self.most = rows
        self.tunes, self.states = empty_records(TUNE, 2), empty_records(STATE, 3)
        self.lengths, self.pushes = empty_records(LENGTH, rows), empty_records(PUSH, rows)
        self.again, self.rows = empty_records(TRACE, rows), empty_records(TRACE, rows)
        self.moved = empty_records(HAND, rows)
        # Plain arrays: a record array takes a hundred times as long to set.
        self._seconds = self.lengths.view(LENGTH, np.ndarray)["seconds"]
        self.facts = np.zeros(1, FACTS)
        for name in ("tunes", "lengths", "again", "states", "pushes", "moved"):
            self.facts[name] = address(getattr(self, name))
        self.at = address(self.facts)
        # What the facts are of: traces that are read off one after the other mostly share all but their rows.
        self.noted: tuple[object, ...] = ()
        # The arrays whose addresses are in the facts: they must be there for as long.
        self.named: tuple[object, ...] = ()
        self.fit(rows)

    def fit(self, rows: int) -> None:
        """For runs of so many rows, no more than there is room for, from now on."""
        self.count, self.noted = rows, ()
        self.seconds = self._seconds[:rows]
        self.facts["count"] = rows


_rooms = threading.local()


def _room(rows: int) -> Room:
    """This thread's room; those used last are kept, since runs of a few lengths follow each other."""
    kept: dict[int, Room] | None = getattr(_rooms, "kept", None)
    if kept is None:
        kept = _rooms.kept = {}
    room = kept.pop(rows, None) or Room(rows)
    kept[rows] = room
    if len(kept) > ROOMS:
        kept.pop(next(iter(kept)))
    return room


def figures_of(
    runs: Runs,
    measures: Sequence[str],
    *,
    traces: Records | None = None,
    fates: Records | None = None,
    threads: int = 0,
) -> NDArray[Any]:
    """The figures of every run, shape (count, len(MEASURES)) of dtype FIGURE; those of other measures show nothing.

    `traces`: where every run's rows go, one run after the other, count × rows of dtype TRACE. `fates`: presses to be
    followed, one for each run, of dtype FATE. `threads`: 0 is one for each core.
    """
    out = np.zeros((runs.count, len(MEASURES)), dtype=FIGURE)
    wanted = wanted_of(measures, runs.view)
    threads = threads or cores()
    # Few runs are shared out evenly, too.
    chunk = min(CHUNK, max(SMALLEST, -(-runs.count // (2 * threads))))
    parts = [(at, min(at + chunk, runs.count)) for at in range(0, runs.count, chunk)]
    threads = min(threads, len(parts))
    if threads <= 1:
        _read(runs, 0, runs.count, wanted, out, traces, fates)
    else:
        on_all_cores(lambda part: _read(runs, part[0], part[1], wanted, out, traces, fates), parts)
    return out


def on_all_cores(work: Callable[[Item], Done], items: Iterable[Item]) -> list[Done]:
    """What `work` makes of each, in their order. It pays where most of the time is spent in machine code."""
    # Loaded by one thread alone.
    _reader()
    return list(_pool().map(work, items))


@cache
def _pool() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(cores(), thread_name_prefix="figures")


def wanted_of(measures: Iterable[str] | None, view: str) -> NDArray[np.bool_]:
    """Which measures are meant, None being all."""
    return _those_of(None if measures is None else frozenset(measures), view)


@lru_cache(256)
def _those_of(ids: frozenset[str] | None, view: str) -> NDArray[np.bool_]:
    return np.array([(ids is None or measure.id in ids) and view in measure.views for measure in MEASURES])


def _read(
    runs: Runs,
    first: int,
    end: int,
    wanted: NDArray[np.bool_],
    out: NDArray[Any],
    traces: Records | None,
    fates: Records | None,
) -> None:
    """Runs `first` up to `end`."""
    room, rows = _room(runs.rows), runs.rows
    room.seconds[:] = runs.dts
    room.noted = ()
    facts = {
        "x": runs.start[0],
        "y": runs.start[1],
        "side": runs.view == "side",
        "pressed": runs.pressed,
        **_shifts(runs.shifted),
    }
    tunes = runs.tunes[first:end] if len(runs.tunes) > 1 else runs.tunes
    hands = runs.hands[first * rows : end * rows] if len(runs.hands) > rows else runs.hands
    kept = room.rows if traces is None else traces[first * rows : end * rows]
    steps = int(len(runs.tunes) > 1), int(len(runs.hands) > rows), int(traces is not None)
    followed = None if fates is None else fates[first:end]
    _reader()(
        room, facts, runs.ground, hands, kept, end - first, steps, True, tunes, wanted, out[first:end], followed
    )()


def read_off(trace: Trace, measures: Iterable[str] | None = None) -> dict[str, Reading]:
    """Every measure that this trace shows, by id, in the order of declaration; or those of the given ids alone."""
    wanted, out = wanted_of(measures, trace.drill.view), np.zeros((1, len(MEASURES)), dtype=FIGURE)
    tunes = tune_record(trace.tune)
    reading_of(trace, trace.rows, tunes, _room(len(trace)), wanted, out)()
    return readings(out[0])


def reading_of(
    trace: Trace, rows: Records, tunes: Records, room: Room, wanted: NDArray[np.bool_], out: NDArray[Any]
) -> partial[None]:
    """What reads figures off this trace, and off others of the same drill and clock, into `out`, shape (traces,
    len(MEASURES)): `rows` and `tunes` are those of all of them, one after the other. It needs no lock of Python's; all
    that is given must be there until it is done, the room for it alone."""
    drill, count = trace.drill, len(out)
    shifts = bool(wanted[WINDOW]) and drill.view == "side"
    about = (drill.take, drill.course, trace.clock, drill.view, *drill.start, shifts, trace.logged)
    facts, hands = None, None
    if uncompiled() or not _is_noted(about, room.noted):
        facts, hands = _facts_of(trace, room, shifts)
        room.noted = ()
    steps = (int(count > 1), 0, int(count > 1))
    read = _reader()(
        room, facts, ground(drill.course), hands, rows, count, steps, False, tunes, wanted, out, None
    )  # fmt: skip
    room.noted = about
    return read


def _is_noted(about: tuple[object, ...], noted: tuple[object, ...]) -> bool:
    """Whether the first three, which are models, are the very same ones, and the others equal."""
    return bool(noted) and all(a is b for a, b in zip(about[:3], noted, strict=False)) and about[3:] == noted[3:]


def _facts_of(trace: Trace, room: Room, shifts: bool) -> tuple[dict[str, Any], Records]:
    """What the facts have of a trace, and its hands."""
    drill = trace.drill
    facts = {"x": drill.start[0], "y": drill.start[1], "side": drill.view == "side", "logged": trace.logged}
    if trace.logged:
        return facts, empty_records(HAND, len(trace))
    hands, room.seconds[:], _ = schedule(drill.take, trace.clock)
    facts["pressed"] = presses_in(drill.take)
    return facts | (_shifts(first_press_shifted(drill.take, trace.clock)) if shifts else {}), hands


def readings(figures: NDArray[Any]) -> dict[str, Reading]:
    """One run's figures, shape (len(MEASURES),) of dtype FIGURE, that it shows, by id."""
    return readings_of_all(figures[np.newaxis])[0]


def readings_of_all(figures: NDArray[Any]) -> list[dict[str, Reading]]:
    """The same of several runs, shape (runs, len(MEASURES)), in one go."""
    runs, places = figures["shows"].nonzero()
    found: list[dict[str, Reading]] = [{} for _ in figures]
    shown = figures[runs, places].tolist()
    for run, place, (value, first, last, ticks, _) in zip(runs.tolist(), places.tolist(), shown, strict=True):
        found[run][_IDS[place]] = Reading(value, (first, last), None if ticks == NO_TICKS else ticks)
    return found


_IDS = tuple(measure.id for measure in MEASURES)


def _shifts(shifted: Shifted | None) -> dict[str, Any]:
    """What the facts have of a press that is shifted."""
    if shifted is None:
        return {}
    hands = shifted.hands
    return {"shifts": len(shifted.rows), "shifted": hands.jumps, "plain": hands.plain, "shift_rows": shifted.rows}


@by_identity(64)
def presses_in(take: Take) -> int:
    """How often jump goes down within the take: presses that touch or overlap are one."""
    held = np.zeros(take.length + 1, dtype=bool)
    for start, end in take.keys.jump:
        held[start + 1 : end + 1] = True
    return int(np.count_nonzero(held[1:] & ~held[:-1]))


@cache
def _reader() -> Callable[..., partial[None]]:
    """What makes all ready for the machine code; what it gives calls it."""
    if uncompiled():
        return partial(partial, _plainly)
    function = READER.function
    kernel = ctypes.cast(RUN.function, ctypes.c_void_p).value or 0

    def read(
        room: Room, facts: dict[str, Any] | None, ground: Ground, hands: Records | None, trace: Records, count: int,
        steps: tuple[int, int, int], runs: bool, tunes: Records, wanted: NDArray[np.bool_], out: NDArray[Any],
        fates: Records | None,
    ) -> partial[None]:  # fmt: skip
        f = room.facts
        f["rows"] = address(trace)
        if facts is not None and hands is not None:
            f["kernel"], f["logged"], f["pressed"], f["shifts"] = kernel, False, 0, 0
            for name, value in facts.items():
                f[name] = address(value) if isinstance(value, np.ndarray) else value
            f["hands"] = address(hands)
            room.named = (facts, hands, ground)
            for name, shapes in zip(SHAPES, ground, strict=True):
                f[name], f[f"{name}_count"] = address(shapes), len(shapes)
        return partial(
            function, room.at, count, *steps, runs, address(tunes), address(wanted), address(out),
            int(fates is not None), address(out) if fates is None else address(fates),
        )  # fmt: skip

    return read


def _plainly(
    room: Room, facts: dict[str, Any] | None, ground: Ground, hands: Records | None, trace: Records, count: int,
    steps: tuple[int, int, int], runs: bool, tunes: Records, wanted: NDArray[np.bool_], out: NDArray[Any],
    fates: Records | None,
) -> None:  # fmt: skip
    """The same without the compiler, which is always given facts and hands."""
    assert facts is not None
    assert hands is not None
    rows = room.count
    for i in range(count):
        at, hand = i * steps[2] * rows, i * steps[1] * rows
        given: dict[str, Any] = (
            {"logged": False, "pressed": 0, "shifts": 0, "shifted": NO_JUMPS, "plain": hands, "shift_rows": NO_ROWS}
            | facts
            | ground._asdict()
        )
        given["shift_rows"] = np.asarray(given["shift_rows"]).view(WHOLE).view(np.recarray)
        given["shifted"] = given["shifted"].reshape(-1).view(np.recarray)
        f = PlainFacts(
            **given, rows=trace[at : at + rows], tunes=room.tunes, hands=hands[hand : hand + rows],
            lengths=room.lengths, again=room.again, states=room.states, pushes=room.pushes, moved=room.moved,
            count=rows,
        )  # fmt: skip
        read_run(f, tunes[i * steps[0]], wanted, out[i].view(np.recarray), runs)
        if fates is not None:
            follow(f, fates[i])
