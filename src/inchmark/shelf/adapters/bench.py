"""Steps of a centring as the core weighs them."""

from __future__ import annotations

from inchmark.core.bench.centring import OffsetStep
from inchmark.shelf import models


def core_steps(check: models.Centring) -> list[OffsetStep]:
    """Return the steps as the core knows them."""
    return [OffsetStep(offset_hz=f, sent=int(n), heard=int(k)) for f, n, k in check.steps]
