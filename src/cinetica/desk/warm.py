"""Compiling all that the window needs into the cache, as a program of its own: `python -m cinetica.desk.warm`."""

from __future__ import annotations

from cinetica.desk.paint.raster import CODE
from cinetica.motion.native import RUN

EVERYTHING = (RUN, *CODE.values())


def is_ready() -> bool:
    return all(code.is_ready() for code in EVERYTHING)


if __name__ == "__main__":
    for code in EVERYTHING:
        if not code.is_ready():
            code.make()
