"""Editing the start of a drill in place: where the body begins, how fast, and where it heads."""

from __future__ import annotations

import math
from collections.abc import Callable

from PySide6.QtCore import QPointF

from cinetica.desk.paint.bodies import VELOCITY_SCALE
from cinetica.desk.state.session import Session
from cinetica.model.courses import FARTHEST, within
from cinetica.model.study import FASTEST, Drill
from cinetica.model.world_size import world_size

# The handles of the start.
START, VELOCITY, HEADING = "start", "velocity", "heading"
NUMBERS = "x y, velocity x y, heading"
# Length of the heading's line in u, and a step of the velocity in u/s, for a body of the usual size; in degrees, what a
# dragged heading snaps to.
HEADING_LINE, STEP, TURN = 1.1, 0.5, 15.0
NAME = "Start of the drill"


class StartEditor:
    """The start of the current drill. `snap` puts a length on the course's grid."""

    def __init__(self, session: Session, snap: Callable[[float], float]) -> None:
        self.session, self._snap = session, snap

    @property
    def drill(self) -> Drill | None:
        """The current drill."""
        return self.session.drill

    @property
    def _size(self) -> float:
        return world_size(self.session.reference)

    def tip(self) -> QPointF:
        """The tip of the velocity's arrow, in u: on the start where the body begins at rest."""
        assert self.drill is not None
        (x, y), (vx, vy) = self.drill.start, self.drill.start_velocity
        return QPointF(x + vx * VELOCITY_SCALE, y + vy * VELOCITY_SCALE)

    def ring(self) -> QPointF:
        """The end of the heading's line, in u."""
        assert self.drill is not None
        (x, y), turn = self.drill.start, math.radians(self.drill.start_heading)
        far = HEADING_LINE * self._size
        return QPointF(x + far * math.cos(turn), y + far * math.sin(turn))

    def handle_at(self, at: QPointF, reach: QPointF, *, chosen: bool, pulls: bool) -> str:
        """What a drag from a place takes hold of; empty if it is not part of the start.

        Only where the start is `chosen` its velocity and heading can be held; with `pulls` a drag from the start itself
        pulls out its velocity.
        """
        if self.drill is None:
            return ""

        def holds(place: QPointF) -> bool:
            return abs(at.x() - place.x()) <= reach.x() and abs(at.y() - place.y()) <= reach.y()

        start = QPointF(*self.drill.start)
        if holds(start):
            return VELOCITY if pulls else START
        if chosen and holds(self.tip()):
            return VELOCITY
        return HEADING if chosen and holds(self.ring()) else ""

    def drag(self, handle: str, before: tuple[float, float], by: QPointF, to: QPointF) -> None:
        """Continue a drag of a handle `to` a place, `by` from where it began; `before`: where the start was then."""
        assert self.drill is not None
        x, y = self.drill.start
        if handle == START:
            self._set({"start": (self._snap(before[0] + by.x()), self._snap(before[1] + by.y()))})
        elif handle == VELOCITY:
            self._set({"start_velocity": (self._speed(to.x() - x), self._speed(to.y() - y))})
        else:
            turn = math.degrees(math.atan2(to.y() - y, to.x() - x))
            self._set({"start_heading": round(turn / TURN) * TURN + 0.0})

    def _speed(self, way: float) -> float:
        """The component of a velocity whose arrow has this length, rounded to a step."""
        step = STEP * self._size
        return _limited(round(way / VELOCITY_SCALE / step) * step)

    def nudge(self, dx: int, dy: int, step: float, *, velocity: bool) -> None:
        """Move the start by steps, in u, or change its velocity."""
        assert self.drill is not None
        (x, y), (vx, vy) = self.drill.start, self.drill.start_velocity
        if velocity:
            more = STEP * self._size
            self._set({"start_velocity": (_limited(vx + dx * more), _limited(vy + dy * more))}, joins=True)
        else:
            self._set({"start": (within(x + dx * step), within(y + dy * step))}, joins=True)

    @property
    def text(self) -> str:
        """The start as it is typed, in the units that are shown."""
        return " ".join(f"{number:.6g}" for number in self._numbers())

    def _numbers(self) -> tuple[float, ...]:
        assert self.drill is not None
        units, (vx, vy) = self.session.units, self.drill.start_velocity
        return (
            *units.place(*self.drill.start),
            units.column("vx").shown(vx),
            units.column("vy").shown(vy),
            units.column("facing").shown(self.drill.start_heading),
        )

    def type_over(self, text: str) -> None:
        """Set the start as typed: two numbers, four, or five; ValueError if they are none."""
        words = text.replace(",", " ").replace("−", "-").split()
        try:
            numbers = [float(word) for word in words]
        except ValueError:
            numbers = []
        if len(numbers) not in (2, 4, 5) or not all(map(math.isfinite, numbers)):
            raise ValueError(f"“{text.strip()}” is not a start: type {NUMBERS}; the last three may be left out.")
        units = self.session.units
        place = units.kept_place(*numbers[:2])
        values: dict[str, object] = {"start": place}
        velocity = (0.0, 0.0)
        if len(numbers) >= 4:
            velocity = units.column("vx").kept(numbers[2]) + 0.0, units.column("vy").kept(numbers[3]) + 0.0
            values["start_velocity"] = velocity
        if max(map(abs, place)) > FARTHEST or max(map(abs, velocity)) > FASTEST:
            raise ValueError(f"“{text.strip()}” is too far away, or too fast, for a start.")
        if len(numbers) == 5:
            heading = units.column("facing").kept(numbers[4])
            values["start_heading"] = 180.0 - (180.0 - heading) % 360.0
        self._set(values)

    def _set(self, values: dict[str, object], *, joins: bool = False) -> None:
        drill = self.drill
        assert drill is not None
        self.session.set_drill(NAME, drill.model_copy(update=values), joins=joins)
        self.session.message.emit(self.words)

    @property
    def words(self) -> str:
        """The start, in words."""
        assert self.drill is not None
        units, (vx, vy) = self.session.units, self.drill.start_velocity
        x, y, *_, heading = self._numbers()
        words = f"The body starts at {x:g}, {y:g}"
        if vx or vy:
            across, up = units.column("vx"), units.column("vy")
            words += f" with {across.shown(vx):g}, {up.shown(vy):g} {across.unit}"
        if self.drill.start_heading:
            words += f", heading {heading:.4g}{'°' if units.column('facing').unit == '°' else ' rad'}"
        return f"{words}.".replace("-", "−")


def _limited(speed: float) -> float:
    return min(max(speed, -FASTEST), FASTEST)
