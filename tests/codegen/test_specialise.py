"""Specialising: known values are inserted, dead code is dropped, and unsupported code is reported by name."""

import ast
import linecache
import sys
from itertools import count
from types import ModuleType

import pytest

from cinetica.codegen.expressions import (
    FALSE,
    TRUE,
    Algebra,
    Binary,
    Compare,
    Constant,
    Local,
    Member,
    Negative,
    UnitsDiffer,
    number,
)
from cinetica.codegen.inline import inlined
from cinetica.codegen.prune import pruned
from cinetica.codegen.source import Source
from cinetica.codegen.specialise import CannotBeWritten, Column, Record, Setting, Specialiser
from cinetica.codegen.statements import Assign, Do, If, Return

NUMBERS = count()
LENGTH, SPEED, TIME = (1, 0), (1, -1), (0, 1)
ALGEBRA = Algebra(lambda unit: {LENGTH: 32e-9}.get(unit, 1e-9))
A, B = (Local(name=name, unit=LENGTH) for name in "ab")
MINUS_A = ALGEBRA.negative(A)


def body_of(code, *arguments, always=(), y_down=False):
    """The remaining statements of the function `rule` of some code, and its results."""
    specialiser, module, tree = specialiser_of(code, always, y_down)
    function, results = specialiser._specialised(Source(tree["rule"], module), arguments)
    return function.body, results


def functions_of(code, *arguments):
    """All remaining functions of some code that begins with `rule`."""
    specialiser, module, tree = specialiser_of(code, (), False)
    specialiser._specialised(Source(tree["rule"], module), arguments)
    return specialiser.functions


def specialiser_of(code, always, y_down):
    """A specialiser for some code, the code as a module, and its syntax trees."""
    module = ModuleType("rules")
    # `inspect` finds its source like that of a file.
    module.__file__ = f"<rules {next(NUMBERS)}>"
    linecache.cache[module.__file__] = (len(code), None, code.splitlines(keepends=True), module.__file__)
    module.SLACK = 1e-9
    tree = ast.parse(code)
    functions = {node.name: node for node in tree.body}
    exec(compile(tree, "rules", "exec"), module.__dict__)
    sys.modules["rules"] = module
    setting = Setting(
        ALGEBRA, y_down,
        {
            "state": {
                "x": Column("x", "number", LENGTH), "y": Column("y", "number", LENGTH, odd=True),
                "vy": Column("vy", "number", SPEED, odd=True), "grounded": Column("grounded", "flag"),
            },
            "numbers": {"on": TRUE, "off": FALSE, "gravity": Column("gravity", "number", (1, -2))},
        },
        {}, always={each: Constant(False, kind="flag") for each in always},
    )  # fmt: skip
    return Specialiser(setting), module, functions


S, P = Record("state"), Record("numbers")


def test_untaken_branches_are_left_out():
    code = "def rule(s, p):\n    if p.on:\n        s.x = 1.0\n    else:\n        s.y = 2.0\n"
    body, _ = body_of(code, S, P)
    assert body == (Assign(Member(record="state", name="x", unit=LENGTH), number(1.0, LENGTH)),)


def test_unassigned_variables_are_constants():
    code = "def rule(s, p):\n    if s.grounded and p.on:\n        s.x = 1.0\n"
    assert isinstance(body_of(code, S, P)[0][0], If)
    assert body_of(code, S, P, always=("grounded",))[0] == ()


def test_a_function_of_known_arguments_is_replaced_by_its_result():
    code = "def rule(a, b):\n    if a < b:\n        return a * b\n    return 0.0\n"
    _, results = body_of(code, number(2.0), number(3.0))
    assert [each.value for each in results] == [6.0]


def test_with_y_down_signs_turn_without_conversions():
    code = "def rule(s, p, h):\n    s.vy -= p.gravity * h\n    s.grounded = s.vy < -SLACK\n"
    body, _ = body_of(code, S, P, Local(name="h", unit=TIME), y_down=True)
    speed = Member(record="state", name="vy", unit=SPEED, odd=True)
    fall, still = body
    assert (fall.value.left, fall.value.operator) == (speed, "+")
    assert (still.value.left, still.value.operator, still.value.right.value) == (speed, ">", 1e-9)


def test_the_slack_has_the_unit_of_its_comparison():
    code = "def rule(s, p):\n    s.grounded = s.x <= SLACK\n"
    body, _ = body_of(code, S, P)
    assert body[0].value == Compare(
        Member(record="state", name="x", unit=LENGTH), "<=", Constant(32e-9, "SLACK", unit=LENGTH), kind="flag"
    )


@pytest.mark.parametrize(
    ("line", "message"),
    [
        ("while s.x > 0.0:\n        s.x -= 1.0", "rule, line 2: while s.x > 0.0"),
        ("s.x = [1.0, 2.0]", r"rule, line 2: \[1.0, 2.0\]"),
        ("s.x = open('f')", "'f' is not a number"),
        ("s.x = s.unheard", "rule, line 2: state has no unheard"),
        ("s.x = math.gamma(s.x)", "the function gamma"),
        ("s.x = s.x @ s.x", "the operator MatMult"),
        ("for each in s.x:\n        pass", "rule, line 2: for each in s.x"),
        ("try:\n        pass\n    finally:\n        pass", "rule, line 2: try"),
    ],
)
def test_unsupported_statements_are_reported_with_their_line(line, message):
    with pytest.raises(CannotBeWritten, match=message):
        body_of(f"def rule(s, p):\n    {line}\n", S, P)


def test_a_length_is_never_added_to_a_speed():
    with pytest.raises(UnitsDiffer):
        body_of("def rule(s, p):\n    s.x += s.vy\n", S, P)


def test_simultaneous_assignments_read_all_values_first():
    code = "def rule(s, p):\n    s.x, s.y = s.y, s.x\n"
    body, _ = body_of(code, S, P)
    held, first, second = body
    assert isinstance(held.target, Local)
    assert held.value.name == "x"
    assert (first.value.name, second.value) == ("y", held.target)


def test_a_return_in_the_middle_ends_the_function():
    code = "def rule(s, a):\n    if a > 0.0:\n        return 1.0\n    s.x = 2.0\n    return a\n"
    body, results = body_of(code, S, Local(name="a"))
    assert isinstance(body[0].yes[0], Return)
    assert len(results) == 1
    assert isinstance(results[0], Local)


@pytest.mark.parametrize(
    ("made", "wanted"),
    [
        (ALGEBRA.add(A, number(0.0)), A),
        (ALGEBRA.multiply(number(1.0), A), A),
        (ALGEBRA.subtract(A, ALGEBRA.negative(B)), Binary(A, "+", B, unit=LENGTH)),
        (ALGEBRA.negative(ALGEBRA.subtract(A, B)), Binary(B, "-", A, unit=LENGTH)),
        (ALGEBRA.call("abs", [MINUS_A]), ALGEBRA.call("abs", [A])),
        (ALGEBRA.call("min", [A, number(1e30)]), A),
        (ALGEBRA.call("min", [MINUS_A, ALGEBRA.negative(B)]), Negative(ALGEBRA.call("max", [A, B]), unit=LENGTH)),
        (ALGEBRA.no(ALGEBRA.compare(A, "<", B)), ALGEBRA.compare(A, ">=", B)),
        (ALGEBRA.compare(MINUS_A, "<", ALGEBRA.negative(B)), ALGEBRA.compare(A, ">", B)),
        (ALGEBRA.choose(ALGEBRA.compare(A, "<", B), TRUE, FALSE), ALGEBRA.compare(A, "<", B)),
    ],
)  # fmt: skip
def test_simplified(made, wanted):
    assert made == wanted


def test_swapped_results_keep_their_values():
    code = (
        "def turned(s):\n    if s.grounded:\n        return s.y, s.x\n    return s.x, s.y\n"
        "def rule(s, p):\n    s.x, s.y = turned(s)\n"
    )
    functions = functions_of(code, S, P)
    made = inlined(functions, ["rule"], ALGEBRA)
    assert list(made) == ["rule"]
    (choice,) = [each for each in made["rule"].body if isinstance(each, If)]
    # Both are read before the first is assigned.
    read_before = [each.value.name for each in choice.yes if isinstance(each, Assign)][:2]
    assert sorted(read_before) == ["x", "y"]


def test_conditional_assignments_stay_conditional():
    both = "def both(a):\n    if a > 0.0:\n        return a, 1.0\n    return 0.0, a\n"
    with pytest.raises(CannotBeWritten, match="under a condition"):
        body_of(f"{both}def rule(s, a):\n    s.x, s.y = both(a) if s.grounded else (a, a)\n", S, A)


def test_a_known_call_without_effect_is_removed_under_a_condition():
    never = "def never(s, b):\n    if s.y > b:\n        return False\n    return False\n"
    rule = "def rule(s, a, b):\n    if s.grounded and never(s, b):\n        s.x = a\n    s.y = b\n"
    ((set_y,), _) = body_of(never + rule, S, A, B)
    assert set_y.target.name == "y"
    acts = never.replace("    if", "    s.x = b\n    if")
    with pytest.raises(CannotBeWritten, match="under a condition"):
        body_of(acts + rule, S, A, B)
    # The same if another function calls it.
    between = "def between(s, b):\n    return never(s, b)\n"
    with pytest.raises(CannotBeWritten, match="under a condition"):
        body_of(acts + between + rule.replace("never", "between"), S, A, B)


def test_a_conditional_call_stays_conditional():
    code = (
        "def lands(s):\n    s.x = 1.0\n    return s.y > 0.0\n"
        "def rule(s, p):\n    if s.grounded and lands(s):\n        s.vy = 0.0\n"
    )
    functions = functions_of(code, S, P)
    # Nobody uses vy: what remains is the call, still under its condition.
    (left,) = pruned(functions, ["rule"], ["x"], ALGEBRA)["rule"].body
    assert isinstance(left, If)
    assert left.test == Member(record="state", name="grounded", kind="flag")
    assert isinstance(left.yes[0], Do)
