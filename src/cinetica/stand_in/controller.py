"""A character controller as one writes it by hand, from the proof's equations: a run, a jump, and boxes to stand on.

It shares no code with Cinetica's own model. Numbers are in u and s, y up; `numbers` has them by the names that the desk
sends. Copy it, or put your own in its place: `game.py` needs `tick` and the attributes that it sends.
"""

from collections.abc import Collection

NUMBERS = {
    "top_speed": 7.0, "acceleration": 50.0, "friction": 60.0, "air_control": 0.8, "air_friction": 1.0,
    "gravity": 40.0, "fall_factor": 1.0, "terminal_speed": 0.0, "jump_speed": 14.0, "cut_factor": 0.5,
    "buffer": 0.1, "coyote": 0.1, "width": 0.8, "height": 1.6,
}  # fmt: skip
TINY = 1e-9


class Controller:
    """Where the body is, how it moves, and what it remembers. x is the middle, y the feet."""

    def __init__(self) -> None:
        self.numbers: dict[str, float] = dict(NUMBERS)
        self.solids = [(-1000.0, -10.0, 1000.0, 0.0)]
        self.put(0.0, 0.0)

    def put(self, x: float, y: float, vx: float = 0.0, vy: float = 0.0) -> None:
        """Put the body at a place, with a velocity and no memory."""
        self.x, self.y, self.vx, self.vy = x, y, vx, vy
        self.since_ground = self.since_press = float("inf")
        self.armed = self.hop = self.jump_was_held = False
        self.grounded = self.is_over_a_top() and vy <= 0.0
        if self.grounded:
            self.since_ground = 0.0

    def tick(self, dt: float, keys: Collection[str]) -> list[str]:
        """Move by one tick; returns the words of what happened. `keys`: the names of those that are held."""
        n, marks = self.numbers, list[str]()
        was_grounded, jump = self.grounded, "jump" in keys
        if jump and not self.jump_was_held:
            self.armed, self.since_press = True, 0.0
        self.jump_was_held = jump
        # Jump buffer and coyote time.
        launches = self.armed and self.since_press <= n["buffer"] + TINY and self.since_ground <= n["coyote"] + TINY
        if launches:
            self.vy, self.armed, self.hop, self.since_ground = n["jump_speed"], False, True, float("inf")
            marks.append("launch")
        # A short hop: releasing the key cuts the rise once.
        if self.hop and not jump and self.vy > TINY:
            self.vy, self.hop = self.vy * n["cut_factor"], False
        # Run: toward the top speed, or to a stop.
        direction = ("right" in keys) - ("left" in keys)
        in_air = launches or not was_grounded
        if direction:
            most = n["acceleration"] * dt * (n["air_control"] if in_air else 1.0)
        else:
            most = n["friction"] * dt * (n["air_friction"] if in_air else 1.0)
        gap = direction * n["top_speed"] - self.vx
        self.vx += max(-most, min(most, gap))
        # Gravity, heavier on the way down.
        self.vy -= n["gravity"] * (n["fall_factor"] if self.vy < -TINY else 1.0) * dt
        if n["terminal_speed"] > 0.0:
            self.vy = max(self.vy, -n["terminal_speed"])
        if self.vy <= TINY:
            self.hop = False
        stands = self.move(dt)
        self.grounded = stands or (self.vy <= TINY and self.is_over_a_top())
        self.since_press += dt
        self.since_ground = 0.0 if self.grounded else self.since_ground + dt
        if self.grounded:
            self.hop = False
            if not was_grounded or launches:
                marks.append("land")
        return marks

    def move(self, dt: float) -> bool:
        """Move along x, then along y, up to the first side in the way; returns whether something was below."""
        half, high = self.numbers["width"] / 2.0, self.numbers["height"]
        to = self.x + self.vx * dt
        for left, bottom, right, top in self.solids:
            if self.y < top - TINY and self.y + high > bottom + TINY:
                if self.vx > 0.0 and self.x + half <= left + TINY and to + half > left:
                    to, self.vx = left - half, 0.0
                elif self.vx < 0.0 and self.x - half >= right - TINY and to - half < right:
                    to, self.vx = right + half, 0.0
        self.x = to
        to, stands = self.y + self.vy * dt, False
        for left, bottom, right, top in self.solids:
            if self.x + half > left + TINY and self.x - half < right - TINY:
                if self.vy < 0.0 and self.y >= top - TINY and to < top:
                    to, self.vy, stands = top, 0.0, True
                elif self.vy > 0.0 and self.y + high <= bottom + TINY and to + high > bottom:
                    to, self.vy = bottom - high, 0.0
        self.y = to
        return stands

    def is_over_a_top(self) -> bool:
        """Whether a top is right under the feet."""
        half = self.numbers["width"] / 2.0
        return any(
            abs(self.y - top) <= TINY and self.x + half > left + TINY and self.x - half < right - TINY
            for left, _, right, top in self.solids
        )
