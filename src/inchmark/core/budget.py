"""The link budget: a ladder of dB from a transmitter to what a receiver has in hand."""

from __future__ import annotations

from dataclasses import dataclass

from inchmark.core.checks import floats
from inchmark.core.propagation.log_distance import LogDistanceLaw


@dataclass(frozen=True, slots=True, kw_only=True)
class End:
    """One end of a link as a radio: power and sensitivity [dBm], gain [dBi], losses [dB]."""

    transmit_power_dbm: float
    sensitivity_dbm: float
    antenna_gain_dbi: float = 0.0
    feed_loss_db: float = 0.0

    def __post_init__(self) -> None:
        """Refuse what is not a number, and a loss that would be a gain."""
        floats("end", (self.transmit_power_dbm, self.sensitivity_dbm, self.antenna_gain_dbi))
        if not self.feed_loss_db >= 0:
            raise ValueError(f"feed_loss_db={self.feed_loss_db!r} must not be negative")


@dataclass(frozen=True, slots=True, kw_only=True)
class Item:
    """One rung: what it is, what it adds [dB; a loss is negative here], where it came from."""

    key: str
    name: str
    db: float
    source: str
    place: str  # "sender", "path" or "receiver"


@dataclass(frozen=True, slots=True, kw_only=True)
class Budget:
    """A ladder of items and the level at which half of the frames are lost [dBm]."""

    items: tuple[Item, ...]
    threshold_dbm: float

    @property
    def arriving_dbm(self) -> float:
        """Return the level at the receiver input [dBm]."""
        return sum(item.db for item in self.items)

    @property
    def in_hand_db(self) -> float:
        """Return how far above the threshold the level arrives [dB]."""
        return self.arriving_dbm - self.threshold_dbm


def link_budget(sender: End, receiver: End, *, path_loss_db: float, path_source: str) -> Budget:
    """Return the ladder of one direction; swap the ends for the other one."""
    items = (
        Item(key="power", name="Transmit power", db=sender.transmit_power_dbm,
             source="setting", place="sender"),
        Item(key="sender_feed", name="Feed and connectors", db=-sender.feed_loss_db,
             source="typed", place="sender"),
        Item(key="sender_antenna", name="Antenna", db=sender.antenna_gain_dbi,
             source="typed", place="sender"),
        Item(key="path", name="Path", db=-path_loss_db, source=path_source, place="path"),
        Item(key="receiver_antenna", name="Antenna", db=receiver.antenna_gain_dbi,
             source="typed", place="receiver"),
        Item(key="receiver_feed", name="Feed and connectors", db=-receiver.feed_loss_db,
             source="typed", place="receiver"),
    )  # fmt: skip
    return Budget(items=items, threshold_dbm=receiver.sensitivity_dbm)


def allowed_path_loss_db(sender: End, receiver: End, *, keep_db: float = 0.0) -> float:
    """Return the loss [dB] the path may have with `keep_db` left in hand."""
    return link_budget(sender, receiver, path_loss_db=0.0, path_source="").in_hand_db - keep_db


def budget_range_m(
    sender: End, receiver: End, law: LogDistanceLaw, *, keep_db: float = 0.0
) -> float:
    """Return the distance [m] at which a path law uses the budget up, `keep_db` kept back."""
    return float(law.distance_m(allowed_path_loss_db(sender, receiver, keep_db=keep_db)))


def radiated_power_dbm(sender: End) -> float:
    """Return the e.i.r.p. [dBm]: power less feed loss plus antenna gain over isotropic."""
    return sender.transmit_power_dbm - sender.feed_loss_db + sender.antenna_gain_dbi
