"""A tune as code: the kernel's own functions, specialised to one tune and written in the language of the game.

`program.py` declares the result. `specialise.py` reads the syntax trees of `cinetica.motion` and inserts known values;
`prune.py`, `inline.py`, `coalesce.py` and `tidy.py` shorten the result, and `writers/` writes it.
"""
