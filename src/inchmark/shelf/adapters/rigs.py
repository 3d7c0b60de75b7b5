"""Rigs as the core knows them: airtime, a prior for the link model, what differs."""

from __future__ import annotations

from django.db.models import Prefetch, prefetch_related_objects

from inchmark.core.budget import reference_level_dbm
from inchmark.core.link_model.data import RigPrior
from inchmark.core.reading.measured import RigFacts
from inchmark.core.wording import level, number
from inchmark.shelf.adapters.ends import carried_end, fixed_end, sensitivity_of
from inchmark.shelf.adapters.settings import radio_setting
from inchmark.shelf.models import BudgetItem, Rig
from inchmark.studies.models import Study


def rigs_of(study: Study) -> list[Rig]:
    """Return a study's rigs with their parts; read once for a page and the tape above it.

    The rows stay with the study object, so whoever changes rigs asks the database instead.
    """
    prefetch_related_objects([study], Prefetch("rigs", Rig.objects.with_parts()))
    return list(study.rigs.all())


def airtime_s(rig: Rig) -> float:
    """Return the time on air of one frame [s]."""
    return radio_setting(rig).airtime_s


def rig_facts(rig: Rig) -> RigFacts:
    """Return what a reading needs to know of a rig."""
    return RigFacts(
        name=rig.name,
        prior=RigPrior(
            module_type=f"{rig.module}/{rig.setting}/{rig.bandwidth_hz:g}",
            sensitivity_dbm=sensitivity_of(rig).threshold_dbm,
            conducted=rig.conducted_dbm is not None,
        ),
        varied=tuple(_varied(rig)),
        reference_dbm=reference_dbm(rig) + rig.rssi_offset_db,
    )


def reference_dbm(rig: Rig) -> float:
    """Return the level at the fixed end with no path between [dBm]."""
    return reference_level_dbm(carried_end(rig), fixed_end(rig))


def _varied(rig: Rig) -> list[tuple[str, str]]:
    """Return what a comparison would have to hold the same, in words."""
    bandwidth = f"{rig.bandwidth_hz / 1e3:.6g} kHz"
    coding = f" 4/{rig.coding_rate}" if rig.modulation == Rig.CHIRP else ""
    fixed = f"{rig.fixed_antenna or 'unnamed'} {number(rig.fixed_gain_dbi, 2)} dBi, {number(rig.fixed_feed_loss_db, 2)} dB feed"
    return [
        ("module", rig.module),
        ("setting", f"{rig.setting} {bandwidth}{coding}"),
        ("frequency", f"{rig.frequency_hz / 1e6:.9g} MHz"),
        ("transmit power", level(rig.power_dbm)),
        ("antenna", f"{rig.antenna} {number(rig.antenna_gain_dbi, 2)} dBi"),
        ("feed", f"{number(rig.feed_loss_db, 2)} dB"),
        ("housing", f"{number(rig.housing_loss_db)} dB"),
        ("polarisation", f"{rig.polarisation_angle_deg:g}°"),
        ("carried", f"{rig.get_carry_display() or 'free'} {number(rig.carry_loss_db)} dB"),
        ("height", f"{rig.height_m:g} m"),
        ("fixed antenna", fixed),
        ("fixed height", f"{rig.fixed_height_m:g} m"),
        ("budget items", ", ".join(map(_item_words, rig.budget_items.all())) or "none"),
    ]


def _item_words(item: BudgetItem) -> str:
    return f"{item.get_key_display()} {number(item.db, sign=True)} dB"
