"""Loss of a cable with its joints, between rows of a cable's table."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from inchmark.core.checks import positive, within

JOINT_LOSS_DB = 0.1  # a good mated pair under 1 GHz, common practice


@dataclass(frozen=True, slots=True, kw_only=True)
class Cable:
    """Rows of (frequency [Hz], loss [dB per 100 m]), ascending; one row at least."""

    rows: Sequence[tuple[float, float]]

    def __post_init__(self) -> None:
        """Refuse an empty table and one that does not ascend."""
        if not self.rows:
            raise ValueError("rows must hold a frequency and its loss")
        for frequency, loss in self.rows:
            positive("frequency", frequency)
            within("loss", loss, 0, 10_000)
        if any(b[0] <= a[0] for a, b in zip(self.rows, self.rows[1:], strict=False)):
            raise ValueError("rows must ascend in frequency")

    def loss_db_per_100m(self, frequency_hz: float) -> float:
        """Return the loss [dB per 100 m], linear in the square root of the frequency.

        Skin effect makes conductor loss grow so; outside the table the nearest row is scaled.
        """
        root = float(np.sqrt(positive("frequency_hz", frequency_hz)))
        roots = np.sqrt([f for f, _ in self.rows])
        losses = [loss for _, loss in self.rows]
        if root < roots[0]:
            return float(losses[0] * root / roots[0])
        if root > roots[-1]:
            return float(losses[-1] * root / roots[-1])
        return float(np.interp(root, roots, losses))

    def covers(self, frequency_hz: float) -> bool:
        """Tell whether a frequency lies inside the table."""
        return self.rows[0][0] <= frequency_hz <= self.rows[-1][0]


def link_loss_db(loss_db: float, measured_hz: float, frequency_hz: float) -> float:
    """Return the loss [dB] at a frequency of a part whose loss is known at another; 0 Hz: the same at all.

    As the skin effect has it, with the root of the frequency.
    """
    within("loss_db", loss_db, 0, 200)
    if not measured_hz:
        return loss_db
    root = np.sqrt(positive("frequency_hz", frequency_hz) / positive("measured_hz", measured_hz))
    return float(loss_db * root)


def feed_loss_db(
    cable: Cable | None,
    frequency_hz: float,
    *,
    length_m: float = 0.0,
    joints: int = 0,
    joint_loss_db: float = JOINT_LOSS_DB,
) -> float:
    """Return the loss [dB] of a length [m, 0 and up] of cable and its joints."""
    within("length_m", length_m, 0, 10_000)
    within("joints", joints, 0, 100)
    within("joint_loss_db", joint_loss_db, 0, 60)
    of_cable = cable.loss_db_per_100m(frequency_hz) * length_m / 100 if cable else 0.0
    return of_cable + joints * joint_loss_db
