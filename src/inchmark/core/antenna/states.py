"""An antenna swept in states: free, near metal, retuned there; what a state costs in match alone.

What metal takes away besides (gain, pattern, absorption) no sweep shows: a walk does.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from inchmark.core.antenna.match import Sweep

FREE, METAL, RETUNED = "free", "metal", "retuned"
STATES = (FREE, METAL, RETUNED)


@dataclass(frozen=True, slots=True, kw_only=True)
class StateMatch:
    """A state at a frequency: where the antenna is best [Hz], VSWR and mismatch loss [dB]."""

    state: str
    best_hz: float
    vswr: float
    mismatch_db: float


@dataclass(frozen=True, slots=True, kw_only=True)
class StatesCost:
    """Matches by state; what metal costs against free, and what retuning gives back [dB], if known."""

    matches: tuple[StateMatch, ...]
    metal_costs_db: float | None
    retuning_gives_db: float | None
    moved_hz: float | None  # the best frequency, from free to near metal


def states_cost(sweeps: Mapping[str, Sweep], frequency_hz: float) -> StatesCost:
    """Return what states cost at a frequency [Hz]; sweeps that do not reach it are left out."""
    found: dict[str, StateMatch] = {}
    for state in STATES:
        one = sweeps.get(state)
        if one is None or not one.frequency_hz[0] <= frequency_hz <= one.frequency_hz[-1]:
            continue
        match = one.match_at(frequency_hz)
        found[state] = StateMatch(
            state=state,
            best_hz=float(one.frequency_hz[one.best]),
            vswr=match.vswr,
            mismatch_db=match.mismatch_loss_db,
        )
    free, metal, retuned = (found.get(state) for state in STATES)
    return StatesCost(
        matches=tuple(found.values()),
        metal_costs_db=metal.mismatch_db - free.mismatch_db if metal and free else None,
        retuning_gives_db=metal.mismatch_db - retuned.mismatch_db if metal and retuned else None,
        moved_hz=metal.best_hz - free.best_hz if metal and free else None,
    )
