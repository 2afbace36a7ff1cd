"""The user's own keys, stored between starts."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from PySide6.QtGui import QAction, QKeySequence

from cinetica.desk.actions.catalogue import ACTIONS
from cinetica.desk.actions.keys import set_keys_in_force

DEFAULT_KEYS = {action.id: action.keys for action in ACTIONS.values()}


def shortcuts_of(kept: list[str]) -> dict[str, tuple[str, ...]]:
    """The user's keys by action, from lines such as `night=F9`; invalid lines are skipped."""
    found: dict[str, tuple[str, ...]] = {}
    for line in kept:
        name, _, keys = line.partition("=")
        if name in DEFAULT_KEYS:
            found[name] = (QKeySequence(keys).toString(),) if keys else ()
    return found


def set_keys(name: str, action: QAction, keys: Iterable[str]) -> None:
    """Bind an action to these keys, in all texts too."""
    keys = tuple(keys)
    action.setShortcuts([QKeySequence(key) for key in keys])
    set_keys_in_force(name, keys)


def kept_shortcuts(actions: Mapping[str, QAction]) -> list[str]:
    """The lines for `shortcuts_of`: those that differ from the defaults."""
    now = {name: tuple(key.toString() for key in actions[name].shortcuts()) for name in DEFAULT_KEYS}
    standard = {name: tuple(QKeySequence(key).toString() for key in keys) for name, keys in DEFAULT_KEYS.items()}
    return [f"{name}={keys[0] if keys else ''}" for name, keys in now.items() if keys != standard[name]]
