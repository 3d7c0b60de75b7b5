"""Levels on the dBm ruler, in per cent of its width."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from inchmark.core.wording import number
from inchmark.pages.plot import Axis, Tick


@dataclass(frozen=True, slots=True, kw_only=True)
class LevelRuler:
    """Where each level lies, and a tick every 10 dB."""

    places: tuple[float, ...]
    ticks: tuple[Tick, ...]


def level_ruler(levels_dbm: Sequence[float]) -> LevelRuler:
    """Return levels [dBm] on a ruler that reaches 5 dB beyond the tens around them."""
    if not levels_dbm:
        return LevelRuler(places=(), ticks=())
    low = 10 * math.floor(min(levels_dbm) / 10)
    high = 10 * math.ceil(max(levels_dbm) / 10)
    axis = Axis(low=low - 5, high=high + 5, start=0, end=100, digits=2)
    return LevelRuler(
        places=tuple(axis.at(dbm) for dbm in levels_dbm),
        ticks=axis.ticks(range(low, high + 1, 10), lambda dbm: number(dbm, 0)),
    )
