"""Parts with sourced figures: modules, antennas, feeds, batteries, and single units of them."""

from typing import Any

from django.db import models
from django.urls import reverse

from inchmark.pages.bounds import bounded
from inchmark.shelf.querysets import ShelfQuerySet
from inchmark.studies.models import Study


def _once(kind: str) -> models.UniqueConstraint:
    return models.UniqueConstraint(
        fields=["study", "name"],
        name=f"{kind}_name_once",
        violation_error_message=f"This study has a {kind} of that name already.",
    )


class Part(models.Model):
    """What every part has."""

    kind = ""

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="%(class)s_parts")
    name = models.CharField(max_length=60)
    price = models.FloatField(null=True, blank=True, help_text="In the currency you pay in.")
    note = models.CharField(max_length=300, blank=True)
    archived = models.BooleanField(default=False, editable=False)

    objects = ShelfQuerySet.as_manager()

    class Meta:
        abstract = True

    def __str__(self) -> str:
        return self.name

    def get_absolute_url(self) -> str:
        """Return the address of the part's page."""
        return reverse("shelf:part", args=[self.study_id, self.kind, self.pk])


class Module(Part):
    """A radio module as its datasheet describes it, and what the bench corrected."""

    kind = "modules"

    bands = models.JSONField(default=list, blank=True)  # [Hz, Hz] of each band
    power_low_dbm = models.FloatField("lowest power", default=-9.0)
    power_high_dbm = models.FloatField("highest power", default=14.0)
    power_step_db = models.FloatField("power step", default=1.0)
    supply_v = models.FloatField("supply voltage", default=3.3)
    sleep_a = models.FloatField("sleep current", null=True, blank=True)
    standby_a = models.FloatField("standby current", null=True, blank=True)
    receive_a = models.FloatField("receive current", null=True, blank=True)
    transmit_currents = models.JSONField(default=list, blank=True)  # [dBm, A] of each power
    noise_figure_db = models.FloatField("noise figure", default=6.0)
    sensitivities = models.JSONField(
        default=list, blank=True
    )  # [setting, dBm, PER %] of each datasheet row
    rssi_step_db = models.FloatField("RSSI step", null=True, blank=True)
    rssi_low_dbm = models.FloatField("RSSI ends at (weak)", null=True, blank=True)
    rssi_high_dbm = models.FloatField("RSSI ends at (strong)", null=True, blank=True)
    rssi_offset_db = models.FloatField(
        "RSSI offset", default=0.0, help_text="What it reads above the true level."
    )
    rssi_offset_source = models.CharField(max_length=80, blank=True, editable=False)
    crystal_ppm = models.FloatField("crystal tolerance", default=10.0)
    connector = models.CharField(max_length=12, default="wire")
    template = models.CharField("settings template", max_length=200, blank=True)
    # how its console is read, and the log that was first read so
    recipe = models.JSONField(null=True, blank=True, editable=False)
    recipe_from = models.CharField(max_length=80, blank=True, editable=False)

    class Meta:
        ordering = ["name"]
        constraints = [
            _once("module"),
            bounded("module", "price", 0, 1e6),
            bounded("module", "power_low_dbm", -100, 60, "dBm"),
            bounded("module", "power_high_dbm", -100, 60, "dBm"),
            bounded("module", "power_step_db", 0.01, 60, "dB"),
            bounded("module", "supply_v", 0.5, 60, "V"),
            bounded("module", "sleep_a", 0, 10, "A"),
            bounded("module", "standby_a", 0, 10, "A"),
            bounded("module", "receive_a", 0, 10, "A"),
            bounded("module", "noise_figure_db", 0, 40, "dB"),
            bounded("module", "rssi_step_db", 0.01, 20, "dB"),
            bounded("module", "rssi_low_dbm", -200, 60, "dBm"),
            bounded("module", "rssi_high_dbm", -200, 60, "dBm"),
            bounded("module", "rssi_offset_db", -60, 60, "dB"),
            bounded("module", "crystal_ppm", 0, 1000, "ppm"),
            models.CheckConstraint(
                name="module_power_ascends",
                condition=models.Q(power_low_dbm__lte=models.F("power_high_dbm")),
                violation_error_message="The highest power must not be under the lowest.",
            ),
        ]


class Antenna(Part):
    """An antenna; a loop or rod for inductive links is a kind of its own."""

    kind = "antennas"
    MAGNETIC = "magnetic"
    KINDS = [
        ("whip", "whip or dipole"),
        ("wire", "wire, cut to length"),
        ("panel", "panel or other directional"),
        ("trace", "board trace or chip"),
        ("other", "other"),
        (MAGNETIC, "magnetic loop or rod, for inductive links"),
    ]
    POLARISATIONS = [
        ("linear", "linear"),
        ("rhcp", "right-hand circular"),
        ("lhcp", "left-hand circular"),
    ]
    WAVES = [("quarter", "quarter wave"), ("half", "half wave"), ("five-eighths", "five-eighths")]

    type = models.CharField(max_length=10, choices=KINDS, default="whip")
    gain_dbi = models.FloatField("gain", null=True, blank=True)
    polarisation = models.CharField(max_length=8, choices=POLARISATIONS, default="linear")
    size_m = models.FloatField("largest size", null=True, blank=True)
    connector = models.CharField(max_length=12, default="wire")
    impedance_ohm = models.FloatField("impedance", default=50.0)
    cut_for_hz = models.FloatField("cut for", null=True, blank=True)
    wave = models.CharField(max_length=12, choices=WAVES, default="quarter")
    velocity_factor = models.FloatField("velocity factor", default=0.95)
    loop_diameter_m = models.FloatField("loop or rod diameter", null=True, blank=True)
    turns = models.PositiveSmallIntegerField(null=True, blank=True)
    quality = models.FloatField("Q, tuned and loaded", default=30.0)

    class Meta:
        ordering = ["name"]
        constraints = [
            _once("antenna"),
            bounded("antenna", "price", 0, 1e6),
            bounded("antenna", "gain_dbi", -60, 60, "dBi"),
            bounded("antenna", "size_m", 0.0001, 100, "m"),
            bounded("antenna", "impedance_ohm", 1, 1000, "Ω"),
            bounded("antenna", "cut_for_hz", 1e5, 1e11, "Hz"),
            bounded("antenna", "velocity_factor", 0.1, 1),
            bounded("antenna", "loop_diameter_m", 0.001, 10, "m"),
            bounded("antenna", "turns", 1, 10_000),
            bounded("antenna", "quality", 1, 10_000),
            models.CheckConstraint(
                name="antenna_gain_or_loop",
                condition=models.Q(gain_dbi__isnull=False)
                | models.Q(type="magnetic", loop_diameter_m__isnull=False, turns__isnull=False),
                violation_error_message="An antenna needs its gain; a magnetic loop or rod needs its diameter and turns instead.",
            ),
        ]


class Feed(Part):
    """What lies between a radio and its antenna: cable, joints, connectors at both ends."""

    kind = "feeds"

    cable = models.CharField("cable type", max_length=60, blank=True)
    cable_rows = models.JSONField(default=list, blank=True)  # [Hz, dB per 100 m] of each row
    length_m = models.FloatField("length", default=0.0)
    joints = models.PositiveSmallIntegerField("joints and adapters", default=2)
    joint_loss_db = models.FloatField("loss of a joint", default=0.1)
    near_connector = models.CharField("connector at the radio", max_length=12, default="wire")
    far_connector = models.CharField("connector at the antenna", max_length=12, default="wire")
    impedance_ohm = models.FloatField("impedance", default=50.0)
    # what follows towards the antenna: [name, connector, connector, loss dB, at Hz or 0 for any]
    links = models.JSONField(default=list, blank=True)

    class Meta:
        ordering = ["name"]
        constraints = [
            _once("feed"),
            bounded("feed", "price", 0, 1e6),
            bounded("feed", "length_m", 0, 1000, "m"),
            bounded("feed", "joints", 0, 100),
            bounded("feed", "joint_loss_db", 0, 60, "dB"),
            bounded("feed", "impedance_ohm", 1, 1000, "Ω"),
        ]


class Battery(Part):
    """A battery or a power bank."""

    kind = "batteries"

    capacity_ah = models.FloatField("capacity")
    voltage_v = models.FloatField("voltage", default=3.6)
    usable_percent = models.FloatField("usable share", default=85.0)
    self_discharge_percent = models.FloatField("self-discharge a year", default=1.0)
    cutoff_v = models.FloatField("cut-off voltage", null=True, blank=True)
    keep_on_a = models.FloatField(
        "switches off under",
        null=True,
        blank=True,
        help_text="Power banks: the draw below which it switches itself off, like “50 mA”.",
    )

    class Meta:
        ordering = ["name"]
        verbose_name_plural = "batteries"
        constraints = [
            _once("battery"),
            bounded("battery", "price", 0, 1e6),
            bounded("battery", "capacity_ah", 0.0001, 10_000, "Ah"),
            bounded("battery", "voltage_v", 0.5, 1000, "V"),
            bounded("battery", "usable_percent", 1, 100, "%"),
            bounded("battery", "self_discharge_percent", 0, 99, "%"),
            bounded("battery", "cutoff_v", 0.1, 1000, "V"),
            bounded("battery", "keep_on_a", 0, 10, "A"),
        ]


class Surrounding(Part):
    """A surrounding as a walk found it, to predict other sites alike with; limits are 95 %."""

    kind = "surroundings"

    exponent = models.FloatField("path exponent")
    exponent_low = models.FloatField("exponent, low", null=True, blank=True)
    exponent_high = models.FloatField("exponent, high", null=True, blank=True)
    offset_db = models.FloatField("loss beyond free space")
    offset_low_db = models.FloatField("loss beyond free space, low", null=True, blank=True)
    offset_high_db = models.FloatField("loss beyond free space, high", null=True, blank=True)
    at_m = models.FloatField("at a distance of", default=100.0)
    shadowing_db = models.FloatField("spread between places", default=6.0)
    shadowing_low_db = models.FloatField("spread, low", null=True, blank=True)
    shadowing_high_db = models.FloatField("spread, high", null=True, blank=True)
    frequency_hz = models.FloatField("walked at", null=True, blank=True)
    stops = models.PositiveIntegerField("stops it rests on", null=True, blank=True)
    walked = models.CharField("where it is from", max_length=200, blank=True)

    class Meta:
        ordering = ["name"]
        constraints = [
            _once("surrounding"),
            bounded("surrounding", "price", 0, 1e6),
            bounded("surrounding", "exponent", 0.5, 12),
            bounded("surrounding", "offset_db", -60, 120, "dB"),
            bounded("surrounding", "at_m", 0.1, 1e6, "m"),
            bounded("surrounding", "shadowing_db", 0.1, 20, "dB"),
            bounded("surrounding", "frequency_hz", 1e5, 1e11, "Hz"),
        ]


class Unit(models.Model):
    """One physical piece, so that a bad one shows up as a unit and does not condemn the type."""

    kind = "units"

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="units")
    module = models.ForeignKey(
        Module, on_delete=models.PROTECT, null=True, blank=True, related_name="units"
    )
    antenna = models.ForeignKey(
        Antenna, on_delete=models.PROTECT, null=True, blank=True, related_name="units"
    )
    serial = models.CharField("serial", max_length=40)
    batch = models.CharField(max_length=40, blank=True)
    note = models.CharField(max_length=300, blank=True)
    archived = models.BooleanField(default=False, editable=False)

    objects = ShelfQuerySet.as_manager()

    class Meta:
        ordering = ["serial"]
        constraints = [
            models.UniqueConstraint(
                fields=["study", "serial"],
                name="unit_serial_once",
                violation_error_message="This study has a unit of that serial already.",
            ),
            models.CheckConstraint(
                name="unit_of_one_part",
                condition=models.Q(module__isnull=False, antenna__isnull=True)
                | models.Q(module__isnull=True, antenna__isnull=False),
                violation_error_message="A unit is a piece of one module or of one antenna. Choose one of them.",
            ),
        ]

    def __str__(self) -> str:
        return self.serial

    def get_absolute_url(self) -> str:
        """Return the address of the unit's page."""
        return reverse("shelf:part", args=[self.study_id, self.kind, self.pk])

    @property
    def of(self) -> Any:
        """Return the part it is a piece of."""
        return self.module or self.antenna
