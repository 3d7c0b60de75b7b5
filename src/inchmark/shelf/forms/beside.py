"""What is to stand side by side."""

from __future__ import annotations

from typing import Any

from django import forms
from django.db.models import QuerySet

from inchmark.pages.fields import QuantityField, model_choice

MOST = 26


class BesideForm(forms.Form):
    """Candidates, the one they are held against, the exponent, and for antennas the frequency."""

    one: Any = forms.ModelMultipleChoiceField(
        queryset=None, required=False, label="Candidates", widget=forms.CheckboxSelectMultiple
    )
    base: Any = forms.ModelChoiceField(queryset=None, required=False, label="Held against")
    exponent = forms.FloatField(
        min_value=1.5,
        max_value=8,
        required=False,
        label="Exponent of the paths",
        help_text="2 in free space, 3 to 4 over ground, 4 to 6 inside; empty: as walked, else 3.",
    )
    at = QuantityField("Hz", bare_unit="MHz", required=False, label="Working frequency")

    def __init__(self, *args: Any, among: QuerySet[Any], **kwargs: Any) -> None:
        """Offer the study's own."""
        super().__init__(*args, **kwargs)
        for name in ("one", "base"):
            model_choice(self, name).queryset = among
        model_choice(self, "base").empty_label = "the first"

    def clean_at(self) -> float | None:
        """Refuse a frequency no radio is on."""
        at: float | None = self.cleaned_data["at"]
        if at is not None and not 1e5 <= at <= 1e11:
            raise forms.ValidationError("Write a frequency from 0.1 MHz to 100 GHz.")
        return at

    def clean_one(self) -> list[Any]:
        """Take all that are offered where none is ticked."""
        chosen = list(self.cleaned_data["one"]) or list(self.fields["one"].queryset)  # type: ignore[attr-defined]
        if len(chosen) > MOST:
            raise forms.ValidationError(
                f"{len(chosen)} stand here; {MOST} are the most. Tick some."
            )
        return chosen
