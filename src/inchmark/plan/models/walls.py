"""Walls of a site: lines that paths lose something at, each where they cross it."""

from typing import Any

from django.core.exceptions import ValidationError
from django.db import models
from django.db.models import Q

from inchmark.pages.bounds import bounded
from inchmark.plan.querysets import StopQuerySet
from inchmark.studies.models import Study

MOST_POINTS = 500  # of one wall


def is_line(found: Any) -> None:
    """Refuse what is no line of latitudes and longitudes [degrees]."""
    if not isinstance(found, list) or not 2 <= len(found) <= MOST_POINTS:
        raise ValidationError(f"A wall has 2 to {MOST_POINTS} points.")
    for one in found:
        pair = isinstance(one, list | tuple) and len(one) == 2
        if not pair or not all(isinstance(at, int | float) for at in one):
            raise ValidationError("A point of a wall is a latitude and a longitude.")
        if not (-90 <= one[0] <= 90 and -180 <= one[1] <= 180):
            raise ValidationError("A point of a wall lies off the globe. Latitude comes first.")


class SiteWall(models.Model):
    """A wall, higher than both antennas, along points on the ground."""

    TYPED = "typed"
    KINDS = [
        ("light", "light wall (plasterboard, hollow blocks)"),
        ("heavy", "heavy wall (concrete, brick)"),
        ("concrete", "concrete"),
        ("brick", "brick"),
        ("plasterboard", "plasterboard"),
        ("wood", "wood"),
        ("glass", "glass"),
        ("chipboard", "chipboard"),
        ("metal", "metal"),
        (TYPED, "loss typed"),
    ]

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="walls")
    name = models.CharField("what it is", max_length=80, blank=True)
    kind = models.CharField("made of", max_length=12, choices=KINDS, default="light")
    thickness_m = models.FloatField("thickness", null=True, blank=True)
    loss_db = models.FloatField("loss of one crossing", null=True, blank=True)
    points = models.JSONField("points", validators=[is_line])  # [lat, lon] of each
    from_file = models.BooleanField(default=False, editable=False)

    objects = StopQuerySet.as_manager()

    class Meta:
        ordering = ["pk"]
        constraints = [
            bounded("site_wall", "thickness_m", 0.0005, 3, "m"),
            bounded("site_wall", "loss_db", 0, 100, "dB"),
            models.CheckConstraint(
                name="site_wall_typed_with_loss",
                condition=~Q(kind="typed") | Q(loss_db__isnull=False),
                violation_error_message="Type what one crossing costs, or choose what the wall is made of.",
            ),
        ]

    def __str__(self) -> str:
        return self.name or self.get_kind_display().split(" (")[0]
