"""The stand-in game: a controller, the link to the desk, and hands from a keyboard or from a take.

`advance` is called in every frame of the screen, or in a loop without one.
"""

import time

from cinetica.stand_in.controller import Controller
from cinetica.stand_in.link import KEYS, GameLink
from cinetica.stand_in.units import Units

# The most time that is caught up with after a stall, in s.
LONGEST = 0.25
# A fall ends this far below everything, and the game starts again.
DEEP = 20.0


class StandIn:
    """The game."""

    name = "Stand-in"

    def __init__(
        self, host: str = "127.0.0.1", port: int = 9471, tick_rate: float = 60.0, units: Units | None = None
    ) -> None:
        self.tick_rate, self.units = tick_rate, units or Units()
        self.body = Controller()
        self.held: set[str] = set()
        self.time, self.paused = 0.0, False
        self.marks: list[str] = []
        self.start = (0.0, 0.0, 0.0, 0.0)
        self.coming_solids: list[tuple[float, float, float, float]] = []
        # The take that is played: its number (0 for none), frames a second, length, and rows of hands.
        self.take_number, self.take_rate, self.take_frames = 0, 60.0, 0
        self.rows: list[tuple[int, int]] = []
        self.ready: tuple[int, float, int, list[tuple[int, int]]] = (0, 60.0, 0, [])
        self.row, self.due, self.then = 0, 0.0, time.perf_counter()
        self.link = GameLink(self, host, port)

    @property
    def numbers(self) -> dict[str, float]:
        """The numbers that it knows, by name."""
        return self.body.numbers

    # Ticks

    def advance(self) -> None:
        """Listen, and run the ticks that are due."""
        now = time.perf_counter()
        self.due += min(now - self.then, LONGEST)
        self.then = now
        self.link.receive()
        while self.due >= 1.0 / self.tick_rate:
            self.due -= 1.0 / self.tick_rate
            if not self.paused:
                self.tick()

    def tick(self) -> None:
        """Run one tick, with the hands of the take or of the keyboard."""
        dt, keys = 1.0 / self.tick_rate, self.hands_now()
        self.marks = self.body.tick(dt, keys)
        self.row += 1
        self.time += dt
        self.link.send_frame(self.take_number, self.row, dt, keys, self.marks)
        if not self.take_number and self.body.y < min(solid[1] for solid in self.body.solids) - DEEP:
            self.begin()
        if self.take_number and self.row >= self.take_frames / self.take_rate * self.tick_rate - 1e-9:
            self.take_number = 0

    def hands_now(self) -> set[str]:
        """The keys held in the tick that begins now."""
        if not self.take_number:
            return set(self.held)
        frame = int(self.row / self.tick_rate * self.take_rate + 1e-9)
        keys = 0
        for row in self.rows:
            if row[0] > frame:
                break
            keys = row[1]
        return {key for place, key in enumerate(KEYS) if keys >> place & 1}

    def set_number(self, name: str, value: object) -> None:
        """Take a number of the desk's, if it is one of ours."""
        if name in self.numbers and isinstance(value, (int, float)) and not isinstance(value, bool):
            self.numbers[name] = float(value) / self.units.factor(name)

    def change(self, name: str, value: float) -> None:
        """Change a number here."""
        self.numbers[name] = float(value)
        self.link.change(name, float(value) * self.units.factor(name), self.name)

    # What the desk asks for

    def solids(self, first: int, count: int, *sides: float) -> None:
        """Build the course."""
        if first == 0:
            self.coming_solids = []
        place = self.units.place_from
        for left, bottom, right, top in zip(sides[::4], sides[1::4], sides[2::4], sides[3::4], strict=True):
            self.coming_solids.append((*place(left, bottom), *place(right, top)))
        if len(self.coming_solids) >= count:
            self.body.solids = self.coming_solids

    def reset(self, x: float, y: float, vx: float, vy: float, heading: float) -> None:
        """Put the body at the drill's start."""
        self.start, self.take_number = (*self.units.place_from(x, y), *self.units.velocity_from(vx, vy)), 0
        self.begin()

    def begin(self) -> None:
        """Begin a run: its first frame is the start."""
        self.body.put(*self.start)
        self.row, self.due = 0, 0.0
        self.link.send_frame(self.take_number, 0, 1.0 / self.tick_rate, ())

    def pause(self, on: bool) -> None:
        """Stop, or go on."""
        self.paused = bool(on)

    def step(self, ticks: int) -> None:
        """Run some ticks and pause."""
        self.paused = True
        for _ in range(min(ticks, 1000)):
            self.tick()

    def take(self, number: int, rate: float, frames: int, rows: int) -> None:
        """A take follows."""
        self.ready = (number, rate, frames, [])

    def hands(self, number: int, first: int, *values: float) -> None:
        """Some rows of it: frame, keys, and two sticks that this game does not use."""
        if number == self.ready[0]:
            self.ready[3].extend((int(values[at]), int(values[at + 1])) for at in range(0, len(values), 6))

    def play(self, number: int) -> None:
        """Play it from the start."""
        if number == self.ready[0]:
            self.take_number, self.take_rate, self.take_frames, self.rows = self.ready
            self.paused = False
            self.begin()

    def close(self) -> None:
        """End."""
        self.link.close()


def run_headless(game: StandIn, seconds: float | None = None) -> None:
    """Run without a window, until it is interrupted or the time is over."""
    end = None if seconds is None else time.perf_counter() + seconds
    try:
        while end is None or time.perf_counter() < end:
            game.advance()
            time.sleep(0.001)
    except KeyboardInterrupt:
        pass
    finally:
        game.close()
