"""A word of warning while there is still room to act on it."""

from __future__ import annotations

import shutil
import time
from pathlib import Path

from launch.say import say

EVERY_S = 60.0
LITTLE_BYTES = 2 * 2**30


class DiskWatch:
    """Looks at the free space beside the data once a minute; says when it is little, and when not."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.next_look = 0.0
        self.warned = False

    def look(self) -> None:
        """Warn once when it has become little."""
        if time.monotonic() < self.next_look:
            return
        self.next_look = time.monotonic() + EVERY_S
        free = shutil.disk_usage(self.folder).free
        if free < LITTLE_BYTES and not self.warned:
            say(
                f"The disk of {self.folder} has {free / 2**20:.0f} MB left. Make room: when it is "
                "full, nothing more can be kept until there is."
            )
        self.warned = free < LITTLE_BYTES
