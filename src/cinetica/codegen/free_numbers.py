"""Which numbers of a tune are constants: choices and numbers without effect are inserted, all others stay free."""

from __future__ import annotations

from typing_extensions import override

from cinetica.codegen.expressions import (
    FALSE,
    TRUE,
    Algebra,
    Compare,
    Constant,
    Expression,
    Member,
    Rows,
    number,
    whole,
)
from cinetica.codegen.program import Number, Scales
from cinetica.codegen.specialise import Column
from cinetica.codegen.vocabulary import unit_of
from cinetica.model.conventions import Conventions
from cinetica.model.curves import EVEN, STRAIGHT
from cinetica.model.parameters import Parameter
from cinetica.model.tune import PARAMETERS, Tune
from cinetica.motion.records import SLACK, field_name, tune_record

# The fields of a tune's record besides its numbers.
DERIVED = ("top_view", "has_heading", "has_controls", "on_body", "has_more", "has_curves", "has_response")


def _neutral(parameter: Parameter, value: float) -> bool:
    """Whether a number has no effect at this value: 0, or a factor of 1."""
    return value == 0 or (parameter.kind == "number" and parameter.unit in ("×", "") and value == 1)


class FreeNumbers:
    """The record of a tune for the code: choices and numbers without effect are constants, all others are free."""

    def __init__(self, tune: Tune, conventions: Conventions) -> None:
        self.tune, self.conventions, self.scales = tune, conventions, Scales(conventions)
        self.free: dict[str, Number] = {}
        record = tune_record(tune)[0]
        self.members: dict[str, Column | Expression] = {name: TRUE if bool(record[name]) else FALSE for name in DERIVED}
        for parameter in PARAMETERS:
            self._add(parameter, record[field_name(parameter)])

    def _add(self, parameter: Parameter, value: object) -> None:
        name = field_name(parameter)
        match parameter.kind:
            case "switch":
                self.members[name] = TRUE if bool(value) else FALSE
            case "choice":
                self.members[name] = whole(int(value))  # type: ignore[call-overload]
            case "curve":
                self._add_curve(parameter)
            case _:
                self._add_number(parameter, value)

    def _add_curve(self, parameter: Parameter) -> None:
        points = self.tune.get(parameter.id)
        assert isinstance(points, tuple)
        name = field_name(parameter)
        if points in (EVEN, STRAIGHT) and points == parameter.default:
            self.members[name] = Rows(row="point", record="numbers", name=name, empty=True)
            return
        self.members[name] = Rows(row="point", record="numbers", name=name)
        self.free[name] = Number(name, parameter, tuple((x, y) for x, y in points), Column(name))

    def _add_number(self, parameter: Parameter, value: object) -> None:
        name, unit = field_name(parameter), unit_of(parameter)
        kind = "whole" if parameter.kind == "whole" else "number"
        plain = int(value) if kind == "whole" else float(value)  # type: ignore[call-overload, arg-type]
        if _neutral(parameter, plain):
            self.members[name] = whole(int(plain)) if kind == "whole" else number(plain, unit)
            return
        odd = parameter.upward or parameter.id == "input.view_yaw"
        sign = -1 if odd and self.conventions.y_down else 1
        column = Column(name, kind, unit, odd)  # type: ignore[arg-type]
        self.members[name] = column
        self.free[name] = Number(name, parameter, sign * plain * (self.scales.factor(unit) if unit else 1), column)


class TuneAlgebra(Algebra):
    """Folds comparisons, knowing which numbers of the tune are above 0."""

    def __init__(self, scales: Scales, numbers: FreeNumbers) -> None:
        super().__init__(lambda unit: SLACK * scales.factor(unit))
        self.numbers = numbers

    @override
    def compare(self, left: Expression, sign: str, right: Expression) -> Expression:
        """A comparison; a free number keeps its sign, and is not a factor of 1."""
        made = super().compare(left, sign, right)
        if not isinstance(made, Compare) or not isinstance(made.right, Constant):
            return made
        member, value = made.left, made.right.value
        if isinstance(member, Member) and member.record == "numbers":
            free = self.numbers.free[member.name]
            if isinstance(free.value, tuple):
                return made
            if value == 0 or (value == 1 and made.operator in ("==", "!=")):
                return super().compare(Constant(free.value, kind=member.kind), made.operator, Constant(value))
        return made
