"""Make the program of a tune from the kernel’s functions."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

from cinetica.codegen.answers import Features, answers, answers_of_the_game
from cinetica.codegen.expressions import (
    BARE,
    FALSE,
    TRUE,
    Constant,
    Expression,
    Local,
    Member,
    Rows,
    Unit,
    number,
)
from cinetica.codegen.fields import without_copies_of_input, without_passing_fields, without_unread_marks
from cinetica.codegen.free_numbers import FreeNumbers, TuneAlgebra
from cinetica.codegen.inline import inlined, joined, merged_alike, with_calls
from cinetica.codegen.program import Field, Program
from cinetica.codegen.prune import Functions, pruned
from cinetica.codegen.specialise import Answer, Column, Record, Setting, Specialiser, Value
from cinetica.codegen.statements import Function, assigned, read
from cinetica.codegen.tidy import short_names, tidy
from cinetica.codegen.vocabulary import (
    COURSE,
    FROM_GAME,
    FROM_GAME_AFTER,
    HIT,
    ROWS,
    TIME,
    input_columns,
    state_columns,
)
from cinetica.model.conventions import Conventions
from cinetica.model.laws import LAWS
from cinetica.model.study import Drill
from cinetica.model.tune import Aim, DropThrough, FacingRule, Follow, Tune
from cinetica.motion.in_game import after_move_in_game, before_move_in_game, begin_in_game
from cinetica.motion.records import MOST_TIMERS, uses_more
from cinetica.motion.shoves import take_shove
from cinetica.motion.step import begin, tick

# The columns of a trace that every tune has.
MOVES = ("x", "y", "vx", "vy", "motion", "marks", "wx", "wy")
ZEROS: Mapping[str, float] = {"number": 0.0, "whole": 0, "flag": False}
# So that one function moves a velocity toward 0 and toward a target.
FREE = {"toward": frozenset(("vx", "tx"))}
# Values that the code computes again every tick, while the kernel keeps them.
CACHES: Mapping[str, Expression] = {"rests": FALSE}


@dataclass(frozen=True)
class Entry:
    """A function that the game calls: its name, the kernel's function, and its arguments.

    `left_out` are records that the kernel's function takes and the code does not, since a cut step has no course.
    """

    name: str
    function: Callable[..., Any]
    arguments: tuple[Value, ...]
    left_out: tuple[str, ...] = ()

    @property
    def records(self) -> tuple[str, ...]:
        """The records that it takes."""
        return tuple(
            each.name for each in self.arguments if isinstance(each, Record) and each.name not in self.left_out
        )


class _Maker:
    """Makes a program."""

    def __init__(self, tune: Tune, features: Features, conventions: Conventions) -> None:
        self.tune, self.features, self.conventions = tune, features, conventions
        self.numbers = FreeNumbers(tune, conventions)
        self.algebra = TuneAlgebra(self.numbers.scales, self.numbers)
        self.state: dict[str, Column | Expression] = {**state_columns(), **CACHES}
        self.state["timers"] = Rows(record="state", name="timers", unit=TIME)
        self.input: dict[str, Column | Expression] = dict(input_columns())
        if not features.aim and tune.facing.aim is not Aim.AIM_STICK:
            # A second stick that turns neither the body nor the view in any drill.
            self.input |= {"aim_x": number(0.0, BARE), "aim_y": number(0.0, BARE)}
        self.course: dict[str, Column | Expression] = {
            name: Rows(row=row, record="course", name=name, empty=not getattr(features, name))
            for name, row in COURSE.items()
        }
        self.hit: dict[str, Column | Expression] = dict(HIT)
        if not features.slopes:
            self.hit |= {"slope": number(0.0, BARE), "rise_rate": number(0.0, (1, -1))}
        self.course["mouse"] = Rows(record="course", name="mouse", empty=True)

    @cached_property
    def more(self) -> Constant:
        """Whether the tick needs the rare rules."""
        rare = self.features.zones or self.features.mouse or self.features.shoves
        return TRUE if uses_more(self.tune) or rare else FALSE

    def setting(self, always: Mapping[str, Constant], answers: Mapping[str, Answer]) -> Setting:
        """What is known before specialising."""
        members = {
            "state": self.state,
            "numbers": self.numbers.members,
            "input": self.input,
            "course": self.course,
            "hit": self.hit,
        }
        return Setting(self.algebra, self.conventions.y_down, members, ROWS, answers, FREE, always)

    def made(
        self, entries: Sequence[Entry], answers: Mapping[str, Answer], given: frozenset[str], wanted: frozenset[str]
    ) -> tuple[Functions, tuple[str, ...], dict[str, Constant]]:
        """The functions, the names of the entries, and the fields of the state that never change.

        `given` are the fields that something else may set.
        """
        always = {
            name: Constant(ZEROS[column.kind], kind=column.kind, unit=column.unit)
            for name, column in self.state.items()
            if isinstance(column, Column) and name not in given
        }
        while True:
            specialiser = Specialiser(self.setting(always, answers))
            names = tuple(specialiser.entry(each.function, each.arguments).name for each in entries)
            other = {
                name
                for name, value in always.items()
                if specialiser.stored.get(name, set()) - {replace(value, unit=None)}
            }
            if not other:
                break
            always = {name: value for name, value in always.items() if name not in other}
        made = specialiser.functions if "marks" in wanted else without_unread_marks(specialiser.functions)
        found = pruned(made, names, wanted, self.algebra)
        while True:
            before = found
            found = merged_alike(found, names)
            found = inlined(found, names, self.algebra)
            found = joined(found, self.algebra)
            found = without_passing_fields(tidy(found, self.algebra), wanted)
            records = {name: each.records for name, each in zip(names, entries, strict=True)}
            found = without_copies_of_input(found, records, wanted)
            found = pruned(found, names, wanted, self.algebra)
            if found == before:
                public = dict(zip(names, (each.name for each in entries), strict=True))
                return _renumbered(short_names(found), public), tuple(public.values()), always

    def program(
        self, entries: tuple[Entry, ...], answers: Mapping[str, Answer], given: frozenset[str], wanted: frozenset[str],
        *, whole: bool,
    ) -> Program:  # fmt: skip
        """The program with these entries."""
        functions, names, always = self.made(entries, answers, given, wanted)
        if "before_move" in functions:
            ways = functions["before_move"].results
            named = tuple(replace(each, name=name) for each, name in zip(ways, ("dx", "dy"), strict=True))
            functions["before_move"] = replace(functions["before_move"], results=named)
        fixed = {each.name: each.records for each in entries}
        assert set(names) == fixed.keys()
        return _program(self, functions, fixed, always, wanted, whole=whole)


def _renumbered(functions: Functions, public: Mapping[str, str]) -> Functions:
    """The functions under their public names, or under those of the kernel, numbered if ambiguous."""
    names = dict(public)
    for name in sorted(functions.keys() - public.keys(), key=lambda each: (len(each), each)):
        plain = re.sub(r"_\d+$", "", name)
        free, count = plain, 2
        while free in names.values():
            free, count = f"{plain}_{count}", count + 1
        names[name] = free
    return {names[name]: with_calls(replace(each, name=names[name]), names) for name, each in functions.items()}


def _local(name: str, unit: Unit, *, odd: bool = False) -> Local:
    return Local(name=name, unit=unit, odd=odd)


def whole_program(tune: Tune, drills: Sequence[Drill], conventions: Conventions) -> Program:
    """The whole tick of a tune, with our contact for boxes, as far as these drills need it."""
    maker = _Maker(tune, Features.of(drills), conventions)
    state, numbers, hands, course = (Record(name) for name in ("state", "numbers", "input", "course"))
    x, y = _place(maker)
    entries = (
        Entry("begin", begin, (state, numbers, course, x, y)),
        Entry("step", tick, (state, numbers, hands, course, _local("dt", TIME), maker.more)),
    )
    given = frozenset(("vx", "vy", "facing"))
    return maker.program(entries, answers(maker.features), given, frozenset(_wanted(tune, maker.features)), whole=True)


def cut_program(tune: Tune, drills: Sequence[Drill], conventions: Conventions) -> Program:
    """The tick of a tune, cut where the game moves the body: before the move, and after it."""
    maker = _Maker(tune, Features.of(drills), conventions)
    for name, rows in maker.course.items():
        if isinstance(rows, Rows):
            # The course belongs to the game, which reports its effect on the body.
            has = not rows.empty and name not in ("zones", "shoves")
            maker.course[name] = replace(rows, empty=not has, given=has)
    state, numbers, hands, course, hit = (Record(name) for name in ("state", "numbers", "input", "course", "hit"))
    x, y = _place(maker)
    dt = _local("dt", TIME)
    entries = [
        Entry("begin", begin_in_game, (state, numbers, x, y, Local(name="grounded", kind="flag"))),
        Entry("before_move", before_move_in_game, (state, numbers, hands, course, dt, maker.more), ("course",)),
        Entry("after_move", after_move_in_game, (state, numbers, hands, course, hit, dt, maker.more), ("course",)),
    ]
    if maker.features.shoves or tune.drive.stun > 0:
        speed = maker.setting({}, {}).turned(_local("vy", (1, -1), odd=True))
        entries.append(Entry("shove", take_shove, (state, numbers, _local("vx", (1, -1)), speed)))
    given = {"x", "y", "vx", "vy", "facing"}
    if maker.features.zones:
        given |= {name for name in maker.state if name.startswith("zone_")}
    # The game decides which floors can be dropped through.
    drops = ("dropping",) if maker.features.oneway and tune.contact.drop_through is not DropThrough.NONE else ()
    wanted = frozenset((*given, *drops, "motion", "launched", *_turned_fields(tune)))
    return maker.program(
        tuple(entries), answers(maker.features) | answers_of_the_game(), frozenset(given), wanted, whole=False
    )


def _place(maker: _Maker) -> tuple[Expression, Expression]:
    """The initial state of a body."""
    return _local("x", (1, 0)), maker.setting({}, {}).turned(_local("y", (1, 0), odd=True))


def _wanted(tune: Tune, features: Features) -> list[str]:
    """The fields that a trace shows of this tune."""
    found = [*MOVES, *_turned_fields(tune)]
    if features.slopes:
        found += ["ground_angle", "row_vx", "row_vy"]
    if tune.contact.late:
        found += ["shown_x", "shown_y", "is_late", "row_vx", "row_vy"]
    if tune.camera.follow is not Follow.NONE:
        found += ["camera_x", "camera_y"]
    return found


def _turned_fields(tune: Tune) -> list[str]:
    """The angles that a tune has."""
    about = LAWS[tune.drive.law]
    found = ["look_yaw", "look_pitch"]
    if about.heading or tune.facing.facing is not FacingRule.NONE:
        found.append("facing")
    if about.heading and tune.drive.bank_angle:
        found.append("bank")
    return found


def _program(
    maker: _Maker, functions: Functions, fixed: Mapping[str, tuple[str, ...]], always: dict[str, Constant],
    wanted: frozenset[str], *, whole: bool,
) -> Program:  # fmt: skip
    ordered = _in_order(functions, fixed)
    used: dict[str, set[str]] = {
        "state": set(wanted) - always.keys(),
        "numbers": set(),
        "input": set(),
        "course": set(),
        "hit": set(),
    }
    row_types: set[str] = set()
    for function in ordered:
        for each in [*read(function.body), *assigned(function.body)]:
            for part in each.everything:
                if isinstance(part, Member | Rows) and part.record:
                    used[part.record].add(part.name)
                if isinstance(part, Rows) and part.row:
                    row_types.add(part.row)
    columns = {**state_columns()}
    fields = [Field(columns[name]) for name in columns if name in used["state"]]
    if "timers" in used["state"]:
        fields.append(Field(Column("timers", "number", TIME), MOST_TIMERS))
    hands = {**input_columns(), **{name: Column(name, "number", BARE) for name in ("mouse_x", "mouse_y")}, **FROM_GAME}
    hits = {**HIT, **FROM_GAME_AFTER}
    return Program(
        maker.tune, maker.conventions, whole, tuple(ordered), tuple(fixed),
        tuple(each for name, each in maker.numbers.free.items() if name in used["numbers"]),
        tuple(fields),
        tuple(Field(hands[name]) for name in hands if name in used["input"]),
        tuple(Field(hits[name]) for name in hits if name in used["hit"]),
        tuple(name for name in COURSE if name in used["course"] or (whole and name == "solids")),
        {name: ROWS[name] for name in ROWS if name in row_types or (whole and name == "rectangle")},
        {name: always[name] for name in sorted(wanted & always.keys())},
    )  # fmt: skip


def _in_order(functions: Functions, fixed: Mapping[str, tuple[str, ...]]) -> list[Function]:
    """The functions, each after those that it calls; records that each takes are found along the way.

    `fixed` are the records of those that the game calls.
    """
    found: dict[str, Function] = {}

    def add(name: str) -> None:
        if name in found:
            return
        function = functions[name]
        for other in sorted(function.calls.keys(), key=lambda one: list(functions).index(one)):
            add(other)
        used = {
            part.record
            for each in [*read(function.body), *assigned(function.body)]
            for part in each.everything
            if isinstance(part, Member | Rows) and part.record
        }
        for other in function.calls:
            used |= set(found[other].records)
        order = ("state", "numbers", "input", "course", "hit")
        if name in fixed:
            # The game always calls it in the same way, whatever the tune needs.
            used = set(fixed[name])
        found[name] = replace(function, records=tuple(each for each in order if each in used))

    for name in fixed:
        add(name)
    return list(found.values())
