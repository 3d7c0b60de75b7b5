"""Forms of sweeps: a file or an analyser, and frequencies to mark."""

from typing import Any

from django import forms

from inchmark.devices.simulated_analyser import ANTENNAS
from inchmark.pages.fields import QuantitiesField, QuantityField, SmallFileField, model_choice
from inchmark.shelf.models import Sweep
from inchmark.studies.models import Study


class SweepForm(forms.ModelForm):
    """A sweep file, its antenna and band, and what was changed since the last one."""

    file = SmallFileField(
        4,
        label="Sweep file (.s1p, .s2p)",
        required=False,
        help_text="Touchstone, one or two ports: RI, MA or DB, any reference; 50 Ω is shown.",
    )
    port = forms.TypedChoiceField(
        label="Port of a two-port file",
        required=False,
        coerce=int,
        empty_value=1,  # type: ignore[arg-type]
        choices=[(1, "1"), (2, "2")],
    )
    band_low_hz = QuantityField("Hz", bare_unit="MHz", label="Band from")
    band_high_hz = QuantityField("Hz", bare_unit="MHz", label="Band to")

    class Meta:
        model = Sweep
        fields = [
            "part",
            "antenna",
            "unit",
            "swept_on",
            "band_low_hz",
            "band_high_hz",
            "state",
            "series",
            "changed",
            "value",
        ]
        widgets = {"swept_on": forms.DateInput(format="%Y-%m-%d", attrs={"type": "date"})}
        help_texts = {
            "state": "Sweeps of one unit free, near metal and retuned there are held against each other.",
            "series": "Sweeps with one thing changed share a name, like “coil trim 1”.",
            "changed": "Like “wire length, mm” or “distance to metal, mm”.",
        }

    def __init__(self, *args: Any, study: Study, **kwargs: Any) -> None:
        """Offer the study's own antennas; the name may be left to the one chosen."""
        super().__init__(*args, **kwargs)
        model_choice(self, "part").queryset = study.antenna_parts.all()
        self.fields["antenna"].required = False
        self.fields["unit"].widget.attrs["list"] = "unit-serials"

    def clean(self) -> dict[str, Any]:
        """Take the name over from the antenna on the shelf."""
        found = super().clean() or {}
        if not found.get("antenna") and found.get("part"):
            found["antenna"] = found["part"].name
        if not found.get("antenna") and "antenna" not in self.errors:
            self.add_error("antenna", "Choose the antenna from the shelf, or type its name.")
        return found


class MarkersForm(forms.Form):
    """Frequencies to mark on a sweep."""

    at = QuantitiesField(
        "Hz",
        bare_unit="MHz",
        label="Mark also",
        required=False,
        most=12,
        help_text="In MHz, with semicolons between: 868.1; 868.3.",
    )


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
