"""One game pad through Linux's evdev: what it holds, and what is learnt from it. Imports evdev, which is slow."""

from __future__ import annotations

import os
from collections.abc import Iterable
from pathlib import Path
from typing import Any, Protocol, cast

import evdev
from evdev import ecodes

from cinetica.motion.live import Held

# How far from its middle a stick must be pushed to be learnt, 0 to 1.
PUSHED = 0.6
PAIRS = ((ecodes.ABS_X, ecodes.ABS_Y), (ecodes.ABS_RX, ecodes.ABS_RY), (ecodes.ABS_Z, ecodes.ABS_RZ))
# Brake and throttle. Without another second stick, the second pair of axes is the second stick.
TRIGGERS = ((ecodes.ABS_BRAKE, ecodes.ABS_GAS), (ecodes.ABS_Z, ecodes.ABS_RZ))
HATS = {ecodes.ABS_HAT0X: ("left", "right"), ecodes.ABS_HAT0Y: ("up", "down")}
DEFAULT_BUTTONS = {
    ecodes.BTN_SOUTH: "jump", ecodes.BTN_EAST: "modifier", ecodes.BTN_DPAD_LEFT: "left", ecodes.BTN_DPAD_RIGHT: "right",
    ecodes.BTN_DPAD_UP: "up", ecodes.BTN_DPAD_DOWN: "down",
}  # fmt: skip


class Device(Protocol):
    """The part of evdev.InputDevice that is used here; a simulated pad has the same."""

    name: str
    path: str

    def fileno(self) -> int:
        """The file descriptor."""

    def capabilities(self) -> dict[int, Any]:
        """Event types, with their codes."""

    def read(self) -> Iterable[evdev.InputEvent]:
        """The waiting events."""

    def close(self) -> None:
        """Close the device."""


def is_pad(device: Device) -> bool:
    """Whether it has a pad's button or a pair of stick axes, and is not a mouse, tablet or touchpad."""
    able = device.capabilities()
    buttons = set(able.get(ecodes.EV_KEY, ()))
    axes = {code for code, _ in able.get(ecodes.EV_ABS, ())}
    return bool(buttons & {ecodes.BTN_SOUTH, ecodes.BTN_TRIGGER}) or (
        {ecodes.ABS_X, ecodes.ABS_Y} <= axes and ecodes.BTN_TOUCH not in buttons
    )


class Pad:
    """What one device holds. Axes are -1 to 1 with up positive, and 0 within the device's flat zone."""

    def __init__(self, device: Device) -> None:
        self.device = device
        able = device.capabilities()
        self._ranges = dict(able.get(ecodes.EV_ABS, ()))
        pairs = [pair for pair in PAIRS if set(pair) <= set(self._ranges)]
        self.stick: tuple[int, int] | None = pairs[0] if pairs else None
        self.aim: tuple[int, int] | None = pairs[1] if len(pairs) > 1 else None
        free = [pair for pair in TRIGGERS if set(pair) <= set(self._ranges) and pair not in (self.stick, self.aim)]
        # The axes that thrust backward and forward; None where the pad has no triggers.
        self.triggers: dict[str, int | None] = {"reverse": None, "thrust": None}
        if free:
            self.triggers = dict(zip(self.triggers, free[0], strict=True))
        self.buttons: dict[int, str] = dict(DEFAULT_BUTTONS)
        # Each axis from its middle, and from its low end.
        self._values: dict[int, float] = {}
        self._pulls: dict[int, float] = {}
        self._down: set[int] = set()
        self.learning = ""

    @property
    def has_sticks(self) -> bool:
        """Whether a stick is assigned."""
        return self.stick is not None

    def take(self, event: evdev.InputEvent) -> str:
        """Process one event; returns what was learnt from it, in words, or an empty text."""
        if event.type == ecodes.EV_KEY:
            if self.learning not in ("", "stick", "aim", *self.triggers) and event.value == 1:
                return self._learn_button(event.code)
            (self._down.add if event.value else self._down.discard)(event.code)
        elif event.type == ecodes.EV_ABS and event.code in self._ranges:
            self._values[event.code] = self._share(event.code, event.value)
            self._pulls[event.code] = self._from_rest(event.code, event.value)
            if self.learning in ("stick", "aim") and abs(self._values[event.code]) >= PUSHED:
                return self._learn_stick(event.code)
            if self.learning in self.triggers and self._pulled(event.code) >= PUSHED:
                return self._learn_trigger(event.code)
        return ""

    def _learn_button(self, code: int) -> str:
        key, self.learning = self.learning, ""
        self.buttons[code] = key
        name: Any = ecodes.bytype[ecodes.EV_KEY].get(code, str(code))
        return f"{name if isinstance(name, str) else name[0]} is {key} now."

    def _learn_stick(self, code: int) -> str:
        pair = next((pair for pair in PAIRS if code in pair and set(pair) <= set(self._ranges)), None)
        if pair is None:
            return ""
        which, self.learning = self.learning, ""
        setattr(self, which, pair)
        return f"The stick you pushed is now the {'second stick' if which == 'aim' else 'stick'}."

    def _learn_trigger(self, code: int) -> str:
        if code in HATS or code in (self.stick or ()) or code in (self.aim or ()):
            return ""
        which, self.learning = self.learning, ""
        self.triggers[which] = code
        return f"The trigger you pulled is {'thrust' if which == 'thrust' else 'reverse thrust'} now."

    def _pulled(self, code: int | None) -> float:
        """How far a trigger is pulled, 0 to 1: it rests at the low end of its range."""
        return 0.0 if code is None else self._pulls.get(code, 0.0)

    @property
    def thrust(self) -> float:
        """What the triggers say: forward 1, backward -1."""
        return self._pulled(self.triggers["thrust"]) - self._pulled(self.triggers["reverse"])

    def _from_rest(self, code: int, value: int) -> float:
        """An axis value from 0 at the low end of its range to 1, by the device's own range."""
        info = self._ranges[code]
        gone = value - info.min
        return 0.0 if info.max <= info.min or gone <= info.flat else min(1.0, gone / (info.max - info.min))

    def _share(self, code: int, value: int) -> float:
        """An axis value from -1 to 1, by the device's own range."""
        info = self._ranges[code]
        middle, reach = (info.max + info.min) / 2, (info.max - info.min) / 2
        if reach <= 0 or abs(value - middle) <= info.flat:
            return 0.0
        return max(-1.0, min(1.0, (value - middle) / reach))

    def _pair(self, pair: tuple[int, int] | None) -> tuple[float, float]:
        if pair is None:
            return 0.0, 0.0
        # Linux counts down as positive.
        return self._values.get(pair[0], 0.0), -self._values.get(pair[1], 0.0) or 0.0

    @property
    def held(self) -> Held:
        """The input held."""
        keys = {self.buttons[code] for code in self._down if code in self.buttons}
        for code, (low, high) in HATS.items():
            value = self._values.get(code, 0.0)
            if value:
                keys.add(low if value < 0 else high)
        return Held(frozenset(keys), self._pair(self.stick), self._pair(self.aim))

    def release_all(self) -> None:
        """Release everything."""
        self._down.clear()
        self._values.clear()
        self._pulls.clear()


def open_devices() -> tuple[list[Device], list[str]]:
    """The pads that can be read, and the paths of input devices without permission."""
    readable: list[Device] = []
    closed: list[str] = []
    for path in sorted(Path("/dev/input").glob("event*")) if Path("/dev/input").is_dir() else []:
        if not os.access(path, os.R_OK):
            closed.append(str(path))
            continue
        try:
            device = cast(Device, evdev.InputDevice(str(path)))
        except OSError:
            continue
        if is_pad(device):
            readable.append(device)
        else:
            device.close()
    return readable, closed
