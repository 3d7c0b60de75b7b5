"""What boards answered, read by their module's template: against what they were told, and each other."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from inchmark.core.console.reading import (
    SettingDifference,
    SettingsReading,
    differences,
    read_string,
)
from inchmark.core.console.template import TemplateError, read_template
from inchmark.shelf.models import Rig
from inchmark.walk.adapters.logs import said_of
from inchmark.walk.models import ReadBack, Walk


@dataclass(frozen=True, slots=True, kw_only=True)
class Compared:
    """A read-back: the rig it is of, what it says in words, where it differs from what was told."""

    row: ReadBack
    rig: Rig | None = None
    reading: SettingsReading | None = None
    told: SettingsReading | None = None
    differs: list[SettingDifference] = field(default_factory=list)
    from_setting: str = ""  # whose words stood in for what was told

    @property
    def says(self) -> str:
        """Return the fields answered, in words."""
        if self.reading is None:
            return ""
        return ", ".join(f"{one.field.name} {one.shown}" for one in self.reading.named)

    @property
    def took(self) -> bool:
        """Tell whether the board says what it was told."""
        return self.reading is not None and self.told is not None and not self.differs


@dataclass(frozen=True, slots=True, kw_only=True)
class Ends:
    """The newest read-backs of two sources, and where they differ."""

    one: str
    other: str
    differs: list[SettingDifference]


def compared(walk: Walk) -> tuple[list[Compared], list[Ends]]:
    """Return a walk's read-backs, each against what was told; and the newest of sources in pairs."""
    rigs = {rig.letter: rig for rig in walk.study.rigs.with_parts()}
    named = {file.source: said_of(file).rig for file in walk.files.exclude(source="")}
    rows = [_compared(row, rigs.get(named.get(row.source, ""))) for row in walk.read_backs.all()]
    return rows, _ends(rows)


def _compared(row: ReadBack, rig: Rig | None) -> Compared:
    module = rig.module_part if rig else None
    if rig is None or module is None or not module.template:
        return Compared(row=row, rig=rig)
    answered = _read(module.template, row.answered)
    asked = _read(module.template, row.asked)
    setting = rig.setting_part
    said = ""
    if asked is None and setting is not None and setting.console:
        asked, said = _read(module.template, setting.console), setting.name
    differs = differences(asked, answered) if asked and answered else []
    return Compared(
        row=row, rig=rig, reading=answered, told=asked, differs=differs, from_setting=said
    )


def _read(template: str, text: str) -> SettingsReading | None:
    """Return what the first line that fits a template says; None where none does."""
    try:
        form = read_template(template)
    except TemplateError:
        return None
    for line in text.splitlines():
        try:
            return read_string(form, line)
        except TemplateError:
            continue
    return None


def _ends(rows: Sequence[Compared]) -> list[Ends]:
    newest: dict[str, Compared] = {}
    for one in rows:  # the newest comes first
        if one.reading is not None:
            newest.setdefault(one.row.source, one)
    found = list(newest.values())
    return [
        Ends(
            one=a.row.source,
            other=b.row.source,
            differs=differences(a.reading, b.reading) if a.reading and b.reading else [],
        )
        for i, a in enumerate(found)
        for b in found[i + 1 :]
    ]
