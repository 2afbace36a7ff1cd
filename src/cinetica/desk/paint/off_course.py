"""Falls off the course: how far down plots follow them, and an arrow that says how far they went."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QPointF, Qt

from cinetica.desk import look
from cinetica.desk.paint.canvas import Canvas
from cinetica.desk.paint.mapping import Mapping
from cinetica.desk.paint.signs import triangle
from cinetica.desk.state.tune_run import TuneRun
from cinetica.model.study import Drill
from cinetica.reading.display_units import Scale

# How far below everything that can be stood on a fall stays in view, in body heights.
FOLLOWED = 3.0
# Columns that show the body's place, and end where a fall leaves the view.
PLACES = ("x", "y", "camera_x", "camera_y")
Span = tuple[float, float]


def deepest_followed(drill: Drill | None, shown: Sequence[TuneRun]) -> float:
    """The height, in u, below which a fall is not followed; −∞ seen from above, or without anything to fall off.

    It is a few body heights below the lowest top, slope or start of the course.
    """
    if drill is None or drill.view != "side" or not shown:
        return -np.inf
    course = drill.course
    tops = [box[3] for box in (*course.solids, *course.oneway)]
    tops += [height for slope in course.slopes for height in (slope[1], slope[3])]
    return min([drill.start[1], *tops]) - FOLLOWED * max(one.tune.body.height for one in shown)


def followed_span(one: TuneRun, column: str, deepest: float) -> Span:
    """The range of a column, without the rest of a fall if the column is a position."""
    if column not in PLACES or one.trace.span("y")[0] >= deepest:
        return one.trace.span(column)
    still = one.trace[column][np.asarray(one.trace["y"]) >= deepest]
    low, high = (float(still.min()), float(still.max())) if len(still) else (0.0, 0.0)
    return (max(low, deepest) if column == "y" else low), high


class Fallen:
    """A layer: an arrow at the bottom edge for each tune that leaves the view there, and how far down it went."""

    key = None

    def __init__(self) -> None:
        self.fallen: list[tuple[int, float, float]] = []

    def show(self, shown: Sequence[TuneRun], deepest: float) -> None:
        """Update with tunes that fall below `deepest`: place, x where they pass it, and the lowest y, in u."""
        self.fallen = []
        for one in shown:
            lowest = one.trace.span("y")[0]
            if lowest < deepest:
                row = int(np.argmax(np.asarray(one.trace["y"]) < deepest))
                self.fallen.append((one.place, float(one.trace["x"][row]), lowest))

    def words(self, height: Scale) -> str:
        """Who falls, and how far down the lowest of them; empty if nobody does. `height`: how that is shown."""
        if not self.fallen:
            return ""
        letters = ", ".join(look.letter(place) for place, _, _ in self.fallen)
        lowest = min(low for _, _, low in self.fallen)
        verb = "falls" if len(self.fallen) == 1 else "fall"
        return f"{letters} {verb} to {height.shown(lowest):.0f} {height.unit}".replace("-", "−")

    def draw(self, canvas: Canvas, mapping: Mapping, palette: look.Palette) -> None:
        """Draw the layer."""
        area, size = mapping.area, look.px(9)
        canvas.antialias(True)
        canvas.painter.setPen(Qt.PenStyle.NoPen)
        for place, x, lowest in self.fallen:
            if lowest < mapping.view.top():
                at = min(max(mapping.x(x), area.left() + size), area.right() - size)
                canvas.painter.setBrush(look.ink(palette, place))
                canvas.painter.drawPolygon(triangle(QPointF(at, area.bottom() - size), size, "down"))
