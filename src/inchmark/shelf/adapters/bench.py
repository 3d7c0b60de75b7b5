"""Steps and edges of a centring as the core weighs them."""

from __future__ import annotations

from inchmark.core.bench.centring import Centring, Edges, OffsetStep, centre, centre_of_edges
from inchmark.shelf import models

UNKNOWN_CARRIER = 1e12  # where a step's size is not known nothing is told in ppm


def scale_of(check: models.Centring) -> float:
    """Return the Hz of one unit of a check’s offsets; 1 where they are in Hz or a step’s size is unknown."""
    return check.hz_per_step if check.in_steps and check.hz_per_step else 1.0


def own_step(check: models.Centring) -> float:
    """Return how much one of the module's own steps is, 0 where offsets are in Hz."""
    return scale_of(check) if check.in_steps else 0.0


def core_steps(check: models.Centring) -> list[OffsetStep]:
    """Return the steps as the core knows them, in Hz, or in steps of unknown size."""
    scale = scale_of(check)
    return [OffsetStep(offset_hz=f * scale, sent=int(n), heard=int(k)) for f, n, k in check.steps]


def core_edges(check: models.Centring) -> Edges | None:
    """Return the four edges, None where steps were counted instead."""
    if not check.edges:
        return None
    lost_low, back_low, back_high, lost_high = (one * scale_of(check) for one in check.edges)
    return Edges(lost_low=lost_low, back_low=back_low, back_high=back_high, lost_high=lost_high)


def in_hertz(check: models.Centring) -> bool:
    """Tell whether offsets are known in Hz."""
    return not check.in_steps or check.hz_per_step is not None


def centred(check: models.Centring) -> Centring:
    """Return what a check says; raise ValueError where it says nothing yet."""
    carrier = check.rig.frequency_hz if in_hertz(check) else UNKNOWN_CARRIER
    edges = core_edges(check)
    if edges is None:
        return centre(core_steps(check), carrier)
    step = scale_of(check) if check.in_steps else 1.0
    return centre_of_edges(edges, step=step, carrier_hz=carrier)
