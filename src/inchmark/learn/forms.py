"""Forms of practice."""

from __future__ import annotations

from typing import Any

from django import forms

from inchmark.learn.figures.sites import choices, stop_distance
from inchmark.learn.models import LEAST_SEED, MOST_SEED
from inchmark.plan.models import Stop


class BeginForm(forms.Form):
    """Which site: a made one, or a number to draw one from."""

    scenario = forms.ChoiceField(choices=choices())
    seed = forms.IntegerField(
        min_value=LEAST_SEED, max_value=MOST_SEED, required=False, label="Number of the site",
        help_text="The same number gives the same site, for you and for a colleague.",
    )  # fmt: skip


class BlindWalkForm(forms.Form):
    """Where the boards are sent, and how many frames they send at each stop."""

    stops = forms.MultipleChoiceField(widget=forms.CheckboxSelectMultiple, label="Stops")
    frames = forms.IntegerField(
        min_value=5, max_value=500, initial=60, label="Frames of each rig at each stop"
    )

    def __init__(self, stops: list[Stop], *args: Any, **more: Any) -> None:
        """Offer the study's stops."""
        super().__init__(*args, **more)
        field = self.fields["stops"]
        field.choices = [(one.label, _words(one)) for one in stops]  # type: ignore[attr-defined]
        field.initial = [one.label for one in stops]


def _words(stop: Stop) -> str:
    name = f" {stop.name}" if stop.name else ""
    return f"{stop.label}{name}, {stop_distance(stop)}"
