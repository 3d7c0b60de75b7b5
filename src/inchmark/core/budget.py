"""The link budget: a ladder of dB from a transmitter to what a receiver has in hand."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from inchmark.core.checks import floats, within
from inchmark.core.propagation.log_distance import LogDistanceLaw


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """A further loss of an end [dB, 0 and up]: mismatch, housing; `on_path` for polarisation."""

    key: str
    name: str
    loss_db: float
    source: str
    on_path: bool = False

    def __post_init__(self) -> None:
        """Refuse a loss that would be a gain."""
        within(self.key, self.loss_db, 0, np.inf)


@dataclass(frozen=True, slots=True, kw_only=True)
class End:
    """One end of a link as a radio: power and sensitivity [dBm], gain [dBi], losses [dB]."""

    transmit_power_dbm: float
    sensitivity_dbm: float
    antenna_gain_dbi: float = 0.0
    feed_loss_db: float = 0.0
    parts: tuple[Part, ...] = ()
    power_source: str = "setting"
    antenna_source: str = "typed"
    feed_source: str = "typed"

    def __post_init__(self) -> None:
        """Refuse what is not a number, and a loss that would be a gain."""
        floats("end", (self.transmit_power_dbm, self.sensitivity_dbm, self.antenna_gain_dbi))
        if not self.feed_loss_db >= 0:
            raise ValueError(f"feed_loss_db={self.feed_loss_db!r} must not be negative")

    def items(self, place: str) -> tuple[Item, ...]:
        """Return feed, antenna and further losses of this end, as seen from its radio outwards."""
        own = [part for part in self.parts if not part.on_path]
        return (
            Item(key=f"{place}_feed", name="Feed and connectors", db=-self.feed_loss_db,
                 source=self.feed_source, place=place),
            *(part_item(part, place) for part in own if part.key == "mismatch"),
            Item(key=f"{place}_antenna", name="Antenna", db=self.antenna_gain_dbi,
                 source=self.antenna_source, place=place),
            *(part_item(part, place) for part in own if part.key != "mismatch"),
        )  # fmt: skip


def part_item(part: Part, place: str) -> Item:
    """Return a further loss as a rung."""
    return Item(
        key=f"{place}_{part.key}", name=part.name, db=-part.loss_db, source=part.source, place=place
    )


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
    on_path = [part for end in (sender, receiver) for part in end.parts if part.on_path]
    items = (
        Item(key="power", name="Transmit power", db=sender.transmit_power_dbm,
             source=sender.power_source, place="sender"),
        *sender.items("sender"),
        Item(key="path", name="Path", db=-path_loss_db, source=path_source, place="path"),
        *(part_item(part, "path") for part in on_path),
        *reversed(receiver.items("receiver")),
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


def connector_power_dbm(sender: End) -> float:
    """Return the power that enters the antenna [dBm]: less feed and mismatch loss."""
    mismatch = sum(part.loss_db for part in sender.parts if part.key == "mismatch")
    return sender.transmit_power_dbm - sender.feed_loss_db - mismatch


def radiated_power_dbm(sender: End) -> float:
    """Return the e.i.r.p. [dBm]: what enters the antenna plus its gain over isotropic.

    A housing is left out: it may be taken off.
    """
    return connector_power_dbm(sender) + sender.antenna_gain_dbi
