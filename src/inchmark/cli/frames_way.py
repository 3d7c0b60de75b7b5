"""`inchmark frames` with tracks: a walk that never stands cut into bins, and stops measured by them."""

from __future__ import annotations

import argparse
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from inchmark.cli.log_read import LogRead
from inchmark.core.gathering.bins import Bin, Cutting, cut_into_bins
from inchmark.core.gathering.source import Source
from inchmark.core.gathering.timeline import Timeline
from inchmark.core.gathering.way import MeasuredPlace, Point, Way, point_of
from inchmark.core.geodesy import Place
from inchmark.core.recipe.names import Act
from inchmark.formats.frame_log.writer import Cell, csv_lines
from inchmark.formats.timeline_file import read_track

STOPS = ("stop", "distance_m", "plus_minus_m", "lat", "lon", "method")


def add_options(parser: argparse.ArgumentParser) -> None:
    """Add what tracks can do."""
    parser.add_argument("--fixed-end", metavar="LAT,LON", help="where the fixed end stood")
    parser.add_argument("--fixed-track", type=Path, metavar="FILE.gpx", help="where it moved")
    parser.add_argument(
        "--bins",
        metavar="N|METRESm",
        help="cut a walk without stops into bins: 60 frames, or 50m of distance",
    )
    parser.add_argument(
        "--stops-out", type=Path, metavar="FILE.csv", help="write the stops as tracks measure them"
    )


@dataclass(slots=True)
class Measured:
    """What tracks gave: bins where they were asked for, and places of stops."""

    bins: Sequence[Bin] = ()
    places: Sequence[MeasuredPlace] = ()

    def words(self) -> list[str]:
        """Return what was made of them, in sentences."""
        found = [
            f"{b.name}: {b.distance_m:.0f} m ± {b.plus_minus_m:.0f} m, {b.frames} frames, moving at {b.speed_m_per_s:.1f} m/s"
            for b in self.bins
        ]
        return found + [
            f"stop {p.stop}: {p.distance_m:.0f} m ± {p.plus_minus_m:.0f} m by {p.points} points of the track"
            for p in self.places
        ]

    def write(self, path: Path) -> None:
        """Write the stops as CSV."""
        rows: list[dict[str, Cell]] = [
            {
                "stop": name,
                "distance_m": round(one.distance_m, 1),
                "plus_minus_m": round(one.plus_minus_m, 1),
                "lat": round(one.lat, 7),
                "lon": round(one.lon, 7),
                "method": "gps",
            }
            for name, one in [
                *((b.name, b) for b in self.bins),
                *((p.stop, p) for p in self.places),
            ]
        ]
        path.write_text("".join(csv_lines(rows, STOPS)), encoding="utf-8")


def measured(
    parsed: argparse.Namespace,
    logs: Sequence[LogRead],
    sources: Sequence[Source],
    timeline: Timeline,
) -> tuple[Timeline, Measured]:
    """Return the timeline to place frames by, made of bins if asked for, and what tracks measured.

    Raises
    ------
    ValueError
        Something that is asked for needs what was not said; says what.
    """
    if not parsed.bins and not parsed.stops_out:
        return timeline, Measured()
    if not (parsed.fixed_end or parsed.fixed_track):
        raise ValueError(
            "Distances need the other end. Say --fixed-end LAT,LON, or --fixed-track FILE."
        )
    way = Way(_points(parsed, logs), _fixed(parsed))
    if not parsed.bins:
        return timeline, Measured(places=way.places(timeline.stays))
    if timeline.stays:
        raise ValueError("--bins makes its own timeline. Say either --bins or --timeline.")
    times = [
        row.time_s for source in sources for act, row in source.told
        if act is not Act.SENT and row.time_s is not None
    ]  # fmt: skip
    bins = cut_into_bins(np.array(times, dtype=np.float64), way, _cutting(parsed.bins))
    return Timeline(one.stay for one in bins), Measured(bins=bins)


def _points(parsed: argparse.Namespace, logs: Sequence[LogRead]) -> list[Point]:
    """Return the carried end's track: the GPX file, else the positions that the logs hold."""
    if parsed.track:
        return [point_of(*one) for one in read_track(parsed.track.read_bytes())]
    fixes = [fix for log in logs for fix in log.lines.fixes]
    if len(fixes) < 2:
        raise ValueError(
            "No track: the logs hold no positions with a time. Say --track FILE.gpx, or --date for sentences without one."
        )
    return [point_of(*fix[1:]) for fix in fixes]


def _fixed(parsed: argparse.Namespace) -> Place | list[Point]:
    if parsed.fixed_track:
        return [point_of(*one) for one in read_track(parsed.fixed_track.read_bytes())]
    try:
        lat, lon = (float(part) for part in parsed.fixed_end.split(","))
        return Place(lat_deg=lat, lon_deg=lon)
    except ValueError:
        raise ValueError(
            f"--fixed-end {parsed.fixed_end}: write LAT,LON in degrees, like 54.2,7.9."
        ) from None


def _cutting(text: str) -> Cutting:
    number = text.removesuffix("m").strip()
    try:
        if text.endswith("m"):
            return Cutting(metres=float(number))
        return Cutting(frames=int(number))
    except ValueError as wrong:
        words = str(wrong) if "needs" in str(wrong) else "write 60 for frames, or 50m for metres."
        raise ValueError(f"--bins {text}: {words}") from None
