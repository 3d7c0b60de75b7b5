"""Side notes as the margin shows them, with what was decided about each."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

from inchmark.studies.models import NoteDecision, Study


@dataclass(frozen=True, slots=True, kw_only=True)
class SideNote:
    """A judgement as shown in the margin, with what was done about it."""

    code: str
    subject: str
    title: str
    text: str
    kind: str
    evidence_url: str = ""
    evidence: str = ""
    remedy_url: str = ""
    remedy: str = ""
    state: str = "open"
    reason: str = ""

    @property
    def anchor(self) -> str:
        """Return the section of the docs on notes that explains it."""
        return self.code.replace("_", "-")

    @property
    def open(self) -> bool:
        """Tell whether nobody has accepted it or set it aside."""
        return self.state == NoteDecision.OPEN


def with_decisions(study: Study, notes: Iterable[SideNote]) -> list[SideNote]:
    """Return the notes with the latest decision on each, open ones first."""
    latest = {(row.code, row.subject): row for row in study.note_decisions.all()}
    decided = []
    for note in notes:
        row = latest.get((note.code, note.subject))
        decided.append(replace(note, state=row.state, reason=row.reason) if row else note)
    return sorted(decided, key=lambda note: not note.open)
