"""Visits, their frames, and counts by hand: facts, only ever added."""

from django.conf import settings
from django.db import models

from inchmark.pages.bounds import bounded
from inchmark.plan.models import Stop
from inchmark.shelf.models import Rig
from inchmark.walk.models.logs import FrameFile
from inchmark.walk.models.walks import Walk
from inchmark.walk.querysets import FrameQuerySet, InWalkQuerySet


class Visit(models.Model):
    """One rig at one stop in one walk, carried one way, heard by one receiver in one direction."""

    walk = models.ForeignKey(Walk, on_delete=models.PROTECT, related_name="visits")
    rig = models.ForeignKey(Rig, on_delete=models.PROTECT, related_name="visits")
    stop = models.ForeignKey(Stop, on_delete=models.PROTECT, related_name="visits")
    condition = models.CharField(max_length=60, blank=True)
    direction = models.CharField(max_length=60, blank=True)
    receiver = models.CharField(max_length=60, blank=True)
    sent = models.PositiveIntegerField(default=0)
    heard = models.PositiveIntegerField(default=0)
    silent_sent = models.PositiveIntegerField(
        "frames sent with nothing heard",
        null=True,
        blank=True,
        help_text="Counted when no line of a log speaks of the visit.",
    )
    summary = models.JSONField(default=dict)

    objects = InWalkQuerySet.as_manager()

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["walk", "rig", "stop", "condition", "direction", "receiver"],
                name="visit_once",
            ),
            models.CheckConstraint(
                name="visit_heard_within_sent",
                condition=models.Q(heard__lte=models.F("sent")),
                violation_error_message="More frames heard than sent. Check both counts.",
            ),
        ]

    def __str__(self) -> str:
        return f"rig {self.rig.letter} at stop {self.stop.label}"


class HandCount(models.Model):
    """Frames sent and heard of one pass of a visit, as somebody wrote them down.

    Facts are only ever added: the latest row of a visit and pass counts; none sent takes it back.
    """

    walk = models.ForeignKey(Walk, on_delete=models.CASCADE, related_name="counts")
    rig = models.ForeignKey(Rig, on_delete=models.PROTECT, related_name="counts")
    stop = models.ForeignKey(Stop, on_delete=models.PROTECT, related_name="counts")
    condition = models.CharField(max_length=60, blank=True)
    pass_number = models.PositiveSmallIntegerField("pass", default=1)
    sent = models.PositiveIntegerField()
    heard = models.PositiveIntegerField()
    rssi_dbm = models.FloatField("RSSI written down", null=True, blank=True)
    note = models.CharField(max_length=120, blank=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    objects = InWalkQuerySet.as_manager()

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.CheckConstraint(
                name="hand_count_heard_within_sent",
                condition=models.Q(heard__lte=models.F("sent")),
                violation_error_message="More frames heard than sent. Check both counts.",
            ),
            bounded("hand_count", "sent", 0, 1_000_000),
            bounded("hand_count", "pass_number", 1, 10),
            bounded("hand_count", "rssi_dbm", -200, 60, "dBm"),
        ]

    def __str__(self) -> str:
        return f"{self.heard} of {self.sent} by hand"


class Frame(models.Model):
    """One transmission as a log tells of it."""

    visit = models.ForeignKey(
        Visit, on_delete=models.PROTECT, related_name="frames", db_index=False
    )
    file = models.ForeignKey(
        FrameFile, on_delete=models.PROTECT, related_name="frames", db_index=False
    )
    line_number = models.BigIntegerField()
    pass_number = models.PositiveSmallIntegerField(
        default=0, db_default=0
    )  # which time the rig stood at this stop
    seq = models.BigIntegerField()
    heard = models.BooleanField(default=True)
    time = models.DateTimeField(null=True)
    rssi_dbm = models.FloatField(null=True)
    snr_db = models.FloatField(null=True)
    noise_dbm = models.FloatField(null=True)
    source = models.CharField(max_length=60, blank=True)
    hops = models.PositiveSmallIntegerField(null=True)
    lat = models.FloatField(null=True)
    lon = models.FloatField(null=True)

    objects = FrameQuerySet.as_manager()

    class Meta:
        constraints = [
            # a line may tell of several receivers, and of frames lost after the one it heard
            models.UniqueConstraint(
                fields=["file", "line_number", "visit", "seq"], name="frame_line_once"
            ),
            bounded("frame", "rssi_dbm", -200, 60, "dBm"),
            bounded("frame", "noise_dbm", -200, 60, "dBm"),
            bounded("frame", "snr_db", -80, 160, "dB"),
            bounded("frame", "seq", 0, 2**32 - 1),
        ]
        indexes = [
            models.Index(fields=["visit", "file", "line_number"], name="frame_by_visit"),
            models.Index(
                fields=["visit"],
                name="frame_near_noise",
                condition=models.Q(snr_db__lt=3, rssi_dbm__isnull=False),
            ),
        ]

    def __str__(self) -> str:
        return f"frame {self.seq}"


class VisitColumns(models.Model):
    """The frames that one log gave a visit, packed: a further log is summed up without reading these again."""

    visit = models.ForeignKey(Visit, on_delete=models.CASCADE, related_name="columns")
    file = models.ForeignKey(FrameFile, on_delete=models.CASCADE, related_name="+")
    data = models.BinaryField()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["visit", "file"], name="visit_columns_once"),
        ]

    def __str__(self) -> str:
        return f"{len(self.data)} bytes of columns"
