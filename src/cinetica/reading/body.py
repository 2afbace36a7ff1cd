"""The body's box: a position is the middle of its feet from the side, and its centre from above."""

from __future__ import annotations

import math
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from cinetica.model.course import Slope
from cinetica.model.tune import Sweep, Tune
from cinetica.motion.records import SLACK

Values = TypeVar("Values", float, NDArray[np.float64])


def box_of(tune: Tune, x: Values, y: Values) -> tuple[Values, Values, Values, Values]:
    """Left, bottom, right and top of the body at a position, in u."""
    bottom = y if tune.view == "side" else y - tune.body.height / 2
    return x - tune.body.width / 2, bottom, x + tune.body.width / 2, bottom + tune.body.height


def boxes_of(tune: Tune, x: NDArray[np.float64], y: NDArray[np.float64]) -> NDArray[np.float64]:
    """`box_of` for many positions: rows of left, bottom, right, top."""
    boxes = np.empty((len(x), 2, 2))
    boxes[:, :, 0], boxes[:, :, 1] = x[:, np.newaxis], y[:, np.newaxis]
    boxes += np.reshape(box_of(tune, 0.0, 0.0), (2, 2))
    return boxes.reshape(-1, 4)


def too_steep(tune: Tune, slope: Slope) -> bool:
    """Whether a tune slides on a slope, or is stopped by it, instead of walking on it."""
    felt = tune.contact.sweep is not Sweep.NONE
    return felt and math.radians(abs(slope.angle) - tune.slope.max_slope) > SLACK
