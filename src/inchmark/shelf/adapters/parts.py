"""Parts as the core knows them: feeds, connector chains, batteries."""

from __future__ import annotations

from dataclasses import dataclass

from inchmark.core.antenna.loops import loop_gain_dbi
from inchmark.core.energy import Battery as CoreBattery
from inchmark.core.feed.connectors import Connector, Joint, Piece, chain_problems, connector_names
from inchmark.core.feed.loss import Cable, feed_loss_db, link_loss_db
from inchmark.shelf.models import Antenna, Battery, Feed, Module, Rig

CONNECTORS = connector_names()


@dataclass(frozen=True, slots=True, kw_only=True)
class FeedFigures:
    """Loss of a feed [dB] at a frequency, and whether the cable's table reaches it."""

    loss_db: float
    frequency_hz: float
    covered: bool


def feed_figures(feed: Feed, frequency_hz: float) -> FeedFigures:
    """Return what a feed loses at a frequency [Hz]."""
    cable = Cable(rows=[(f, loss) for f, loss in feed.cable_rows]) if feed.cable_rows else None
    loss = feed_loss_db(
        cable,
        frequency_hz,
        length_m=feed.length_m,
        joints=feed.joints,
        joint_loss_db=feed.joint_loss_db,
    )
    covered = cable.covers(frequency_hz) if cable else not feed.length_m
    loss += sum(link_loss_db(db, at_hz, frequency_hz) for _, _, _, db, at_hz in feed.links)
    return FeedFigures(loss_db=loss, frequency_hz=frequency_hz, covered=covered)


def gain_of(antenna: Antenna, frequency_hz: float) -> float:
    """Return an antenna's gain [dBi]; of a loop or rod what stands in for it at a frequency [Hz]."""
    if antenna.gain_dbi is not None:
        return antenna.gain_dbi
    radius = (antenna.loop_diameter_m or 0.0) / 2
    return loop_gain_dbi(radius, frequency_hz, antenna.quality)


def core_battery(battery: Battery) -> CoreBattery:
    """Return a battery as the core knows it."""
    return CoreBattery(
        capacity_ah=battery.capacity_ah,
        usable_share=battery.usable_percent / 100,
        self_discharge_per_year=battery.self_discharge_percent / 100,
    )


def chain_of(rig: Rig) -> list[tuple[str, Joint]]:
    """Return the joints of a rig that make no link, each with the end or ends it is at."""
    carried = _chain(rig.module_part, rig.feed_part, rig.antenna_part)
    fixed = _chain(rig.module_part, rig.fixed_feed_part, rig.fixed_antenna_part)
    both = [joint for joint in carried if joint in fixed]
    return [
        *(("both ends", joint) for joint in both),
        *(("carried end", joint) for joint in carried if joint not in both),
        *(("fixed end", joint) for joint in fixed if joint not in both),
    ]


def _chain(module: Module | None, feed: Feed | None, antenna: Antenna | None) -> list[Joint]:
    pieces = []
    if module:
        at = Connector.from_key(module.connector)
        pieces.append(Piece(name=module.name, near=None, far=at))
    if feed:
        near, far = map(Connector.from_key, (feed.near_connector, feed.far_connector))
        pieces.append(Piece(name=feed.name, near=near, far=far, impedance_ohm=feed.impedance_ohm))
        for name, at_radio, at_antenna, _, _ in feed.links:
            near, far = map(Connector.from_key, (at_radio, at_antenna))
            pieces.append(Piece(name=name, near=near, far=far, impedance_ohm=feed.impedance_ohm))
    if antenna:
        at = Connector.from_key(antenna.connector)
        ohm = antenna.impedance_ohm
        pieces.append(Piece(name=antenna.name, near=at, far=None, impedance_ohm=ohm))
    return chain_problems(pieces)
