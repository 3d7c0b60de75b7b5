"""Walks, the files they came from, visits and frames: facts, only ever added."""

from django.conf import settings
from django.db import models
from django.urls import reverse

from inchmark.pages.bounds import bounded
from inchmark.plan.models import Stop
from inchmark.shelf.models import Rig, Unit
from inchmark.studies.models import Study
from inchmark.walk.querysets import (
    FrameFileQuerySet,
    FrameQuerySet,
    InWalkQuerySet,
    WalkQuerySet,
)


class Walk(models.Model):
    """One outing: date, people, weather, order of work."""

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="walks")
    number = models.PositiveIntegerField()
    walked_on = models.DateField("date")
    people = models.CharField(max_length=120, blank=True)
    weather = models.CharField(max_length=120, blank=True)
    note = models.TextField(blank=True, max_length=2000)
    interval_s = models.FloatField("beacon interval", null=True, blank=True)
    frames_per_visit = models.PositiveIntegerField("frames sent per visit", null=True, blank=True)
    counter_bits = models.PositiveSmallIntegerField(
        "counter width",
        null=True,
        blank=True,
        choices=[(8, "8 bits"), (16, "16 bits"), (32, "32 bits")],
    )

    fixed_unit = models.ForeignKey(
        Unit,
        on_delete=models.PROTECT,
        null=True,
        blank=True,
        related_name="fixed_walks",
        verbose_name="unit at the fixed end",
    )

    objects = WalkQuerySet.as_manager()

    class Meta:
        ordering = ["number"]
        constraints = [
            models.UniqueConstraint(fields=["study", "number"], name="walk_number_once"),
            bounded("walk", "interval_s", 0.001, 86_400, "s"),
            bounded("walk", "frames_per_visit", 1, 1_000_000),
        ]

    def __str__(self) -> str:
        return f"walk {self.number}"

    def get_absolute_url(self) -> str:
        """Return the address of the walk's page."""
        return reverse("walk:walk", args=[self.study_id, self.pk])


class FieldPass(models.Model):
    """Lets one person log into one walk and see no more; only the link's digest is kept."""

    walk = models.ForeignKey(Walk, on_delete=models.CASCADE, related_name="passes")
    name = models.CharField("who", max_length=60)
    digest = models.CharField(max_length=64, unique=True)
    user = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, null=True, related_name="field_passes"
    )
    made_at = models.DateTimeField(auto_now_add=True)
    expires_at = models.DateTimeField()

    objects = InWalkQuerySet.as_manager()

    class Meta:
        ordering = ["made_at", "pk"]

    def __str__(self) -> str:
        return f"{self.name} for {self.walk}"


class WalkUnit(models.Model):
    """The unit of a rig that was carried in a walk."""

    walk = models.ForeignKey(Walk, on_delete=models.CASCADE, related_name="units")
    rig = models.ForeignKey(Rig, on_delete=models.CASCADE, related_name="walk_units")
    unit = models.ForeignKey(Unit, on_delete=models.PROTECT, related_name="walk_units")

    objects = InWalkQuerySet.as_manager()

    class Meta:
        ordering = ["rig__letter"]
        constraints = [models.UniqueConstraint(fields=["walk", "rig"], name="walk_unit_once")]

    def __str__(self) -> str:
        return f"rig {self.rig.letter} in {self.walk}"


class FrameFile(models.Model):
    """A log as it came, kept whole in chunks; what it gave, or why it could not be read."""

    RECEIVING, WAITING, READ, FAILED = "receiving", "waiting", "read", "failed"
    ASKING, ASIDE = "asking", "aside"
    STATES = [
        (ASKING, "waits for its recipe"),
        (ASIDE, "set aside"),
        (RECEIVING, "arriving"),
        (WAITING, "being read"),
        (READ, "read"),
        (FAILED, "not read"),
    ]
    UPLOAD, BOARDS, API = "upload", "boards", "api"
    KINDS = [(UPLOAD, "uploaded"), (BOARDS, "simulated boards"), (API, "bridge")]

    walk = models.ForeignKey(Walk, on_delete=models.PROTECT, related_name="files")
    name = models.CharField(max_length=200)
    kind = models.CharField(max_length=8, choices=KINDS)
    sha256 = models.CharField(max_length=64, blank=True)
    size_bytes = models.BigIntegerField(default=0)
    state = models.CharField(max_length=10, choices=STATES, default=WAITING)
    problem = models.CharField(max_length=600, blank=True)
    frame_count = models.BigIntegerField(default=0)
    bad_count = models.BigIntegerField(default=0)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    read_at = models.DateTimeField(null=True)
    # a log that grows: which source's, since which start of it, and how many lines have come
    source = models.CharField(max_length=60, blank=True)
    source_start = models.CharField(max_length=40, blank=True)
    line_count = models.BigIntegerField(default=0)
    # what its lines mean, and what it stands for where they do not say; none for our own frame log
    recipe = models.JSONField(null=True)
    said = models.JSONField(default=dict)
    unknown = models.JSONField(
        default=dict
    )  # names the study lacks, with how many frames bear them
    no_frame_count = models.BigIntegerField(default=0)  # lines that are no frames
    aside_reason = models.CharField("why it is set aside", max_length=200, blank=True)
    let_go_at = models.DateTimeField(null=True)  # its lines; what was read from them stays

    objects = FrameFileQuerySet.as_manager()

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.UniqueConstraint(
                fields=["walk", "sha256"], name="file_once_per_walk", condition=~models.Q(sha256="")
            ),
            models.UniqueConstraint(
                fields=["walk", "source", "source_start"],
                name="source_once_per_walk",
                condition=~models.Q(source=""),
            ),
        ]

    def __str__(self) -> str:
        return self.name


class FileChunk(models.Model):
    """A piece of a file's bytes."""

    file = models.ForeignKey(FrameFile, on_delete=models.CASCADE, related_name="chunks")
    number = models.PositiveIntegerField()
    data = models.BinaryField()

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["file", "number"], name="chunk_once")]

    def __str__(self) -> str:
        return f"{self.file} {self.number}"


class ImportProgress(models.Model):
    """How far a file's reading has come.

    Written outside the import's transaction so it can be seen.
    """

    file = models.OneToOneField(FrameFile, on_delete=models.CASCADE, related_name="progress")
    done = models.BigIntegerField(default=0)  # bytes read
    frames = models.BigIntegerField(default=0)

    def __str__(self) -> str:
        return f"{self.file}: {self.done}"


class BadLine(models.Model):
    """A line that could not be read, with the reason."""

    file = models.ForeignKey(FrameFile, on_delete=models.CASCADE, related_name="bad_lines")
    line_number = models.BigIntegerField()
    text = models.TextField(blank=True)
    reason = models.CharField(max_length=400)

    class Meta:
        ordering = ["line_number"]
        constraints = [
            models.UniqueConstraint(fields=["file", "line_number"], name="bad_line_once")
        ]

    def __str__(self) -> str:
        return f"{self.file} line {self.line_number}"


class LineCorrection(models.Model):
    """What is to be read in place of a line.

    The file keeps the line as it came. The latest row counts.
    """

    file = models.ForeignKey(FrameFile, on_delete=models.CASCADE, related_name="corrections")
    line_number = models.BigIntegerField()
    text = models.TextField(blank=True, max_length=4000)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.file} line {self.line_number}"


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


class Stay(models.Model):
    """A stretch of time of a walk: which rig stood at which stop, carried how, heard by whom."""

    walk = models.ForeignKey(Walk, on_delete=models.CASCADE, related_name="stays")
    from_time = models.DateTimeField("from")
    to_time = models.DateTimeField("to")
    stop = models.ForeignKey(Stop, on_delete=models.PROTECT, related_name="stays")
    rig = models.ForeignKey(
        Rig, on_delete=models.PROTECT, related_name="stays", null=True, blank=True
    )
    condition = models.CharField("carried", max_length=60, blank=True)
    receiver = models.CharField(max_length=60, blank=True)
    sent = models.PositiveIntegerField("frames sent", null=True, blank=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    objects = InWalkQuerySet.as_manager()

    class Meta:
        ordering = ["from_time", "pk"]
        constraints = [
            models.CheckConstraint(
                name="stay_goes_on",
                condition=models.Q(to_time__gt=models.F("from_time")),
                violation_error_message="The stay ends before it begins. Check both times.",
            ),
            bounded("stay", "sent", 0, 1_000_000),
        ]

    def __str__(self) -> str:
        return f"stop {self.stop.label}, {self.from_time:%H:%M} to {self.to_time:%H:%M}"


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
