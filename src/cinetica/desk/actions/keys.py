"""The current keys of the actions, and texts that mention them: tooltips, messages, the list in the help."""

from __future__ import annotations

import re
from collections.abc import Iterable
from functools import cache

from PySide6.QtGui import QKeySequence
from PySide6.QtWidgets import QApplication, QWidget

from cinetica.desk.actions.catalogue import ACTIONS

# The current keys: the defaults, until the user sets others.
_in_force: dict[str, tuple[str, ...]] = {action.id: action.keys for action in ACTIONS.values()}
_NAMED = re.compile(r"\{(\w+)\}")
_TEMPLATE = "keyed"
_NONE = "\0"
_WITHOUT_KEY = re.compile(rf" ?\([^()]*{_NONE}[^()]*\)")


@cache
def keys_in_force(name: str) -> tuple[str, ...]:
    """The current keys of an action, as written on this desktop; may be empty."""
    return tuple(
        QKeySequence(key).toString(QKeySequence.SequenceFormat.NativeText) for key in _in_force.get(name, ()) if key
    )


def set_keys_in_force(name: str, keys: Iterable[str]) -> None:
    """Set the current keys of an action, in all texts too."""
    if tuple(keys) != _in_force.get(name):
        _in_force[name] = tuple(keys)
        keys_in_force.cache_clear()
        for widget in QApplication.allWidgets():
            if template := widget.property(_TEMPLATE):
                widget.setToolTip(keyed(str(template)))


def keyed(text: str, *words: str) -> str:
    """A text in which `{action}` is replaced by its current key, and `{0}` by the first of `words`.

    If an action has no key, the brackets around it are removed.
    """

    def word(found: re.Match[str]) -> str:
        """The replacement of one placeholder."""
        if found[1].isdigit():
            return words[int(found[1])]
        keys = keys_in_force(found[1])
        return keys[0] if keys else _NONE

    return _WITHOUT_KEY.sub("", _NAMED.sub(word, text)).replace(_NONE, "")


def keyed_tip(widget: QWidget, text: str) -> None:
    """Set a tooltip that mentions keys, and keep it correct when keys change."""
    widget.setProperty(_TEMPLATE, text)
    widget.setToolTip(keyed(text))


IN_THE_SHEET = (
    ("Enter, in the search field", "go to the first number found"),
    ("Up, Down, Tab", "go from cell to cell"),
    ("digits", "type a number: Enter sets it, Escape cancels; a time in ticks too, such as 6t"),
    ("Enter", "edit a number, open a choice, turn a switch, fold a group"),
    ("Alt+Up, Alt+Down", "one step up or down; with Shift fine, with Ctrl coarse"),
    ("Delete", "back to the default"),
    ("Ctrl+A", "select the row in every tune: what you type is set in all of them"),
    ("Ctrl+C, Ctrl+V", "copy and paste cells as text"),
    ("G", "copy the row's group from the reference into this tune"),
    ("Ctrl+Enter", "on a figure: go to the frame that it is read from"),
)
IN_THE_HANDS = (
    ("Up, Down", "to the lane above or below"),
    ("PgUp, PgDown", "select the previous or next press"),
    ("Left, Right", "move the selected press by a frame; with Shift its end, with Alt its start"),
    ("Insert", "add a press at the frame cursor"),
    ("Enter", "type the exact frames of the selected press"),
    ("Delete", "remove it"),
)
WHILE_PLAYING = (
    ("arrows or W A S D, Space, Shift", "move, jump, modifier"),
    ("P, .", "pause or resume; advance one tick with the keys that are held"),
    ("Backspace", "respawn at the start"),
    ("Tab", "the camera follows the next tune"),
    ("R, K", "record a take from the start; keep the last 10 seconds"),
    ("V, I", "the on-screen pad; words beside the character"),
    ("C", "the camera of the tune, or one that stays near"),
)
ON_THE_STAGE = (
    ("+, −, Up, Down, PgUp, PgDown", "zoom and pan"),
    ("PgUp, PgDown", "in the course editor: select a shape"),
    ("arrows", "move it by a step of the grid; with Shift its right and top sides, or its right end"),
    ("Insert, Delete", "add one, remove it"),
)
IN_THE_SURVEY = (
    ("Left, Right", "Curve: the number of the chosen tune; Map: both numbers, with Up and Down; with Ctrl five steps"),
    ("Up, Down", "Curve: another tune; Sensitivity: another number, and Enter draws its curve"),
    ("Left, Right", "Windows: coyote time by a frame; with Shift the buffer, with Ctrl the shortest hold"),
    ("drag a letter", "Curve and Map: the numbers of that tune; a click on the map sets those of the chosen one"),
    ("drag the edge of a window", "coyote time, buffer or shortest hold"),
)
WITH_THE_MOUSE = (
    ("drag a number sideways", "change it; with Shift fine, with Ctrl coarse"),
    ("double-click a number", "back to its default"),
    ("wheel over the chosen number", "change it"),
    ("Ctrl+click, Shift+click", "select several cells, then type"),
    ("type over a figure read off", "set the figure that you want: the numbers for it are found"),
    ("click a tune's name", "make it the reference; double-click renames, right-click for more"),
    (
        "drag a tune's name",
        "on a row of another tune: copy that value; on a group: copy the group; on a name: move it there",
    ),
    ("drag on a lane of the hands", "hold a key; drag its ends or its middle; double-click to type frames"),
    ("drag in the strips", "move the frame cursor"),
    ("wheel over lanes or strips", "zoom in time; with Shift pan"),
    ("wheel and drag on the stage", "zoom and pan"),
    (
        "point at a figure read off",
        "the frames that it is read from light up; click to go to the last of them, again for the first",
    ),
)


def help_text() -> str:
    """The help as HTML, with the current keys."""
    # A start needs no templates.
    from cinetica.files.templates import template

    keys = [(" or ".join(keys_in_force(action.id)) or "no key", action.tip) for action in ACTIONS.values()]
    tables = (
        ("With the mouse", WITH_THE_MOUSE), ("In the sheet", IN_THE_SHEET), ("In the hands", IN_THE_HANDS),
        ("On the stage", ON_THE_STAGE), ("In the Survey", IN_THE_SURVEY),
        ("While playing", WHILE_PLAYING),
    )  # fmt: skip
    return template("help.html.j2").render(
        keys=[*keys, ("1 … 6, or Alt+1 … Alt+6 in a cell", "show or hide a tune")], tables=tables
    )
