"""Forms of accounts: signing in with a second factor, tokens, ending an account."""

from __future__ import annotations

from typing import Any

from django import forms
from django.contrib.auth.forms import AuthenticationForm

from inchmark.people.models import User


class SignInForm(AuthenticationForm):
    """Name, password, and a code where the account asks for one."""

    code = forms.CharField(
        max_length=20,
        required=False,
        label="Code",
        help_text="Only if your account has a second factor: six digits of the app, or a recovery code.",
        widget=forms.TextInput(attrs={"autocomplete": "one-time-code", "inputmode": "text"}),
    )


class FiguresForm(forms.ModelForm):
    """How figures are shown to oneself."""

    class Meta:
        model = User
        fields = ["feet", "zone", "dates"]
        widgets = {"zone": forms.TextInput(attrs={"list": "zones"})}
        help_texts = {
            "feet": "On pages. What is typed may carry any unit; stored figures, sentences of a reading, files and reports stay in metres.",
            "zone": "Like Europe/Lisbon. Times of logs and walks stay in UTC, as they are kept.",
        }


class TokenForm(forms.Form):
    """A new access token."""

    name = forms.CharField(max_length=60, label="Name", help_text="Like “bridge on the sea wall”.")
    days = forms.IntegerField(
        min_value=1,
        max_value=3650,
        required=False,
        label="Good for days",
        help_text="Empty: no end.",
    )
    only_study = forms.TypedChoiceField(
        coerce=int, empty_value=None, required=False, label="Good for"
    )

    def __init__(self, user: Any, *args: Any, **kwargs: Any) -> None:
        """Offer the studies a person may change."""
        super().__init__(*args, **kwargs)
        own = user.memberships.exclude(role="viewer").select_related("study")
        studies = [(one.study_id, one.study.title) for one in own.order_by("study__title")]
        field = self.fields["only_study"]
        field.choices = [("", "every study I may change"), *studies]  # type: ignore[attr-defined]


class CodeForm(forms.Form):
    """A code of the app that is being set up."""

    code = forms.CharField(
        max_length=10, label="Code", widget=forms.TextInput(attrs={"autocomplete": "one-time-code"})
    )
