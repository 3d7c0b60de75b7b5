"""Which level a noisy trace is at: a small hidden Markov fit over the stretches between crossings.

Samples that cross a boundary by noise alone make short stretches. Levels are normal with the spread
seen in them; changing level costs `CHANGE_NATS`. The likeliest sequence (Viterbi) keeps a stretch
only where its samples say more than the two changes cost; means are then told anew, twice.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from inchmark.core.checks import Floats

CHANGE_NATS = 9.0  # a change of level is as likely as one sample in 8,000
ROUNDS = 2
LEAST_SPREAD = 0.02  # of a level: ripple of a supply, a meter's own step

Levels = NDArray[np.int64]


def likeliest(current_a: Floats, level: Levels, count: int, noise_a: float) -> Levels:
    """Return the likeliest level of each sample, shape (samples,), from a first guess of `count` levels."""
    found = level
    for _ in range(ROUNDS):
        cuts = np.concatenate([[0], np.flatnonzero(np.diff(level)) + 1, [len(level)]])
        means, spreads = _levels(current_a, found, count, noise_a)
        scores = _scores(current_a, cuts, means, spreads)
        path = _path(scores)
        found = np.repeat(path, np.diff(cuts))
    return found


def _levels(current_a: Floats, level: Levels, count: int, noise_a: float) -> tuple[Floats, Floats]:
    means, spreads = np.full(count, np.nan), np.full(count, np.inf)
    for k in range(count):
        own = current_a[level == k]
        if own.size:
            means[k] = float(np.mean(own))
            spreads[k] = max(float(np.std(own)), noise_a, LEAST_SPREAD * abs(means[k]), 1e-12)
    return means, spreads


def _scores(current_a: Floats, cuts: Levels, means: Floats, spreads: Floats) -> Floats:
    """Return the log-likelihood of each stretch at each level, shape (stretches, levels)."""
    n = np.diff(cuts).astype(np.float64)
    centred = current_a - np.nanmean(means)  # so that sums of squares keep their digits
    sums = np.add.reduceat(centred, cuts[:-1])
    squares = np.add.reduceat(centred**2, cuts[:-1])
    found = np.full((n.size, means.size), -np.inf)
    for k in np.flatnonzero(np.isfinite(means)):
        mean, spread = means[k] - np.nanmean(means), spreads[k]
        deviations = squares - 2 * mean * sums + n * mean**2
        found[:, k] = -n * np.log(spread) - deviations / (2 * spread**2)
    return found


def _path(scores: Floats) -> Levels:
    """Return the likeliest level of each stretch, where a change costs and staying does not."""
    stretches, levels = scores.shape
    came = np.zeros((stretches, levels), dtype=np.int64)
    best = scores[0]
    own = np.arange(levels)
    for i in range(1, stretches):
        top = int(np.argmax(best))
        change = best[top] - CHANGE_NATS
        stays = best >= change
        came[i] = np.where(stays, own, top)
        best = np.where(stays, best, change) + scores[i]
    path = np.empty(stretches, dtype=np.int64)
    path[-1] = int(np.argmax(best))
    for i in range(stretches - 1, 0, -1):
        path[i - 1] = came[i, path[i]]
    return path
