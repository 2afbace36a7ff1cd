"""The box of a body, and slopes that are too steep for it."""

import numpy as np
import pytest

from cinetica.model.course import Slope
from cinetica.reading.body import box_of, boxes_of, too_steep
from tests.builders import make_tune

SIZE = {"body__width": 1.0, "body__height": 3.0}


@pytest.mark.parametrize(("view", "box"), [("side", (1.5, 5.0, 2.5, 8.0)), ("top", (1.5, 3.5, 2.5, 6.5))])
def test_the_position_is_at_the_feet_or_in_top_view_at_the_centre(view, box):
    tune = make_tune(view, **SIZE)
    assert box_of(tune, 2.0, 5.0) == box
    moved = boxes_of(tune, np.array([2.0, 3.0]), np.array([5.0, 4.0]))
    assert moved.tolist() == [list(box), [box[0] + 1, box[1] - 1, box[2] + 1, box[3] - 1]]


@pytest.mark.parametrize(
    ("slope", "most", "sweep", "steep"),
    [
        ((0, 0, 4, 4), 45.0, "swept", False),
        ((0, 0, 4, 4), 44.0, "swept", True),
        ((0, 4, 4, 0), 44.0, "swept", True),
        ((0, 4, 4, 0), 46.0, "swept", False),
        ((0, 0, 4, 4), 44.0, "none", False),
    ],
)
def test_a_slope_beyond_the_limit_is_too_steep_on_either_side(slope, most, sweep, steep):
    tune = make_tune(slope__max_slope=most, contact__sweep=sweep)
    assert too_steep(tune, Slope(*slope)) is steep
