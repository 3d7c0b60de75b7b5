"""A rig: module, setting and antenna at the carried end, against a stated fixed end."""

from django.core.validators import RegexValidator
from django.db import models
from django.urls import reverse

from inchmark.pages.bounds import bounded
from inchmark.shelf.querysets import RigQuerySet
from inchmark.studies.models import Study

_letter = RegexValidator(
    r"^[A-Z][A-Z0-9]{0,3}$", "A rig is a capital letter, like A, or a letter with a number."
)


class Sweep(models.Model):
    """An S11 sweep of one antenna; sweeps of one series differ in one thing and its value."""

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="sweeps")
    antenna = models.CharField(max_length=60)
    unit = models.CharField("unit (serial)", max_length=40, blank=True)
    swept_on = models.DateField("date")
    band_low_hz = models.FloatField("band from", default=863e6)
    band_high_hz = models.FloatField("band to", default=870e6)
    series = models.CharField("trim series", max_length=60, blank=True)
    changed = models.CharField("what is changed", max_length=60, blank=True)
    value = models.FloatField("its value", null=True, blank=True)
    name = models.CharField("file", max_length=200)
    data = models.BinaryField()
    points = models.JSONField(default=list)  # [Hz, real, imaginary] of each point

    objects = RigQuerySet.as_manager()

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
    reading = models.JSONField(default=dict, editable=False)  # what the steps say, weighed once

    objects = RigQuerySet.as_manager()

    class Meta:
        ordering = ["checked_on", "pk"]
        constraints = [
            bounded("conducted", "source_dbm", -100, 60, "dBm"),
            bounded("conducted", "fixed_loss_db", 0, 200, "dB"),
        ]

    def __str__(self) -> str:
        return f"conducted ladder of rig {self.rig.letter}, {self.checked_on:%-d %b %Y}"


class Rig(models.Model):
    """One candidate. Figures are of the carried end unless they say fixed."""

    CHIRP, GFSK = "chirp", "gfsk"
    MODULATIONS = [(CHIRP, "chirp spread spectrum"), (GFSK, "GFSK")]

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="rigs")
    letter = models.CharField(max_length=4, validators=[_letter])
    log_name = models.CharField(
        "name in logs",
        max_length=60,
        blank=True,
        help_text="If your logs call the rig by another name than its letter.",
    )
    module = models.CharField(max_length=60)
    modulation = models.CharField(max_length=8, choices=MODULATIONS, default=CHIRP)
    frequency_hz = models.FloatField("frequency", default=868.1e6)
    spreading_factor = models.PositiveSmallIntegerField(null=True, blank=True)
    bandwidth_hz = models.FloatField("bandwidth", default=125e3)
    coding_rate = models.PositiveSmallIntegerField(
        choices=[(n, f"4/{n}") for n in range(5, 9)], default=5, help_text="Chirp only."
    )
    bit_rate_bit_s = models.FloatField("bit rate", null=True, blank=True)
    preamble = models.PositiveSmallIntegerField(default=8)
    payload_bytes = models.PositiveSmallIntegerField("payload", default=12)
    power_dbm = models.FloatField("transmit power", default=14.0)
    sensitivity_dbm = models.FloatField("datasheet sensitivity", null=True, blank=True)
    # measured on the bench; stands in for the datasheet in budgets and readings while it is set
    conducted_dbm = models.FloatField(null=True, editable=False)
    conducted_source = models.CharField(max_length=80, blank=True, editable=False)
    noise_figure_db = models.FloatField("noise figure", default=6.0)
    rssi_includes_noise = models.BooleanField("RSSI includes noise", null=True, blank=True)
    antenna = models.CharField(max_length=60)
    antenna_gain_dbi = models.FloatField("antenna gain", default=2.15)
    feed_loss_db = models.FloatField("feed loss", default=0.0)
    height_m = models.FloatField("height", default=1.5)
    housing_loss_db = models.FloatField("housing loss", default=0.0)
    polarisation_angle_deg = models.FloatField("angle between the antennas", default=0.0)
    sweep = models.ForeignKey(
        Sweep,
        on_delete=models.SET_NULL,
        null=True,
        blank=True,
        related_name="rigs",
        help_text="Its mismatch enters the budget; a match says nothing of gain.",
    )
    # taken over from the sweep when the rig is kept, so that pages need not read sweeps
    vswr = models.FloatField(null=True, editable=False)
    vswr_source = models.CharField(max_length=80, blank=True, editable=False)
    fixed_antenna = models.CharField(max_length=60, blank=True)
    fixed_gain_dbi = models.FloatField("fixed antenna gain", default=2.15)
    fixed_feed_loss_db = models.FloatField("fixed feed loss", default=0.0)
    fixed_height_m = models.FloatField("fixed height", default=4.0)
    fixed_power_dbm = models.FloatField("fixed transmit power", default=14.0)
    duty_cycle_percent = models.FloatField("duty cycle allowed", default=1.0)

    objects = RigQuerySet.as_manager()

    class Meta:
        ordering = ["letter"]
        constraints = [
            models.UniqueConstraint(
                fields=["study", "letter"], name="rig_letter_once",
                violation_error_message="This study has a rig of that letter already. Take "
                "another letter.",
            ),
            models.UniqueConstraint(
                fields=["study", "log_name"],
                name="rig_log_name_once",
                condition=~models.Q(log_name=""),
                violation_error_message="Another rig of this study has that name in logs.",
            ),
            bounded("rig", "frequency_hz", 1e5, 1e11, "Hz"),
            bounded("rig", "spreading_factor", 7, 12),
            bounded("rig", "bandwidth_hz", 100, 1e8, "Hz"),
            bounded("rig", "bit_rate_bit_s", 10, 1e8, "bit/s"),
            bounded("rig", "payload_bytes", 0, 255, "bytes"),
            bounded("rig", "power_dbm", -60, 60, "dBm"),
            bounded("rig", "sensitivity_dbm", -180, 0, "dBm"),
            bounded("rig", "conducted_dbm", -180, 0, "dBm"),
            bounded("rig", "noise_figure_db", 0, 40, "dB"),
            bounded("rig", "antenna_gain_dbi", -60, 60, "dBi"),
            bounded("rig", "feed_loss_db", 0, 60, "dB"),
            bounded("rig", "vswr", 1, 1e9),
            bounded("rig", "housing_loss_db", 0, 60, "dB"),
            bounded("rig", "polarisation_angle_deg", 0, 90, "degrees"),
            bounded("rig", "height_m", 0, 10_000, "m"),
            bounded("rig", "fixed_gain_dbi", -60, 60, "dBi"),
            bounded("rig", "fixed_feed_loss_db", 0, 60, "dB"),
            bounded("rig", "fixed_height_m", 0, 10_000, "m"),
            bounded("rig", "fixed_power_dbm", -60, 60, "dBm"),
            bounded("rig", "duty_cycle_percent", 0.01, 100, "%"),
            models.CheckConstraint(
                name="rig_setting_fits_modulation",
                condition=models.Q(modulation="chirp", spreading_factor__isnull=False)
                | models.Q(modulation="gfsk", bit_rate_bit_s__isnull=False),
                violation_error_message="Chirp needs a spreading factor, GFSK needs a bit rate.",
            ),
        ]  # fmt: skip

    def __str__(self) -> str:
        return f"{self.letter} {self.name}"

    def get_absolute_url(self) -> str:
        """Return the address of the rig's page."""
        return reverse("shelf:rig-edit", args=[self.study_id, self.pk])

    @property
    def setting(self) -> str:
        """Return the setting in short: SF7 125 kHz, or 50 kbit/s."""
        if self.modulation == self.CHIRP:
            return f"SF{self.spreading_factor}"
        return f"{(self.bit_rate_bit_s or 0) / 1e3:g} kbit/s"

    @property
    def name(self) -> str:
        """Return what the rig is in words."""
        return f"{self.module} · {self.setting} · {self.antenna}"
