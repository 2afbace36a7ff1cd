"""Describe what edits did to the numbers."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping

from cinetica.model.clock import CLOCK_PARAMETERS
from cinetica.model.parameters import Parameter, Value
from cinetica.model.study import Study
from cinetica.model.tune import PARAMETERS, Tune

NOTHING_CHANGED = "Nothing has changed."
# A parameter's value as shown, given the values of its tune.
AsShown = Callable[[Parameter, Value, Mapping[str, Value]], Value]


def _as_kept(_: Parameter, value: Value, __: Mapping[str, Value]) -> Value:
    return value


def changed_values(before: Study, after: Study, shown: AsShown = _as_kept) -> str:
    """Describe the values that an edit changed.

    “42 → 30” for one number of one tune or of the clock, “3 numbers” for several, empty for none.
    """
    changes = [
        (shown(parameter, then.get(parameter.id), then.values()), shown(parameter, now.get(parameter.id), now.values()))
        for then, now in zip(before.tunes, after.tunes, strict=False)
        if then is not now and then.name == now.name
        for parameter in PARAMETERS
        if then.get(parameter.id) != now.get(parameter.id)
    ]
    if before.clock is not after.clock:
        keys = [parameter.id.partition(".")[2] for parameter in CLOCK_PARAMETERS]
        pairs = [(getattr(before.clock, key), getattr(after.clock, key)) for key in keys]
        changes += [change for change in pairs if change[0] != change[1]]
    if len(changes) == 1:
        then, now = changes[0]
        return f"{_words(then)} → {_words(now)}"
    # A change of one number in every tune is named after it.
    return f"{len(changes)} numbers" if changes else ""


def changed_tunes(before: Iterable[Tune], after: Iterable[Tune], shown: AsShown = _as_kept) -> str:
    """Describe which numbers of which tunes changed, from what to what."""
    then, now = ({tune.name: tune for tune in tunes if not tune.snapshot_of} for tunes in (before, after))
    words = [f"{name} was removed" for name in then if name not in now]
    words += [f"{name} was added" for name in now if name not in then]
    for name in then.keys() & now.keys():
        old, new = then[name].values(), now[name].values()
        changes = [
            f"{each.label} {_words(shown(each, old[each.id], old))} → {_words(shown(each, new[each.id], new))}"
            for each in PARAMETERS
            if old[each.id] != new[each.id]
        ]
        if changes:
            words.append(f"{name}: {', '.join(changes)}")
    return "; ".join(sorted(words)) + "." if words else NOTHING_CHANGED


def _words(value: Value) -> str:
    if isinstance(value, bool):
        return "on" if value else "off"
    return f"{value:.6g}".replace("-", "−") if isinstance(value, int | float) else str(value).replace("_", " ")
