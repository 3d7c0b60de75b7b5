"""Bench checks: each with a result, a date and the units."""

from django.db import models
from django.urls import reverse

from inchmark.pages.bounds import bounded
from inchmark.shelf.models.parts import Antenna, Module
from inchmark.shelf.querysets import ShelfQuerySet
from inchmark.studies.models import Study


class Sweep(models.Model):
    """An S11 sweep of one antenna; sweeps of one series differ in one thing and its value."""

    STATES = [("free", "free"), ("metal", "near metal"), ("retuned", "retuned near metal")]

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="sweeps")
    antenna = models.CharField(max_length=60)
    part = models.ForeignKey(
        Antenna,
        on_delete=models.PROTECT,
        null=True,
        blank=True,
        related_name="sweeps",
        verbose_name="antenna on the shelf",
    )
    unit = models.CharField("unit (serial)", max_length=40, blank=True)
    swept_on = models.DateField("date")
    band_low_hz = models.FloatField("band from", default=863e6)
    band_high_hz = models.FloatField("band to", default=870e6)
    state = models.CharField("as it stands", max_length=8, choices=STATES, blank=True)
    series = models.CharField("trim series", max_length=60, blank=True)
    changed = models.CharField("what is changed", max_length=60, blank=True)
    value = models.FloatField("its value", null=True, blank=True)
    name = models.CharField("file", max_length=200)
    data = models.BinaryField()
    points = models.JSONField(default=list)  # [Hz, real, imaginary] of each point, in 50 ohm
    reference_ohm = models.FloatField(default=50.0, editable=False)  # it was measured in
    remarks = models.CharField(max_length=300, blank=True, editable=False)  # what was assumed

    objects = ShelfQuerySet.as_manager()

    class Meta:
        ordering = ["swept_on", "pk"]
        constraints = [
            bounded("sweep", "band_low_hz", 1e5, 1e11, "Hz"),
            bounded("sweep", "band_high_hz", 1e5, 1e11, "Hz"),
            bounded("sweep", "value", -1e6, 1e6),
            models.CheckConstraint(
                name="sweep_band_ascends",
                condition=models.Q(band_low_hz__lt=models.F("band_high_hz")),
                violation_error_message="The band must end above where it begins.",
            ),
            models.CheckConstraint(
                name="sweep_series_with_value",
                condition=models.Q(series="") | models.Q(value__isnull=False),
                violation_error_message="A sweep of a series needs the value of what is changed.",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.antenna}, {self.name}"

    def get_absolute_url(self) -> str:
        """Return the address of the sweep's page."""
        return reverse("shelf:sweep", args=[self.study_id, self.pk])


class ConductedCheck(models.Model):
    """A conducted ladder: frames through cable and attenuators, level by level."""

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="conducted_checks")
    rig = models.ForeignKey("Rig", on_delete=models.CASCADE, related_name="conducted_checks")
    unit = models.CharField("unit (serial)", max_length=40, blank=True)
    checked_on = models.DateField("date")
    source_dbm = models.FloatField("transmit power")
    fixed_loss_db = models.FloatField("loss of cables and adapters", default=0.0)
    steps = models.JSONField()  # [attenuation dB, sent, heard]
    log_name = models.CharField(max_length=200, blank=True, editable=False)
    log = models.BinaryField(null=True, editable=False)  # the frame log, as it came
    reading = models.JSONField(default=dict, editable=False)  # what the steps say, weighed once
    # module and setting it was measured with; a level in use serves every rig that has the same
    measured_with = models.CharField(max_length=300, blank=True, editable=False)

    objects = ShelfQuerySet.as_manager()

    class Meta:
        ordering = ["checked_on", "pk"]
        constraints = [
            bounded("conducted", "source_dbm", -100, 60, "dBm"),
            bounded("conducted", "fixed_loss_db", 0, 200, "dB"),
        ]

    def __str__(self) -> str:
        return f"conducted ladder of rig {self.rig.letter}, {self.checked_on:%-d %b %Y}"


class Centring(models.Model):
    """A receiver stepped off the carrier to both sides until the link was lost."""

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="centrings")
    rig = models.ForeignKey("Rig", on_delete=models.CASCADE, related_name="centrings")
    unit = models.CharField("receiver (serial)", max_length=40, blank=True)
    sender = models.CharField("transmitter (serial)", max_length=40, blank=True)
    checked_on = models.DateField("date")
    level_dbm = models.FloatField("level on the carrier", null=True, blank=True)
    drift_ppm = models.FloatField("both crystals may drift", default=20.0)
    in_steps = models.BooleanField("offsets are in the module’s own steps", default=False)
    hz_per_step = models.FloatField("Hz a step", null=True, blank=True)
    steps = models.JSONField(default=list, blank=True)  # [offset Hz, or steps; sent, heard]
    # [lost going down, back coming up, back coming down, lost going up], in the same unit
    edges = models.JSONField(default=list, blank=True)
    # what was done about it, by its key: when, by whom, and what came of it
    done = models.JSONField(default=dict, editable=False)

    objects = ShelfQuerySet.as_manager()

    class Meta:
        ordering = ["checked_on", "pk"]
        constraints = [
            bounded("centring", "hz_per_step", 0.001, 1e9, "Hz"),
            bounded("centring", "level_dbm", -180, 30, "dBm"),
            bounded("centring", "drift_ppm", 0, 1000, "ppm"),
        ]

    def __str__(self) -> str:
        return f"centring of rig {self.rig.letter}, {self.checked_on:%-d %b %Y}"


class CloseRange(models.Model):
    """The level at a short fixed distance, and what was swapped when it was wrong."""

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="close_ranges")
    rig = models.ForeignKey("Rig", on_delete=models.CASCADE, related_name="close_ranges")
    unit = models.CharField("carried end (serial)", max_length=40, blank=True)
    checked_on = models.DateField("date")
    distance_m = models.FloatField("distance", default=3.0)
    power_dbm = models.FloatField("transmit power", default=0.0)
    parallel_dbm = models.FloatField("RSSI, antennas parallel", null=True, blank=True)
    crossed_dbm = models.FloatField("RSSI, antennas crossed", null=True, blank=True)
    crossed_distance_m = models.FloatField("distance when crossed", null=True, blank=True)
    # windows of one's own; empty where free space or good units tell
    low_dbm = models.FloatField("window from", null=True, blank=True)
    high_dbm = models.FloatField("window to", null=True, blank=True)
    crossed_low_dbm = models.FloatField("window crossed, from", null=True, blank=True)
    crossed_high_dbm = models.FloatField("window crossed, to", null=True, blank=True)
    good = models.BooleanField(
        "a unit known to be good",
        default=False,
        help_text="Three good ones teach the window for this rig's module and antenna.",
    )
    # question of the fault tree -> answer, what was swapped, what it gave [dBm]
    answers = models.JSONField(default=dict, editable=False)
    finding = models.CharField(max_length=200, blank=True, editable=False)  # kept on the unit

    objects = ShelfQuerySet.as_manager()

    class Meta:
        ordering = ["checked_on", "pk"]
        constraints = [
            bounded("close", "distance_m", 0.05, 100, "m"),
            bounded("close", "power_dbm", -60, 60, "dBm"),
            bounded("close", "parallel_dbm", -180, 30, "dBm"),
            bounded("close", "crossed_dbm", -180, 30, "dBm"),
            bounded("close", "crossed_distance_m", 0.05, 100, "m"),
            bounded("close", "low_dbm", -180, 30, "dBm"),
            bounded("close", "high_dbm", -180, 30, "dBm"),
            bounded("close", "crossed_low_dbm", -180, 30, "dBm"),
            bounded("close", "crossed_high_dbm", -180, 30, "dBm"),
            models.CheckConstraint(
                name="close_reads_something",
                condition=models.Q(parallel_dbm__isnull=False)
                | models.Q(crossed_dbm__isnull=False),
                violation_error_message="Give the RSSI with the antennas parallel, crossed, or both.",
            ),
            models.CheckConstraint(
                name="close_window_ascends",
                condition=(
                    models.Q(low_dbm__isnull=True, high_dbm__isnull=True)
                    | models.Q(low_dbm__lt=models.F("high_dbm"))
                )
                & (
                    models.Q(crossed_low_dbm__isnull=True, crossed_high_dbm__isnull=True)
                    | models.Q(crossed_low_dbm__lt=models.F("crossed_high_dbm"))
                ),
                violation_error_message="A window of one’s own needs both ends, the weaker first, like −35 to −8 dBm.",
            ),
        ]

    def __str__(self) -> str:
        return f"close range of rig {self.rig.letter}, {self.checked_on:%-d %b %Y}"


class CurrentTrace(models.Model):
    """A current trace of a module at work, taken apart once."""

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="current_traces")
    rig = models.ForeignKey("Rig", on_delete=models.CASCADE, related_name="current_traces")
    module = models.ForeignKey(
        Module, on_delete=models.SET_NULL, null=True, blank=True, related_name="current_traces"
    )
    unit = models.CharField("unit (serial)", max_length=40, blank=True)
    traced_on = models.DateField("date")
    supply_v = models.FloatField("supply voltage", default=3.3)
    period_s = models.FloatField("one message every", default=900.0)
    shunt_ohm = models.FloatField("shunt", null=True, blank=True)
    offset_a = models.FloatField("the meter reads with nothing connected", default=0.0)
    corrections = models.JSONField(default=dict, editable=False)  # edges_a and names of levels
    name = models.CharField("file", max_length=200)
    data = models.BinaryField()
    reading = models.JSONField(default=dict, editable=False)

    objects = ShelfQuerySet.as_manager()

    class Meta:
        ordering = ["traced_on", "pk"]
        constraints = [
            bounded("trace", "supply_v", 0.5, 60, "V"),
            bounded("trace", "period_s", 0.1, 31_536_000, "s"),
            bounded("trace", "offset_a", -1, 1, "A"),
            bounded("trace", "shunt_ohm", 1e-6, 1e6, "Ω"),
        ]

    def __str__(self) -> str:
        return f"current of rig {self.rig.letter}, {self.traced_on:%-d %b %Y}"
