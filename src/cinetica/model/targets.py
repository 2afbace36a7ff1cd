"""Targets: the range agreed for a figure on a drill, and how such a range is typed and shown."""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from typing import Annotated, Self

from pydantic import Field, model_validator

from cinetica.model.base import FrozenModel
from cinetica.model.text import Name

# A figure at the edge of its range, apart from rounding, is within it.
SLACK = 1e-9
_N = r"([+-]?(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:[eE][+-]?\d+)?)"
_BETWEEN = re.compile(rf"{_N}\s*(?:…|\.\.\.?|–|-|to)\s*{_N}")
_AROUND = re.compile(rf"{_N}\s*(?:±|\+/?-)\s*{_N}")
_AT_LEAST, _AT_MOST = re.compile(rf"(?:>=?|≥)\s*{_N}"), re.compile(rf"(?:<=?|≤)\s*{_N}")
HOW = "type 2.5-2.7, >= 2.5, <= 2.7 or 2.6 ± 0.1"


class Target(FrozenModel):
    """A `measure` that should lie between `low` and `high`, for the named tunes or, without names, for all."""

    measure: Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]{0,99}$")]
    low: float | None = None
    high: float | None = None
    tunes: Annotated[tuple[Name, ...], Field(max_length=1000)] = ()

    @model_validator(mode="after")
    def _check(self) -> Self:
        if self.low is None and self.high is None:
            raise ValueError("a target has a low or a high end, or both")
        if self.low is not None and self.high is not None and self.low > self.high:
            raise ValueError("the low end of a target is not over its high end")
        return self

    def concerns(self, tune: str) -> bool:
        """Whether the target is for this tune."""
        return not self.tunes or tune in self.tunes

    def misses_by(self, value: float) -> float:
        """The distance from a value to the range: negative if it is too low, positive if too high, else 0."""
        if self.low is not None and value < self.low - SLACK * max(1.0, abs(self.low)):
            return value - self.low
        if self.high is not None and value > self.high + SLACK * max(1.0, abs(self.high)):
            return value - self.high
        return 0.0

    @property
    def words(self) -> str:
        """The range in words."""
        return range_words(self.low, self.high)


def range_words(low: float | None, high: float | None) -> str:
    """A range as it is typed and shown."""

    def words(value: float) -> str:
        return f"{value:.6g}".replace("-", "−")

    if low is None or high is None:
        return f"≥ {words(low)}" if low is not None else f"≤ {words(high or 0.0)}"
    return words(low) if low == high else f"{words(low)}…{words(high)}"


FOR_ALL = re.compile(r"\s*\b(?:for )?all$")


def split_all(text: str) -> tuple[str, bool]:
    """Separate a trailing “all” or “for all” from a text; returns the rest and whether it was there."""
    bare = FOR_ALL.sub("", text.strip())
    return bare, bare != text.strip()


EVERYWHERE = re.compile(r"[\s,]*\b(?:on )?(?:every drill|everywhere)$")


def split_everywhere(text: str) -> tuple[str, bool]:
    """Separate a trailing “on every drill” from a text; returns the rest and whether it was there."""
    bare = EVERYWHERE.sub("", text.strip())
    return bare, bare != text.strip()


def range_from_text(
    text: str, unit: str = "", factor_of: Callable[[str], float | None] | None = None
) -> tuple[float | None, float | None] | None:
    """Read a range in `unit`; None if the text is not a range.

    `factor_of` says how many of `unit` another unit is, None if it is of another kind. Raises ValueError, worded for
    the user, if the range is reversed, in a unit of another kind or has no end.
    """
    bare = text.strip().replace("−", "-").replace(" ", " ")
    # A hyphen after a digit separates two numbers; otherwise it is a sign.
    range_sign = re.search(r"…|\.\.|–|±|\+/?-|[<>≥≤]|\bto\b|[\d.,]\s*-", bare)
    if not range_sign:
        return None
    given, factor = re.search(r"[A-Za-z°/²%×]+\s*$", bare), 1.0
    if given and re.search(r"\d", bare) and given[0].strip() != "to":
        other = given[0].strip()
        known = 1.0 if other == unit else factor_of(other) if factor_of else None
        if known is None:
            raise ValueError(f"“{text.strip()}” is in {other}; this figure is in {unit or 'bare numbers'}: {HOW}.")
        factor = known
        bare = bare[: given.start()].strip()
    for pattern, ends in (
        (_BETWEEN, lambda a, b: (a, b)),
        (_AROUND, lambda a, b: (a - b, a + b)),
        (_AT_LEAST, lambda a, b: (a, None)),
        (_AT_MOST, lambda a, b: (None, a)),
    ):
        if found := pattern.fullmatch(bare):
            numbers = [float(group.replace(",", ".")) * factor for group in found.groups()]
            low, high = ends(numbers[0], numbers[-1])
            if not all(math.isfinite(end) for end in (low, high) if end is not None):
                raise ValueError(f"“{text.strip()}” is too large for a target: {HOW}.")
            if low is not None and high is not None and low > high:
                raise ValueError(f"“{text.strip()}” is the wrong way round: the lower end comes first ({HOW}).")
            return low, high
    raise ValueError(f"“{text.strip()}” is not a range: {HOW}.")
