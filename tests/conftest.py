"""Tests run without a screen; the window is the real one all the same."""

from __future__ import annotations

import os
import tempfile

os.environ["QT_QPA_PLATFORM"] = "offscreen"
# What the program keeps for the person goes into a folder of the tests' own.
_HOME = tempfile.TemporaryDirectory(prefix="cinetica-tests-")
for kind in ("STATE", "CONFIG"):
    os.environ[f"XDG_{kind}_HOME"] = f"{_HOME.name}/{kind.lower()}"

from hypothesis import HealthCheck, settings  # noqa: E402 - the folders come first

settings.register_profile("cinetica", deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large])
settings.load_profile("cinetica")
