"""Shelf files: parts as JSON, checked against the schema these classes give.

All quantities are in SI units, named by the suffix of their key; levels are in dBm, gains in dBi.
"""

from __future__ import annotations

import json
from typing import TYPE_CHECKING, Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, ValidationError

from inchmark.core.feed.connectors import connector_names
from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.recipe_file import recipe_from_json, recipe_to_json

FORMAT: Literal["inchmark-shelf"] = "inchmark-shelf"
VERSION: Literal[1] = 1
LARGEST_BYTES = 4 * 1024 * 1024
SHOWN_PROBLEMS = 3
MOST_ENTRIES = 40_000  # 800 parts with ten settings each are a large shelf
if TYPE_CHECKING:
    Connector = str
else:  # a list known when the program starts, so no type checker can read it
    Connector = Literal[tuple(connector_names())]
Name = Annotated[str, Field(min_length=1, max_length=60)]
Number = Annotated[float, Field(allow_inf_nan=False)]
Modulation = Literal["chirp", "gfsk", "oqpsk", "le_1m", "le_2m", "le_coded_s8", "le_coded_s2"]


def _a_recipe(data: dict[str, Any]) -> dict[str, Any]:
    """Return a recipe as it is stored; raise ValueError where it is none."""
    return recipe_to_json(recipe_from_json(data))


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", defer_build=True)


class _Part(_Strict):
    name: Name
    price: Number | None = None
    note: str = Field(default="", max_length=300)


class SettingEntry(_Strict):
    """A firmware setting of a module."""

    name: Name
    modulation: Modulation
    frequency_hz: Number
    bandwidth_hz: Number = 125e3
    spreading_factor: int | None = None
    coding_rate: Literal[5, 6, 7, 8] = 5
    explicit_header: bool = True
    payload_crc: bool = True
    low_data_rate: bool | None = None
    bit_rate_bit_s: Number | None = None
    deviation_hz: Number | None = None
    preamble: int = Field(default=8, ge=0, le=32767)
    sync_word: str = Field(default="", max_length=20)
    payload_bytes: int = Field(default=12, ge=0, le=255)
    power_dbm: Number = 14.0
    duty_cycle_percent: Number = 1.0
    console: str = Field(default="", max_length=200)


class UnitEntry(_Strict):
    """One physical piece."""

    serial: str = Field(min_length=1, max_length=40)
    batch: str = Field(default="", max_length=40)
    note: str = Field(default="", max_length=300)


class ModuleEntry(_Part):
    """A radio module with its settings and units."""

    bands: list[tuple[Number, Number]] = []
    power_low_dbm: Number = -9.0
    power_high_dbm: Number = 14.0
    power_step_db: Number = 1.0
    supply_v: Number = 3.3
    sleep_a: Number | None = None
    standby_a: Number | None = None
    receive_a: Number | None = None
    transmit_currents: list[tuple[Number, Number]] = []
    noise_figure_db: Number = 6.0
    sensitivities: list[tuple[str, Number, Number]] = []
    rssi_step_db: Number | None = None
    rssi_low_dbm: Number | None = None
    rssi_high_dbm: Number | None = None
    rssi_offset_db: Number = 0.0
    crystal_ppm: Number = 10.0
    connector: Connector = "wire"
    template: str = Field(default="", max_length=200)
    recipe: Annotated[dict[str, Any], AfterValidator(_a_recipe)] | None = None
    recipe_from: str = Field(default="", max_length=80)
    settings: list[SettingEntry] = []
    units: list[UnitEntry] = []


class AntennaEntry(_Part):
    """An antenna with its units."""

    type: Literal["whip", "wire", "panel", "trace", "other", "magnetic"] = "whip"
    gain_dbi: Number | None = None
    polarisation: Literal["linear", "rhcp", "lhcp"] = "linear"
    size_m: Number | None = None
    connector: Connector = "wire"
    impedance_ohm: Number = 50.0
    cut_for_hz: Number | None = None
    wave: Literal["quarter", "half", "five-eighths"] = "quarter"
    velocity_factor: Number = 0.95
    loop_diameter_m: Number | None = None
    turns: int | None = None
    quality: Number = 30.0
    units: list[UnitEntry] = []


class FeedEntry(_Part):
    """A feed: cable, joints, connectors."""

    cable: str = Field(default="", max_length=60)
    cable_rows: list[tuple[Number, Number]] = []
    length_m: Number = 0.0
    joints: int = Field(default=2, ge=0, le=100)
    joint_loss_db: Number = 0.1
    near_connector: Connector = "wire"
    far_connector: Connector = "wire"
    impedance_ohm: Number = 50.0
    links: list[
        tuple[
            Name,
            Connector,
            Connector,
            Annotated[float, Field(ge=0, le=60)],
            Annotated[float, Field(ge=0, le=1e12)],
        ]
    ] = []


class BatteryEntry(_Part):
    """A battery or a power bank."""

    capacity_ah: Number
    voltage_v: Number = 3.6
    usable_percent: Number = 85.0
    self_discharge_percent: Number = 1.0
    cutoff_v: Number | None = None
    keep_on_a: Number | None = None


class SurroundingEntry(_Part):
    """A surrounding as a walk found it; limits are 95 %."""

    exponent: Number
    exponent_low: Number | None = None
    exponent_high: Number | None = None
    offset_db: Number
    offset_low_db: Number | None = None
    offset_high_db: Number | None = None
    at_m: Number = 100.0
    shadowing_db: Number = 6.0
    shadowing_low_db: Number | None = None
    shadowing_high_db: Number | None = None
    frequency_hz: Number | None = None
    stops: int | None = Field(default=None, ge=0)
    walked: str = Field(default="", max_length=200)


class ShelfFile(_Strict):
    """A whole shelf of parts."""

    format: Literal["inchmark-shelf"]
    version: Literal[1]
    modules: list[ModuleEntry] = []
    antennas: list[AntennaEntry] = []
    feeds: list[FeedEntry] = []
    batteries: list[BatteryEntry] = []
    surroundings: list[SurroundingEntry] = []


def read_shelf(data: bytes) -> ShelfFile:
    """Return the shelf in a file.

    Raises
    ------
    UnreadableFileError
        The file is no JSON, no shelf, or a value is none; the message names where.
    """
    if len(data) > LARGEST_BYTES:
        raise UnreadableFileError("The file is over 4 MB, which is no shelf of parts.")
    if data.count(b"{") > MOST_ENTRIES:
        raise UnreadableFileError(
            f"The file holds over {MOST_ENTRIES:,} entries, which is no shelf of parts. Split it."
        )
    try:
        found = json.loads(data)
    except (ValueError, RecursionError) as wrong:
        where = f" (line {wrong.lineno})" if isinstance(wrong, json.JSONDecodeError) else ""
        raise UnreadableFileError(f"The file is no JSON{where}. Export a shelf again.") from None
    if not isinstance(found, dict) or found.get("format") != FORMAT:
        raise UnreadableFileError(f"The file is no shelf: its “format” is not “{FORMAT}”.")
    if found.get("version") != VERSION:
        raise UnreadableFileError(
            f"The shelf is of version {found.get('version')!r}; this program reads {VERSION}."
        )
    try:
        return ShelfFile.model_validate(found)
    except ValidationError as wrong:
        raise UnreadableFileError(_problems(wrong)) from None


def _problems(wrong: ValidationError) -> str:
    errors = wrong.errors()
    said = [
        f"{'.'.join(str(part) for part in one['loc'])}: {one['msg']}"
        for one in errors[:SHOWN_PROBLEMS]
    ]
    more = f"; and {len(errors) - SHOWN_PROBLEMS} more" if len(errors) > SHOWN_PROBLEMS else ""
    return f"Nothing was taken in. {'; '.join(said)}{more}."


def shelf_text(shelf: ShelfFile) -> str:
    """Return a shelf as the text of a file."""
    return json.dumps(shelf.model_dump(), indent=1, ensure_ascii=False) + "\n"


def shelf_schema() -> dict[str, Any]:
    """Return the JSON Schema of shelf files."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Inch Mark shelf, version 1",
        **ShelfFile.model_json_schema(),
    }
