"""What the window remembers from one start to the next: an INI file in the person's own settings folder."""

from __future__ import annotations

import json
from collections.abc import Mapping
from pathlib import Path
from typing import TypeVar

import platformdirs
from PySide6.QtCore import QByteArray, QSettings
from PySide6.QtWidgets import QSplitter, QWidget

T = TypeVar("T", bool, int, float, str, list[str])


class Remembered:
    """The same for as long as the window lives: what stays when its pages are made anew.

    What it does not have is asked of what is `behind` it.
    """

    def __init__(self, behind: Settings | Remembered | None = None) -> None:
        self._values: dict[str, object] = {}
        self._behind = behind

    def get(self, name: str, default: T) -> T:
        if name not in self._values and self._behind is not None:
            return self._behind.get(name, default)
        value = self._values.get(name, default)
        return value if type(value) is type(default) else default

    def set(self, name: str, value: object) -> None:
        self._values[name] = value

    def keep_splitters(self, splitters: Mapping[str, QSplitter]) -> None:
        for name, splitter in splitters.items():
            self._values[f"splitter_{name}"] = splitter.saveState()

    def restore_splitters(self, splitters: Mapping[str, QSplitter]) -> frozenset[str]:
        kept = {name: self._values.get(f"splitter_{name}") for name in splitters}
        return frozenset(
            name
            for name, state in kept.items()
            if isinstance(state, QByteArray) and splitters[name].restoreState(state)
        )


class Settings:
    """Values are JSON under their names; what cannot be read counts as not there."""

    def __init__(self, path: Path | None = None) -> None:
        self.path = path or Path(platformdirs.user_config_dir("cinetica")) / "window.ini"
        self._store = QSettings(str(self.path), QSettings.Format.IniFormat)

    def get(self, name: str, default: T) -> T:
        """The value kept under a name, if it is of the default's type; else the default."""
        try:
            value = json.loads(str(self._store.value(name, "")))
        except (ValueError, RecursionError):
            return default
        fits = type(value) is type(default) and (
            not isinstance(value, list) or all(isinstance(each, str) for each in value)
        )
        return value if fits else default

    def set(self, name: str, value: object) -> None:
        self._store.setValue(name, json.dumps(value))

    def keep_window(self, window: QWidget) -> None:
        self._store.setValue("geometry", window.saveGeometry())

    def restore_window(self, window: QWidget) -> None:
        geometry = self._store.value("geometry")
        if isinstance(geometry, QByteArray):
            window.restoreGeometry(geometry)

    def keep_splitters(self, splitters: Mapping[str, QSplitter]) -> None:
        for name, splitter in splitters.items():
            self._store.setValue(f"splitter_{name}", splitter.saveState())

    def restore_splitters(self, splitters: Mapping[str, QSplitter]) -> frozenset[str]:
        """The names of those that were kept."""
        restored = set()
        for name, splitter in splitters.items():
            state = self._store.value(f"splitter_{name}")
            if isinstance(state, QByteArray) and splitter.restoreState(state):
                restored.add(name)
        return frozenset(restored)

    def save(self) -> None:
        self._store.sync()
