"""Forms of the walk."""

from __future__ import annotations

from typing import Any

from django import forms

from inchmark.pages.fields import QuantityField
from inchmark.studies.models import Study
from inchmark.walk.models import Walk


class WalkForm(forms.ModelForm):
    """One outing."""

    interval_s = QuantityField(
        "s",
        label="Beacon interval",
        required=False,
        help_text="Like “2 s”. With it, silence is counted as lost frames.",
    )

    class Meta:
        model = Walk
        fields = [
            "walked_on",
            "people",
            "weather",
            "interval_s",
            "frames_per_visit",
            "counter_bits",
            "note",
        ]
        widgets = {
            "walked_on": forms.DateInput(format="%Y-%m-%d", attrs={"type": "date"}),
            "note": forms.Textarea(attrs={"rows": 2}),
        }
        help_texts = {
            "frames_per_visit": "If every visit (each pass of it) sent the same number: "
            "a silent tail is then lost frames, not fewer frames.",
            "counter_bits": "Leave open to find out from the log.",
        }


class LogForm(forms.Form):
    """A frame log to upload."""

    file = forms.FileField(
        label="Frame log",
        help_text="CSV with a header (rig, stop, seq, and what you have), or JSON Lines.",
    )


class SilentVisitForm(forms.Form):
    """A visit at which nothing was heard."""

    rig = forms.ModelChoiceField(queryset=None, label="Rig")
    stop = forms.ModelChoiceField(queryset=None, label="Stop")
    sent = forms.IntegerField(min_value=1, max_value=1_000_000, required=False, label="Frames sent")
    minutes = forms.FloatField(
        min_value=0, max_value=1440, required=False, label="or minutes waited"
    )

    def __init__(self, study: Study, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, prefix="silent", **kwargs)
        self.fields["rig"].queryset = study.rigs.all()
        self.fields["stop"].queryset = study.stops.all()


LONGEST_NUMBER = 15  # digits of a line number


class BadLinesForm(forms.Form):
    """Corrections typed beside bad lines: fields named line-<number>."""

    def texts(self) -> dict[int, str]:
        """Return the texts by line number."""
        found = {}
        for name, value in self.data.items():
            number = name.removeprefix("line-")
            if name.startswith("line-") and number.isdecimal() and len(number) <= LONGEST_NUMBER:
                found[int(number)] = value.replace("\x00", "")
        return found
