"""How far single frames spread about the mean of a visit, said once for all that count with it.

===========  ================  ===============================================================
symbol       name here         meaning
===========  ================  ===============================================================
sigma_f      FADING_DB         levels of single frames at one place, outdoors near the ground
w            WATERFALL_DB      softness of the receiver's edge: loss against level on a cable
s            FRAME_SPREAD_DB   both together: how a visit's loss falls with its mean level
===========  ================  ===============================================================

Source: the prior medians of the link model (method, section 3). A walk measures its own.
"""

from math import hypot

FADING_DB = 3.0
WATERFALL_DB = 1.2
FRAME_SPREAD_DB = hypot(FADING_DB, WATERFALL_DB)
