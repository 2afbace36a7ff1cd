"""Channels: the columns of a trace that can be drawn over time, with their words and units."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Channel:
    column: str
    label: str
    unit: str

    @property
    def always_finite(self) -> bool:
        """The timers are infinite before their first event; all else is finite."""
        return not self.column.startswith("since_")


CHANNELS = (
    Channel("vx", "Velocity x", "u/s"),
    Channel("vy", "Velocity y", "u/s"),
    Channel("y", "Height", "u"),
    Channel("x", "Position x", "u"),
    Channel("speed", "Speed", "u/s"),
    Channel("ax", "Acceleration x", "u/s²"),
    Channel("ay", "Acceleration y", "u/s²"),
    Channel("facing", "Facing", "°"),
    Channel("bank", "Bank", "°"),
    Channel("look_yaw", "Look yaw", "°"),
    Channel("look_pitch", "Look pitch", "°"),
    Channel("input_x", "Input x", ""),
    Channel("input_y", "Input y", ""),
    Channel("intent_x", "Intent x", ""),
    Channel("intent_y", "Intent y", ""),
    Channel("jump_held", "Jump held", ""),
    Channel("modifier_held", "Modifier held", ""),
    Channel("since_ground", "Since ground", "s"),
    Channel("since_press", "Since press", "s"),
    Channel("overlap", "Overlap", "u"),
    Channel("dt", "Delta time", "s"),
    Channel("time", "Time", "s"),
    Channel("tick", "Tick", ""),
    Channel("state", "State: ground 0, rise 1, fall 2, climb 3", ""),
    Channel("marks", "Marks, as a code", ""),
)
BY_COLUMN = {channel.column: channel for channel in CHANNELS}
FIRST_SHOWN = {"side": ("vx", "vy", "y"), "top": ("vx", "vy", "facing")}
