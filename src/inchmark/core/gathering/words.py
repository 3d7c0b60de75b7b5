"""What a line became, in words a person can check against the line."""

from __future__ import annotations

from inchmark.core.gathering.source import Row
from inchmark.core.recipe.names import Act
from inchmark.core.recipe.reader import Event, Fix, Standing
from inchmark.core.wording import level, number

_ACTS = {Act.SENT: "sent: ", Act.REPLY: "answer: ", Act.LOST: "lost: "}


def row_words(row: Row, act: Act) -> str:
    """Return a frame in words: “frame 12 of A at stop 2, −87 dBm, S/N 7.3 dB”."""
    counter = "a frame" if row.seq is None else f"frame {row.seq}"
    of = f" of {row.rig}" if row.rig else ""
    at = f" at stop {row.stop}" if row.stop else ""
    figures = [
        level(row.rssi_dbm) if row.rssi_dbm is not None else "",
        f"S/N {number(row.snr_db, 2)} dB" if row.snr_db is not None else "",
        f"noise {level(row.noise_dbm)}" if row.noise_dbm is not None else "",
        f"by {row.receiver}" if row.receiver else "",
        f"over {row.hops:g} hops" if row.hops else "",
    ]
    return ", ".join([f"{_ACTS.get(act, '')}{counter}{of}{at}", *filter(None, figures)])


def event_words(event: Event) -> str:
    """Return a line that is no frame in words."""
    if isinstance(event, Standing):
        told = ", ".join(f"{meaning} {value}" for meaning, value in event.values.items())
        return f"from here on: {told}"
    if isinstance(event, Fix):
        return f"position {event.lat:.5f}, {event.lon:.5f}"
    return "no frame"
