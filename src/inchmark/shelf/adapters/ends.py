"""Both ends of a rig's link, each item with its source or with a value of its own."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace

from inchmark.core.antenna.match import Match
from inchmark.core.antenna.polarisation import polarisation_loss_db
from inchmark.core.budget import End, EndLoss, EndName, ItemKey
from inchmark.core.threshold import HALF, Sensitivity
from inchmark.shelf.adapters.settings import computed_sensitivity
from inchmark.shelf.models import Rig

WHAT_IF = "what if"
TYPED = "typed"
CARRY_NAMES = {"body": "Body", "pocket": "Pocket or bag", "vehicle": "Vehicle"}
# further losses by end, in the order of a budget, with the name of one that only a user gave
LOSSES = {
    EndName.CARRIED: {
        ItemKey.CARRIED_MISMATCH: "Mismatch",
        ItemKey.CARRIED_HOUSING: "Housing",
        ItemKey.CARRIED_CARRY: "Carried so",
        ItemKey.POLARISATION: "Polarisation",
    },
    EndName.FIXED: {ItemKey.FIXED_MISMATCH: "Mismatch", ItemKey.FIXED_HOUSING: "Housing"},
}
Own = Mapping[ItemKey, tuple[float, str]]  # the item's value (a loss is positive), its source


def sensitivity_of(rig: Rig) -> Sensitivity:
    """Return the bench's measurement, the datasheet row, or noise figure plus required S/N."""
    if rig.conducted_dbm is not None:
        return Sensitivity(dbm=rig.conducted_dbm, loss=HALF, source=rig.conducted_source)
    return datasheet_sensitivity(rig) or computed_sensitivity(rig, rig.noise_figure_db)


def datasheet_sensitivity(rig: Rig) -> Sensitivity | None:
    """Return what the datasheet says at its packet error rate; None where it says nothing."""
    if rig.sensitivity_dbm is None:
        return None
    source = rig.sensitivity_source or "datasheet, as typed"
    return Sensitivity(
        dbm=rig.sensitivity_dbm, loss=rig.sensitivity_per_percent / 100, source=source
    )


def own_items(rig: Rig, what_if: Mapping[ItemKey, float] | None = None) -> Own:
    """Return the items of a rig with a value of their own: kept ones, and what-ifs over them."""
    kept = {ItemKey(item.key): (item.db, item.source) for item in rig.budget_items.all()}
    return kept | {key: (db, WHAT_IF) for key, db in (what_if or {}).items()}


def carried_end(rig: Rig, own: Own | None = None) -> End:
    """Return the end that walks, with the rig's own items or those given."""
    end = End(
        name=EndName.CARRIED,
        transmit_power_dbm=rig.power_dbm,
        threshold_dbm=sensitivity_of(rig).threshold_dbm,
        antenna_gain_dbi=rig.antenna_gain_dbi,
        feed_loss_db=rig.feed_loss_db,
        losses=tuple(_losses(rig)),
        antenna_source=rig.antenna,
        feed_source=str(rig.feed_part) if rig.feed_part_id else TYPED,
    )
    return _with_own(end, own_items(rig) if own is None else own)


def fixed_end(rig: Rig, own: Own | None = None) -> End:
    """Return the end that stays; the same module and setting, its own antenna, feed and power."""
    end = End(
        name=EndName.FIXED,
        transmit_power_dbm=rig.fixed_power_dbm,
        threshold_dbm=sensitivity_of(rig).threshold_dbm,
        antenna_gain_dbi=rig.fixed_gain_dbi,
        feed_loss_db=rig.fixed_feed_loss_db,
        losses=(
            ()
            if rig.fixed_vswr is None
            else (_mismatch(ItemKey.FIXED_MISMATCH, rig.fixed_vswr, rig.fixed_vswr_source),)
        ),
        antenna_source=rig.fixed_antenna or TYPED,
        feed_source=str(rig.fixed_feed_part) if rig.fixed_feed_part_id else TYPED,
    )
    return _with_own(end, own_items(rig) if own is None else own)


def _losses(rig: Rig) -> Iterator[EndLoss]:
    """Yield the further losses of the carried end that are not nothing."""
    if rig.vswr is not None:
        yield _mismatch(ItemKey.CARRIED_MISMATCH, rig.vswr, rig.vswr_source)
    angle = rig.polarisation_angle_deg
    near, far = rig.polarisation, rig.fixed_polarisation
    typed = (
        (ItemKey.CARRIED_HOUSING, "Housing", rig.housing_loss_db),
        (ItemKey.CARRIED_CARRY, CARRY_NAMES.get(rig.carry, "Carried so"), rig.carry_loss_db),
        (
            ItemKey.POLARISATION,
            f"Polarisation, {angle:g}°" if near == far == "linear" else f"{near} to {far}",
            polarisation_loss_db(near, far, angle_deg=angle),
        ),
    )
    for key, name, loss in typed:
        if loss:
            yield EndLoss(key=key, name=name, loss_db=loss, source=TYPED)


def _mismatch(key: ItemKey, vswr: float, source: str) -> EndLoss:
    loss = Match.from_vswr(vswr).mismatch_loss_db
    return EndLoss(key=key, name=f"Mismatch (VSWR {vswr:.1f})", loss_db=loss, source=source)


def _with_own(end: End, own: Own) -> End:
    """Return an end with its items replaced; a loss it did not have is added."""
    power, antenna, feed = (ItemKey.of(end.name, one) for one in ("power", "antenna", "feed"))
    if power in own:
        db, source = own[power]
        end = replace(end, transmit_power_dbm=db, power_source=source)
    if antenna in own:
        db, source = own[antenna]
        end = replace(end, antenna_gain_dbi=db, antenna_source=source)
    if feed in own:
        db, source = own[feed]
        end = replace(end, feed_loss_db=db, feed_source=source)
    known = {one.key: one for one in end.losses}
    for key, name in LOSSES[end.name].items():
        if key in own:
            db, source = own[key]
            named = known[key].name if key in known else name
            known[key] = EndLoss(key=key, name=named, loss_db=db, source=source)
    return replace(end, losses=tuple(known[key] for key in LOSSES[end.name] if key in known))
