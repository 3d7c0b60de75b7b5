"""The logs of a walk: facts kept whole, and what could not be read of them."""

from django.conf import settings
from django.db import models

from inchmark.walk.models.walks import Walk
from inchmark.walk.querysets import FrameFileQuerySet, InWalkQuerySet


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
    sent_count = models.BigIntegerField(default=0)  # of a sender's own log: frames it says went out
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
    # when each of its lines came, as float64 [s since 1970]; of live sources that say so
    came = models.BinaryField(null=True)

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


class ReadBack(models.Model):
    """What a board was told over its lead, and what it answered: settings read back, as they came."""

    walk = models.ForeignKey(Walk, on_delete=models.CASCADE, related_name="read_backs")
    source = models.CharField(max_length=60)
    at = models.DateTimeField()
    asked = models.CharField(max_length=400)
    answered = models.TextField(blank=True, max_length=4000)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    objects = InWalkQuerySet.as_manager()

    class Meta:
        ordering = ["-at", "-pk"]
        constraints = [
            models.UniqueConstraint(fields=["walk", "source", "at"], name="read_back_once"),
        ]

    def __str__(self) -> str:
        return f"{self.source}, read back at {self.at:%H:%M}"
