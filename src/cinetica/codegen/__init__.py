"""A tune as code: the kernel's own functions, specialised to one tune and written in the language of the game.

`program.py` says what is written. `specialise.py` reads the syntax trees of `cinetica.motion` and puts in what is
known; `prune.py`, `inline.py`, `coalesce.py` and `tidy.py` make the result short, and `writers/` writes it.
"""
