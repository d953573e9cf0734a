"""Shared set-up: hypothesis profiles and offscreen Qt."""

import os
import tempfile

from hypothesis import HealthCheck, Phase, settings

os.environ["QT_QPA_PLATFORM"] = "offscreen"
# No test reads or writes what the player of this machine has.
_HOME = tempfile.mkdtemp(prefix="dromic-tests-")
for _name in ("XDG_CONFIG_HOME", "XDG_STATE_HOME", "XDG_DATA_HOME"):
    os.environ[_name] = os.path.join(_HOME, _name.lower())

settings.register_profile(
    "dromic", deadline=None, suppress_health_check=[HealthCheck.too_slow], derandomize=True, print_blob=True
)
# For work on a test: nothing is made smaller, so that a failure shows at once.
settings.register_profile(
    "quick", settings.get_profile("dromic"), phases=[Phase.explicit, Phase.reuse, Phase.generate]
)
# Other examples each time: `DROMIC_HYPOTHESIS=random pytest tests/planner --hypothesis-seed=N`.
settings.register_profile("random", settings.get_profile("dromic"), derandomize=False)
settings.load_profile(os.environ.get("DROMIC_HYPOTHESIS", "dromic"))
