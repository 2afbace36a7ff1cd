"""Compile everything that the window needs into the cache; run as `python -m cinetica.desk.warm`.

What is ready is printed as soon as it is, a word a line: the window shows curves before figures are ready.
"""

from __future__ import annotations

import os

from cinetica.motion.native import RUN
from cinetica.reading.reader import READER

CURVES, FIGURES = "curves", "figures"
EVERYTHING = {CURVES: RUN, FIGURES: READER}


def is_ready(name: str) -> bool:
    """Whether what gives curves, or figures, is compiled."""
    return EVERYTHING[name].is_ready()


def make(name: str) -> None:
    """Compile one of them, if it is not in the cache."""
    if name == FIGURES:
        # The curves are shown first: compiling the figures must not slow down what they need.
        os.nice(10)
    EVERYTHING[name].obtain()


if __name__ == "__main__":
    # The window, which asks this module whether all is there, needs none of these.
    from concurrent.futures import ProcessPoolExecutor, as_completed
    from multiprocessing import get_context

    # The compiler uses one core.
    with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as workers:
        made = {workers.submit(make, name): name for name in EVERYTHING}
        for each in as_completed(made):
            each.result()
            print(made[each], flush=True)
