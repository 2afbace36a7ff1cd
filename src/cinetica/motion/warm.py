"""Compiling the kernel into the cache, as a program of its own: `python -m cinetica.motion.warm`."""

from __future__ import annotations

import os
import shutil

from cinetica.motion.compiling import cache_folder

READY = "ready"


def is_warm() -> bool:
    """Whether the kernel of exactly this source is in the cache, or needs no compiling."""
    return os.environ.get("NUMBA_DISABLE_JIT") == "1" or (cache_folder() / READY).exists()


def mark_warm() -> None:
    """Note that the kernel is in the cache, and remove those of earlier versions."""
    folder = cache_folder()
    if is_warm() or not folder.exists():
        return
    (folder / READY).touch()
    for other in folder.parent.glob("kernel-*"):
        if other != folder:
            shutil.rmtree(other, ignore_errors=True)


def warm() -> None:
    """Run the smallest drill there is, so that the kernel is compiled and kept."""
    from cinetica.model.clock import Clock
    from cinetica.model.study import Drill
    from cinetica.model.take import Take
    from cinetica.model.tune import Tune
    from cinetica.motion.simulate import simulate

    simulate(Tune(name="warm"), Drill(name="warm", take=Take(length=1)), Clock())
    mark_warm()


if __name__ == "__main__":
    warm()
