"""The site: the fixed end's place, and numbered stops at measured distances."""

from django.db import models
from django.db.models import Q

from inchmark.pages.bounds import bounded
from inchmark.plan.querysets import StopQuerySet
from inchmark.studies.models import Study


class Site(models.Model):
    """Where the fixed end stands, and how paths from it are predicted."""

    MODELS = [
        ("log_distance", "a path exponent from 1 m on"),
        ("free_space", "free space"),
        ("two_ray", "two rays over flat ground"),
        ("terrain", "terrain (delta-Bullington)"),
    ]
    OPENNESS = [
        ("open", "open, exponent 2.7"),
        ("middling", "middling, exponent 3.1"),
        ("cluttered", "cluttered, exponent 3.6"),
    ]
    GROUNDS = [
        ("dry ground", "dry ground"),
        ("ground", "ground"),
        ("wet ground", "wet ground"),
        ("fresh water", "fresh water"),
        ("sea water", "sea water"),
    ]
    POLARISATIONS = [("vertical", "vertical"), ("horizontal", "horizontal")]

    study = models.OneToOneField(Study, on_delete=models.CASCADE, related_name="site")
    fixed_name = models.CharField("fixed end", max_length=80, blank=True)
    lat = models.FloatField("latitude", null=True, blank=True)
    lon = models.FloatField("longitude", null=True, blank=True)
    ground_m = models.FloatField("height of the ground", null=True, blank=True)
    model = models.CharField(
        "paths are predicted by", max_length=14, choices=MODELS, default="log_distance"
    )
    openness = models.CharField(max_length=10, choices=OPENNESS, default="middling")
    ground = models.CharField("what the ground is", max_length=12, choices=GROUNDS,
                              default="ground")  # fmt: skip
    polarisation = models.CharField(max_length=10, choices=POLARISATIONS, default="vertical")
    shadowing_db = models.FloatField("spread between places", default=6.0)

    class Meta:
        constraints = [
            bounded("site", "shadowing_db", 0.1, 20, "dB"),
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

    COVERS = [
        ("", "nothing"),
        ("woodland", "inside a wood"),
        ("clutter", "among houses or trees"),
        ("traditional", "inside a traditional building"),
        ("thermally_efficient", "inside a well insulated building"),
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
    cover = models.CharField("what covers it", max_length=20, choices=COVERS, blank=True)
    cover_m = models.FloatField("depth of the wood", default=0.0)
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
        ]

    def __str__(self) -> str:
        return f"stop {self.label}"


class Terrain(models.Model):
    """Heights around a site, by latitude and longitude."""

    study = models.OneToOneField(Study, on_delete=models.CASCADE, related_name="terrain")
    name = models.CharField("file", max_length=200)
    north_deg = models.FloatField()
    west_deg = models.FloatField()
    lat_step_deg = models.FloatField()
    lon_step_deg = models.FloatField()
    rows = models.PositiveIntegerField()
    columns = models.PositiveIntegerField()
    heights = models.BinaryField()  # 32-bit floats, row by row from the north, compressed
    contours = models.JSONField(default=list)  # [height m, [[lat, lon], …]] of each line

    def __str__(self) -> str:
        return self.name
