"""Forms of tracks: where an end was, its clock, and how a walk that never stands is cut."""

from __future__ import annotations

from typing import Any

from django import forms
from django.core.exceptions import ValidationError

from inchmark.pages.fields import QuantityField
from inchmark.walk.models import Track


class TrackForm(forms.Form):
    """A GPX file of one end."""

    file = forms.FileField(label="Track", help_text="A GPX file whose points have times.")
    end = forms.ChoiceField(label="Of", choices=Track.ENDS)


class ClockForm(forms.ModelForm):
    """A track's clock and end."""

    shift_s = QuantityField("s", label="Add to its clock", required=True)

    class Meta:
        model = Track
        fields = ["end", "shift_s"]


class CutForm(forms.Form):
    """How a walk is cut into bins: by frames or by distance."""

    frames = forms.IntegerField(
        required=False, min_value=1, max_value=100_000, label="Frames a bin"
    )
    metres = QuantityField("m", label="or metres a bin", required=False)

    def clean(self) -> dict[str, Any]:
        """Take one of the two."""
        found: dict[str, Any] = super().clean() or {}
        if self.errors:
            return found
        if (found.get("frames") is None) == (found.get("metres") is None):
            raise ValidationError("Say frames or metres, one of the two.")
        return found
