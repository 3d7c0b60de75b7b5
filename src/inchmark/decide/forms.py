"""What-ifs of a budget: items changed on the page, and the threshold it stands on."""

from __future__ import annotations

import math
from typing import Any

from django import forms

from inchmark.shelf.models import BudgetItem, Rig
from inchmark.shelf.records.ends import LOSS_KEYS

PATH = "path"
KEYS = (*(key for key, _ in BudgetItem.ITEMS), PATH)
HIGHEST_DB = 300.0
SAME_DB = 0.005  # half of what a box shows; what differs less was not changed


class WhatIfForm(forms.Form):
    """One box an item; a box that shows what the item is changes nothing."""

    limit = forms.CharField(required=False, max_length=20)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        """Take every item a budget can have."""
        super().__init__(*args, **kwargs)
        for key in KEYS:
            self.fields[key] = forms.CharField(required=False, max_length=20)

    def clean(self) -> dict[str, Any]:
        """Read the boxes."""
        found = super().clean() or {}
        names = dict(BudgetItem.ITEMS) | {PATH: "path"}
        changes = {}
        for key in KEYS:
            typed = (found.get(key) or "").strip().replace("\N{MINUS SIGN}", "-")
            if typed:
                try:
                    changes[key] = _decibels(key, typed)
                except ValueError as wrong:
                    self.add_error(None, f"{names[key].capitalize()}: {wrong}")
        found["changes"] = changes
        return found

    def changes(self, now: dict[str, float]) -> dict[str, float]:
        """Return the items whose box differs from what they are now [dB]."""
        if not self.is_valid():
            return {}
        return {
            key: db
            for key, db in self.cleaned_data["changes"].items()
            if key not in now or abs(db - round(now[key], 2)) > SAME_DB
        }


def _decibels(key: str, typed: str) -> float:
    try:
        value = float(typed)
    except ValueError:
        raise ValueError(f"“{typed}” is no number of dB.") from None
    if not math.isfinite(value) or abs(value) > HIGHEST_DB:
        raise ValueError(f"“{typed}” is no possible number of dB.")
    if key in LOSS_KEYS and value > 0:
        raise ValueError(f"a loss is written below zero, like {-value:g}.")
    return value


class BudgetItemForm(forms.ModelForm):
    """An item's own value: measured on the bench or on a walk."""

    class Meta:
        model = BudgetItem
        fields = ["key", "db", "source"]
        labels = {"db": "Value (dB; a loss is below zero)"}

    def __init__(self, *args: Any, rig: Rig, **kwargs: Any) -> None:
        """Know the rig."""
        super().__init__(*args, **kwargs)
        self.instance.rig = rig

    def clean_db(self) -> float:
        """Refuse a loss that would be a gain."""
        try:
            return _decibels(self.cleaned_data.get("key", ""), str(self.cleaned_data["db"]))
        except ValueError as wrong:
            raise forms.ValidationError(str(wrong)) from None
