"""Which figures differ from before, or from another tune's: old and new value, largest change first."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from cinetica.reading.measures import MEASURES, Measure, Reading

# A change below this share of a figure is rounding.
NOTHING = 1e-9


@dataclass(frozen=True)
class FigureChange:
    """A figure of a tune with its old and its new value; None where it is absent."""

    place: int
    tune: str
    measure: Measure
    before: float | None
    after: float | None

    @property
    def share(self) -> float:
        """The change as a share of the larger value; 1 if the figure appeared or disappeared."""
        if self.before is None or self.after is None:
            return 1.0
        greatest = max(abs(self.before), abs(self.after))
        return abs(self.after - self.before) / greatest if greatest else 0.0


def moved(place: int, tune: str, before: Mapping[str, Reading], after: Mapping[str, Reading]) -> list[FigureChange]:
    """The figures of one tune that changed."""
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
    """The `most` largest changes; equal ones in the order of the measures."""
    return sorted(found, key=lambda each: -each.share)[:most]
