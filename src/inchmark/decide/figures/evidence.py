"""The evidence a decision stands on, frozen; and what later data say against it."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from inchmark import __version__
from inchmark.core.interval import Estimate
from inchmark.core.reading.analysis import MODEL_VERSION
from inchmark.core.reading.answer import answer_of
from inchmark.core.reading.expected import Served, served_words
from inchmark.core.reading.result import Reading
from inchmark.core.wording import distance
from inchmark.read.adapters import STORED, KeptReading
from inchmark.shelf.models import Rig
from inchmark.studies.models import Study
from inchmark.walk.models import FrameFile

NOT_OF_THE_RIG = {"id", "study_id"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Evidence:
    """What is frozen with a decision, as it is kept."""

    data: Mapping[str, Any]

    @property
    def reading(self) -> Reading | None:
        """Return the reading as it stood; None where its shape has changed since."""
        return STORED.load(self.data.get("reading"))

    @property
    def inputs(self) -> list[dict[str, Any]]:
        """Return the logs it stands on: name, SHA-256, frames."""
        return list(self.data.get("inputs", []))


def frozen(study: Study, kept: KeptReading, rigs: Sequence[Rig]) -> dict[str, Any]:
    """Return the evidence as it stands now: reading, rule, logs and rigs with their hashes, versions."""
    bare = replace(
        kept.reading, served=tuple(replace(one, drawn="") for one in kept.reading.served)
    )
    files = FrameFile.objects.filter(walk__study=study).order_by("walk__number", "pk")
    return {
        "reading": STORED.dump(bare),
        "revision": kept.row.revision,
        "model_version": MODEL_VERSION,
        "code_version": __version__,
        "rule": kept.reading.rules.words,
        "needed_m": study.needed_m,
        "answer": answer_of(kept.reading).sentence,
        "served": [served_words(one) for one in kept.reading.served],
        "inputs": [
            {"name": one.name, "sha256": one.sha256, "frames": one.frame_count}
            for one in files
            if not one.aside_reason
        ],
        "rigs": {one.letter: rig_hash(one) for one in rigs},
    }


def rig_hash(rig: Rig) -> str:
    """Return what changes when a rig changes."""
    own = [[item.key, item.db] for item in rig.budget_items.all()]
    fields = {
        field.attname: getattr(rig, field.attname)
        for field in Rig._meta.concrete_fields
        if field.attname not in NOT_OF_THE_RIG
    }
    text = json.dumps([fields, sorted(own)], sort_keys=True, default=str)
    return hashlib.sha256(text.encode()).hexdigest()


def against(
    evidence: Evidence, letter: str, kept: KeptReading | None, rigs: Sequence[Rig]
) -> list[str]:
    """Return in sentences what the data of today say against a decision for a rig."""
    then = evidence.reading
    now = kept.reading if kept else None
    found = list(_changed(evidence, letter, rigs))
    if then is None:
        return [*found, "It was read by an older model; take it anew to compare."]
    if now is not None:
        found += _range_moved(then, now, letter)
        found += _served_moved(then.served, now.served, letter)
        found += _overtaken(then, now, letter)
    return found


def _changed(evidence: Evidence, letter: str, rigs: Sequence[Rig]) -> Iterator[str]:
    rig = next((one for one in rigs if one.letter == letter), None)
    if rig is None:
        yield f"Rig {letter} is no longer on the shelf."
    elif evidence.data.get("rigs", {}).get(letter) != rig_hash(rig):
        yield f"Rig {letter} has been changed since."


def _range_moved(then: Reading, now: Reading, letter: str) -> Iterator[str]:
    old, new = then.of_rig(letter), now.of_rig(letter)
    before = old.loss_range_m if old else None
    after = new.loss_range_m if new else None
    if before and after and not before.low <= after.estimate <= before.high:
        yield f"{letter} reaches {distance(after.estimate)} now; the decision had {_limits(before)}."
    if before and not after:
        yield f"The walk no longer tells how far {letter} reaches; the decision had {_limits(before)}."


def _served_moved(then: Sequence[Served], now: Sequence[Served], letter: str) -> Iterator[str]:
    before, after = _count(then, letter), _count(now, letter)
    if before and after and not before[0].low <= after[0].estimate <= before[0].high:
        old, new = before[0], after[0]
        yield f"{letter} serves {new.estimate:.0f} of {after[1]} places now; the decision had {old.estimate:.0f} of {before[1]} (95 %: {old.low:.0f} to {old.high:.0f})."


def _overtaken(then: Reading, now: Reading, letter: str) -> Iterator[str]:
    """Yield a rig that is surely better now and was not then."""
    before, after = _beaten_by(then, letter), _beaten_by(now, letter)
    for other in sorted(after - before):
        yield f"{other} has more margin than {letter} now, and its limits leave no doubt; they did when it was decided."


def _beaten_by(reading: Reading, letter: str) -> set[str]:
    found = set()
    for one in reading.differences:
        if not one.main or one.margin_db is None:
            continue
        if one.rig == letter and one.margin_db.high < 0:
            found.add(one.against)
        if one.against == letter and one.margin_db.low > 0:
            found.add(one.rig)
    return found


def _count(served: Sequence[Served], letter: str) -> tuple[Estimate, int] | None:
    one = next((row for row in served if row.rig == letter), None)
    return (one.count, len(one.places)) if one and one.count else None


def _limits(one: Estimate) -> str:
    return f"{distance(one.low)} to {distance(one.high)}"
