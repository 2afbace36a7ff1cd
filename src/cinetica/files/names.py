"""Names of things as names of files."""

from __future__ import annotations

from collections.abc import Sequence

LONGEST = 120


def file_name(name: str) -> str:
    """A drill's or tune's name as the name of a file."""
    kept = "".join(letter if letter.isalnum() or letter in "-_" else "-" for letter in name.lower().replace("'", ""))
    joined = "-".join(part for part in kept.split("-") if part) or "drill"
    # File systems count bytes, and something still comes behind it.
    return joined.encode()[:LONGEST].decode(errors="ignore")


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
