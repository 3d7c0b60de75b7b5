"""The core's tests run on their own too, where the conftest above is not read."""

from tests import unhurried  # noqa: F401
