"""Matching: from a wanted curve to the numbers of a tune that come closest to it.

`wanted.py` is the wanted curve, `runs.py` the residuals of many tunes, `search.py` the search, and `estimates.py` says
how well the curve determines each number. `hands.py` reconstructs presses from a log, `footage.py` reads pictures.
"""
