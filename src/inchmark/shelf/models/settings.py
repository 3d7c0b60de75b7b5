"""A firmware setting: the columns a rig shares with it, and the named setting of a module."""

from django.db import models
from django.urls import reverse

from inchmark.pages.bounds import bounded
from inchmark.shelf.models.parts import Module
from inchmark.shelf.querysets import ShelfQuerySet
from inchmark.studies.models import Study

FIXED_RATES = ("oqpsk", "le_1m", "le_2m", "le_coded_s8", "le_coded_s2")


class SettingFields(models.Model):
    """What firmware sets; a rig takes these over from its setting, or has them typed."""

    CHIRP, GFSK = "chirp", "gfsk"
    MODULATIONS = [
        (CHIRP, "chirp spread spectrum"),
        (GFSK, "2-FSK or GFSK"),
        ("oqpsk", "IEEE 802.15.4 O-QPSK"),
        ("le_1m", "Low Energy 1M"),
        ("le_2m", "Low Energy 2M"),
        ("le_coded_s8", "Low Energy coded S=8"),
        ("le_coded_s2", "Low Energy coded S=2"),
    ]

    modulation = models.CharField(max_length=12, choices=MODULATIONS, default=CHIRP)
    frequency_hz = models.FloatField("frequency", default=868.1e6)
    spreading_factor = models.PositiveSmallIntegerField(null=True, blank=True)
    bandwidth_hz = models.FloatField("bandwidth", default=125e3)
    coding_rate = models.PositiveSmallIntegerField(
        choices=[(n, f"4/{n}") for n in range(5, 9)], default=5, help_text="Chirp only."
    )
    explicit_header = models.BooleanField("explicit header", default=True)
    payload_crc = models.BooleanField("payload CRC", default=True)
    low_data_rate = models.BooleanField("low-data-rate optimisation", null=True, blank=True)
    bit_rate_bit_s = models.FloatField("bit rate", null=True, blank=True)
    deviation_hz = models.FloatField("deviation", null=True, blank=True)
    preamble = models.PositiveSmallIntegerField(default=8)
    sync_word = models.CharField("sync word", max_length=20, blank=True)
    payload_bytes = models.PositiveSmallIntegerField("payload", default=12)
    power_dbm = models.FloatField("transmit power", default=14.0)
    duty_cycle_percent = models.FloatField("duty cycle allowed", default=1.0)

    class Meta:
        abstract = True

    @property
    def setting(self) -> str:
        """Return the setting in short: SF7, 50 kbit/s, or the name of the modulation."""
        if self.modulation == self.CHIRP:
            return f"SF{self.spreading_factor}"
        if self.modulation == self.GFSK:
            return f"{(self.bit_rate_bit_s or 0) / 1e3:g} kbit/s"
        return dict(self.MODULATIONS)[self.modulation]


def setting_constraints(table: str) -> list[models.CheckConstraint]:
    """Return the rules of the shared columns under a table's name."""
    return [
        bounded(table, "frequency_hz", 1e5, 1e11, "Hz"),
        bounded(table, "spreading_factor", 5, 12),
        bounded(table, "bandwidth_hz", 100, 1e8, "Hz"),
        bounded(table, "bit_rate_bit_s", 10, 1e8, "bit/s"),
        bounded(table, "deviation_hz", 10, 1e8, "Hz"),
        bounded(table, "payload_bytes", 0, 255, "bytes"),
        bounded(table, "power_dbm", -60, 60, "dBm"),
        bounded(table, "duty_cycle_percent", 0.01, 100, "%"),
        models.CheckConstraint(
            name=f"{table}_setting_fits_modulation",
            condition=models.Q(modulation="chirp", spreading_factor__isnull=False)
            | models.Q(modulation="gfsk", bit_rate_bit_s__isnull=False)
            | models.Q(modulation__in=FIXED_RATES),
            violation_error_message="Chirp needs a spreading factor, GFSK needs a bit rate.",
        ),
    ]


class Setting(SettingFields):
    """A named setting of a module."""

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="settings")
    module = models.ForeignKey(Module, on_delete=models.CASCADE, related_name="settings")
    name = models.CharField(max_length=60)
    console = models.CharField("settings string", max_length=200, blank=True)
    archived = models.BooleanField(default=False, editable=False)

    objects = ShelfQuerySet.as_manager()

    class Meta:
        ordering = ["module__name", "name"]
        constraints = [
            *setting_constraints("setting"),
            models.UniqueConstraint(
                fields=["module", "name"],
                name="setting_name_once",
                violation_error_message="This module has a setting of that name already.",
            ),
        ]

    def __str__(self) -> str:
        return f"{self.module.name} · {self.name}"

    def get_absolute_url(self) -> str:
        """Return the address of the setting's page."""
        return reverse("shelf:setting-edit", args=[self.study_id, self.pk])
