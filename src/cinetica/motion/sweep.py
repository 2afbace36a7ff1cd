"""Many tunes at once, from the same compiled tick. Loading this module loads the compiler."""

from __future__ import annotations

from typing import Any

import numba
import numpy as np
from numpy.typing import NDArray

from cinetica.motion.compiling import OPTIONS, make_compilable
from cinetica.motion.records import Ground, Records
from cinetica.motion.step import run_through

make_compilable()

COMPILED: dict[str, Any] = {"cache": True, "error_model": OPTIONS["error_model"], "fastmath": OPTIONS["fastmath"]}
# Rows that a core takes at a time: a core that something else keeps busy, as the game beside us does, then takes fewer.
CHUNK = 64


def run_many(
    states: Records,
    tunes: Records,
    ground: Ground,
    x: float,
    y: float,
    hands: Records,
    dts: NDArray[np.float64],
    *,
    cores: int | None = None,
) -> None:
    """Run every row of `tunes` to the end, on so many cores, or all; `states` (zeroed, same length) are left as they
    end."""
    before = numba.get_num_threads()
    numba.set_num_threads(cores or before)
    try:
        with numba.parallel_chunksize(CHUNK):
            _on_cores(states, tunes, ground, x, y, hands, dts)
    finally:
        numba.set_num_threads(before)


@numba.njit(**COMPILED, parallel=True)
def _on_cores(states, tunes, ground, x, y, hands, dts):
    for i in numba.prange(tunes.shape[0]):
        run_through(states[i], tunes[i], ground, x, y, hands, dts)
