"""What is invented.

Places in open ocean, parts named after shore plants, and what truly holds there.
"""

from __future__ import annotations

from typing import Any

TITLE = "Saltern Marsh · sluice-gate nodes"
QUESTION = "Which rig reaches the farthest sluice gate from the pump house?"
NEEDED_M = 740.0
SEED = 1414
FIXED = {
    "fixed_name": "pump house gateway",
    "lat": 47.5,
    "lon": -21.0,
    "ground_m": 3.0,
    "model": "terrain",
    "ground": "wet ground",
}
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

# the rigs by the names of their parts on the starter shelf: letter, setting, antenna
RIGS = (
    ("A", "SF7 125 kHz", "stub coil"),
    ("B", "SF7 125 kHz", "half-wave whip"),
    ("C", "SF10 125 kHz", "half-wave whip"),
)
CARRIED_UNIT, FIXED_UNIT = "L8-11", "L8-12"
HEIGHT_M, FIXED_HEIGHT_M = 0.4, 5.0

# A node stands in an iron sluice box, which costs so much [dB]; the fixed end stands free.
BOX_DB = 33.0
# What the simulator knows and the study has to find: level with no path between and half-loss
# level [dBm]. Paths lose what Plan computes over the terrain, and what the places add.
TRUTH = {"A": (-20.6, -122.6), "B": (-16.3, -122.6), "C": (-16.3, -132.2)}
SIGMA_S_DB = 2.1
# The bench before the walk: the stub coil on the analyser, moved away from the box's iron (mm), and
# rig A on a conducted ladder: attenuation [dB], sent, heard, at 0 dBm less 20 dB of cable.
SWEEPS = (("stub-metal", 10.0, "metal"), ("stub", 60.0, "free"))
LADDER = ((96, 60, 60), (99, 60, 59), (101, 60, 52), (102, 60, 41), (103, 60, 20), (105, 60, 0))
RESET_AT = ("B", "5", 32)  # rig, stop, frame: the lead slipped and the counter started again
# centring of rig A's receiver: offset [Hz], sent, heard
OFFSETS = (
    (-34e3, 20, 0),
    (-31e3, 20, 2),
    (-28e3, 20, 17),
    (-20e3, 20, 20),
    (0.0, 20, 20),
    (20e3, 20, 20),
    (34e3, 20, 20),
    (37e3, 20, 14),
    (40e3, 20, 3),
    (43e3, 20, 0),
)
# close range at 3 m, 0 dBm: unit, RSSI parallel, crossed, known to be good
CLOSE = (
    {"unit": "L8-11", "parallel_dbm": -44.0, "crossed_dbm": -58.0, "good": True},
    {"unit": "L8-12", "parallel_dbm": -45.0, "crossed_dbm": -60.0, "good": True},
    {"unit": "L8-13", "parallel_dbm": -43.5, "crossed_dbm": -57.0, "good": True},
    {"unit": "L8-40", "parallel_dbm": -58.0, "crossed_dbm": -61.0, "good": False},
)
# one message of rig A as the meter sees it: seconds, amperes
MESSAGE = (
    (0.6, 2.3e-6),
    (0.009, 3.1e-3),
    (0.052, 38.6e-3),
    (0.95, 1.4e-6 + 1.1e-3),
    (0.033, 5.6e-3),
    (0.6, 2.3e-6),
)
MESSAGES, TRACE_STEP_S = 3, 5e-4

# terrain around the pump house, an ESRI ASCII grid: a sea wall, a causeway, a carr, a low ridge
TERRAIN_CELLS, TERRAIN_STEP_DEG = 120, 0.00015

# the sluice gates that need a node: metres and degrees from the pump house
GATES = (
    (95, 20),
    (140, 62),
    (190, 35),
    (260, 58),
    (310, 22),
    (380, 44),
    (430, 66),
    (505, 30),
    (540, 52),
    (590, 14),
    (620, 60),
    (660, 40),
    (700, 26),
    (740, 54),
)
# what is drawn on the map: name, metres from the pump house, between two bearings [degrees]
ARCS = (
    ("sea wall", 62.0, 0.0, 100.0),
    ("first creek", 125.0, 0.0, 95.0),
    ("causeway", 480.0, 5.0, 82.0),
    ("low ridge", 820.0, 15.0, 72.0),
)
CARR = ((200, 26), (235, 24), (255, 32), (230, 39), (198, 36))  # corners of the alder carr

# The second walk: both directions logged, a second receiver on the barn, whose antenna stands lower,
# and each rig also laid flat, which costs the upright whip far more than the coil.
SECOND_RIGS, SECOND_STOPS, SECOND_FRAMES = ("A", "B"), ("2", "4", "5", "6", "7", "8"), 40
BARN = ("R1", "roof of the barn", 160.0, 75.0)  # label, name, distance, bearing
BARN_DB, BACK_DB = -2.0, 3.0  # at the barn, beside its path; from the fixed end to the carried one
BARN_M = 4.0  # the height of its antenna
LAID_FLAT, LAID_FLAT_DB = "laid flat", {"A": 2.0, "B": 11.0}
RELAYED_AT, RELAYED, RELAY_DBM = ("A", "8"), 12, -71  # rig and stop, frames, the relay's level

# what is said of each walk
FIRST_WALK: dict[str, Any] = {
    "name": "saltern-marsh.csv",
    "rigs": "".join(letter for letter, _, _ in RIGS),
    "people": "two people, one on the sea wall",
    "weather": "dry, 9 °C, light wind, ebb",
    "frames_per_visit": FRAMES,
}
SECOND_WALK: dict[str, Any] = {
    "name": "both-ways.csv",
    "rigs": "".join(SECOND_RIGS),
    "people": "the same two, each end logging",
    "weather": "overcast, 7 °C, calm, flood",
    "frames_per_visit": SECOND_FRAMES,
}
