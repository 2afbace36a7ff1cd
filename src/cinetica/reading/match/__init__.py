"""Matching: from a wanted curve to the numbers of a tune that come closest to it.

`wanted.py` is what is wanted, `runs.py` how far many tunes are from it, `search.py` the search, and `telling.py` which
numbers the curve can tell. `hands.py` finds the presses behind a log, where nobody has noted them.
"""
