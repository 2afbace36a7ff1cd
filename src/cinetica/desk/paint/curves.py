"""The curves of a plot, with no more points than the screen shows."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import cache, partial
from operator import is_, is_not

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF
from PySide6.QtGui import QColor, QPainterPath

from cinetica.desk import look
from cinetica.desk.paint.canvas import Canvas, Points
from cinetica.desk.paint.mapping import Mapping
from cinetica.desk.paint.plate import Part
from cinetica.desk.state.shown import Shown
from cinetica.reading.thinning import Curve, as_steps, envelope, part_in_view, without_repeats

WIDTH, WAKE_WIDTH, THICKET_WIDTH = 2.0, 3.0, 1.0
# Curves of up to so many points are drawn as they are.
PLAIN = 1500
# Up to so many samples in view each bear the tune's own shape; more of them are dots.
SHAPED = 150
WAKE_SHARE = 0.35

CurveOf = Callable[[Shown], Curve]


class DrawnCurve:
    """One tune's curve. `key` says what it is made of."""

    def __init__(self, key: tuple[object, ...], shown: Shown, curve: Curve, drawing: str) -> None:
        self.key, self.place, self.drawing, self._made_of = key, shown.place, drawing, curve
        x, y = curve
        self.points = Points(*as_steps(x, y)) if drawing == "steps" else Points(x, y)
        # What of a long curve can be seen, and in which view.
        self._thinned: tuple[object, Points] | None = None

    def is_as(self, shown: Shown, curve: Curve, drawing: str) -> bool:
        """Whether it would be drawn in the same way."""
        alike = shown.place == self.place and drawing == self.drawing
        # What is other is mostly other in y.
        return alike and _equal(curve[1], self._made_of[1]) and _equal(curve[0], self._made_of[0])

    def lies_on(self, other: DrawnCurve) -> bool:
        (x, y), (other_x, other_y) = self._made_of, other._made_of
        return self.drawing == other.drawing and _equal(y, other_y) and _equal(x, other_x)

    @property
    def x(self) -> NDArray[np.float64]:
        return self.points.x

    @property
    def y(self) -> NDArray[np.float64]:
        return self.points.y

    def visible(self, mapping: Mapping, *, over_time: bool) -> Points:
        """The points to draw: of a curve over time those in view, and of a long one no more than can be told apart."""
        left, right, points = mapping.view.left(), mapping.view.right(), self.points
        if len(self.x) <= PLAIN:
            if over_time:
                points.first, points.count = part_in_view(self.x, left, right)
            return points
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
    """A layer: a curve for each tune that is shown; `curve` says which x and y a tune has here.

    Over time x is sorted; a path goes anywhere. A wake is what was there before, paler.
    """

    def __init__(
        self, curve: CurveOf, *, wake: bool = False, over_time: bool = True, under: Curves | None = None
    ) -> None:
        """`under`: the curves of now; of a wake only what is other than they are is drawn, or it would fill the gaps
        of their dashes."""
        self._curve, self._wake, self._over_time, self._under = curve, wake, over_time, under
        self.drawn: list[DrawnCurve] = []
        # What was to be shown the last time.
        self._asked: tuple[object, ...] = ()
        # The part of each curve. A curve must not know it: a ring of the two would wait for the collector.
        self._own: list[Part] = []
        # The parts that are drawn, with the lists of curves, which are replaced and not changed, that they are of.
        self._parts: tuple[list[DrawnCurve], list[DrawnCurve] | None, list[Part]] | None = None

    @property
    def key(self) -> object:
        return tuple(self.drawn)

    def show(self, shown: Sequence[Shown], drawing: str = "lines", *also: object) -> bool:
        """Whether anything is other than before; `also` is all else that the curves depend on."""
        asked = (list(shown), drawing, also)
        if asked == self._asked:
            return False
        self._asked, drawn = asked, []
        for number, one in enumerate(shown):
            # What a game has logged is nothing but samples.
            style = "points" if one.trace.logged else drawing
            key = (one, style, *also)
            kept = self.drawn[number] if number < len(self.drawn) else None
            if kept is None or not _same(kept.key, key):
                curve = self._curve(one)
                if kept is not None and kept.is_as(one, curve, style):
                    # Another run that went the same way: nothing of it is to be drawn again.
                    kept.key = key
                else:
                    kept = DrawnCurve(key, one, curve, style)
            drawn.append(kept)
        changed = len(drawn) != len(self.drawn) or any(map(is_not, drawn, self.drawn))
        if changed:
            before = {id(part.made): part for part in self._own}
            self._own = [before.get(id(one)) or Part(one, partial(self._draw_curve, one)) for one in drawn]
            self.drawn = drawn
        return changed

    @property
    def parts(self) -> list[Part]:
        under = None if self._under is None else self._under.drawn
        kept = self._parts
        if kept is None or kept[0] is not self.drawn or kept[1] is not under:
            kept = self._parts = (self.drawn, under, self._parts_over(under or ()))
        return kept[2]

    def _parts_over(self, under: Sequence[DrawnCurve]) -> list[Part]:
        # The first tune is the one that the others are held against: it lies on top.
        over = {curve.place: curve for curve in under}
        return [
            part
            for curve, part in zip(reversed(self.drawn), reversed(self._own), strict=True)
            if not ((now := over.get(curve.place)) and now.lies_on(curve))
        ]

    def draw(self, canvas: Canvas, mapping: Mapping, palette: look.Palette) -> None:
        for part in self.parts:
            part.draw(canvas, mapping, palette)

    def _draw_curve(self, curve: DrawnCurve, canvas: Canvas, mapping: Mapping, palette: look.Palette) -> None:
        points = curve.visible(mapping, over_time=self._over_time)
        color = look.ink(palette, curve.place)
        if curve.drawing == "points":
            _draw_samples(canvas, mapping, curve.place, color, points)
        elif self._wake:
            canvas.line(points, mapping, _pale(color.rgb(), palette.paper), WAKE_WIDTH)
        elif self._over_time and _is_thicket(curve, points, mapping):
            # Dashes of what goes up and down within a pixel cannot be seen, only waited for.
            canvas.line(points, mapping, color, THICKET_WIDTH)
        else:
            canvas.line(points, mapping, color, WIDTH, look.dashes(curve.place, WIDTH), anchored=self._over_time)


@cache
def _pale(ink: int, paper: str) -> QColor:
    return look.mixed(QColor(ink), QColor(paper), WAKE_SHARE)


def _is_thicket(curve: DrawnCurve, points: Points, mapping: Mapping) -> bool:
    """Whether a long curve goes up and down by more than a pixel in most columns."""
    if len(curve.x) <= PLAIN:
        return False
    y = points.part[1]
    return len(y) > 1 and float(np.nanmean(np.abs(np.diff(y)))) * abs(mapping.down) > 1


def _equal(one: NDArray[np.float64], other: NDArray[np.float64]) -> bool:
    """NaN is as NaN. By their bytes, which is the quickest way to find a difference; of long ones a few first, and
    without a copy."""
    if one is other or one.size != other.size:
        return one is other
    if one.size <= PLAIN:
        return one.tobytes() == other.tobytes()
    step = 1 + one.size // PLAIN
    if one[::step].tobytes() != other[::step].tobytes():
        return False
    if one.itemsize != 8 or other.itemsize != 8:
        return one.tobytes() == other.tobytes()
    return bool((one.view(np.int64) == other.view(np.int64)).all())


def _same(kept: tuple[object, ...], key: tuple[object, ...]) -> bool:
    return len(kept) == len(key) and all(map(is_, kept, key))


@cache
def _dot() -> QPainterPath:
    path = QPainterPath()
    path.addEllipse(QPointF(0, 0), 1.0, 1.0)
    return path


def _draw_samples(canvas: Canvas, mapping: Mapping, place: int, color: QColor, points: Points) -> None:
    """Nothing but the samples."""
    x = points.part[0]
    few = np.count_nonzero((x >= mapping.view.left()) & (x <= mapping.view.right())) <= SHAPED
    if few:
        canvas.marks(look.shape(place, 5), points, mapping, color, 1, QColor(0, 0, 0, 0))
    else:
        canvas.marks(_dot(), points, mapping, color, 1, color)


def with_zero(spans: Sequence[tuple[float, float]]) -> tuple[float, float]:
    """The span of several spans, and of 0."""
    return min(0.0, *(span[0] for span in spans), 0.0), max(0.0, *(span[1] for span in spans), 0.0)
