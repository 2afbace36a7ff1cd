"""Editing a take. Every edit returns a new take; invalid edits raise ValueError, worded for the user."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Literal

from cinetica.model.take import LONGEST, Moved, Press, Push, Shove, Take

Stick = Literal["stick", "aim", "mouse", "shoves"]
STICKS: tuple[Stick, ...] = ("stick", "aim")
# Single-frame events, as opposed to keys that are held.
MOMENTS: tuple[Stick, ...] = ("mouse", "shoves")
Event = Push | Moved | Shove
EVENTS: dict[Stick, type[Event]] = {"stick": Push, "aim": Push, "mouse": Moved, "shoves": Shove}
FARTHEST: dict[Stick, float] = {"stick": 1.0, "aim": 1.0, "mouse": 1e6, "shoves": 1e5}
# The least range of a lane, up and down: full deflection, mouse counts, and u/s.
USUAL: dict[Stick, float] = {"stick": 1.0, "aim": 1.0, "mouse": 50.0, "shoves": 10.0}


def presses_of(take: Take, key: str) -> tuple[Press, ...]:
    """The presses of a key."""
    return tuple(getattr(take.keys, key))


def with_presses(take: Take, key: str, presses: Iterable[Press]) -> Take:
    """Set the presses of a key.

    Presses that overlap or touch become one, since a game could not tell them apart.
    """
    merged: list[Press] = []
    for press in sorted(presses):
        if merged and press.start <= merged[-1].end:
            merged[-1] = Press(merged[-1].start, max(merged[-1].end, press.end))
        else:
            merged.append(press)
    return take.model_copy(update={"keys": take.keys.model_copy(update={key: tuple(merged)})})


def fitted(take: Take, start: int, end: int) -> Press:
    """The nearest press that lies inside the take and lasts at least a frame.

    A press dragged past an end of the take stops there.
    """
    start, end = min(start, end), max(start, end)
    start = min(max(start, 0), take.length - 1)
    return Press(start, min(max(end, start + 1), take.length))


def moved(take: Take, press: Press, frames: int) -> Press:
    """Move a press by a number of frames, keeping its length, at most to the ends of the take."""
    length = min(press.end - press.start, take.length)
    start = min(max(press.start + frames, 0), take.length - length)
    return Press(start, start + length)


def press_from_text(take: Take, text: str) -> Press:
    """Read a press from “from to”; ValueError if it is malformed or outside the take."""
    parts = text.replace("–", " ").replace(",", " ").replace(";", " ").split()
    if len(parts) != 2 or not all(part.isdigit() for part in parts):
        raise ValueError(f"“{text}” is not a press: type its first frame and the frame of its release, such as 5 30.")
    start, end = map(int, parts)
    if end <= start:
        raise ValueError(f"A press from {start} to {end} would be empty: it must be released after it starts.")
    if end > take.length:
        raise ValueError(
            f"Frame {end} lies outside the take, which has {take.length} frames. Make the drill longer first."
        )
    return Press(start, end)


def with_press(take: Take, key: str, press: Press, *, instead_of: Press | None = None) -> Take:
    """Add a press, or replace the one given as `instead_of`."""
    others = [other for other in presses_of(take, key) if other != instead_of]
    return with_presses(take, key, [*others, press])


def without_press(take: Take, key: str, press: Press) -> Take:
    """Remove a press."""
    return with_presses(take, key, [other for other in presses_of(take, key) if other != press])


def with_length(take: Take, length: int) -> Take:
    """Cut or lengthen the take.

    Input beyond the new end is kept and reappears when the take is lengthened again.
    """
    if not 1 <= length <= LONGEST:
        raise ValueError(f"A take has from 1 to {LONGEST} frames; {length} is not possible.")
    return take.model_copy(update={"length": length})


def pushes_of(take: Take, stick: Stick) -> tuple[Event, ...]:
    """The pushes of a stick, the moves of a mouse or the shoves, in the order of their frames."""
    return tuple(sorted(getattr(take, stick), key=lambda push: push.frame))


def extent(take: Take, stick: Stick) -> float:
    """What a lane shows up and down: the usual, doubled until everything has room."""
    most = max((abs(value) for event in getattr(take, stick) for value in event[1:]), default=0.0)
    shown = USUAL[stick]
    while shown < most:
        shown *= 2
    return shown


def with_push(take: Take, stick: Stick, push: Event, *, instead_of: Event | None = None) -> Take:
    """Add a push, replacing one at the same frame and the one given as `instead_of`.

    Its frame is limited to the take, its position to the stick's range.
    """
    frame = min(max(push.frame, 0), take.length - 1)
    far = FARTHEST[stick]
    inside = EVENTS[stick](frame, *(min(far, max(-far, value)) for value in push[1:]))
    others = [other for other in pushes_of(take, stick) if other != instead_of and other.frame != inside.frame]
    return take.model_copy(update={stick: tuple(sorted([*others, inside]))})


def without_push(take: Take, stick: Stick, push: Event) -> Take:
    """Remove a push."""
    return take.model_copy(update={stick: tuple(other for other in pushes_of(take, stick) if other != push)})


_KINDS: dict[Stick, str] = {
    "stick": "a stick position", "aim": "a stick position", "mouse": "a move of the mouse", "shoves": "a shove",
}  # fmt: skip


def push_from_text(take: Take, text: str, stick: Stick = "stick") -> Event:
    """Read a push from “frame x y”; ValueError if it is malformed."""
    parts = text.replace(";", " ").replace("−", "-").split()
    try:
        frame, x, y = int(parts[0]), *(float(part.replace(",", ".")) for part in parts[1:3])
        if len(parts) != 3:
            raise ValueError
    except (ValueError, IndexError) as error:
        raise ValueError(f"“{text}” is not {_KINDS[stick]}: type a frame, x and y, such as 10 0.5 -1.") from error
    if not (0 <= frame < take.length):
        raise ValueError(f"Frame {frame} lies outside the take, which has the frames 0 to {take.length - 1}.")
    far = FARTHEST[stick]
    if not all(-far <= value <= far for value in (x, y)):
        what = "A stick" if stick in STICKS else _KINDS[stick].capitalize()
        raise ValueError(f"{what} goes from −{far:g} to {far:g} on each axis.")
    return EVENTS[stick](frame, x, y)


def stick_at(take: Take, stick: Stick, frame: int) -> tuple[float, float]:
    """The position of a stick in a frame; of what is not held, 0."""
    held = [push for push in pushes_of(take, stick) if push.frame <= frame]
    return (held[-1][1], held[-1][2]) if held and stick in STICKS else (0.0, 0.0)
