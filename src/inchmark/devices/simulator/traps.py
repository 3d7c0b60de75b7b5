"""What goes wrong on a real walk, each by name, so that a test or a learner can ask for it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

TRAPS = {
    "bursts": "frames are lost several in a row, at any level",
    "interference": "another network raises the noise by 12 dB for a third of the walk",
    "saturation": "levels above -30 dBm read -30, and half of those frames are lost",
    "restart": "the first board starts anew in the middle; its counter with it",
    "relay": "a second node repeats the first board's frames that were not heard",
    "reply": "each frame is a question: the far end answers, and keeps a log of its own",
    "receivers": "a second receiver stands beside the first, 6 dB deafer",
    "gps": "the carrier prints where it is, once a second",
}
BURST_BEGINS, BURST_ENDS = 0.02, 0.25  # by frame: a burst takes four frames on average
NOISE_UP_DB = 12.0
CLIP_DBM, CLIP_LOSS = -30.0, 0.5
RELAY_LOSS_DB = 85.0  # from the relay to the fixed end
SECOND_RECEIVER_DB = 6.0


def named(text: str) -> frozenset[str]:
    """Return traps written with commas between.

    Raises
    ------
    ValueError
        One is none; names those there are.
    """
    found = frozenset(part.strip() for part in text.split(",") if part.strip())
    if unknown := sorted(found - TRAPS.keys()):
        raise ValueError(f"“{unknown[0]}” is no trap. There are {', '.join(TRAPS)}.")
    return found


@dataclass(slots=True)
class Bursts:
    """Two states of the air, good and bad; in the bad one nothing gets through."""

    random: np.random.Generator
    on: bool
    bad: bool = False

    def lost(self) -> bool:
        """Step by one frame, and tell whether it is lost."""
        if not self.on:
            return False
        turn = BURST_ENDS if self.bad else BURST_BEGINS
        if self.random.random() < turn:
            self.bad = not self.bad
        return self.bad
