"""Edits of the curves that are drawn on a drill: points are set, moved and removed."""

from __future__ import annotations

from typing import Literal

from cinetica.model.study import FASTEST, Drawn, Drill

Channel = Literal["x", "y", "vx", "vy"]
CHANNELS: tuple[Channel, ...] = ("x", "y", "vx", "vy")


def points_of(drill: Drill, channel: str) -> tuple[tuple[int, float], ...]:
    """The points of a channel, in order of their frames; none if nothing is drawn."""
    return next((drawn.points for drawn in drill.wanted if drawn.channel == channel), ())


def with_points(drill: Drill, channel: Channel, points: dict[int, float]) -> Drill:
    """The drill with other points of a channel, in any order."""
    others = tuple(drawn for drawn in drill.wanted if drawn.channel != channel)
    limited = tuple((frame, min(max(value, -FASTEST), FASTEST)) for frame, value in sorted(points.items()))
    made = (Drawn(channel=channel, points=limited),) if limited else ()
    order = {name: place for place, name in enumerate(CHANNELS)}
    wanted = tuple(sorted((*others, *made), key=lambda drawn: order[drawn.channel]))
    return drill.model_copy(update={"wanted": wanted})


def with_point(drill: Drill, channel: Channel, frame: int, value: float, *, instead_of: int | None = None) -> Drill:
    """The drill with a point set; `instead_of`: the frame of a point that it replaces."""
    points = dict(points_of(drill, channel))
    if instead_of is not None:
        points.pop(instead_of, None)
    frame = min(max(frame, 0), drill.take.length)
    return with_points(drill, channel, points | {frame: value})


def without_point(drill: Drill, channel: Channel, frame: int) -> Drill:
    """The drill without the point of a frame."""
    points = dict(points_of(drill, channel))
    points.pop(frame, None)
    return with_points(drill, channel, points)
