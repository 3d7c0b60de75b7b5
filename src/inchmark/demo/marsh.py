"""What is invented.

Places in open ocean, parts named after shore plants, and what truly holds there.
"""

from __future__ import annotations

from typing import Any

TITLE = "Saltern Marsh · sluice-gate nodes"
QUESTION = "Which rig reaches the farthest sluice gate from the pump house?"
NEEDED_M = 740.0
SEED = 1414
FIXED = {"fixed_name": "pump house gateway", "lat": 47.5, "lon": -21.0, "ground_m": 3.0}
FRAMES, INTERVAL_S = 60, 5.0
ROAD_M = 1040.0  # what the road sign says of stop 8; the coordinates know better

# label, what it is, distance from the pump house, bearing in degrees, how far off it may be
STOPS = (
    ("1", "pump house steps", 25.0, 40.0, 0.5),
    ("2", "sea wall, near end", 60.0, 44.0, 1.0),
    ("3", "first creek", 120.0, 47.0, 2.0),
    ("4", "alder carr, edge", 210.0, 50.0, 3.0),
    ("5", "sea wall, landward", 330.0, 52.0, 3.0),
    ("6", "causeway bend", 480.0, 55.0, 4.0),
    ("7", "low ridge, foot", 700.0, 57.0, 5.0),
    ("8", "far sluice", 950.0, 58.0, 60.0),
)

_COMMON: dict[str, Any] = {
    "module": "Dulse L8",
    "modulation": "chirp",
    "frequency_hz": 869.525e6,
    "bandwidth_hz": 125e3,
    "power_dbm": 14.0,
    "noise_figure_db": 7.0,
    "payload_bytes": 16,
    "height_m": 0.4,
    "feed_loss_db": 0.4,
    "fixed_antenna": "half-wave whip",
    "fixed_gain_dbi": 2.15,
    "fixed_height_m": 5.0,
    "fixed_feed_loss_db": 0.8,
    "fixed_power_dbm": 14.0,
    "duty_cycle_percent": 10.0,
}
RIGS: tuple[dict[str, Any], ...] = (
    {
        **_COMMON,
        "letter": "A",
        "spreading_factor": 7,
        "antenna": "stub coil",
        "antenna_gain_dbi": -2.0,
    },
    {
        **_COMMON,
        "letter": "B",
        "spreading_factor": 7,
        "antenna": "half-wave whip",
        "antenna_gain_dbi": 2.15,
    },
    {
        **_COMMON,
        "letter": "C",
        "spreading_factor": 10,
        "antenna": "half-wave whip",
        "antenna_gain_dbi": 2.15,
    },
)

# What the simulator knows and the study has to find: level at 1 m and half-loss level [dBm].
# Iron sluice boxes and wet ground cost some 26 dB against free space at 1 m.
TRUTH = {"A": (-39.8, -122.6), "B": (-35.6, -122.6), "C": (-35.6, -130.1)}
EXPONENT, SIGMA_S_DB = 3.02, 2.1
# The bench before the walk: the stub coil on the analyser, moved away from the box's iron (mm), and
# rig A on a conducted ladder: attenuation [dB], sent, heard, at 0 dBm less 20 dB of cable.
SWEEPS = (("stub-metal", 10.0), ("stub", 60.0))
LADDER = ((96, 60, 60), (99, 60, 59), (101, 60, 52), (102, 60, 41), (103, 60, 20), (105, 60, 0))
RESET_AT = ("B", "5", 32)  # rig, stop, frame: the lead slipped and the counter started again
