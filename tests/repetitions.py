"""How often random tests are repeated: a few times, always the same; in `make attack` far more, and different."""

import os

TIMES = int(os.environ.get("CINETICA_TESTS_TIMES", "1"))
