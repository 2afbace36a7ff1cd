"""What the window stores between starts: an INI file in the user's settings folder.

Each setting is declared once, with its type and its default.
"""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Generic, Protocol, TypeVar

import platformdirs
from PySide6.QtCore import QByteArray, QSettings

T = TypeVar("T")


def _is_flag(value: Any) -> bool:
    return isinstance(value, bool)


def _is_whole(low: int, high: int) -> Callable[[Any], bool]:
    return lambda value: type(value) is int and low <= value <= high


def _is_number(low: float, high: float) -> Callable[[Any], bool]:
    return lambda value: type(value) in (int, float) and low <= value <= high


def _are_texts(value: Any) -> bool:
    return isinstance(value, list) and all(isinstance(text, str) for text in value)


def _are_texts_or_none(value: Any) -> bool:
    return value is None or _are_texts(value)


@dataclass(frozen=True)
class Setting(Generic[T]):
    """One setting; `fits` says whether a stored value is valid.

    There are only a few plain values, and every start reads them; loading pydantic for them would take longer.
    """

    name: str
    fits: Callable[[Any], bool]
    default: T

    def __set_name__(self, owner: type, name: str) -> None:
        assert name == self.name.upper()


class Kept:
    """All settings. States of splitters and of the window are Qt's own bytes."""

    STARTED = Setting("started", _is_flag, False)
    NIGHT = Setting("night", _is_flag, False)
    TEXT_SCALE = Setting("text_scale", _is_number(1, 2), 1.0)
    # Seconds.
    KEPT_AFTER = Setting("kept_after", _is_whole(1, 4), 2)
    # Texts `action=key key`; and `key=action` for the keys of the page Play.
    SHORTCUTS: Setting[list[str]] = Setting("shortcuts", _are_texts, [])
    KEYS: Setting[list[str]] = Setting("keys", _are_texts, [])
    RECENT: Setting[list[str]] = Setting("recent", _are_texts, [])
    # Titles of groups of the sheet; none until the user folds one.
    FOLDED: Setting[list[str] | None] = Setting("folded", _are_texts_or_none, None)
    # Cards of the Overview side by side.
    ACROSS = Setting("across", _is_whole(0, 4), 0)
    # The view of the page Survey, its two numbers, and its figures.
    SURVEY: Setting[list[str]] = Setting("survey", _are_texts, [])
    IN_BODIES = Setting("in_bodies", _is_flag, False)
    EXPLAIN = Setting("explain", _is_flag, False)
    TABLE = Setting("table", _is_flag, False)
    DRAWING: Setting[str] = Setting("drawing", ("lines", "steps", "points").__contains__, "lines")
    SHARED_SCALE = Setting("shared_scale", _is_flag, False)
    # Frames between prints on the stage.
    EVERY = Setting("every", _is_whole(0, 600), 6)
    # Whether lanes and figures of the poses are shown, and bodies by their posture.
    POSES = Setting("poses", _is_flag, False)
    POSTURES = Setting("postures", _is_flag, True)
    POSTURES_IN_PLAY = Setting("postures_in_play", _is_flag, True)
    # Names of strips.
    STRIPS: Setting[list[str]] = Setting("strips", _are_texts, [])
    STRIPS_ABOVE: Setting[list[str]] = Setting("strips_above", _are_texts, [])


class Store(Protocol):
    """Where settings are stored: on disk, or for as long as a window lives."""

    def get(self, setting: Setting[T]) -> T:
        """The value of a setting."""

    def set(self, setting: Setting[T], value: T) -> None:
        """Store the value of a setting."""

    def state(self, name: str) -> QByteArray | None:
        """The stored state of a widget; None if there is none."""

    def set_state(self, name: str, state: QByteArray) -> None:
        """Store the state of a widget."""


class Remembered:
    """A store for as long as the window lives: what stays when its pages are rebuilt.

    What it lacks is looked up in `behind`.
    """

    def __init__(self, behind: Store | None = None) -> None:
        self._values: dict[str, Any] = {}
        self._behind = behind

    def get(self, setting: Setting[T]) -> T:
        """The value of a setting."""
        if setting.name in self._values:
            value: T = self._values[setting.name]
            return value
        return self._behind.get(setting) if self._behind is not None else setting.default

    def set(self, setting: Setting[T], value: T) -> None:
        """Store the value of a setting."""
        self._values[setting.name] = value

    def state(self, name: str) -> QByteArray | None:
        """The stored state of a widget; None if there is none."""
        return self._values.get(f"state of {name}")

    def set_state(self, name: str, state: QByteArray) -> None:
        """Store the state of a widget."""
        self._values[f"state of {name}"] = state


class Settings:
    """A store on disk. Values are JSON; what cannot be read, or is of the wrong type, counts as missing."""

    def __init__(self, path: Path | None = None) -> None:
        self.path = path or Path(platformdirs.user_config_dir("cinetica")) / "window.ini"
        self._store = QSettings(str(self.path), QSettings.Format.IniFormat)

    def get(self, setting: Setting[T]) -> T:
        """The value of a setting."""
        try:
            value: T = json.loads(str(self._store.value(setting.name, "")))
        except (ValueError, RecursionError):
            return setting.default
        return value if setting.fits(value) else setting.default

    def set(self, setting: Setting[T], value: T) -> None:
        """Store the value of a setting."""
        self._store.setValue(setting.name, json.dumps(value))

    def state(self, name: str) -> QByteArray | None:
        """The stored state of a widget; None if there is none."""
        value = self._store.value(name)
        return value if isinstance(value, QByteArray) else None

    def set_state(self, name: str, state: QByteArray) -> None:
        """Store the state of a widget."""
        self._store.setValue(name, state)

    def save(self) -> None:
        """Write everything to disk."""
        self._store.sync()
