"""Forms of settings: the named fields, and a settings string to read them from."""

from typing import Any

from django import forms

from inchmark.pages.fields import BitRateField, PowerField, QuantityField
from inchmark.pages.folds import Fold, folded
from inchmark.shelf.models import Setting

GROUPS = (
    (
        "Setting",
        (
            "name",
            "modulation",
            "frequency_hz",
            "power_dbm",
            "payload_bytes",
            "duty_cycle_percent",
            "sync_word",
            "payload_crc",
        ),
    ),
    (
        "Chirp spread spectrum",
        ("spreading_factor", "coding_rate", "explicit_header", "low_data_rate"),
    ),
    ("GFSK", ("bit_rate_bit_s", "deviation_hz")),
    ("Chirp and GFSK", ("bandwidth_hz", "preamble")),
)
LDRO_CHOICES = [("", "automatic, by symbol time"), ("true", "on"), ("false", "off")]


class RadioFieldsForm(forms.ModelForm):
    """Fields of a setting that are typed with their unit; a rig has the same."""

    frequency_hz = QuantityField(
        "Hz", bare_unit="MHz", label="Frequency", help_text="Like “868.1 MHz”."
    )
    bandwidth_hz = QuantityField(
        "Hz", bare_unit="kHz", label="Receiver bandwidth", help_text="Like “125 kHz”."
    )
    bit_rate_bit_s = BitRateField(
        label="Bit rate", required=False, help_text="Like “50 kbit/s”; GFSK only."
    )
    power_dbm = PowerField(label="Transmit power", help_text="“14 dBm” or “25 mW”.")


class SettingForm(RadioFieldsForm):
    """One firmware setting of a module."""

    deviation_hz = QuantityField("Hz", bare_unit="kHz", label="Deviation", required=False)
    low_data_rate = forms.NullBooleanField(
        label="Low-data-rate optimisation",
        required=False,
        widget=forms.Select(choices=LDRO_CHOICES),
    )

    class Meta:
        model = Setting
        fields = [*(name for _, names in GROUPS for name in names), "console"]
        labels = {
            "spreading_factor": "Spreading factor (5 to 12)",
            "payload_bytes": "Payload (bytes)",
            "preamble": "Preamble (symbols; GFSK: bytes)",
            "duty_cycle_percent": "Duty cycle allowed (%)",
        }
        help_texts = {
            "duty_cycle_percent": "Look your band's limit up locally.",
            "payload_bytes": "Without headers; IEEE 802.15.4 adds 11 bytes of MAC header and FCS.",
        }
        widgets = {"console": forms.HiddenInput()}

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        """Take the columns' defaults for what is not shown for a modulation."""
        super().__init__(*args, **kwargs)
        for name in ("bandwidth_hz", "preamble", "coding_rate"):
            self.fields[name].required = False

    def grouped(self) -> list[Fold]:
        """Return the fields by modulation, those of all first."""
        return folded(self, GROUPS)

    def clean(self) -> dict[str, Any]:
        """Put the default where a field was left empty."""
        found = super().clean() or {}
        for name in ("bandwidth_hz", "preamble", "coding_rate"):
            if found.get(name) is None and name not in self.errors:
                found[name] = Setting._meta.get_field(name).get_default()  # type: ignore[union-attr]
        return found


class ConsoleForm(forms.Form):
    """A settings string, and the other end's if there is one."""

    text = forms.CharField(
        max_length=200,
        label="Settings string",
        widget=forms.TextInput(attrs={"spellcheck": "false", "autocomplete": "off"}),
    )
    other = forms.CharField(
        max_length=200,
        required=False,
        label="The other end's",
        widget=forms.TextInput(attrs={"spellcheck": "false", "autocomplete": "off"}),
        help_text="To see what must match and does not.",
    )
