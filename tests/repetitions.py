"""How often random tests are repeated: a few times with fixed seeds; in `make attack` far more, with new ones."""

import os

TIMES = int(os.environ.get("CINETICA_TESTS_TIMES", "1"))
