"""A rig: module, setting and antenna at the carried end, against a stated fixed end."""

from typing import Any

from django.core.validators import RegexValidator
from django.db import models
from django.urls import reverse

from inchmark.pages.bounds import bounded
from inchmark.shelf.models.bench import ConductedCheck, Sweep
from inchmark.shelf.models.parts import Antenna, Battery, Feed, Module
from inchmark.shelf.models.settings import Setting, SettingFields, setting_constraints
from inchmark.shelf.querysets import BudgetItemQuerySet, RigQuerySet
from inchmark.studies.models import Study

_letter = RegexValidator(
    r"^[A-Z][A-Z0-9]{0,3}$", "A rig is a capital letter, like A, or a letter with a number."
)


def _part(model: type[models.Model], back: str, label: str) -> models.ForeignKey[Any, Any]:
    """Return the column of a part; a part in a rig cannot be deleted."""
    return models.ForeignKey(
        model,
        on_delete=models.PROTECT,
        null=True,
        blank=True,
        related_name=back,
        verbose_name=label,
    )


class Rig(SettingFields):
    """One candidate. Figures are of the carried end unless they say fixed.

    Where a part is named its figures are taken over when the rig or the part is kept; where none is
    named they are typed.
    """

    CARRIES = [
        ("body", "on the body"),
        ("pocket", "in a pocket or bag"),
        ("vehicle", "in a vehicle"),
    ]

    study = models.ForeignKey(Study, on_delete=models.CASCADE, related_name="rigs")
    letter = models.CharField(max_length=4, validators=[_letter])
    log_name = models.CharField(
        "name in logs",
        max_length=60,
        blank=True,
        help_text="If your logs call the rig by another name than its letter.",
    )
    module = models.CharField(max_length=60)
    module_part = _part(Module, "rigs", "module")
    setting_part = _part(Setting, "rigs", "setting")
    antenna_part = _part(Antenna, "rigs", "antenna, carried end")
    feed_part = _part(Feed, "rigs", "feed, carried end")
    fixed_antenna_part = _part(Antenna, "fixed_rigs", "antenna, fixed end")
    fixed_feed_part = _part(Feed, "fixed_rigs", "feed, fixed end")
    battery = _part(Battery, "rigs", "battery")
    sensitivity_dbm = models.FloatField("datasheet sensitivity", null=True, blank=True)
    sensitivity_per_percent = models.FloatField(
        "at a PER of",
        default=1.0,
        help_text="In %: the share of frames lost at that level, as the datasheet states it.",
    )
    sensitivity_source = models.CharField(max_length=80, blank=True, editable=False)
    # measured on the bench; its level, taken over below, stands in for the datasheet
    conducted = models.ForeignKey(
        ConductedCheck,
        on_delete=models.SET_NULL,
        null=True,
        editable=False,
        related_name="rigs_in_use",
    )
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
    # taken over from the antennas
    polarisation = models.CharField(max_length=8, default="linear", editable=False)
    fixed_polarisation = models.CharField(max_length=8, default="linear", editable=False)
    rssi_offset_db = models.FloatField(default=0.0, editable=False)  # of the receiving module
    # taken over from the sweep when the rig is kept, so that pages need not read sweeps
    vswr = models.FloatField(null=True, editable=False)
    vswr_source = models.CharField(max_length=80, blank=True, editable=False)
    fixed_sweep = models.ForeignKey(
        Sweep, on_delete=models.SET_NULL, null=True, blank=True, related_name="fixed_rigs"
    )
    fixed_vswr = models.FloatField(null=True, editable=False)
    fixed_vswr_source = models.CharField(max_length=80, blank=True, editable=False)
    fixed_antenna = models.CharField(max_length=60, blank=True)
    fixed_gain_dbi = models.FloatField("fixed antenna gain", default=2.15)
    fixed_feed_loss_db = models.FloatField("fixed feed loss", default=0.0)
    fixed_height_m = models.FloatField("fixed height", default=4.0)
    fixed_power_dbm = models.FloatField("fixed transmit power", default=14.0)
    carry = models.CharField("how it is carried", max_length=10, choices=CARRIES, blank=True)
    carry_loss_db = models.FloatField("loss of carrying it so", default=0.0)
    period_s = models.FloatField("one message every", default=900.0)

    objects = RigQuerySet.as_manager()

    class Meta:
        ordering = ["letter"]
        constraints = [
            models.UniqueConstraint(
                fields=["study", "letter"],
                name="rig_letter_once",
                violation_error_message="This study has a rig of that letter already. Take another letter.",
            ),
            models.UniqueConstraint(
                fields=["study", "log_name"],
                name="rig_log_name_once",
                condition=~models.Q(log_name=""),
                violation_error_message="Another rig of this study has that name in logs.",
            ),
            *setting_constraints("rig"),
            bounded("rig", "carry_loss_db", 0, 60, "dB"),
            bounded("rig", "period_s", 0.1, 31_536_000, "s"),
            bounded("rig", "sensitivity_dbm", -180, 0, "dBm"),
            bounded("rig", "sensitivity_per_percent", 0.001, 99, "%"),
            bounded("rig", "conducted_dbm", -180, 0, "dBm"),
            bounded("rig", "noise_figure_db", 0, 40, "dB"),
            bounded("rig", "antenna_gain_dbi", -200, 60, "dBi"),
            bounded("rig", "feed_loss_db", 0, 60, "dB"),
            bounded("rig", "vswr", 1, 1e9),
            bounded("rig", "fixed_vswr", 1, 1e9),
            bounded("rig", "housing_loss_db", 0, 60, "dB"),
            bounded("rig", "polarisation_angle_deg", 0, 90, "degrees"),
            bounded("rig", "height_m", 0, 10_000, "m"),
            bounded("rig", "fixed_gain_dbi", -200, 60, "dBi"),
            bounded("rig", "fixed_feed_loss_db", 0, 60, "dB"),
            bounded("rig", "fixed_height_m", 0, 10_000, "m"),
            bounded("rig", "fixed_power_dbm", -60, 60, "dBm"),
        ]

    def __str__(self) -> str:
        return f"{self.letter} {self.name}"

    def get_absolute_url(self) -> str:
        """Return the address of the rig's page."""
        return reverse("shelf:rig-edit", args=[self.study_id, self.pk])

    @property
    def name(self) -> str:
        """Return what the rig is in words."""
        return f"{self.module} · {self.setting} · {self.antenna}"


class BudgetItem(models.Model):
    """An item of a rig's budget with a value of its own: measured, or kept from a what-if."""

    ITEMS = [
        ("carried_power", "transmit power, carried end"),
        ("carried_feed", "feed, carried end"),
        ("carried_mismatch", "mismatch, carried end"),
        ("carried_antenna", "antenna, carried end"),
        ("carried_housing", "housing, carried end"),
        ("carried_carry", "body, pocket or vehicle"),
        ("path_polarisation", "polarisation"),
        ("fixed_power", "transmit power, fixed end"),
        ("fixed_feed", "feed, fixed end"),
        ("fixed_mismatch", "mismatch, fixed end"),
        ("fixed_antenna", "antenna, fixed end"),
        ("fixed_housing", "housing, fixed end"),
    ]

    rig = models.ForeignKey(Rig, on_delete=models.CASCADE, related_name="budget_items")
    key = models.CharField("item", max_length=40, choices=ITEMS)
    db = models.FloatField("value")  # a loss is positive; drawing it turns the sign
    source = models.CharField(
        "known from", max_length=80, help_text="Like “lid on and off at stop 2, 14 Nov”."
    )

    objects = BudgetItemQuerySet.as_manager()

    class Meta:
        ordering = ["pk"]
        constraints = [
            models.UniqueConstraint(fields=["rig", "key"], name="budget_item_once"),
            bounded("budget_item", "db", -300, 300, "dB"),
        ]

    def __str__(self) -> str:
        return f"{self.key} of rig {self.rig.letter}"
