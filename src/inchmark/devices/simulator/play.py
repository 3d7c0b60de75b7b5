"""A simulated walk on real leads, at a pace, with the truth of it kept beside."""

from __future__ import annotations

import threading
import time
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from inchmark.devices.simulator.air import Air, Ear, Reception
from inchmark.devices.simulator.dialects import DIALECTS, TALK, position
from inchmark.devices.simulator.outlets import Outlet
from inchmark.formats.frame_log.writer import Cell, csv_lines, iso_time

TRUTH = (
    "rig", "stop", "seq", "heard", "time", "rssi_dbm", "snr_db", "noise_dbm", "direction",
    "receiver", "source", "hops", "printed",
)  # fmt: skip
GPS = "gps"


@dataclass(slots=True)
class Play:
    """Consoles by name with their dialect and outlet; `pace` times life, 0 as fast as it goes."""

    air: Air
    consoles: Mapping[str, tuple[str, Outlet]]
    began_s: float
    pace: float = 1.0
    gps: Outlet | None = None
    stop: threading.Event = field(default_factory=threading.Event)
    truth: list[tuple[Reception, bool]] = field(default_factory=list)
    _next_fix_s: float = 0.0

    def run(self) -> None:
        """Print to the end of the route, or until stopped."""
        for dialect, outlet in self.consoles.values():
            for line in TALK[dialect]:
                outlet.print(line)
        started = time.monotonic()
        for one in self.air.receptions():
            if self.pace and self.stop.wait(
                max(started + one.time_s / self.pace - time.monotonic(), 0)
            ):
                return
            self._fix(one.time_s)
            self.truth.append((one, self._print(one)))

    def _print(self, one: Reception) -> bool:
        dialect, outlet = self.consoles[one.ear.name]
        return one.heard and outlet.print(DIALECTS[dialect](one, self.began_s + one.time_s))

    def _fix(self, now_s: float) -> None:
        while self.gps is not None and self._next_fix_s <= now_s:
            metres = self.air.route.at(self._next_fix_s, self.air.stays).metres
            place = self.air.route.place(metres)
            self.gps.print(position(place.lat_deg, place.lon_deg, self.began_s + self._next_fix_s))
            self._next_fix_s += 1

    def close(self) -> None:
        """Pull all leads."""
        for _, outlet in self.consoles.values():
            outlet.close()
        if self.gps is not None:
            self.gps.close()

    def rows(self) -> Iterator[dict[str, Cell]]:
        """Yield what was truly sent, a row for each transmission and console."""
        for one, printed in self.truth:
            yield {
                "rig": one.ear.board, "stop": one.stop, "seq": one.seq, "heard": int(one.heard),
                "time": iso_time(self.began_s + one.time_s), "rssi_dbm": one.rssi_dbm,
                "snr_db": one.snr_db, "noise_dbm": one.noise_dbm, "direction": one.ear.direction,
                "receiver": one.ear.receiver, "source": one.source, "hops": one.hops,
                "printed": int(printed),
            }  # fmt: skip

    def write_truth(self, folder: Path) -> None:
        """Write frames.csv (what was sent), stops.csv and timeline.csv (who stood where)."""
        folder.mkdir(parents=True, exist_ok=True)
        stays = self.air.stays
        stops: Sequence[dict[str, Cell]] = [
            {"stop": one.stop, "distance_m": round(one.metres, 2)} for one in stays
        ]
        times: Sequence[dict[str, Cell]] = [
            {
                "from": iso_time(self.began_s + one.from_s),
                "to": iso_time(self.began_s + one.to_s),
                "stop": one.stop,
            }
            for one in stays
        ]
        for name, rows, columns in (
            ("frames.csv", self.rows(), TRUTH),
            ("stops.csv", stops, ("stop", "distance_m")),
            ("timeline.csv", times, ("from", "to", "stop")),
        ):
            (folder / name).write_text("".join(csv_lines(rows, columns)), encoding="utf-8")


def console_names(ears: Sequence[Ear], dialects: Sequence[str]) -> list[tuple[Ear, str]]:
    """Return consoles with a dialect each, in turn.

    Raises
    ------
    ValueError
        A dialect is none; names those there are.
    """
    if unknown := [name for name in dialects if name not in DIALECTS]:
        raise ValueError(f"“{unknown[0]}” is no dialect. There are {', '.join(DIALECTS)}.")
    boards = list(dict.fromkeys(ear.board for ear in ears))
    return [(ear, dialects[boards.index(ear.board) % len(dialects)]) for ear in ears]
