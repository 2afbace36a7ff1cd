"""Wording of errors."""

from __future__ import annotations

import difflib
from collections.abc import Iterable

# How many names a message lists at most.
MOST_LISTED = 30


def unknown(noun: str, name: str, known: Iterable[str]) -> str:
    """Say that a name is unknown, and which known names are similar."""
    listed = list(known)
    near = difflib.get_close_matches(name, listed, 3) or [
        each for each in listed if each.rpartition(".")[2] == name.rpartition(".")[2]
    ]
    if near:
        return f"no {noun} {name!r}; did you mean {' or '.join(near)}?"
    more = ", …" if len(listed) > MOST_LISTED else ""
    return f"no {noun} {name!r}; there are: {', '.join(listed[:MOST_LISTED])}{more}"
