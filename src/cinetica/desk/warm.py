"""Compile everything that the window needs into the cache; run as `python -m cinetica.desk.warm`."""

from __future__ import annotations

from cinetica.motion.native import RUN
from cinetica.reading.reader import READER

EVERYTHING = (RUN, READER)


def is_ready() -> bool:
    """Whether everything is compiled."""
    return all(code.is_ready() for code in EVERYTHING)


def make(place: int) -> None:
    """Compile one of them, if it is not in the cache."""
    if not EVERYTHING[place].is_ready():
        EVERYTHING[place].make()


if __name__ == "__main__":
    # The window, which asks this module whether all is there, needs none of these.
    from concurrent.futures import ProcessPoolExecutor
    from multiprocessing import get_context

    # The compiler uses one core.
    with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as workers:
        list(workers.map(make, range(len(EVERYTHING))))
