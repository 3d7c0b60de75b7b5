"""A practice: the site somebody walks blind, what is left of the time, and what was claimed."""

from __future__ import annotations

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models

from inchmark.studies.models import Study
from inchmark.studies.querysets import InStudyQuerySet

LEAST_SEED, MOST_SEED = 1, 999_999


class Practice(models.Model):
    """One study walked on a hidden truth, which follows from scenario and seed."""

    study = models.OneToOneField(Study, on_delete=models.CASCADE, related_name="practice")
    scenario = models.CharField(max_length=12)
    seed = models.PositiveIntegerField(
        validators=[MinValueValidator(LEAST_SEED), MaxValueValidator(MOST_SEED)]
    )
    # what each walk leads to and takes: number of the walk, then stops and minutes
    walked = models.JSONField(default=dict)
    claim = models.JSONField(
        null=True
    )  # the reading and decision as they stood when truth was shown
    shown_at = models.DateTimeField(null=True)

    objects = InStudyQuerySet.as_manager()

    class Meta:
        constraints = [
            models.CheckConstraint(
                condition=models.Q(shown_at=None) | models.Q(claim__isnull=False),
                name="practice_truth_after_claim",
            )
        ]

    def __str__(self) -> str:
        return f"practice {self.scenario} {self.seed}"

    @property
    def minutes_used(self) -> float:
        """Return the minutes its walks took."""
        return float(sum(one["minutes"] for one in self.walked.values()))
