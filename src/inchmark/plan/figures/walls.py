"""Walls as the map's page lists them: how long each is, and what a crossing costs."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from inchmark.core.geodesy import length_m
from inchmark.core.propagation.walls import KINDS, Wall
from inchmark.core.wording import number
from inchmark.plan.adapters.walls import wall_of
from inchmark.plan.models import SiteWall


@dataclass(frozen=True, slots=True, kw_only=True)
class WallRow:
    """A wall with its length [m], and what one crossing costs at a frequency [dB] and why."""

    wall: SiteWall
    length_m: float
    thickness_m: float | None
    loss_db: float | None
    why: str


def wall_rows(walls: Sequence[SiteWall], frequency_hz: float | None) -> list[WallRow]:
    """Return walls as they are listed; what a crossing costs is None without a frequency."""
    return [_row(one, wall_of(one), frequency_hz) for one in walls]


def on_map(rows: Sequence[WallRow]) -> list[list[Any]]:
    """Return walls as plain data for a map: name, points, what a crossing costs [dB]."""
    return [[str(one.wall), one.wall.points, one.loss_db] for one in rows]


def _row(row: SiteWall, wall: Wall, frequency_hz: float | None) -> WallRow:
    usual = KINDS[wall.kind].thickness_m if wall.follows_frequency else None
    known = frequency_hz is not None or not wall.follows_frequency
    return WallRow(
        wall=row,
        length_m=length_m(*zip(*wall.points, strict=True)),
        thickness_m=(wall.thickness_m or usual) if wall.follows_frequency else None,
        loss_db=wall.crossing_db(frequency_hz or 1e9) if known else None,
        why=_why(wall, frequency_hz),
    )


def _why(wall: Wall, frequency_hz: float | None) -> str:
    if wall.loss_db is not None:
        return "typed"
    if not wall.follows_frequency:
        return "COST 231, as measured at 1.8 GHz"
    if frequency_hz is not None and not wall.stated_at(frequency_hz):
        return f"ITU-R P.2040-3, carried on to {number(frequency_hz / 1e6, 0)} MHz"
    return "ITU-R P.2040-3"
