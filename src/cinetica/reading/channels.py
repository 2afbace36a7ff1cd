"""Channels: what can be drawn over time, with label and unit: a trace's columns, and quantities derived from them."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from numpy.typing import NDArray

from cinetica.model.tune import Tune
from cinetica.motion.simulate import RECKONED, Columns, Trace
from cinetica.reading.pose_steps import POSES
from cinetica.reading.poses import cycles_of, poses_of


@dataclass(frozen=True)
class Channel:
    """A quantity over time."""

    column: str
    label: str
    unit: str
    # A short label, for where there is little room.
    short: str = ""
    # Computes it from a trace's columns and its tune, if it is not a column itself: an array of the same length.
    reckon: Callable[[Columns, Tune], NDArray[Any]] | None = None

    @property
    def name(self) -> str:
        """The label without what its values mean."""
        return re.split(r"[:,]", self.label)[0]

    @property
    def short_label(self) -> str:
        """The label for narrow places."""
        return self.short or self.label


CHANNELS = (
    Channel("vx", "Velocity x", "u/s"),
    Channel("vy", "Velocity y", "u/s"),
    Channel("y", "Height", "u"),
    Channel("x", "Position x", "u"),
    Channel("speed", "Speed", "u/s"),
    Channel("ax", "Acceleration x", "u/s²", "Accel. x"),
    Channel("ay", "Acceleration y", "u/s²", "Accel. y"),
    Channel("facing", "Facing", "°"),
    Channel("bank", "Bank", "°"),
    Channel("look_yaw", "Look yaw", "°"),
    Channel("look_pitch", "Look pitch", "°"),
    Channel("input_x", "Input x", ""),
    Channel("input_y", "Input y", ""),
    Channel("intent_x", "Intent x", ""),
    Channel("intent_y", "Intent y", ""),
    Channel("jump_held", "Jump held", ""),
    Channel("modifier_held", "Modifier held", "", "Modifier"),
    Channel("since_ground", "Since ground", "s"),
    Channel("since_press", "Since press", "s"),
    Channel("overlap", "Overlap", "u"),
    Channel("ground_angle", "Angle of the ground", "°", "Ground"),
    Channel("screen_x", "Place on screen x", "u", "Screen x", lambda rows, _: rows["x"] - rows["camera_x"]),
    Channel("screen_y", "Place on screen y", "u", "Screen y", lambda rows, _: rows["y"] - rows["camera_y"]),
    Channel("camera_x", "Camera x", "u"),
    Channel("camera_y", "Camera y", "u"),
    Channel("dt", "Delta time", "s"),
    Channel("time", "Time", "s"),
    Channel("tick", "Tick", ""),
    Channel("state", "State: ground 0, rise 1, fall 2, climb 3, wall 4, dash 5", "", "State"),
    Channel("pose", f"Pose: {', '.join(f'{name} {code}' for code, name in enumerate(POSES))}", "", "Pose", poses_of),
    Channel("marks", "Marks, as a code", "", "Marks"),
)
BY_COLUMN = {channel.column: channel for channel in CHANNELS}
# From here on a trace provides them.
RECKONED.update({channel.column: channel.reckon for channel in CHANNELS if channel.reckon is not None})
# For postures; not shown in a strip.
RECKONED["stride"] = cycles_of


@dataclass(frozen=True)
class Phase:
    """Two channels plotted against each other, frame by frame, instead of one over time."""

    across: Channel
    up: Channel

    @property
    def label(self) -> str:
        """“Up over across”."""
        return f"{self.up.label} over {self.across.label[0].lower()}{self.across.label[1:]}"

    @property
    def name(self) -> str:
        """The label, as for a channel."""
        return self.label


PHASES = tuple(
    Phase(BY_COLUMN[across], BY_COLUMN[up]) for across, up in (("vx", "vy"), ("x", "vx"), ("y", "vy"), ("x", "speed"))
)
Strips = tuple[Channel | Phase, ...]
# Sets of strips to choose at once: a name, and the strips shown from the side and from above.
PRESETS: dict[str, dict[str, Strips]] = {
    "Velocity and position": {
        "side": tuple(BY_COLUMN[c] for c in ("vx", "vy", "y")),
        "top": tuple(BY_COLUMN[c] for c in ("vx", "vy", "facing")),
    },
    "Speed over time": {
        "side": tuple(BY_COLUMN[c] for c in ("speed", "ax")),
        "top": tuple(BY_COLUMN[c] for c in ("speed", "facing")),
    },
    "Phase": {"side": (BY_COLUMN["vx"], PHASES[0], PHASES[2]), "top": (BY_COLUMN["speed"], PHASES[0], PHASES[1])},
}
FIRST_PRESET = "Velocity and position"


def moving(columns: Iterable[str], traces: Sequence[Trace]) -> list[str]:
    """The columns that do not stay 0 in every trace."""
    return [column for column in columns if any(trace.span(column) != (0.0, 0.0) for trace in traces)]
