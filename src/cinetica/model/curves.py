"""Curves that are drawn: 2 to 12 points, straight between them and level outside."""

from __future__ import annotations

from typing import Annotated, NamedTuple

from pydantic import AfterValidator, Field

FEWEST_POINTS, MOST_POINTS = 2, 12


class Point(NamedTuple):
    """A point of a curve."""

    x: Annotated[float, Field(ge=0, le=1000)]
    y: Annotated[float, Field(ge=0, le=1000)]


def _rises(points: tuple[Point, ...]) -> tuple[Point, ...]:
    if any(before.x >= after.x for before, after in zip(points, points[1:], strict=False)):
        raise ValueError("the points of a curve go from left to right: each x is greater than the one before")
    return points


def _is_a_share(points: tuple[Point, ...]) -> tuple[Point, ...]:
    if any(point.x > 1 or point.y > 1 for point in points):
        raise ValueError("the points of this curve go from 0 to 1, both ways")
    return points


Points = Annotated[tuple[Point, ...], Field(min_length=FEWEST_POINTS, max_length=MOST_POINTS), AfterValidator(_rises)]
# From a share to a share.
Shares = Annotated[Points, AfterValidator(_is_a_share)]
EVEN = (Point(0.0, 1.0), Point(1.0, 1.0))
STRAIGHT = (Point(0.0, 0.0), Point(1.0, 1.0))


def curve_text(points: tuple[Point, ...]) -> str:
    """A curve as text: its points as “x y”, with commas between them."""
    return ", ".join(f"{x:.10g} {y:.10g}" for x, y in points)


def curve_from_text(text: str) -> tuple[Point, ...]:
    """Read a curve from text such as “0 1, 0.5 0.8, 1 0.5”; ValueError if the text is not a curve.

    Semicolons and brackets do as well, as in “[[0, 1], [1, 0.5]]”.
    """
    numbers = text.replace("−", "-")
    for mark in "[](){},;":
        numbers = numbers.replace(mark, " ")
    try:
        found = [float(part) for part in numbers.split()]
    except ValueError as error:
        raise ValueError(f"“{text}” is not a curve: type its points as x y, such as 0 1, 0.5 0.8, 1 0.5.") from error
    if len(found) % 2:
        raise ValueError(f"“{text}” has an x without its y: type both of each point, such as 0 1, 0.5 0.8, 1 0.5.")
    return tuple(Point(x, y) for x, y in zip(found[::2], found[1::2], strict=True))


# The least distance between points that are dragged toward each other.
APART = 0.001


def with_point_moved(points: tuple[Point, ...], number: int, x: float, y: float) -> tuple[Point, ...]:
    """Move a point, at most up to its neighbours."""
    if number > 0:
        x = max(x, round(points[number - 1].x + APART, 6))
    if number < len(points) - 1:
        x = min(x, round(points[number + 1].x - APART, 6))
    return (*points[:number], Point(x, y), *points[number + 1 :])


def with_point(points: tuple[Point, ...], x: float, y: float) -> tuple[Point, ...]:
    """Add a point, instead of one at the same x."""
    return tuple(sorted([*(point for point in points if point.x != x), Point(x, y)]))


def without_point(points: tuple[Point, ...], number: int) -> tuple[Point, ...]:
    """Remove a point."""
    return points[:number] + points[number + 1 :]


def height_at(points: tuple[Point, ...], x: float) -> float:
    """The height of a curve at x."""
    if x <= points[0].x:
        return points[0].y
    for before, after in zip(points, points[1:], strict=False):
        if x <= after.x:
            return before.y + (after.y - before.y) * ((x - before.x) / (after.x - before.x))
    return points[-1].y
