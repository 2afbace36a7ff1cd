"""Replacements for functions of the kernel that only save time, or read what the game keeps itself."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from cinetica.codegen.expressions import BARE, FALSE, TRUE, Compare, Logic, Member, Rows, number
from cinetica.codegen.specialise import Answer, Value
from cinetica.model.study import Drill


@dataclass(frozen=True)
class Features:
    """What the courses and takes of a study's drills contain."""

    solids: bool = True
    oneway: bool = False
    climb: bool = False
    slopes: bool = False
    zones: bool = False
    aim: bool = False
    mouse: bool = False
    shoves: bool = False

    @classmethod
    def of(cls, drills: Sequence[Drill]) -> Features:
        """The contents of some drills."""
        return cls(
            solids=True,
            oneway=any(each.course.oneway for each in drills),
            climb=any(each.course.climb for each in drills),
            slopes=any(each.course.slopes for each in drills),
            zones=any(each.course.zones for each in drills),
            aim=any(each.take.aim for each in drills),
            mouse=any(each.take.mouse for each in drills),
            shoves=any(each.take.shoves for each in drills),
        )


def answers(features: Features) -> dict[str, Answer]:
    """Replacements for functions of the kernel that only save time, or read how input is stored."""
    right, up = (Member(record="input", name=name, unit=BARE) for name in ("mouse_x", "mouse_y"))

    def moves(_: Sequence[Value]) -> Value:
        if not features.mouse:
            return FALSE
        terms = tuple(Compare(each, "!=", number(0.0, BARE), kind="flag") for each in (right, up))
        return Logic("or", terms, kind="flag")

    def height(arguments: Sequence[Value]) -> Value | None:
        # A curve without points is 1 everywhere.
        curve = arguments[0]
        return number(1.0, BARE) if isinstance(curve, Rows) and curve.empty else None

    return {
        "height_at": height,
        "on_stack": lambda arguments: arguments[0],
        "copy_record": lambda arguments: (),
        "is_as_before": lambda arguments: FALSE,
        "is_new_length": lambda arguments: TRUE,
        "mouse_moves": moves,
        "mouse_counts": lambda arguments: (right, up),
    }


def answers_of_the_game() -> dict[str, Answer]:
    """What the kernel computes from its course, and the cut code asks the game for."""

    def asked(record: str, name: str) -> Member:
        return Member(record=record, name=name, kind="flag")

    return {
        "touches_any": lambda arguments: asked("input", "over_net"),
        "stands_on_oneway_alone": lambda arguments: asked("input", "on_oneway"),
        "is_passing": lambda arguments: asked("hit", "in_oneway"),
        "sides_at_walls": lambda arguments: (asked("hit", "wall_left"), asked("hit", "wall_right")),
    }
