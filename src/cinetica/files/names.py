"""Names of things as names of files."""

from __future__ import annotations


def file_name(name: str) -> str:
    """A drill's or tune's name as the name of a file."""
    kept = "".join(letter if letter.isalnum() or letter in "-_" else "-" for letter in name.lower().replace("'", ""))
    return "-".join(part for part in kept.split("-") if part) or "drill"
