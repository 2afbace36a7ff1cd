"""The plain reference, continued: slopes, dropping through, the camera.

Written from docs/model.md, sections 8 and 9, like `reference`.
"""

from __future__ import annotations

import math
from typing import Any

TINY = 1e-9
INF = math.inf


class Line:
    def __init__(self, ends: Any) -> None:
        self.x0, self.y0, self.x1, self.y1 = ends
        self.m = (self.y1 - self.y0) / (self.x1 - self.x0)
        self.angle = math.degrees(math.atan2(self.y1 - self.y0, self.x1 - self.x0))

    def at(self, x: float) -> float:
        """Its height, constant beyond its ends."""
        return self.y0 if x <= self.x0 else self.y1 if x >= self.x1 else self.y0 + (x - self.x0) * self.m

    def holds(self, x: float) -> bool:
        return self.x0 - TINY <= x <= self.x1 + TINY


class OnLines:
    """What `Runner` does on a course with lines. `line` is the one at the start of the tick."""

    def begin_lines(self) -> None:
        self.lines = [Line(ends) for ends in self.drill.course.slopes] if self.p["sweep"] != "none" else []
        self.lines = self.lines if self.side else []
        self.line: Line | None = None
        self.slid: Line | None = None
        self.rate = 0.0
        self.passing: list[Any] = []
        self.camera = self.at
        self.lead = 0j

    def can_walk(self, line: Line) -> bool:
        return abs(line.angle) <= self.p["max_slope"] + math.degrees(TINY)

    def walkable_within(self, reach: float) -> Line | None:
        """The highest walkable line from the feet down to `reach` below them, the first of equals."""
        x, y = self.at.real, self.at.imag
        near = [
            line
            for line in self.lines
            if self.can_walk(line) and line.holds(x) and -TINY <= y - line.at(x) <= reach + TINY
        ]
        top = max((line.at(x) for line in near), default=-INF)
        return next((line for line in near if line.at(x) >= top - TINY), None)

    def stood_on(self) -> Line | None:
        return self.walkable_within(self.p["ground_probe"]) if self.grounded else None

    # Contact

    def met(self, start: complex, lines: list[Line]) -> Line | None:
        """The highest line that the feet are now below and were not before."""
        x, y = self.at.real, self.at.imag
        was = start
        if self.line is not None and x > self.line.x1:
            was = complex(self.line.x1, max(self.line.y1, start.imag))
        if self.line is not None and x < self.line.x0:
            was = complex(self.line.x0, max(self.line.y0, start.imag))
        under = [
            line for line in lines if line.holds(x) and y < line.at(x) - TINY and was.imag >= line.at(was.real) - TINY
        ]
        top = max((line.at(x) for line in under), default=-INF)
        level = [line for line in under if line.at(x) >= top - TINY]
        return next((line for line in level if self.can_walk(line)), level[0] if level else None)

    def set_down(self, y: float) -> None:
        self.at = complex(self.at.real, y)
        self.v = complex(self.v.real, 0)
        self.grounded, self.hovers = True, False

    def move_on_lines(self, way: complex, marks: set[str], h: float) -> None:
        p, start, was, was_on, old_rate = self.p, self.at, self.grounded, self.line, self.rate
        walks = was and not self.launched and not self.climbing
        on = self.line
        pace = math.cos(math.radians(on.angle)) if on and walks and p["slope_pace"] == "along" else 1.0
        dx = way.real * pace
        low = abs(on.m) * p["width"] / 2 if on else 0.0
        self.low_sides = low
        rise = max(0.0, on.at(start.real + dx) - on.at(start.real)) if on and walks else 0.0
        v = self.v
        blocked = self.go_x(dx, low + rise, walks)
        gained = 0.0
        if on and walks and on.at(self.at.real) > self.at.imag:
            before = self.at
            if self.go(1, on.at(before.real) - before.imag, bare=True):
                self.at, blocked = start, True
                self.blocks[0] = start.real + dx
            else:
                gained = on.at(before.real) - before.imag
                self.at = complex(before.real, before.imag + gained)
        if blocked:
            marks.add("wall")
            self.v = complex(0, 0 if p["wall"] == "stop" else self.v.imag)
        below = self.go_y(way.imag, marks) if not (blocked and p["wall"] == "stop") else False
        box = self.at
        self.grounded, self.hovers, self.slid = below, False, None
        self.feel(start, walks, gained, marks)
        if self.slid is None:
            if not self.grounded:
                self.look_for_ground()
            if walks and self.v.imag <= TINY:
                self.snap()
        self.keep_clear(start, on, low, marks)
        self.line = self.stood_on()
        stands = self.line is not None
        self.rate = (self.at.imag - start.imag) / h if was and stands else 0.0
        if walks and was_on is not None and not self.grounded and self.slid is None:
            self.v += complex(0, p["slope_carry"] * old_rate)
        self.slow_late()
        self.stop_dash_at_wall(marks)
        self.shown = complex(self.v.real * pace, self.rate if stands else self.v.imag)
        for axis, (at, was_at) in enumerate(((self.at.real, box.real), (self.at.imag, box.imag))):
            if at != was_at:
                self.blocks.pop(axis, None)
        self.show_late(v, pace)
        self.low_sides = max(low, abs(self.line.m) * p["width"] / 2 if self.line else 0.0)
        if self.slid is not None:
            self.low_sides = max(low, abs(self.slid.m) * p["width"] / 2)

    def feel(self, start: complex, walks: bool, gained: float, marks: set[str]) -> None:
        line = self.met(start, self.lines)
        if line is None:
            return
        uphill = line.m * (self.at.real - start.real) > 0
        if not self.can_walk(line) and walks and uphill:
            on = self.line
            lower = line.x0 if line.m > 0 else line.x1
            places = [lower, self.crossing(line, start.imag), start.real]
            stop = min(max(places), self.at.real) if line.m > 0 else max(min(places), self.at.real)
            carried = max(0.0, on.at(stop) - start.imag) if on else 0.0
            self.at = complex(stop, self.at.imag - gained + carried)
            self.v = complex(0, self.v.imag)
            marks.add("wall")
            line = self.met(start, [line for line in self.lines if self.can_walk(line)])
            if line is None:
                return
        self.rest_on(line)

    def keep_clear(self, start: complex, on: Line | None, low: float, marks: set[str]) -> None:
        """Ensure that no tick ends with the feet below a line that they were above, or the box in a new solid."""
        rests_on = self.slid or self.stood_on()
        lift = max(low, abs(rests_on.m) * self.p["width"] / 2 if rests_on else 0.0)

        def box(at: complex) -> tuple[float, float, float, float]:
            left, feet, right, head = self.box(at)
            return left, feet + lift, right, head

        def inside(at: complex, r: Any) -> bool:
            left, bottom, right, top = box(at)
            return min(right - r[0], r[2] - left, top - r[1], r[3] - bottom) > TINY

        def entered(at: complex) -> list[Any]:
            return [r for r in self.drill.course.solids if inside(at, r) and not inside(start, r)]

        def under(at: complex) -> Line | None:
            here, self.at = self.at, at
            line = self.met(start, self.lines)
            if line is None:
                ground, self.line = self.line, None
                line = self.met(start, self.lines)
                self.line = ground
            self.at = here
            return line

        def allowed(at: complex) -> bool:
            return under(at) is None and not entered(at)

        if allowed(self.at):
            return
        x, line = self.at.real, under(self.at)
        top = max((r[3] for r in entered(self.at)), default=INF)
        if top <= start.imag + TINY and allowed(complex(x, top)):
            self.set_down(top)
            self.slid = None
            if self.p["probe_width"] > 0:
                self.grounded = False
                self.look_for_ground()
        elif line is not None and allowed(complex(x, line.at(x))):
            self.rest_on(line)
        else:
            marks.add("wall")
            self.slid, self.grounded = None, False
            self.v = complex(0, self.v.imag)
            self.at = complex(start.real, self.at.imag)
            if not allowed(self.at):
                self.at, self.v = start, 0j
            self.look_for_ground()

    def rest_on(self, line: Line) -> None:
        """Put the feet on a line: standing if it is walkable, else sliding."""
        if self.can_walk(line):
            self.set_down(line.at(self.at.real))
            self.slid = None
            return
        along = complex(math.cos(math.radians(line.angle)), math.sin(math.radians(line.angle)))
        self.v = (self.v * along.conjugate()).real * along
        self.at = complex(self.at.real, line.at(self.at.real))
        self.grounded, self.slid = False, line

    def crossing(self, steep: Line, height: float) -> float:
        """Where a steep line rises from the ground: from the line that is walked on, or from the height of the feet."""
        on = self.line
        if on is None:
            return steep.x0 + (height - steep.y0) / steep.m
        x = (on.y0 - on.m * on.x0 - steep.y0 + steep.m * steep.x0) / (steep.m - on.m)
        level = on.y0 if x < on.x0 else on.y1 if x > on.x1 else None
        return x if level is None else steep.x0 + (level - steep.y0) / steep.m

    def tops(self) -> list[Any]:
        return [
            r
            for r in (*self.drill.course.solids, *self.drill.course.oneway)
            if r not in self.passing and r[3] <= self.at.imag + TINY
        ]

    def snap(self) -> None:
        x, y, p = self.at.real, self.at.imag, self.p
        if any(line.holds(x) and abs(line.at(x) - y) <= TINY for line in self.lines):
            return
        top = max((r[3] for r in self.tops() if r[0] - TINY <= x <= r[2] + TINY), default=-INF)
        if y - top <= TINY:
            return
        line = self.walkable_within(p["ground_snap"])
        if line is not None and line.at(x) >= top - TINY:
            to, lift = line.at(x), abs(line.m) * p["width"] / 2
        elif self.line is not None and y - top <= p["ground_snap"] + TINY and self.height_over_tops() > TINY:
            to, lift = top, 0.0
        else:
            return
        if p["step_height"] == 0 or not self.enters(to, lift):
            self.set_down(to)

    def enters(self, to: float, lift: float) -> bool:
        """Whether the body would be in a solid at this height that it is outside of."""

        def inside(feet: float, r: Any) -> bool:
            left, _, right, _ = self.box(self.at)
            return min(right - r[0], r[2] - left, feet + self.p["height"] - r[1], r[3] - feet - lift) > TINY

        return any(inside(to, r) and not inside(self.at.imag, r) for r in self.drill.course.solids)

    # Dropping through

    def drop(self, pressed: bool, down: bool) -> bool:
        """Begin to drop through if requested; returns whether the press is used up."""
        p, how = self.p, self.p["drop_through"]
        if how == "none" or not down or (how == "down_jump" and not pressed) or not self.grounded or self.climbing:
            return False
        left, feet, right, _ = self.box(self.at)
        under = [
            r
            for r in (*self.drill.course.solids, *self.drill.course.oneway)
            if r[0] < right - TINY and r[2] > left + TINY and -TINY <= feet - r[3] <= p["ground_probe"] + TINY
        ]
        if not under or any(r in self.drill.course.solids for r in under) or self.stood_on() is not None:
            return False
        self.passing, self.spent = under, True
        return how == "down_jump"

    def end_drop(self) -> None:
        left, feet, right, head = self.box(self.at)
        reach = self.p["ground_probe"]
        inside = [
            r
            for r in self.passing
            if r[0] < right - TINY and r[2] > left + TINY and feet <= r[3] + reach + TINY and head > r[1] + TINY
        ]
        if self.grounded or not inside:
            self.passing = []

    # Camera

    def follow(self, h: float) -> None:
        p = self.p
        self.lead += (p["look_ahead"] * self.shown - self.lead) * (1 - math.exp(-p["look_ahead_rate"] * h))
        gap = self.seen + self.lead - self.camera
        half = complex(p["window_width"], p["window_height"]) / 2
        outside = [
            math.copysign(max(0.0, abs(part) - room), part)
            for part, room in ((gap.real, half.real), (gap.imag, half.imag))
        ]
        if self.side and p["follow_height"] == "grounded":
            under = self.seen.imag < self.camera.imag - half.imag - TINY
            if not (self.grounded or self.climbing or under):
                outside[1] = 0.0
        error = complex(*outside)
        if p["follow"] == "locked":
            self.camera += error
        elif p["follow"] == "ease":
            rate = p["follow_rate"] * h
            self.camera += error * (1 - math.exp(-rate) if p["follow_form"] == "exact" else min(1.0, rate))
        elif p["follow"] == "constant":
            far = abs(error)
            self.camera += error if far <= p["follow_speed"] * h + TINY else error / far * p["follow_speed"] * h
