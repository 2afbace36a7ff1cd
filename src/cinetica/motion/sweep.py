"""Many tunes at once, from the same compiled tick. Loading this module loads the compiler."""

from __future__ import annotations

import numba

from cinetica.motion.compiling import make_compilable
from cinetica.motion.step import run_through

make_compilable()


@numba.njit(cache=True, error_model="numpy", fastmath={"nnan"}, parallel=True)
def run_many(states, tunes, ground, x, y, hands, dts):
    """Run every row of `tunes` to the end, in parallel; `states` (zeroed, same length) are left as they end."""
    for i in numba.prange(tunes.shape[0]):
        run_through(states[i], tunes[i], ground, x, y, hands, dts)


@numba.njit(cache=True, error_model="numpy", fastmath={"nnan"})
def run_many_alone(states, tunes, ground, x, y, hands, dts):
    """`run_many` on one core."""
    for i in range(tunes.shape[0]):
        run_through(states[i], tunes[i], ground, x, y, hands, dts)
