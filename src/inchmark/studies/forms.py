"""Forms of a study; quantities are typed with their unit."""

from __future__ import annotations

from typing import Any

from django import forms
from django.contrib.auth import get_user_model, login
from django.contrib.auth.forms import UserCreationForm
from django.http import HttpRequest

from inchmark.pages.fields import QuantityField
from inchmark.studies.models import Invitation, NoteDecision, Study


class StudyForm(forms.ModelForm):
    """The question and the distance the deployment must reach."""

    needed_m = QuantityField(
        "m",
        label="Needed distance",
        required=False,
        help_text="Like “740 m” or “1.3 km”. Leave empty if there is none.",
    )

    class Meta:
        model = Study
        fields = ["title", "question", "needed_m", "region", "asks"]
        widgets = {"asks": forms.HiddenInput()}
        labels = {"title": "Name of the study", "question": "The question it answers"}
        help_texts = {"question": "Like “Which antenna reaches every sluice gate?”"}

    @property
    def region_words(self) -> str:
        """Return whose rules stand in the form, in words."""
        value = self["region"].value()
        return str(dict(self.fields["region"].choices).get(value, value))  # type: ignore[attr-defined]


class AskedForm(forms.ModelForm):
    """The kind of question, which says what is folded."""

    class Meta:
        model = Study
        fields = ["asks"]
        help_texts = {"asks": "Rooms it does not need are folded under “more”."}


class RulesForm(forms.ModelForm):
    """The rules a range is read under."""

    class Meta:
        model = Study
        fields = [
            "loss_share",
            "places_share",
            "in_hand_db",
            "needed_direction",
            "needed_receiver",
            "own_noise",
        ]
        labels = {
            "loss_share": "Loss allowed (share of frames)",
            "places_share": "Places that must hold (share)",
            "in_hand_db": "In-hand rule (dB above half-lost level)",
        }
        help_texts = {
            "loss_share": "0.1 means 1 frame in 10 may be lost.",
            "places_share": "0.9 means 9 places of 10 must hold; 0.5 is the typical place.",
            "in_hand_db": "10 dB is common practice.",
        }


class KeepingForm(forms.ModelForm):
    """How long the lines of logs are kept."""

    class Meta:
        model = Study
        fields = ["keep_logs_days"]
        labels = {"keep_logs_days": "Days that the lines of a log are kept"}
        help_texts = {"keep_logs_days": "Counted from its last reading. Empty: for good."}


class NoteDecisionForm(forms.ModelForm):
    """Accept a note, set it aside with a reason, or open it again."""

    class Meta:
        model = NoteDecision
        fields = ["code", "subject", "state", "reason"]
        widgets = {name: forms.HiddenInput() for name in ("code", "subject")}

    def clean(self) -> dict[str, Any]:
        """Ask for the reason where one is needed."""
        cleaned = super().clean() or {}
        if cleaned.get("state") == NoteDecision.SET_ASIDE and not cleaned.get("reason"):
            self.add_error(
                "reason", "Say why the note is set aside; the reason stays with the study."
            )
        return cleaned


class InviteForm(forms.ModelForm):
    """A link for someone more."""

    class Meta:
        model = Invitation
        fields = ["role", "note"]
        help_texts = {
            "role": "A viewer sees everything, an editor changes it, an owner decides who is in.",
            "note": "So that you know the link again.",
        }


class JoinForm(UserCreationForm):
    """A new account for who holds a link."""

    class Meta:
        model = get_user_model()
        fields = ["username"]

    def sign_up(self, request: HttpRequest) -> None:
        """Make the account and sign it in."""
        user = self.save()
        login(request, user, backend="django.contrib.auth.backends.ModelBackend")
