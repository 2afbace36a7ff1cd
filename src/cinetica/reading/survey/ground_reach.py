"""How far a tune seen from above gets in every direction, from standing and from running, and the room of its turns.

Everything is simulated on an empty floor. From running the body has run along x until it is as fast as it gets; then
the stick points in another direction; where it steers, the lock is held until the heading is there. Places are
relative to where the body was at that moment.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from cinetica.model.clock import Clock
from cinetica.model.laws import Law
from cinetica.model.study import Drill
from cinetica.model.take import Push, Take
from cinetica.model.tune import Tune
from cinetica.motion.simulate import Trace, simulate
from cinetica.reading.display_units import OURS, DisplayUnits
from cinetica.reading.survey.reach import RUNNING, STANDING

Numbers = NDArray[np.float64]
# Directions of the outlines, and of the table, in degrees; and the moments at which they are drawn, in s.
DIRECTIONS = tuple(range(0, 360, 5))
TURNS = (0, 45, 90, 135, 180)
MOMENTS = (0.25, 0.5, 1.0)
# Frames at 60 per second: how long it runs up, and how long a turn is watched.
RATE, RUN_UP, WATCHED = 60, 300, 360
# A turn is over when the velocity is this close to the direction, in °, at this share of the speed that it keeps.
ALONG, AS_FAST = 5.0, 0.95


@dataclass(frozen=True)
class Spread:
    """The places that a body gets to from one start: for each of `MOMENTS`, x and y in u for each of `DIRECTIONS`."""

    start: str
    places: tuple[tuple[Numbers, Numbers], ...]


@dataclass(frozen=True)
class Turn:
    """A turn by `angle` degrees at full speed.

    `stands`, `runs`: how far along the new direction it has got 1 s later, from standing and from running, in u.
    `time`: how long the turn takes, in s; None if it is not over when the watch ends. `ahead`, `aside`: how far it
    still goes in the old direction and across it until then, in u. `path`: x and y of that, in u.
    """

    angle: int
    stands: float
    runs: float
    time: float | None
    ahead: float
    aside: float
    path: tuple[Numbers, Numbers]


def _run(tune: Tune, clock: Clock, start: str, angle: float, frames: int) -> tuple[Trace, int]:
    """A run that turns to a direction, and the row at which it begins to."""
    before = RUN_UP if start == RUNNING else 1
    if tune.drive.law is Law.STEER:
        return _steered(tune, clock, start, angle, frames)
    x, y = (round(each, 12) for each in (math.cos(math.radians(angle)), math.sin(math.radians(angle))))
    first = (Push(0, 1.0, 0.0),) if start == RUNNING else ()
    return _trace(tune, clock, (*first, Push(before, x, y)), before, frames)


def _steered(tune: Tune, clock: Clock, start: str, angle: float, frames: int) -> tuple[Trace, int]:
    """A run of a body that is steered: full lock until the heading comes to the direction, with full thrust."""
    before = RUN_UP if start == RUNNING else 1
    turned = angle if angle <= 180 else angle - 360
    lock = -math.copysign(1.0, turned)
    first = (Push(0, 0.0, 1.0),) if start == RUNNING else ()

    def with_lock(held: int) -> tuple[Trace, int]:
        """The run with the lock held for this many frames."""
        pushes = (Push(before, lock, 1.0), Push(before + held, 0.0, 1.0)) if held else (Push(before, 0.0, 1.0),)
        return _trace(tune, clock, (*first, *pushes), before, frames)

    def heading(held: int) -> float:
        """How far it has turned in the end, in degrees, toward the side of the lock."""
        trace, row = with_lock(held)
        return float(np.unwrap(trace["facing"][row:], period=360)[-1] - trace["facing"][row]) * -lock

    low, high = 0, frames
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (middle, high) if heading(middle) <= abs(turned) else (low, middle)
    return with_lock(low if abs(heading(low) - abs(turned)) <= abs(heading(high) - abs(turned)) else high)


def _trace(tune: Tune, clock: Clock, stick: tuple[Push, ...], before: int, frames: int) -> tuple[Trace, int]:
    """A run on an empty floor, and its row at a frame."""
    take = Take(rate=RATE, length=before + frames, stick=stick)
    trace = simulate(tune, Drill(name="Reach", view="top", take=take), clock)
    return trace, int(np.searchsorted(trace["time"], before / RATE - 1e-9))


def _place(trace: Trace, row: int, moment: float) -> tuple[float, float]:
    """Where the body is this many seconds after a row, relative to it."""
    time = trace["time"][row] + moment
    x, y = (float(np.interp(time, trace["time"], trace[axis]) - trace[axis][row]) for axis in "xy")
    return x, y


def spread(tune: Tune, clock: Clock, start: str) -> Spread:
    """The outlines of a tune from a start. Raises ValueError for a tune that is not seen from above."""
    _check(tune)
    runs = [_run(tune, clock, start, angle, round(max(MOMENTS) * RATE) + 1) for angle in DIRECTIONS]
    places = []
    for moment in MOMENTS:
        x, y = zip(*(_place(trace, row, moment) for trace, row in runs), strict=True)
        places.append((np.array(x), np.array(y)))
    return Spread(start, tuple(places))


def turns(tune: Tune, clock: Clock) -> list[Turn]:
    """The turns of a tune by each of `TURNS`. Raises ValueError for a tune that is not seen from above."""
    _check(tune)
    return [_turn(tune, clock, angle) for angle in TURNS]


def _turn(tune: Tune, clock: Clock, angle: int) -> Turn:
    along = np.array([math.cos(math.radians(angle)), math.sin(math.radians(angle))])
    standing = _run(tune, clock, STANDING, angle, RATE + 1)
    trace, row = _run(tune, clock, RUNNING, angle, WATCHED)
    x, y = (trace[axis][row:] - trace[axis][row] for axis in "xy")
    vx, vy = trace["vx"][row:], trace["vy"][row:]
    speed = np.hypot(vx, vy)
    straight = vx * along[0] + vy * along[1] >= speed * math.cos(math.radians(ALONG))
    over = straight & (speed >= AS_FAST * speed[-1]) & (speed > 0)
    # The last row that is not so yet: a body may pass through the direction and swing back.
    waits = np.flatnonzero(~over)
    end = 0 if not len(waits) else int(waits[-1]) + 1
    done = end < len(x)
    last = min(end, len(x) - 1) + 1
    return Turn(
        angle, float(along @ _place(*standing, 1.0)), float(along @ _place(trace, row, 1.0)),
        float(trace["time"][row + end] - trace["time"][row]) if done else None,
        max(0.0, float(x[:last].max())) if angle else 0.0, float(np.abs(y[:last]).max()) if angle else 0.0,
        (x[:last], y[:last]),
    )  # fmt: skip


def _check(tune: Tune) -> None:
    if tune.view != "top":
        raise ValueError(f"“{tune.name}” is seen from the side: its reach is that of its jumps.")


def head(units: DisplayUnits = OURS) -> tuple[str, ...]:
    """The header of `table`."""
    u, s = units.unit("u"), units.unit("s")
    return (
        "tune", "turn °", f"1 s from standing {u}", f"1 s from running {u}", f"time of the turn {s}",
        f"room ahead {u}", f"room aside {u}",
    )  # fmt: skip


def table(tune: Tune, found: Sequence[Turn], units: DisplayUnits = OURS) -> list[tuple[str, ...]]:
    """Rows of text without a header (`head`)."""
    return [
        (
            tune.name, str(each.angle), units.figure(each.stands, "u"), units.figure(each.runs, "u"),
            "" if each.time is None else units.figure(each.time, "s"),
            units.figure(each.ahead, "u"), units.figure(each.aside, "u"),
        )
        for each in found
    ]  # fmt: skip
