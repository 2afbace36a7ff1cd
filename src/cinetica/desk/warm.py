"""Compiling all that the window needs into the cache, as a program of its own: `python -m cinetica.desk.warm`."""

from __future__ import annotations

from cinetica.desk.paint.raster import CODE
from cinetica.machine.serving import SERVE
from cinetica.motion.columns import APART
from cinetica.motion.hands import WRITING
from cinetica.motion.native import RUN
from cinetica.reading.reader import READER
from cinetica.reading.survey.pressing import PRESSING

# What takes longest first.
EVERYTHING = (RUN, READER, CODE, APART, SERVE, PRESSING, WRITING)


def is_ready() -> bool:
    return all(code.is_ready() for code in EVERYTHING)


def make(place: int) -> None:
    """Compile one of them, where it is not kept yet."""
    if not EVERYTHING[place].is_ready():
        EVERYTHING[place].make()


if __name__ == "__main__":
    # The window, which asks this module whether all is there, needs none of these.
    from concurrent.futures import ProcessPoolExecutor
    from multiprocessing import get_context

    # The compiler uses one core.
    with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as workers:
        list(workers.map(make, range(len(EVERYTHING))))
