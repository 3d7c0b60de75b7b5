"""What a console prints of a frame: five ways, as different as firmware is, each with its own talk.

A dialect is a function from a reception and the time it happened to the line printed. Only what was
heard is printed, as boards do; what was lost shows by the counter.
"""

from __future__ import annotations

import json
import struct
from collections.abc import Callable
from datetime import UTC, datetime

import pynmea2

from inchmark.devices.simulator.air import Reception

Dialect = Callable[[Reception, float], str]


def keys(one: Reception, at: float) -> str:
    """Print keys with values after a time of day."""
    more = f" hops={one.hops} src={one.source}" if one.hops else ""
    return f"[{_clock(at)}] rx rig={one.ear.board} seq={one.seq} rssi={one.rssi_dbm:.0f} snr={one.snr_db} noise={one.noise_dbm:.0f}{more}"


def words(one: Reception, at: float) -> str:
    """Print fixed words around numbers."""
    return f"{_clock(at)} Received packet {one.seq} from {one.ear.board} with RSSI {one.rssi_dbm:.0f} dBm and SNR {one.snr_db} dB"


def objects(one: Reception, at: float) -> str:
    """Print a JSON object with the radio's figures inside another."""
    radio: dict[str, object] = {
        "fcnt": one.seq,
        "rssi": one.rssi_dbm,
        "snr": one.snr_db,
        "noise": one.noise_dbm,
    }
    if one.hops:
        radio |= {"hops": one.hops, "source": one.source}
    return json.dumps({"event": "rx", "ts": round(at, 3), "node": one.ear.board, "radio": radio})


def columns(one: Reception, at: float) -> str:
    """Print a prefix and values by place."""
    return f"RX,{_stamp(at)},{one.ear.board},{one.seq},{one.rssi_dbm:.0f},{one.snr_db},{one.noise_dbm:.0f}"


def payload(one: Reception, at: float) -> str:
    """Print a payload in hexadecimal that holds the counter, and an RSSI without its sign."""
    data = struct.pack(">BHB", 0xA5, one.seq % 65536, 7)
    return f"{_stamp(at)} RXDONE rig={one.ear.board} len=4 payload={data.hex().upper()} rssi={-(one.rssi_dbm or 0):.0f} snr={one.snr_db}"


DIALECTS: dict[str, Dialect] = {
    "keys": keys, "words": words, "objects": objects, "columns": columns, "payload": payload,
}  # fmt: skip
TALK = {
    "keys": ("boot v2.1 reset=0x05", "radio init ok, TX power 14 dBm"),
    "words": ("Receiver ready.",),
    "objects": ('{"event":"boot","version":"1.2"}',),
    "columns": ("INIT,OK", "CFG,868100000,9,125"),
    "payload": ("RADIO UP",),
}


def answer(dialect: str, asked: str) -> str:
    """Return what a board says to a line sent to it: a settings string comes back as it is set."""
    return json.dumps({"event": "ok", "set": asked}) if dialect == "objects" else f"OK {asked}"


def position(lat_deg: float, lon_deg: float, at: float) -> str:
    """Return an RMC sentence of NMEA 0183 with its checksum."""
    moment = datetime.fromtimestamp(at, UTC)
    north, east = "N" if lat_deg >= 0 else "S", "E" if lon_deg >= 0 else "W"
    fields = (
        f"{moment:%H%M%S}.00", "A", _degrees(lat_deg, 2), north, _degrees(lon_deg, 3), east,
        "0.0", "0.0", f"{moment:%d%m%y}", "", "", "A",
    )  # fmt: skip
    return str(pynmea2.RMC("GP", "RMC", fields))


def _degrees(value: float, digits: int) -> str:
    whole, part = divmod(abs(value), 1)
    return f"{int(whole):0{digits}d}{60 * part:07.4f}"


def _clock(at: float) -> str:
    return f"{datetime.fromtimestamp(at, UTC):%H:%M:%S.%f}"[:-3]


def _stamp(at: float) -> str:
    return f"{datetime.fromtimestamp(at, UTC):%Y-%m-%dT%H:%M:%S.%f}"[:-3] + "Z"
