"""The plain reference, continued: zones, shoves, walls, dashes, drawn curves, steps, probes, late contact.

Written from docs/model.md, like `reference`.
"""

from __future__ import annotations

import math
from typing import Any

TINY = 1e-9
INF = math.inf


def norm(v: complex) -> float:
    return math.sqrt(v.real * v.real + v.imag * v.imag)


def clear(v: complex) -> complex:
    return complex(0.0 if abs(v.real) <= TINY else v.real, 0.0 if abs(v.imag) <= TINY else v.imag)


class ZonesAndWalls:
    """The rules of `Runner` on zones, walls, dashes, shoves, curves and the rarer kinds of contact."""

    def begin_zones_and_walls(self) -> None:
        self.since |= dict.fromkeys(("shove", "wall", "wall_jump", "dash", "dash_end", "dash_press"), INF)
        self.since |= dict.fromkeys((f"tap {key}" for key in ("left", "right", "up", "down")), INF)
        self.timers: list[float] = []
        self.air_dashes = self.p["dash_air_dashes"]
        self.dashing = self.dash_armed = False
        self.dash_way = 0j
        self.shoved: complex | None = None
        self.modified = False
        self.blocks = {}
        self.seen = self.at
        self.feel_zones()
        # -1 at a wall on the left, 1 at one on the right, 0 at none.
        self.on_wall = self.wall_side = 0
        self.feel_walls()
        if self.on_wall:
            self.since["wall"] = 0.0

    # Zones

    def feel_zones(self) -> None:
        self.zone = {"speed": 1.0, "acceleration": 1.0, "friction": 1.0, "gravity": 1.0}
        self.drag, self.push_of_zones = 0.0, 0j
        for zone in self.drill.course.zones:
            if min(self.overlap_of(zone.box)) > TINY:
                self.zone = {name: factor * getattr(zone, name) for name, factor in self.zone.items()}
                self.drag += zone.drag
                self.push_of_zones += complex(*zone.push)

    def push_and_drag(self, h: float) -> None:
        self.v = (self.v + self.push_of_zones * h) * math.exp(-self.drag * h)

    # Drawn curves

    def drawn(self, curve: str, speed: float, top: float) -> float:
        points = self.p[curve]
        return self.on_curve(points, speed / top if top > 0 else INF)

    def on_curve(self, points: Any, x: float) -> float:
        if x >= points[-1][0]:
            return points[-1][1]
        if x <= points[0][0]:
            return points[0][1]
        (x0, y0), (x1, y1) = next(pair for pair in zip(points, points[1:], strict=False) if x <= pair[1][0])
        return y0 + (y1 - y0) * (x - x0) / (x1 - x0)

    # Shoves

    def shoves_by_tick(self, frames: list[Any]) -> dict[int, complex]:
        """Each shove in the first tick of a frame of the game that begins at its frame of the take or later."""
        begun = [frame for frame, ticks in frames for _ in ticks]
        found: dict[int, complex] = {}
        for frame, vx, vy in self.drill.take.shoves:
            later = [number for number, begins in enumerate(begun, 1) if begins >= frame]
            if later and frame < self.drill.take.length:
                found[later[0]] = found.get(later[0], 0j) + complex(vx, vy)
        return found

    def shove(self, marks: set[str]) -> None:
        if self.shoved is None:
            return
        if self.climbing:
            self.climbing = False
            marks.add("climb_off")
        if self.dashing:
            self.end_dash(marks)
        self.v += self.shoved
        self.since["shove"] = 0.0
        marks.add("shove")
        self.take_over()

    # Walls

    def knows_walls(self) -> bool:
        return self.side and (self.p["wall_slide_speed"] > 0 or self.p["wall_jump_speed"] > 0)

    def feel_walls(self) -> None:
        self.on_wall = 0
        if not self.knows_walls() or self.grounded or self.climbing or self.dashing:
            return
        left, bottom, right, top = self.box(self.at)
        sides = set()
        for r in self.drill.course.solids:
            if min(top, r[3]) - max(bottom, r[1]) >= self.p["height"] / 2 - TINY:
                for side, gap in ((-1, left - r[2]), (1, r[0] - right)):
                    if -TINY <= gap <= self.p["wall_probe"] + TINY and self.v.real * side >= -TINY:
                        sides.add(side)
        if sides:
            self.on_wall = 1 if sides == {1} or (1 in sides and self.w.real > 0) else -1
            self.wall_side = self.on_wall

    def slide_down_wall(self) -> None:
        slowest = self.p["wall_slide_speed"]
        if slowest > 0 and self.on_wall and self.w.real * self.on_wall > 0:
            self.v = complex(self.v.real, max(self.v.imag, -slowest))

    def leaps_off_wall(self) -> bool:
        p = self.p
        near = self.since["wall"] <= p["wall_coyote"] + TINY
        return self.knows_walls() and p["wall_jump_speed"] > 0 and not self.grounded and self.armed and near

    # Dash

    def taps(self, newly: set[str], h: float) -> bool:
        twice = False
        for key in newly & {"left", "right", "up", "down"}:
            name = f"tap {key}"
            second = self.since[name] <= self.p["dash_double_tap"] + TINY
            self.since[name] = INF if second else 0.0
            twice = twice or second
        return twice

    def leave_dash(self, marks: set[str]) -> None:
        self.dashing = False
        self.since["dash_end"] = 0.0
        marks.add("dash_end")
        self.take_over()

    def end_dash(self, marks: set[str]) -> None:
        p = self.p
        self.leave_dash(marks)
        top = p["top_speed"] * (p["modifier_speed"] if self.modified else 1) * self.zone["speed"]
        if p["dash_exit"] == "stop":
            self.v = 0j
        elif p["dash_exit"] == "top" and norm(self.v) > top:
            self.v *= top / norm(self.v)
        self.take_over()

    def dash(self, marks: set[str], pressed: bool) -> None:
        p, since = self.p, self.since
        if p["dash_speed"] <= 0:
            return
        if self.dashing and since["dash"] >= p["dash_time"] - TINY:
            self.end_dash(marks)
        if pressed:
            self.dash_armed, since["dash_press"] = True, 0.0
        elif self.dash_armed and since["dash_press"] > p["dash_buffer"] + TINY:
            self.dash_armed = False
            marks.add("lost_dash")
        cool = not self.dashing and since["dash_end"] >= p["dash_cooldown"] - TINY
        if self.dash_armed and cool and (self.grounded or self.air_dashes > 0):
            self.dashing, self.dash_armed, since["dash"] = True, False, 0.0
            self.air_dashes -= 0 if self.grounded else 1
            marks |= {"dash"} | ({"climb_off"} if self.climbing else set())
            self.climbing = self.open = self.passes = False
            self.dash_way = self.way_of_dash()
        if self.dashing:
            self.v, self.omega = p["dash_speed"] * self.dash_way, 0.0

    def way_of_dash(self) -> complex:
        p = self.p
        nose = math.radians(self.facing)
        way = complex(math.cos(nose), math.sin(nose))
        if self.side:
            way = complex(1 if abs(self.facing) <= 90 + math.degrees(TINY) else -1)
        if self.w != 0 and p["law"] != "steer" and p["dash_aim"] != "facing":
            way = self.w
        if p["dash_aim"] == "eight":
            eighth = math.floor((math.atan2(way.imag, way.real) + TINY) / (math.pi / 4) + 0.5) * math.pi / 4
            way = complex(math.cos(eighth), math.sin(eighth))
        return clear(way / norm(way))

    def stop_dash_at_wall(self, marks: set[str]) -> None:
        if self.dashing and "wall" in marks:
            self.end_dash(marks)

    def settle_zones_and_walls(self, marks: set[str], h: float) -> None:
        before = bool(self.on_wall)
        self.feel_walls()
        if before != bool(self.on_wall):
            marks.add("wall_on" if self.on_wall else "wall_off")

    # Contact

    def go_x(self, d: float, lift: float, walks: bool) -> bool:
        """Move along x, up steps if the body walks; returns whether a solid blocked it."""
        p, start = self.p, self.at
        blocked = self.go(0, d, lift=lift)
        while blocked and walks and p["step_height"] > 0 and p["sweep"] == "swept":
            left, feet, right, head = self.box(self.at)
            face, near = (right, 0) if d > 0 else (left, 2)
            tops = [
                r[3]
                for r in self.drill.course.solids
                if abs(r[near] - face) <= TINY and r[1] < head - TINY and r[3] > feet + lift + TINY
            ]
            stopped = self.at
            rise = max(tops, default=INF) - feet
            if rise > p["step_height"] + TINY or self.go(1, rise):
                self.at = stopped
                break
            again = self.go(0, start.real + d - stopped.real)
            if abs(self.at.real - stopped.real) <= TINY:
                self.at = stopped
                break
            blocked, lift = again, 0.0
        if blocked:
            self.blocks[0] = start.real + d
            self.at = complex(self.in_pixels(start.real, self.at.real), self.at.imag)
        return blocked

    def in_pixels(self, start: float, end: float) -> float:
        pixel = self.p["pixel"]
        if pixel <= 0:
            return end
        return start + math.copysign(math.floor(abs(end - start) / pixel + TINY) * pixel, end - start)

    def stop_y(self, start: complex, dy: float) -> None:
        """A block on y: where the body ends, and what a late row shows."""
        self.blocks[1] = start.imag + dy
        self.at = complex(self.at.real, self.in_pixels(start.imag, self.at.imag))

    def half_probe(self) -> float:
        return (self.p["probe_width"] or self.p["width"]) / 2

    def is_over_top(self) -> bool:
        """Whether the probe is above something that counts as ground."""
        return self.height_over_tops(self.half_probe()) <= self.p["ground_probe"] + TINY

    def show_late(self, before: complex, across: float) -> None:
        """The row under late contact: the whole displacement, at the velocity from before."""
        self.seen = self.at
        if not self.p["late"] or not self.blocks:
            return
        self.seen = complex(self.blocks.get(0, self.at.real), self.blocks.get(1, self.at.imag))
        vx, vy = self.shown.real, self.shown.imag
        stops_all = self.p["wall"] == "stop"
        if 0 in self.blocks or (1 in self.blocks and stops_all and not self.side):
            vx = before.real * across
        if (0 in self.blocks and stops_all) or (1 in self.blocks and (not self.side or self.v.imag == 0)):
            vy = before.imag
        self.shown = complex(vx, vy)
