"""Forms of how a log is read: what each part means, what the log stands for, names the study lacks."""

from __future__ import annotations

import re
from datetime import date
from typing import Any

from django import forms

from inchmark.formats.quantities import read_quantity
from inchmark.pages.fields import QuantityField
from inchmark.studies.models import Study
from inchmark.walk.adapters.logs import NEW, Lacking, Said, wrong_clock, wrong_zone
from inchmark.walk.adapters.recipes import (
    CHOICES,
    MAKERS,
    NEGATIVE,
    PERCENT,
    PLAIN,
    REGISTER,
    LevelSaid,
    PartShown,
)


class RecipeForm(forms.Form):
    """What each part of a line means, and how its RSSI is written."""

    level = forms.ChoiceField(
        label="The RSSI is written",
        choices=[
            (PLAIN, "in dBm, as it is"),
            (NEGATIVE, "in dBm without its minus sign"),
            (PERCENT, "in per cent"),
            (REGISTER, "as a register"),
        ],
    )
    low = forms.FloatField(label="dBm at 0 %", required=False, min_value=-200, max_value=60)
    high = forms.FloatField(label="dBm at 100 %", required=False, min_value=-200, max_value=60)
    factor = forms.FloatField(label="dB a step", required=False, min_value=-10, max_value=10)
    offset = forms.FloatField(label="dBm at 0", required=False, min_value=-300, max_value=300)
    month_first = forms.BooleanField(label="the month stands before the day", required=False)

    def __init__(self, parts: list[PartShown], *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.shown = parts
        for i, part in enumerate(parts):
            self.fields[f"part-{i}"] = forms.ChoiceField(
                label=part.name,
                choices=CHOICES,
                required=False,
                initial=part.meaning,
                help_text=part.reason,
            )

    def parts(self) -> list[tuple[Any, str]]:
        """Return the field of each part with what it holds in the log."""
        return [(self[f"part-{i}"], part.holds) for i, part in enumerate(self.shown)]

    def clean(self) -> dict[str, Any]:
        """Refuse a recipe without a frame in it, and per cent or a register without its figures."""
        found = super().clean() or {}
        if not MAKERS.intersection(found.get(f"part-{i}", "") for i in range(len(self.shown))):
            raise forms.ValidationError(
                "No part is the counter, the RSSI or the S/N, so no line is a frame. Say which part is one of them."
            )
        if found.get("level") == PERCENT and not _rises(found.get("low"), found.get("high")):
            self.add_error("low", "Write the RSSI at 0 % and, higher, at 100 %.")
        if found.get("level") == REGISTER and not found.get("factor"):
            self.add_error("factor", "Write how many dB one step is, like 0.5 or 1.")
        return found

    def chosen(self) -> dict[str, str]:
        """Return the meaning chosen for each part by name."""
        return {part.name: self.cleaned_data[f"part-{i}"] for i, part in enumerate(self.shown)}

    def level_said(self) -> LevelSaid:
        """Return how the RSSI is said to be written."""
        names = ("level", "low", "high", "factor", "offset")
        return LevelSaid(**{name: self.cleaned_data[name] for name in names})


def _rises(low: float | None, high: float | None) -> bool:
    return low is not None and high is not None and low < high


class SaidForm(forms.Form):
    """What a log stands for where its lines do not say, its clock, and how frames were sent."""

    rig = forms.CharField(
        required=False, max_length=60, label="Rig", help_text="A letter, or a new name."
    )
    stop = forms.CharField(
        required=False, max_length=60, label="Stop", help_text="One of the plan, or a new name."
    )
    receiver = forms.CharField(required=False, max_length=60)
    direction = forms.ChoiceField(
        required=False,
        choices=[
            ("", "not said"),
            ("to_fixed", "to the fixed end"),
            ("to_carried", "to the carried end"),
            ("replies", "tries and answers"),
        ],
    )
    condition = forms.CharField(required=False, max_length=60, label="How it was carried")
    zone = forms.CharField(
        label="Zone of its times", max_length=6, help_text="Like +01:00, where a time has none."
    )
    day = forms.DateField(
        required=False,
        label="Day of its first line",
        widget=forms.DateInput(format="%Y-%m-%d", attrs={"type": "date"}),
    )
    clock_s = forms.FloatField(
        required=False,
        label="Seconds to add to its clock",
        min_value=-1e8,
        max_value=1e8,
    )
    starts_at = forms.CharField(
        required=False,
        max_length=12,
        label="Time of its first line",
        help_text="Like 14:02:00, where it counts from its start.",
    )
    interval_s = QuantityField("s", required=False, label="Beacon interval")
    sent_per_visit = forms.IntegerField(
        required=False, min_value=1, max_value=1_000_000, label="Frames sent at a visit"
    )

    def __init__(self, study: Study, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.offered = {
            "rig": list(study.rigs.values_list("letter", flat=True)),
            "stop": list(study.stops.values_list("label", flat=True)),
        }
        for name in self.offered:
            self.fields[name].widget.attrs |= {"list": f"known-{name}", "autocomplete": "off"}

    def clean_zone(self) -> str:
        """Refuse what is no zone."""
        if wrong := wrong_zone(self.cleaned_data["zone"]):
            raise forms.ValidationError(wrong)
        return str(self.cleaned_data["zone"])

    def clean_starts_at(self) -> str:
        """Refuse what is no time of day."""
        text = str(self.cleaned_data["starts_at"])
        if text and (wrong := wrong_clock(text)):
            raise forms.ValidationError(wrong)
        return text

    def clean_day(self) -> date | None:
        """Refuse a day no clock of ours knows."""
        found: date | None = self.cleaned_data["day"]
        if found is not None and not 1970 <= found.year <= 2200:
            raise forms.ValidationError("That day is not in this age. Check the year.")
        return found

    def said(self, before: Said) -> Said:
        """Return what is said now; names made or mapped before stay."""
        given = {k: v for k, v in self.cleaned_data.items() if k != "starts_at"}
        given["clock_s"] = given["clock_s"] or 0.0
        return before.model_copy(update=given)


_PARTED = re.compile(r"[\t;,]")


class NamesForm(forms.Form):
    """What names of logs mean: a rig or stop of the study, or a new one."""

    pasted = forms.CharField(
        required=False,
        max_length=20_000,
        label="or paste the distances",
        widget=forms.Textarea(attrs={"rows": 4, "spellcheck": "false"}),
        help_text="One a line in the order above, or name and distance: “gate, 120 m”.",
    )

    def __init__(self, study: Study, lacking: Lacking, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        rigs = [(rig.letter, f"is {rig}") for rig in study.rigs.all()]
        stops = [(stop.label, f"is {stop}") for stop in study.stops.all()]
        self.rig_names, self.stop_names = list(lacking.rigs)[:60], list(lacking.stops)[:120]
        for i, name in enumerate(self.rig_names):
            choices = [(NEW, "make it a rig"), *rigs, ("", "leave it out")]
            label = f"{name}, {lacking.rigs[name]} frames"
            self.fields[f"rig-{i}"] = forms.ChoiceField(
                choices=choices, label=label, required=False, initial=NEW
            )
        for i, name in enumerate(self.stop_names):
            label = f"{name}, {lacking.stops[name]} frames"
            self.fields[f"metres-{i}"] = QuantityField(
                "m", label=label, required=False, initial=_metres_in(name)
            )
            if stops:
                self.fields[f"stop-{i}"] = forms.ChoiceField(
                    choices=[("", "is a new stop"), *stops], required=False, label="or it"
                )

    def rigs(self) -> dict[str, str]:
        """Return what each rig's name means, those left out not among them."""
        chosen = {name: self.cleaned_data[f"rig-{i}"] for i, name in enumerate(self.rig_names)}
        return {name: choice for name, choice in chosen.items() if choice}

    def clean_pasted(self) -> dict[str, float]:
        """Return pasted distances [m] by stop; refuse a line that is none, and says which."""
        found: dict[str, float] = {}
        lines = [line for line in self.cleaned_data["pasted"].splitlines() if line.strip()]
        for number, line in enumerate(lines, 1):
            name, rest = [*_PARTED.split(line, maxsplit=1), ""][:2]
            named = bool(rest) and name.strip() in self.stop_names
            place = name.strip() if named else dict(enumerate(self.stop_names, 1)).get(number, "")
            if not place:
                raise forms.ValidationError(
                    f"Line {number}, “{line[:40]}”: no log names such a stop."
                )
            try:
                found[place] = read_quantity((rest if named else line).strip(), "m")
            except ValueError as wrong:
                raise forms.ValidationError(f"Line {number}, “{line[:40]}”: {wrong}") from None
        return found

    def stops(self) -> dict[str, str | float]:
        """Return what each stop's name means: a label, or the distance [m] of a new one."""
        found: dict[str, str | float] = dict(self.cleaned_data["pasted"])
        for i, name in enumerate(self.stop_names):
            if label := self.cleaned_data.get(f"stop-{i}"):
                found[name] = label
            elif (metres := self.cleaned_data[f"metres-{i}"]) is not None:
                found[name] = metres
        return found

    def rig_fields(self) -> list[Any]:
        """Return the fields of rigs."""
        return [self[f"rig-{i}"] for i in range(len(self.rig_names))]

    def stop_fields(self) -> list[tuple[Any, Any]]:
        """Return distance and choice of each stop."""
        return [
            (self[f"metres-{i}"], self[f"stop-{i}"] if f"stop-{i}" in self.fields else None)
            for i in range(len(self.stop_names))
        ]


def _metres_in(name: str) -> str:
    """Return a distance that a stop's name states, as in “120 m”."""
    figure, _, unit = name.partition(" ")
    return name if unit in ("m", "km") and figure.replace(".", "", 1).isdigit() else ""


class AsideForm(forms.Form):
    """Why a log is set aside."""

    reason = forms.CharField(max_length=200, label="Why it does not count")


class LogsForm(forms.Form):
    """Logs to begin a study with."""

    title = forms.CharField(
        max_length=120,
        required=False,
        label="Name of the study",
        help_text="Empty: the log's name.",
    )


class EdgeForm(forms.Form):
    """An end of a stay moved by so many seconds."""

    stay = forms.IntegerField(min_value=1)
    which = forms.ChoiceField(choices=[("from", "beginning"), ("to", "end")])
    by_s = forms.FloatField(min_value=-86_400, max_value=86_400)


class ClockSetForm(forms.Form):
    """Seconds to add to a log's clock."""

    add_s = forms.FloatField(min_value=-86_400, max_value=86_400)


class TimelineForm(forms.Form):
    """Who stood where, when: a line a stay."""

    text = forms.CharField(
        required=False,
        max_length=400_000,
        label="Stays",
        widget=forms.Textarea(attrs={"rows": 12, "class": "mono", "spellcheck": "false"}),
        help_text="A line each: from, to, stop, and if known rig, how it was carried, receiver, frames sent. Times like 14:02 are on the day of the walk.",
    )
