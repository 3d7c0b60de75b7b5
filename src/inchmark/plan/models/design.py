"""The design of a field day: question, frames, order, pace, cautions."""

from datetime import time

from django.conf import settings
from django.db import models

from inchmark.pages.bounds import bounded
from inchmark.plan.querysets import DesignQuerySet
from inchmark.shelf.models import Rig
from inchmark.studies.models import Study


class Design(models.Model):
    """What a field day is to settle, and how it is worked."""

    KINDS = [
        ("compare", "Which of two is better?"),
        ("reach", "Does it hold at the needed distance?"),
        ("edge", "Where does it stop?"),
    ]
    IDLE, WAITING, RUNNING, DONE, FAILED = "idle", "waiting", "running", "done", "failed"
    ARRANGEMENTS = [
        ("together", "every rig at every stop"),
        ("apart", "one rig after another"),
        ("days", "each rig on a day of its own"),
        ("people", "each rig with a person of its own, at once"),
    ]
    STATES = [(s, s) for s in (IDLE, WAITING, RUNNING, DONE, FAILED)]

    study = models.OneToOneField(Study, on_delete=models.CASCADE, related_name="design")
    kind = models.CharField("question", max_length=8, choices=KINDS, default="compare")
    rig = models.ForeignKey(
        Rig, on_delete=models.SET_NULL, null=True, blank=True, related_name="designs"
    )
    other = models.ForeignKey(
        Rig,
        on_delete=models.SET_NULL,
        null=True,
        blank=True,
        related_name="other_designs",
        verbose_name="against rig",
    )
    wanted_db = models.FloatField("difference worth having", default=2.0)
    frames = models.PositiveIntegerField("frames a visit", default=60)
    loss_within = models.FloatField(
        "loss wanted to ±", default=0.1, help_text="As a share: 0.1 tells 10 % from 0 and 20 %."
    )
    level_within_db = models.FloatField("level wanted to ±", default=1.0)
    passes = models.PositiveSmallIntegerField(
        default=1, help_text="2 walks out and back, so that a drift shows."
    )
    arrangement = models.CharField(
        "how the rigs go", max_length=8, choices=ARRANGEMENTS, default="together"
    )
    shuffled = models.BooleanField("rigs in drawn order", default=True)
    seed = models.PositiveIntegerField(default=1)
    # how rigs are carried, or what is on beside them, beside the usual way: each a visit of its own
    ways = models.JSONField(default=list, blank=True)
    walked_on = models.DateField("date", null=True, blank=True)
    starts_at = models.TimeField("start, local time", default=time(9))
    utc_offset_h = models.FloatField("local time is UTC plus (h)", default=0.0)
    interval_s = models.FloatField("frame every", null=True, blank=True)
    set_up_s = models.FloatField("set-up at a stop", default=120.0)
    change_s = models.FloatField("change of rig", default=60.0)
    speed_m_s = models.FloatField("pace", default=1.2)
    conditions = models.JSONField(default=list, blank=True)  # keys of cautions that apply
    exception = models.CharField(
        "why a limit may be broken",
        max_length=200,
        blank=True,
        help_text="A licence, a conducted test, a shielded room; it is recorded.",
    )
    power_state = models.CharField(max_length=8, choices=STATES, default=IDLE, editable=False)
    power_done = models.PositiveIntegerField(default=0, editable=False)
    power = models.JSONField(
        default=dict, editable=False
    )  # studies, settled, limits, revision of the study

    objects = DesignQuerySet.as_manager()

    class Meta:
        constraints = [
            bounded("design", "wanted_db", 0.1, 60, "dB"),
            bounded("design", "frames", 1, 100_000),
            bounded("design", "loss_within", 0.005, 0.5),
            bounded("design", "level_within_db", 0.05, 20, "dB"),
            bounded("design", "passes", 1, 10),
            bounded("design", "seed", 0, 2_147_483_647),
            bounded("design", "utc_offset_h", -12, 14, "h"),
            bounded("design", "interval_s", 0.001, 86_400, "s"),
            bounded("design", "set_up_s", 0, 86_400, "s"),
            bounded("design", "change_s", 0, 86_400, "s"),
            bounded("design", "speed_m_s", 0.1, 50, "m/s"),
        ]

    def __str__(self) -> str:
        return f"design of {self.study}"

    @property
    def all_ways(self) -> list[str]:
        """Return the ways every rig is carried: as usual first."""
        return ["", *self.ways]


class Acknowledgement(models.Model):
    """A caution read by somebody, by name and time."""

    design = models.ForeignKey(Design, on_delete=models.CASCADE, related_name="acknowledgements")
    key = models.CharField(max_length=20)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    name = models.CharField("your name", max_length=80)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["at", "pk"]

    def __str__(self) -> str:
        return f"{self.key} read by {self.name}"


class SiteMap(models.Model):
    """The share of frames expected over a site for one rig, as bands of a map."""

    STATES = Design.STATES

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="site_maps")
    rig = models.ForeignKey(Rig, on_delete=models.CASCADE, related_name="site_maps")
    state = models.CharField(max_length=8, choices=STATES, default=Design.WAITING)
    done = models.FloatField(default=0.0)  # share of the cells
    bands = models.JSONField(default=list)  # [from share, to share, [rings of [lat, lon]]]
    revision = models.PositiveIntegerField(default=0)  # of the study it was made from
    problem = models.CharField(max_length=200, blank=True)
    words = models.CharField(max_length=200, blank=True)  # by which law it was drawn

    objects = DesignQuerySet.as_manager()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["study", "rig"], name="site_map_once"),
            bounded("site_map", "done", 0, 1),
        ]

    def __str__(self) -> str:
        return f"map of rig {self.rig.letter}"
