"""Weights over options: what they would put first, and how firmly; they hide and remove nothing."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from inchmark.core.checks import Floats

SHIFTS = (0.5, 2.0)  # a weight is halved and doubled to see whether the first stays first


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Weighed:
    """Scores of options (options,), 0 to 1, and what a change of one weight would put first.

    `overtaken` holds, for a weight and a factor on it, the row that would come first instead.
    """

    scores: Floats
    first: int
    overtaken: dict[tuple[int, float], int]


def weighed(figures: Floats, weights: Floats) -> Weighed:
    """Return options weighed by some figures of theirs.

    Parameters
    ----------
    figures : shape (options, columns), more is better; NaN counts as the worst there is
    weights : shape (columns,), 0 or more, not all 0

    Notes
    -----
    Each column runs from 0 at its worst option to 1 at its best among those given: a simple additive
    value model (common practice; the choice of the ends is part of the judgement, so it is shown).
    """
    shares = _between_ends(figures)
    scores = _scores(shares, weights)
    first = int(np.argmax(scores))
    overtaken = {}
    for column in np.flatnonzero(weights > 0).tolist():
        for factor in SHIFTS:
            other = weights.copy()
            other[column] *= factor
            again = _scores(shares, other)
            if again.max() > again[first] + 1e-12:
                overtaken[column, factor] = int(np.argmax(again))
    return Weighed(scores=scores, first=first, overtaken=overtaken)


def _scores(shares: Floats, weights: Floats) -> Floats:
    found: Floats = shares @ (weights / weights.sum())
    return found


def _between_ends(figures: Floats) -> Floats:
    """Return each column from 0 at its worst to 1 at its best; 1 where all are alike."""
    known = np.isfinite(figures)
    low = np.min(np.where(known, figures, np.inf), axis=0)
    high = np.max(np.where(known, figures, -np.inf), axis=0)
    span = np.where(high > low, high - low, 1.0)
    shares = np.where(high > low, (figures - low) / span, 1.0)
    return np.where(known, shares, 0.0)
