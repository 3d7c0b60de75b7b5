"""The study file: what a user knows beside frames and stops, as JSON (docs/formats.md)."""

from __future__ import annotations

import json
from typing import Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from inchmark.core.reading.measured import ReceiverFacts, RigFacts, RigPrior, SiteFacts
from inchmark.formats.errors import UnreadableFileError

_REPLIES = ("repl", "exchange", "ping", "round", "answer")


class _Part(BaseModel):
    """What is not known by name is kept aside, and said not to count."""

    model_config = ConfigDict(extra="allow", populate_by_name=True)

    def unknown(self) -> list[str]:
        """Return the keys nobody knows."""
        return sorted(self.model_extra or {})


class _Rig(_Part):
    rig: str
    antenna: str = ""
    module_type: str | None = None
    module_group: str | None = None
    setting: str | None = None
    unit: str | None = None
    node: str | None = None
    power_dbm: float | None = Field(None, ge=-60, le=60)
    datasheet_sensitivity_dbm: float | None = Field(None, ge=-200, le=0)
    conducted_sensitivity_dbm: float | None = Field(None, ge=-200, le=0)
    height_m: float | None = Field(None, ge=0, le=10_000)


class _Receiver(_Part):
    receiver: str
    module_type: str | None = None
    setting: str | None = None
    unit: str | None = None
    datasheet_sensitivity_dbm: float | None = Field(None, ge=-200, le=0)
    height_m: float | None = Field(None, ge=0, le=10_000)
    lat: float | None = Field(None, ge=-90, le=90)
    lon: float | None = Field(None, ge=-180, le=180)


class _FixedEnd(_Part):
    power_dbm: float | None = Field(None, ge=-60, le=60)
    height_m: float | None = Field(None, ge=0, le=10_000)
    lat: float | None = Field(None, ge=-90, le=90)
    lon: float | None = Field(None, ge=-180, le=180)


class StudyFile(_Part):
    """A study as a user writes it down; everything may be left out."""

    name: str | None = None
    note: str | None = None
    rigs: list[_Rig] = Field(default_factory=list)
    receivers: list[_Receiver] = Field(default_factory=list)
    fixed_end: _FixedEnd | None = None
    what: str | None = None
    noise_at_sensitivity_dbm: float | None = Field(None, ge=-200, le=60)
    rssi_step_db: float | None = Field(None, gt=0, le=20)
    rssi_includes_noise: bool | None = None
    frequency_mhz: float | None = Field(None, gt=0.01, le=300_000)
    site: str | None = None
    tx_height_m: float | None = Field(None, ge=0, le=10_000)
    rx_height_m: float | None = Field(None, ge=0, le=10_000)
    reference_condition: str | None = None
    needed_m: float | None = Field(None, gt=0, le=1e6)

    @property
    def replies(self) -> bool:
        """Tell whether the log is of replies alone: a frame counts when question and answer arrived."""
        return any(word in (self.what or "").lower() for word in _REPLIES)

    @property
    def nodes(self) -> dict[str, str]:
        """Return what each rig's own node calls itself."""
        return {one.rig: one.node for one in self.rigs if one.node}

    def rig_facts(self) -> dict[str, RigFacts]:
        """Return what is known of the rigs."""
        return {one.rig: self._facts(one) for one in self.rigs}

    def _facts(self, one: _Rig) -> RigFacts:
        fixed = self.fixed_end.power_dbm if self.fixed_end else None
        lead = 0.0 if None in (fixed, one.power_dbm) else float(fixed or 0) - (one.power_dbm or 0)
        bench = one.conducted_sensitivity_dbm
        return RigFacts(
            name=one.antenna or one.rig,
            prior=RigPrior(
                module_type=one.module_type or one.module_group or "",
                setting=one.setting or "",
                unit=one.unit or "",
                sensitivity_dbm=one.datasheet_sensitivity_dbm if bench is None else bench,
                conducted=bench is not None,
            ),
            reference_dbm=one.power_dbm,
            to_carried_db=lead,
        )

    def site_facts(self) -> SiteFacts:
        """Return what is known of the path and of the receivers."""
        heights = [one.height_m for one in self.rigs if one.height_m is not None]
        ends = [one.height_m for one in self.receivers if one.height_m is not None]
        fixed = self.fixed_end.height_m if self.fixed_end else None
        return SiteFacts(
            frequency_hz=self.frequency_mhz * 1e6 if self.frequency_mhz else None,
            fixed_height_m=self.rx_height_m or fixed or (ends[0] if ends else None),
            carried_height_m=self.tx_height_m or (heights[0] if heights else None),
            reference_condition=self.reference_condition or None,
            receivers=tuple(_receiver(one) for one in self.receivers),
            rssi_step_db=self.rssi_step_db,
        )

    def not_counted(self) -> list[str]:
        """Return the keys that nobody knows, with where they stand."""
        found = list(self.unknown())
        for kind, parts in (("rigs", self.rigs), ("receivers", self.receivers)):
            found += [f"{kind}[{i}].{key}" for i, one in enumerate(parts) for key in one.unknown()]
        if self.fixed_end:
            found += [f"fixed_end.{key}" for key in self.fixed_end.unknown()]
        return found


def _receiver(one: _Receiver) -> ReceiverFacts:
    spot = None if one.lat is None or one.lon is None else (one.lat, one.lon)
    return ReceiverFacts(
        name=one.receiver,
        module_type=one.module_type or "",
        setting=one.setting or "",
        unit=one.unit or "",
        sensitivity_dbm=one.datasheet_sensitivity_dbm,
        spot=spot,
        height_m=one.height_m,
    )


def read_study_file(data: bytes) -> StudyFile:
    """Return a study file.

    Raises
    ------
    UnreadableFileError
        It is no JSON, or a value is impossible; the sentence says where.
    """
    try:
        found: Any = json.loads(data.decode("utf-8-sig"))
    except (UnicodeDecodeError, json.JSONDecodeError, RecursionError) as wrong:
        raise UnreadableFileError(f"The study file is no JSON: {wrong}.") from None
    if not isinstance(found, dict):
        raise UnreadableFileError('The study file must be one JSON object, like {"rigs": […]}.')
    try:
        return StudyFile.model_validate(found)
    except ValidationError as wrong:
        first = wrong.errors()[0]
        where = ".".join(str(part) for part in first["loc"])
        raise UnreadableFileError(f"The study file, {where}: {first['msg']}.") from None
