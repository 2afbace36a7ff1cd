"""How the stand-in counts towards the desk: pixels, the direction of y, and frames or seconds.

The controller itself always counts in u and s, y up. A game that counts as its controller does needs none of this.
"""

from dataclasses import dataclass

LENGTHS = ("width", "height")
SPEEDS = ("top_speed", "terminal_speed", "jump_speed")
ACCELERATIONS = ("acceleration", "friction", "gravity")
TIMES = ("buffer", "coyote")
# Velocities along y; gravity and terminal speed are magnitudes, whichever way y points.
UPWARD = ("jump_speed",)


@dataclass(frozen=True)
class Units:
    """`per` and `times` are the lengths of the units in which velocities and times count, in s."""

    pixels: float = 1.0
    y_down: bool = False
    per: float = 1.0
    times: float = 1.0

    def factor(self, name: str) -> float:
        """What one of ours is there: a number of the controller, by its name."""
        sign = -1.0 if self.y_down and name in UPWARD else 1.0
        if name in LENGTHS:
            return self.pixels
        if name in SPEEDS:
            return sign * self.pixels * self.per
        if name in ACCELERATIONS:
            return self.pixels * self.per**2
        return 1.0 / self.times if name in TIMES else 1.0

    def place(self, x: float, y: float) -> tuple[float, float]:
        """A place as it is sent."""
        return x * self.pixels, y * self._up

    def velocity(self, vx: float, vy: float) -> tuple[float, float]:
        """A velocity as it is sent."""
        return vx * self.pixels * self.per, vy * self._up * self.per

    def place_from(self, x: float, y: float) -> tuple[float, float]:
        """A place that was received."""
        return x / self.pixels, y / self._up

    def velocity_from(self, vx: float, vy: float) -> tuple[float, float]:
        """A velocity that was received."""
        return vx / (self.pixels * self.per), vy / (self._up * self.per)

    @property
    def _up(self) -> float:
        return -self.pixels if self.y_down else self.pixels
