"""The guide that ships with the program: jobs, step by step, with pictures."""

from __future__ import annotations

import re
import sys
from dataclasses import dataclass
from functools import cache
from pathlib import Path

# In a checkout, and where it is installed.
PLACES = (Path(__file__).parents[3] / "docs", Path(sys.prefix) / "share" / "doc" / "cinetica")
_HEADING = re.compile(r"^## (?:\d+\. )?(.+)$", re.MULTILINE)


@dataclass(frozen=True)
class Job:
    """`text` is Markdown; its pictures are in `guide_folder()`."""

    title: str
    text: str

    def has(self, words: str) -> bool:
        """Whether the job contains all of these words."""
        inside = f"{self.title} {self.text}".casefold()
        return all(word in inside for word in words.casefold().split())


def guide_folder() -> Path | None:
    """The folder of the guide; None if it is not installed."""
    return next((folder for folder in PLACES if (folder / "guide.md").is_file()), None)


@cache
def jobs() -> tuple[Job, ...]:
    """In the order of the guide; empty if it is not installed."""
    folder = guide_folder()
    if folder is None:
        return ()
    text = (folder / "guide.md").read_text(encoding="utf-8")
    found = list(_HEADING.finditer(text))
    ends = [each.start() for each in found[1:]] + [len(text)]
    return tuple(Job(each[1], text[each.end() : end].strip()) for each, end in zip(found, ends, strict=True))
