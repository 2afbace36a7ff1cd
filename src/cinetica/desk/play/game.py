"""Real time: as many ticks as are due, with the current input, and an honest report if the machine is too slow."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence

from cinetica.model.study import Drill
from cinetica.model.tune import Tune
from cinetica.model.world_size import world_size
from cinetica.motion.live import NOTHING_HELD, Held, LiveRun
from cinetica.motion.records import GROUND, start_of

SPEEDS = (1.0, 0.5, 0.25)
# After a stall, time beyond this is dropped rather than caught up with, and that is reported.
LONGEST_CATCH_UP = 0.25
# A fall ends this far below the lowest solid, in u, for a body of the usual size.
DEEP = 12.0
KEEP = 10.0
# How many seconds of rest are kept at the end of a take.
AFTERWARDS = 0.5


class Game:
    """One character with its shadows on a course. `advance_to` is given the time; nothing here reads a clock."""

    def __init__(self, hands: Callable[[], Held] = lambda: NOTHING_HELD) -> None:
        self.hands = hands
        self.live: LiveRun | None = None
        self.drill: Drill | None = None
        self.speed = SPEEDS[0]
        self.paused = True
        self.dropped = 0
        self._then = 0.0
        self._due = 0.0
        self._ground = (0.0, 0.0)
        self._recorded_from: int | None = None

    def begin(self, tunes: Sequence[Tune], drill: Drill, tick_rate: float) -> None:
        """Start at rest at the start of a drill."""
        self.drill = drill
        self._start_run(tunes, start_of(drill), tick_rate)

    def _start_run(self, tunes: Sequence[Tune], at: Sequence[float], tick_rate: float) -> None:
        assert self.drill is not None
        self.live = LiveRun(tunes, self.drill.course, at, tick_rate)
        self._ground = (at[0], at[1])
        self._due = 0.0
        self._recorded_from = 0 if self._recorded_from is not None else None

    def respawn(self) -> None:
        """Return to the start."""
        if self.live is not None and self.drill is not None:
            self._start_run(self.live.tunes, start_of(self.drill), self.live.tick_rate)

    def resume(self, now: float) -> None:
        """Resume at this time, in s."""
        self.paused, self._then = False, now

    def pause(self) -> None:
        """Pause."""
        self.paused = True

    def advance_to(self, now: float) -> int:
        """Run the ticks due at this time, in s; returns how many there were."""
        if self.live is None or self.paused:
            return 0
        passed, self._then = now - self._then, now
        rate = self.live.tick_rate
        if passed > LONGEST_CATCH_UP:
            self.dropped += round((passed - LONGEST_CATCH_UP) * self.speed * rate)
            passed = LONGEST_CATCH_UP
        self._due += passed * self.speed * rate
        ticks = int(self._due + 1e-9)
        self._due -= ticks
        for _ in range(ticks):
            self.step()
        return ticks

    def step(self) -> None:
        """Run one tick with the keys held."""
        if self.live is None:
            return
        self.live.tick(self.hands())
        row = self.live.trace(0)[-1]
        if row["state"] == GROUND and row["vx"] == 0:
            self._ground = (float(row["x"]), float(row["y"]))
        self._catch_a_fall(float(row["y"]))

    def _catch_a_fall(self, y: float) -> None:
        """Return to where the body last stood still on solid ground."""
        assert self.live is not None
        assert self.drill is not None
        solids = (*self.drill.course.solids, *self.drill.course.oneway)
        bottoms = [solid.bottom for solid in solids] + [min(slope.y0, slope.y1) for slope in self.drill.course.slopes]
        if self.drill.view == "side" and bottoms and y < min(bottoms) - DEEP * world_size(self.live.tunes[0]):
            self._start_run(self.live.tunes, self._ground, self.live.tick_rate)

    @property
    def share(self) -> float:
        """The share of the next tick that has passed: what is drawn lies between two rows."""
        return min(1.0, max(0.0, self._due))

    # Recording

    @property
    def recording(self) -> bool:
        """Whether a take is being recorded."""
        return self._recorded_from is not None

    def record(self) -> None:
        """Start recording, at rest at the start of the course, so that running the take repeats the performance."""
        self.respawn()
        self._recorded_from = 0

    def stop_recording(self, name: str) -> Drill | None:
        """The recorded drill, without the idle ticks at its beginning."""
        first, self._recorded_from = self._recorded_from, None
        return None if first is None else self._drill_from(first, name)

    def last_seconds(self, name: str) -> Drill | None:
        """The last ten seconds as a drill.

        It begins at the last time before them at which the body stood still and undisturbed.
        """
        if self.live is None:
            return None
        return self._drill_from(max(0, self.live.rows - 1 - round(KEEP * self.live.tick_rate)), name)

    def _drill_from(self, first: int, name: str) -> Drill | None:
        live, drill = self.live, self.drill
        if live is None or drill is None or live.rows < 2:
            return None
        begin, last = live.beginning(first), live.ending(round(AFTERWARDS * live.tick_rate))
        begin = min(begin, last - 1)
        note = f"Played on {drill.name} at {live.tick_rate:g} ticks/s with {live.tunes[0].name}."
        return Drill(
            name=name,
            note=note,
            view=drill.view,
            **live.start_at(begin),
            course=drill.course,
            take=live.take(begin, last),
        )


def now() -> float:
    """The current time, in s."""
    return time.perf_counter()
