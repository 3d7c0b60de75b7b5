"""The link budget: dB from a transmitter to what a receiver has in hand, its link margin.

A budget's item is an end and a quantity. Losses are positive everywhere; `adds_db` turns the sign,
once, for what is summed and drawn.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from inchmark.core.checks import floats, within

SENDER, PATH, RECEIVER = "sender", "path", "receiver"


class EndName(StrEnum):
    """Which end of the link, or the path between."""

    CARRIED = "carried"
    FIXED = "fixed"
    PATH = "path"


class ItemKey(StrEnum):
    """An item of a budget: an end and a quantity."""

    CARRIED_POWER = "carried_power"
    CARRIED_FEED = "carried_feed"
    CARRIED_MISMATCH = "carried_mismatch"
    CARRIED_ANTENNA = "carried_antenna"
    CARRIED_HOUSING = "carried_housing"
    CARRIED_CARRY = "carried_carry"
    POLARISATION = "path_polarisation"
    FIXED_POWER = "fixed_power"
    FIXED_FEED = "fixed_feed"
    FIXED_MISMATCH = "fixed_mismatch"
    FIXED_ANTENNA = "fixed_antenna"
    FIXED_HOUSING = "fixed_housing"
    PATH = "path"

    @classmethod
    def of(cls, end: EndName, quantity: str) -> ItemKey:
        """Return the item of an end and a quantity."""
        return cls(f"{end.value}_{quantity}")

    @property
    def end(self) -> EndName:
        """Return the end it belongs to, or the path."""
        return EndName(self.value.partition("_")[0])

    @property
    def is_loss(self) -> bool:
        """Tell whether it takes away: all but power and antenna gain do."""
        return not self.value.endswith(("_power", "_antenna"))

    def adds_db(self, db: float) -> float:
        """Return what a value of this item adds to the level [dB]."""
        return -db if self.is_loss else db


@dataclass(frozen=True, slots=True, kw_only=True)
class EndLoss:
    """A further loss of an end [dB, 0 and up]: mismatch, housing, how it is carried, polarisation."""

    key: ItemKey
    name: str
    loss_db: float
    source: str

    def __post_init__(self) -> None:
        """Refuse a loss that would be a gain."""
        within(self.key.value, self.loss_db, 0, np.inf)

    @property
    def on_path(self) -> bool:
        """Tell whether it lies between the ends, like crossed polarisation."""
        return self.key.end is EndName.PATH


@dataclass(frozen=True, slots=True, kw_only=True)
class End:
    """One end of a link as a radio: power and threshold [dBm], gain [dBi], losses [dB]."""

    name: EndName
    transmit_power_dbm: float
    threshold_dbm: float
    antenna_gain_dbi: float = 0.0
    feed_loss_db: float = 0.0
    losses: tuple[EndLoss, ...] = ()
    power_source: str = "setting"
    antenna_source: str = "typed"
    feed_source: str = "typed"

    def __post_init__(self) -> None:
        """Refuse what is not a number, and a loss that would be a gain."""
        floats("end", (self.transmit_power_dbm, self.threshold_dbm, self.antenna_gain_dbi))
        within("feed_loss_db", self.feed_loss_db, 0, np.inf)

    @property
    def mismatch_loss_db(self) -> float:
        """Return what the antenna's match sends back [dB]."""
        return sum(one.loss_db for one in self.losses if one.key.value.endswith("_mismatch"))

    def items(self, place: str) -> tuple[Item, ...]:
        """Return feed, antenna and further losses of this end, as seen from its radio outwards."""
        own = [one for one in self.losses if not one.on_path]
        mismatch = [one for one in own if one.key.value.endswith("_mismatch")]
        feed_key, antenna_key = (ItemKey.of(self.name, of) for of in ("feed", "antenna"))
        loss, name, source = self.feed_loss_db, "Feed and connectors", self.feed_source
        feed = EndLoss(key=feed_key, name=name, loss_db=loss, source=source)
        gain, source = self.antenna_gain_dbi, self.antenna_source
        antenna = Item(key=antenna_key, name="Antenna", db=gain, source=source, place=place)
        return (
            loss_item(feed, place),
            *(loss_item(one, place) for one in mismatch),
            antenna,
            *(loss_item(one, place) for one in own if one not in mismatch),
        )


def loss_item(loss: EndLoss, place: str) -> Item:
    """Return a further loss as an item."""
    return Item(key=loss.key, name=loss.name, db=loss.loss_db, source=loss.source, place=place)


@dataclass(frozen=True, slots=True, kw_only=True)
class Item:
    """One item: what it is, its value [dB, dBi, dBm; a loss is positive], where it came from."""

    key: ItemKey
    name: str
    db: float
    source: str
    place: str  # SENDER, PATH or RECEIVER in this direction

    @property
    def adds_db(self) -> float:
        """Return what it adds to the level [dB]."""
        return self.key.adds_db(self.db)


@dataclass(frozen=True, slots=True, kw_only=True)
class Budget:
    """The items of one direction, and the level at which half of the frames are lost [dBm]."""

    items: tuple[Item, ...]
    threshold_dbm: float

    @property
    def arriving_dbm(self) -> float:
        """Return the level at the receiver input [dBm]."""
        return sum(item.adds_db for item in self.items)

    @property
    def in_hand_db(self) -> float:
        """Return how far above the threshold the level arrives [dB]."""
        return self.arriving_dbm - self.threshold_dbm


def link_budget(sender: End, receiver: End, *, path_loss_db: float, path_source: str) -> Budget:
    """Return the items of one direction; swap the ends for the other one."""
    on_path = [one for end in (sender, receiver) for one in end.losses if one.on_path]
    power = Item(
        key=ItemKey.of(sender.name, "power"),
        name="Transmit power",
        db=sender.transmit_power_dbm,
        source=sender.power_source,
        place=SENDER,
    )
    path = Item(key=ItemKey.PATH, name="Path", db=path_loss_db, source=path_source, place=PATH)
    items = (
        power,
        *sender.items(SENDER),
        path,
        *(loss_item(one, PATH) for one in on_path),
        *reversed(receiver.items(RECEIVER)),
    )
    return Budget(items=items, threshold_dbm=receiver.threshold_dbm)


def allowed_path_loss_db(sender: End, receiver: End, *, keep_db: float = 0.0) -> float:
    """Return the loss [dB] the path may have with `keep_db` left in hand."""
    return link_budget(sender, receiver, path_loss_db=0.0, path_source="").in_hand_db - keep_db


def reference_level_dbm(sender: End, receiver: End) -> float:
    """Return the level at the receiver with no path between [dBm]."""
    return link_budget(sender, receiver, path_loss_db=0.0, path_source="").arriving_dbm


def connector_power_dbm(sender: End) -> float:
    """Return the power that enters the antenna [dBm]: less feed and mismatch loss."""
    return sender.transmit_power_dbm - sender.feed_loss_db - sender.mismatch_loss_db


def radiated_power_dbm(sender: End) -> float:
    """Return the e.i.r.p. [dBm]: what enters the antenna plus its gain over isotropic.

    A housing is left out: it may be taken off.
    """
    return connector_power_dbm(sender) + sender.antenna_gain_dbi
