"""The rig form: quantities typed with their unit."""

from typing import Any

from django import forms

from inchmark.devices.simulated_analyser import ANTENNAS
from inchmark.pages.fields import PowerField, QuantityField
from inchmark.shelf.models import ConductedCheck, Rig, Sweep
from inchmark.studies.models import Study

GROUPS = (
    ("Module and setting", ("letter", "log_name", "module", "modulation", "frequency_hz",
                            "spreading_factor", "bandwidth_hz", "coding_rate", "bit_rate_bit_s",
                            "preamble", "payload_bytes", "power_dbm")),
    ("Carried end", ("antenna", "antenna_gain_dbi", "feed_loss_db", "height_m", "sweep",
                     "housing_loss_db", "polarisation_angle_deg")),
    ("Fixed end", ("fixed_antenna", "fixed_gain_dbi", "fixed_feed_loss_db", "fixed_height_m",
                   "fixed_power_dbm")),
    ("Receiver and rules", ("sensitivity_dbm", "noise_figure_db", "rssi_includes_noise",
                            "duty_cycle_percent")),
)  # fmt: skip


class RigForm(forms.ModelForm):
    """One rig at both ends."""

    frequency_hz = QuantityField(
        "Hz", bare_unit="MHz", label="Frequency", help_text="Like “868.1 MHz”."
    )
    bandwidth_hz = QuantityField(
        "Hz", bare_unit="kHz", label="Receiver bandwidth", help_text="Like “125 kHz”."
    )
    bit_rate_bit_s = QuantityField(
        "Hz",
        bare_unit="kHz",
        label="Bit rate (kbit/s)",
        required=False,
        help_text="GFSK only; a bare number is kbit/s.",
    )
    power_dbm = PowerField(label="Transmit power", help_text="“14 dBm” or “25 mW”.")
    fixed_power_dbm = PowerField(
        label="Transmit power, fixed end", help_text="“14 dBm” or “25 mW”."
    )
    height_m = QuantityField("m", label="Antenna height, carried end")
    fixed_height_m = QuantityField("m", label="Antenna height, fixed end")
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
        fields = [name for _, names in GROUPS for name in names]
        labels = {
            "spreading_factor": "Spreading factor (7 to 12)",
            "payload_bytes": "Payload (bytes)",
            "preamble": "Preamble (symbols; GFSK: bytes)",
            "sensitivity_dbm": "Datasheet sensitivity (dBm)",
            "noise_figure_db": "Noise figure (dB)",
            "antenna": "Antenna, carried end",
            "antenna_gain_dbi": "Antenna gain, carried end (dBi)",
            "feed_loss_db": "Feed loss, carried end (dB)",
            "sweep": "Sweep of this antenna",
            "housing_loss_db": "Housing loss (dB)",
            "polarisation_angle_deg": "Angle between the antennas (degrees)",
            "fixed_antenna": "Antenna, fixed end",
            "fixed_gain_dbi": "Antenna gain, fixed end (dBi)",
            "fixed_feed_loss_db": "Feed loss, fixed end (dB)",
            "duty_cycle_percent": "Duty cycle allowed (%)",
        }
        help_texts = {
            "letter": "The rig's name in every log: A, B, C …",
            "sensitivity_dbm": "Leave empty to use noise floor, noise figure and required S/N.",
            "antenna_gain_dbi": "dBi; a gain in dBd is 2.15 less than in dBi.",
            "duty_cycle_percent": "Look your band's limit up locally.",
        }

    def __init__(self, *args: Any, study: Study, **kwargs: Any) -> None:
        """Offer the study's own sweeps."""
        super().__init__(*args, **kwargs)
        self.fields["sweep"].queryset = study.sweeps.defer("data", "points")

    def grouped(self) -> list[tuple[str, list[forms.BoundField]]]:
        """Return the fields in the order of the bench."""
        return [(title, [self[name] for name in names]) for title, names in GROUPS]


class SweepForm(forms.ModelForm):
    """A sweep file, its antenna and band, and what was changed since the last one."""

    file = forms.FileField(
        label="Sweep file (.s1p)", required=False, help_text="Touchstone, one port: RI, MA or DB."
    )
    band_low_hz = QuantityField("Hz", bare_unit="MHz", label="Band from")
    band_high_hz = QuantityField("Hz", bare_unit="MHz", label="Band to")

    class Meta:
        model = Sweep
        fields = [
            "antenna",
            "unit",
            "swept_on",
            "band_low_hz",
            "band_high_hz",
            "series",
            "changed",
            "value",
        ]
        widgets = {"swept_on": forms.DateInput(format="%Y-%m-%d", attrs={"type": "date"})}
        help_texts = {
            "series": "Sweeps with one thing changed share a name, like “coil trim 1”.",
            "changed": "Like “wire length, mm” or “distance to metal, mm”.",
        }


class AnalyserForm(forms.Form):
    """Where an analyser answers, and what to sweep."""

    address = forms.CharField(
        label="Analyser (host:port)",
        required=False,
        max_length=100,
        help_text="Empty: the simulated one that ships with Inch Mark.",
    )
    virtual = forms.ChoiceField(
        label="On the simulated analyser's port",
        required=False,
        choices=[(name, one.words) for name, one in ANTENNAS.items()],
    )
    start_hz = QuantityField("Hz", bare_unit="MHz", label="Sweep from", initial=800e6)
    stop_hz = QuantityField("Hz", bare_unit="MHz", label="Sweep to", initial=940e6)
    points = forms.IntegerField(min_value=2, max_value=20_001, initial=401, label="Points")

    def clean_address(self) -> tuple[str, int] | None:
        """Return host and port."""
        typed = self.cleaned_data["address"].strip()
        if not typed:
            return None
        host, _, port = typed.rpartition(":")
        if not host or not port.isdecimal() or not 0 < int(port[:6]) < 65_536:
            raise forms.ValidationError(
                f"“{typed}” is no address. Write it like 192.168.1.20:5025."
            )
        return host.strip("[]"), int(port)

    def clean(self) -> dict[str, Any]:
        """Refuse a sweep that ends before it begins."""
        found = super().clean() or {}
        start, stop = found.get("start_hz"), found.get("stop_hz")
        if start is not None and stop is not None and not 0 < start < stop:
            self.add_error("stop_hz", "The sweep must end above where it begins.")
        return found


class LadderForm(forms.ModelForm):
    """A conducted ladder: one line a step."""

    source_dbm = PowerField(label="Transmit power", help_text="“14 dBm” or “25 mW”.")
    rows = forms.CharField(
        label="Steps",
        max_length=4000,
        widget=forms.Textarea(attrs={"rows": 8, "spellcheck": "false"}),
        help_text="One line a step: attenuation in dB, frames sent, frames heard.",
    )

    class Meta:
        model = ConductedCheck
        fields = ["rig", "unit", "checked_on", "source_dbm", "fixed_loss_db"]
        widgets = {"checked_on": forms.DateInput(format="%Y-%m-%d", attrs={"type": "date"})}
        labels = {"fixed_loss_db": "Loss of cables and adapters (dB)"}

    def __init__(self, *args: Any, study: Study, **kwargs: Any) -> None:
        """Offer the study's own rigs."""
        super().__init__(*args, **kwargs)
        self.fields["rig"].queryset = study.rigs.all()

    def clean_rows(self) -> list[list[float]]:
        """Return attenuation, sent and heard of each step."""
        lines = [line for line in self.cleaned_data["rows"].splitlines() if line.strip()]
        return [_step(number, line) for number, line in enumerate(lines, start=1)]

    def clean(self) -> dict[str, Any]:
        """Hand the steps to the row that is kept."""
        found = super().clean() or {}
        self.instance.steps = found.get("rows") or []
        return found


def _step(number: int, line: str) -> list[float]:
    tokens = line.replace(";", " ").replace(",", " ").replace("\t", " ").split()
    try:
        attenuation, sent, heard = (float(token) for token in tokens)
    except ValueError:
        raise forms.ValidationError(
            f"Line {number}, “{line.strip()[:60]}”: write three numbers, like “110, 100, 87”."
        ) from None
    fine = 0 <= attenuation <= 250 and 0 < sent <= 1e6 and 0 <= heard <= sent
    if not fine or sent % 1 or heard % 1:
        raise forms.ValidationError(
            f"Line {number}: attenuation from 0 to 250 dB, and no more frames heard than sent."
        )
    return [attenuation, int(sent), int(heard)]
