"""Names of things as file names."""

from __future__ import annotations

import os
from collections.abc import Sequence
from pathlib import Path

LONGEST = 120
# The length of the suffix of a backup's name.
BACKUP_SIGN = 1


def file_name(name: str) -> str:
    """A drill's or tune's name as a file name."""
    kept = "".join(letter if letter.isalnum() or letter in "-_" else "-" for letter in name.lower().replace("'", ""))
    joined = "-".join(part for part in kept.split("-") if part) or "drill"
    # File systems count bytes, and a suffix is still added.
    return joined.encode()[:LONGEST].decode(errors="ignore")


def fitting(path: Path) -> Path:
    """The path with its name shortened so that the file system accepts it and its backup; the suffix stays."""
    try:
        most = os.pathconf(path.parent, "PC_NAME_MAX") - BACKUP_SIGN
    except OSError:
        # Problems with the folder are reported when it is written to.
        return path
    if len(os.fsencode(path.name)) <= most:
        return path
    room = most - len(os.fsencode(path.suffix))
    return path.with_name(os.fsencode(path.stem)[:room].decode(errors="ignore") + path.suffix)


def file_names(names: Sequence[str]) -> list[str]:
    """A file name for each; all differ even if the file system ignores case."""
    made: list[str] = []
    for name in names:
        wanted = file_name(name).strip("-") or "unnamed"
        number, candidate = 2, wanted
        while candidate.lower() in {each.lower() for each in made}:
            candidate, number = f"{wanted}-{number}", number + 1
        made.append(candidate)
    return made
