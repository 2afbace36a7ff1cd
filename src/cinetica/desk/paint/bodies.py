"""The bodies on the stage: printed every n frames with the marks of the path, and bold at the frame cursor."""

from __future__ import annotations

import math
import operator
from collections.abc import Container, Sequence
from functools import cache, cached_property

import numpy as np
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QColor

from cinetica.desk import look
from cinetica.desk.paint.canvas import PIXELS, SOLID, Canvas, Mark, Pen, Sketch, pen_of
from cinetica.desk.paint.mapping import Mapping
from cinetica.desk.paint.off_course import followed_span
from cinetica.desk.paint.plot_layers import Part
from cinetica.desk.paint.posture import line_width, posture
from cinetica.desk.paint.signs import MARKS, mark_path
from cinetica.desk.paint.view_wedge import has_view, view_wedge
from cinetica.desk.state.tune_run import TuneRun
from cinetica.model.world_size import world_size
from cinetica.motion.records import camera_is_on_body
from cinetica.motion.simulate import Trace
from cinetica.reading.body import box_of

# The lengths of arrows: of velocity the way in this many seconds, of acceleration in this many seconds squared.
VELOCITY_SCALE, ACCELERATION_SCALE = 0.15, 0.015
# The most prints on the stage: on a long take the intervals grow instead.
MOST_PRINTS = 240
# Opacities, from 0 to 255.
RIM, WASH, GHOST_WASH = 95, 16, 70
GHOST_WIDTH = 2.2
# The rim of a box with a posture in it.
BOX_WIDTH = 1.0
# Of the wedge in which the view looks, in pixels.
WEDGE_DASHES = (1.5, 3.0)
# The barb of an arrow's head, as parts of its length along and beside the arrow.
# In u, for a body of the usual size.
SHORTEST_ARROW, LONGEST_BARB = 0.01, 0.22
BARB = ((0.87, 0.5), (0.87, -0.5))


@cache
def _symbols(marks: int) -> tuple[str, ...]:
    """The symbols for the marks of a row."""
    return tuple(symbol for mark, symbol, _ in MARKS if marks & mark)


def _marked(trace: Trace) -> list[tuple[int, float, float]]:
    """Marks with their places; at most `MOST_PRINTS` of each, evenly spaced."""
    if trace.is_short and len(trace.events.places) <= MOST_PRINTS:
        return trace.events.places
    marks = trace["marks"]
    rows = np.flatnonzero(marks)
    by_mark = (rows[(marks[rows] & mark) != 0] for mark, _, _ in MARKS)
    rows = np.unique(np.concatenate([found[:: 1 + len(found) // MOST_PRINTS] for found in by_mark]))
    return list(zip(marks[rows].tolist(), trace["x"][rows].tolist(), trace["y"][rows].tolist(), strict=True))


def _thinned(points: Sequence[tuple[float, float]]) -> Sketch:
    x, y = zip(*points[:: 1 + len(points) // MOST_PRINTS], strict=True)
    return Sketch(x, y)


@cache
def _mark(palette: look.Palette, place: int, symbol: str) -> Mark:
    return Mark(mark_path(symbol), look.ink(palette, place), 1.5, look.color(palette.paper))


class Printed:
    """One tune's body every n frames, and its marks, in units."""

    def __init__(self, shown: TuneRun, every: int) -> None:
        self.shown, self.every = shown, every
        trace, count = shown.trace, len(shown.trace)
        # The path, the rows between prints, and the body's left, bottom, right and top at each print.
        self.way = trace.points("x", "y")
        self.step = max(1, every, every * (count // max(1, every * MOST_PRINTS)))
        self.count = -(-count // self.step) if every else 0
        self.body = box_of(shown.tune, 0.0, 0.0)
        # The bounds of all places where the body was.
        (left, right), (low, high) = trace.span("x"), trace.span("y")
        self.extent = (left + self.body[0], low + self.body[1], right + self.body[2], high + self.body[3])
        # Marks with their places.
        self.marked = _marked(trace)

    def extent_above(self, deepest: float) -> tuple[float, float, float, float]:
        """Left, bottom, right and top of everywhere the body was above a height."""
        if self.extent[1] >= deepest:
            return self.extent
        (left, right), (low, high) = (followed_span(self.shown, column, deepest) for column in ("x", "y"))
        return left + self.body[0], low + self.body[1], right + self.body[2], high + self.body[3]

    def is_as(self, other: Printed) -> bool:
        """Whether it looks the same."""
        mine, its = (
            (one.shown.place, one.every, one.body, one.extent, one.way.count, one.marked) for one in (self, other)
        )
        return mine == its and all(
            np.array_equal(a[:: self.step], b[:: self.step])
            for a, b in ((self.way.x, other.way.x), (self.way.y, other.way.y))
        )

    @cached_property
    def marks(self) -> list[tuple[str, Sketch]]:
        """The places of each mark, in the order of the legend."""
        found: dict[str, list[tuple[float, float]]] = {}
        for marks, x, y in self.marked:
            for symbol in _symbols(marks):
                found.setdefault(symbol, []).append((x, y))
        return [(symbol, _thinned(found[symbol])) for _, symbol, _ in MARKS if symbol in found]

    def draw(self, canvas: Canvas, mapping: Mapping, palette: look.Palette) -> None:
        """Draw it."""
        place = self.shown.place
        rim, fill = look.ink(palette, place, RIM), look.ink(palette, place, WASH)
        canvas.prints(self.way, self.step, self.count, self.body, mapping, rim, fill)
        for symbol, points in self.marks:
            canvas.marks(points, mapping, _mark(palette, place, symbol))


class Prints:
    """A layer: what every tune has printed."""

    def __init__(self) -> None:
        self.printed: list[Printed] = []
        self.parts: list[Part] = []

    @property
    def key(self) -> object:
        """What the layer depends on."""
        return tuple(self.printed)

    def show(self, shown: Sequence[TuneRun], every: int, bodies_of: Container[int] | None = None) -> bool:
        """Update; returns whether anything changed.

        `bodies_of`: the places of the tunes whose bodies are printed, None for all; of the others only the marks are.
        """
        before = {each.shown.place: each for each in self.printed}
        printed = []
        for one in shown:
            kept = before.get(one.place)
            step = every if bodies_of is None or one.place in bodies_of else 0
            if kept is None or kept.shown is not one or kept.every != step:
                made = Printed(one, step)
                if kept is not None and made.is_as(kept):
                    kept.shown = one
                else:
                    kept = made
            printed.append(kept)
        changed = len(printed) != len(self.printed) or any(map(operator.is_not, printed, self.printed))
        if changed:
            self.printed, self.parts = printed, [Part(each, each.draw) for each in reversed(printed)]
        return changed

    def extent(self, deepest: float = -math.inf) -> QRectF:
        """Everywhere a body was, without the rest of a fall below `deepest`; empty if there is none."""
        if not self.printed:
            return QRectF()
        left, bottom, right, top = zip(*(printed.extent_above(deepest) for printed in self.printed), strict=True)
        return QRectF(QPointF(min(left), min(bottom)), QPointF(max(right), max(top)))

    def draw(self, canvas: Canvas, mapping: Mapping, palette: look.Palette) -> None:
        """Draw the layer."""
        for part in self.parts:
            part.draw(canvas, mapping, palette)


class Ghost:
    """One tune's body at the frame cursor, bold, with its arrows."""

    COLUMNS = ("x", "y", "vx", "vy", "ax", "ay", "facing", "camera_x", "camera_y")

    def __init__(
        self, shown: TuneRun, row: int, arrows: tuple[bool, bool], *, camera: bool = False, postures: bool = False
    ) -> None:
        self.shown, self.row, self.arrows = shown, row, arrows
        self.camera = camera and not shown.trace.logged and not camera_is_on_body(shown.tune)
        needed = self.COLUMNS if self.camera else self.COLUMNS[:-2]
        values = shown.trace.numbers(needed, row)
        (x, y, *_), self._velocity, self._acceleration, self._facing = values, values[2:4], values[4:6], values[6]
        # The camera, seen from the body's own place.
        self._away = (values[7] - x, values[8] - y) if self.camera else (0.0, 0.0)
        self._box = box_of(shown.tune, x, y)
        window = (shown.tune.camera.window_width, shown.tune.camera.window_height) if self.camera else None
        # The pose and the cycles of its stride.
        self._pose = (int(shown.trace.value("pose", row)), shown.trace.value("stride", row)) if postures else None
        # The yaw of a view that turns with the look.
        turns = has_view(shown.tune) and not shown.trace.logged
        self._yaw = shown.trace.value("look_yaw", row) if turns else None
        # Everything that the drawing depends on.
        self.drawn = (shown.place, self._box, *values, arrows, window, self._pose, self._yaw)

    @property
    def body(self) -> QRectF:
        """The body's rectangle, in units."""
        left, bottom, right, top = self._box
        return QRectF(QPointF(left, bottom), QPointF(right, top))

    def draw(self, canvas: Canvas, mapping: Mapping, palette: look.Palette) -> None:
        """Draw it."""
        place, (left, bottom, right, top) = self.shown.place, self._box
        canvas.box(self._box, mapping, look.ink(palette, place, GHOST_WASH))
        rim = Sketch([left, right, right, left, left], [top, top, bottom, bottom, top])
        canvas.stroke(rim, mapping, pen_of(palette, place, GHOST_WIDTH if self._pose is None else BOX_WIDTH, None))
        if self._pose is not None:
            lines = posture(self.shown.tune, self._box, *self._pose, self._facing)
            # Dashes would break up its short lines; the rim has the tune's dashes.
            width = line_width(mapping.rect(self.body).height())
            canvas.stroke(lines, mapping, pen_of(palette, place, width, SOLID))
        if self.shown.tune.view == "top":
            self._draw_facing(canvas, mapping, look.ink(palette, place))
        if self.arrows[0]:
            self._draw_arrow(canvas, mapping, self._velocity, VELOCITY_SCALE, pen_of(palette, place, 2.0))
        if self.arrows[1]:
            head, shaft = pen_of(palette, place, 1.4), pen_of(palette, place, 1.4, (2.8, 2.8))
            self._draw_arrow(canvas, mapping, self._acceleration, ACCELERATION_SCALE, head, shaft)
        if self.camera:
            self._draw_camera(canvas, mapping, palette)
        if self._yaw is not None:
            wedge = view_wedge(self.shown.tune, self._box, self._yaw)
            canvas.stroke(wedge, mapping, pen_of(palette, place, 1.0, WEDGE_DASHES))

    def _draw_camera(self, canvas: Canvas, mapping: Mapping, palette: look.Palette) -> None:
        """Draw the camera, a thin line to it from the middle of the body, and its window."""
        place, (left, bottom, right, top) = self.shown.place, self._box
        x, y = (left + right) / 2, (bottom + top) / 2
        # It follows the body's own place, and is drawn as though it followed the middle.
        at_x, at_y = x + self._away[0], y + self._away[1]
        canvas.stroke(Sketch([x, at_x], [y, at_y]), mapping, pen_of(palette, place, 1.0, (1.5, 2.5)))
        px, py, arm = mapping.x(at_x), mapping.y(at_y), look.px(4)
        cross = Sketch([px - arm, px + arm, math.nan, px, px], [py, py, math.nan, py - arm, py + arm])
        canvas.stroke(cross, PIXELS, pen_of(palette, place, 1.6))
        camera = self.shown.tune.camera
        if camera.window_width or camera.window_height:
            half, high = camera.window_width / 2, camera.window_height / 2
            xs = [at_x - half, at_x + half, at_x + half, at_x - half, at_x - half]
            ys = [at_y - high, at_y - high, at_y + high, at_y + high, at_y - high]
            canvas.stroke(Sketch(xs, ys), mapping, pen_of(palette, place, 1.0, (4.0, 3.0)))

    def _draw_facing(self, canvas: Canvas, mapping: Mapping, ink: QColor) -> None:
        """Draw a notch where the body faces, seen from above."""
        body, angle = mapping.rect(self.body), math.radians(self._facing)
        reach, at = min(body.width(), body.height()) / 2, body.center()
        x, y = at.x() + reach * math.cos(angle), at.y() - reach * math.sin(angle)
        canvas.line(Sketch([x - 2.5, x + 2.5], [y, y]), PIXELS, ink, 5.0)

    def _draw_arrow(
        self, canvas: Canvas, mapping: Mapping, way: Sequence[float], scale: float, head: Pen, shaft: Pen | None = None
    ) -> None:  # fmt: skip
        """Draw an arrow from the middle of the body, `scale` times as long as the vector, in u.

        The shaft uses the head's pen unless it has one of its own.
        """
        wx, wy = way[0] * scale, way[1] * scale
        length = math.hypot(wx, wy)
        size = world_size(self.shown.tune)
        if length < SHORTEST_ARROW * size:
            return
        left, bottom, right, top = self._box
        x, y = (left + right) / 2, (bottom + top) / 2
        tip_x, tip_y, ux, uy, barb = x + wx, y + wy, wx / length, wy / length, min(LONGEST_BARB * size, length / 2)
        (x0, y0), (x1, y1) = (
            (tip_x - (ux * along - uy * beside) * barb, tip_y - (uy * along + ux * beside) * barb)
            for along, beside in BARB
        )
        if shaft is not None:
            canvas.stroke(Sketch([x, tip_x], [y, tip_y]), mapping, shaft)
            canvas.stroke(Sketch([x0, tip_x, x1], [y0, tip_y, y1]), mapping, head)
        else:
            both = Sketch([x, tip_x, math.nan, x0, tip_x, x1], [y, tip_y, math.nan, y0, tip_y, y1])
            canvas.stroke(both, mapping, head)


class Ghosts:
    """A layer: every tune's body at the frame cursor."""

    def __init__(self) -> None:
        self.bodies: list[Ghost] = []

    @property
    def key(self) -> object:
        """What the layer depends on."""
        return tuple(ghost.drawn for ghost in self.bodies)

    def show(
        self,
        rows: Sequence[tuple[TuneRun, int]],
        arrows: tuple[bool, bool],
        *,
        cameras: bool = False,
        postures: bool = False,
    ) -> bool:
        """Update; returns whether anything changed.

        `arrows`: whether velocity and acceleration are drawn; `cameras`: whether cameras that are not at the body are;
        `postures`: whether the pose is drawn in the box.
        """
        before = self.key
        self.bodies = [Ghost(shown, row, arrows, camera=cameras, postures=postures) for shown, row in rows]
        return self.key != before

    def draw(self, canvas: Canvas, mapping: Mapping, palette: look.Palette) -> None:
        """Draw the layer."""
        for ghost in self.bodies:
            ghost.draw(canvas, mapping, palette)
        draw_letters(canvas, [(each.shown.place, mapping.rect(each.body)) for each in self.bodies], palette)


def draw_letters(
    canvas: Canvas, bodies: Sequence[tuple[int, QRectF]], palette: look.Palette, *, size: int = 9
) -> list[QRectF]:
    """Write each tune's letter above its body, beside those of others; returns where, in pixels.

    `bodies`: a tune's place and its body's rectangle in pixels.
    """
    wide, high = look.width("W", size, bold=True), look.height(size, bold=True)
    spots = [QRectF(0, 0, wide, high) for _ in bodies]
    for spot, (_, body) in zip(spots, bodies, strict=True):
        # A body that is partly in view has its letter there.
        spot.moveTo(body.center().x() - wide / 2, max(body.top() - high - 2, canvas.area.top()))
    move_apart(spots)
    for spot, (place, _) in zip(spots, bodies, strict=True):
        if canvas.area.contains(spot):
            at = spot.center()
            canvas.word(look.letter(place), at.x(), at.y(), size, look.ink(palette, place))
    return spots


def move_apart(spots: Sequence[QRectF]) -> None:
    """Move rectangles of one width to the right, in place, by as little as keeps them from overlapping."""
    placed: list[QRectF] = []
    for spot in sorted(spots, key=QRectF.left):
        while covered := [other for other in placed if other.intersects(spot)]:
            spot.moveLeft(min(other.right() for other in covered))
        placed.append(spot)
