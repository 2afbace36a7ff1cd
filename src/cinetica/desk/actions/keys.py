"""Every action with its keys, once: shortcuts, menus, help, tooltips and messages are all made from this."""

from __future__ import annotations

import re
from collections.abc import Iterable
from functools import cache

from PySide6.QtGui import QKeySequence
from PySide6.QtWidgets import QApplication, QWidget

# Name of the action, keys, what it does.
KEYS: tuple[tuple[str, tuple[str, ...], str], ...] = (
    ("back", ("Left",), "one frame back"),
    ("forward", ("Right",), "one frame forward"),
    ("back_ten", ("Shift+Left",), "ten frames back"),
    ("forward_ten", ("Shift+Right",), "ten frames forward"),
    ("start", ("Home",), "to the first frame"),
    ("end", ("End",), "to the last frame"),
    ("previous_mark", ("[",), "to the previous mark"),
    ("next_mark", ("]",), "to the next mark"),
    ("play", ("Space",), "play or stop"),
    ("loop", ("R",), "play again and again, or once"),
    ("line_up", ("L",), "line up on start, press, launch, apex, landing"),
    ("difference", ("D",), "draw differences from the reference"),
    ("part", ("W",), "where they part, and why"),
    ("explain", ("E",), "explain this frame"),
    ("table", ("T",), "frame table or strips"),
    ("rates", ("Ctrl+K",), "the same on another machine? 30, 60, 144 and a hitch"),
    ("course", ("C",), "edit the course on the stage"),
    ("hands", ("H",), "to the hands, to edit them by key"),
    ("sheet", ("S",), "to the sheet"),
    ("fit", ("F",), "fit stage and time axis"),
    ("find", ("Ctrl+F",), "find a number in the sheet"),
    ("in_bodies", ("B",), "read off in body heights and widths, or in u"),
    ("differing", ("Ctrl+Shift+F",), "only rows that differ"),
    ("clear_wake", ("Escape",), "clear the pale curves of before"),
    ("hold_against", ("Ctrl+Shift+K",), "hold against a milestone, snapshots or a file: pale until it is let go"),
    ("new_tune", ("Ctrl+T",), "new tune"),
    ("duplicate", ("Ctrl+D",), "duplicate the tune"),
    ("snapshot", ("Ctrl+B",), "snapshot: keep the tune as it is beside itself"),
    ("put_back", ("Ctrl+Shift+B",), "put the snapshot back"),
    ("reference", ("Ctrl+R",), "make the tune the reference"),
    ("hide", ("Ctrl+H",), "hide or show the tune"),
    ("rename", ("F2",), "rename the tune"),
    ("tune_note", ("Ctrl+I",), "note on the tune"),
    ("tune_size", ("Ctrl+U",), "another size for the tune"),
    ("study_size", ("Ctrl+Shift+U",), "another size for the study, or only its world"),
    ("tune_left", ("Ctrl+Shift+Left",), "move the tune to the left"),
    ("tune_right", ("Ctrl+Shift+Right",), "move the tune to the right"),
    ("remove_tune", ("Ctrl+Delete",), "remove the tune"),
    ("take_from", ("Ctrl+Shift+T",), "take tunes and drills from another study"),
    ("lay_over", ("Ctrl+Shift+O",), "lay another drill over this one: the reference under other hands"),
    ("previous_drill", ("Ctrl+PgUp",), "previous drill"),
    ("next_drill", ("Ctrl+PgDown",), "next drill"),
    ("new_drill", ("Ctrl+Shift+N",), "new drill, seen from the side"),
    ("new_drill_above", ("Ctrl+Shift+M",), "new drill, seen from above"),
    ("copy_drill", ("Ctrl+Shift+D",), "copy the drill"),
    ("rename_drill", ("Shift+F2",), "rename the drill"),
    ("drill_note", ("Ctrl+Shift+I",), "note on the drill"),
    ("drill_length", ("Ctrl+L",), "length of the drill"),
    ("remove_drill", ("Ctrl+Shift+Delete",), "remove the drill"),
    ("undo", ("Ctrl+Z",), "undo"),
    ("redo", ("Ctrl+Shift+Z",), "redo"),
    ("overview", ("F7",), "the page Overview: every drill at once"),
    ("survey", ("F8",), "the page Survey: numbers over their range, windows of a press, reach"),
    ("survey_this", ("Ctrl+Shift+Y",), "survey the chosen number of the sheet"),
    ("compare", ("F5",), "the page Compare"),
    ("missed", ("Ctrl+J",), "to the first target that is missed"),
    ("find_number", ("Ctrl+Shift+J",), "find a number that meets the missed target"),
    ("play_page", ("F6",), "the page Play"),
    ("new", ("Ctrl+N",), "new study"),
    ("new_window", ("Ctrl+Alt+N",), "this study in another window"),
    ("open", ("Ctrl+O",), "open a study"),
    ("save", ("Ctrl+S",), "save the study"),
    ("save_as", ("Ctrl+Shift+S",), "save the study under another name"),
    ("report", ("Ctrl+P",), "sheet to show: a page with tunes, curves and measures"),
    ("picture_page", ("Ctrl+Alt+P",), "picture of the whole page"),
    ("picture_stage", ("Ctrl+Alt+S",), "picture of the stage"),
    ("picture_strips", ("Ctrl+Alt+C",), "picture of hands, states and curves"),
    ("picture_strip", ("Ctrl+Alt+X",), "picture of one strip"),
    ("save_traces", ("Ctrl+Alt+T",), "traces of this drill as CSV"),
    ("save_measures", ("Ctrl+Alt+M",), "measures of every drill as CSV"),
    ("decided", ("Ctrl+Shift+A",), "what was decided: notes, targets, milestones"),
    ("history", ("Ctrl+Y",), "history: edits and milestones"),
    ("milestone", ("Ctrl+M",), "milestone: keep all tunes under a name"),
    ("hand_over", ("Ctrl+E",), "hand over: numbers in the game's conventions"),
    ("proof", ("Ctrl+Shift+E",), "proof for the programmer"),
    ("import_numbers", ("Ctrl+Shift+V",), "numbers from the game"),
    ("import_log", ("Ctrl+G",), "curve from the game"),
    ("remove_log", ("Ctrl+Shift+G",), "remove a curve from the game"),
    ("settings", ("Ctrl+,",), "settings"),
    ("night", ("F9",), "day or night look"),
    ("larger", ("Ctrl++", "Ctrl+="), "larger text"),
    ("smaller", ("Ctrl+-",), "smaller text"),
    ("help", ("F1",), "guide: jobs step by step, and all keys"),
    ("quit", ("Ctrl+Q",), "quit"),
)
SEPARATOR = "-"
# Menus in a menu.
RECENT, PICTURES = "Open &recent", "Pictu&re"
# In a menu: the actions that show the pages.
ALL_PAGES = "the pages"
PICTURE_MENU = ("picture_page", "picture_stage", "picture_strips", "picture_strip")
TUNE_MENU = (
    "new_tune", "duplicate", "take_from", "snapshot", "put_back",
    SEPARATOR, "reference", "hide", "rename", "tune_note", "tune_size",
    SEPARATOR, "tune_left", "tune_right", "remove_tune",
)  # fmt: skip
STUDY_MENU = (
    "new", "new_window", "open", RECENT, "save", "save_as",
    SEPARATOR, "decided", "report", PICTURES, "save_traces", "save_measures",
    SEPARATOR, "study_size",
    SEPARATOR, "settings", "quit",
)  # fmt: skip
EDIT_MENU = (
    "undo", "redo", "history", "milestone",
    SEPARATOR, "hold_against", "clear_wake",
    SEPARATOR, "find", "differing", "hands", "sheet",
)  # fmt: skip
DRILL_MENU = (
    "new_drill", "new_drill_above", "copy_drill", "take_from",
    SEPARATOR, "rename_drill", "drill_note", "drill_length", "course", "remove_drill",
    SEPARATOR, "lay_over", "previous_drill", "next_drill",
)  # fmt: skip
VIEW_MENU = (
    ALL_PAGES,
    SEPARATOR, "line_up", "difference", "part", "explain", "table", "rates", "in_bodies",
    "missed", "find_number", "survey_this",
    SEPARATOR, "fit", "night", "larger", "smaller",
)  # fmt: skip
# The menus of the header: title, with the letter that opens it by Alt, and the names of actions.
MENUS: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("&Study", STUDY_MENU),
    ("&Edit", EDIT_MENU),
    ("&Tune", TUNE_MENU),
    ("&Drill", DRILL_MENU),
    ("&View", VIEW_MENU),
    ("&Game", ("hand_over", "proof", SEPARATOR, "import_numbers", "import_log", "remove_log")),
    ("Hel&p", ("help",)),
)
# What acts on the page Compare and has no meaning while another page is shown.
COMPARE_ONLY = frozenset((
    "back", "forward", "back_ten", "forward_ten", "start", "end", "previous_mark", "next_mark", "play", "loop",
    "line_up", "difference",
    "part", "explain", "table", "course", "hands", "fit", "clear_wake", "lay_over", "drill_length", "picture_stage",
    "picture_strips",
    "picture_strip",
))  # fmt: skip

# The keys in force: those that the program comes with, until the person has others.
_in_force: dict[str, tuple[str, ...]] = {name: keys for name, keys, _ in KEYS}
_NAMED = re.compile(r"\{(\w+)\}")
_TEMPLATE = "keyed"
_NONE = "\0"
_WITHOUT_KEY = re.compile(rf" ?\([^()]*{_NONE}[^()]*\)")


@cache
def keys_in_force(name: str) -> tuple[str, ...]:
    """The keys of an action as they are written on this desktop; none where it has none."""
    return tuple(
        QKeySequence(key).toString(QKeySequence.SequenceFormat.NativeText) for key in _in_force.get(name, ()) if key
    )


def put_in_force(name: str, keys: Iterable[str]) -> None:
    """From now on these keys stand for the action, in all words, too."""
    if tuple(keys) != _in_force.get(name):
        _in_force[name] = tuple(keys)
        keys_in_force.cache_clear()
        for widget in QApplication.allWidgets():
            if template := widget.property(_TEMPLATE):
                widget.setToolTip(keyed(str(template)))


def keyed(text: str, *words: str) -> str:
    """A text in which `{action}` is the key in force, and `{0}` the first of `words`, taken as it is.

    Where an action has no key, the brackets around it are left out.
    """

    def word(found: re.Match[str]) -> str:
        if found[1].isdigit():
            return words[int(found[1])]
        keys = keys_in_force(found[1])
        return keys[0] if keys else _NONE

    return _WITHOUT_KEY.sub("", _NAMED.sub(word, text)).replace(_NONE, "")


def keyed_tip(widget: QWidget, text: str) -> None:
    """A tooltip that names keys: it stays true when they are bound anew."""
    widget.setProperty(_TEMPLATE, text)
    widget.setToolTip(keyed(text))


IN_THE_SHEET = (
    ("Enter, in the field that finds", "to the first number found"),
    ("Up, Down, Tab", "go from cell to cell"),
    ("digits", "type a number; Enter takes it, Escape leaves it; a time also in ticks, as 6t"),
    ("Enter", "edit a number, open a choice, turn a switch, fold a group"),
    ("Alt+Up, Alt+Down", "one step up or down; with Shift fine, with Ctrl coarse"),
    ("Delete", "back to the default"),
    ("Ctrl+A", "choose the row in every tune: what is typed goes to all"),
    ("Ctrl+C, Ctrl+V", "copy and paste cells as text"),
    ("G", "copy the row's group from the reference into this tune"),
    ("Ctrl+Enter", "on a figure read off: the frame cursor goes to where it was taken from"),
)
IN_THE_HANDS = (
    ("Up, Down", "to the lane above or below"),
    ("PgUp, PgDown", "choose the press before or after"),
    ("Left, Right", "move the chosen press by a frame; with Shift its end, with Alt its start"),
    ("Insert", "hold the lane's key at the frame cursor"),
    ("Enter", "type the exact frames of the chosen press"),
    ("Delete", "remove it"),
)
WHILE_PLAYING = (
    ("arrows or W A S D, Space, Shift", "move, jump, modifier"),
    ("P, .", "pause or go on; one tick with the keys that are held"),
    ("Backspace", "respawn at the start"),
    ("Tab", "the camera follows the next tune"),
    ("R, K", "record a take from the start; keep the last 10 seconds"),
    ("V, I", "the pad on the screen; words beside the character"),
    ("C", "the camera of the tune, or one that stays near"),
)
ON_THE_STAGE = (
    ("+, −, Up, Down, PgUp, PgDown", "zoom and pan"),
    ("PgUp, PgDown", "while the course is edited: choose a shape"),
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
    ("Ctrl+click, Shift+click", "choose several cells, then type"),
    ("type over a figure read off", "set what you mean: the numbers behind it are found"),
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
        "the frames that it was taken from light up; a click goes to their end, another to their beginning",
    ),
)


def help_text() -> str:
    """The help as HTML, with the keys in force."""
    # A start needs no templates.
    from cinetica.files.templates import template

    keys = [(" or ".join(keys_in_force(name)) or "no key", meaning) for name, _, meaning in KEYS]
    tables = (
        ("With the mouse", WITH_THE_MOUSE), ("In the sheet", IN_THE_SHEET), ("In the hands", IN_THE_HANDS),
        ("On the stage", ON_THE_STAGE), ("In the Survey", IN_THE_SURVEY),
        ("While playing", WHILE_PLAYING),
    )  # fmt: skip
    return template("help.html.j2").render(keys=[*keys, ("1 … 6", "show or hide a tune")], tables=tables)
