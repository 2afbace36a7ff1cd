"""Describe what an edit did to the numbers."""

from __future__ import annotations

from cinetica.model.clock import CLOCK_PARAMETERS
from cinetica.model.parameters import Value
from cinetica.model.study import Study
from cinetica.model.tune import PARAMETERS


def changed_values(before: Study, after: Study) -> str:
    """Describe the values that an edit changed.

    “42 → 30” for one number of one tune or of the clock, “3 numbers” for several, empty for none.
    """
    changes = [
        (parameter.id, then.get(parameter.id), now.get(parameter.id))
        for then, now in zip(before.tunes, after.tunes, strict=False)
        if then is not now and then.name == now.name
        for parameter in PARAMETERS
        if then.get(parameter.id) != now.get(parameter.id)
    ]
    if before.clock is not after.clock:
        keys = [parameter.id.partition(".")[2] for parameter in CLOCK_PARAMETERS]
        pairs = [(key, getattr(before.clock, key), getattr(after.clock, key)) for key in keys]
        changes += [change for change in pairs if change[1] != change[2]]
    if len(changes) == 1:
        _, then, now = changes[0]
        return f"{_words(then)} → {_words(now)}"
    # One number in every tune has a name of its own.
    return f"{len(changes)} numbers" if changes else ""


def _words(value: Value) -> str:
    if isinstance(value, bool):
        return "on" if value else "off"
    return f"{value:.6g}".replace("-", "−") if isinstance(value, int | float) else str(value).replace("_", " ")
