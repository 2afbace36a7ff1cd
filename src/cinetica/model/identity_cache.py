"""A cache for functions of immutable objects, keyed by identity."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from functools import wraps
from typing import Any, TypeVar

Made = TypeVar("Made")


def cached_by_identity(size: int) -> Callable[[Callable[..., Made]], Callable[..., Made]]:
    """Decorate a function so that its result for the same objects is computed once; the last `size` are kept.

    Models compare by content, which takes longer than most of the functions cached here, so only the very same object
    counts as equal. The cache holds references to the arguments so that their ids cannot be reused.
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
