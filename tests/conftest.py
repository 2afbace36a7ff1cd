"""Tests run without a screen; the window is the real one all the same."""

from __future__ import annotations

import os

os.environ["QT_QPA_PLATFORM"] = "offscreen"

from hypothesis import HealthCheck, settings

settings.register_profile("cinetica", deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large])
settings.load_profile("cinetica")
