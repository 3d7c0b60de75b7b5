"""Verbs on rigs: put one on the shelf, change it, copy it, take it off."""

from __future__ import annotations

from itertools import count
from string import ascii_uppercase

from django.core.exceptions import ValidationError
from django.db import transaction
from django.db.models import ProtectedError

from inchmark.core.wording import listed
from inchmark.shelf.adapters.parts import feed_figures, gain_of
from inchmark.shelf.adapters.settings import datasheet_row
from inchmark.shelf.adapters.sweeps import match_at
from inchmark.shelf.models import Antenna, Module, Rig, Setting, SettingFields, Sweep
from inchmark.shelf.services.levels import follow_ladder
from inchmark.studies.models import Removed, Study
from inchmark.studies.services import touch
from inchmark.studies.services.undo import take_away

HIGHEST_VSWR = 1e6
MOST_RIGS = 200  # forms and pages that show every rig stay within a second or two
BENCH = (
    ("conducted_checks", "conducted"),
    ("centrings", "centring"),
    ("close_ranges", "close range"),
    ("current_traces", "current"),
)


def next_letter(study: Study) -> str:
    """Return the first name no rig of the study has: A to Z, then A1 to Z1, A2 to Z2 and on."""
    taken = set(study.rigs.values_list("letter", flat=True))
    names = (f"{letter}{number or ''}" for number in count() for letter in ascii_uppercase)
    return next(name for name in names if name not in taken)


@transaction.atomic
def save_rig(study: Study, rig: Rig) -> Rig:
    """Check a rig against the database's rules and keep it."""
    if rig.pk is None and study.rigs.count() >= MOST_RIGS:
        raise ValidationError(
            f"A study compares {MOST_RIGS} rigs at most. Remove what is not walked, or start another study."
        )
    rig.study = study
    take_over(rig)
    rig.full_clean()
    rig.save()
    touch(study)
    return rig


def take_over(rig: Rig) -> None:
    """Take the figures of the rig's parts over, so that pages need not read the parts."""
    if rig.setting_part:
        take_over_setting(rig, rig.setting_part)
    if rig.module_part:
        _take_over_module(rig, rig.module_part)
    if rig.antenna_part:
        rig.antenna = rig.antenna_part.name
        rig.antenna_gain_dbi = gain_of(rig.antenna_part, rig.frequency_hz)
        rig.polarisation = rig.antenna_part.polarisation
    if rig.fixed_antenna_part:
        rig.fixed_antenna = rig.fixed_antenna_part.name
        rig.fixed_gain_dbi = gain_of(rig.fixed_antenna_part, rig.frequency_hz)
        rig.fixed_polarisation = rig.fixed_antenna_part.polarisation
    if rig.feed_part:
        rig.feed_loss_db = feed_figures(rig.feed_part, rig.frequency_hz).loss_db
    if rig.fixed_feed_part:
        rig.fixed_feed_loss_db = feed_figures(rig.fixed_feed_part, rig.frequency_hz).loss_db
    _refuse_half_a_coupling(rig)
    _take_over_match(rig)
    follow_ladder(rig)


def take_over_setting(rig: Rig, setting: Setting) -> None:
    """Take the figures of a setting and its datasheet row over."""
    rig.module_part = setting.module
    for column in SettingFields._meta.get_fields():
        setattr(rig, column.name, getattr(setting, column.name))
    row = datasheet_row(setting.module, setting)
    rig.sensitivity_dbm = row.dbm if row else None
    rig.sensitivity_source = row.source if row else ""
    if row:
        rig.sensitivity_per_percent = 100 * row.loss


def _take_over_module(rig: Rig, module: Module) -> None:
    rig.module, rig.noise_figure_db = module.name, module.noise_figure_db
    rig.rssi_offset_db = module.rssi_offset_db


def _refuse_half_a_coupling(rig: Rig) -> None:
    """Refuse a loop at one end and another antenna at the other: nothing couples to a whip."""
    ends = [rig.antenna_part, rig.fixed_antenna_part]
    loops = [one for one in ends if one is not None and one.type == Antenna.MAGNETIC]
    if len(loops) == 1:
        field = "antenna_part" if loops[0] is rig.fixed_antenna_part else "fixed_antenna_part"
        raise ValidationError(
            {
                field: f"{loops[0].name} is a magnetic loop or rod, which couples to one of its kind. Choose one for both ends."
            }
        )


def _take_over_match(rig: Rig) -> None:
    """Take the matches at the rig's frequency over from the sweeps of both ends."""
    rig.vswr, rig.vswr_source = _match_of(rig, "sweep", rig.antenna_part_id, rig.antenna)
    rig.fixed_vswr, rig.fixed_vswr_source = _match_of(
        rig, "fixed_sweep", rig.fixed_antenna_part_id, rig.fixed_antenna
    )


def _match_of(rig: Rig, field: str, part: int | None, antenna: str) -> tuple[float | None, str]:
    sweep: Sweep | None = getattr(rig, field)
    if sweep is None:
        return None, ""
    _refuse_foreign_sweep(sweep, field, part, antenna)
    match = match_at(sweep, rig.frequency_hz)
    if match is None:
        reach = f"{rig.frequency_hz / 1e6:g} MHz"
        raise ValidationError({field: f"That sweep does not reach {reach}. Sweep wider."})
    return min(match.vswr, HIGHEST_VSWR), f"sweep of {sweep.swept_on:%-d %b %Y}"


def _refuse_foreign_sweep(sweep: Sweep, field: str, part: int | None, antenna: str) -> None:
    """Refuse the sweep of another antenna: by part where both name one, by name otherwise."""
    if sweep.part_id and part:
        same = sweep.part_id == part
    else:
        same = sweep.antenna.strip().casefold() == antenna.strip().casefold()
    if not same:
        raise ValidationError(
            {
                field: f"That sweep is of {sweep.antenna}, the rig's antenna is {antenna or 'not named'}. Choose a sweep of its own antenna, or none."
            }
        )


@transaction.atomic
def copy_rig(rig: Rig) -> Rig:
    """Return a copy under the next letter, to change one thing on."""
    study, copy = (
        rig.study,
        Rig(**{f.name: getattr(rig, f.name) for f in Rig._meta.fields if f.name != "id"}),
    )
    copy.letter = next_letter(study)
    return save_rig(study, copy)


@transaction.atomic
def remove_rig(rig: Rig) -> Removed:
    """Take a rig off the shelf; one with frames or bench checks stays, and the error says where."""
    measured = [words for name, words in BENCH if getattr(rig, name).exists()]
    if measured:
        raise ValidationError(
            f"Rig {rig.letter} has been measured on the bench ({listed(measured)}), so it stays. Remove those checks first if they are worth nothing."
        )
    try:
        removed = take_away(rig, f"Rig {rig.letter}", rig.study)
    except ProtectedError as wrong:
        walks = sorted(
            {str(visit.walk) for visit in wrong.protected_objects if hasattr(visit, "walk")}
        )
        raise ValidationError(
            f"Rig {rig.letter} has frames in {', '.join(walks)}, so it stays."
        ) from wrong
    touch(rig.study)
    return removed
