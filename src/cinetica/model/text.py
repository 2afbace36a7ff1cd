"""Names and notes without invisible characters: controls and marks that change the writing direction."""

from __future__ import annotations

import re
from typing import Annotated

from pydantic import AfterValidator, Field, ValidationInfo

LONGEST_NAME = 200
# C0, DEL and C1 controls, line and paragraph separators, and the directional embeddings, overrides and isolates of
# Unicode's bidirectional algorithm.
_UNSEEN = "\x00-\x1f\x7f-\x9f\u2028\u2029\u202a-\u202e\u2066-\u2069"
UNSEEN = re.compile(f"[{_UNSEEN}]")
UNSEEN_BUT_LINES = re.compile(f"(?![\n\t])[{_UNSEEN}]")
# Unicode's signs for control characters, ␀ to ␟ and ␡; ␚ stands for those without a sign.
_PICTURES, _DELETE, _SUBSTITUTE = 0x2400, "\u2421", "\u241a"
# The context in which a model is read from a file.
FROM_FILE = {"from_file": True}


def visible(text: str, *, lines: bool = False) -> str:
    """Replace each invisible character with a visible sign, such as ␛ for an escape.

    With `lines`, tabs and line ends stay.
    """
    return (UNSEEN_BUT_LINES if lines else UNSEEN).sub(_sign, text)


def _sign(found: re.Match[str]) -> str:
    code = ord(found[0])
    return chr(_PICTURES + code) if code < 0x20 else _DELETE if code == 0x7F else _SUBSTITUTE


def unseen_words(shown: str) -> str:
    """Describe the invisible characters of a text, given its visible form."""
    return f"“{shown}” has a character that cannot be seen; leave it out"


def _name(text: str, info: ValidationInfo) -> str:
    return _checked(text, info, lines=False)


def _note(text: str, info: ValidationInfo) -> str:
    return _checked(text, info, lines=True)


def _checked(text: str, info: ValidationInfo, *, lines: bool) -> str:
    """Make text from a file visible; raise ValueError for typed text that has invisible characters."""
    shown = visible(text, lines=lines)
    if shown != text and not (info.context or {}).get("from_file"):
        raise ValueError(unseen_words(shown))
    return shown


Name = Annotated[str, Field(min_length=1, max_length=LONGEST_NAME, pattern=r"\S"), AfterValidator(_name)]
Note = Annotated[str, AfterValidator(_note)]
