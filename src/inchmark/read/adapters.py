"""Readings to rows and back: what the core said, kept in one shape with its version."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from inchmark.core.reading.analysis import MODEL_VERSION
from inchmark.core.reading.result import Reading, RigReading
from inchmark.core.reading.rules import RangeRules
from inchmark.formats.stored import Stored
from inchmark.read.models import StudyReading
from inchmark.studies.models import Study

SCHEMA = 1  # raised when the shape of a reading changes
STORED = Stored(Reading, version=SCHEMA)


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptReading:
    """The latest reading of a study with its row: which revision it is of, and what made it."""

    reading: Reading
    row: StudyReading

    def stale(self, study: Study) -> bool:
        """Tell whether the study has changed since."""
        return self.row.revision < study.revision


def rules_of(study: Study) -> RangeRules:
    """Return the rules the study reads its ranges under."""
    return RangeRules(loss=study.loss_share, places=study.places_share, in_hand_db=study.in_hand_db)


def newest(study: Study) -> int:
    """Return the number of a study's latest reading, 0 where there is none."""
    return study.readings.order_by("-pk").values_list("pk", flat=True).first() or 0


def kept_reading(study: Study) -> KeptReading | None:
    """Return the study's latest reading; None where there is none in today's shape and model.

    A reading is never changed once it is kept, so each is unfolded once in a process.
    """
    return _unfolded(newest(study))


@lru_cache(maxsize=64)
def _unfolded(pk: int) -> KeptReading | None:
    row = StudyReading.objects.filter(pk=pk).first()
    if row is None or row.model_version != MODEL_VERSION:
        return None
    reading, row.data = STORED.load(row.data), {}
    return None if reading is None else KeptReading(reading=reading, row=row)


def forget() -> None:
    """Forget readings unfolded in this process."""
    _unfolded.cache_clear()


def kept_rigs(study: Study) -> tuple[RigReading, ...]:
    """Return what the latest reading says of each rig."""
    kept = kept_reading(study)
    return kept.reading.rigs if kept else ()
