"""Which figures are other than before, or than those of another tune: from what to what, the farthest first."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from cinetica.reading.measures import MEASURES, Measure, Reading

# Less than this share of a figure is rounding.
NOTHING = 1e-9


@dataclass(frozen=True)
class FigureChange:
    """A figure of a tune that was one value and is another; None where it does not show."""

    place: int
    tune: str
    measure: Measure
    before: float | None
    after: float | None

    @property
    def share(self) -> float:
        """How far it moved, as a share of the greater of both; what came or went is all of it."""
        if self.before is None or self.after is None:
            return 1.0
        greatest = max(abs(self.before), abs(self.after))
        return abs(self.after - self.before) / greatest if greatest else 0.0


def moved(place: int, tune: str, before: Mapping[str, Reading], after: Mapping[str, Reading]) -> list[FigureChange]:
    """The figures of one tune that are other than before."""
    found = []
    for measure in MEASURES:
        was, now = before.get(measure.id), after.get(measure.id)
        if was is None and now is None:
            continue
        each = FigureChange(place, tune, measure, was.value if was else None, now.value if now else None)
        if each.share > NOTHING:
            found.append(each)
    return found


def farthest(found: Iterable[FigureChange], most: int) -> list[FigureChange]:
    """Those that moved farthest; of equals in the order of the measures."""
    return sorted(found, key=lambda each: -each.share)[:most]
