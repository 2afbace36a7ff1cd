"""A course: the geometry that a character moves through."""

from __future__ import annotations

import math
from typing import Annotated, NamedTuple

from pydantic import AfterValidator, FailFast, Field

from cinetica.model.base import FrozenModel

Coordinate = Annotated[float, Field(ge=-1e6, le=1e6)]
Factor = Annotated[float, Field(ge=0, le=1000)]
Acceleration = Annotated[float, Field(ge=-1e7, le=1e7)]


class Rectangle(NamedTuple):
    """A rectangle `[left, bottom, right, top]` in world units."""

    left: Coordinate
    bottom: Coordinate
    right: Coordinate
    top: Coordinate


def _has_area(rectangle: Rectangle) -> Rectangle:
    if rectangle.left >= rectangle.right or rectangle.bottom >= rectangle.top:
        raise ValueError("a rectangle is [left, bottom, right, top] with left < right and bottom < top")
    return rectangle


Area = Annotated[Rectangle, AfterValidator(_has_area)]
Areas = Annotated[tuple[Area, ...], FailFast()]


class Slope(NamedTuple):
    """A line `[x0, y0, x1, y1]` in world units, from its left end to its right end."""

    x0: Coordinate
    y0: Coordinate
    x1: Coordinate
    y1: Coordinate

    @property
    def angle(self) -> float:
        """The angle in degrees, positive where the line rises to the right."""
        return math.degrees(math.atan2(self.y1 - self.y0, self.x1 - self.x0))


def _has_run(slope: Slope) -> Slope:
    if slope.x0 >= slope.x1:
        raise ValueError("a slope is [x0, y0, x1, y1] with x0 < x1")
    return slope


Line = Annotated[Slope, AfterValidator(_has_run)]


class Zone(FrozenModel):
    """An area in which other numbers hold, felt by a body that overlaps it when a tick begins.

    `speed`, `acceleration`, `friction` and `gravity` are factors; `drag` is a rate per second; `push` is an
    acceleration in u/s². Ice, mud, water, wind, a conveyor belt.
    """

    box: Area
    speed: Factor = 1.0
    acceleration: Factor = 1.0
    friction: Factor = 1.0
    gravity: Factor = 1.0
    drag: Annotated[float, Field(ge=0, le=1e5)] = 0.0
    push: tuple[Acceleration, Acceleration] = (0.0, 0.0)


class Course(FrozenModel):
    """Solids, one-way solids, climb zones, slopes and zones.

    Solids block from all sides, one-way solids only from above; climb zones can be held; slopes carry the feet; zones
    change how a body moves.
    """

    solids: Areas = ()
    oneway: Areas = ()
    climb: Areas = ()
    slopes: Annotated[tuple[Line, ...], FailFast()] = ()
    zones: Annotated[tuple[Zone, ...], FailFast()] = ()
