"""Drawn curves (docs/model.md, section 5)."""

from __future__ import annotations

from cinetica.motion.compiling import apart


@apart
def height_at(curve, x):
    """The height of a curve at x: straight between its points, level outside. Unused points repeat the last."""
    last = curve.shape[0] - 1
    if x <= curve[0, 0]:
        return curve[0, 1]
    for i in range(last):
        if x <= curve[i + 1, 0]:
            return curve[i, 1] + (curve[i + 1, 1] - curve[i, 1]) * ((x - curve[i, 0]) / (curve[i + 1, 0] - curve[i, 0]))
    return curve[last, 1]
