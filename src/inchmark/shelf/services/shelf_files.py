"""Verbs on shelf files: write the shelf of a study, take one in, bring the starter shelf."""

from __future__ import annotations

from collections.abc import Iterable
from importlib import resources
from typing import Any

from django.core.exceptions import ValidationError
from django.db import transaction

from inchmark.formats.shelf_file import (
    FORMAT,
    VERSION,
    AntennaEntry,
    BatteryEntry,
    FeedEntry,
    ModuleEntry,
    SettingEntry,
    ShelfFile,
    SurroundingEntry,
    UnitEntry,
    read_shelf,
)
from inchmark.shelf.models import Antenna, Battery, Feed, Module, Setting, Surrounding, Unit
from inchmark.shelf.services.parts import save_part
from inchmark.studies.models import Study


def shelf_of(study: Study) -> ShelfFile:
    """Return a study's shelf as a file holds it, archived parts left out."""
    modules = study.module_parts.filter(archived=False).prefetch_related("settings", "units")
    antennas = study.antenna_parts.filter(archived=False).prefetch_related("units")
    return ShelfFile(
        format=FORMAT,
        version=VERSION,
        modules=[
            ModuleEntry(
                **_columns(one, ModuleEntry),
                settings=[
                    SettingEntry(**_columns(s, SettingEntry))
                    for s in one.settings.all()
                    if not s.archived
                ],
                units=_units(one.units.all()),
            )
            for one in modules
        ],
        antennas=[
            AntennaEntry(**_columns(one, AntennaEntry), units=_units(one.units.all()))
            for one in antennas
        ],
        feeds=[
            FeedEntry(**_columns(one, FeedEntry)) for one in study.feed_parts.filter(archived=False)
        ],
        batteries=[
            BatteryEntry(**_columns(one, BatteryEntry))
            for one in study.battery_parts.filter(archived=False)
        ],
        surroundings=[
            SurroundingEntry(**_columns(one, SurroundingEntry))
            for one in study.surrounding_parts.filter(archived=False)
        ],
    )


def _columns(row: Any, entry: Any) -> dict[str, Any]:
    return {
        name: getattr(row, name) for name in entry.model_fields if name not in ("settings", "units")
    }


def _units(units: Iterable[Unit]) -> list[UnitEntry]:
    return [UnitEntry(**_columns(one, UnitEntry)) for one in units if not one.archived]


@transaction.atomic
def take_in(study: Study, data: bytes) -> tuple[int, list[str]]:
    """Put the parts of a shelf file on a study's shelf: all of them, or none.

    Return how many were added, and the names of those that were there already and stay as they are.

    Raises
    ------
    UnreadableFileError
        The file is no shelf.
    ValidationError
        A figure is out of range; the message names the part.
    """
    shelf = read_shelf(data)
    added, known = 0, []
    shelves = (
        (shelf.modules, Module, study.module_parts),
        (shelf.antennas, Antenna, study.antenna_parts),
        (shelf.feeds, Feed, study.feed_parts),
        (shelf.batteries, Battery, study.battery_parts),
        (shelf.surroundings, Surrounding, study.surrounding_parts),
    )
    for entries, model, there in shelves:
        names = set(there.values_list("name", flat=True))
        for entry in entries:
            if entry.name in names:
                known.append(entry.name)
                continue
            added += _add(study, model, entry)
    return added, known


def _add(study: Study, model: Any, entry: Any) -> int:
    values = entry.model_dump(exclude={"settings", "units"})
    part = _save(study, model(**values), entry.name)
    count = 1
    for setting in getattr(entry, "settings", []):
        row = Setting(module=part, study=study, **setting.model_dump())
        _save(study, row, f"{entry.name}, {setting.name}")
        count += 1
    for unit in getattr(entry, "units", []):
        owner = {"module": part} if model is Module else {"antenna": part}
        _save(study, Unit(**owner, **unit.model_dump()), f"{entry.name}, unit {unit.serial}")
        count += 1
    return count


def _save(study: Study, row: Any, name: str) -> Any:
    try:
        return save_part(study, row)
    except ValidationError as wrong:
        said = " ".join(wrong.messages)
        raise ValidationError(f"Nothing was taken in. {name}: {said}") from wrong


def starter_shelf() -> bytes:
    """Return the shelf of invented parts that ships with the app."""
    return resources.files("inchmark.shelf").joinpath("starter_shelf.json").read_bytes()
