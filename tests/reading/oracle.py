"""The figures by the definitions of docs/model.md: plain loops over the plain reference, and ticks run in part.

Uses neither the kernel nor `reading/`.
"""

from __future__ import annotations

import copy
import math
from typing import Any

from cinetica.model.clock import Clock
from cinetica.model.course import Course
from cinetica.model.study import Drill
from cinetica.model.tune import Tune
from tests.reference import TINY, Runner

# Bisections of a tick.
FEW = 26


class Oracle:
    def __init__(self, tune: Tune, drill: Drill, clock: Clock) -> None:
        self.tune, self.drill, self.side = tune, drill, tune.view == "side"
        runner = _Noting(tune, drill, clock)
        self.rows = runner.run()
        self.before = runner.noted
        at_once = tune.put("input.key_attack", 0.0).put("input.key_release", 0.0)
        intents = [complex(row["intent_x"], row["intent_y"]) for row in Runner(at_once, drill, clock).run()]
        self.pushes = [complex(w.real, 0.0) if self.side else w for w in intents]
        self.top = tune.drive.top_speed

    # Within a tick

    def part(self, k: int, share: float, *, free: bool = False) -> Runner:
        """The reference after a share of the tick that ends in row k; `free`: without obstacles."""
        runner, arguments = self.before[k]
        runner = copied(runner)
        number, time, dt, *hands = arguments
        if runner.p["time_base"] == "frames":
            runner.p["reference_rate"] = runner.p["reference_rate"] / share
        if free:
            runner.drill = runner.drill.model_copy(update={"course": Course()})
        runner.tick(number, time, dt * share, *hands)
        return runner

    def when(self, k: int, done: Any) -> float:
        """The share of tick k after which `done` of the reference becomes true."""
        low, high = 0.0, 1.0
        for _ in range(FEW):
            middle = (low + high) / 2
            low, high = (low, middle) if done(self.part(k, middle)) else (middle, high)
        return high

    def time(self, k: int, share: float) -> float:
        return self.rows[k - 1]["time"] + share * self.rows[k]["dt"]

    def place(self, k: int, share: float) -> complex:
        a, b = (complex(self.rows[row]["x"], self.rows[row]["y"]) for row in (k - 1, k))
        return (
            self.part(k, share).at
            if self.tune.stepping.integrator == "midpoint" and 0 < share < 1
            else a + (b - a) * share
        )

    def speed(self, row: dict[str, Any]) -> float:
        return abs(row["vx"]) if self.side else math.hypot(row["vx"], row["vy"])

    def speed_of(self, runner: Runner) -> float:
        return abs(runner.v.real) if self.side else abs(runner.v)

    # Runs

    def runs(self) -> list[tuple[int, int]]:
        found, k = [], 1
        while k < len(self.rows):
            if self.pushes[k] == 0:
                k += 1
                continue
            end = k
            while end + 1 < len(self.rows) and (self.pushes[end + 1] * self.pushes[k].conjugate()).real > TINY:
                end += 1
            found.append((k, end))
            k = end + 1
        return found

    def figures(self) -> dict[str, float]:
        found: dict[str, float] = {}
        if self.top > 0:
            self._start(found)
            self._stop(found)
            self._turn(found)
        if self.side:
            self._jumps(found)
        return found

    def _start(self, found: dict[str, float]) -> None:
        level = 0.99 * self.top
        for start, end in self.runs():
            if self.speed(self.rows[start - 1]) > 0.01 * self.top + TINY:
                continue
            for k in range(start, end + 1):
                if self.speed(self.rows[k]) >= level - TINY:
                    share = self.when(k, lambda runner: self.speed_of(runner) >= level - TINY)
                    found["time_to_top_speed"] = self.time(k, share) - self.rows[start - 1]["time"]
                    return

    def _stop(self, found: dict[str, float]) -> None:
        slow = 0.01 * self.top
        for k in range(1, len(self.rows)):
            if self.pushes[k] != 0 or self.pushes[k - 1] == 0 or self.speed(self.rows[k - 1]) < 0.99 * self.top - TINY:
                continue
            for end in range(k, len(self.rows)):
                if self.pushes[end] != 0:
                    break
                if self.speed(self.rows[end]) <= slow + TINY:
                    share = self.when(end, lambda runner: self.speed_of(runner) <= slow + TINY)
                    found["stopping_time"] = self.time(end, share) - self.rows[k - 1]["time"]
                    gone = self.place(end, share) - complex(self.rows[k - 1]["x"], self.rows[k - 1]["y"])
                    found["stopping_distance"] = abs(gone.real) if self.side else abs(gone)
                    return

    def _turn(self, found: dict[str, float]) -> None:
        runs = self.runs()
        for k, end in runs[1:]:
            v = complex(self.rows[k - 1]["vx"], 0.0 if self.side else self.rows[k - 1]["vy"])
            if abs(v) < 0.99 * self.top - TINY or abs(v) <= TINY:
                continue
            if (v * self.pushes[k].conjugate()).real >= -0.5 * abs(v) * abs(self.pushes[k]):
                continue
            way = v / abs(v)

            def along(value: complex, way: complex = way) -> float:
                return value.real * way.real if self.side else (value * way.conjugate()).real

            begin = complex(self.rows[k - 1]["x"], self.rows[k - 1]["y"])
            for row in range(k, end + 1):
                now = along(complex(self.rows[row]["vx"], self.rows[row]["vy"]))
                if "turn_overshoot" not in found and now <= TINY:
                    shares = [n / 50 for n in range(1, 51)]
                    found["turn_overshoot"] = max(
                        0.0, *(along(self.place(each, share) - begin) for each in range(k, row + 1) for share in shares)
                    )
                if "turn_time" not in found and -now >= 0.99 * self.top - TINY:
                    share = self.when(row, lambda runner: -along(runner.v) >= 0.99 * self.top - TINY)
                    found["turn_time"] = self.time(row, share) - self.rows[k - 1]["time"]

    # Jumps

    def _jumps(self, found: dict[str, float]) -> None:
        whole = [
            pair for pair in (self._flight(k) for k, row in enumerate(self.rows) if "launch" in row["marks"]) if pair
        ]
        ground = [pair for pair in whole if "climb_off" not in self.rows[pair[0]]["marks"]]
        plain = [
            pair
            for pair in ground
            if not any("air_launch" in self.rows[k]["marks"] for k in range(pair[0], pair[1] + 1))
        ]
        heights = [self._height(*pair) for pair in plain]
        if plain:
            found["jump_height"], found["lowest_hop"], found["highest_hop"] = heights[0], min(heights), max(heights)
            self._first(found, *plain[0])
        for pair in ground:
            if pair not in plain:
                found.setdefault("air_jump_height", self._height(*pair))
        for pair in whole:
            if pair not in ground:
                found.setdefault("net_jump_height", self._height(*pair))

    def _flight(self, k: int) -> tuple[int, int] | None:
        if "land" in self.rows[k]["marks"]:
            return k, k
        for end in range(k + 1, len(self.rows)):
            marks = self.rows[end]["marks"]
            if marks & {"launch", "climb_on"}:
                return None
            if "land" in marks:
                return k, end
        return None

    def _height(self, k: int, end: int) -> float:
        shares = [n / 25 for n in range(1, 26)] if self.tune.stepping.integrator == "midpoint" else [1.0]
        return max(self.place(row, share).imag for row in range(k, end + 1) for share in shares) - self.rows[k - 1]["y"]

    def _free_y(self, k: int, share: float) -> float:
        """Height after a share of tick k without obstacles: linear, or the parabola of a linear velocity."""
        start, there = self.rows[k - 1]["y"], self.part(k, 1.0, free=True).at.imag
        if self.tune.stepping.integrator != "midpoint":
            return start + (there - start) * share
        old, new = self.part(k, 1e-9, free=True).v.imag, self.part(k, 1.0, free=True).v.imag
        h = 1 / self.tune.stepping.reference_rate if self.tune.stepping.time_base == "frames" else self.rows[k]["dt"]
        return start + (old + (new - old) * share / 2) * share * h

    def _first(self, found: dict[str, float], k: int, end: int) -> None:
        began = self.rows[k - 1]["time"]
        found["time_to_apex"] = self._apex(k, end) - began
        share = self._crossing(end, falling=True)
        found["air_time"] = self.time(end, share) - began
        found["jump_distance"] = abs(self.place(end, share).real - self.rows[k - 1]["x"])
        old, new = self.part(end, 1e-9, free=True).v.imag, self.part(end, 1.0, free=True).v.imag
        found["landing_speed"] = -(old + (new - old) * share)

    def _crossing(self, k: int, *, falling: bool) -> float:
        """The share of tick k after which the free path reaches the position at its end; 1 if it never goes beyond."""
        y, whole = self.rows[k]["y"], self._free_y(k, 1.0)
        if (whole >= y - TINY) if falling else (whole <= y + TINY):
            return 1.0
        low, high = 0.0, 1.0
        for _ in range(FEW):
            middle = (low + high) / 2
            there = self._free_y(k, middle)
            low, high = (low, middle) if (there <= y if falling else there >= y) else (middle, high)
        return high

    def _apex(self, k: int, end: int) -> float:
        for row in range(k, end + 1):
            bumps = "bump" in self.rows[row]["marks"]
            if self.rows[row]["vy"] > TINY and not bumps:
                continue
            old, new = self.part(row, 1e-9, free=True).v.imag, self.part(row, 1.0, free=True).v.imag
            still = 0.0 if old <= TINY else min(1.0, old / (old - new)) if new < old else 1.0
            return self.time(row, min(still, self._crossing(row, falling=False)) if bumps else still)
        raise AssertionError("it lands without an apex")


def copied(runner: Runner) -> Runner:
    """A reference that can continue by itself."""
    kept = copy.copy(runner)
    kept.keys, kept.since, kept.pressed_at, kept.p = (
        list(runner.keys),
        dict(runner.since),
        dict(runner.pressed_at),
        dict(runner.p),
    )
    return kept


class _Noting(Runner):
    """Keeps the state before each tick."""

    def __init__(self, tune: Tune, drill: Drill, clock: Clock) -> None:
        super().__init__(tune, drill, clock)
        self.noted: dict[int, tuple[Runner, tuple[Any, ...]]] = {}

    def tick(self, number: int, time: float, dt: float, *rest: Any) -> dict[str, Any]:
        noted, self.noted = self.noted, {}
        kept = copied(self)
        kept.__class__ = Runner
        self.noted = noted
        self.noted[number] = (kept, (number, time, dt, *rest))
        return super().tick(number, time, dt, *rest)
