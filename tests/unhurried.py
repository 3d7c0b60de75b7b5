"""Hypothesis without a deadline: a machine under load is slow, which is no fault of what is tested."""

from hypothesis import HealthCheck, settings

settings.register_profile("unhurried", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("unhurried")
