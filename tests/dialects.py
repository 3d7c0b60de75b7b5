"""Consoles as different as real firmware: one invented walk, written down in many ways.

Each dialect is a function from the frames of a walk to the text a board, a logger or a gateway
would leave, with the talk between frames that comes with it. What was sent and heard is known, so a
test can hold what is read against it.
"""

from __future__ import annotations

import base64
import json
import random
import struct
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta, timezone

BEGAN = datetime(2026, 11, 15, 13, 2, 0, tzinfo=UTC)
BEAT_S = 5.0


@dataclass(frozen=True)
class Sent:
    """One frame of the invented walk."""

    rig: str
    stop: str
    seq: int
    heard: bool
    at: datetime
    rssi: int
    snr: float
    noise: int = -117


@dataclass(frozen=True)
class Dialect:
    """How a log is written, and what the command line has to be told beside it."""

    write: Callable[[list[Sent]], str | bytes]
    options: tuple[str, ...] = ()
    levels: bool = True
    snr: bool = True
    rig_known: bool = True  # the log itself names the rig
    stop_known: bool = True
    first: int = 10
    rssi_within: float = 0.01


def walk(rigs: str = "AB", stops: int = 3, frames: int = 20, first: int = 10) -> list[Sent]:
    """Return the frames of an invented walk, in order sent; each rig counts for itself."""
    dice, at = random.Random(5), BEGAN
    out, counters = [], dict.fromkeys(rigs, first)
    for stop in range(1, stops + 1):
        for i, rig in enumerate(rigs):
            at += timedelta(seconds=60)
            for _ in range(frames):
                level = -70 - 12 * stop - 3 * i + dice.randint(-2, 2)
                heard = dice.random() > 0.15 * (stop - 1)
                snr = round((level + 117 - 15) * 0.25 * 4) / 4
                out.append(Sent(rig, str(stop), counters[rig], heard, at, level, snr))
                counters[rig] += 1
                at += timedelta(seconds=BEAT_S)
    return out


def _by_stop(frames: list[Sent]) -> Iterator[tuple[bool, Sent]]:
    last = None
    for one in frames:
        yield one.stop != last, one
        last = one.stop


def _heard(frames: list[Sent]) -> list[Sent]:
    return [one for one in frames if one.heard]


def key_value(frames: list[Sent]) -> str:
    """Keys with values after a time of day, a boot text before, stops said between."""
    lines = ["boot v2.1 reset=0x05", "[13:01:02.000] radio init ok, TX power 14 dBm, SF9 BW125"]
    for new, one in _by_stop(frames):
        if new:
            lines.append(f"[{one.at:%H:%M:%S}.000] --- stop {one.stop} ---")
        if one.heard:
            lines.append(
                f"[{one.at:%H:%M:%S}.250] rx rig={one.rig} seq={one.seq} rssi={one.rssi} snr={one.snr} bat=3.61"
            )
        else:
            lines.append(f"[{one.at:%H:%M:%S}.250] dbg: preamble detected, no sync")
    return "\n".join(lines)


def sentences(frames: list[Sent]) -> str:
    """Fixed words around numbers."""
    lines = ["Receiver ready."]
    for new, one in _by_stop(frames):
        if new:
            lines.append(f"Now at stop {one.stop}")
        if one.heard:
            lines.append(
                f"Received packet {one.seq} from {one.rig} with RSSI {one.rssi} dBm and SNR {one.snr} dB"
            )
    return "\r\n".join(lines)


def several_lines(frames: list[Sent]) -> str:
    """One frame over several lines, the counter inside a text; one rig, one stop a log."""
    lines = []
    for one in _heard(frames):
        lines += ["Packet received!", f"Data: hello {one.seq}", f"RSSI: {one.rssi} dBm"]
        lines += [f"SNR: {one.snr} dB", ""]
    return "\n".join(lines)


def foreign_heads(frames: list[Sent]) -> str:
    """A table with heads of its own, semicolons, decimal commas, one line cut off."""
    lines = ["Zeit;Nr;Gerät;Board;Pegel (dBm);Rauschen (dBm);SNR;Ort"]
    for one in _heard(frames):
        snr = f"{one.snr:.2f}".replace(".", ",")
        lines.append(
            f"{one.at:%d.%m.%Y %H:%M:%S};{one.seq};e22;{one.rig};{one.rssi},0;{one.noise},0;{snr};{one.stop}"
        )
    lines.insert(4, lines[4][:31])
    return "\n".join(lines)


def comma_heads(frames: list[Sent]) -> str:
    """A table in English heads with units in brackets."""
    lines = ["Timestamp,Board,Location,Packet #,RSSI (dBm),Signal-to-noise (dB),Temp (C)"]
    lines += [
        f"{one.at:%Y-%m-%d %H:%M:%S},{one.rig},{one.stop},{one.seq},{one.rssi},{one.snr},7.5"
        for one in _heard(frames)
    ]
    return "\n".join(lines)


def json_lines(frames: list[Sent]) -> str:
    """JSON with a nested object, epoch seconds, and an event."""
    lines = ['{"event":"boot","version":"1.2"}']
    lines += [
        json.dumps(
            {
                "event": "rx",
                "ts": one.at.timestamp(),
                "node": {"name": one.rig, "bat": 3.6},
                "place": one.stop,
                "radio": {"fcnt": one.seq, "rssi": one.rssi, "snr": one.snr},
            }
        )
        for one in frames
        if one.heard
    ]
    lines.append('{"event":"rx","ts":17632153')
    return "\n".join(lines)


def prefixed(frames: list[Sent]) -> str:
    """A prefix and values by place."""
    lines = ["INIT,OK", "CFG,868100000,9,125"]
    for new, one in _by_stop(frames):
        if new:
            lines.append(f"MARK stop {one.stop}")
        if one.heard:
            lines.append(f"RX,{one.rig},{one.seq},{one.rssi},{one.snr},{one.noise}")
        elif one.seq % 7 == 0:
            lines.append("ERR,CRC")
    lines.append("RX,A,99,-8")
    return "\n".join(lines)


def hex_payload(frames: list[Sent]) -> str:
    """A payload in hex whose second and third byte count, a positive RSSI."""
    lines = []
    for one in _heard(frames):
        data = struct.pack(">BHBh", 0xA5, one.seq, 7, one.rssi * 3 % 97)
        lines.append(
            f"{one.at:%Y-%m-%dT%H:%M:%SZ} RXDONE len=6 payload={data.hex().upper()} rssi={-one.rssi} snr={one.snr}"
        )
    return "\n".join(lines)


def coded_payload(frames: list[Sent]) -> str:
    """A payload in base64, a little-endian counter of four bytes."""
    lines = []
    for one in _heard(frames):
        data = base64.b64encode(struct.pack("<BIB", 1, one.seq, 0x30 + one.seq % 5)).decode()
        stamp = one.at.astimezone(timezone(timedelta(hours=1)))
        lines.append(
            json.dumps({"time": stamp.isoformat(), "data": data, "rssi": one.rssi, "snr": one.snr})
        )
    return "\n".join(lines)


def gateways(frames: list[Sent]) -> str:
    """Two gateways that heard the same transmission, in one line."""
    lines = []
    for one in _heard(frames):
        heard = [
            {"gateway": "barn", "rssi": one.rssi, "snr": one.snr},
            {"gateway": "pump", "rssi": one.rssi - 9, "snr": one.snr - 2},
        ]
        if one.seq % 3 == 0:
            heard.pop()
        lines.append(
            json.dumps(
                {"time": f"{one.at:%Y-%m-%dT%H:%M:%SZ}", "dev": one.rig, "where": one.stop,
                 "fCnt": one.seq, "rxInfo": heard}
            )
        )  # fmt: skip
    return "\n".join(lines)


def coloured_uptime(frames: list[Sent]) -> bytes:
    """Colours, milliseconds since the start, a hexadecimal counter, a loose lead's bytes."""
    lines = ["\x1b[0;32mI (312) app: start\x1b[0m"]
    for one in frames:
        since = int((one.at - BEGAN).total_seconds() * 1000)
        if one.heard:
            lines.append(
                f"\x1b[0;32mI ({since}) radio: rx cnt=0x{one.seq:04X} rssi={one.rssi}dBm snr={one.snr}\x1b[0m\r"
            )
    written = [line.encode() for line in lines]
    written.insert(5, b"\x00\xff\xfe\x80\x12")
    return b"\n".join(written)


def percent(frames: list[Sent]) -> str:
    """Strength in per cent of -130 to -50 dBm."""
    lines = []
    for one in _heard(frames):
        share = round((one.rssi + 130) / 80 * 100)
        lines.append(f"{one.at:%H:%M:%S} frame #{one.seq} from {one.rig}: signal {share}%")
    return "\n".join(lines)


def wide_text(frames: list[Sent]) -> bytes:
    """UTF-16, tabs, heads."""
    lines = ["seq\trig\tstop\trssi\tsnr"]
    lines += [f"{o.seq}\t{o.rig}\t{o.stop}\t{o.rssi}\t{o.snr}" for o in frames if o.heard]
    return "\r\n".join(lines).encode("utf-16")


def old_windows(frames: list[Sent]) -> bytes:
    """Windows-1252 with a degree sign, columns lined up by spaces."""
    lines = ["# Temp 7°C, Wind schwach", "  nr   board  rssi    snr   stop"]
    lines += [
        f"{o.seq:5d}  {o.rig:>5}  {o.rssi:5d}  {o.snr:6.2f}  {o.stop:>3}" for o in frames if o.heard
    ]
    return "\n".join(lines).encode("cp1252")


ZONED = ("--zone", "+00:00", "--date", "2026-11-15")
DIALECTS: dict[str, Dialect] = {
    "keys and values": Dialect(key_value, ZONED),
    "sentences": Dialect(sentences),
    "a frame over several lines": Dialect(several_lines, rig_known=False, stop_known=False),
    "foreign heads, decimal commas": Dialect(foreign_heads),
    "heads with units": Dialect(comma_heads),
    "JSON lines": Dialect(json_lines),
    "prefix and places": Dialect(prefixed),
    "a counter in hex": Dialect(hex_payload, rig_known=False, stop_known=False),
    "a counter in base64": Dialect(coded_payload, rig_known=False, stop_known=False),
    "colours and uptime": Dialect(coloured_uptime, rig_known=False, stop_known=False),
    "per cent": Dialect(
        percent, ("--percent", "-130..-50", *ZONED), snr=False, stop_known=False, rssi_within=0.5
    ),
    "UTF-16": Dialect(wide_text),
    "Windows-1252, columns by spaces": Dialect(old_windows),
}
