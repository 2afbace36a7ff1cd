"""How the traces are overlaid: the event at which they are aligned, as values or differences, and the style."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, Signal

from cinetica.desk.state.session import Session
from cinetica.desk.state.tune_run import TuneRun
from cinetica.motion.polyline import Points
from cinetica.reading.alignment import ANCHORS, anchor_row, difference, shift

DRAWINGS = ("lines", "steps", "points")
Curve = tuple[NDArray[np.float64], NDArray[np.float64]]


class Comparing(QObject):
    """The user's choices for the comparison; the strips, the stage, the states and the table follow them."""

    changed = Signal()

    def __init__(self, session: Session, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.anchor = ANCHORS[0]
        self.differences = False
        self.drawing = DRAWINGS[0]
        self.shared_scale = False
        session.loaded.connect(self._start_over)
        self._shifts: dict[int, tuple[TuneRun, TuneRun, str, int]] = {}

    def _start_over(self) -> None:
        self.set(anchor=ANCHORS[0], differences=False)

    def set(
        self,
        *,
        anchor: str | None = None,
        differences: bool | None = None,
        drawing: str | None = None,
        shared_scale: bool | None = None,
    ) -> None:
        """Change some of the choices."""
        self.anchor = self.anchor if anchor is None else anchor
        self.differences = self.differences if differences is None else differences
        self.drawing = self.drawing if drawing is None else drawing
        self.shared_scale = self.shared_scale if shared_scale is None else shared_scale
        self.changed.emit()

    def next_anchor(self) -> None:
        """Align at the next event."""
        self.set(anchor=ANCHORS[(ANCHORS.index(self.anchor) + 1) % len(ANCHORS)])

    @property
    def without_anchor(self) -> list[TuneRun]:
        """The tunes that are not aligned, since the event never happens to them."""
        return [shown for shown in self.session.shown if anchor_row(shown.trace, self.anchor) is None]

    def shift(self, shown: TuneRun) -> int:
        """How many rows later than in the reference the anchor comes in this tune's trace."""
        if self.anchor == ANCHORS[0]:
            return 0
        reference = self.session.reference_shown
        if reference is None or shown is reference:
            return 0
        kept = self._shifts.get(shown.place)
        if kept is None or kept[0] is not shown or kept[1] is not reference or kept[2] != self.anchor:
            kept = self._shifts[shown.place] = (
                shown,
                reference,
                self.anchor,
                shift(shown.trace, reference.trace, self.anchor),
            )
        return kept[3]

    def row(self, shown: TuneRun) -> int:
        """The row of this tune's trace under the frame cursor, or the nearest."""
        return min(max(self.session.cursor + self.shift(shown), 0), len(shown.trace) - 1)

    def delay(self, shown: TuneRun) -> float:
        """How much earlier than in its own trace a tune is drawn, in s."""
        if self.shift(shown) == 0:
            return 0.0
        reference = self.session.reference_shown
        assert reference is not None
        mine, other = anchor_row(shown.trace, self.anchor), anchor_row(reference.trace, self.anchor)
        return (
            0.0 if mine is None or other is None else float(shown.trace["time"][mine] - reference.trace["time"][other])
        )

    def over_time(self, shown: TuneRun, column: str) -> Curve:
        """Times on the shared axis in s, and the channel's values there, or their difference from the reference."""
        if self.anchor == ANCHORS[0] and not self.differences:
            return shown.trace["time"], shown.trace[column]
        reference = self.session.reference_shown
        if self.differences and reference is not None:
            return difference(shown.trace, reference.trace, column, self.shift(shown))
        time = shown.trace["time"]
        delay = self.delay(shown)
        return (time - delay if delay else time), shown.trace[column]

    def line(self, shown: TuneRun, column: str) -> Points:
        """The same as points."""
        if self.anchor == ANCHORS[0] and not self.differences:
            return shown.trace.points("time", column)
        return Points(*self.over_time(shown, column))

    def value(self, shown: TuneRun, column: str) -> float:
        """The channel's value under the frame cursor."""
        return shown.trace.value(column, self.row(shown))

    def values(self, column: str) -> list[float]:
        """The channel's values of all visible tunes."""
        if self.anchor != ANCHORS[0]:
            return [self.value(shown, column) for shown in self.session.shown]
        cursor = self.session.cursor
        return [shown.trace.value(column, min(cursor, len(shown.trace) - 1)) for shown in self.session.shown]
