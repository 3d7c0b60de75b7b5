"""The rig form: quantities typed with their unit."""

from typing import Any

from django import forms
from django.db.models import Q

from inchmark.pages.fields import PowerField, QuantityField, model_choice
from inchmark.pages.folds import Fold
from inchmark.shelf.figures.rig_words import (
    carried_words,
    fixed_words,
    typed_words,
    use_words,
)
from inchmark.shelf.forms.settings import RadioFieldsForm
from inchmark.shelf.models import Rig, SettingFields
from inchmark.studies.models import Study

PARTS = (
    "setting_part",
    "module_part",
    "antenna_part",
    "feed_part",
    "battery",
    "fixed_antenna_part",
    "fixed_feed_part",
)
# what a rig is first: the rest is folded, with its present values in a sentence
FIRST = ("letter", "setting_part", "antenna_part")
FIRST_TYPED = (
    "module", "modulation", "spreading_factor", "power_dbm", "antenna", "antenna_gain_dbi",
)  # fmt: skip
FOLDS = (
    (
        "Carried end",
        carried_words,
        (
            "height_m", "housing_loss_db", "feed_part", "carry", "carry_loss_db",
            "polarisation_angle_deg", "sweep",
        ),
    ),
    (
        "Fixed end",
        fixed_words,
        (
            "fixed_antenna_part", "fixed_feed_part", "fixed_height_m", "fixed_power_dbm",
            "fixed_sweep",
        ),
    ),
    (
        "Name in logs, and use",
        use_words,
        ("log_name", "module_part", "battery", "period_s", "rssi_includes_noise"),
    ),
    (
        "Figures typed instead of parts",
        typed_words,
        (
            "frequency_hz", "bandwidth_hz", "coding_rate", "bit_rate_bit_s", "preamble",
            "payload_bytes", "sensitivity_dbm", "sensitivity_per_percent", "noise_figure_db",
            "duty_cycle_percent", "feed_loss_db", "fixed_antenna", "fixed_gain_dbi",
            "fixed_feed_loss_db",
        ),
    ),
)  # fmt: skip
# what a chosen part brings along, so that it need not be typed
BROUGHT = {
    "setting_part": ("module", *(field.name for field in SettingFields._meta.get_fields())),
    "module_part": ("module",),
    "antenna_part": ("antenna",),
}


class RigForm(RadioFieldsForm):
    """One rig at both ends."""

    fixed_power_dbm = PowerField(
        label="Transmit power, fixed end", help_text="“14 dBm” or “25 mW”."
    )
    height_m = QuantityField("m", label="Antenna height, carried end")
    fixed_height_m = QuantityField("m", label="Antenna height, fixed end")
    period_s = QuantityField(
        "s", label="One message every", help_text="Like “15 min”; for battery life."
    )
    rssi_includes_noise = forms.NullBooleanField(
        label="RSSI near the noise",
        required=False,
        widget=forms.Select(
            choices=[
                ("", "find out from the log"),
                ("true", "signal plus noise"),
                ("false", "signal alone"),
            ]
        ),
        help_text="Receivers that work below their noise report both together.",
    )

    class Meta:
        model = Rig
        fields = [*FIRST, *FIRST_TYPED, *(name for _, _, names in FOLDS for name in names)]
        labels = {
            "spreading_factor": "Spreading factor (5 to 12)",
            "payload_bytes": "Payload (bytes)",
            "preamble": "Preamble (symbols; GFSK: bytes)",
            "sensitivity_dbm": "Datasheet sensitivity (dBm)",
            "noise_figure_db": "Noise figure (dB)",
            "module": "Module's name",
            "antenna": "Antenna's name, carried end",
            "antenna_gain_dbi": "Antenna gain, carried end (dBi)",
            "feed_loss_db": "Feed loss, carried end (dB)",
            "sweep": "Sweep of the carried antenna",
            "fixed_sweep": "Sweep of the fixed antenna",
            "module_part": "Module",
            "setting_part": "Setting",
            "antenna_part": "Antenna, carried end",
            "feed_part": "Feed, carried end",
            "fixed_antenna_part": "Antenna, fixed end",
            "fixed_feed_part": "Feed, fixed end",
            "housing_loss_db": "Housing loss (dB)",
            "polarisation_angle_deg": "Angle between the antennas (degrees)",
            "fixed_antenna": "Antenna's name, fixed end",
            "fixed_gain_dbi": "Antenna gain, fixed end (dBi)",
            "fixed_feed_loss_db": "Feed loss, fixed end (dB)",
            "duty_cycle_percent": "Duty cycle allowed (%)",
            "carry_loss_db": "Loss of carrying it so (dB)",
        }
        help_texts = {
            "setting_part": "Brings its module along.",
            "letter": "The rig's name in every log: A, B, C …",
            "sensitivity_dbm": "Leave empty to use noise floor, noise figure and required S/N.",
            "antenna_gain_dbi": "dBi; a gain in dBd is 2.15 less than in dBi.",
            "carry_loss_db": "From a walk, or common practice: body 3 to 10, pocket 6 to 15, vehicle 6 to 15 dB.",
            "duty_cycle_percent": "Look your band's limit up locally.",
        }

    def __init__(self, *args: Any, study: Study, **kwargs: Any) -> None:
        """Offer the study's own parts that are not archived, and its sweeps."""
        super().__init__(*args, **kwargs)
        for name in ("sweep", "fixed_sweep"):
            model_choice(self, name).queryset = study.sweeps.defer("data", "points")
            model_choice(self, name).empty_label = "none"
        shelves: dict[str, Any] = {
            "setting_part": study.settings.select_related("module"),
            "module_part": study.module_parts,
            "antenna_part": study.antenna_parts,
            "feed_part": study.feed_parts,
            "fixed_antenna_part": study.antenna_parts,
            "fixed_feed_part": study.feed_parts,
            "battery": study.battery_parts,
        }
        for name, shelf in shelves.items():
            own = getattr(self.instance, f"{name}_id")
            model_choice(self, name).queryset = shelf.filter(Q(archived=False) | Q(pk=own))
            model_choice(self, name).empty_label = "none chosen"
        for name in ("module", "antenna"):
            self.fields[name].required = False
        self.shelf_has_parts = study.settings.exists() and study.antenna_parts.exists()

    def first(self) -> list[forms.BoundField]:
        """Return what a rig is: its letter, setting and antenna, typed where no part is chosen."""
        names = (*FIRST, *FIRST_TYPED) if self.typed_open else FIRST
        return [self[name] for name in names]

    def folds(self) -> list[Fold]:
        """Return all else, folded: each fold with its present values in a sentence."""
        found = [
            Fold(
                title=title,
                words=words(self.instance),
                fields=[self[name] for name in names],
                wrong=any(name in self.errors for name in names),
            )
            for title, words, names in FOLDS
        ]
        if not self.typed_open:
            found[-1].fields[:0] = [self[name] for name in FIRST_TYPED]
        return found

    @property
    def typed_open(self) -> bool:
        """Tell whether figures are typed: no part is chosen, or one of them is wrong."""
        if any(name in self.errors for name in FIRST_TYPED):
            return True
        if self.instance.pk is None and self.shelf_has_parts:
            return False
        return not any(getattr(self.instance, f"{name}_id") for name in PARTS[:3])

    def clean(self) -> dict[str, Any]:
        """Ask for the module's and the antenna's name where no part brings them."""
        found = super().clean() or {}
        brought = self._brought(found)
        for name in ("module", "antenna"):
            if not found.get(name) and name not in brought and name not in self.errors:
                self.add_error(name, f"Choose the {name} from the shelf, or type its name.")
        return found

    def _brought(self, found: dict[str, Any]) -> set[str]:
        return {name for part, names in BROUGHT.items() if found.get(part) for name in names}

    def _get_validation_exclusions(self) -> set[str]:
        """Leave what a part brings along to the service, which takes it over first."""
        brought: set[str] = super()._get_validation_exclusions()  # type: ignore[misc]
        return brought | self._brought(self.cleaned_data)
