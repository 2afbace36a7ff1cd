"""The stage of Play: the course, the character with its shadows, drawn between ticks, and the camera."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import cache

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QBrush, QFontMetrics, QPainter, QPaintEvent, QWheelEvent
from PySide6.QtWidgets import QWidget
from typing_extensions import override

from cinetica.desk import look
from cinetica.desk.paint.bodies import WEDGE_DASHES, draw_letters
from cinetica.desk.paint.canvas import PIXELS, SOLID, Canvas, Pen, Sketch, caption_width, pen_of
from cinetica.desk.paint.course import draw_slope, paint_zone, rect_of
from cinetica.desk.paint.mapping import Mapping
from cinetica.desk.paint.posture import posture
from cinetica.desk.paint.steps import round_step
from cinetica.desk.paint.view_wedge import has_view, view_wedge
from cinetica.desk.play.game import Game
from cinetica.model.courses import zone_name
from cinetica.model.tune import Follow, Tune
from cinetica.model.world_size import world_size
from cinetica.motion.live import LiveRun
from cinetica.motion.polyline import Points
from cinetica.motion.records import STATES, ground
from cinetica.motion.simulate import mark_names
from cinetica.reading.body import box_of, too_steep
from cinetica.reading.display_units import OURS
from cinetica.reading.poses import PoseFollower
from cinetica.reading.spans import GRACE_WORDS, grace_left

# Height of the world in view, in u, for a body of the usual size; how far the camera lets the character go from the
# middle, as a share of the view.
VIEW_HEIGHT = 9.0
# A step of the wheel or a key; how far one can zoom out and in; the air around a whole course, as a share of it.
ZOOM_STEP, FARTHEST, NEAREST, AIR = 1.25, 1 / 40, 8.0, 0.06
# How far apart lines of the grid are at least, in pixels.
LEAST_GRID = 20
# Slightly more than the grid step of a world of the usual size, in u.
GRID_OF_BODY = 0.9
LEASH = 0.12
TRAIL_SECONDS = 1.5
MARK_SECONDS = 0.6
# The share of ink in the colour of a trail; the opacity of a plank, of 255.
TRAIL_SHARE, PLANK = 0.6, 110


class Arena(QWidget):
    """`places`: the tunes' places in the study, which give letters and inks; `followed`: the tune in the middle."""

    painted = Signal()

    def __init__(self, game: Game) -> None:
        super().__init__()
        self.game, self.units = game, OURS
        self.places: list[int] = []
        self.followed = 0
        self.words_shown = True
        # Whether bodies are shown by their posture; the run whose poses are followed, and the pose of each tune.
        self.postures = True
        self._posed: tuple[LiveRun, list[PoseFollower]] | None = None
        # The camera of the tune's own rules, or one that lets the character run a little way from the middle.
        self.own_camera = True
        self._camera = QPointF(0, 0)
        # How many times as large as usual everything is, and whether the whole course is in view instead.
        self.zoom = 1.0
        self.whole = False
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName("The character on its course")
        self.setMinimumHeight(look.px(96))

    def centre(self) -> None:
        """Move the camera to the character immediately."""
        live = self.game.live
        if live is not None and self.followed < len(live.tunes):
            self._camera = self._between(self.followed, "camera_") if self.own_camera else self.position(self.followed)

    def position(self, place: int) -> QPointF:
        """Where a tune's body is drawn: between its last two rows, by the share of the tick that has passed."""
        return self._between(place, "")

    def _between(self, place: int, what: str) -> QPointF:
        live = self.game.live
        assert live is not None
        trace = live.trace(place)
        last, before = trace[-1], trace[max(0, len(trace) - 2)]
        share = self.game.share if not self.game.paused else 1.0
        x, y = (
            float(before[column]) + (float(last[column]) - float(before[column])) * share
            for column in (f"{what}x", f"{what}y")
        )
        return QPointF(x, y)

    @property
    def view_height(self) -> float:
        """The height of the world in view, in u."""
        return VIEW_HEIGHT * world_size(self._followed_tune) / self.zoom

    @property
    def _scale(self) -> float:
        """Pixels per unit."""
        if self.whole and (whole := self._whole_course()) is not None:
            return min(self.width() / whole.width(), self.height() / whole.height())
        return self.height() / self.view_height

    def _whole_course(self) -> QRectF | None:
        """All of the course and the followed body, with some air; None without a course."""
        drill, live = self.game.drill, self.game.live
        if drill is None or live is None:
            return None
        course, size = drill.course, world_size(self._followed_tune)
        at = self.position(self.followed)
        left, bottom, right, top = box_of(self._followed_tune, at.x(), at.y())
        for box in (*course.solids, *course.oneway, *course.climb):
            left, bottom, right, top = min(left, box[0]), min(bottom, box[1]), max(right, box[2]), max(top, box[3])
        for slope in course.slopes:
            left, right = min(left, slope.x0, slope.x1), max(right, slope.x0, slope.x1)
            bottom, top = min(bottom, slope.y0, slope.y1), max(top, slope.y0, slope.y1)
        # A jump at either end is in view, too.
        air = size + AIR * max(right - left, top - bottom)
        return QRectF(QPointF(left - air, bottom - air), QPointF(right + air, top + air))

    def zoom_by(self, steps: float) -> None:
        """Zoom in, or out with negative steps; the character stays where it is."""
        if self.whole:
            # From what is seen now.
            self.zoom = VIEW_HEIGHT * world_size(self._followed_tune) * self._scale / max(1, self.height())
            self.whole = False
        self.zoom = min(NEAREST, max(FARTHEST, self.zoom * ZOOM_STEP**steps))
        self.update()

    def show_whole(self) -> None:
        """Show the whole course, or again the surroundings of the character at the usual size."""
        self.whole, self.zoom = not self.whole, 1.0
        self.update()

    @override
    def wheelEvent(self, event: QWheelEvent) -> None:
        if self.game.live is not None and event.angleDelta().y():
            self.zoom_by(event.angleDelta().y() / 120)
            event.accept()

    def _follow(self) -> None:
        if self.whole and (whole := self._whole_course()) is not None:
            self._camera = whole.center()
            return
        if self.own_camera:
            self._camera = self._between(self.followed, "camera_")
            return
        middle, reach = self.position(self.followed), LEASH * self.view_height
        for axis, value in (("x", middle.x()), ("y", middle.y())):
            at = getattr(self._camera, axis)()
            away = value - at
            if abs(away) > reach:
                getattr(self._camera, f"set{axis.upper()}")(value - np.sign(away) * reach)

    @property
    def _mapping(self) -> Mapping:
        """From units to pixels, for what is in view."""
        scale, wide, high = self._scale, self.width(), self.height()
        middle = high * (0.5 if self.whole else 0.6)
        left, top = wide / 2 - self._camera.x() * scale, middle + self._camera.y() * scale
        view = QRectF(-left / scale, (top - high) / scale, wide / scale, high / scale)
        return Mapping(left, scale, top, -scale, view, QRectF(0, 0, wide, high))

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        running = self.game.live is not None and self.game.drill is not None
        with QPainter(self) as painter:
            look.fill_ground(painter, QRectF(self.rect()), look.color(look.palette().paper))
            if running:
                self._follow()
                self._draw(Canvas(painter, QRectF(self.rect())))
        if running:
            self.painted.emit()

    def _draw(self, canvas: Canvas) -> None:
        live, mapping = self.game.live, self._mapping
        assert live is not None
        self._draw_grid(canvas, mapping)
        self._draw_course(canvas, mapping)
        bodies = [(place, self._draw_body(canvas, mapping, place)) for place in reversed(range(len(live.tunes)))]
        numbered = [(self._number(place), body) for place, body in reversed(bodies)]
        letters = draw_letters(canvas, numbered, look.palette(), size=10)
        if self.words_shown:
            self._draw_words(canvas, mapping, letters)

    def _draw_grid(self, canvas: Canvas, mapping: Mapping) -> None:
        """Draw lines a round step apart: each unit in a world of the usual size."""
        view, wide, high = mapping.view, self.width(), self.height()
        scale = self.units.scale("u")
        least = max(LEAST_GRID / self._scale, world_size(self._followed_tune) * GRID_OF_BODY)
        step = scale.kept(round_step(scale.shown(least), 1))
        lines: list[tuple[float, float, float, float]] = []
        for x in range(math.floor(view.left() / step), math.ceil(view.right() / step) + 1):
            at = round(mapping.x(x * step))
            lines.append((at, high, at + 1, 0))
        for y in range(math.floor(view.top() / step), math.ceil(view.bottom() / step) + 1):
            at = round(mapping.y(y * step))
            lines.append((0, at + 1, wide, at))
        canvas.boxes(lines, PIXELS, look.color(look.palette().grid_fine))

    def _draw_course(self, canvas: Canvas, mapping: Mapping) -> None:
        assert self.game.drill is not None
        course, palette = self.game.drill.course, look.palette()
        earth, edge = look.color(palette.earth), look.color(palette.earth_edge)
        shapes = ground(course)
        for zone in course.zones:
            box = mapping.rect(rect_of(zone.box)).intersected(mapping.area.adjusted(-4, -4, 4, 4))
            paint_zone(canvas.painter, palette, box if box.isValid() else QRectF(), zone_name(zone))
        canvas.boxes(shapes.climb, mapping, QBrush(edge, Qt.BrushStyle.DiagCrossPattern))
        canvas.boxes(shapes.solids, mapping, earth, edge)
        canvas.boxes(shapes.oneway, mapping, look.color(palette.earth_edge, PLANK))
        for left, _bottom, right, top in course.oneway:
            over = mapping.y(top)
            canvas.box((mapping.x(left), over + 1, mapping.x(right), over - 1), PIXELS, edge)
        for slope in course.slopes:
            draw_slope(canvas, mapping, palette, slope, slides=too_steep(self._followed_tune, slope))
        if self.own_camera:
            self._draw_window(canvas, mapping)

    @property
    def _followed_tune(self) -> Tune:
        assert self.game.live is not None
        return self.game.live.tunes[self.followed]

    def _draw_window(self, canvas: Canvas, mapping: Mapping) -> None:
        """Draw the part of the view in which the body moves before the camera follows."""
        camera, tune = self._followed_tune.camera, self._followed_tune
        if camera.follow is Follow.NONE or not (camera.window_width or camera.window_height):
            return
        wide, high = camera.window_width / 2, camera.window_height / 2
        at = self._between(self.followed, "camera_")
        x, y = at.x(), at.y() + (0.0 if tune.view == "top" else tune.body.height / 2)
        around = Sketch(_around(x - wide, x + wide), _up(y - high, y + high))
        canvas.line(around, mapping, look.color(look.palette().soft), 1.0, (4.0, 3.0))

    def _number(self, place: int) -> int:
        """The place in the study's view, which gives letter and ink, of a tune by its place in the game."""
        return self.places[place] if place < len(self.places) else place

    def _draw_body(self, canvas: Canvas, mapping: Mapping, place: int) -> QRectF:
        """Draw a body with its trail; returns its rectangle in pixels."""
        live = self.game.live
        assert live is not None
        tune, trace = live.tunes[place], live.trace(place)
        number, palette = self._number(place), look.palette()
        followed = place == self.followed
        at = self.position(place)
        left, bottom, right, top = box = box_of(tune, at.x(), at.y())
        recent = trace[-max(2, round(TRAIL_SECONDS * live.tick_rate)) :]
        lift = 0.0 if tune.view == "top" else tune.body.height / 2
        canvas.curve(Points(recent["x"], recent["y"] + lift), mapping, _trail_pen(palette, number))
        canvas.box(box, mapping, look.ink(palette, number, 90 if followed else 30))
        width = 2.4 if followed else 1.4
        rim = Sketch(_around(left, right), _up(bottom, top))
        canvas.stroke(rim, mapping, pen_of(palette, number, 1.0 if self.postures else width, None))
        if has_view(tune):
            wedge = view_wedge(tune, box, float(trace[-1]["look_yaw"]))
            canvas.stroke(wedge, mapping, pen_of(palette, number, 1.0, WEDGE_DASHES))
        if self.postures:
            pose = self._pose_of(place)
            lines = posture(tune, box, pose.pose, pose.cycles, float(trace[-1]["facing"]))
            canvas.stroke(lines, mapping, pen_of(palette, number, width, SOLID))
        return mapping.rect(QRectF(QPointF(left, bottom), QPointF(right, top)))

    def _pose_of(self, place: int) -> PoseFollower:
        """The pose of a tune at its last row."""
        live = self.game.live
        assert live is not None
        if self._posed is None or self._posed[0] is not live:
            self._posed = live, [PoseFollower() for _ in live.tunes]
        pose = self._posed[1][place]
        pose.follow(live.trace(place), live.tunes[place])
        return pose

    def show_postures(self, on: bool) -> None:
        """Show bodies by their posture, or boxes alone."""
        self.postures = on
        self.update()

    def words(self) -> str:
        """State, held keys, what is left of coyote time and buffer, and what just happened to the followed tune."""
        live = self.game.live
        assert live is not None
        trace, tune = live.trace(self.followed), live.tunes[self.followed]
        row = trace[-1]
        words = [STATES[int(row["state"])]]
        held = sorted(self.game.hands().keys)
        if held:
            words.append("holds " + " ".join(held))
        words += [f"{GRACE_WORDS[word]} {self.units.time(left)} left" for word, left in grace_left(tune, row)]
        if has_view(tune):
            words.append(_looks(float(row["look_yaw"]), float(row["look_pitch"])))
        recent = trace[-max(1, round(MARK_SECONDS * live.tick_rate)) :]
        marked = np.flatnonzero(recent["marks"] & ~(1 << 10))
        if len(marked):
            words.append(" + ".join(name.replace("_", " ") for name in mark_names(int(recent["marks"][marked[-1]]))))
        return "   ·   ".join(words)

    def _draw_words(self, canvas: Canvas, mapping: Mapping, letters: Sequence[QRectF]) -> None:
        """Draw the words above the followed tune and the letters there."""
        at, text = self.position(self.followed), self.words()
        left, _bottom, right, top = box_of(self._followed_tune, at.x(), at.y())
        room, wide, high = self.width() - 26, caption_width(text, 8), look.height(8) + 4
        if wide > room:
            text = QFontMetrics(look.font(8)).elidedText(text, Qt.TextElideMode.ElideRight, room)
            wide = min(room, caption_width(text, 8))
        begin = round(min(max(mapping.x((left + right) / 2) - wide / 2 - 7, 6.0), max(6.0, self.width() - wide - 20.0)))
        over = mapping.y(top) - look.height(10, bold=True) - 6 - high
        for letter in sorted(letters, key=QRectF.top, reverse=True):
            if letter.intersects(QRectF(begin, over, wide + 14, high)):
                over = letter.top() - 2 - high
        over = round(max(2.0, over))
        ground = look.color(look.palette().paper, 225)
        canvas.box((begin, over + high, begin + wide + 14, over), PIXELS, ground)
        canvas.text(text, begin + 7, over + high / 2, 8, look.color(look.palette().ink))


def _looks(yaw: float, pitch: float) -> str:
    """Where the view looks, in words."""
    across = f"{abs(yaw):.0f}° {'right' if yaw > 0 else 'left'}"
    up = f"{abs(pitch):.0f}° {'up' if pitch > 0 else 'down'}"
    turned = [words for words, angle in ((across, yaw), (up, pitch)) if round(angle)]
    return f"looks {' and '.join(turned) or 'ahead'}"


@cache
def _trail_pen(palette: look.Palette, number: int) -> Pen:
    color = look.mixed(look.ink(palette, number), look.color(palette.paper), TRAIL_SHARE)
    return Pen(color, 1.0, look.dashes(number, 1.0))


def _around(left: float, right: float) -> tuple[float, ...]:
    """The x coordinates of a rectangle's outline."""
    return left, right, right, left, left


def _up(bottom: float, top: float) -> tuple[float, ...]:
    """The y coordinates of a rectangle's outline."""
    return top, top, bottom, bottom, top
