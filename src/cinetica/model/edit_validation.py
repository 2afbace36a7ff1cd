"""The check that every edit passes: its result can be saved and read again."""

from __future__ import annotations

from collections import Counter
from typing import Any

from pydantic import ValidationError

from cinetica.model.study import Study

LISTS = {"tunes": "tune", "drills": "drill", "milestones": "milestone", "logs": "curve"}
MOST = {"tunes": 1000, "drills": 1000, "milestones": 1000, "logs": 100}


def checked(before: Study, after: Study) -> Study:
    """Return the edited study `after`.

    Only what the edit changed is checked. Raises ValueError, worded for the user, if the file could not be read again.
    """
    for key, noun in LISTS.items():
        then, now = getattr(before, key), getattr(after, key)
        if now is then:
            continue
        known = {id(each) for each in then}
        for each in now:
            if id(each) not in known:
                _validate(each, noun)
        if len(now) > MOST[key]:
            raise ValueError(f"A study has up to {MOST[key]} {noun}s. Remove one first.")
        if twice := [name for name, count in Counter(each.name for each in now).items() if count > 1]:
            raise ValueError(f"There is already a {noun} called “{twice[0]}”; choose another name.")
    for key in ("clock", "conventions"):
        if getattr(after, key) is not getattr(before, key):
            _validate(getattr(after, key), key)
    if (after.name, after.notes) != (before.name, before.notes):
        _validate(Study.new("A"), "study", name=after.name, notes=after.notes)
    return after


def _validate(thing: Any, noun: str, **changed: object) -> None:
    content = vars(thing) | changed
    try:
        type(thing).model_validate(content)
    except ValidationError as error:
        fault = error.errors()[0]
        where = ".".join(str(part) for part in fault["loc"])
        if fault["type"] == "value_error":
            raise ValueError(f"{fault['ctx']['error']}; nothing was changed.") from error
        words = fault["msg"].replace("String should", "it should")
        raise ValueError(f"This {noun} could not be read again ({where}: {words}); nothing was changed.") from error
