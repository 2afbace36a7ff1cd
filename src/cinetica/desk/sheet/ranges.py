"""Targets by mouse: a range dragged out of a figure, and the menu of a figure."""

from __future__ import annotations

import math
from dataclasses import dataclass

from cinetica.desk.paint.steps import round_step
from cinetica.desk.sheet.number_drag import THRESHOLD
from cinetica.desk.state.session import Session
from cinetica.model import editing
from cinetica.model.targets import Target
from cinetica.reading.display_units import Scale
from cinetica.reading.measures import Measure
from cinetica.reading.targets import Verdict

# A pixel is this share of the figure, as a round number.
PIXEL = 1 / 200


def range_step(value: float) -> float:
    """The change of a range per pixel of a drag."""
    return round_step(abs(value) * PIXEL or 0.01, 1)


@dataclass
class RangeDrag:
    """Drags both ends apart for a figure without a target; of a target with two ends the nearer one is moved.

    `value` and `scale`: the figure as it is shown, and how it is.
    """

    session: Session
    drill: str
    tune: str
    measure: Measure
    value: float
    at: int
    verdict: Verdict | None
    right_half: bool
    scale: Scale
    moving: bool = False

    def move(self, pixels: float, scale: float) -> str:
        """Set the range after a drag by this many pixels; returns it in words, empty if nothing was set."""
        if not self.moving:
            if abs(pixels) < THRESHOLD:
                return ""
            self.moving = True
            self.session.begin(f"Target for {self.measure.label.lower()}")
        target = self._dragged(pixels * scale * range_step(self.value))
        self.session.alter(
            f"Target for {self.measure.label.lower()}", lambda study: editing.with_target(study, self.drill, target)
        )
        return f"{self.measure.label} of {self.tune} should be {self.session.units.target_words(target, self.measure)}"

    def _dragged(self, by: float) -> Target:
        old = self.verdict.target if self.verdict else None
        kept = (old.low, old.high) if old else (None, None)
        low, high = (None if end is None else self.scale.shown(end) for end in kept)
        if low is None or high is None:
            low, high = self.value - abs(by), self.value + abs(by)
        elif self.right_half:
            high = max(low, high + by)
        else:
            low = min(high, low + by)
        digits = max(0, 1 - math.floor(math.log10(range_step(self.value))))
        low, high = (self.scale.kept(round(end, digits)) for end in (low, high))
        return Target(measure=self.measure.id, low=low, high=high, tunes=(self.tune,))
