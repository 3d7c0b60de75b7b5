"""What was decided, on which evidence; superseded by a later one, never edited. Reports made of it."""

from django.conf import settings
from django.db import models

from inchmark.studies.models import Study


class Decision(models.Model):
    """A choice with its reasons and the evidence as it stood; a later one may supersede it."""

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="decisions")
    number = models.PositiveIntegerField()
    chosen = models.CharField("chosen", max_length=200)
    letter = models.CharField("rig it rests on", max_length=4)
    question = models.CharField(max_length=300, blank=True)
    answer = models.CharField(max_length=400)
    reasons = models.TextField("why", max_length=4000)
    set_aside = models.TextField("what was set aside, and why", max_length=4000, blank=True)
    uncertain = models.TextField("what is uncertain", max_length=4000, blank=True)
    evidence = models.JSONField()  # as `figures.evidence` writes it
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    name = models.CharField("who decides", max_length=80)
    at = models.DateTimeField(auto_now_add=True)
    supersedes = models.OneToOneField(
        "self", on_delete=models.CASCADE, null=True, blank=True, related_name="superseded_by"
    )

    class Meta:
        ordering = ["-number"]
        constraints = [
            models.UniqueConstraint(fields=["study", "number"], name="decision_number_once"),
            models.CheckConstraint(
                name="decision_has_reasons",
                condition=~models.Q(reasons="") & ~models.Q(name="") & ~models.Q(chosen=""),
            ),
        ]

    def __str__(self) -> str:
        return f"decision {self.number}: {self.chosen}"


class Report(models.Model):
    """A report as PDF, made in the background of one revision of a study."""

    WAITING, RUNNING, DONE, FAILED = "waiting", "running", "done", "failed"
    STATES = [(one, one) for one in (WAITING, RUNNING, DONE, FAILED)]

    study = models.OneToOneField(Study, on_delete=models.CASCADE, related_name="report")
    state = models.CharField(max_length=8, choices=STATES, default=WAITING)
    done = models.FloatField(default=0.0)
    revision = models.PositiveIntegerField(default=0)
    reading_pk = models.PositiveBigIntegerField(default=0)
    pdf = models.BinaryField(null=True)
    pages = models.PositiveIntegerField(default=0)
    seconds = models.FloatField(default=0.0)
    problem = models.CharField(max_length=400, blank=True)
    asked_at = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = [
            models.CheckConstraint(
                name="report_done_has_pages",
                condition=~models.Q(state="done") | models.Q(pdf__isnull=False, pages__gt=0),
            ),
        ]

    def __str__(self) -> str:
        return f"report of {self.study}: {self.state}"
