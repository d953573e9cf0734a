"""Shared set-up: hypothesis profiles and offscreen Qt."""

import os

from hypothesis import HealthCheck, settings

os.environ["QT_QPA_PLATFORM"] = "offscreen"

settings.register_profile(
    "dromic", deadline=None, suppress_health_check=[HealthCheck.too_slow], derandomize=True, print_blob=True
)
settings.load_profile("dromic")
