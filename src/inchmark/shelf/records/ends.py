"""Both ends of a rig's link, each item with its source or with a value of its own."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace

from inchmark.core.antenna.match import Match
from inchmark.core.antenna.polarisation import polarisation_loss_db
from inchmark.core.budget import End, Part
from inchmark.shelf.models import Rig
from inchmark.shelf.records.settings import Sensitivity, computed_sensitivity

WHAT_IF = "what if"
CARRY_NAMES = {"body": "Body", "pocket": "Pocket or bag", "vehicle": "Vehicle"}
# losses that an end may have: key, name, whether they lie on the path
LOSSES = {
    "mismatch": ("Mismatch", False),
    "housing": ("Housing", False),
    "carry": ("Carried so", False),
    "polarisation": ("Polarisation", True),
}
LOSS_KEYS = ("carried_feed", "carried_mismatch", "carried_housing", "carried_carry",
             "path_polarisation", "fixed_feed", "fixed_housing", "path")  # fmt: skip

Own = Mapping[str, tuple[float, str]]  # key -> dB as the budget adds it, source


def sensitivity_of(rig: Rig) -> Sensitivity:
    """Return the bench's measurement, the datasheet row, or noise figure plus required S/N."""
    if rig.conducted_dbm is not None:
        return Sensitivity(dbm=rig.conducted_dbm, source=rig.conducted_source)
    if rig.sensitivity_dbm is not None:
        source = rig.sensitivity_source or "datasheet, as typed"
        return Sensitivity(dbm=rig.sensitivity_dbm, source=source)
    return computed_sensitivity(rig, rig.noise_figure_db)


def own_items(rig: Rig, what_if: Mapping[str, float] | None = None) -> dict[str, tuple[float, str]]:
    """Return the items of a rig with a value of their own: kept ones, and what-ifs over them."""
    kept = {item.key: (item.db, item.source) for item in rig.budget_items.all()}
    return kept | {key: (db, WHAT_IF) for key, db in (what_if or {}).items()}


def carried_end(rig: Rig, own: Own | None = None) -> End:
    """Return the end that walks, with the rig's own items or those given."""
    end = End(
        transmit_power_dbm=rig.power_dbm,
        sensitivity_dbm=sensitivity_of(rig).dbm,
        antenna_gain_dbi=rig.antenna_gain_dbi,
        feed_loss_db=rig.feed_loss_db,
        parts=tuple(_parts(rig)),
        antenna_source=rig.antenna,
        feed_source=_source(rig.feed_part_id, rig.feed_part, "typed"),
    )
    return _with_own(end, "carried", own_items(rig) if own is None else own)


def fixed_end(rig: Rig, own: Own | None = None) -> End:
    """Return the end that stays; the same module and setting, its own antenna, feed and power."""
    end = End(
        transmit_power_dbm=rig.fixed_power_dbm,
        sensitivity_dbm=sensitivity_of(rig).dbm,
        antenna_gain_dbi=rig.fixed_gain_dbi,
        feed_loss_db=rig.fixed_feed_loss_db,
        antenna_source=rig.fixed_antenna or "typed",
        feed_source=_source(rig.fixed_feed_part_id, rig.fixed_feed_part, "typed"),
    )
    return _with_own(end, "fixed", own_items(rig) if own is None else own)


def _source(key: int | None, part: object, otherwise: str) -> str:
    return str(part) if key else otherwise


def _parts(rig: Rig) -> Iterator[Part]:
    """Yield the further losses of the carried end that are not nothing."""
    if rig.vswr is not None:
        yield Part(
            key="mismatch",
            name=f"Mismatch (VSWR {rig.vswr:.1f})",
            loss_db=Match.from_vswr(rig.vswr).mismatch_loss_db,
            source=rig.vswr_source,
        )
    if rig.housing_loss_db:
        yield Part(key="housing", name="Housing", loss_db=rig.housing_loss_db, source="typed")
    if rig.carry_loss_db:
        name = CARRY_NAMES.get(rig.carry, "Carried so")
        yield Part(key="carry", name=name, loss_db=rig.carry_loss_db, source="typed")
    angle = rig.polarisation_angle_deg
    near, far = rig.polarisation, rig.fixed_polarisation
    loss = polarisation_loss_db(near, far, angle_deg=angle)
    if loss:
        name = f"Polarisation, {angle:g}°" if near == far == "linear" else f"{near} to {far}"
        yield Part(key="polarisation", name=name, loss_db=loss, source="typed", on_path=True)


def _with_own(end: End, prefix: str, own: Own) -> End:
    """Return an end with its items replaced; a loss it did not have is added."""
    if f"{prefix}_power" in own:
        db, source = own[f"{prefix}_power"]
        end = replace(end, transmit_power_dbm=db, power_source=source)
    if f"{prefix}_antenna" in own:
        db, source = own[f"{prefix}_antenna"]
        end = replace(end, antenna_gain_dbi=db, antenna_source=source)
    if f"{prefix}_feed" in own:
        db, source = own[f"{prefix}_feed"]
        end = replace(end, feed_loss_db=-db, feed_source=source)
    parts = {part.key: part for part in end.parts}
    for key, (name, on_path) in LOSSES.items():
        at = f"path_{key}" if on_path else f"{prefix}_{key}"
        if at in own and (prefix == "carried" or not on_path):
            db, source = own[at]
            named = parts[key].name if key in parts else name
            parts[key] = Part(key=key, name=named, loss_db=-db, source=source, on_path=on_path)
    return replace(end, parts=tuple(parts[key] for key in LOSSES if key in parts))
