"""The same rig over sites and days: what each study of a person says of it, in one view."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from typing import Any

from django.db.models import Max

from inchmark.core.interval import Estimate
from inchmark.read.adapters import kept_reading
from inchmark.shelf.adapters.rigs import rigs_of
from inchmark.shelf.models import Rig
from inchmark.studies.models import Study

MOST_STUDIES = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class AcrossRow:
    """What one study says of a rig."""

    study: Study
    letter: str
    walked_on: date | None
    sent: int
    stops: int
    range_m: Estimate | None
    threshold_dbm: Estimate | None
    exponent: Estimate | None
    shadowing_db: Estimate | None
    rule: str
    stale: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class AcrossRig:
    """A rig by what it is made of, with the studies that walked it, the newest first."""

    name: str
    rows: list[AcrossRow]

    @property
    def studies(self) -> int:
        """Return in how many studies it was walked."""
        return len({row.study.pk for row in self.rows})


def rigs_across(user: Any) -> list[AcrossRig]:
    """Return the rigs of a person's studies, those walked in most studies first."""
    found: dict[str, list[AcrossRow]] = {}
    studies = Study.objects.visible_to(user).annotate(walked_on=Max("walks__walked_on"))
    for study in studies.order_by("-pk")[:MOST_STUDIES]:
        for rig, row in _rows(study):
            found.setdefault(made_of(rig), []).append(row)
    rigs = [AcrossRig(name=name, rows=rows) for name, rows in found.items()]
    return sorted(rigs, key=lambda one: (-one.studies, one.name))


def made_of(rig: Rig) -> str:
    """Return what makes two rigs of different studies the same: module, setting, antennas at both ends."""
    ends = f"{rig.antenna} to {rig.fixed_antenna}" if rig.fixed_antenna else rig.antenna
    return f"{rig.module} · {rig.setting} · {rig.bandwidth_hz / 1e3:g} kHz · {ends}"


def _rows(study: Any) -> Iterable[tuple[Rig, AcrossRow]]:
    kept = kept_reading(study)
    if kept is None:
        return
    reading = kept.reading
    for rig in rigs_of(study):
        one = reading.of_rig(rig.letter)
        if one is None:
            continue
        yield (
            rig,
            AcrossRow(
                study=study,
                letter=rig.letter,
                walked_on=study.walked_on,
                sent=one.sent,
                stops=len({visit.stop for visit in reading.visits if visit.rig == rig.letter}),
                range_m=one.loss_range_m,
                threshold_dbm=one.threshold_dbm,
                exponent=reading.site.exponent,
                shadowing_db=reading.site.shadowing_db,
                rule=reading.rules.words,
                stale=kept.stale(study),
            ),
        )
