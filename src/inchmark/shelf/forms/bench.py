"""Forms of the bench: sweeps, an analyser, ladders and the other checks."""

from collections.abc import Sequence
from typing import Any

from django import forms

from inchmark.formats.ladder_log import HIGHEST_DB
from inchmark.pages.fields import (
    PowerField,
    QuantityField,
    SmallFileField,
    model_choice,
)
from inchmark.pages.rows import COUNT, Column, RowsField
from inchmark.shelf.models import Centring, CloseRange, ConductedCheck, CurrentTrace
from inchmark.studies.models import Study

STATE_CHOICES = ("sleep", "wake", "receive window", "transmit")


class RigCheckForm(forms.ModelForm):
    """A check of one of the study's rigs, with its date."""

    def __init__(self, *args: Any, study: Study, **kwargs: Any) -> None:
        """Offer the study's own rigs, and its units' serials beside the field."""
        super().__init__(*args, **kwargs)
        model_choice(self, "rig").queryset = study.rigs.all()
        model_choice(self, "rig").empty_label = "choose a rig"
        for name in ("unit", "sender"):
            if name in self.fields:
                self.fields[name].widget.attrs["list"] = "unit-serials"


_DATE = forms.DateInput(format="%Y-%m-%d", attrs={"type": "date"})


class LadderForm(RigCheckForm):
    """A conducted ladder: one line a step, or a frame log with the attenuation as condition."""

    source_dbm = PowerField(label="Transmit power", help_text="“14 dBm” or “25 mW”.")
    steps = RowsField(
        [Column("attenuation", "dB"), Column("sent", COUNT), Column("heard", COUNT)],
        label="Steps",
        help_text="One line a step, in the order made: attenuation in dB, frames sent, frames heard. There and back tells both ways apart.",
    )
    file = SmallFileField(
        16,
        label="or a frame log",
        required=False,
        help_text="Its condition column holds the attenuation, like 96. Steps typed are added.",
    )
    frames_per_step = forms.IntegerField(
        label="Frames sent at each step of the log",
        required=False,
        min_value=1,
        max_value=1_000_000,
        help_text="So that a silent tail counts as lost.",
    )

    class Meta:
        model = ConductedCheck
        fields = ["rig", "unit", "checked_on", "source_dbm", "fixed_loss_db", "steps"]
        widgets = {"checked_on": _DATE}
        labels = {"fixed_loss_db": "Loss of cables and adapters (dB)"}

    def clean_steps(self) -> list[list[float]]:
        """Return attenuation, sent and heard of each step."""
        steps: list[list[float]] = self.cleaned_data["steps"]
        for number, (attenuation, sent, heard) in enumerate(steps, start=1):
            if not (0 <= attenuation <= HIGHEST_DB and 0 < sent <= 1e6 and heard <= sent):
                raise forms.ValidationError(
                    f"Line {number}: attenuation from 0 to 250 dB, and no more frames heard than sent."
                )
        return steps

    def clean(self) -> dict[str, Any]:
        """Ask for steps, typed or logged."""
        found = super().clean() or {}
        if not found.get("steps") and not found.get("file") and not self.errors:
            self.add_error("steps", "Type the steps, or choose a frame log.")
        return found


class CentringForm(RigCheckForm):
    """A receiver stepped off the carrier: one line an offset."""

    level_dbm = PowerField(
        label="RSSI on the carrier",
        required=False,
        help_text="So that a saturated receiver is noticed; stand far enough apart.",
    )
    hz_per_step = QuantityField(
        "Hz",
        bare_unit="Hz",
        required=False,
        label="Hz a step, if known",
        help_text="Of the module’s own steps.",
    )
    steps = RowsField(
        [Column("offset", "Hz", "kHz"), Column("sent", COUNT), Column("heard", COUNT)],
        label="Steps",
        help_text="One line an offset: kHz (or the step’s number), frames sent, heard. Down until the link is lost, then up.",
    )
    lost_low = forms.FloatField(required=False, label="Going down, lost at")
    back_low = forms.FloatField(required=False, label="Coming up, back at")
    back_high = forms.FloatField(required=False, label="Coming down, back at")
    lost_high = forms.FloatField(required=False, label="Going up, lost at")

    class Meta:
        model = Centring
        fields = [
            "rig",
            "unit",
            "sender",
            "checked_on",
            "level_dbm",
            "drift_ppm",
            "in_steps",
            "hz_per_step",
            "steps",
        ]
        widgets = {"checked_on": _DATE}
        labels = {
            "drift_ppm": "Both crystals, tolerance and temperature (ppm)",
            "in_steps": "Offsets are in the module’s own steps",
        }
        help_texts = {"drift_ppm": "Two of ±10 ppm may be 20 ppm apart."}

    EDGES = ("lost_low", "back_low", "back_high", "lost_high")

    def counted(self) -> list[forms.BoundField]:
        """Return the fields that are not edges."""
        return [field for field in self if field.name not in self.EDGES]

    def edges(self) -> list[forms.BoundField]:
        """Return the fields of the edges."""
        return [self[name] for name in self.EDGES]

    def clean(self) -> dict[str, Any]:
        """Take steps or all four edges; numbers are kHz, or the module's own steps."""
        found = super().clean() or {}
        typed = [found.get(name) for name in self.EDGES]
        scale = 1.0 if found.get("in_steps") else 1e3
        if any(one is not None for one in typed):
            for name, one in zip(self.EDGES, typed, strict=True):
                if one is None and name not in self.errors:
                    self.add_error(name, "Give all four edges.")
            if found.get("steps"):
                self.add_error(
                    "steps", "Give steps with their frames, or the four edges, not both."
                )
            self.instance.edges = [scale * one for one in typed if one is not None]
            found["steps"] = []
        elif not found.get("steps") and "steps" not in self.errors:
            self.add_error("steps", "Give steps with their frames, or the four edges below.")
        elif found.get("in_steps") and found.get("steps"):  # a bare number was taken for kHz
            found["steps"] = [[offset / 1e3, n, k] for offset, n, k in found["steps"]]
        return found


class FollowForm(forms.Form):
    """Something done after a centring, with frames counted at the middle."""

    key = forms.CharField(max_length=70)
    sent = forms.IntegerField(min_value=0, max_value=1_000_000, required=False)
    heard = forms.IntegerField(min_value=0, max_value=1_000_000, required=False)


class CloseRangeForm(RigCheckForm):
    """The level at a short fixed distance."""

    distance_m = QuantityField("m", label="Distance", help_text="A few metres, always the same.")
    power_dbm = PowerField(label="Transmit power, turned down")
    parallel_dbm = PowerField(label="RSSI, antennas parallel", required=False)
    crossed_dbm = PowerField(label="RSSI, antennas crossed", required=False)
    crossed_distance_m = QuantityField(
        "m", label="Distance when crossed", required=False, help_text="Empty: the same."
    )
    low_dbm = PowerField(label="Window from", required=False)
    high_dbm = PowerField(label="Window to", required=False)
    crossed_low_dbm = PowerField(label="Crossed, from", required=False)
    crossed_high_dbm = PowerField(label="Crossed, to", required=False)

    class Meta:
        model = CloseRange
        fields = [
            "rig",
            "unit",
            "checked_on",
            "distance_m",
            "power_dbm",
            "parallel_dbm",
            "crossed_dbm",
            "crossed_distance_m",
            "good",
            "low_dbm",
            "high_dbm",
            "crossed_low_dbm",
            "crossed_high_dbm",
        ]
        widgets = {"checked_on": _DATE}

    OWN = ("low_dbm", "high_dbm", "crossed_low_dbm", "crossed_high_dbm")

    def clean(self) -> dict[str, Any]:
        """Ask for both ends of a window."""
        found = super().clean() or {}
        for low, high in (self.OWN[:2], self.OWN[2:]):
            if (found.get(low) is None) != (found.get(high) is None) and not self.errors:
                lacking = low if found.get(low) is None else high
                self.add_error(lacking, "A window of one’s own needs both its ends.")
        return found

    def measured(self) -> list[forms.BoundField]:
        """Return the fields that are no window."""
        return [field for field in self if field.name not in self.OWN]

    def windows(self) -> list[forms.BoundField]:
        """Return the fields of a window of one's own."""
        return [self[name] for name in self.OWN]


class AnswerForm(forms.Form):
    """An answer to a question of the fault tree: what was swapped and what it gave."""

    question = forms.CharField(max_length=20)
    answer = forms.CharField(max_length=20)
    swapped = forms.CharField(max_length=80, required=False)
    gave_dbm = PowerField(required=False)


class TraceForm(RigCheckForm):
    """A current trace."""

    file = SmallFileField(
        24,
        label="Trace (CSV)",
        help_text="A header with units, like “time_s,current_mA”, or “time_ms,voltage_mV”.",
    )
    supply_v = QuantityField("V", label="Supply voltage")
    period_s = QuantityField("s", label="One message every", help_text="Like “15 min”.")
    offset_a = QuantityField(
        "A",
        bare_unit="A",
        required=False,
        label="The meter reads with nothing connected",
        help_text="Like “3 µA”; it is taken off.",
    )

    class Meta:
        model = CurrentTrace
        fields = ["rig", "unit", "traced_on", "supply_v", "period_s", "offset_a", "shunt_ohm"]
        widgets = {"traced_on": _DATE}
        labels = {"shunt_ohm": "Shunt (Ω)"}
        help_texts = {"shunt_ohm": "Only where the file holds the voltage over a shunt."}

    def clean_offset_a(self) -> float:
        """Take nothing said for nothing read."""
        return float(self.cleaned_data["offset_a"] or 0.0)


class LevelsForm(forms.Form):
    """Names of a trace's levels, from the lowest, and the currents between them."""

    def __init__(self, *args: Any, names: Sequence[str], edges_a: Sequence[float], **kwargs: Any):
        """Ask for a name for each level and a boundary between each two."""
        super().__init__(*args, **kwargs)
        for i, name in enumerate(names):
            self.fields[f"name-{i}"] = forms.ChoiceField(
                choices=[(one, one) for one in STATE_CHOICES], initial=name, label=f"Level {i + 1}"
            )
            if i < len(edges_a):
                self.fields[f"edge-{i}"] = QuantityField(
                    "A", bare_unit="mA", initial=float(f"{edges_a[i]:.3g}"), label="up to"
                )

    def said(self) -> tuple[list[float], list[str]]:
        """Return boundaries and names."""
        found = self.cleaned_data
        names = [found[key] for key in found if key.startswith("name-")]
        return [found[key] for key in found if key.startswith("edge-")], names
