"""The site: the fixed end and how paths from it are predicted, features, terrain."""

from functools import cached_property

from django.core.validators import RegexValidator
from django.db import models
from django.db.models import Q

from inchmark.pages.bounds import bounded
from inchmark.plan.models.walls import SiteWall
from inchmark.shelf.models import Surrounding
from inchmark.studies.models import Study

_tiles = RegexValidator(
    r"^https?://[A-Za-z0-9.-]+(:[0-9]{1,5})?/[A-Za-z0-9._~/{}?=&%+@:-]*$",
    "A tile server is an address like https://tiles.example/{z}/{x}/{y}.png.",
)


class Site(models.Model):
    """Where the fixed end stands, and how paths from it are predicted."""

    MODELS = [
        ("log_distance", "a path exponent from 1 m on"),
        ("free_space", "free space"),
        ("two_ray", "two rays over flat ground"),
        ("terrain", "terrain (delta-Bullington)"),
        ("indoor", "inside a building (P.1238)"),
        ("kept", "a surrounding from the shelf"),
    ]
    BUILDINGS = [
        ("residential", "homes"),
        ("office", "offices"),
        ("commercial", "shops and halls"),
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
    ground = models.CharField(
        "what the ground is", max_length=12, choices=GROUNDS, default="ground"
    )
    polarisation = models.CharField(max_length=10, choices=POLARISATIONS, default="vertical")
    building = models.CharField(max_length=12, choices=BUILDINGS, default="office")
    surrounding = models.ForeignKey(
        Surrounding, on_delete=models.PROTECT, null=True, blank=True, related_name="sites"
    )
    shadowing_db = models.FloatField("spread between places", default=6.0)
    tiles_url = models.CharField(
        "tile server",
        max_length=300,
        blank=True,
        validators=[_tiles],
        help_text="Pictures for the map from a server of yours, like https://tiles.example/{z}/{x}/{y}.png. Empty: contour lines alone, and no network.",
    )
    tiles_credit = models.CharField(
        "credit for its pictures", max_length=120, blank=True, help_text="Shown on the map."
    )

    class Meta:
        constraints = [
            bounded("site", "shadowing_db", 0.1, 20, "dB"),
            bounded("site", "lat", -90, 90, "degrees"),
            bounded("site", "lon", -180, 180, "degrees"),
            bounded("site", "ground_m", -500, 9000, "m"),
            models.CheckConstraint(
                name="site_kept_by_a_surrounding",
                condition=~Q(model="kept") | Q(surrounding__isnull=False),
                violation_error_message="Choose the surrounding from the shelf that paths are predicted by.",
            ),
            models.CheckConstraint(
                name="site_lat_with_lon",
                condition=Q(lat__isnull=True, lon__isnull=True)
                | Q(lat__isnull=False, lon__isnull=False),
                violation_error_message="Give both latitude and longitude, or neither.",
            ),
        ]

    def __str__(self) -> str:
        return self.fixed_name or "fixed end"

    @cached_property
    def walls_drawn(self) -> list[SiteWall]:
        """Return the walls of the site; no question where it is known that there are none."""
        known_bare = getattr(self, "has_walls", True) is False
        return [] if known_bare else list(SiteWall.objects.filter(study_id=self.study_id))


class SiteFeatures(models.Model):
    """Lines, areas and marks of a site, drawn on its map as a file gave them."""

    study = models.OneToOneField(Study, on_delete=models.CASCADE, related_name="features")
    name = models.CharField("file", max_length=200)
    features = models.JSONField(default=list)  # [kind, name, rings of [lat, lon], cover]

    def __str__(self) -> str:
        return self.name


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
    # what stands in the cells by the map's features: bytes of whole metres, compressed
    cover = models.BinaryField(null=True, editable=False)

    def __str__(self) -> str:
        return self.name
