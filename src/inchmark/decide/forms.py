"""What-ifs of a budget: items changed on the page, and the threshold it stands on."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from typing import Any

from django import forms

from inchmark.decide.adapters import ITEM_NAMES, item_from_drawn
from inchmark.decide.figures.tried import Tried
from inchmark.decide.models import Decision
from inchmark.formats.quantities import read_gain_dbi, read_power_dbm
from inchmark.pages.fields import QuantityField, SmallFileField
from inchmark.shelf.models import BudgetItem, Rig

HIGHEST_DB = 300.0
MOST_RECEIVERS = 4
MOST_BUNDLE_MB = 300
LEAST_MAST_M, MOST_MAST_M = 0.3, 300.0
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
                    changes[key] = item_from_drawn(key, typed_item(key, typed))
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


def typed_item(key: str, typed: str) -> float:
    """Return an item's decibels as typed: a power in any unit, a gain in dBi or dBd, else dB."""
    if key.endswith("_power") and re.search(r"(W|dBm)$", typed):
        return _decibels(f"{read_power_dbm(typed):.6f}")
    if key.endswith("_antenna") and re.search(r"dB[id]$", typed, re.IGNORECASE):
        return _decibels(f"{read_gain_dbi(typed):.6f}")
    return _decibels(re.sub(r"\s*dB$", "", typed, flags=re.IGNORECASE).replace(",", "."))


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


class TryForm(forms.Form):
    """What is tried on the places: a mast, another spot for the fixed end, receivers more."""

    mast = QuantityField("m", label="Mast of the fixed end", required=False)
    fixed = forms.CharField(required=False, max_length=40)

    def tried(self) -> Tried:
        """Return what is tried; nothing where the boxes cannot be read."""
        if not self.is_valid():
            return Tried(receivers=self.spots())
        asked = self.cleaned_data
        return Tried(mast_m=asked["mast"], fixed=asked["fixed"], receivers=self.spots())

    def spots(self) -> tuple[tuple[float, float], ...]:
        """Return the receivers tried, those that are places [degrees]."""
        given = self.data.getlist("rx")[:MOST_RECEIVERS] if hasattr(self.data, "getlist") else []
        found = (spot_of(one) for one in given)
        return tuple(dict.fromkeys(one for one in found if one is not None))

    def clean_mast(self) -> float | None:
        """Refuse a mast that cannot stand."""
        mast: float | None = self.cleaned_data.get("mast")
        if mast is not None and not LEAST_MAST_M <= mast <= MOST_MAST_M:
            raise forms.ValidationError(
                f"A mast is between {LEAST_MAST_M:g} and {MOST_MAST_M:g} m high."
            )
        return mast

    def clean_fixed(self) -> tuple[float, float] | None:
        """Read the other spot of the fixed end."""
        typed = self.cleaned_data.get("fixed", "")
        found = spot_of(typed)
        if typed and found is None:
            raise forms.ValidationError(f"“{typed}” is no place: latitude, longitude in degrees.")
        return found


def spot_of(typed: str) -> tuple[float, float] | None:
    """Return latitude and longitude from “47.5,-21.0” [degrees]; None where it is no place."""
    try:
        lat, lon = (float(one) for one in typed.replace("\N{MINUS SIGN}", "-").split(","))
    except ValueError:
        return None
    return (lat, lon) if abs(lat) <= 90 and abs(lon) <= 180 else None


class DecisionForm(forms.ModelForm):
    """A decision: what is chosen, why, what was set aside; the evidence comes with it."""

    class Meta:
        model = Decision
        fields = ["letter", "chosen", "reasons", "set_aside", "uncertain", "name"]
        widgets = {
            "letter": forms.Select,
            "reasons": forms.Textarea(attrs={"rows": 4}),
            "set_aside": forms.Textarea(attrs={"rows": 3}),
            "uncertain": forms.Textarea(attrs={"rows": 3}),
        }
        help_texts = {
            "chosen": "The rig, or the option as it will be built: mast, receivers, setting.",
            "reasons": "A reason a line; page one of the report shows the first three.",
        }

    def __init__(self, *args: Any, letters: list[str], **kwargs: Any) -> None:
        """Offer the rigs of the study."""
        super().__init__(*args, **kwargs)
        self.fields["letter"] = forms.ChoiceField(
            label="Rig it rests on", choices=[(one, one) for one in letters]
        )


class BundleForm(forms.Form):
    """A bundle to take in."""

    file = SmallFileField(
        MOST_BUNDLE_MB,
        label="Bundle (.zip)",
        help_text=f"Up to {MOST_BUNDLE_MB} MB. Nothing of it is kept unless all of it is as it was made.",
    )
