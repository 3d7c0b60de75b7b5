"""Forms of the walk."""

from __future__ import annotations

from typing import Any

from django import forms
from django.db.models import Q, QuerySet

from inchmark.pages.fields import QuantityField, model_choice
from inchmark.plan.adapters.stops import stops_of
from inchmark.plan.models import Stop
from inchmark.shelf.adapters.rigs import rigs_of
from inchmark.shelf.models import Rig
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
            "frames_per_visit": "If every visit (each pass of it) sent the same number: a silent tail is then lost frames, not fewer frames.",
            "counter_bits": "Leave open to find out from the log.",
        }


class LogForm(forms.Form):
    """A frame log to upload."""

    file = forms.FileField(
        label="Frame log",
        help_text="Any board's console or table. One with rig, stop and seq is read at once; of any other the program shows what each part is.",
    )


class UnitsForm(forms.Form):
    """The unit of each rig, and the one at the fixed end."""

    def __init__(self, walk: Walk, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs | {"prefix": "units"})
        self.rigs = {f"rig-{rig.pk}": rig for rig in walk.study.rigs.all()}
        kept = {row.rig_id: row.unit_id for row in walk.units.all()}
        units = walk.study.units.filter(module__isnull=False).select_related("module")
        read = list(units)  # once, not once a field
        for name, rig in self.rigs.items():
            self.fields[name] = self._choice(units, read, f"Rig {rig.letter}", kept.get(rig.pk))
        self.fields["fixed"] = self._choice(units, read, "Fixed end", walk.fixed_unit_id)

    @staticmethod
    def _choice(
        units: QuerySet[Any], read: list[Any], label: str, kept: int | None
    ) -> forms.ModelChoiceField[Any]:
        field: forms.ModelChoiceField[Any] = forms.ModelChoiceField(
            units.filter(Q(archived=False) | Q(pk=kept)), label=label, required=False, initial=kept
        )
        offered = [(unit.pk, str(unit)) for unit in read if not unit.archived or unit.pk == kept]
        field.choices = [("", "not named"), *offered]
        return field

    def carried(self) -> dict[Any, Any]:
        """Return the unit chosen for each rig."""
        return {rig: self.cleaned_data[name] for name, rig in self.rigs.items()}


class PassForm(forms.Form):
    """Who gets a pass."""

    name = forms.CharField(max_length=60, label="Who logs")


class SilentVisitForm(forms.Form):
    """A visit at which nothing was heard."""

    rig: forms.ModelChoiceField[Rig] = forms.ModelChoiceField(queryset=None, label="Rig")
    stop: forms.ModelChoiceField[Stop] = forms.ModelChoiceField(queryset=None, label="Stop")
    sent = forms.IntegerField(min_value=1, max_value=1_000_000, required=False, label="Frames sent")
    minutes = forms.FloatField(
        min_value=0, max_value=1440, required=False, label="or minutes waited"
    )

    def __init__(self, study: Study, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs | {"prefix": "silent"})
        for name, rows in (("rig", rigs_of(study)), ("stop", stops_of(study))):
            field = model_choice(self, name)
            field.queryset = getattr(study, f"{name}s").all()
            field.choices = [("", "---------"), *((row.pk, str(row)) for row in rows)]


class CountForm(forms.Form):
    """The counts of one visit, written down by hand; empty is not counted.

    `usual_sent` is what every visit of the walk sent, said once: who writes heard alone means that.
    """

    sent = forms.IntegerField(min_value=1, max_value=1_000_000, required=False)
    heard = forms.IntegerField(min_value=0, max_value=1_000_000, required=False)
    rssi_dbm = forms.FloatField(min_value=-200, max_value=60, required=False, label="RSSI (dBm)")
    note = forms.CharField(max_length=120, required=False)

    def __init__(self, *args: Any, usual_sent: int | None = None, **named: Any) -> None:
        super().__init__(*args, **named)
        self.usual_sent = usual_sent
        if usual_sent:
            self.fields["sent"].widget.attrs["placeholder"] = str(usual_sent)

    def clean(self) -> dict[str, Any]:
        """Refuse half a count, and more heard than sent."""
        found = super().clean() or {}
        if found.get("sent") is None and found.get("heard") is not None and self.usual_sent:
            found["sent"] = self.usual_sent
        sent, heard = found.get("sent"), found.get("heard")
        if self.errors:
            return found
        if (sent is None) != (heard is None):
            raise forms.ValidationError("Write both: how many frames went out, how many came.")
        if sent is None and (found.get("rssi_dbm") is not None or found.get("note")):
            raise forms.ValidationError("A reading or note without counts: write sent and heard.")
        if sent is not None and heard > sent:
            raise forms.ValidationError("More frames heard than sent. Check both counts.")
        return found


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


class WalkTokenForm(forms.Form):
    """A token for one walk."""

    name = forms.CharField(max_length=60, label="Name", help_text="Like “bridge on the sea wall”.")
    days = forms.IntegerField(
        min_value=1,
        max_value=3650,
        initial=7,
        label="Good for days",
        help_text="Then it ends by itself.",
    )
