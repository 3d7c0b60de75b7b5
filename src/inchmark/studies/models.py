"""The study: one question, its members, its rules, and what was decided about side notes."""

from typing import Any

from django.conf import settings as deployment
from django.db import models
from django.urls import reverse

from inchmark.pages.bounds import bounded
from inchmark.studies.querysets import InStudyQuerySet, StudyQuerySet
from inchmark.studies.questions import CHOICES, ROOMS, folded_rooms

FIRST_PAGES = {
    "shelf": "shelf:rigs",
    "plan": "plan:stops",
    "walk": "walk:walks",
    "read": "read:reading",
    "decide": "decide:decide",
}
DRAWN_WITHOUT_NEED_M = 500.0
FARTHEST_M = 1_000_000.0  # stops and what is needed; a beacon from orbit is farther, a walk is not


class Study(models.Model):
    """One question, its rigs, site, walks and decision."""

    OWN, DEMO, PRACTICE = "own", "demo", "practice"
    KINDS = [(OWN, "one’s own"), (DEMO, "the demo"), (PRACTICE, "practice")]

    title = models.CharField(max_length=120)
    kind = models.CharField(max_length=8, choices=KINDS, default=OWN, editable=False)
    asks = models.CharField("kind of question", max_length=8, choices=CHOICES, blank=True)
    question = models.CharField(max_length=300, blank=True)
    needed_m = models.FloatField("needed distance", null=True, blank=True)
    loss_share = models.FloatField("loss allowed", default=0.1)
    places_share = models.FloatField("share of places", default=0.9)
    in_hand_db = models.FloatField("in hand", default=10.0)
    needed_direction = models.CharField(
        "what must arrive",
        max_length=12,
        choices=[
            ("worse", "the worse of both directions"),
            ("exchange", "question and answer together"),
            ("to_fixed", "carried end to fixed end"),
            ("to_carried", "fixed end to carried end"),
        ],
        default="worse",
        help_text="Counts where both directions were walked.",
    )
    needed_receiver = models.CharField(
        "which receiver must hear",
        max_length=60,
        blank=True,
        help_text="Empty: the best one. “any”: any of them. Or the name of one.",
    )
    own_noise = models.BooleanField(
        "compare at each site's own noise",
        default=False,
        help_text="Otherwise everything holds at one noise, the median of the visits.",
    )
    region = models.CharField(
        "rules of",
        max_length=2,
        choices=[("EU", "Europe (EU)"), ("US", "United States")],
        default="EU",
        help_text="Which table of limits budgets are held against.",
    )
    keep_logs_days = models.PositiveSmallIntegerField(
        "days that logs are kept", null=True, blank=True
    )
    revision = models.PositiveIntegerField(default=1, editable=False)
    created_at = models.DateTimeField(auto_now_add=True)
    members = models.ManyToManyField(
        deployment.AUTH_USER_MODEL, through="Membership", related_name="studies"
    )

    objects = StudyQuerySet.as_manager()

    class Meta:
        ordering = ["-created_at", "-pk"]
        verbose_name_plural = "studies"
        constraints = [
            bounded("study", "needed_m", 1, FARTHEST_M, "m"),
            bounded("study", "loss_share", 0.001, 0.9),
            bounded("study", "places_share", 0.5, 0.999),
            bounded("study", "in_hand_db", 0, 40, "dB"),
            bounded("study", "keep_logs_days", 1, 3650),
        ]

    def __str__(self) -> str:
        return self.title

    def get_absolute_url(self) -> str:
        """Return the address of the study's reading, its first page."""
        return reverse("read:reading", args=[self.pk])

    @property
    def folded_rooms(self) -> tuple[str, ...]:
        """Return the rooms its kind of question does not need."""
        return folded_rooms(self.asks)

    @property
    def rooms(self) -> list[dict[str, Any]]:
        """Return the five rooms in the order of the work: number, name, address, folded or not."""
        return [
            {
                "key": key,
                "number": number,
                "name": key.title(),
                "url": reverse(FIRST_PAGES[key], args=[self.pk]),
                "folded": key in self.folded_rooms,
            }
            for number, key in enumerate(ROOMS, start=1)
        ]

    @property
    def budget_distance_m(self) -> float:
        """Return the distance budgets are drawn at [m]: the needed one, or one where none is."""
        return self.needed_m or DRAWN_WITHOUT_NEED_M


class Membership(models.Model):
    """Who may see a study, and who may change it."""

    OWNER, EDITOR, VIEWER = "owner", "editor", "viewer"
    ROLES = [(OWNER, "owner"), (EDITOR, "editor"), (VIEWER, "viewer")]

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="memberships")
    user = models.ForeignKey(
        deployment.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="memberships"
    )
    role = models.CharField(max_length=10, choices=ROLES, default=VIEWER)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["study", "user"], name="membership_once")]

    def __str__(self) -> str:
        return f"{self.user} in {self.study}"


class Removed(models.Model):
    """What was removed, as it was, so that it can be put back."""

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="removed")
    words = models.CharField(max_length=120)
    data = models.JSONField()  # as `services.undo` writes it
    at = models.DateTimeField(auto_now_add=True)

    objects = InStudyQuerySet.as_manager()

    def __str__(self) -> str:
        return self.words


class Invitation(models.Model):
    """A one-time link into a study; only its digest is kept."""

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="invitations")
    role = models.CharField(max_length=10, choices=Membership.ROLES, default=Membership.VIEWER)
    digest = models.CharField(max_length=64, unique=True)
    note = models.CharField("for whom", max_length=60, blank=True)
    by = models.ForeignKey(deployment.AUTH_USER_MODEL, on_delete=models.CASCADE)
    made_at = models.DateTimeField(auto_now_add=True)
    expires_at = models.DateTimeField()
    used_at = models.DateTimeField(null=True)

    objects = InStudyQuerySet.as_manager()

    class Meta:
        ordering = ["made_at", "pk"]

    def __str__(self) -> str:
        return f"{self.get_role_display()} in {self.study}"


class Change(models.Model):
    """Who changed what in a study: one row for each thing done through a page or the API."""

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="changes")
    at = models.DateTimeField(auto_now_add=True)
    who = models.CharField(max_length=150)  # stays when the account goes
    what = models.CharField(max_length=80)  # the view's name
    about = models.CharField(max_length=120, blank=True)

    objects = InStudyQuerySet.as_manager()

    class Meta:
        ordering = ["-at", "-pk"]
        indexes = [models.Index(fields=["study", "-at"], name="changes_by_time")]

    def __str__(self) -> str:
        return f"{self.who}: {self.what}"


class NoteDecision(models.Model):
    """What a member did with a side note; the latest row counts."""

    ACCEPTED, SET_ASIDE, OPEN = "accepted", "set-aside", "open"
    STATES = [(ACCEPTED, "accepted"), (SET_ASIDE, "set aside"), (OPEN, "open again")]

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="note_decisions")
    code = models.CharField(max_length=40)
    subject = models.CharField(max_length=130, blank=True)
    state = models.CharField(max_length=10, choices=STATES)
    reason = models.CharField(max_length=300, blank=True)
    by = models.ForeignKey(deployment.AUTH_USER_MODEL, on_delete=models.PROTECT)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["at", "pk"]
        constraints = [
            models.CheckConstraint(
                name="note_set_aside_with_reason",
                condition=~models.Q(state="set-aside") | ~models.Q(reason=""),
                violation_error_message="Say why the note is set aside.",
            )
        ]

    def __str__(self) -> str:
        return f"{self.code} {self.state}"
