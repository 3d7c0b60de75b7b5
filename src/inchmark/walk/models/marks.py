"""What is said during a walk: where the carried end stands, notes, what was looked at first, photos."""

from django.conf import settings
from django.db import models

from inchmark.plan.models import Stop
from inchmark.shelf.models import Rig
from inchmark.walk.models.walks import Walk
from inchmark.walk.querysets import InWalkQuerySet


class Mark(models.Model):
    """One thing somebody said, known by the phone's start and a number: only ever added.

    A place without a stop says that the carried end is on its way.
    """

    PLACE, NOTE, READY = "place", "note", "ready"
    KINDS = [(PLACE, "stands here"), (NOTE, "note"), (READY, "looked at before the first frame")]
    READ_BACK, CLOSE_RANGE, UNITS, CAUTIONS = "read-back", "close-range", "units", "cautions"
    ITEMS = [
        (READ_BACK, "settings read back at both ends"),
        (CLOSE_RANGE, "heard as it should be at arm’s length"),
        (UNITS, "serial numbers of the units written down"),
        (CAUTIONS, "cautions read"),
    ]

    walk = models.ForeignKey(Walk, on_delete=models.CASCADE, related_name="marks")
    kind = models.CharField(max_length=6, choices=KINDS)
    at = models.DateTimeField()
    stop = models.ForeignKey(
        Stop, on_delete=models.PROTECT, related_name="marks", null=True, blank=True
    )
    rig = models.ForeignKey(
        Rig, on_delete=models.PROTECT, related_name="marks", null=True, blank=True
    )
    condition = models.CharField("carried", max_length=60, blank=True)
    receiver = models.CharField(max_length=60, blank=True)
    text = models.CharField(max_length=600, blank=True)
    item = models.CharField(max_length=12, choices=ITEMS, blank=True)
    skipped = models.BooleanField(default=False)  # an item passed over, `text` says why
    start = models.CharField(max_length=40)  # of the page that said it
    number = models.PositiveIntegerField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    kept_at = models.DateTimeField(auto_now_add=True)

    objects = InWalkQuerySet.as_manager()

    class Meta:
        ordering = ["at", "pk"]
        constraints = [
            models.UniqueConstraint(fields=["walk", "start", "number"], name="mark_once"),
            models.CheckConstraint(
                name="mark_skipped_says_why",
                condition=models.Q(skipped=False) | ~models.Q(text=""),
                violation_error_message="Say why it is skipped.",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.kind} at {self.at:%H:%M}"


class Photo(models.Model):
    """A picture taken on a walk, made small and without what the camera wrote into it."""

    walk = models.ForeignKey(Walk, on_delete=models.CASCADE, related_name="photos")
    at = models.DateTimeField()
    data = models.BinaryField()  # JPEG
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    sha256 = models.CharField(max_length=64)  # of the file as it came, so that it comes once
    text = models.CharField("what it shows", max_length=200, blank=True)
    stop = models.ForeignKey(
        Stop, on_delete=models.SET_NULL, related_name="+", null=True, blank=True
    )
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    objects = InWalkQuerySet.as_manager()

    class Meta:
        ordering = ["at", "pk"]
        constraints = [
            models.UniqueConstraint(fields=["walk", "sha256"], name="photo_once"),
        ]

    def __str__(self) -> str:
        return self.text or f"photo at {self.at:%H:%M}"
