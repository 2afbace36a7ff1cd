"""Every key of the page Compare, once: the shortcuts and the help are both made from this."""

from __future__ import annotations

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
    ("fit", ("F",), "fit stage and time axis"),
    ("find", ("Ctrl+F",), "find a number in the sheet"),
    ("clear_wake", ("Escape",), "clear the pale curves of before"),
    ("undo", ("Ctrl+Z",), "undo"),
    ("redo", ("Ctrl+Shift+Z",), "redo"),
    ("open", ("Ctrl+O",), "open a study"),
    ("save", ("Ctrl+S",), "save the study"),
    ("save_as", ("Ctrl+Shift+S",), "save the study under another name"),
    ("night", ("Ctrl+N",), "day or night look"),
    ("help", ("F1",), "this help"),
    ("quit", ("Ctrl+Q",), "quit"),
)
IN_THE_SHEET = (
    ("Up, Down, Tab", "go from cell to cell"),
    ("digits", "type a number; Enter takes it, Escape leaves it"),
    ("Enter", "edit a number, open a choice, turn a switch, fold a group"),
    ("Alt+Up, Alt+Down", "one step up or down; with Shift fine, with Ctrl coarse"),
    ("Delete", "back to the default"),
)
WITH_THE_MOUSE = (
    ("drag a number sideways", "change it; with Shift fine, with Ctrl coarse"),
    ("double-click a number", "back to its default"),
    ("wheel over the chosen number", "change it"),
    ("click a tune's name, or 1…6", "show or hide it"),
    ("drag in lanes or strips", "move the frame cursor"),
    ("wheel over lanes or strips", "zoom in time; with Shift pan"),
    ("wheel and drag on the stage", "zoom and pan"),
)


def help_text() -> str:
    """The help as HTML."""
    keys = "".join(_line(" or ".join(keys), meaning) for _, keys, meaning in KEYS)
    sheet = "".join(_line(*pair) for pair in IN_THE_SHEET)
    mouse = "".join(_line(*pair) for pair in WITH_THE_MOUSE)
    return (
        "<p><b>Change a number, and the curves follow.</b> The pale curves are how it was before the edit. "
        "Step the frame cursor through the take, and read every tune's value, and its difference from the first, at the right.</p>"
        f"<h4>With the mouse</h4><table>{mouse}</table><h4>Keys</h4><table>{keys}</table><h4>In the sheet</h4><table>{sheet}</table>"
    )


def _line(what: str, meaning: str) -> str:
    return f"<tr><td style='padding: 1px 18px 1px 0'><b>{what}</b></td><td>{meaning}</td></tr>"
