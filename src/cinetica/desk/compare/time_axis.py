"""The time axis that lanes and strips share."""

from __future__ import annotations

from functools import cache

import numpy as np
from PySide6.QtCore import QObject, Signal

from cinetica.desk import look
from cinetica.desk.paint.axes import numbers_width
from cinetica.desk.state.session import Session
from cinetica.model.take import KEYS
from cinetica.model.takes import MOMENTS, STICKS
from cinetica.reading.channels import CHANNELS


@cache
def _room(_scale: float) -> tuple[int, int, int]:
    """The widths of titles, numbers and readout, from the longest words that can occur."""
    titles = max(look.width(channel.short_label, 9, bold=True) for channel in CHANNELS)
    # Before the title its margin, behind it the arrow and a sign for differences.
    titles += look.width("Δ ", 9, bold=True) + look.px(28)
    lanes = max(look.width(lane, 8) for lane in (*KEYS, *(f"{stick} x" for stick in (*STICKS, *MOMENTS)))) + look.px(16)
    figures = look.width("W", 9) + 2 * look.width(WIDEST_FIGURE, 9) + look.px(44)
    words = look.width("at frame 99999", 8) + look.width("minus W", 8) + look.px(34)
    return titles, max(numbers_width(), lanes), max(figures, words)


class Room:
    """The space left and right of the time axis, in pixels, the same for everything on it."""

    @property
    def titles(self) -> int:
        """The width of the titles."""
        return _room(look.text_scale())[0]

    @property
    def numbers(self) -> int:
        """The width of the axis numbers."""
        return _room(look.text_scale())[1]

    @property
    def left(self) -> int:
        """The space left of the time axis."""
        titles, numbers, _ = _room(look.text_scale())
        return titles + numbers

    @property
    def right(self) -> int:
        """The space right of the time axis."""
        return _room(look.text_scale())[2]


WIDEST_FIGURE = "−999.99"
ROOM = Room()
SHORTEST = 0.05


class TimeAxis(QObject):
    """The stretch of time in view, in s, and the conversion between times and rows."""

    changed = Signal()

    def __init__(self, session: Session, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.session = session
        self.start, self.end = 0.0, 1.0

    @property
    def whole(self) -> tuple[float, float]:
        """The whole time, with a margin on either side."""
        ends = [float(shown.trace["time"][-1]) for shown in self.session.shown]
        drill = self.session.drill
        end = max([*ends, drill.take.seconds if drill else 0.0, SHORTEST])
        return -0.01 * end, 1.01 * end

    def fit(self) -> None:
        """Show the whole time."""
        self.show(*self.whole)

    def show(self, start: float, end: float) -> None:
        """Show a stretch of time, limited to what there is."""
        first, last = self.whole
        length = min(max(end - start, SHORTEST), last - first)
        start = min(max(start, first), last - length)
        if (start, start + length) != (self.start, self.end):
            self.start, self.end = start, start + length
            self.changed.emit()

    def zoom(self, factor: float, around: float) -> None:
        """Show `factor` times as much, keeping the time `around` in place."""
        length = min(max((self.end - self.start) * factor, SHORTEST), self.whole[1] - self.whole[0])
        share = (around - self.start) / (self.end - self.start)
        self.show(around - share * length, around + (1 - share) * length)

    def pan(self, share: float) -> None:
        """Move by a share of what is in view."""
        move = share * (self.end - self.start)
        self.show(self.start + move, self.end + move)

    def keep_in_view(self, time: float) -> None:
        """Move so that a time is in view."""
        length = self.end - self.start
        if not self.start <= time <= self.end:
            self.show(time - length / 2, time + length / 2)

    def x(self, time: float, width: float) -> float:
        """The pixel of a time in a widget of this width."""
        left = ROOM.left
        return left + (time - self.start) / (self.end - self.start) * (width - left - ROOM.right)

    def time(self, x: float, width: float) -> float:
        """The time of a pixel in a widget of this width."""
        return self.start + (x - ROOM.left) / max(1.0, width - ROOM.left - ROOM.right) * (self.end - self.start)

    def row_at(self, time: float) -> int:
        """The row nearest to a time."""
        reference = self.session.reference_shown
        if reference is None:
            return 0
        times = reference.trace["time"]
        after = int(np.searchsorted(times, time))
        if after == 0 or after >= len(times):
            return min(after, len(times) - 1)
        return after - 1 if time - times[after - 1] < times[after] - time else after
