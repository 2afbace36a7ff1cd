"""How numbers and changes are worded in everything that is explained."""

from __future__ import annotations

import math
from typing import Any


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
    return f"1/{round(rate)} s" if rate >= 1 and abs(rate - round(rate)) < 1e-6 else f"{h:.4g} s"


def from_to(name: str, before: float, after: float) -> str:
    """“name before → after”."""
    return f"{name} {figure(before)} → {figure(after)}"


def velocities(before: Any, after: Any) -> str:
    """The velocity components that changed."""
    changed = [
        from_to(name, float(before[name]), float(after[name])) for name in ("vx", "vy") if before[name] != after[name]
    ]
    return ", ".join(changed) or "velocity stays"


def times(factor: float, name: str) -> str:
    """“ × name factor”; empty for a factor of 1."""
    return "" if factor == 1 else f" × {name} {plain(factor)}"


# What each rule says
