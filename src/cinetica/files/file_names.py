"""Names of things as names of files."""

from __future__ import annotations

import os
from collections.abc import Sequence
from pathlib import Path

LONGEST = 120
# What a backup's name has more than the file's.
BACKUP_SIGN = 1


def file_name(name: str) -> str:
    """A drill's or tune's name as the name of a file."""
    kept = "".join(letter if letter.isalnum() or letter in "-_" else "-" for letter in name.lower().replace("'", ""))
    joined = "-".join(part for part in kept.split("-") if part) or "drill"
    # File systems count bytes, and something still comes behind it.
    return joined.encode()[:LONGEST].decode(errors="ignore")


def fitting(path: Path) -> Path:
    """The path, with its name cut so that the folder's file system takes it and its backup; the ending stays."""
    try:
        most = os.pathconf(path.parent, "PC_NAME_MAX") - BACKUP_SIGN
    except OSError:
        # Whatever is wrong with the folder is said when it is written into.
        return path
    if len(os.fsencode(path.name)) <= most:
        return path
    room = most - len(os.fsencode(path.suffix))
    return path.with_name(os.fsencode(path.stem)[:room].decode(errors="ignore") + path.suffix)


def file_names(names: Sequence[str]) -> list[str]:
    """A name of a file for each, of which no two are the same, not even where upper and lower case count as one."""
    made: list[str] = []
    for name in names:
        wanted = file_name(name).strip("-") or "unnamed"
        number, candidate = 2, wanted
        while candidate.lower() in {each.lower() for each in made}:
            candidate, number = f"{wanted}-{number}", number + 1
        made.append(candidate)
    return made
