"""Editing a course: rectangles added, moved, resized and removed. Every change gives a new course."""

from __future__ import annotations

from typing import Literal

from cinetica.model.course import Course, Rectangle

Kind = Literal["solids", "oneway", "climb"]
KINDS: dict[Kind, str] = {"solids": "solid", "oneway": "one-way solid", "climb": "climb zone"}
GRID = 0.25
FARTHEST = 1e6


def snapped(value: float, grid: float = GRID) -> float:
    """On the grid; with grid 0 as it is, but for digits that nobody set."""
    return round(round(value / grid) * grid, 9) if grid > 0 else round(value, 4)


def with_area(rectangle: Rectangle, grid: float = GRID) -> Rectangle:
    """Its sides in order, within reach, and at least a grid step (or 0.01 u) apart."""
    least = grid or 0.01
    left, right = sorted((rectangle.left, rectangle.right))
    bottom, top = sorted((rectangle.bottom, rectangle.top))
    left, bottom = (min(max(value, -FARTHEST), FARTHEST - least) for value in (left, bottom))
    return Rectangle(left, bottom, min(max(right, left + least), FARTHEST), min(max(top, bottom + least), FARTHEST))


def with_rectangle(course: Course, kind: Kind, rectangle: Rectangle, *, instead_of: Rectangle | None = None) -> Course:
    """One rectangle more, or one exchanged; it keeps its place in the list."""
    there: tuple[Rectangle, ...] = getattr(course, kind)
    if instead_of in there:
        place = there.index(instead_of)
        changed = (*there[:place], rectangle, *there[place + 1 :])
    else:
        changed = (*there, rectangle)
    return course.model_copy(update={kind: changed})


def without_rectangle(course: Course, kind: Kind, rectangle: Rectangle) -> Course:
    return course.model_copy(update={kind: tuple(other for other in getattr(course, kind) if other != rectangle)})


def shifted(rectangle: Rectangle, dx: float, dy: float) -> Rectangle:
    return Rectangle(rectangle.left + dx, rectangle.bottom + dy, rectangle.right + dx, rectangle.top + dy)


def rectangle_from_text(text: str) -> Rectangle:
    """A rectangle typed as “left bottom right top”; ValueError, in words, if it is none."""
    try:
        left, bottom, right, top = (
            float(part.replace("−", "-")) for part in text.replace(",", " ").replace(";", " ").split()
        )
    except ValueError as error:
        raise ValueError(f"“{text}” is no rectangle: type left, bottom, right and top, such as 2 0 4 0.5.") from error
    if not (left < right and bottom < top):
        raise ValueError("A rectangle needs left smaller than right and bottom smaller than top.")
    if max(abs(left), abs(bottom), abs(right), abs(top)) > FARTHEST:
        raise ValueError(f"A course reaches from −{FARTHEST:g} to {FARTHEST:g} u.")
    return Rectangle(left, bottom, right, top)
