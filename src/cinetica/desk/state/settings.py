"""What the window remembers from one start to the next: an INI file in the person's own settings folder.

Each setting is declared once, with its type and what it is where nothing, or nothing that can be read, was kept.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from pathlib import Path
from typing import Annotated, Any, Generic, Literal, Protocol, TypeVar

import platformdirs
from pydantic import ConfigDict, Field, TypeAdapter
from PySide6.QtCore import QByteArray, QSettings

T = TypeVar("T")


@dataclass(frozen=True)
class Setting(Generic[T]):
    """`kind`: its type, as pydantic takes it; `default` has it."""

    name: str
    kind: Any
    default: T

    @cached_property
    def adapter(self) -> TypeAdapter[T]:
        return TypeAdapter(self.kind, config=ConfigDict(strict=True, allow_inf_nan=False))

    def __set_name__(self, owner: type, name: str) -> None:
        assert name == self.name.upper()


class Kept:
    """All settings. States of splitters and of the window are Qt's own bytes."""

    STARTED = Setting("started", bool, False)
    NIGHT = Setting("night", bool, False)
    TEXT_SCALE = Setting("text_scale", Annotated[float, Field(ge=1, le=2)], 1.0)
    # Seconds.
    KEPT_AFTER = Setting("kept_after", Annotated[int, Field(ge=1, le=4)], 2)
    # Texts `action=key key`; and `key=action` for the keys of the page Play.
    SHORTCUTS: Setting[list[str]] = Setting("shortcuts", list[str], [])
    KEYS: Setting[list[str]] = Setting("keys", list[str], [])
    RECENT: Setting[list[str]] = Setting("recent", list[str], [])
    # Titles of groups of the sheet; none where the person has folded nothing yet.
    FOLDED: Setting[list[str] | None] = Setting("folded", list[str] | None, None)
    # Cards of the Overview side by side.
    ACROSS = Setting("across", Annotated[int, Field(ge=1, le=3)], 2)
    # The view of the page Survey, its two numbers, and its figures.
    SURVEY: Setting[list[str]] = Setting("survey", list[str], [])
    IN_BODIES = Setting("in_bodies", bool, False)
    EXPLAIN = Setting("explain", bool, False)
    TABLE = Setting("table", bool, False)
    DRAWING: Setting[str] = Setting("drawing", Literal["lines", "steps", "points"], "lines")
    SHARED_SCALE = Setting("shared_scale", bool, False)
    # Frames between prints on the stage.
    EVERY = Setting("every", Annotated[int, Field(ge=0, le=600)], 6)
    # Names of strips.
    STRIPS: Setting[list[str]] = Setting("strips", list[str], [])
    STRIPS_ABOVE: Setting[list[str]] = Setting("strips_above", list[str], [])


class Store(Protocol):
    """Where settings are kept: on disk, or for as long as a window lives."""

    def get(self, setting: Setting[T]) -> T: ...
    def set(self, setting: Setting[T], value: T) -> None: ...
    def state(self, name: str) -> QByteArray | None: ...
    def set_state(self, name: str, state: QByteArray) -> None: ...


class Remembered:
    """For as long as the window lives: what stays when its pages are made anew.

    What it does not have is asked of what is `behind` it.
    """

    def __init__(self, behind: Store | None = None) -> None:
        self._values: dict[str, Any] = {}
        self._behind = behind

    def get(self, setting: Setting[T]) -> T:
        if setting.name in self._values:
            value: T = self._values[setting.name]
            return value
        return self._behind.get(setting) if self._behind is not None else setting.default

    def set(self, setting: Setting[T], value: T) -> None:
        self._values[setting.name] = value

    def state(self, name: str) -> QByteArray | None:
        return self._values.get(f"state of {name}")

    def set_state(self, name: str, state: QByteArray) -> None:
        self._values[f"state of {name}"] = state


class Settings:
    """On disk. Values are JSON under their names; what cannot be read, or is not of its kind, counts as not there."""

    def __init__(self, path: Path | None = None) -> None:
        self.path = path or Path(platformdirs.user_config_dir("cinetica")) / "window.ini"
        self._store = QSettings(str(self.path), QSettings.Format.IniFormat)

    def get(self, setting: Setting[T]) -> T:
        try:
            return setting.adapter.validate_json(str(self._store.value(setting.name, "")))
        except ValueError:
            return setting.default

    def set(self, setting: Setting[T], value: T) -> None:
        self._store.setValue(setting.name, setting.adapter.dump_json(value).decode())

    def state(self, name: str) -> QByteArray | None:
        value = self._store.value(name)
        return value if isinstance(value, QByteArray) else None

    def set_state(self, name: str, state: QByteArray) -> None:
        self._store.setValue(name, state)

    def save(self) -> None:
        self._store.sync()
