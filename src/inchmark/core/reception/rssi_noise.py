"""What an RSSI holds: the signal alone, or signal and noise together."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from inchmark.core.checks import Floats

NOISE_SIGN_SNR_DB = 3.0  # below this S/N the two readings of RSSI come apart
LEAST_READINGS = 10
TELLING_DB2 = 0.1  # mean square of the share of noise in a reading, under which no slope tells


def rssi_holds_noise(
    rssi_dbm: Floats,
    snr_db: Floats,
    noise_dbm: Floats,
    visit: NDArray[Any] | None = None,
) -> bool:
    """Tell from readings near the noise whether RSSI is signal plus noise."""
    return bool(what_rssi_holds(rssi_dbm, snr_db, noise_dbm, visit))


def what_rssi_holds(
    rssi_dbm: Floats,
    snr_db: Floats,
    noise_dbm: Floats,
    visit: NDArray[Any] | None = None,
) -> bool | None:
    """Tell whether RSSI is signal plus noise; None where it cannot be told and matters little.

    A reading of the signal alone lies S/N above the noise; one of both together lies
    x = 10 lg(1 + 10^(snr/10)) above it, never below. Without noise readings: RSSI - S/N follows
    10 lg(1 + 10^(-snr/10)) inside a visit (slope over 0.5) or it does not.

    Parameters
    ----------
    visit
        Labels of the visits the readings are of; one visit if None.
    """
    known = np.isfinite(rssi_dbm) & np.isfinite(snr_db)
    weak = known & np.isfinite(noise_dbm) & (snr_db < NOISE_SIGN_SNR_DB)
    if np.count_nonzero(weak) >= 5:
        above = rssi_dbm[weak] - noise_dbm[weak]
        alone = np.mean(np.abs(above - snr_db[weak]))
        together = np.mean(np.abs(above - 10 * np.log10(1 + np.power(10, snr_db[weak] / 10))))
        return bool(together < alone)
    if np.count_nonzero(known) < LEAST_READINGS:
        return None
    labels = np.zeros(len(rssi_dbm)) if visit is None else np.asarray(visit)
    own_noise: Floats = np.asarray(10 * np.log10(1 + np.power(10, -snr_db[known] / 10)))
    x = _centred(own_noise, labels[known])
    if np.mean(x**2) < TELLING_DB2:
        return None
    y = _centred(rssi_dbm[known] - snr_db[known], labels[known])
    return bool(np.sum(x * y) / np.sum(x**2) > 0.5)


def _centred(values: Floats, labels: NDArray[Any]) -> Floats:
    _, of = np.unique(labels, return_inverse=True)
    means = np.bincount(of, values) / np.bincount(of)
    found: Floats = values - means[of]
    return found
