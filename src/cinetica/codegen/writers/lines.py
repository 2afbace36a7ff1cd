"""Lines that fit: text that is broken where it is too long, and names as languages write them."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping

WIDTH = 100


def wrapped(text: str, width: int) -> list[str]:
    """Text in lines of at most this many characters."""
    lines, line = [], ""
    for word in text.split():
        if line and len(line) + 1 + len(word) > width:
            lines.append(line)
            line = word
        else:
            line = f"{line} {word}".strip()
    return [*lines, line]


def camel(name: str) -> str:
    """topSpeed."""
    first, *rest = name.split("_")
    return first + "".join(each[:1].upper() + each[1:] for each in rest)


def pascal(name: str) -> str:
    """TopSpeed."""
    return "".join(each[:1].upper() + each[1:] for each in name.split("_"))


def _cuts(text: str, words: Mapping[str, str]) -> list[tuple[int, int]]:
    """The places at which a line may be broken, with how deep in brackets they are."""
    found, depth = [], 0
    joins = [f" {words['and']} ", f" {words['or']} "]
    for place, letter in enumerate(text):
        depth += letter in "([{"
        depth -= letter in ")]}"
        if any(text.startswith(join, place) for join in joins):
            found.append((place + 1, depth))
        elif letter == "," and text[place + 1 : place + 2] == " ":
            found.append((place + 2, depth + 1))
        elif re.match(r" (?:[+*/?:]|-) ", text[place:]) or re.match(r" (?:if|else) ", text[place:]):
            found.append((place + 1, depth + 2))
    return found


def broken(before: str, text: str, after: str, indent: str, words: Mapping[str, str]) -> Iterator[str]:
    """A line that begins with `before`, broken where it is too long: at the outermost places first."""
    if len(before) + len(text) + len(after) <= WIDTH:
        yield f"{before}{text}{after}"
        return
    pad = " " * (len(before) - len(before.lstrip())) + indent * 2
    rest, start = text, before
    while len(start) + len(rest) + len(after) > WIDTH:
        room = WIDTH - len(start)
        cuts = [(depth, -place) for place, depth in _cuts(rest, words) if 0 < place <= room]
        if not cuts:
            break
        place = -min(cuts)[1]
        yield f"{start}{rest[:place].rstrip()}"
        rest, start = rest[place:], pad
    yield f"{start}{rest}{after}"
