"""Presses of a thumb as the phone's page sends them."""

from __future__ import annotations

from pydantic import AwareDatetime, BaseModel, Field

NAME = r"^[^\x00-\x1f\x7f]*$"


class Press(BaseModel):
    """One try: when, heard or missed, of which rig at which stop, carried how, heard by whom."""

    at: AwareDatetime
    heard: bool
    rig: str = Field(min_length=1, max_length=8, pattern=NAME)
    stop: str = Field(min_length=1, max_length=60, pattern=NAME)
    condition: str = Field(default="", max_length=60, pattern=NAME)
    receiver: str = Field(default="", max_length=60, pattern=NAME)
    replies: bool = False
    bars: int | None = Field(default=None, ge=0, le=9)


class PositionSent(BaseModel):
    """Where a phone said it was: degrees, and the radius that holds 95 % of positions [m]."""

    at: AwareDatetime
    lat: float = Field(ge=-90, le=90)
    lon: float = Field(ge=-180, le=180)
    accuracy_m: float = Field(ge=0, le=100_000)


class Positions(BaseModel):
    """Positions of one phone in order, numbered from 1 since it began this walk."""

    start: str = Field(min_length=1, max_length=40, pattern=r"^[\w.:+-]+$")
    first: int = Field(ge=1, le=10**9)
    positions: list[PositionSent] = Field(min_length=1, max_length=500)


class Presses(BaseModel):
    """Presses of one phone in order, numbered from 1 since it began this walk."""

    start: str = Field(min_length=1, max_length=40, pattern=r"^[\w.:+-]+$")
    first: int = Field(ge=1, le=10**9)
    presses: list[Press] = Field(min_length=1, max_length=500)
