"""Looking around the fit: where readings clip, and losses that level does not explain."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from inchmark.core.link_model.data import FitVisit
from inchmark.core.link_model.posterior import Posterior
from inchmark.core.normal import ndtr
from inchmark.core.reception.bursts import loss_interval, visit_tau

CLIP_MIN_HEARD, CLIP_SHARE, CLIP_STEP_RATIO = 10, 0.25, 1.5
UNEXPLAINED_MIN_HEARD, UNEXPLAINED_SLACK_DB, UNEXPLAINED_FLOOR = 5, 2.5, 0.02


def reading_step_db(visits: Sequence[FitVisit]) -> float:
    """Return the rounding step of the readings [dB]: the smallest difference that recurs."""
    levels = sorted({level for v in visits for level, _ in v.summary.rssi_counts})
    steps = np.round(np.diff(levels), 3)
    steps = steps[steps > 0]
    if not len(steps):
        return 1.0
    return float(np.clip(np.median(np.sort(steps)[: max(len(steps) // 2, 1)]), 0.05, 6.0))


def clip_level_dbm(visits: Sequence[FitVisit], step_db: float) -> float | None:
    """Return the highest reading [dBm] if readings pile up on it, else None."""
    highest = max(
        (v.summary.rssi_counts[-1][0] for v in visits if v.summary.rssi_counts), default=None
    )
    if highest is None:
        return None
    for v in visits:
        counts, heard = dict(v.summary.rssi_counts), v.summary.heard_with_level
        at_top = counts.get(highest, 0)
        below = sum(n for level, n in counts.items() if abs(level - (highest - step_db)) < 0.01)
        if (
            heard >= CLIP_MIN_HEARD
            and at_top >= CLIP_SHARE * heard
            and at_top > CLIP_STEP_RATIO * below
        ):
            return highest
    return None


def unexplained_losses(
    visits: Sequence[FitVisit], posterior: Posterior, pooled_tau: float
) -> list[int]:
    """Return the visits whose burst-aware lower loss limit exceeds what their level explains."""
    frame = float(np.median(posterior.spreads.frame_db))
    floor = float(np.median(posterior.spreads.floor))
    found = []
    for i, v in enumerate(visits):
        if v.summary.heard < UNEXPLAINED_MIN_HEARD or v.summary.lost == 0:
            continue
        mu, t = posterior.visit_level[0, i], posterior.visit_mode[1, i]
        explained = 1 - (1 - floor) * float(ndtr((mu - UNEXPLAINED_SLACK_DB - t) / frame))
        tau = visit_tau(v.summary.runs, v.summary.lost, pooled_tau)
        low = loss_interval(v.summary.lost, v.summary.sent, tau=tau).low
        if low > max(explained, UNEXPLAINED_FLOOR):
            found.append(i)
    return found
