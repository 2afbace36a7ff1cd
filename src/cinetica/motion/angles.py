"""Angles, in radians (docs/model.md, sections 5 and 9)."""

from __future__ import annotations

import math

from cinetica.motion.compiling import compiled
from cinetica.motion.records import SLACK

TURN = 2.0 * math.pi


@compiled
def wrapped(angle):
    """The same angle in (-π, π].

    An angle within the slack of -π becomes π, so that half a turn always goes the same way.
    """
    return min(math.pi, angle - TURN * math.ceil((angle - math.pi - SLACK) / TURN))
