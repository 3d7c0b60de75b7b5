"""The site: the fixed end's place, and numbered stops at measured distances."""

from django.db import models
from django.db.models import Q

from inchmark.pages.bounds import bounded
from inchmark.plan.querysets import StopQuerySet
from inchmark.studies.models import Study


class Site(models.Model):
    """Where the fixed end stands."""

    study = models.OneToOneField(Study, on_delete=models.CASCADE, related_name="site")
    fixed_name = models.CharField("fixed end", max_length=80, blank=True)
    lat = models.FloatField("latitude", null=True, blank=True)
    lon = models.FloatField("longitude", null=True, blank=True)
    ground_m = models.FloatField("height of the ground", null=True, blank=True)

    class Meta:
        constraints = [
            bounded("site", "lat", -90, 90, "degrees"),
            bounded("site", "lon", -180, 180, "degrees"),
            bounded("site", "ground_m", -500, 9000, "m"),
            models.CheckConstraint(
                name="site_lat_with_lon",
                condition=Q(lat__isnull=True, lon__isnull=True)
                | Q(lat__isnull=False, lon__isnull=False),
                violation_error_message="Give both latitude and longitude, or neither.",
            ),
        ]

    def __str__(self) -> str:
        return self.fixed_name or "fixed end"


class Stop(models.Model):
    """A place with a measured distance from the fixed end."""

    METHODS = [
        ("tape", "tape"),
        ("rangefinder", "rangefinder"),
        ("coordinates", "coordinates"),
        ("gps", "GPS reading"),
        ("map", "map"),
        ("pace", "paced"),
        ("road", "road distance"),
        ("guess", "guess"),
        ("", "not said"),
    ]

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="stops")
    label = models.CharField("stop", max_length=60)
    name = models.CharField("what it is", max_length=80, blank=True)
    distance_m = models.FloatField("distance")
    plus_minus_m = models.FloatField("plus or minus", null=True, blank=True)
    method = models.CharField("measured by", max_length=12, choices=METHODS, blank=True)
    lat = models.FloatField("latitude", null=True, blank=True)
    lon = models.FloatField("longitude", null=True, blank=True)
    height_m = models.FloatField("height of the ground", null=True, blank=True)

    objects = StopQuerySet.as_manager()

    class Meta:
        ordering = ["distance_m", "label"]
        constraints = [
            models.UniqueConstraint(
                fields=["study", "label"],
                name="stop_label_once",
                violation_error_message="This study has a stop of that name already.",
            ),
            bounded("stop", "distance_m", 0.1, 1_000_000, "m"),
            bounded("stop", "plus_minus_m", 0, 100_000, "m"),
            bounded("stop", "lat", -90, 90, "degrees"),
            bounded("stop", "lon", -180, 180, "degrees"),
            bounded("stop", "height_m", -500, 9000, "m"),
        ]

    def __str__(self) -> str:
        return f"stop {self.label}"
