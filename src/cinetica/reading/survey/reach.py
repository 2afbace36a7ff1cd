"""How far a tune can go: the widest gap for each difference in height, the highest step, the longest fall.

Everything is simulated: a floor that ends at an edge, a ledge beyond it that is higher or lower, and input that taps or
holds, and steers. A *gap* is the empty air between the edges of two solids, crossed with everything that helps: a body
stands and lands with any part of it, and jumps in coyote time. The *jump distance* is that of the position alone (the
middle of the feet), from the launch to where the feet touch the ledge. The outline also contains jumps that release the
steering in the air, or reverse it.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cache, cached_property, lru_cache
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from cinetica.model.clock import Clock
from cinetica.model.course import Course, Rectangle
from cinetica.model.identity_cache import cached_by_identity
from cinetica.model.take import Keys, Press, Take
from cinetica.model.tune import TimeBase, Tune, parameter_by_id
from cinetica.motion.clock import schedule
from cinetica.motion.records import (
    APEX,
    LAND,
    LAUNCH,
    LEAVE,
    SLACK,
    TRACE,
    TUNE,
    Records,
    Start,
    empty_records,
    ground,
    tune_records,
)
from cinetica.reading.display_units import OURS, DisplayUnits
from cinetica.reading.measures import MEASURES, REACHED
from cinetica.reading.run_reader import Runs, on_all_cores, read_runs

# Differences in height go in steps of a round number: at most this many up to the jump height, and down.
ROUND = (1.0, 2.0, 2.5, 5.0, 10.0)
STEPS_UP, STEPS_DOWN = 6, 12
# The margin of what is comfortable, in frames.
MARGIN = 3
# The frame of the press, by which a run is at its top speed; and the frames for which a jump is watched.
RUN_UP, WATCHED = 90, 150
STANDING, RUNNING = "standing", "running"
STARTS = (STANDING, RUNNING)
STEERING = ("kept", "let go", "reversed")
HOLDS = (2, 4, 7, 11, 16, 24, 40, WATCHED)
OUTLINE_HOLDS = (*range(1, 31), WATCHED)
# Frames after the press at which the steering is let go or reversed.
STEERED = 8
FAR, THIN, BOTTOMLESS = 1e5, 0.01, -1e4
HULL_POINTS = 70
# How far the feet are moved, in u, so that a comparison within the kernel's slack has the intended result; how many
# floors coyote time is tried with; how many candidates for the widest gap are run over the gap itself.
HAIR, MOST_LATE, MOST_TRIED = 1e-6, 16, 24
ON_LEDGE = 1e-6
PLACES = {measure.id: place for place, measure in enumerate(MEASURES)}


@dataclass(frozen=True)
class Way:
    """One kind of jump.

    Standing or running, jump held for a number of frames, and the steering in the air. `early`: how many frames before
    the edge it is pressed.
    """

    start: str
    held: int
    steering: str = "kept"
    early: int = 0


class Jumper(NamedTuple):
    """A tune seen from the side as a record of one row, and the numbers needed from it (u, s).

    `frame`: the length of a tick where the tune counts per frame, else 0.
    """

    record: Records
    width: float
    coyote: float
    probe: float
    frame: float


def jumper_of(record: Records) -> Jumper:
    """The jumper of a tune's record, which has one row."""
    p = record[0]
    per_frame = int(p.time_base) == parameter_by_id("stepping.time_base").codes[TimeBase.FRAMES]
    frame = 1.0 / float(p.reference_rate) if per_frame else 0.0
    return Jumper(record, float(p.width), float(p.coyote), float(p.ground_probe), frame)


@dataclass(frozen=True)
class Gap:
    """The results for one difference in height, in u; None if the ledge is out of reach.

    `widest`, `safe`: the widest gap between two edges, and the widest with the margin; `late`: how many ticks after the
    edge its launch comes, in coyote time. `distance`: the greatest jump distance, by the jump `way`, with its air time
    in s.
    """

    level: float
    widest: float | None = None
    safe: float | None = None
    late: int = 0
    distance: float | None = None
    way: Way | None = None
    air_time: float | None = None


@dataclass(frozen=True)
class Reach:
    """The results of one tune from one start.

    `step`, `easy_step`: the highest ledge in u that it reaches, at best and with the margin. `fall`: the time in s and
    the distance in u of a fall off the edge to the lowest level, without a jump.
    """

    tune: Tune
    start: str
    gaps: tuple[Gap, ...]
    step: float
    easy_step: float
    fall: tuple[float, float] | None


@dataclass(frozen=True)
class Outline:
    """Paths of the feet in the air, from the launch at (0, 0): arrays of x and y in u, one per jump."""

    ways: tuple[Way, ...]
    paths: tuple[tuple[NDArray[np.float64], NDArray[np.float64]], ...]

    def _across(self, levels: NDArray[np.float64]) -> NDArray[np.float64]:
        """Where the paths are at each height while falling, shape (paths, levels); NaN where they do not reach it."""
        found = np.full((len(self.paths), len(levels)), np.nan)
        for row, (x, y) in enumerate(self.paths):
            top = int(y.argmax())
            # From its top on a path only falls.
            found[row] = np.interp(levels, y[top:][::-1], x[top:][::-1], left=np.nan, right=np.nan)
        return found

    def farthest(self, level: float) -> float | None:
        """How far out a path reaches a height, in u; None if none does."""
        found = self._across(np.array([level]))
        return None if np.isnan(found).all() else float(np.nanmax(found))

    @cached_property
    def hull(self) -> tuple[tuple[float, float], ...]:
        """The outline of all places that the paths reach, as points (x, y) in u.

        It goes up along the highest of them, down along the farthest, and back along the nearest.
        """
        if len(self.paths[0][0]) < 2:
            return ((0.0, 0.0),)
        over = np.linspace(0.0, max(float(x.max()) for x, _ in self.paths), HULL_POINTS)
        tops = np.full(len(over), -np.inf)
        for x, y in self.paths:
            # On its way out a path has one height over each place; a way back is lower.
            out = int(x.argmax()) + 1
            within = over <= x[out - 1]
            tops[within] = np.maximum(tops[within], np.interp(over[within], x[:out], y[:out]))
        crest = int(tops.argmax())
        rising = [(float(x), float(y)) for x, y in zip(over[: crest + 1], tops[: crest + 1], strict=True)]
        peak = max(float(y.max()) for _, y in self.paths)
        # Densely as far down as is usually in view, then on to where the last path ends.
        deep = -2.5 * max(peak, SLACK)
        lowest = min(deep, min(float(y.min()) for _, y in self.paths))
        heights = np.concatenate((np.linspace(peak - SLACK, deep, HULL_POINTS), np.linspace(deep, lowest, 20)[1:]))
        found = self._across(heights)
        reached = ~np.isnan(found).all(axis=0)
        far, near = np.nanmax(found[:, reached], axis=0), np.nanmin(found[:, reached], axis=0)
        ends = list(zip(far.tolist(), near.tolist(), heights[reached].tolist(), strict=True))
        falling = [(x, y) for x, _, y in ends if x >= rising[-1][0]]
        back = [(x, y) for _, x, y in reversed(ends) if y < 0.0]
        return (*rising, *falling, *back)


@cache
def course_of(edge: float | None, level: float) -> Course:
    """A cliff with its top at 0 that ends at `edge` (None: it does not), and a ledge at `level` that begins there."""
    floor = Rectangle(-FAR, BOTTOMLESS, FAR if edge is None or level == 0.0 else edge, 0)
    if edge is None or level == 0.0:
        return Course(solids=(floor,))
    if level > 0.0:
        return Course(solids=(floor,), oneway=(Rectangle(-FAR, level - THIN, FAR, level),))
    return Course(solids=(floor, Rectangle(-FAR, level - 1, FAR, level)))


FLAT = course_of(None, 0.0)


@cache
def course_between(edge: float, left: float, level: float) -> Course:
    """A floor at 0 that ends at `edge`, and a solid from `left` on whose top is at `level`."""
    return Course(solids=(Rectangle(-FAR, BOTTOMLESS, edge, 0), Rectangle(left, BOTTOMLESS, FAR, level)))


@cache
def take_of(way: Way) -> Take:
    """The input of a jump."""
    running = way.start == RUNNING
    before = RUN_UP if running else 4
    press, length = before - way.early, before + WATCHED
    steered = min(press + STEERED, length)
    right = (Press(2 if running else press, length if way.steering == "kept" else steered),)
    left = (Press(steered, length),) if way.steering == "reversed" else ()
    jump = (Press(press, min(press + way.held, length)),) if way.held else ()
    return Take(length=length, keys=Keys(right=right, left=left, jump=jump))


@cache
def ways(start: str, steerings: tuple[str, ...] = STEERING) -> tuple[Way, ...]:
    """All jumps that are tried."""
    return tuple(Way(start, held, steering) for steering in steerings for held in HOLDS)


@cache
def outlined(start: str) -> tuple[Way, ...]:
    """The jumps of an outline: more closely spaced, since every one of them is visible."""
    return (*(Way(start, held) for held in OUTLINE_HOLDS), *ways(start, STEERING[1:]))


@cached_by_identity(64)
def _hands(tried: tuple[Way, ...], clock: Clock) -> tuple[Records, NDArray[np.float64]]:
    """The input of jumps of equal length, one after the other, and the lengths of their ticks."""
    schedules = [schedule(take_of(way), clock) for way in tried]
    return np.concatenate([each.hands for each in schedules]).view(np.recarray), schedules[0].dts


def _read(
    jumper: Jumper, clock: Clock, tried: tuple[Way, ...], course: Course, traces: Records | None = None
) -> NDArray[Any]:
    """The figures of each jump; its rows go to `traces`."""
    hands, dts = _hands(tried, clock)
    runs = Runs(len(tried), jumper.record, ground(course), Start(0.0, 0.0), "side", hands, dts, 1)
    return read_runs(runs, ("jump_distance", "air_time", "jump_height"), traces=traces, threads=1)


def _traces(jumper: Jumper, clock: Clock, tried: tuple[Way, ...], course: Course) -> Records:
    """The rows of each jump, one after the other, without figures."""
    hands, dts = _hands(tried, clock)
    traces = empty_records(TRACE, len(hands))
    runs = Runs(len(tried), jumper.record, ground(course), Start(0.0, 0.0), "side", hands, dts, 1)
    read_runs(runs, (), traces=traces, threads=1)
    return traces


def _value(found: NDArray[Any], id: str) -> NDArray[np.float64]:
    """A figure of each jump; NaN where it is absent."""
    column = found[:, PLACES[id]]
    return np.where(column["shows"], column["value"], np.nan)


def levels_for(peak: float) -> tuple[float, ...]:
    """Differences in height to show for a jump of this height, in u, the lowest first.

    From more than twice the jump height below to the first that is out of reach.
    """
    wanted = (peak or 1.0) / STEPS_UP
    power = 10.0 ** math.floor(math.log10(wanted))
    step = next(each * power for each in ROUND if each * power >= wanted * (1 - 1e-9))
    return tuple(round(place * step, 9) for place in range(-STEPS_DOWN, math.floor(peak / step) + 2))


def reach(tune: Tune, clock: Clock, start: str, levels: Sequence[float] = ()) -> Reach:
    """How far a tune goes from a start, on ledges at each of the levels.

    `levels` are in u; without them those of `levels_for` its highest jump. Raises ValueError for a tune seen from
    above.
    """
    if tune.view != "side":
        raise ValueError(f"“{tune.name}” is seen from above: there is no height to reach.")
    tried, jumper = ways(start, STEERING[:1]), jumper_of(tune_records([tune]))
    levels = levels or levels_for(_highest(jumper, clock))
    found = _on_the_level(jumper, clock, start)
    if found is None:
        return Reach(tune, start, tuple(Gap(level) for level in levels), 0.0, 0.0, None)
    longest, needed, step, easy_step = found
    edge, takeoffs = _launch_x(longest), _takeoffs(jumper, clock, tried, longest)
    gaps = tuple(_gap(jumper, clock, tried, takeoffs, edge, level, needed) for level in levels)
    fall = _fall(jumper, clock, edge, min(levels)) if start == RUNNING else None
    return Reach(tune, start, gaps, step, easy_step, fall)


def _on_the_level(jumper: Jumper, clock: Clock, start: str) -> tuple[Records, int, float, float] | None:
    """The longest jump's rows, the frames that it needs, and the highest step at best and with the margin.

    None if the tune does not jump.
    """
    tried = ways(start, STEERING[:1])
    hands, _ = _hands(tried, clock)
    traces = empty_records(TRACE, len(hands))
    heights = _value(_read(jumper, clock, tried, FLAT, traces), "jump_height")
    if np.isnan(heights).all():
        return None
    # A short press may fall between two frames of a slow clock; the longest is always seen.
    longest = traces.reshape(len(tried), -1)[len(HOLDS) - 1]
    needed = _needed(longest, take_of(tried[0]).rate)
    easy = Way(start, max(1, needed - MARGIN), early=MARGIN if start == RUNNING else 0)
    easy_step = _value(_read(jumper, clock, _alone(easy), FLAT), "jump_height")
    return longest, needed, float(np.nanmax(heights)), float(np.nan_to_num(easy_step[0]))


def reach_figures(record: NDArray[Any], clock: Clock) -> dict[str, float]:
    """What a running jump crosses on the level and the highest step, each at best and with the margin, in u.

    `record` holds one tune seen from the side. A figure that it does not have is left out.
    """
    found = _reach_figures(record.tobytes(), clock)
    return {id: value for id, value in zip(REACHED, found, strict=True) if value is not None}


@lru_cache(1024)
def _reach_figures(content: bytes, clock: Clock) -> tuple[float | None, ...]:
    """The figures in the order of `REACHED`."""
    jumper = jumper_of(np.frombuffer(content, TUNE).view(np.recarray))
    by_start = {start: found for start in STARTS if (found := _on_the_level(jumper, clock, start))}
    if not by_start:
        return (None,) * len(REACHED)
    widest = safe = None
    if running := by_start.get(RUNNING):
        tried = ways(RUNNING, STEERING[:1])
        takeoffs = _takeoffs(jumper, clock, tried, running[0])
        widest, safe, _ = _widest(jumper, clock, tried, takeoffs, 0.0, running[1])
    steps, easy_steps = zip(*(each[2:] for each in by_start.values()), strict=True)
    return widest, safe, max(steps), max(easy_steps)


def _highest(jumper: Jumper, clock: Clock) -> float:
    """The height of its highest jump, standing or running, in u; 0 if it does not jump."""
    tried = [_read(jumper, clock, ways(start, STEERING[:1]), FLAT) for start in STARTS]
    return max(float(np.nan_to_num(_value(found, "jump_height")).max()) for found in tried)


def reaches(tunes: Sequence[Tune], clock: Clock, levels: Sequence[float] = ()) -> list[Reach]:
    """The reach of each tune seen from the side, standing and running, on all cores."""
    pairs = [(tune, start) for tune in tunes if tune.view == "side" for start in STARTS]
    return on_all_cores(lambda pair: reach(pair[0], clock, pair[1], levels), pairs)


def _alone(way: Way) -> tuple[Way, ...]:
    return _ALONE.setdefault(way, (way,))


_ALONE: dict[Way, tuple[Way, ...]] = {}


def _launch_x(rows: Records) -> float:
    """Where the body was when it jumped, which is where the floor may end."""
    launches = np.flatnonzero(rows["marks"] & LAUNCH)
    return float(rows["x"][launches[0] - 1])


def _needed(rows: Records, rate: float) -> int:
    """How many frames of holding a full jump needs: longer than the rise makes no difference."""
    launch = int(np.flatnonzero(rows["marks"] & LAUNCH)[0])
    tops = np.flatnonzero(rows["marks"] & APEX)
    top = int(tops[tops >= launch][0]) if (tops >= launch).any() else len(rows) - 1
    return max(1, round(float(rows["time"][top] - rows["time"][launch - 1]) * rate))


Descent = tuple[NDArray[np.float64], NDArray[np.float64]]


@dataclass(frozen=True, eq=False)
class _Takeoff:
    """Jumps off a floor that ends at `edge`, `late` ticks before the launch.

    It has the descent of each jump and, on request, of jumps with a margin.
    """

    edge: float
    late: int
    descents: list[Descent]
    easy: dict[Way, Descent] = field(default_factory=dict)


def _descents(jumper: Jumper, clock: Clock, tried: tuple[Way, ...], edge: float) -> list[Descent]:
    """x and y of the feet from the top of each jump on, above a floor that ends at `edge`; empty without a launch."""
    rows = _traces(jumper, clock, tried, Course(solids=(Rectangle(-FAR, BOTTOMLESS, edge, 0),))).reshape(len(tried), -1)
    found = []
    for x, y, marks in zip(rows["x"], rows["y"], rows["marks"], strict=True):
        launches = np.flatnonzero(marks & LAUNCH)
        top = int(launches[0]) + int(y[launches[0] :].argmax()) if len(launches) else len(y)
        found.append((x[top:], y[top:]))
    return found


def _takeoffs(jumper: Jumper, clock: Clock, tried: tuple[Way, ...], longest: Records) -> list[_Takeoff]:
    """Floors that end as early as the launch allows.

    That is right below the body, or as many ticks before as coyote time allows.
    """
    launch = int(np.flatnonzero(longest["marks"] & LAUNCH)[0])
    found: list[_Takeoff] = []
    # At most this many ticks of coyote time, or a few of them where ticks are short.
    h = jumper.frame or longest["dt"][launch]
    most = min(launch - 2, int(jumper.coyote / h + SLACK) + 1) if tried[0].start == RUNNING else 0
    for late in sorted({round(most * part / MOST_LATE) for part in range(MOST_LATE + 1)}):
        last = launch - 1 - late
        # The last row on the floor: the body's near side is just over it.
        edge = float(longest["x"][last]) - jumper.width / 2 + HAIR
        descents = _descents(jumper, clock, tried, edge)
        if not any(len(y) for _, y in descents):
            break
        found.append(_Takeoff(edge, late, descents))
    return found


def _crossed(jumper: Jumper, descent: Descent, edge: float, level: float) -> float:
    """The widest gap that a jump crosses; NaN if it never comes down to the level from above.

    x moves first in a tick, so the far side of the body may get above the ledge in the very tick in which the feet
    reach its height.
    """
    x, y = descent
    # It only falls.
    below = int(np.searchsorted(-y, SLACK - level, side="right"))
    if below == 0 or below == len(y):
        return math.nan
    return float(x[below]) + jumper.width / 2 - edge - HAIR


def _lands(jumper: Jumper, clock: Clock, way: Way, edge: float, gap: float, level: float) -> bool:
    """Whether the gap is crossed when it is really there."""
    traces = _traces(jumper, clock, _alone(way), course_between(edge, edge + gap, level))
    launches = np.flatnonzero(traces["marks"] & LAUNCH)
    if not len(launches):
        return False
    on = (traces["marks"] & LAND > 0) & (traces["x"] + jumper.width / 2 > edge + gap)
    on &= np.abs(traces["y"] - level) <= max(ON_LEDGE, jumper.probe)
    return bool(on[launches[0] :].any())


def _widest(
    jumper: Jumper, clock: Clock, tried: tuple[Way, ...], takeoffs: list[_Takeoff], level: float, needed: int
) -> tuple[float | None, float | None, int]:
    """The widest gap, the widest with the margin, and how many ticks after the edge the widest one's launch comes."""
    crossed = [
        (_crossed(jumper, descent, each.edge, level), each, way)
        for each in takeoffs
        for way, descent in zip(tried, each.descents, strict=True)
    ]
    likely = sorted((found for found in crossed if not math.isnan(found[0])), key=lambda found: -found[0])
    for gap, off, way in likely[:MOST_TRIED]:
        if gap > 0.0 and _lands(jumper, clock, way, off.edge, gap, level):
            easy = _with_margin(way, needed)
            # Many levels are crossed in the same way.
            if easy not in off.easy:
                off.easy[easy] = _descents(jumper, clock, _alone(easy), off.edge)[0]
            safe = _crossed(jumper, off.easy[easy], off.edge, level)
            return gap, None if math.isnan(safe) or safe <= 0.0 else min(safe, gap), off.late
    return None, None, 0


def _with_margin(way: Way, needed: int) -> Way:
    """The same jump with frames to spare: pressed earlier if there is a run-up, and held shorter."""
    held = max(1, min(way.held, needed) - MARGIN)
    return Way(way.start, held, way.steering, MARGIN if way.start == RUNNING else 0)


def _gap(
    jumper: Jumper,
    clock: Clock,
    tried: tuple[Way, ...],
    takeoffs: list[_Takeoff],
    edge: float,
    level: float,
    needed: int,
) -> Gap:
    found = _read(jumper, clock, tried, course_of(edge, level))
    gone = _value(found, "jump_distance")
    # A path that turned back lands behind the edge, or on the floor where it began.
    there = np.where(_value(found, "jump_height") > level, gone, np.nan)
    widest, safe, late = _widest(jumper, clock, tried, takeoffs, level, needed)
    if np.isnan(there).all():
        return Gap(level, widest, safe, late)
    best = int(np.nanargmax(there))
    air = float(_value(found, "air_time")[best])
    return Gap(level, widest, safe, late, float(there[best]), tried[best], air)


def _fall(jumper: Jumper, clock: Clock, edge: float, level: float) -> tuple[float, float] | None:
    """Time and distance of a run off the edge, without a jump, down to a level."""
    way = _alone(Way(RUNNING, 0))
    hands, _ = _hands(way, clock)
    traces = empty_records(TRACE, len(hands))
    _read(jumper, clock, way, course_of(edge, level), traces)
    leaves = np.flatnonzero(traces["marks"] & LEAVE)
    lands = np.flatnonzero(traces["marks"] & LAND)
    if not len(leaves) or not (lands > leaves[0]).any():
        return None
    left, landed = int(leaves[0]) - 1, int(lands[lands > leaves[0]][0])
    return float(traces["time"][landed] - traces["time"][left]), float(traces["x"][landed] - traces["x"][left])


def outline(tune: Tune, clock: Clock, start: str) -> Outline:
    """All paths of the feet in the air, down to nowhere: the floor ends where they begin."""
    tried, jumper = outlined(start), jumper_of(tune_records([tune]))
    hands, _ = _hands(tried, clock)
    traces = empty_records(TRACE, len(hands))
    _read(jumper, clock, tried, FLAT, traces)
    rows = traces.reshape(len(tried), -1)
    longest = rows[len(OUTLINE_HOLDS) - 1]
    if not (longest["marks"] & LAUNCH).any():
        return Outline(tried, tuple((np.zeros(1), np.zeros(1)) for _ in tried))
    _read(jumper, clock, tried, course_of(_launch_x(longest), BOTTOMLESS), traces)
    paths = []
    for each in rows:
        launches = np.flatnonzero(each["marks"] & LAUNCH)
        if not len(launches):
            paths.append((np.zeros(1), np.zeros(1)))
            continue
        launch = int(launches[0]) - 1
        lands = np.flatnonzero(each["marks"] & LAND)
        lands = lands[lands > launch]
        end = int(lands[0]) + 1 if len(lands) else len(each)
        x, y = each["x"][launch:end], each["y"][launch:end]
        paths.append((np.asarray(x - x[0]), np.asarray(y - y[0])))
    found = Outline(tried, tuple(paths))
    # Called in the thread that does the work.
    _ = found.hull
    return found


def head(units: DisplayUnits = OURS) -> tuple[str, ...]:
    """The header of `table`."""
    u, s = units.unit("u"), units.unit("s")
    return (
        "tune", "start", f"difference in height {u}", f"widest gap {u}", f"with 3 frames to spare {u}",
        f"jump distance {u}", f"air time {s}", "held frames",
    )  # fmt: skip


def table(found: Sequence[Reach], units: DisplayUnits = OURS) -> list[tuple[str, ...]]:
    """Rows of text for level designers, without a header (`head`); empty where a ledge is out of reach."""

    def cell(value: float | None, unit: str = "u") -> str:
        """A number of the table."""
        return "" if value is None else units.figure(value, unit)

    rows: list[tuple[str, ...]] = []
    for each in found:
        for gap in reversed(each.gaps):
            held = "" if gap.way is None else "full" if gap.way.held == WATCHED else str(gap.way.held)
            rows.append((
                each.tune.name, each.start, f"{units.scale('u').shown(gap.level):g}", cell(gap.widest), cell(gap.safe),
                cell(gap.distance), cell(gap.air_time, "s"), held,
            ))  # fmt: skip
    return rows


def steps_table(found: Sequence[Reach], units: DisplayUnits = OURS) -> list[tuple[str, ...]]:
    """The steps and falls of each, as rows of text without a header."""
    rows: list[tuple[str, ...]] = []
    for each in found:
        fall = ("", "") if each.fall is None else (units.figure(each.fall[0], "s"), units.figure(each.fall[1], "u"))
        steps = (units.figure(step, "u") for step in (each.step, each.easy_step))
        rows.append((each.tune.name, each.start, *steps, *fall))
    return rows
