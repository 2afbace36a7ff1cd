"""A number dragged in its cell."""

from __future__ import annotations

from cinetica.desk.sheet.cells import dragged_in
from cinetica.desk.state.session import Session
from cinetica.model.parameters import Parameter, as_number
from cinetica.model.tune import Tune
from cinetica.model.world_size import sized

# Pixels before a press becomes a drag.
THRESHOLD = 3


class NumberDrag:
    """From a press at pixel `at` on a number to its release: one edit, once the mouse has moved."""

    def __init__(self, session: Session, tune: Tune, parameter: Parameter, at: int) -> None:
        self._session, self._tune, self._parameter = session, tune.name, parameter
        self.at, self._start = at, as_number(tune.get(parameter.id))
        self.moving = False

    def move(self, pixels: float, scale: float) -> str:
        """Set the number after a drag by this many pixels; returns what it is, empty if nothing was set."""
        parameter = self._parameter
        if not self.moving:
            if abs(pixels) < THRESHOLD:
                return ""
            self.moving = True
            self._session.begin(f"{parameter.label} of {self._tune}")
        tune = self._session.study.tune(self._tune)
        value = dragged_in(self._session.units, parameter, tune, self._start, pixels * scale)
        if not self._session.set_value(tune, parameter, value):
            return ""
        units, values = self._session.units, tune.values()
        low, high = sized(parameter, tune).comfort
        text = f"{parameter.label} of {self._tune}: {units.with_unit(parameter, value, values)}"
        if low <= as_number(value) <= high:
            return text
        ends = (units.text(parameter, end, values) for end in (low, high))
        return f"{text} — past the comfortable {' to '.join(ends)}"
