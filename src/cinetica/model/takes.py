"""Editing a take: every change gives a new take, and what cannot be is answered in words (ValueError)."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Literal

from cinetica.model.take import LONGEST, Press, Push, Take

Stick = Literal["stick", "aim"]
STICKS: tuple[Stick, ...] = ("stick", "aim")


def presses_of(take: Take, key: str) -> tuple[Press, ...]:
    return tuple(getattr(take.keys, key))


def with_presses(take: Take, key: str, presses: Iterable[Press]) -> Take:
    """The key held in just these frames. What overlaps or touches is one press: the game cannot tell them apart."""
    merged: list[Press] = []
    for press in sorted(presses):
        if merged and press.start <= merged[-1].end:
            merged[-1] = Press(merged[-1].start, max(merged[-1].end, press.end))
        else:
            merged.append(press)
    return take.model_copy(update={"keys": take.keys.model_copy(update={key: tuple(merged)})})


def fitted(take: Take, start: int, end: int) -> Press:
    """The press nearest to these frames that lies inside the take and lasts a frame at least; dragged past an end, it
    stops there."""
    start, end = min(start, end), max(start, end)
    start = min(max(start, 0), take.length - 1)
    return Press(start, min(max(end, start + 1), take.length))


def moved(take: Take, press: Press, frames: int) -> Press:
    """The press so many frames later, of the same length, no further than the ends of the take."""
    length = min(press.end - press.start, take.length)
    start = min(max(press.start + frames, 0), take.length - length)
    return Press(start, start + length)


def press_from_text(take: Take, text: str) -> Press:
    """A press typed as “from to”; ValueError, in words, if it is none or lies outside the take."""
    parts = text.replace("–", " ").replace(",", " ").replace(";", " ").split()
    if len(parts) != 2 or not all(part.isdigit() for part in parts):
        raise ValueError(
            f"“{text}” is no press: type its first frame and the frame in which it is let go, such as 5 30."
        )
    start, end = map(int, parts)
    if end <= start:
        raise ValueError(f"A press from {start} to {end} would last no frame: it must be let go after it began.")
    if end > take.length:
        raise ValueError(
            f"Frame {end} lies outside the take, which has {take.length} frames. Make the drill longer first."
        )
    return Press(start, end)


def with_press(take: Take, key: str, press: Press, *, instead_of: Press | None = None) -> Take:
    """One press more, or one exchanged."""
    others = [other for other in presses_of(take, key) if other != instead_of]
    return with_presses(take, key, [*others, press])


def without_press(take: Take, key: str, press: Press) -> Take:
    return with_presses(take, key, [other for other in presses_of(take, key) if other != press])


def with_length(take: Take, length: int) -> Take:
    """The take cut or lengthened. What lies beyond the end is kept, and comes back when it is made longer again."""
    if not 1 <= length <= LONGEST:
        raise ValueError(f"A take has from 1 to {LONGEST} frames; {length} does not do.")
    return take.model_copy(update={"length": length})


def pushes_of(take: Take, stick: Stick) -> tuple[Push, ...]:
    """In the order of their frames."""
    return tuple(sorted(getattr(take, stick), key=lambda push: push.frame))


def with_push(take: Take, stick: Stick, push: Push, *, instead_of: Push | None = None) -> Take:
    """The stick at this position from this frame on; one at the same frame is replaced. It is kept inside the take and
    its reach."""
    frame = min(max(push.frame, 0), take.length - 1)
    inside = Push(frame, *(min(1.0, max(-1.0, value)) for value in (push.x, push.y)))
    others = [other for other in pushes_of(take, stick) if other != instead_of and other.frame != inside.frame]
    return take.model_copy(update={stick: tuple(sorted([*others, inside]))})


def without_push(take: Take, stick: Stick, push: Push) -> Take:
    return take.model_copy(update={stick: tuple(other for other in pushes_of(take, stick) if other != push)})


def push_from_text(take: Take, text: str) -> Push:
    """A push typed as “frame x y”; ValueError, in words, if it is none."""
    parts = text.replace(";", " ").replace("−", "-").split()
    try:
        frame, x, y = int(parts[0]), *(float(part.replace(",", ".")) for part in parts[1:3])
        if len(parts) != 3:
            raise ValueError
    except (ValueError, IndexError) as error:
        raise ValueError(f"“{text}” is no stick position: type a frame, x and y, such as 10 0.5 -1.") from error
    if not (0 <= frame < take.length):
        raise ValueError(f"Frame {frame} lies outside the take, which has the frames 0 to {take.length - 1}.")
    if not all(-1 <= value <= 1 for value in (x, y)):
        raise ValueError("A stick goes from −1 to 1 on each axis.")
    return Push(frame, x, y)


def stick_at(take: Take, stick: Stick, frame: int) -> tuple[float, float]:
    """The position held in this frame."""
    held = [push for push in pushes_of(take, stick) if push.frame <= frame]
    return (held[-1].x, held[-1].y) if held else (0.0, 0.0)
