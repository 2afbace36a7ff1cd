"""How the functions of this package are compiled. `NUMBA_DISABLE_JIT=1` runs the same source as plain Python."""

from __future__ import annotations

import numba

from cinetica.motion.cache import cache_folder

numba.config.CACHE_DIR = str(cache_folder())  # type: ignore[attr-defined]

# The kernel allocates nothing, so it needs no reference counts, which would cost more than the physics.
# All functions are inlined into the run, where the state then lives in registers.
compiled = numba.njit(error_model="numpy", forceinline=True, _nrt=False)  # type: ignore[call-overload]
compiled_and_kept = numba.njit(cache=True, error_model="numpy")
compiled_parallel = numba.njit(cache=True, error_model="numpy", parallel=True)
each_in_parallel = numba.prange
