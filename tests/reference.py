"""An independent, plain implementation of the model: one dictionary, one loop, no regard for speed.

Written from the rules of docs/model.md and not from the kernel, so that a mistake in either shows
as a difference between the two.
"""

from __future__ import annotations

import math
from typing import Any

from cinetica.model.clock import Clock
from cinetica.model.study import Drill
from cinetica.model.tune import Tune
from tests.reference_lines import OnLines
from tests.reference_zones_and_walls import ZonesAndWalls

TINY = 1e-9
INF = math.inf


def run_reference(tune: Tune, drill: Drill, clock: Clock) -> list[dict[str, Any]]:
    """One dictionary of columns for each row; `marks` is a set."""
    return Runner(tune, drill, clock).run()


def norm(v: complex) -> float:
    return math.sqrt(v.real * v.real + v.imag * v.imag)


def clear(v: complex) -> complex:
    """Set each axis to 0 if it is within the slack of 0."""
    return complex(0.0 if abs(v.real) <= TINY else v.real, 0.0 if abs(v.imag) <= TINY else v.imag)


def approach(value: complex, target: complex, step: float) -> complex:
    gap = norm(target - value)
    return target if gap <= step + TINY else value + (target - value) / gap * step


def arc(angle: float) -> float:
    """In degrees, within (-180, 180]; -180 within the slack becomes 180."""
    angle = math.fmod(angle, 360)
    slack = math.degrees(TINY)
    return angle - 360 if angle > 180 + slack else angle + 360 if angle <= -180 + slack else angle


class Runner(OnLines, ZonesAndWalls):
    def __init__(self, tune: Tune, drill: Drill, clock: Clock) -> None:
        self.p = {
            id.replace(".", "_") if id.startswith(("wall.", "dash.", "pose.")) else id.partition(".")[2]: value
            for id, value in tune.values().items()
        }
        self.side = tune.view == "side"
        self.drill, self.clock = drill, clock
        self.at = complex(*drill.start)
        self.v = self.shown = complex(*drill.start_velocity)
        self.begin_lines()
        self.grounded = not self.side or self.height_over_ground() <= self.p["ground_probe"] + TINY
        if self.side and self.v.imag > TINY:
            self.grounded = False
        self.hovers = self.side and self.grounded and self.height_over_ground() > TINY
        self.line = self.stood_on() if self.grounded else None
        self.low_sides = abs(self.line.m) * self.p["width"] / 2 if self.line else 0.0
        self.since = {"ground": 0.0 if self.grounded else INF, "press": INF, "launch": INF, "net": INF}
        self.armed = self.spent = self.open = self.passes = self.climbing = False
        self.air_jumps = self.p["air_jumps"]
        self.pressed_at: dict[str, int] = {}
        self.held_before: set[str] = set()
        self.keys = [0.0, 0.0]
        self.w = 0j
        self.through_zero = self.used = self.aims = False
        self.throttle, self.heading = 0.0, 0j
        self.take_over()
        self.omega = self.bank = self.leaning = self.facing = self.yaw = self.pitch = 0.0
        self.aimed, self.since_aim = 0j, math.inf
        self.facing = self.last_source = arc(drill.start_heading)
        self.late: list[tuple[str, float]] = []
        self.begin_zones_and_walls()
        self.state = self.name_of_state()

    # Input

    def frames(self) -> list[tuple[int, list[tuple[Any, ...]]]]:
        """For each frame the take's frame that is read, and its ticks as (dt, pressed, released, dash pressed)."""
        c, take = self.clock, self.drill.take
        made: list[tuple[int, list[tuple[Any, ...]]]] = []
        rate = c.tick_rate if c.mode == "locked" else c.frame_rate
        now, left, before, count = 0.0, 0.0, [False, False], 0
        kept = [False, False, False]
        hitches = sorted(c.hitches)
        while now < take.length / take.rate - TINY:
            length = 1 / rate
            while c.mode != "locked" and hitches and hitches[0][0] < now + length - TINY:
                length += hitches.pop(0)[1]
            frame = math.floor(now * take.rate + 1e-6)
            held = [any(a <= frame < b for a, b in key) for key in (take.keys.jump, take.keys.dash)]
            flags = (held[0] and not before[0], before[0] and not held[0], held[1] and not before[1])
            before = held
            kept = [each or flag for each, flag in zip(kept, flags, strict=True)]
            ticks = []
            if c.mode == "fixed":
                left += min(length, c.max_dt)
                while left >= 1 / c.tick_rate - TINY:
                    left -= 1 / c.tick_rate
                    ticks.append((1 / c.tick_rate, *(flags if c.read == "tick" else kept)))
                    kept = [False, False, False]
            else:
                ticks.append((length if c.mode == "locked" else min(length, c.max_dt), *flags))
            made.append((frame, ticks))
            count += 1
            now = count / rate if c.mode == "locked" or not c.hitches else now + length
        return made

    def hands(self, frame: int) -> dict[str, Any]:
        take = self.drill.take
        held = {key for key in type(take.keys).model_fields if any(a <= frame < b for a, b in getattr(take.keys, key))}
        sticks = {}
        for name in ("stick", "aim"):
            pushes = [push for push in sorted(getattr(take, name), key=lambda push: push.frame) if push.frame <= frame]
            sticks[name] = complex(pushes[-1].x, pushes[-1].y) if pushes else 0j
        return {"held": held, **sticks}

    def shaped(self, stick: complex) -> complex:
        p = self.p

        def zone(m: float) -> float:
            if m <= p["dead_zone"] + TINY:
                return 0.0
            if m >= 1 - p["outer_zone"] - TINY:
                return 1.0
            return (m - p["dead_zone"]) / (1 - p["outer_zone"] - p["dead_zone"]) if p["dead_zone_rescale"] else m

        if p["dead_zone_shape"] == "axial":
            stick = complex(
                math.copysign(zone(abs(stick.real)), stick.real), math.copysign(zone(abs(stick.imag)), stick.imag)
            )
        elif p["dead_zone_shape"] == "radial" and norm(stick) > 0:
            stick = stick / norm(stick) * zone(norm(stick))
        m = norm(stick)
        if 0 < m <= 1 + TINY:
            given = self.on_curve(p["response"], m) if p["response"] != ((0, 0), (1, 1)) else m
            stick, m = stick / m * given, given
        return clear(stick / m * m ** p["curve"] if 0 < m <= 1 + TINY else stick)

    def intend(self, hands: dict[str, Any], tick: int, h: float) -> tuple[complex, complex]:
        p = self.p
        for key in hands["held"] - self.held_before:
            self.pressed_at[key] = tick
        self.held_before = hands["held"]
        directions = []
        for number, (minus, plus) in enumerate((("left", "right"), ("down", "up"))):
            both = minus in hands["held"] and plus in hands["held"]
            direction = float(plus in hands["held"]) - float(minus in hands["held"])
            if both and p["opposed"] != "cancel":
                late = self.pressed_at[plus] - self.pressed_at[minus]
                direction = math.copysign(1, late) * (1 if p["opposed"] == "latest" else -1) if late else 0.0
            directions.append(direction)
            value = self.keys[number]
            if p["key_reverse_reset"] and value * direction < 0:
                value = 0.0
            seconds = p["key_attack"] if direction else p["key_release"]
            self.keys[number] = (
                clear(approach(complex(value), complex(direction), h / seconds)).real if seconds > 0 else direction
            )
        through = [direction != 0 and key == 0 for direction, key in zip(directions, self.keys, strict=True)]
        self.through_zero = through[0] or (through[1] and not self.side)
        raw, w = complex(*directions), complex(*self.keys)
        stick = self.shaped(hands["stick"])
        if stick != 0:
            raw, w = hands["stick"], stick
            self.through_zero = False
        if p["axis_ratio_order"] == "before":
            w = complex(w.real, w.imag * p["axis_ratio"])
        m = norm(w)
        if p["law"] == "steer":
            pass
        elif p["diagonal"] == "disc":
            w = complex(w.real * math.sqrt(max(0, 1 - w.imag**2 / 2)), w.imag * math.sqrt(max(0, 1 - w.real**2 / 2)))
        elif m > 0 and (p["diagonal"] == "normalized" or (p["diagonal"] == "limited" and m > 1)):
            w /= m
        if p["axis_ratio_order"] == "after":
            w = complex(w.real, w.imag * p["axis_ratio"])
        if not p["view_flatten"]:
            w = complex(w.real, w.imag * math.cos(math.radians(p["view_pitch"])))
        turn = math.radians(p["view_yaw"] - (self.yaw if p["view"] == "look" else 0))
        return raw, clear(w * complex(math.cos(turn), math.sin(turn)))

    # One tick

    def run(self) -> list[dict[str, Any]]:
        idle = ({"held": set(), "stick": 0j, "aim": 0j, "mouse": 0j}, False, False, False)
        queue = [idle] * self.p["latency"]
        rows = [self.row(0, 0.0, 0.0, 0j, self.v, set(), idle[0])]
        time, number = 0.0, 0
        frames, counts, taken = self.frames(), 0j, -1
        shoves = self.shoves_by_tick(frames)
        if self.clock.hands == "after":
            frames = self.a_frame_later(frames)
        for frame, ticks in frames:
            counts += sum(complex(dx, dy) for at, dx, dy in self.drill.take.mouse if taken < at <= frame)
            taken = max(taken, frame)
            for dt, *flags in ticks:
                number += 1
                time += dt
                queue.append((self.hands(frame) | {"mouse": counts}, *flags))
                counts = 0j
                self.shoved = shoves.get(number)
                rows.append(self.tick(number, time, dt, *queue.pop(0)))
        return rows

    def a_frame_later(self, frames: list[Any]) -> list[Any]:
        """The ticks of each frame with the input of the frame before; presses wait for a tick, or are lost."""
        reads, take = [frame for frame, _ in frames], self.drill.take
        both = [[any(a <= frame < b for a, b in key) for frame in reads] for key in (take.keys.jump, take.keys.dash)]
        made, kept = [], [False, False, False]
        for number, (_, ticks) in enumerate(frames):
            (now, dash_now), (then, dash_then) = (
                [number - back >= 0 and held[number - back] for held in both] for back in (1, 2)
            )
            flags = (now and not then, then and not now, dash_now and not dash_then)
            kept = [each or flag for each, flag in zip(kept, flags, strict=True)]
            latched = self.clock.mode == "fixed" and self.clock.read == "frame"
            listed = []
            for dt, *_ in ticks:
                listed.append((dt, *(kept if latched else flags)))
                kept = [False, False, False]
            made.append((reads[number - 1] if number else -1, listed))
        return made

    def tick(
        self, number: int, time: float, dt: float, hands: dict[str, Any], pressed: bool, released: bool, dashed: bool
    ) -> dict[str, Any]:
        p, was, before = self.p, self.grounded, self.shown
        self.blocks: dict[int, float] = {}
        self.feel_zones()
        rising = self.state == "rise"
        h = 1 / p["reference_rate"] if p["time_base"] == "frames" else dt
        marks = {name for name, is_so in (("press", pressed), ("release", released)) if is_so}
        held = "jump" in hands["held"]
        old_w = self.w
        self.shove(marks)
        newly = hands["held"] - self.held_before
        raw, self.w = self.intend(hands, number, h)
        self.modified = "modifier" in hands["held"]
        stunned = self.since["shove"] < p["stun"] - TINY
        dashed = self.taps(newly, h) if p["dash_trigger"] == "double_tap" else dashed
        felt_down = "down" in hands["held"] and not stunned
        if stunned:
            self.w, self.through_zero, pressed, dashed = 0j, False, False, False
        self.launched = False
        if self.side:
            down = felt_down or self.w.imag < -0.5 - TINY
            used_up = self.drop(pressed, down)
            pressed = pressed and not used_up
        if pressed:
            self.since["press"] = 0.0
        if self.side:
            self.arm_and_climb(marks, pressed, held, old_w)
        self.dash(marks, dashed)
        if self.side:
            self.leap(marks, pressed, held, released, held and not stunned)
        v_old = self.v
        airborne = self.side and (not self.grounded or self.launched)
        self.late = []
        if not self.climbing and not self.dashing:
            felt = 1 / p["reference_rate"] if p["time_base"] == "mixed" else h
            locked = self.since["wall_jump"] < p["wall_lock"] - TINY
            if not locked and (self.slid is None or self.launched or self.w.real * self.slid.m < 0):
                self.drive(airborne, "modifier" in hands["held"], felt)
            if self.side:
                self.fall(airborne, held, felt_down, felt)
            self.push_and_drag(felt)
            self.slide_down_wall()
        way = {"velocity_first": self.v, "position_first": v_old, "midpoint": (v_old + self.v) / 2}[p["integrator"]] * h
        if self.lines:
            self.move_on_lines(way, marks, h)
        else:
            v = self.v
            self.move(way, marks)
            self.slow_late()
            self.stop_dash_at_wall(marks)
            self.shown = self.v
            self.show_late(v, 1.0)
        self.look(hands, h)
        if self.climbing and self.grounded and self.w.imag <= TINY:
            self.climbing = False
            marks.add("climb_off")
        self.settle_zones_and_walls(marks, h)
        self.state = self.name_of_state()
        marks |= {"apex"} if rising and self.v.imag <= TINY and not self.climbing else set()
        marks |= {"land"} if self.grounded and not was else {"leave"} if was and not self.grounded else set()
        self.since = {name: value + h for name, value in self.since.items()}
        self.timers = [value + h for value in self.timers]
        if self.on_wall:
            self.since["wall"] = 0.0
        if self.grounded:
            self.since["ground"], self.air_jumps, self.air_dashes = 0.0, p["air_jumps"], p["dash_air_dashes"]
            self.since["wall"] = self.since["wall_jump"] = INF
            self.spent = self.open = self.passes = False
        self.end_drop()
        self.follow(h)
        return self.row(number, time, dt, raw, before, marks, hands)

    def name_of_state(self) -> str:
        if self.dashing:
            return "dash"
        if not self.side:
            return "ground"
        if self.climbing or self.grounded:
            return "climb" if self.climbing else "ground"
        at_wall = self.on_wall and self.w.real * self.on_wall > 0
        if at_wall and self.v.imag <= TINY and self.p["wall_slide_speed"] > 0:
            return "wall"
        return "rise" if self.v.imag > TINY and self.slid is None else "fall"

    def row(
        self, tick: int, time: float, dt: float, raw: complex, before: complex, marks: set[str], hands: dict[str, Any]
    ) -> dict[str, Any]:
        a = (self.shown - before) / dt if dt else 0j
        line = self.line or self.slid
        return {
            "tick": tick, "time": time, "dt": dt, "input_x": raw.real, "input_y": raw.imag, "intent_x": self.w.real,
            "intent_y": self.w.imag,
            "jump_held": "jump" in hands["held"], "modifier_held": "modifier" in hands["held"], "x": self.seen.real,
            "y": self.seen.imag,
            "vx": self.shown.real, "vy": self.shown.imag, "ax": a.real, "ay": a.imag, "speed": norm(self.shown),
            "facing": self.facing, "bank": self.bank,
            "look_yaw": self.yaw, "look_pitch": self.pitch, "state": self.state, "since_ground": self.since["ground"],
            "since_press": self.since["press"], "overlap": self.depth(), "marks": marks,
            "ground_angle": line.angle if line else 0.0, "camera_x": self.camera.real, "camera_y": self.camera.imag,
        }  # fmt: skip

    def up(self, vy: float, held: bool) -> None:
        self.v = complex(self.v.real, vy)
        self.armed = self.armed and not self.p["spend_press"]
        self.launched = self.open = self.used = True
        self.since["launch"] = 0.0
        self.passes = not held and self.p["buffered_release"] == "full"
        self.spent = self.spent or self.p["spend_grace"]

    def arm_and_climb(self, marks: set[str], pressed: bool, held: bool, old_w: complex) -> None:
        p = self.p
        too_old = self.armed and not pressed and self.since["press"] > p["buffer"] + TINY
        if p["stale_timer"]:
            passed = [age for age in self.timers if age > p["buffer"] + TINY]
            self.timers = [age for age in self.timers if age <= p["buffer"] + TINY] + ([0.0] if pressed else [])
            too_old = self.armed and not pressed and bool(passed)
        if too_old:
            self.armed = False
            marks |= set() if self.used else {"lost_press"}
        self.armed = self.armed or pressed
        self.used = self.used and not pressed
        if self.dashing:
            return
        over = any(min(self.overlap_of(zone)) > TINY for zone in self.drill.course.climb)
        left = self.climbing and not over
        if left:
            self.climbing = False
            marks.add("climb_off")
        pushed = self.w.imag > 0.5 + TINY and (p["hold"] == "held" or old_w.imag <= 0.5 + TINY)
        if pushed and over and not self.climbing and not left and self.since["net"] >= p["climb_lock"] - TINY:
            self.climbing, self.open, self.passes = True, False, False
            marks.add("climb_on")
        if self.climbing and pressed:
            self.climbing = False
            self.since["net"] = 0.0
            marks |= {"climb_off", "launch"}
            self.up(p["climb_jump_speed"], held)
        elif self.climbing:
            self.v = p["climb_speed"] * self.w

    def leap(self, marks: set[str], pressed: bool, held: bool, released: bool, repeats: bool) -> None:
        """Launch and short hop."""
        p = self.p
        if self.climbing or self.launched:
            pass
        elif (
            (self.armed or (p["repeat"] == "hold" and repeats and self.grounded))
            and self.since["ground"] <= p["coyote"] + TINY
            and not self.spent
        ):
            marks |= {"launch"} | ({"coyote_launch"} if not self.grounded else set())
            marks |= {"buffered_launch"} if self.armed and self.since["press"] > 0 else set()
            carried = p["slope_carry"] * self.rate if self.grounded else 0.0
            self.up(p["jump_speed"] + p["run_boost"] * abs(self.v.real) + carried, held)
            if self.dashing:
                self.leave_dash(marks)
        elif self.dashing:
            return
        elif self.leaps_off_wall():
            marks.add("wall_launch")
            self.up(p["wall_jump_speed"], held)
            self.v = complex(-self.wall_side * p["wall_jump_away"], self.v.imag)
            self.since["wall_jump"] = 0.0
            if p["spend_grace"]:
                self.since["wall"] = INF
            self.take_over()
        elif pressed and self.air_jumps > 0:
            self.air_jumps -= 1
            marks.add("air_launch")
            self.up(p["air_jump_speed"], held)
        if p["cut_repeat"] == "every" and p["short_hop"] in ("cut", "cap"):
            rises = self.v.imag > TINY and not self.climbing and (self.launched or not self.grounded)
            if released and rises:
                vy = self.v.imag * p["cut_factor"] if p["short_hop"] == "cut" else min(self.v.imag, p["cap_speed"])
                self.v = complex(self.v.real, vy)
                self.open = self.passes = False
                marks.add("cut")
        elif self.open and not (held or self.passes):
            if p["short_hop"] == "sustain":
                self.open = False
            elif (
                p["short_hop"] in ("cut", "cap") and self.since["launch"] >= p["min_hold"] - TINY and self.v.imag > TINY
            ):
                vy = self.v.imag * p["cut_factor"] if p["short_hop"] == "cut" else min(self.v.imag, p["cap_speed"])
                self.v = complex(self.v.real, vy)
                self.open = self.passes = False
                marks.add("cut")

    def drive(self, airborne: bool, modified: bool, h: float) -> None:
        p = self.p
        top = p["top_speed"] * (p["modifier_speed"] if modified else 1)
        up = self.w.real * self.line.m if self.line and not airborne else 0.0
        top *= p["uphill_factor"] if up > 0 else p["downhill_factor"] if up < 0 else 1
        control, braking = (p["air_control"], p["air_friction"]) if airborne else (1, 1)
        top, control, braking = (
            top * self.zone["speed"],
            control * self.zone["acceleration"],
            braking * self.zone["friction"],
        )
        separate = self.side or (p["axes"] == "separate" and p["law"] in ("instant", "ramp", "ease", "push"))
        v = complex(self.v.real) if self.side else self.v
        whole, across, upward = (
            (
                control * self.drawn("acceleration_curve", norm(part), top),
                braking * self.drawn("friction_curve", norm(part), top),
            )
            for part in (v, complex(v.real), complex(v.imag))
        )
        control, braking = across if separate else whole
        if p["friction_step"] == "after" and (p["law"] == "ramp" or (p["law"] == "push" and not p["release_stop"])):
            w = complex(self.w.real) if self.side else self.w
            by, by_up = p["friction"] * braking * h, p["friction"] * (upward if separate else whole)[1] * h
            if not self.side and p["axes"] == "joined":
                self.late = [("both", by)] if w == 0 else []
            else:
                self.late = [("x", by)] if w.real == 0 else []
                self.late += [("y", by_up)] if not self.side and w.imag == 0 else []
        law = {"instant": self.instant, "ramp": self.ramp, "ease": self.ease, "push": self.push}.get(p["law"])
        if p["law"] == "steer":
            self.steer(top, control, braking, h)
        elif p["law"] == "arc":
            self.follow_nose(top, control, braking, h)
        elif p["law"] == "throttle":
            v = self.wind(
                self.v if not self.side else complex(self.v.real),
                self.w if not self.side else complex(self.w.real),
                top,
                control,
                braking,
                h,
            )
            self.v = complex(v.real, self.v.imag) if self.side else v
        elif not self.side and p["axes"] == "joined":
            self.v = law(self.v, self.w, top, control, braking, h, airborne)
        else:
            x = law(complex(self.v.real), complex(self.w.real), top, control, braking, h, airborne).real
            y = (
                self.v.imag
                if self.side
                else law(complex(self.v.imag), complex(self.w.imag), top, *upward, h, False).real
            )
            self.v = complex(x, y)

    def instant(self, v, w, top, control, braking, h, airborne):
        return v + (top * w - v) * (min(1, self.p["air_control"]) if airborne else 1)

    def ramp(self, v, w, top, control, braking, h, airborne):
        if w == 0:
            waits = self.p["law"] == "ramp" and self.p["friction_step"] == "after"
            return v if waits else approach(v, 0j, self.p["friction"] * braking * h)
        against = (v * (top * w).conjugate()).real < -TINY and self.p["turn_acceleration"] > 0
        return approach(v, top * w, (self.p["turn_acceleration"] if against else self.p["acceleration"]) * control * h)

    def ease(self, v, w, top, control, braking, h, airborne):
        k = self.p["stop_rate"] * braking if w == 0 else self.p["rate"] * control
        return v + (top * w - v) * (1 - math.exp(-k * h) if self.p["form"] == "exact" else min(1, k * h))

    def push(self, v, w, top, control, braking, h, airborne):
        p = self.p
        before = p["cap_step"] == "before"
        v = v / norm(v) * top if before and norm(v) > top else v
        v = (v + p["acceleration"] * control * h * w) * (
            math.exp(-p["drag"] * h) if p["form"] == "exact" else max(0, 1 - p["drag"] * h)
        )
        if w == 0:
            waits = p["friction_step"] == "after"
            v = 0j if p["release_stop"] else v if waits else approach(v, 0j, p["friction"] * braking * h)
        return v / norm(v) * top if norm(v) > top and not before else v

    def wind(self, v, w, top, control, braking, h):
        if w != 0 or self.through_zero:
            self.throttle = approach(complex(self.throttle), complex(top), self.p["acceleration"] * control * h).real
            self.heading = w / norm(w) if norm(w) > 0 else self.heading
            return self.throttle * w
        self.throttle = (
            0.0
            if self.p["release_stop"]
            else approach(complex(min(self.throttle, norm(v))), 0j, self.p["friction"] * braking * h).real
        )
        return self.throttle * self.heading

    def slow_late(self) -> None:
        """Friction that acts after the move."""
        for axis, by in self.late:
            if axis == "both":
                self.v = approach(self.v, 0j, by)
            elif axis == "x":
                self.v = complex(approach(complex(self.v.real), 0j, by).real, self.v.imag)
            else:
                self.v = complex(self.v.real, approach(complex(self.v.imag), 0j, by).real)

    def take_over(self) -> None:
        """Throttle takes over a velocity that it has not made."""
        v = complex(self.v.real) if self.side else self.v
        self.throttle = norm(v)
        self.heading = v / norm(v) if norm(v) > 0 else self.heading

    def closes(self, rate: float, h: float) -> float:
        """The share closed by a rate of turn or lean; all of it without a rate."""
        if rate <= 0:
            return 1.0
        return 1 - math.exp(-rate * h) if self.p["turn_form"] == "exact" else min(1.0, rate * h)

    def steer(self, top: float, control: float, braking: float, h: float) -> None:
        p = self.p
        wanted = -self.w.real * p["turn_rate"]
        self.omega += (wanted - self.omega) * self.closes(p["turn_ease"], h)
        self.facing += self.omega * h
        self.lean(-p["bank_angle"] * self.omega / p["turn_rate"] if p["turn_rate"] > 0 else 0.0, h)
        self.go_ahead(self.w.imag, top * (p["reverse_factor"] if self.w.imag < 0 else 1), control, braking, h)

    def follow_nose(self, top: float, control: float, braking: float, h: float) -> None:
        """Law arc: the heading turns toward the input."""
        p, turn = self.p, 0.0
        if self.w != 0:
            whole = arc(math.degrees(math.atan2(self.w.imag, self.w.real)) - self.facing)
            f = self.closes(p["turn_ease"], h)
            turn = whole * f
            if p["turn_blend"] == "sum":
                nose = complex(math.cos(math.radians(self.facing)), math.sin(math.radians(self.facing)))
                mixed = (1 - f) * nose + f * self.w / norm(self.w)
                if norm(mixed) > TINY:
                    turn = arc(math.degrees(math.atan2(mixed.imag, mixed.real)) - self.facing)
            turn = math.copysign(min(abs(turn), p["turn_rate"] * h), turn)
            pivots = abs(whole) > p["pivot_angle"] + math.degrees(TINY) and p["turn_blend"] != "sum"
            turn = whole if pivots else turn
        self.facing += turn
        target = -p["bank_angle"] * turn / h / p["turn_rate"] if p["turn_rate"] > 0 and h > 0 else 0.0
        self.lean(min(max(target, -abs(p["bank_angle"])), abs(p["bank_angle"])), h)
        self.go_ahead(norm(self.w), top, control, braking, h)

    def lean(self, target: float, h: float) -> None:
        p = self.p
        self.leaning += (target - self.leaning) * self.closes(p["lean_ease"], h)
        self.bank += (self.leaning - self.bank) * self.closes(p["lean_settle"], h)

    def go_ahead(self, w: float, top: float, control: float, braking: float, h: float) -> None:
        """Along the heading as in ramp; across it the slip decays."""
        ahead = complex(math.cos(math.radians(self.facing)), math.sin(math.radians(self.facing)))
        local = self.v * ahead.conjugate()
        along = self.ramp(complex(local.real), complex(w), top, control, braking, h, False).real
        if self.p["law"] == "steer" and w == 0 and self.p["cruise_speed"] > 0:
            slows = self.p["friction"] * braking * h
            along = approach(complex(local.real), complex(self.p["cruise_speed"]), slows).real
        self.v = complex(along, local.imag * math.exp(-self.p["grip"] * h)) * ahead

    def fall(self, airborne: bool, held: bool, down: bool, h: float) -> None:
        p, vy, holding = self.p, self.v.imag, held or self.passes
        g = p["gravity"] * self.zone["gravity"]
        if vy < -TINY:
            g *= p["fall_factor"] * (p["fast_fall_factor"] if down or self.w.imag < -0.5 - TINY else 1)
        if airborne and holding and abs(vy) < p["apex_speed"] - TINY:
            g *= p["apex_factor"]
        if (
            self.open
            and p["short_hop"] == "heavy"
            and vy > TINY
            and not holding
            and self.since["launch"] >= p["min_hold"] - TINY
        ):
            g *= p["heavy_factor"]
        if self.open and p["short_hop"] == "sustain" and self.since["launch"] < p["sustain_time"] - TINY:
            g *= p["sustain_factor"]
        floats = p["coyote_float"] and not self.spent and not self.hovers and self.since["ground"] <= p["coyote"] + TINY
        if (self.launched and not p["launch_gravity"]) or floats or self.since["net"] < p["jump_float"] - TINY:
            g = 0
        vy -= g * h
        self.v = complex(self.v.real, max(vy, -p["terminal_speed"]) if p["terminal_speed"] > 0 else vy)
        if self.v.imag <= TINY:
            self.open = self.passes = False

    # Contact

    def box(self, at: complex) -> tuple[float, float, float, float]:
        w, h = self.p["width"], self.p["height"]
        low = at.imag if self.side else at.imag - h / 2
        return at.real - w / 2, low, at.real + w / 2, low + h

    def overlap_of(self, r: Any, at: complex | None = None) -> tuple[float, float]:
        left, bottom, right, top = self.box(self.at if at is None else at)
        return min(right, r[2]) - max(left, r[0]), min(top, r[3]) - max(bottom, r[1])

    def depth(self) -> float:
        """How deep the body is in solids. On a line, what is below the line's higher side does not count."""
        left, bottom, right, top = self.box(self.seen)
        bottom += self.low_sides
        both = [
            min(min(right, r[2]) - max(left, r[0]), min(top, r[3]) - max(bottom, r[1]))
            for r in self.drill.course.solids
        ]
        return max([depth for depth in both if depth > TINY], default=0.0)

    def height_over_tops(self, half: float | None = None) -> float:
        left, feet, right, _ = self.box(self.at)
        if half is not None:
            left, right = self.at.real - half, self.at.real + half
        return min(
            (feet - r[3] for r in self.tops() if r[0] < right - TINY and r[2] > left + TINY),
            default=INF,
        )

    def height_over_ground(self) -> float:
        """The height above the nearest top or walkable line."""
        line = self.walkable_within(INF)
        return min(self.height_over_tops(self.half_probe()), self.at.imag - line.at(self.at.real) if line else INF)

    def go(self, axis: int, d: float, *, lift: float = 0.0, bare: bool = False) -> bool:
        """Move along one axis; returns whether a solid blocked it. `lift` leaves out the lowest part of the box."""
        if d == 0:
            return False
        unit = 1 if axis == 0 else 1j
        there, box, sign = self.at + d * unit, self.box(self.at), 1 if d > 0 else -1
        box = (box[0], box[1] + lift, box[2], box[3])
        front, near = box[axis + 2] if d > 0 else box[axis], (axis if d > 0 else axis + 2)
        stops = []
        for r in self.drill.course.solids:
            across = r[1 - axis] < box[3 - axis] - TINY and r[3 - axis] > box[1 - axis] + TINY
            in_the_way = -TINY <= sign * (r[near] - front) < abs(d) - TINY
            overlapped = self.overlap_of(r, there)[axis] > TINY >= min(self.overlap_of(r))
            if across and {"swept": in_the_way, "stepped": overlapped, "none": False}[self.p["sweep"]]:
                stops.append(sign * (r[near] - front))
        if axis == 1 and d < 0 and self.side and self.p["sweep"] != "none":
            for r in self.drill.course.oneway:
                under = r[0] < box[2] - TINY and r[2] > box[0] + TINY and there.imag < r[3] <= box[1] + TINY
                if (
                    under
                    and r not in self.passing
                    and (self.p["sweep"] == "swept" or there.imag + self.p["height"] > r[1] + TINY)
                ):
                    stops.append(box[1] - r[3])
        self.at = self.at + sign * min(stops) * unit if stops else there
        return bool(stops)

    def move(self, way: complex, marks: set[str]) -> None:
        p, below = self.p, False
        blocked = self.go_x(way.real, 0.0, self.side and self.grounded and not self.launched and not self.climbing)
        if blocked:
            marks.add("wall")
            self.v = complex(0, 0 if p["wall"] == "stop" else self.v.imag)
        if not (blocked and p["wall"] == "stop"):
            below = self.go_y(way.imag, marks)
        if self.side:
            self.grounded, self.hovers = below, False
            if not below:
                self.look_for_ground()

    def go_y(self, dy: float, marks: set[str]) -> bool:
        """Move along y and react to a block; returns whether it was one below, in side view."""
        p, start = self.p, self.at
        if not self.go(1, dy):
            return False
        if not self.side:
            self.stop_y(start, dy)
            marks.add("wall")
            self.v = complex(0 if p["wall"] == "stop" else self.v.real, 0)
        elif dy < 0:
            stands = p["probe_width"] == 0 or self.is_over_top()
            self.stop_y(start, dy)
            self.v = complex(self.v.real, 0)
            return stands
        elif not (p["sweep"] == "swept" and p["corner_slip"] > 0 and self.slip(start, dy)):
            self.stop_y(start, dy)
            marks.add("bump")
            self.v = complex(self.v.real, 0 if p["head_bump"] == "stop" else self.v.imag)
        return False

    def look_for_ground(self) -> None:
        """Whether a body that nothing has stopped stands on ground."""
        if self.v.imag > TINY:
            if self.p["probe_rising"]:
                self.grounded = self.is_over_top()
                self.hovers = self.grounded and self.height_over_tops(self.half_probe()) > TINY
            return
        gap = self.height_over_ground()
        self.grounded = gap <= self.p["ground_probe"] + TINY
        self.hovers = self.grounded and gap > TINY
        if gap <= TINY and self.p["sweep"] != "none":
            self.v = complex(self.v.real, 0)

    def slip(self, start: complex, rise: float) -> bool:
        """Slip past a corner overhead if possible; else the body stays where the rise was blocked."""
        stopped, half = self.at, self.p["width"] / 2
        shifts = [to - start.real for r in self.drill.course.solids for to in (r[0] - half, r[2] + half)]
        best = None
        for shift in shifts:
            if abs(shift) > self.p["corner_slip"] + TINY or (best is not None and abs(shift) >= abs(best[0]) - TINY):
                continue
            self.at = start
            if not self.go(0, shift) and not self.go(1, rise):
                best = shift, self.at
        self.at = stopped if best is None else best[1]
        return best is not None

    def look(self, hands: dict[str, Any], h: float) -> None:
        p, aim = self.p, self.shaped(hands["aim"])
        sideways, upward = (p["look_modifier"], p["look_modifier_y"] or p["look_modifier"])
        if "modifier" not in hands["held"]:
            sideways = upward = 1.0
        counts = hands["mouse"] * (h * p["reference_rate"] if p["mouse_dt"] else 1)
        self.yaw += sideways * (aim.real * p["look_rate_x"] * h + counts.real * p["mouse_x"])
        self.pitch += upward * (aim.imag * p["look_rate_y"] * h + counts.imag * p["mouse_y"])
        self.pitch = max(-90.0, min(90.0, self.pitch))
        self.since_aim += h
        if aim != 0:
            self.aimed, self.since_aim = aim, 0.0
            self.aims = p["aim_release"] == "moves"
        if p["law"] in ("steer", "arc") or p["facing"] == "none":
            self.facing = arc(self.facing)
            return
        held = aim != 0 or self.since_aim <= p["aim_hold"] + TINY
        self.aims = self.aims and (held or self.w == 0)
        source = self.aimed if p["aim"] == "aim_stick" and (held or self.aims) else self.w
        if p["facing"] == "mirror":
            wanted = (180.0 if source.real < 0 else 0.0) if source.real else None
        else:
            wanted = math.degrees(math.atan2(source.imag, source.real)) if source != 0 else None
            if wanted is not None and p["facing"] == "sectors":
                wanted = arc(math.floor((wanted + math.degrees(TINY)) * p["sectors"] / 360 + 0.5) * 360 / p["sectors"])
        if wanted is None:
            goes_on = p["after_release"] == "finish" and p["facing"] in ("ease", "constant")
            wanted = (self.last_source if goes_on else self.facing) if p["keep_last"] else 0.0
        else:
            self.last_source = wanted
        way = arc(wanted - self.facing)
        if p["facing"] == "ease":
            wanted = self.facing + way * (1 - math.exp(-p["facing_rate"] * h))
        elif p["facing"] == "constant" and abs(way) > p["facing_speed"] * h + TINY:
            wanted = self.facing + math.copysign(p["facing_speed"] * h, way)
        self.facing = arc(wanted)
