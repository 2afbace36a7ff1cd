"""A map: figures over two numbers, their contour lines, and the region in which all targets are met."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

import contourpy
import numpy as np
from numpy.typing import NDArray

from cinetica.model.clock import Clock
from cinetica.model.parameters import Parameter
from cinetica.model.study import Drill
from cinetica.model.targets import SLACK, Target
from cinetica.model.tune import Tune
from cinetica.reading.display_units import OURS, DisplayUnits
from cinetica.reading.measures import MEASURES
from cinetica.reading.sweeps import run_and_read

# Points per side during a drag and at rest; rows of the fine map that are run at a time.
COARSE, FINE, ROWS_AT_A_TIME = 50, 200, 8
Grid = NDArray[np.float64]
_UNITS = {measure.id: measure.unit for measure in MEASURES}


@dataclass(frozen=True, eq=False)
class Map:
    """Figures over two numbers.

    `ids`: the measures asked for, besides those of the targets. `figures`: by id, shape (len(up), len(across)); NaN
    where a figure is absent. `units`: those in which the lines are round. `allowed`: where every target of
    the tune on the drill is met, of the same shape; None without targets. `targets`: those.
    """

    tune: Tune
    ids: tuple[str, ...]
    x: Parameter
    y: Parameter
    across: NDArray[np.float64]
    up: NDArray[np.float64]
    figures: dict[str, Grid]
    allowed: NDArray[np.bool_] | None
    targets: tuple[Target, ...] = ()
    units: DisplayUnits = OURS

    def missed_at(self, row: int, column: int) -> list[tuple[Target, float | None]]:
        """The targets missed at a point, each with its distance from the range; None where its figure is absent."""
        found = []
        for target in self.targets:
            value = float(self.figures[target.measure][row, column])
            by = None if np.isnan(value) else target.misses_by(value)
            if by is None or by:
                found.append((target, by))
        return found

    @cached_property
    def lines(self) -> dict[str, list[tuple[float, list[Grid]]]]:
        """The contour lines of each figure, by value."""
        found = {}
        for id, values in self.figures.items():
            factor = self.units.scale(_UNITS[id]).factor
            round_ones = [level / factor for level in levels(values * factor)]
            found[id] = [(level, level_lines(self.across, self.up, values, level)) for level in round_ones]
        return found

    @cached_property
    def rim(self) -> list[Grid]:
        """The outline of the region in which all targets are met."""
        return [] if self.allowed is None else level_lines(self.across, self.up, self.allowed.astype(float), 0.5)


def points(number: Parameter, low: float, high: float, count: int) -> NDArray[np.float64]:
    """Values of a number to run: evenly spaced or whole, at most `count`."""
    if number.kind == "whole":
        whole = np.arange(np.ceil(low), np.floor(high) + 1)
        return np.unique(whole[np.linspace(0, len(whole) - 1, min(len(whole), count)).astype(int)])
    return np.linspace(low, high, count)


def map_of(
    tune: Tune,
    drill: Drill,
    clock: Clock,
    x: tuple[Parameter, float, float],
    y: tuple[Parameter, float, float],
    ids: Sequence[str],
    count: int = COARSE,
    units: DisplayUnits = OURS,
) -> Iterator[tuple[float, Map | None]]:
    """Run the map, a few rows at a time.

    Yields the share done, and finally the map. Raises ValueError if the number may not have a value of its range.
    """
    across, up = points(*x, count), points(*y, count)
    targets = [target for target in drill.targets if target.concerns(tune.name)]
    asked = list(dict.fromkeys([*ids, *(target.measure for target in targets)]))
    found: dict[str, Grid] = {id: np.empty((len(up), len(across))) for id in asked}
    rows = len(up) if count <= COARSE else ROWS_AT_A_TIME
    for first in range(0, len(up), rows):
        part = up[first : first + rows]
        columns = {x[0].id: np.tile(across, len(part)), y[0].id: np.repeat(part, len(across))}
        for id, values in run_and_read(tune, drill, clock, columns, asked).items():
            found[id][first : first + rows] = values.reshape(len(part), len(across))
        if first + rows < len(up):
            yield (first + rows) / len(up), None
    made = Map(tune, tuple(ids), x[0], y[0], across, up, found, _allowed(targets, found), tuple(targets), units)
    # Called in the thread that does the work.
    _ = made.lines, made.rim
    yield 1.0, made


def _allowed(targets: Sequence[Target], found: dict[str, Grid]) -> NDArray[np.bool_] | None:
    """Where all targets are met, judged like `Target.misses_by`; an absent figure misses its target."""
    if not targets:
        return None
    allowed = np.ones_like(next(iter(found.values())), dtype=bool)
    for target in targets:
        values = found[target.measure]
        shown = np.isfinite(values)
        low = -np.inf if target.low is None else target.low - SLACK * max(1.0, abs(target.low))
        high = np.inf if target.high is None else target.high + SLACK * max(1.0, abs(target.high))
        allowed &= shown & (values >= low) & (values <= high)
    return allowed


def levels(values: Grid, most: int = 9) -> list[float]:
    """Round values between the least and the greatest, at most `most`."""
    known = values[np.isfinite(values)]
    if not len(known) or known.max() - known.min() <= 1e-9 * max(1e-9, float(abs(known).max())):
        return []
    low, high = float(known.min()), float(known.max())
    rough = (high - low) / most
    power = 10.0 ** np.floor(np.log10(rough))
    step = next(power * factor for factor in (1, 2, 5, 10) if power * factor >= rough * 0.999)
    first, last = int(np.ceil(low / step + 1e-9)), int(np.floor(high / step - 1e-9))
    return [float(place * step) for place in range(first, last + 1)]


def level_lines(across: Grid, up: Grid, values: Grid, level: float) -> list[Grid]:
    """The contour lines of a value: arrays of shape (points, 2), in the units of the numbers."""
    if min(values.shape) < 2:
        return []
    masked = np.ma.masked_invalid(values)
    lines: list[Grid] = list(contourpy.contour_generator(across, up, masked).lines(level))  # type: ignore[arg-type]
    return lines
