"""What was made of a thing that never changes, kept for as long as that very thing is in use."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from functools import wraps
from typing import Any, TypeVar

Made = TypeVar("Made")


def cached_by_identity(size: int) -> Callable[[Callable[..., Made]], Callable[..., Made]]:
    """A decorator: what a function makes of the same objects is made once; the last `size` are kept.

    Models compare by their content, which costs more than most of what is made of them; here only the very same object
    counts as the same. The objects are kept with what was made, so that their places in memory stay theirs.
    """

    def decorate(function: Callable[..., Made]) -> Callable[..., Made]:
        kept: OrderedDict[tuple[int, ...], tuple[tuple[Any, ...], Made]] = OrderedDict()

        @wraps(function)
        def remembered(*arguments: Any) -> Made:
            key = tuple(map(id, arguments))
            found = kept.get(key)
            if found is None:
                found = kept[key] = (arguments, function(*arguments))
                if len(kept) > size:
                    kept.popitem(last=False)
            return found[1]

        return remembered

    return decorate
