"""The pages that the program writes, from its templates; text from users never becomes markup."""

from __future__ import annotations

from functools import cache
from pathlib import Path

from jinja2 import Environment, FileSystemLoader, StrictUndefined, Template

DATA = Path(__file__).parents[1] / "data"


@cache
def _environment() -> Environment:
    made = Environment(
        loader=FileSystemLoader(DATA), autoescape=True, trim_blocks=True, lstrip_blocks=True, undefined=StrictUndefined
    )
    made.filters["css"] = _css
    return made


def _css(text: str) -> str:
    """A text escaped for a string in a style sheet: letters and digits as they are, all else by code."""
    return "".join(letter if letter.isalnum() or letter == " " else f"\\{ord(letter):06x}" for letter in text)


def template(name: str) -> Template:
    """The template of this name."""
    return _environment().get_template(name)
