"""Numbers with units and arithmetic, worked out by hand, and errors."""

import math
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cinetica.model.quantity import KINDS, POWERS, Units, examples, quantity

# 32 px per unit, 50 frames and 100 ticks per second, a body of 0.5 × 1.
UNITS = Units(pixel=1 / 32, frame=1 / 50, tick=1 / 100, width=0.5, height=1.0)


@pytest.mark.parametrize(
    ("text", "value", "powers"),
    [
        ("2*300", 600, (0, 0, 0)),
        ("30 / 60", 0.5, (0, 0, 0)),
        ("-(1 + 2) * 3 - 1", -10, (0, 0, 0)),
        ("2^3 + 2**2", 12, (0, 0, 0)),
        ("1,5 + ,5", 2, (0, 0, 0)),
        ("1e2", 100, (0, 0, 0)),
        ("3 − 1 · 2", 1, (0, 0, 0)),
        ("640 px/s", 20, (1, -1, 0)),
        ("10 px/f", 10 / 32 * 50, (1, -1, 0)),
        ("1 px/frame²", 1 / 32 * 2500, (1, -2, 0)),
        ("64 px/s^2", 2, (1, -2, 0)),
        ("9 u / 3 s", 3, (1, -1, 0)),
        ("2 u + 32 px", 3, (1, 0, 0)),
        ("1.5 bodies", 1.5, (1, 0, 0)),
        ("2 widths", 1, (1, 0, 0)),
        ("6t", 0.06, (0, 1, 0)),
        ("6 ticks", 0.06, (0, 1, 0)),
        ("5f", 0.1, (0, 1, 0)),
        ("250 ms", 0.25, (0, 1, 0)),
        ("10/s", 10, (0, -1, 0)),
        ("1/0.1s", 10, (0, -1, 0)),
        ("90°", 90, (0, 0, 1)),
        ("1.5708 rad", 90.0002, (0, 0, 1)),
        ("180 deg/s", 180, (0, -1, 1)),
        ("0.5×", 0.5, (0, 0, 0)),
        ("4 PX", 0.125, (1, 0, 0)),
    ],
)
def test_a_text_becomes_a_number_in_our_units(text, value, powers):
    found = quantity(text, UNITS)
    assert found.value == pytest.approx(value, abs=1e-4)
    assert found.powers == powers
    assert not found.percent


def test_a_percentage_is_told_from_a_bare_number():
    found = quantity("20%", UNITS)
    assert (found.value, found.percent, found.kind) == (pytest.approx(0.2), True, "a share")
    assert quantity("50% * 10 u", UNITS).value == pytest.approx(5)


def test_bodies_mean_widths_for_horizontal_lengths():
    assert quantity("3 bodies", Units(width=0.5, height=2.0, upright=False)).value == 1.5
    assert quantity("3 bodies", Units(width=0.5, height=2.0)).value == 6.0


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "cannot be read"), ("2 3", "Only numbers"), ("--1", "cannot be read"), ("1 +", "cannot be read"),
        ("6 furlongs", "“furlongs” in “6 furlongs” is not a known unit"), ("1/0", "divides by 0"),
        ("9**9**9**9", "Only numbers"),
        ("1e999", "too large"), ("2 u + 3 s", "A length and a time cannot be added"), ("2 ** 0.5", "Only numbers"),
        ("__import__('os')", "cannot be read"), ("1" * 99, "too long"), ("a.b", "not a known unit"),
        ("(1", "cannot be read"),
        ("2 ** 3 u", "Only numbers"), ("1 if 1 else 2", "not a known unit"), ("f(2)", "Only numbers"),
    ],
)  # fmt: skip
def test_text_that_is_not_a_number_is_refused_with_a_reason(text, words):
    with pytest.raises(ValueError, match=words.replace("(", r"\(")):
        quantity(text, UNITS)


@given(st.lists(st.tuples(st.sampled_from("+-*/"), st.integers(1, 40)), max_size=6), st.integers(0, 40))
def test_arithmetic_equals_that_of_fractions(steps, first):
    """Products before sums, from left to right."""
    terms = [Fraction(first)]
    for sign, number in steps:
        if sign in "+-":
            terms.append(Fraction(number if sign == "+" else -number))
        else:
            terms[-1] = terms[-1] * number if sign == "*" else terms[-1] / number
    text = str(first) + "".join(f" {sign} {number}" for sign, number in steps)
    assert math.isclose(quantity(text, UNITS).value, float(sum(terms)), rel_tol=1e-9, abs_tol=1e-9)


@pytest.mark.parametrize("unit", [*POWERS, ""])
def test_every_example_can_be_typed_where_it_is_proposed(unit):
    powers = POWERS.get(unit, (0, 0, 0))
    assert powers in KINDS
    for text in examples(unit).replace(" or ", ", ").split(", "):
        assert quantity(text, UNITS).powers in (powers, (0, 0, 0))
