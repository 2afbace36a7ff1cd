"""How forgiving a press of jump is: what becomes of it if it comes earlier or later, or is held longer.

Presses are counted in frames of the take, whatever the clock, since that is what the player does.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from cinetica.model.clock import Clock, Hitch, Mode
from cinetica.model.course import Course
from cinetica.model.study import Drill
from cinetica.model.take import Press
from cinetica.model.tune import Tune
from cinetica.motion.clock import schedule
from cinetica.motion.records import Records, empty_records, ground, start_of, tune_records
from cinetica.reading.display_units import OURS, DisplayUnits
from cinetica.reading.press_outcomes import LOST, OUTCOMES, PRESS_OUTCOME
from cinetica.reading.run_reader import Runs, on_all_cores, presses_in, read_runs
from cinetica.reading.survey.press_shifts import AS_LONG, SHIFTS, jump_presses, presses_at, shifted

# The most frames that it is held for.
LONGEST_HELD = 40
TRIES, MOST_SPREAD = 2000, 500.0
# A distance below this, in u, counts as on top.
ON_TOP = 1e-6
NOWHERE = -1
WORDS = {
    "lost": "lost", "ground": "off the ground", "coyote": "in coyote time", "buffered": "buffered", "air": "in the air",
    "net": "off a net",
}  # fmt: skip


@dataclass(frozen=True)
class Stretch:
    """Shifts, in frames, from `first` to `last` with one outcome and one landing place."""

    first: int
    last: int
    outcome: str
    place: int

    @property
    def frames(self) -> int:
        """The number of shifts."""
        return self.last - self.first + 1


@dataclass(frozen=True, eq=False)
class Lane:
    """What became of the press at each of `shifts`, for one tune under one clock; arrays of equal length.

    `outcomes`: indices in OUTCOMES. `places`: the top of the course that the body landed on (`tops_of`), or NOWHERE.
    `x`, `y`: where. `fits`: whether the shifted press is separate (`press_shifts.Shifted`).
    """

    tune: Tune
    clock: Clock
    shifts: NDArray[np.int64]
    outcomes: NDArray[np.int64]
    places: NDArray[np.int64]
    x: NDArray[np.float64]
    y: NDArray[np.float64]
    fits: NDArray[np.bool_]

    def works(self, goal: int | None = None) -> NDArray[np.bool_]:
        """Whether the press launches and, if there is a goal, the body lands on it."""
        launched = self.fits & (self.outcomes != LOST)
        return launched if goal is None else launched & (self.places == goal)

    def window(self, goal: int | None = None) -> tuple[int, int] | None:
        """The first and last shift of the unbroken range around the take's own press that works; None if that fails."""
        works = dict(zip(self.shifts.tolist(), self.works(goal).tolist(), strict=True))
        if not works.get(0):
            return None
        first = last = 0
        while works.get(first - 1):
            first -= 1
        while works.get(last + 1):
            last += 1
        return first, last

    @cached_property
    def stretches(self) -> tuple[Stretch, ...]:
        """In the order of the shifts, without those that are not a separate press."""
        changes = (np.diff(self.outcomes) != 0) | (np.diff(self.places) != 0) | np.diff(self.fits)
        ends = [*np.flatnonzero(changes).tolist(), len(self.shifts) - 1]
        begins = [0, *(end + 1 for end in ends[:-1])]
        return tuple(
            Stretch(int(self.shifts[begin]), int(self.shifts[end]), OUTCOMES[self.outcomes[end]], int(self.places[end]))
            for begin, end in zip(begins, ends, strict=True)
            if self.fits[end]
        )


def clocks_of(clock: Clock, seconds: float) -> dict[str, Clock]:
    """The machines shown, by name.

    The study's own first, then 60, 30 and 144 ticks a second, fixed ticks in uneven frames, and one with a hitch in the
    middle of the take.
    """
    hitch = (Hitch(round(0.4 * seconds, 3), 0.08),)
    others = {
        "60": Clock(tick_rate=60), "30": Clock(tick_rate=30), "144": Clock(tick_rate=144),
        "50 in 60": Clock(mode=Mode.FIXED, tick_rate=50, frame_rate=60),
        "hitch": Clock(mode=Mode.VARIABLE, frame_rate=60, hitches=hitch),
    }  # fmt: skip
    same = next((name for name, each in others.items() if each == clock), None)
    return others if same else {"study": clock} | others


def tops_of(course: Course) -> list[tuple[float, float, float, float]]:
    """Everything that a body can land on, as (x0, y0, x1, y1).

    The tops of solids, of one-way solids, and slopes.
    """
    flat = [(left, top, right, top) for left, _, right, top in (*course.solids, *course.oneway)]
    return [*flat, *((slope[0], slope[1], slope[2], slope[3]) for slope in course.slopes)]


def lane(
    tune: Tune,
    drill: Drill,
    clock: Clock,
    press: Press,
    shifts: tuple[int, ...] = SHIFTS,
    held: tuple[int, ...] = AS_LONG,
) -> Lane:
    """What becomes of a press of the take, shifted by each of `shifts` frames.

    `held`: how many frames it is then held, if not as long as it was. Raises ValueError if the take has no such press,
    or is too long for the clock.
    """
    if press not in jump_presses(drill.take):
        raise ValueError(f"The take has no press of jump from frame {press.start} to {press.end}.")
    cases = shifted(drill.take, clock, presses_at(press, shifts, held))
    planned = schedule(drill.take, clock)
    dts = planned.dts
    outcomes = empty_records(PRESS_OUTCOME, len(shifts))
    outcomes["row"] = cases.rows
    runs = Runs(
        len(shifts), tune_records([tune]), planned.on(ground(drill.course)), start_of(drill), drill.view,
        cases.hands.every(), dts,
        presses_in(drill.take),
    )  # fmt: skip
    read_runs(runs, (), outcomes=outcomes, threads=1)
    places = _places(drill.course, outcomes, tune.body.width)
    return Lane(
        tune, clock, np.array(shifts), outcomes["outcome"].copy(), places, outcomes["x"].copy(), outcomes["y"].copy(),
        cases.fits,
    )  # fmt: skip


def lanes(tunes: Sequence[Tune], drill: Drill, clocks: Sequence[Clock], press: Press) -> list[Lane]:
    """A lane for each tune under each clock, the clocks of one tune side by side."""
    return on_all_cores(
        lambda pair: lane(pair[0], drill, pair[1], press), [(tune, clock) for tune in tunes for clock in clocks]
    )


def _places(course: Course, outcomes: Records, width: float) -> NDArray[np.int64]:
    """Which top each body landed on."""
    places = np.full(len(outcomes), NOWHERE)
    landed = outcomes["landing"] > 0
    x, y = np.asarray(outcomes["x"]), np.asarray(outcomes["y"])
    for place, (x0, y0, x1, y1) in reversed(list(enumerate(tops_of(course)))):
        level = y0 + (y1 - y0) * np.clip((x - x0) / (x1 - x0), 0.0, 1.0)
        reach = width / 2 if y0 == y1 else 0.0
        on = landed & (np.abs(y - level) <= ON_TOP) & (x > x0 - reach) & (x < x1 + reach)
        places[on] = place
    return places


def place_words(course: Course, place: int, units: DisplayUnits = OURS) -> str:
    """A top of the course, in words."""
    if place == NOWHERE:
        return "not down in the take"
    x0, y0, x1, y1 = tops_of(course)[place]
    (x0, y0), (x1, y1), unit = units.place(x0, y0), units.place(x1, y1), units.unit("u")
    height = f"{y0:g} {unit}" if y0 == y1 else f"{min(y0, y1):g} to {max(y0, y1):g} {unit}"
    return f"the top at {height}, x from {x0:g} to {x1:g}".replace("-", "−")


def spread(tune: Tune, drill: Drill, clock: Clock, press: Press, ms: float, goal: int | None = None) -> float:
    """The share, 0 to 1, of 2,000 presses that work.

    They are normally distributed around the take's own press with this standard deviation in ms, and each comes in the
    frame that contains its moment. They are the same in every call (NumPy's generator, seed 1). Raises ValueError
    unless the deviation is from 0 to 500 ms.
    """
    if not 0.0 <= ms <= MOST_SPREAD:
        raise ValueError(f"The standard deviation is a number from 0 to {MOST_SPREAD:g} ms; {ms:g} is not.")
    shifts, counts = _scattered(float(ms), float(drill.take.rate))
    works = lane(tune, drill, clock, press, shifts).works(goal)
    return float(np.asarray(counts)[works].sum() / TRIES)


_KEPT: dict[tuple[float, float], tuple[tuple[int, ...], tuple[int, ...]]] = {}


def _scattered(ms: float, rate: float) -> tuple[tuple[int, ...], tuple[int, ...]]:
    """Shifts in frames, and how many of the presses have each. The same objects for the same deviation."""
    found = _KEPT.get((ms, rate))
    if found is None:
        # A moment in the middle of its frame.
        tries = np.floor(np.random.default_rng(1).normal(0.0, 1.0, TRIES) * ms / 1000.0 * rate + 0.5).astype(int)
        shifts, counts = np.unique(tries, return_counts=True)
        found = _KEPT[(ms, rate)] = (tuple(shifts.tolist()), tuple(counts.tolist()))
    return found


def held_grid(
    tune: Tune, drill: Drill, clock: Clock, press: Press, held: Sequence[int] = tuple(range(1, LONGEST_HELD + 1))
) -> list[Lane]:
    """A lane for each number of frames that the press is held."""
    return on_all_cores(lambda frames: lane(tune, drill, clock, press, SHIFTS, _as_long(frames)), held)


_LONG: dict[int, tuple[int, ...]] = {}


def _as_long(frames: int) -> tuple[int, ...]:
    return _LONG.setdefault(frames, (frames,) * len(SHIFTS))
