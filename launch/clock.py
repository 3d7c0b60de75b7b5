"""A word when the machine's clock jumps: what is told by it changes with it."""

from __future__ import annotations

import time
from collections.abc import Callable

from launch.say import say

JUMP_S = 60.0


class ClockWatch:
    """Holds the clock of the day against one that only goes forward, and says when they part."""

    def __init__(
        self,
        of_day: Callable[[], float] = time.time,
        steady: Callable[[], float] = time.monotonic,
    ) -> None:
        self.of_day, self.steady = of_day, steady
        self.apart = of_day() - steady()

    def look(self) -> None:
        """Say once by how much the clock has jumped since the last look."""
        apart = self.of_day() - self.steady()
        jump, self.apart = apart - self.apart, apart
        if abs(jump) >= JUMP_S:
            way = "forward" if jump > 0 else "back"
            say(
                f"The clock of this machine jumped {way} by {span(abs(jump))}. Nothing is lost. Times that the "
                "boards logged themselves stay as they are; a console without times, links that end "
                "and who changed what go by the new time. Set the clock before the walk goes on."
            )


def span(seconds: float) -> str:
    """Return a length of time in the unit one would say it in."""
    if seconds < 2 * 3600:
        return f"{seconds / 60:.0f} min"
    return f"{seconds / 3600:.0f} h" if seconds < 48 * 3600 else f"{seconds / 86400:.0f} days"
