"""Compiling the kernel into the cache, as a program of its own: `python -m cinetica.motion.warm`."""

from __future__ import annotations

from cinetica.motion.native import compile_object, is_ready

if __name__ == "__main__" and not is_ready():
    compile_object()
