"""Places of a site: stops at measured distances, further receivers, places that need a node."""

from django.db import models

from inchmark.pages.bounds import bounded
from inchmark.plan.querysets import StopQuerySet
from inchmark.studies.models import Study


class Covered(models.Model):
    """What covers a place, as predictions take it."""

    COVERS = [
        ("", "nothing"),
        ("woodland", "inside a wood"),
        ("clutter", "among houses or trees"),
        ("traditional", "inside a traditional building"),
        ("thermally_efficient", "inside a well insulated building"),
    ]

    cover = models.CharField("what covers it", max_length=20, choices=COVERS, blank=True)
    cover_m = models.FloatField("depth of the wood", default=0.0)
    floors = models.PositiveSmallIntegerField("floors between", default=0)

    class Meta:
        abstract = True


class Stop(Covered):
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
    profile = models.JSONField(default=list, blank=True)  # [distance m, height m, cover] of a path

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
            bounded("stop", "cover_m", 0, 10_000, "m"),
            bounded("stop", "floors", 0, 200),
        ]

    def __str__(self) -> str:
        return f"stop {self.label}"


class SitePoint(Covered):
    """A further receiver, or a place where a node is needed; both by coordinates."""

    RECEIVER, NODE = "receiver", "node"
    KINDS = [(NODE, "a node is needed here"), (RECEIVER, "a further receiver")]

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="points")
    kind = models.CharField("what it is", max_length=8, choices=KINDS, default=NODE)
    label = models.CharField(max_length=20)
    name = models.CharField("what stands there", max_length=80, blank=True)
    lat = models.FloatField("latitude")
    lon = models.FloatField("longitude")
    antenna_m = models.FloatField("height of the antenna", null=True, blank=True)  # else the rig's

    objects = StopQuerySet.as_manager()

    class Meta:
        ordering = ["kind", "pk"]
        constraints = [
            models.UniqueConstraint(
                fields=["study", "label"],
                name="site_point_label_once",
                violation_error_message="This study has a place of that label already.",
            ),
            bounded("site_point", "lat", -90, 90, "degrees"),
            bounded("site_point", "lon", -180, 180, "degrees"),
            bounded("site_point", "antenna_m", 0, 10_000, "m"),
            bounded("site_point", "cover_m", 0, 10_000, "m"),
            bounded("site_point", "floors", 0, 200),
        ]

    def __str__(self) -> str:
        return f"{self.label} {self.name}".strip()
