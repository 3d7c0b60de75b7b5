"""The table of `inchmark bridge` on a terminal: what each source brings, while it runs."""

from __future__ import annotations

import time
from collections.abc import Callable

from rich.console import Console
from rich.live import Live
from rich.table import Table

from inchmark.devices.bridge.bridge import Bridge

LOOK_S = 0.5
QUIET_S = 10.0  # after which a source's silence is shown
HEADS = ("source", "lines", "frames", "last RSSI", "silent", "unsent")


def table_of(bridge: Bridge) -> Table:
    """Return the table as it stands now."""
    table = Table(*HEADS)
    for column in table.columns[1:]:
        column.justify = "right"
    rows, counts = bridge.tallies.rows(), bridge.spool.counts()
    for source in bridge.sources:
        lines, frames, rssi, silent = rows.get(source.name, (0, None, None, 0.0))
        table.add_row(
            f"{source.name} ({source.words})",
            str(lines),
            "–" if frames is None else str(frames),
            "–" if rssi is None else f"{rssi:.0f} dBm",
            f"{silent:.0f} s" if lines and silent >= QUIET_S else "",
            str(counts.get(source.name, (0, 0))[1]) if bridge.sender else "kept here",
        )
    return table


def show(bridge: Bridge) -> Callable[[str], None]:
    """Show the table until the bridge stops, from a thread of its own; return how to say a line above it."""
    console = Console(stderr=True)
    live = Live(console=console, auto_refresh=False, get_renderable=lambda: table_of(bridge))

    def run() -> None:
        with live:
            while not bridge.stop.is_set():
                live.refresh()
                time.sleep(LOOK_S)
            live.refresh()

    bridge.beside(run)
    return lambda words: console.print(words, markup=False, highlight=False)
