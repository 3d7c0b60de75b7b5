"""Rigs as the core knows them: airtime, a prior for the link model, what differs."""

from __future__ import annotations

from collections import Counter
from typing import Any

from django.db.models import Prefetch, prefetch_related_objects

from inchmark.core.bands import BANDS, FALLBACK, Band, band_of
from inchmark.core.budget import reference_level_dbm
from inchmark.core.reading.measured import RigFacts, RigPrior
from inchmark.core.wording import level, number
from inchmark.shelf.adapters.ends import carried_end, fixed_end, sensitivity_of
from inchmark.shelf.adapters.settings import radio_setting
from inchmark.shelf.models import BudgetItem, Module, Rig
from inchmark.studies.memory import per_revision
from inchmark.studies.models import Study

__all__ = [
    "BANDS",
    "airtime_s",
    "reference_dbm",
    "rig_facts",
    "rigs_of",
    "start_frequency_hz",
    "things_of",
    "usual_band",
    "usual_frequency_hz",
]


USUAL_HZ = {"EU": 868.1e6, "US": 915.0e6}  # free bands of each region, common practice


def rigs_of(study: Study) -> list[Rig]:
    """Return a study's rigs with their parts; read once for a revision of the study.

    The rows stay with the study object, so whoever changes rigs asks the database instead.
    """

    def read() -> Any:
        prefetch_related_objects([study], Prefetch("rigs", Rig.objects.with_parts()))
        return study._prefetched_objects_cache["rigs"]  # type: ignore[attr-defined]

    found = per_revision(study, "rigs", read)
    vars(study).setdefault("_prefetched_objects_cache", {})["rigs"] = found
    return list(found)


def usual_frequency_hz(study: Study) -> float | None:
    """Return the frequency most of a study's rigs are on, else its settings, else a usual one of its region."""
    for rows in (study.rigs.all(), study.settings.filter(archived=False)):
        counted = Counter(rows.values_list("frequency_hz", flat=True))
        if counted:
            return float(counted.most_common(1)[0][0])
    return USUAL_HZ.get(study.region)


def start_frequency_hz(study: Study, module: Module | None = None) -> float | None:
    """Return the frequency a new setting or rig begins with; None where nothing speaks for one.

    The study's own, where the module can be on it; else the middle of the module's first band.
    """
    usual = usual_frequency_hz(study)
    bands = module.bands if module else []
    if not bands or (usual and any(low <= usual <= high for low, high in bands)):
        return usual
    low, high = bands[0]
    return float(low + high) / 2


def usual_band(study: Study) -> Band:
    """Return the band of a study's rigs, for what a form begins with."""
    frequency = usual_frequency_hz(study)
    return FALLBACK if frequency is None else band_of(frequency)


def airtime_s(rig: Rig) -> float:
    """Return the time on air of one frame [s]."""
    return radio_setting(rig).airtime_s


def rig_facts(rig: Rig, *, unit: str = "") -> RigFacts:
    """Return what a reading needs to know of a rig, and of the unit carried if it was one."""
    return RigFacts(
        name=rig.name,
        prior=RigPrior(
            module_type=f"{rig.module}/{rig.setting}/{rig.bandwidth_hz:g}",
            setting=rig.setting,
            unit=unit,
            sensitivity_dbm=sensitivity_of(rig).threshold_dbm,
            conducted=rig.conducted_dbm is not None,
        ),
        varied=tuple(things_of(rig)),
        reference_dbm=reference_dbm(rig) + rig.rssi_offset_db,
        to_carried_db=rig.fixed_power_dbm - rig.power_dbm,
    )


def reference_dbm(rig: Rig) -> float:
    """Return the level at the fixed end with no path between [dBm]."""
    return reference_level_dbm(carried_end(rig), fixed_end(rig))


def things_of(rig: Rig) -> list[tuple[str, str]]:
    """Return what a comparison would have to hold the same, in words: its name and its value."""
    bandwidth = f"{rig.bandwidth_hz / 1e3:.6g} kHz"
    match = "" if rig.vswr is None else f", VSWR {rig.vswr:.2f}"
    feed = f"{rig.feed_part.name} " if rig.feed_part else ""
    fixed_feed = f"{rig.fixed_feed_part.name} " if rig.fixed_feed_part else ""
    coding = f" 4/{rig.coding_rate}" if rig.modulation == Rig.CHIRP else ""
    fixed_match = "" if rig.fixed_vswr is None else f", VSWR {rig.fixed_vswr:.2f}"
    fixed = f"{rig.fixed_antenna or 'unnamed'} {number(rig.fixed_gain_dbi, 2)} dBi{fixed_match}, {fixed_feed}{number(rig.fixed_feed_loss_db, 2)} dB feed"
    return [
        ("module", rig.module),
        ("setting", f"{rig.setting} {bandwidth}{coding}"),
        ("frequency", f"{rig.frequency_hz / 1e6:.9g} MHz"),
        ("transmit power", level(rig.power_dbm)),
        ("antenna", f"{rig.antenna} {number(rig.antenna_gain_dbi, 2)} dBi{match}"),
        ("feed", f"{feed}{number(rig.feed_loss_db, 2)} dB"),
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
