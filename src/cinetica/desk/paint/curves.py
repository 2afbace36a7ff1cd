"""The curves of a plot, with no more points than the screen can show."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import cache, partial
from operator import is_

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF
from PySide6.QtGui import QColor, QPainterPath

from cinetica.desk import look
from cinetica.desk.paint.canvas import Canvas, Mark, Pen, pen_of
from cinetica.desk.paint.mapping import Mapping
from cinetica.desk.paint.plot_layers import Part
from cinetica.desk.state.tune_run import TuneRun
from cinetica.motion.polyline import Points
from cinetica.reading.thinning import as_steps, envelope, part_in_view, without_repeats

WIDTH, WAKE_WIDTH, THICKET_WIDTH = 2.0, 3.0, 1.0
# Curves with up to this many points are drawn in full.
PLAIN = 1500
# Up to this many samples in view have the tune's own shape; more are dots.
SHAPED = 150
WAKE_SHARE = 0.35

CurveOf = Callable[[TuneRun], Points]


class DrawnCurve:
    """One tune's curve; `also` is everything that it depends on besides the run."""

    def __init__(self, shown: TuneRun, given: Points, drawing: str, also: tuple[object, ...]) -> None:
        self.shown, self.given, self.drawing, self.also = shown, given, drawing, also
        self.place = shown.place
        self.points = Points(*as_steps(given.x, given.y)) if drawing == "steps" else given
        # The visible part of a long curve, and the view that it is for.
        self._thinned: tuple[object, Points] | None = None

    def is_of(self, shown: TuneRun, drawing: str, also: tuple[object, ...]) -> bool:
        """Whether this is the curve of a run, drawn in this way."""
        return self.shown is shown and self.drawing == drawing and self.also == also

    def lies_on(self, other: DrawnCurve) -> bool:
        """Whether it coincides with another."""
        return self.drawing == other.drawing and self.given.equals(other.given)

    @property
    def x(self) -> NDArray[np.float64]:
        """The x coordinates."""
        return self.points.x

    @property
    def y(self) -> NDArray[np.float64]:
        """The y coordinates."""
        return self.points.y

    def visible(self, mapping: Mapping, *, over_time: bool) -> Points:
        """The points to draw: over time those in view, and of a long curve only those that differ on the screen."""
        (left, right), points = mapping.across_view, self.points
        if points.count <= PLAIN:
            if not over_time or (points.count and left <= points.x[0] and points.x[-1] <= right):
                return points
            return points.part(*part_in_view(points.x, left, right))
        view = (left, right, mapping.area.width()) if over_time else mapping.pixel
        if self._thinned is None or self._thinned[0] != view:
            if over_time:
                first, count = part_in_view(self.x, left, right)
                part = self.x[first : first + count], self.y[first : first + count]
                thinned = envelope(*part, max(16, round(mapping.area.width())))
            else:
                thinned = without_repeats(self.x, self.y, *mapping.pixel)
            self._thinned = (view, Points(*thinned))
        return self._thinned[1]


class Curves:
    """A layer: a curve for each visible tune; `curve` gives a tune's x and y here.

    Over time x is sorted; a path goes anywhere. A wake is what was there before, paler.
    """

    def __init__(
        self, curve: CurveOf, *, wake: bool = False, over_time: bool = True, under: Curves | None = None
    ) -> None:
        """Create an empty layer.

        `under`: the current curves; only the part of a wake that differs is drawn, or it would fill the gaps of their
        dashes.
        """
        self._curve, self._wake, self._over_time, self._under = curve, wake, over_time, under
        self.drawn: list[DrawnCurve] = []
        # Those before: a wake is what they were.
        self._before: list[DrawnCurve] = []
        # What was requested last.
        self._asked: tuple[object, ...] = ()
        # The parts drawn, with the lists of curves that they were made from; lists are replaced, never changed.
        self._parts: tuple[list[DrawnCurve], list[DrawnCurve] | None, list[Part]] | None = None

    @property
    def key(self) -> object:
        """What the layer depends on."""
        return tuple(self.drawn)

    def show(self, shown: Sequence[TuneRun], drawing: str = "lines", *also: object) -> bool:
        """Update; returns whether anything changed. `also` is everything else that the curves depend on."""
        asked = (list(shown), drawing, also)
        if asked == self._asked:
            return False
        self._asked, there, drawn = asked, dict(enumerate(self.drawn)), list[DrawnCurve]()
        for number, one in enumerate(shown):
            # A game's log has only samples.
            style = "points" if one.trace.logged else drawing
            kept = there.get(number)
            if kept is None or not kept.is_of(one, style, also):
                kept = self._made(one, style, also, kept)
            drawn.append(kept)
        if self._under is not None:
            self._under._before = []
        if len(drawn) == len(self.drawn) and all(map(is_, drawn, self.drawn)):
            return False
        self._before, self.drawn = ([] if self._wake else self.drawn), drawn
        return True

    def _made(self, shown: TuneRun, drawing: str, also: tuple[object, ...], kept: DrawnCurve | None) -> DrawnCurve:
        """The curve of a run that is not drawn yet."""
        points = self._points_of(shown, drawing, also)
        if kept is not None and (kept.place, kept.drawing) == (shown.place, drawing) and kept.given.equals(points):
            # Another run along the same path: it need not be drawn again.
            kept.shown, kept.also = shown, also
            return kept
        return DrawnCurve(shown, points, drawing, also)

    def _points_of(self, shown: TuneRun, drawing: str, also: tuple[object, ...]) -> Points:
        """The points of a run; a wake usually has those of a current or recent curve."""
        if self._under is not None:
            for curves in (self._under._before, self._under.drawn):
                curve = next((curve for curve in curves if curve.shown is shown), None)
                if curve is not None and curve.is_of(shown, drawing, also):
                    return curve.given
        return self._curve(shown)

    @property
    def parts(self) -> list[Part]:
        """The curves, tune by tune."""
        under = None if self._under is None else self._under.drawn
        kept = self._parts
        if kept is None or kept[0] is not self.drawn or kept[1] is not under:
            kept = self._parts = (self.drawn, under, self._parts_over(under or ()))
        return kept[2]

    def _parts_over(self, under: Sequence[DrawnCurve]) -> list[Part]:
        # The first tune is the reference: it is drawn on top.
        over = {curve.place: curve for curve in under}
        return [
            Part(curve, partial(self._draw_curve, curve))
            for curve in reversed(self.drawn)
            if not ((now := over.get(curve.place)) and now.lies_on(curve))
        ]

    def draw(self, canvas: Canvas, mapping: Mapping, palette: look.Palette) -> None:
        """Draw the layer."""
        for part in self.parts:
            part.draw(canvas, mapping, palette)

    def _draw_curve(self, curve: DrawnCurve, canvas: Canvas, mapping: Mapping, palette: look.Palette) -> None:
        points = curve.visible(mapping, over_time=self._over_time)
        if curve.drawing == "points":
            _draw_samples(canvas, mapping, curve.place, look.ink(palette, curve.place), points)
        elif self._wake:
            canvas.curve(points, mapping, _wake_pen(palette, curve.place))
        elif self._over_time and _is_dense(curve, points, mapping):
            # The dashes of a curve that goes up and down within a pixel cannot be seen, and are slow.
            canvas.curve(points, mapping, pen_of(palette, curve.place, THICKET_WIDTH))
        else:
            canvas.curve(points, mapping, pen_of(palette, curve.place, WIDTH, None, anchored=self._over_time))


def path_of(shown: TuneRun) -> Points:
    """The path of the middle of the body."""
    if shown.tune.view == "top":
        return shown.trace.points("x", "y")
    return Points(shown.trace["x"], shown.trace["y"] + shown.tune.body.height / 2)


@cache
def _wake_pen(palette: look.Palette, place: int) -> Pen:
    return Pen(look.mixed(look.ink(palette, place), QColor(palette.paper), WAKE_SHARE), WAKE_WIDTH)


def _is_dense(curve: DrawnCurve, points: Points, mapping: Mapping) -> bool:
    """Whether a long curve goes up and down by more than a pixel in most columns."""
    if curve.points.count <= PLAIN:
        return False
    y = points.y
    return len(y) > 1 and float(np.nanmean(np.abs(np.diff(y)))) * abs(mapping.down) > 1


@cache
def _dot() -> QPainterPath:
    path = QPainterPath()
    path.addEllipse(QPointF(0, 0), 1.0, 1.0)
    return path


def _draw_samples(canvas: Canvas, mapping: Mapping, place: int, color: QColor, points: Points) -> None:
    """Draw only the samples."""
    x = points.x
    few = np.count_nonzero((x >= mapping.view.left()) & (x <= mapping.view.right())) <= SHAPED
    if few:
        canvas.marks(points, mapping, Mark(look.shape(place, 5), color, 1, QColor(0, 0, 0, 0)))
    else:
        canvas.marks(points, mapping, Mark(_dot(), color, 1, color))


def with_zero(spans: Sequence[tuple[float, float]]) -> tuple[float, float]:
    """The range that contains these ranges, and 0."""
    return min(0.0, *(span[0] for span in spans), 0.0), max(0.0, *(span[1] for span in spans), 0.0)
