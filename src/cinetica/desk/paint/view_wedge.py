"""Where the view looks, under `input.view = look`: a wedge from the body, around what input calls forward."""

from __future__ import annotations

import math

from cinetica.desk.paint.canvas import Box, Sketch
from cinetica.model.tune import Forward, Tune
from cinetica.model.world_size import world_size

# Half of its angle in degrees, its length in u for a body of the usual size, and the corners of its arc.
HALF, LENGTH, CORNERS = 25.0, 2.2, 9


def has_view(tune: Tune) -> bool:
    """Whether the tune's view turns with its look."""
    return tune.input.view is Forward.LOOK


def view_angle(tune: Tune, yaw: float) -> float:
    """The direction of forward input, in degrees counterclockwise from x, where the look has this yaw."""
    return 90.0 + tune.input.view_yaw - yaw


def view_wedge(tune: Tune, box: Box, yaw: float) -> Sketch:
    """The outline of the wedge from the middle of the body's box, in u."""
    x, y = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
    far, middle = LENGTH * world_size(tune), view_angle(tune, yaw)
    turns = [math.radians(middle - HALF + 2 * HALF * k / (CORNERS - 1)) for k in range(CORNERS)]
    around = [(x + far * math.cos(turn), y + far * math.sin(turn)) for turn in turns]
    return Sketch([x, *(at for at, _ in around), x], [y, *(at for _, at in around), y])
