"""Walks, who may log into them, and who stood where when."""

from django.conf import settings
from django.db import models
from django.urls import reverse

from inchmark.pages.bounds import bounded
from inchmark.plan.models import Stop
from inchmark.shelf.models import Rig, Unit
from inchmark.studies.models import Study
from inchmark.walk.querysets import InWalkQuerySet, WalkQuerySet


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
    goes_on = models.BooleanField(
        default=False
    )  # nobody has said its end yet; `to_time` is far off
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


class Track(models.Model):
    """Where an end of the link was, when: points of a receiver of positions, and its clock's shift."""

    CARRIED, FIXED = "carried", "fixed"
    ENDS = [(CARRIED, "the carried end"), (FIXED, "the fixed end")]

    walk = models.ForeignKey(Walk, on_delete=models.CASCADE, related_name="tracks")
    name = models.CharField(max_length=200)
    end = models.CharField("of", max_length=8, choices=ENDS, default=CARRIED)
    # times [s since 1970], latitudes, longitudes [degrees] and dilutions, as float64 one after another;
    # since satellites, quality and age are kept, these too
    points = models.BinaryField()
    count = models.PositiveIntegerField()
    from_time = models.DateTimeField()
    to_time = models.DateTimeField()
    shift_s = models.FloatField("seconds to add to its clock", default=0.0)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    objects = InWalkQuerySet.as_manager()

    class Meta:
        ordering = ["from_time", "pk"]
        constraints = [bounded("track", "shift_s", -86_400, 86_400, "s")]

    def __str__(self) -> str:
        return self.name
