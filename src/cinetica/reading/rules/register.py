"""Where rules register the words that explain them."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np

from cinetica.reading.ticks import RULES, Call, Change, Tick

NO_CHANGE = np.zeros(4)


@dataclass(frozen=True)
class Line:
    """One rule that acted: its name, its effect in words, and its change of vx, vy, x and y (u/s and u)."""

    rule: str
    words: str
    change: tuple[float, float, float, float]

    @property
    def equation(self) -> str:
        """The rule as the kernel states it."""
        return equation(self.rule)


def equation(rule: str) -> str:
    """The equation of a rule: the docstring of its function."""
    return " ".join((RULES[rule].__doc__ or "").split())


def line(rule: str, words: str, change: Change = NO_CHANGE) -> Line:
    """A line of the explanation."""
    return Line(rule, words, tuple(float(part) for part in change))  # type: ignore[arg-type]


Words = Callable[[Tick, Call], "Iterator[Line]"]
# The explanation of a call, by rule; and all rules that any of them covers.
EXPLAINED: dict[str, Words] = {}
COVERED: set[str] = set()


def explains(rule: str, *also_covered: str) -> Callable[[Words], Words]:
    """Register the words of a rule; `also_covered` are rules that it calls and whose effect it includes."""

    def register(words: Words) -> Words:
        """Register the words."""
        EXPLAINED[rule] = words
        COVERED.update((rule, *also_covered))
        return words

    return register
