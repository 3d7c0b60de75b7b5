"""What-ifs of a budget: items changed on the page, and the threshold it stands on."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

from django import forms

from inchmark.decide.adapters import ITEM_NAMES, item_from_drawn
from inchmark.shelf.models import BudgetItem, Rig

HIGHEST_DB = 300.0
SAME_DB = 0.005  # half of what a box shows; what differs less was not changed


class WhatIfForm(forms.Form):
    """One box an item; a box that shows what the item is changes nothing."""

    limit = forms.CharField(required=False, max_length=20)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        """Take every item a budget can have."""
        super().__init__(*args, **kwargs)
        for key in ITEM_NAMES:
            self.fields[key] = forms.CharField(required=False, max_length=20)

    def clean(self) -> dict[str, Any]:
        """Read the boxes."""
        found = super().clean() or {}
        changes = {}
        for key, name in ITEM_NAMES.items():
            typed = (found.get(key) or "").strip()
            if typed:
                try:
                    changes[key] = item_from_drawn(key, _decibels(typed))
                except ValueError as wrong:
                    self.add_error(None, f"{name.capitalize()}: {wrong}")
        found["changes"] = changes
        return found

    def changes(self, now: Mapping[Any, float]) -> dict[Any, float]:
        """Return the items whose box differs from what they are now; a loss is positive."""
        if not self.is_valid():
            return {}
        return {
            key: db
            for key, db in self.cleaned_data["changes"].items()
            if key not in now or abs(db - round(now[key], 2)) > SAME_DB
        }


def _decibels(typed: str) -> float:
    try:
        value = float(typed.replace("\N{MINUS SIGN}", "-"))
    except ValueError:
        raise ValueError(f"“{typed}” is no number of dB.") from None
    if not math.isfinite(value) or abs(value) > HIGHEST_DB:
        raise ValueError(f"“{typed}” is no possible number of dB.")
    return value


class BudgetItemForm(forms.ModelForm):
    """An item's own value, written as the budget draws it: measured on the bench or on a walk."""

    class Meta:
        model = BudgetItem
        fields = ["key", "db", "source"]
        labels = {"db": "Value (dB; a loss is below zero)"}

    def __init__(self, *args: Any, rig: Rig, **kwargs: Any) -> None:
        """Know the rig."""
        super().__init__(*args, **kwargs)
        self.instance.rig = rig

    def clean_db(self) -> float:
        """Turn what is drawn into the item's value; refuse a loss that would be a gain."""
        key = self.cleaned_data.get("key", "")
        if key not in ITEM_NAMES:
            return float(self.cleaned_data["db"])
        try:
            return item_from_drawn(key, _decibels(str(self.cleaned_data["db"])))
        except ValueError as wrong:
            raise forms.ValidationError(str(wrong)) from None
