"""Rescaling: every length, speed and acceleration is multiplied by a factor; times, shares and angles stay."""

from __future__ import annotations

import math
from collections.abc import Callable
from enum import StrEnum
from typing import Any

from cinetica.model.course import Course, Rectangle, Zone
from cinetica.model.milestone import Logged, Milestone
from cinetica.model.parameters import Parameter, as_number
from cinetica.model.study import Drill, Study
from cinetica.model.take import Shove
from cinetica.model.tune import PARAMETERS, Tune

# The units that scale with the world.
SCALED_UNITS = ("u", "u/s", "u/s²")
BODY = ("body.width", "body.height")


class Scope(StrEnum):
    """What to rescale."""

    TUNE = "tune"
    TUNES = "tunes"
    STUDY = "study"
    WORLD = "world"


MEANING = {
    Scope.TUNE: "this tune",
    Scope.TUNES: "all tunes",
    Scope.STUDY: "the whole study: tunes, courses, milestones and game logs",
    Scope.WORLD: "only the world: courses and bodies, all other numbers stay",
}


def scales_with_world(parameter: Parameter) -> bool:
    """Whether a parameter is a length, a speed or an acceleration."""
    return parameter.unit in SCALED_UNITS


def lengths() -> list[Parameter]:
    """The parameters that are lengths; for each the user can give the size that it should become."""
    return [parameter for parameter in PARAMETERS if parameter.unit == "u"]


def rescaled_tune(tune: Tune, factor: float, *, body_only: bool = False) -> Tune:
    """Rescale a tune; ValueError if a number would leave its range."""
    groups: dict[str, dict[str, float]] = {}
    for parameter in PARAMETERS:
        if scales_with_world(parameter) and (not body_only or parameter.id in BODY):
            value = as_number(tune.get(parameter.id)) * factor
            if not parameter.low <= value <= parameter.high:
                raise ValueError(
                    f"{parameter.label} of {tune.name} would be {value:g} {parameter.unit}; it is {parameter.allowed}."
                    " Nothing was changed."
                )
            groups.setdefault(parameter.group, {})[parameter.key] = value
    return tune.model_copy(
        update={group: getattr(tune, group).model_copy(update=values) for group, values in groups.items()}
    )


def rescaled_course(course: Course, factor: float) -> Course:
    """Rescale every coordinate of a course, and the push of its zones."""
    shapes = {
        kind: tuple(type(shape)(*(value * factor for value in shape)) for shape in getattr(course, kind))
        for kind in type(course).model_fields
        if kind != "zones"
    }
    return course.model_copy(update=shapes | {"zones": tuple(_rescaled_zone(zone, factor) for zone in course.zones)})


def _rescaled_zone(zone: Zone, factor: float) -> Zone:
    x, y = zone.push
    box = Rectangle(*(value * factor for value in zone.box))
    return zone.model_copy(update={"box": box, "push": (x * factor, y * factor)})


def rescaled_drill(drill: Drill, factor: float) -> Drill:
    """Rescale the course of a drill, where and how fast it starts, its shoves, and what is wanted of it."""
    (x, y), (vx, vy) = drill.start, drill.start_velocity
    shoves = tuple(Shove(frame, across * factor, up * factor) for frame, across, up in drill.take.shoves)
    return drill.model_copy(
        update={
            "take": drill.take.model_copy(update={"shoves": shoves}) if shoves else drill.take,
            "start": (x * factor, y * factor), "start_velocity": (vx * factor, vy * factor),
            "course": rescaled_course(drill.course, factor),
            "wanted": tuple(
                drawn.model_copy(update={"points": tuple((frame, value * factor) for frame, value in drawn.points)})
                for drawn in drill.wanted
            ),
        }
    )  # fmt: skip


def resized(study: Study, factor: float, scope: Scope, tune: str = "") -> Study:
    """Rescale the study, or the part of it given by `scope`; `tune` is the one meant by `Scope.TUNE`.

    Snapshots record earlier states, so they are rescaled only with the whole study or the world. Raises ValueError if a
    number would leave its range.
    """
    if not (math.isfinite(factor) and factor > 0.0):
        raise ValueError("A factor must be more than 0.")
    if scope is Scope.TUNE:
        if study.tune(tune).snapshot_of:
            raise ValueError(f"“{tune}” is a snapshot: it cannot be changed.")
        return study.with_tune(rescaled_tune(study.tune(tune), factor), instead_of=tune)
    whole = scope is not Scope.TUNES
    tunes = _each(
        study.tunes,
        lambda each: (
            each if each.snapshot_of and not whole else rescaled_tune(each, factor, body_only=scope is Scope.WORLD)
        ),
    )
    if not whole:
        return study.model_copy(update={"tunes": tunes})
    changed: dict[str, Any] = {
        "tunes": tunes,
        "drills": _each(study.drills, lambda drill: rescaled_drill(drill, factor)),
    }
    if scope is Scope.STUDY:
        changed["milestones"] = _each(study.milestones, lambda milestone: _rescaled_milestone(milestone, factor))
        changed["logs"] = _each(study.logs, lambda log: _rescaled_log(log, factor))
    return study.model_copy(update=changed)


def _each(things: tuple[Any, ...], change: Callable[[Any], Any]) -> tuple[Any, ...]:
    return tuple(change(thing) for thing in things)


def _rescaled_milestone(milestone: Milestone, factor: float) -> Milestone:
    return milestone.model_copy(update={"tunes": _each(milestone.tunes, lambda tune: rescaled_tune(tune, factor))})


def _rescaled_log(log: Logged, factor: float) -> Logged:
    columns = {column: tuple(value * factor for value in getattr(log, column)) for column in ("x", "y", "vx", "vy")}
    return log.model_copy(update=columns)
