"""Verbs on decisions: take one on the evidence as it stands; a later one supersedes it."""

from __future__ import annotations

from typing import Any

from django.core.exceptions import ValidationError
from django.db import transaction

from inchmark.decide.figures.evidence import Evidence, against, frozen
from inchmark.decide.models import Decision
from inchmark.pages.personal import in_usual_figures
from inchmark.read.services import current_reading
from inchmark.shelf.adapters.rigs import rigs_of
from inchmark.studies.memory import per_revision
from inchmark.studies.models import Study
from inchmark.studies.side_notes import SideNote

NOT_READ = "The study is being read anew; take the decision when that is done, so that it stands on what is there."


@transaction.atomic
@in_usual_figures
def take_decision(study: Study, by: Any, **said: str) -> Decision:
    """Keep a decision with the evidence as it stands, in place of the one before.

    Raises
    ------
    ValidationError
        Nothing was read, or the reading is behind the study.
    """
    Study.objects.select_for_update().get(pk=study.pk)
    kept = current_reading(study)
    if kept is None:
        raise ValidationError("Nothing has been read yet that a decision could stand on.")
    if kept.stale(study):
        raise ValidationError(NOT_READ)
    before = study.decisions.first()
    evidence = frozen(study, kept, list(study.rigs.with_parts()))
    decision = Decision(
        study=study,
        number=before.number + 1 if before else 1,
        question=study.question,
        answer=evidence["answer"],
        evidence=evidence,
        by=by,
        supersedes=before,
        **said,
    )
    decision.full_clean()
    decision.save(force_insert=True)
    return decision


def standing(study: Study) -> Decision | None:
    """Return the decision that stands, None where none was taken."""
    found: Decision | None = study.decisions.first()
    return found


def said_against(study: Study, decision: Decision) -> list[str]:
    """Return what today's data say against a decision."""
    kept = current_reading(study)

    def make() -> list[str]:
        return against(Evidence(data=decision.evidence), decision.letter, kept, rigs_of(study))

    return per_revision(study, "against", make, decision.pk, kept.row.pk if kept else 0)


def contradiction(study: Study) -> list[SideNote]:
    """Return the note on a decision that later data contradict."""
    decision = standing(study)
    found = said_against(study, decision) if decision else []
    if decision is None or not found:
        return []
    return [
        SideNote(
            code="decision-contradicted",
            subject=f"{decision.number}",
            kind="caution",
            title=f"Decision {decision.number} no longer agrees with the data",
            text=f"{' '.join(found)} Look at it again; a new decision supersedes it.",
        )
    ]
