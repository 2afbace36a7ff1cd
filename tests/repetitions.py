"""How often what is left to chance is tried: a few times in every run, always the same; far more, and other cases each
time, in `make attack`."""

import os

TIMES = int(os.environ.get("CINETICA_TESTS_TIMES", "1"))
