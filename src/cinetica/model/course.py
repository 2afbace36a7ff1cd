"""A course: the geometry that a character moves through."""

from __future__ import annotations

from typing import Annotated, NamedTuple

from pydantic import AfterValidator, FailFast, Field

from cinetica.model.parameters import Strict

Coordinate = Annotated[float, Field(ge=-1e6, le=1e6)]


class Rectangle(NamedTuple):
    """`[left, bottom, right, top]` in world units."""

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


class Course(Strict):
    """Solids block, one-way solids block only what falls onto them, climb zones can be held."""

    solids: Areas = ()
    oneway: Areas = ()
    climb: Areas = ()
