"""How numbers and changes are worded in everything that is explained."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

from cinetica.reading.display_units import OURS, DisplayUnits


def figure(value: float) -> str:
    """A computed number: two decimals, more if it is small."""
    if value == 0 or not math.isfinite(value):
        return "0" if value == 0 else "∞"
    text = f"{value:.2f}" if abs(value) >= 0.1 else f"{value:.3g}"
    return text.replace("-", "−")


def plain(value: float) -> str:
    """A number that was entered: as few digits as represent it."""
    return f"{value:.6g}".replace("-", "−")


def seconds(h: float) -> str:
    """A duration, as 1/n s where it is one."""
    rate = 1.0 / h if h > 0 else 0.0
    return f"1/{round(rate)} s" if rate > 1.5 and abs(rate - round(rate)) < 1e-6 else f"{h:.4g} s"


def times(factor: float, name: str) -> str:
    """“ × name factor”; empty for a factor of 1."""
    return "" if factor == 1 else f" × {name} {plain(factor)}"


@dataclass(frozen=True)
class Phrases:
    """Numbers in words, in the units that are shown. Angles are given in degrees."""

    units: DisplayUnits = OURS

    def entered(self, value: float, unit: str) -> str:
        """A number that was entered, with its unit."""
        scale = self.units.scale(unit)
        return f"{plain(scale.shown(value))} {scale.unit}"

    def upward(self, speed: float, more: str = "") -> str:
        """An upward speed that was entered, with the sign of the shown y, what is added to it, and their unit."""
        scale = self.units.column("vy")
        return f"{plain(scale.shown(speed))}{more} {scale.unit}"

    def speed(self, value: float) -> str:
        """A computed speed, without its unit."""
        return figure(self.units.scale("u/s").shown(value))

    @property
    def plus(self) -> str:
        """The sign by which more speed is added to an upward one."""
        return "−" if self.units.column("vy").factor < 0 else "+"

    def bare(self, value: float, unit: str) -> str:
        """A number that was entered, without its unit."""
        return plain(self.units.scale(unit).shown(value))

    def computed(self, value: float, unit: str) -> str:
        """A computed number, with its unit."""
        scale = self.units.scale(unit)
        return f"{figure(scale.shown(value))} {scale.unit}"

    def degrees(self, radians: float) -> str:
        """A computed angle without a direction."""
        return self.angle(figure(self.units.scale("°").shown(math.degrees(radians))))

    def angle(self, number: str) -> str:
        """A number with the unit of angles behind it."""
        unit = self.units.unit("°")
        return f"{number}°" if unit == "°" else f"{number} {unit}"

    def turned(self, name: str, before: float, after: float) -> str:
        """“name before → after” of two facings, in radians."""
        scale = self.units.column("facing")
        one, other = (self.angle(figure(scale.shown(math.degrees(each)))) for each in (before, after))
        return f"{name} {one} → {other}"

    def duration(self, h: float) -> str:
        """The length of a tick, as 1/n s where it is one."""
        scale = self.units.scale("s")
        if scale.factor == 1.0:
            return seconds(h)
        number = plain(scale.shown(h))
        return f"{number} {'frame' if scale.unit == 'frames' and number == '1' else scale.unit}"

    def value(self, column: str, value: float) -> str:
        """A value of a column, without its unit."""
        return figure(self.units.column(column).shown(value))

    def change(self, column: str, before: float, after: float, name: str = "") -> str:
        """“name before → after” of a column; its own name if none is given."""
        return f"{name or column} {self.value(column, before)} → {self.value(column, after)}"

    def intent(self, x: float, y: float) -> str:
        """“(x, y)” of an intent or of the hands."""
        return f"({figure(x)}, {self.value('intent_y', y)})"

    def velocities(self, before: Any, after: Any) -> str:
        """The velocity components that changed."""
        changed = [
            self.change(name, float(before[name]), float(after[name]))
            for name in ("vx", "vy")
            if before[name] != after[name]
        ]
        return ", ".join(changed) or "velocity stays"
