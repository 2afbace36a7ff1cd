"""Editing a course: rectangles and slopes are added, moved, resized and removed. Every edit returns a new course.

A shape is a rectangle or a slope. It is dragged by its handles: the sides of a rectangle, the ends of a slope.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any, Literal

from cinetica.model.course import Course, Rectangle, Slope, Zone

Kind = Literal["solids", "oneway", "climb", "slopes", "zones"]
KINDS: dict[Kind, str] = {
    "solids": "solid", "oneway": "one-way solid", "climb": "climb zone", "slopes": "slope", "zones": "zone",
}  # fmt: skip
# The names of a shape's four numbers, as typed.
NUMBERS: dict[Kind, str] = {
    "solids": "left bottom right top", "oneway": "left bottom right top", "climb": "left bottom right top",
    "slopes": "x0 y0 x1 y1", "zones": "left bottom right top, and what it does",
}  # fmt: skip
Shape = Rectangle | Slope | Zone
ICE = "ice"
# Common kinds of zones, by name.
PRESETS: dict[str, dict[str, Any]] = {
    ICE: {"acceleration": 0.3, "friction": 0.1},
    "mud": {"speed": 0.5, "acceleration": 0.5},
    "water": {"speed": 0.6, "gravity": 0.3, "drag": 2.0},
    "wind": {"push": (15.0, 0.0)},
    "belt": {"push": (90.0, 0.0)},
}
FACTORS = ("speed", "acceleration", "friction", "gravity")
# What can be typed for a zone's effect: a preset's name, or what it changes and by how much.
EFFECTS = (", ".join(PRESETS), ", ".join((*(f"{name} 0.5" for name in FACTORS), "drag 2", "push 30 0")))
Place = tuple[float, float]
ENDS = ("start", "end")
GRID = 0.25
FARTHEST = 1e6
# The least side of a shape without a grid.
LEAST = 0.0001


def snapped(value: float, grid: float = GRID) -> float:
    """Round a coordinate to the grid.

    With grid 0 it stays as it is, apart from digits that are only rounding errors.
    """
    return round(round(value / grid) * grid, 9) if grid > 0 else round(value, 6)


def within(value: float) -> float:
    """Limit a coordinate to the largest that a course may have."""
    return min(max(value, -FARTHEST), FARTHEST)


def with_area(rectangle: Rectangle, grid: float = GRID) -> Rectangle:
    """Put a rectangle's sides in order and keep them in range and at least a grid step (or 0.0001 u) apart."""
    least = grid or LEAST
    left, right = sorted((rectangle.left, rectangle.right))
    bottom, top = sorted((rectangle.bottom, rectangle.top))
    left, bottom = (min(max(value, -FARTHEST), FARTHEST - least) for value in (left, bottom))
    return Rectangle(left, bottom, min(max(right, left + least), FARTHEST), min(max(top, bottom + least), FARTHEST))


def with_run(slope: Slope, grid: float = GRID) -> Slope:
    """Put a slope's ends in order and keep them in range and at least a grid step (or 0.0001 u) apart in x."""
    least = grid or LEAST
    (x0, y0), (x1, y1) = sorted(((slope.x0, slope.y0), (slope.x1, slope.y1)))
    x0 = min(max(x0, -FARTHEST), FARTHEST - least)
    return Slope(x0, within(y0), min(max(x1, x0 + least), FARTHEST), within(y1))


def between(kind: Kind, a: Place, b: Place, grid: float = GRID, preset: str = ICE) -> Shape:
    """The shape that a drag from `a` to `b` draws; a zone does what the preset of this name does."""
    if kind == "slopes":
        return with_run(Slope(*a, *b), grid)
    if kind == "zones":
        return Zone(box=with_area(Rectangle(*a, *b), grid), **PRESETS[preset])
    return with_area(Rectangle(*a, *b), grid)


def with_shape(course: Course, kind: Kind, shape: Shape, *, instead_of: Shape | None = None) -> Course:
    """Add a shape, or replace the one given as `instead_of`.

    A replaced shape keeps its position in the list.
    """
    there: tuple[Shape, ...] = getattr(course, kind)
    if instead_of in there:
        place = there.index(instead_of)
        changed = (*there[:place], shape, *there[place + 1 :])
    else:
        changed = (*there, shape)
    return course.model_copy(update={kind: changed})


def without_shape(course: Course, kind: Kind, shape: Shape) -> Course:
    """Remove a shape."""
    return course.model_copy(update={kind: tuple(other for other in getattr(course, kind) if other != shape)})


def boxed(zone: Zone, box: Shape) -> Zone:
    """A zone elsewhere."""
    return zone.model_copy(update={"box": box})


def outline(shape: Shape) -> Rectangle | Slope:
    """Where a shape is."""
    return shape.box if isinstance(shape, Zone) else shape


def shifted(shape: Shape, dx: float, dy: float) -> Shape:
    """Move a shape by (dx, dy), in u."""
    if isinstance(shape, Zone):
        return boxed(shape, shifted(shape.box, dx, dy))
    x0, y0, x1, y1 = shape
    return type(shape)(x0 + dx, y0 + dy, x1 + dx, y1 + dy)


# Handles


def handles_at(shape: Shape, at: Place, reach: Place) -> tuple[str, ...] | None:
    """The handles at a place, within the distance `reach` in x and y.

    Empty if the place is on the shape itself, None if it is beside the shape.
    """
    if isinstance(shape, Zone):
        return _sides_at(shape.box, at, reach)
    return _ends_at(shape, at, reach) if isinstance(shape, Slope) else _sides_at(shape, at, reach)


def _sides_at(rectangle: Rectangle, at: Place, reach: Place) -> tuple[str, ...] | None:
    (x, y), (across, up) = at, reach
    if not (rectangle.left - across <= x <= rectangle.right + across):
        return None
    if not (rectangle.bottom - up <= y <= rectangle.top + up):
        return None
    sides = [side for side in ("left", "right") if abs(x - getattr(rectangle, side)) <= across][:1]
    return (*sides, *[side for side in ("bottom", "top") if abs(y - getattr(rectangle, side)) <= up][-1:])


def _ends_at(slope: Slope, at: Place, reach: Place) -> tuple[str, ...] | None:
    (x, y), (across, up) = at, reach
    for end, (to_x, to_y) in zip(ENDS, ((slope.x0, slope.y0), (slope.x1, slope.y1)), strict=True):
        if abs(x - to_x) <= across and abs(y - to_y) <= up:
            return (end,)
    # Distance from the line, in grips.
    run, rise = (slope.x1 - slope.x0) / across, (slope.y1 - slope.y0) / up
    along = ((x - slope.x0) / across * run + (y - slope.y0) / up * rise) / (run * run + rise * rise)
    away = ((x - slope.x0) / across - along * run) ** 2 + ((y - slope.y0) / up - along * rise) ** 2
    return () if 0.0 <= along <= 1.0 and away <= 1.0 else None


def dragged(shape: Shape, handles: tuple[str, ...], to: Place, grid: float = GRID) -> Shape:
    """Drag the given handles of a shape to a place, but not past the opposite ones."""
    if isinstance(shape, Zone):
        return boxed(shape, dragged(shape.box, handles, to, grid))
    values, least = shape._asdict(), grid or 0.01
    if isinstance(shape, Slope):
        if "start" in handles:
            return Slope(min(to[0], shape.x1 - least), to[1], shape.x1, shape.y1)
        return Slope(shape.x0, shape.y0, max(to[0], shape.x0 + least), to[1])
    for side in handles:
        value = to[0] if side in ("left", "right") else to[1]
        opposite = values[{"left": "right", "right": "left", "bottom": "top", "top": "bottom"}[side]]
        values[side] = min(value, opposite - least) if side in ("left", "bottom") else max(value, opposite + least)
    return Rectangle(**values)


def grown(shape: Shape, dx: float, dy: float, least: float) -> Shape:
    """Move the right and top sides of a rectangle, or the right end of a slope, but not past the opposite ones."""
    if isinstance(shape, Zone):
        return boxed(shape, grown(shape.box, dx, dy, least))
    x0, y0, x1, y1 = shape
    if isinstance(shape, Slope):
        return Slope(x0, y0, max(x1 + dx, x0 + least), y1 + dy)
    return Rectangle(x0, y0, max(x1 + dx, x0 + least), max(y1 + dy, y0 + least))


def corners(course: Course, but: Shape | None = None) -> Iterator[Place]:
    """Places that the end of a slope snaps to: upper corners of solids and the ends of the other slopes."""
    for solid in (*course.solids, *course.oneway):
        yield from ((solid.left, solid.top), (solid.right, solid.top))
    for slope in course.slopes:
        if slope != but:
            yield from ((slope.x0, slope.y0), (slope.x1, slope.y1))


# Words


def _same(x: float, y: float) -> Place:
    return x, y


def zone_words(
    zone: Zone, push: Callable[[float, float], Place] = _same, drag: Callable[[float], float] = float
) -> str:
    """What a zone does, as it is typed: a word for it, or what differs; `push` and `drag` convert to what is shown."""
    does = zone.model_dump(exclude={"box"}, exclude_defaults=True)
    for name, values in PRESETS.items():
        if does == values:
            return name
    words = [f"{name} {does[name]:g}" for name in FACTORS if name in does]
    words += [f"drag {drag(zone.drag):g}"] if zone.drag else []
    words += ["push {:g} {:g}".format(*push(*zone.push))] if zone.push != (0.0, 0.0) else []
    return " ".join(words).replace("-", "−")


def zone_name(zone: Zone) -> str:
    """What a zone does, for a label: a word for it, or what it changes, without numbers that have a unit."""
    if (word := zone_words(zone)) in PRESETS:
        return word
    named = [f"{name} × {getattr(zone, name):g}" for name in FACTORS if getattr(zone, name) != 1.0]
    named += ["drag"] if zone.drag else []
    named += ["push"] if zone.push != (0.0, 0.0) else []
    return ", ".join(named)


def zone_from_text(
    text: str,
    kept: Callable[[float, float], Place] = _same,
    push: Callable[[float, float], Place] = _same,
    drag: Callable[[float], float] = float,
) -> Zone:
    """Read a zone from “left bottom right top” and what it does: “ice”, or “friction 0.1 push 30 0”.

    `kept`, `push` and `drag` convert from the units in which it is typed. ValueError, worded for the user, if the text
    is not a zone.
    """
    parts = text.replace(",", " ").replace(";", " ").replace("−", "-").replace("×", " ").split()
    box = shape_from_text("solids", " ".join(parts[:4]), kept)
    assert isinstance(box, Rectangle)
    does: dict[str, Any] = {}
    rest = iter(parts[4:])
    for word in rest:
        if word in PRESETS:
            does |= PRESETS[word]
            continue
        try:
            if word == "push":
                does["push"] = push(float(next(rest)), float(next(rest)))
            elif word == "drag":
                does["drag"] = drag(float(next(rest)))
            elif word in FACTORS:
                does[word] = float(next(rest))
            else:
                raise ValueError
        except (ValueError, StopIteration) as error:
            raise ValueError(f"“{word}” is not an effect of a zone: type some of {', '.join(EFFECTS)}.") from error
    try:
        return Zone(box=box, **does)
    except ValueError as error:
        raise ValueError("The numbers of a zone are too large, or below 0.") from error


def shape_from_text(kind: Kind, text: str, kept: Callable[[float, float], Place] = _same) -> Shape:
    """Read a shape from four numbers; `kept` converts a point from the units in which it is typed.

    Raises ValueError, worded for the user, if the text is not a shape.
    """
    if kind == "zones":
        return zone_from_text(text, kept)
    noun, example = ("slope", "2 0 4 1") if kind == "slopes" else ("rectangle", "2 0 4 0.5")
    try:
        x0, y0, x1, y1 = (float(part.replace("−", "-")) for part in text.replace(",", " ").replace(";", " ").split())
    except ValueError as error:
        names = NUMBERS[kind].rpartition(" ")
        listed = f"{', '.join(names[0].split())} and {names[2]}"
        raise ValueError(f"“{text}” is not a {noun}: type {listed}, such as {example}.") from error
    (x0, y0), (x1, y1) = kept(x0, y0), kept(x1, y1)
    if kind == "slopes" and not x0 < x1:
        raise ValueError("A slope needs x0 smaller than x1: its left end comes first.")
    if kind != "slopes" and not (x0 < x1 and y0 < y1):
        raise ValueError("A rectangle has its left side left of its right side, and its bottom below its top.")
    if not all(abs(value) <= FARTHEST for value in (x0, y0, x1, y1)):
        raise ValueError(f"A course reaches from −{FARTHEST:g} to {FARTHEST:g} u.")
    return Slope(x0, y0, x1, y1) if kind == "slopes" else Rectangle(x0, y0, x1, y1)


def numbers_text(shape: Shape, shown: Callable[[float, float], Place] = _same) -> str:
    """The four numbers of a shape, as `shape_from_text` reads them; `shown` converts a point."""
    shape = outline(shape)
    return " ".join(f"{value:g}" for value in (*shown(*shape[:2]), *shown(*shape[2:])))


def _degrees(angle: float) -> str:
    return f"{angle:.1f}°"


def words(
    kind: Kind,
    shape: Shape,
    shown: Callable[[float, float], Place] = _same,
    angle: Callable[[float], str] = _degrees,
    does: Callable[[Zone], str] = zone_words,
) -> str:
    """Describe where a shape is and, for a slope, its angle, for a zone, what it does.

    `shown` converts a point to the units of the words, `angle` words an angle in degrees, `does` what a zone does.
    """
    done = f", {does(shape)}" if isinstance(shape, Zone) else ""
    shape = outline(shape)
    (x0, y0), (x1, y1) = shown(*shape[:2]), shown(*shape[2:])
    if isinstance(shape, Slope):
        words = f"from {x0:g}, {y0:g} to {x1:g}, {y1:g}, {angle(shape.angle)}"
    else:
        words = f"left {x0:g}, bottom {y0:g}, right {x1:g}, top {y1:g}{done}"
    return f"{KINDS[kind]}: {words}".replace("-", "−").replace("one−way", "one-way")
