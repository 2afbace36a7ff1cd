"""Tests run offscreen, or on a screen with CINETICA_TESTS_ON=xcb; the window is the real one in both cases."""

from __future__ import annotations

import gc
import json
import os
import tempfile
from pathlib import Path

# The program's user files go into a folder of the tests.
_HOME = tempfile.TemporaryDirectory(prefix="cinetica-tests-")
# A common screen size.
_SCREEN = {
    "name": "one", "x": 0, "y": 0, "width": 1920, "height": 1080, "logicalDpi": 96, "logicalBaseDpi": 96, "dpr": 1,
}  # fmt: skip
_screens = Path(_HOME.name) / "screens.json"
_screens.write_text(json.dumps({"screens": [_SCREEN]}))
os.environ["QT_QPA_PLATFORM"] = os.environ.get("CINETICA_TESTS_ON") or f"offscreen:configfile={_screens}"
for kind in ("STATE", "CONFIG"):
    os.environ[f"XDG_{kind}_HOME"] = f"{_HOME.name}/{kind.lower()}"

from hypothesis import HealthCheck, settings  # noqa: E402 - the folders come first

from tests.repetitions import TIMES  # noqa: E402

# Deterministic: the same code passes or fails everywhere. With more repetitions other cases are tried as well.
settings.register_profile(
    "cinetica",
    deadline=None,
    derandomize=TIMES == 1,
    max_examples=100 * TIMES,
    suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large],
)
settings.load_profile("cinetica")


def pytest_collection_finish() -> None:
    """Keep everything loaded and collected away from Python's garbage collector, since it lives to the end."""
    gc.collect()
    gc.freeze()
