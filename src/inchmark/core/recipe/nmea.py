"""Positions of a talking receiver: GGA and RMC sentences of NMEA 0183, read by pynmea2."""

from __future__ import annotations

from datetime import UTC, date, datetime
from typing import Any, NamedTuple

import pynmea2


class Spot(NamedTuple):
    """A position [degrees], its time [s since 1970] where the sentence dates it, and its quality."""

    lat: float
    lon: float
    time_s: float | None
    satellites: int | None = None
    hdop: float | None = None
    quality: int | None = (
        None  # of GGA: 1 satellites alone, 2 corrected, 4 and 5 by carrier, 6 reckoned
    )
    age_s: float | None = None  # of the corrections


def position(sentence: str, day: date | None = None) -> Spot | None:
    """Return the position of a sentence; None where it has no fix or is of another kind.

    GGA tells the time of day only; with `day` it is a moment.

    Raises
    ------
    ValueError
        The checksum is wrong, or the sentence is damaged.
    """
    try:
        found = pynmea2.parse(sentence, check=True)
    except pynmea2.ParseError as wrong:
        raise ValueError(f"A position sentence is damaged ({wrong.args[0][0]}).") from wrong
    kind = found.sentence_type
    try:
        if kind == "GGA" and found.gps_qual:
            return _spot(
                found,
                _moment(found.timestamp, day),
                int(found.num_sats or 0),
                _number(found.horizontal_dil),
                int(found.gps_qual),
                _number(found.age_gps_data),
            )
        if kind == "RMC" and found.status == "A":
            moment = datetime.combine(found.datestamp, found.timestamp)
            at = moment if moment.tzinfo else moment.replace(tzinfo=UTC)
            return _spot(found, at.timestamp())
    except (TypeError, ValueError, AttributeError) as wrong:
        raise ValueError("A position sentence is damaged.") from wrong
    return None


def _moment(clock: Any, day: date | None) -> float | None:
    if day is None or clock is None:
        return None
    return datetime.combine(day, clock.replace(tzinfo=None), UTC).timestamp()


def _number(text: str) -> float | None:
    return float(text) if text else None


def _spot(found: pynmea2.NMEASentence, time_s: float | None, *quality: Any) -> Spot | None:
    if not found.lat or not found.lon:
        return None
    return Spot(float(found.latitude), float(found.longitude), time_s, *quality)
