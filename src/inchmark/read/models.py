"""A stored reading: what the log said, and which inputs, model and code said it."""

from django.db import models

from inchmark.read.querysets import ReadingQuerySet
from inchmark.studies.models import Study


class StudyReading(models.Model):
    """One reading of a study; the latest is shown, with a word if the study has moved on since."""

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="readings")
    revision = models.PositiveIntegerField()
    made_at = models.DateTimeField(auto_now_add=True)
    model_version = models.CharField(max_length=20)
    code_version = models.CharField(max_length=20)
    data = models.JSONField()  # as `adapters` writes it, with the version of its shape

    objects = ReadingQuerySet.as_manager()

    class Meta:
        ordering = ["pk"]
        indexes = [models.Index(fields=["study", "-id"], name="reading_latest")]

    def __str__(self) -> str:
        return f"reading of {self.study} at {self.revision}"


class ReadingFailure(models.Model):
    """Why a study could not be read, and at which revision; gone with the next reading."""

    study = models.OneToOneField(Study, on_delete=models.CASCADE, related_name="reading_failure")
    revision = models.PositiveIntegerField()
    problem = models.CharField(max_length=400)
    at = models.DateTimeField(auto_now=True)

    def __str__(self) -> str:
        return self.problem
