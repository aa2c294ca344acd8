import os

from hypothesis import HealthCheck, settings

settings.register_profile(
    "fixed", derandomize=True, deadline=None, suppress_health_check=[HealthCheck.too_slow], print_blob=True
)
settings.register_profile("long", parent=settings.get_profile("fixed"), derandomize=False, max_examples=5_000)
settings.load_profile(os.environ.get("HYPOTHESIS_PROFILE", "fixed"))
