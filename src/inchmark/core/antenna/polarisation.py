"""Polarisation loss between two antennas (polarisation efficiency as in IEEE Std 145, recalled)."""

from __future__ import annotations

import numpy as np

from inchmark.core.checks import floats

KINDS = ("linear", "rhcp", "lhcp")
CAP_DB = 20.0  # common practice: no real antenna is purer, and no real place keeps it so
CIRCULAR_TO_LINEAR_DB = float(10 * np.log10(2))


def polarisation_loss_db(
    one: str, other: str, *, angle_deg: float = 0.0, cap_db: float = CAP_DB
) -> float:
    """Return the loss [dB] from 0 to the cap between polarisations.

    Parameters
    ----------
    one, other
        "linear", "rhcp" (right-hand circular) or "lhcp".
    angle_deg
        Angle between two linear antennas [degrees]; of no matter otherwise.
    cap_db
        Loss of crossed antennas in practice [dB].
    """
    for kind in (one, other):
        if kind not in KINDS:
            raise ValueError(f"polarisation {kind!r} must be one of {', '.join(KINDS)}")
    floats("angle_deg", angle_deg)
    if one == other == "linear":
        cosine = abs(float(np.cos(np.radians(angle_deg))))
        return min(float(-20 * np.log10(cosine)), cap_db) if cosine > 0 else cap_db
    if "linear" in (one, other):
        return min(CIRCULAR_TO_LINEAR_DB, cap_db)
    return 0.0 if one == other else cap_db
