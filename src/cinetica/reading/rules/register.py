"""Where rules register the words that explain them."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np

from cinetica.reading.ticks import RULES, Call, Change, Tick

NO_CHANGE = np.zeros(4)


@dataclass(frozen=True)
class Line:
    """One rule that acted: its name, what it did in words, and by how much it changed vx, vy, x and y (u/s and u)."""

    rule: str
    words: str
    change: tuple[float, float, float, float]

    @property
    def equation(self) -> str:
        """The rule as the kernel states it."""
        return equation(self.rule)


def equation(rule: str) -> str:
    return " ".join((RULES[rule].__doc__ or "").split())


def line(rule: str, words: str, change: Change = NO_CHANGE) -> Line:
    return Line(rule, words, tuple(float(part) for part in change))  # type: ignore[arg-type]


Words = Callable[[Tick, Call], "Iterator[Line]"]
# By rule: what it says of a call; and all rules that are told by any of them.
EXPLAINED: dict[str, Words] = {}
TOLD: set[str] = set()


def explains(rule: str, *told_with_it: str) -> Callable[[Words], Words]:
    """Register the words of a rule. `told_with_it`: rules that it calls, and tells of itself."""

    def register(words: Words) -> Words:
        EXPLAINED[rule] = words
        TOLD.update((rule, *told_with_it))
        return words

    return register
