"""Match: how much of the power an antenna takes, from any one way of saying it.

===========  =======================  =============================================
symbol       name here                meaning
===========  =======================  =============================================
abs(G)       reflection_magnitude     magnitude of the reflection coefficient, 0 to 1
S            vswr                     voltage standing-wave ratio, 1 and up
RL           return_loss_db           positive; no finite one at a perfect match
ML           mismatch_loss_db         power not delivered [dB], 0 and up
===========  =======================  =============================================

Standard transmission-line definitions; a loss is positive.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from inchmark.core.checks import Floats, floats, positive, within

REFERENCE_OHM = 50.0


@dataclass(frozen=True, slots=True)
class Match:
    """A match, kept as reflection magnitude; the other ways of saying it are read off."""

    reflection_magnitude: float

    def __post_init__(self) -> None:
        """Refuse more reflected than arrives."""
        within("reflection_magnitude", self.reflection_magnitude, 0, 1)

    @classmethod
    def from_vswr(cls, vswr: float) -> Match:
        """Return the match of a standing-wave ratio, 1 and up."""
        if not vswr >= 1:
            raise ValueError(f"vswr={vswr!r} must be 1 or more")
        return cls((vswr - 1) / (vswr + 1) if np.isfinite(vswr) else 1.0)

    @classmethod
    def from_return_loss_db(cls, return_loss_db: float) -> Match:
        """Return the match of a return loss [dB], 0 and up."""
        within("return_loss_db", return_loss_db, 0, np.inf)
        return cls(float(10 ** (-return_loss_db / 20)))

    @classmethod
    def from_mismatch_loss_db(cls, mismatch_loss_db: float) -> Match:
        """Return the match of a mismatch loss [dB], 0 and up."""
        within("mismatch_loss_db", mismatch_loss_db, 0, np.inf)
        return cls(float(np.sqrt(-np.expm1(-mismatch_loss_db * np.log(10) / 10))))

    @classmethod
    def from_impedance(
        cls, impedance_ohm: complex, *, reference_ohm: float = REFERENCE_OHM
    ) -> Match:
        """Return the match of a load [Ohm] with a resistance of 0 and up on a line [Ohm]."""
        positive("reference_ohm", reference_ohm)
        if not impedance_ohm.real >= 0:
            raise ValueError(f"impedance_ohm={impedance_ohm!r} must have a resistance >= 0")
        return cls(abs((impedance_ohm - reference_ohm) / (impedance_ohm + reference_ohm)))

    @property
    def vswr(self) -> float:
        """Return the standing-wave ratio; infinite where everything comes back."""
        g = self.reflection_magnitude
        return (1 + g) / (1 - g) if g < 1 else float("inf")

    @property
    def return_loss_db(self) -> float:
        """Return the return loss [dB]; infinite at a perfect match."""
        g = self.reflection_magnitude
        return float(-20 * np.log10(g)) if g > 0 else float("inf")

    @property
    def mismatch_loss_db(self) -> float:
        """Return the power not delivered [dB]; infinite where everything comes back."""
        g = self.reflection_magnitude
        return float(-10 * np.log1p(-(g**2)) / np.log(10)) if g < 1 else float("inf")

    @property
    def reflected_power_percent(self) -> float:
        """Return the power that comes back [%]."""
        return 100 * self.reflection_magnitude**2


@dataclass(frozen=True, slots=True, kw_only=True)
class Sweep:
    """A one-port sweep: ascending frequencies [Hz] and complex reflection, shape (points,)."""

    frequency_hz: Floats
    reflection: NDArray[np.complex128]

    def __post_init__(self) -> None:
        """Refuse a sweep that is none."""
        if len(self.frequency_hz) < 2 or len(self.frequency_hz) != len(self.reflection):
            raise ValueError("a sweep needs 2 points or more, each with its reflection")
        if np.any(np.diff(positive("frequency_hz", self.frequency_hz)) <= 0):
            raise ValueError("frequency_hz must ascend")
        if not np.all(np.isfinite(self.reflection)):
            raise ValueError("reflection must be finite")

    @property
    def vswr(self) -> Floats:
        """Return the standing-wave ratio at each point."""
        magnitude = np.minimum(np.abs(self.reflection), 1 - 1e-12)
        ratio: Floats = (1 + magnitude) / (1 - magnitude)
        return ratio

    @property
    def return_loss_db(self) -> Floats:
        """Return the return loss at each point [dB]."""
        loss: Floats = -20 * np.log10(np.maximum(np.abs(self.reflection), 1e-12))
        return loss

    @property
    def best(self) -> int:
        """Return the index of the best match over the whole sweep."""
        return int(np.argmin(np.abs(self.reflection)))

    def at(self, frequency_hz: ArrayLike) -> NDArray[np.complex128]:
        """Return the reflection between points, on straight lines; outside the sweep refuse."""
        wanted = floats("frequency_hz", frequency_hz)
        within("frequency_hz", wanted, float(self.frequency_hz[0]), float(self.frequency_hz[-1]))
        real = np.interp(wanted, self.frequency_hz, self.reflection.real)
        return real + 1j * np.interp(wanted, self.frequency_hz, self.reflection.imag)

    def match_at(self, frequency_hz: float) -> Match:
        """Return the match at one frequency [Hz] inside the sweep."""
        return Match(min(float(np.abs(self.at(frequency_hz))), 1.0))

    def worst_vswr(self, low_hz: float, high_hz: float) -> float:
        """Return the highest standing-wave ratio inside a band, its edges included."""
        inside = (self.frequency_hz > low_hz) & (self.frequency_hz < high_hz)
        edges = [self.match_at(low_hz).vswr, self.match_at(high_hz).vswr]
        return float(max([*edges, *self.vswr[inside].tolist()]))

    def matched_range_hz(self, return_loss_db: float = 10.0) -> tuple[float, float] | None:
        """Return the contiguous stretch around the best point that reaches a return loss.

        Straight lines in dB between points; None where even the best point does not reach it; an
        end of the sweep where it is reached up to there.
        """
        loss, best = self.return_loss_db, self.best
        if loss[best] < return_loss_db:
            return None
        return self._crossing(loss, best, -1, return_loss_db), self._crossing(
            loss, best, 1, return_loss_db
        )

    def _crossing(self, loss: Floats, start: int, step: int, wanted: float) -> float:
        i = start
        while 0 <= i + step < len(loss):
            if loss[i + step] < wanted:
                share = (loss[i] - wanted) / (loss[i] - loss[i + step])
                return float(
                    self.frequency_hz[i]
                    + share * (self.frequency_hz[i + step] - self.frequency_hz[i])
                )
            i += step
        return float(self.frequency_hz[i])
