"""The rules a range is read under, and what the data must hold before an estimate is given."""

from __future__ import annotations

from dataclasses import dataclass

from inchmark.core.checks import fraction, within

MIN_STOPS_EXPONENT = 3
MIN_STOPS_SHADOWING = 5
MIN_SPREAD_EXPONENT = 2.0  # farthest over nearest stop; below this a slope is the prior's
WANTED_SPREAD_EXPONENT = 4.0  # below this the prior still speaks, and a note says so
EDGE_LOSS = (0.02, 0.98)  # a visit whose loss limits lie inside shows the edge
BRACKET_LOSS = (0.05, 0.95)  # a visit below and one above bracket it
EXTRAPOLATION = 1.5  # times the farthest stop
FEW_FRAMES = 29  # zero lost of 29 shows a loss under 10 % at 95 %
SURVIVOR_DB = 1.0  # the mean of heard frames reads high by as much: worth a note and a mark
DOUBTFUL_DB, DOUBTFUL_SHARE = 1.0, 0.05  # a distance off by as much is worth measuring again
GUESSED_METHODS = ("guess", "road", "pace", "paced", "guessed", "map by eye")
BURSTY_TAU = 4.0  # frames worth one independent frame from which losses are called bursty
USUAL_EXPONENT = 3.0  # of the path, outdoors near the ground, until the walk knows; common practice
FEW_VISITS_TAU = 4  # fewer visits leave tau itself uncertain

WORSE, EXCHANGE = "worse", "exchange"
BEST, ANY = "best", "any"


@dataclass(frozen=True, slots=True, kw_only=True)
class RangeRules:
    """Loss rule: at most `loss` of frames lost at `places` of places; in-hand rule: dB above threshold.

    `direction` says what must arrive where both directions were walked: the worse of both, an
    exchange, or one of them by name; `receiver` which receiver: the best one, any, or one by name.
    With `own_noise` each link is judged at the median noise of its own visits, not at one noise for
    all.
    """

    loss: float = 0.1
    places: float = 0.9
    in_hand_db: float = 10.0
    direction: str = WORSE
    receiver: str = BEST
    own_noise: bool = False

    def __post_init__(self) -> None:
        """Refuse shares outside 0 to 1."""
        fraction("loss", self.loss)
        fraction("places", self.places)
        within("in_hand_db", self.in_hand_db, 0, 60)

    @property
    def words(self) -> str:
        """Return the loss rule in words."""
        return f"farthest distance where {_in_ten(self.places)} places lose at most {_in_ten(self.loss)} frames"


def _in_ten(share: float) -> str:
    tenths = share * 10
    if abs(tenths - round(tenths)) < 1e-9:
        return f"{round(tenths)} of 10"
    return f"{share * 100:g} of 100"
