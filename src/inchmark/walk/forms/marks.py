"""What a page says during a walk, as it sends it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

from django import forms
from pydantic import AwareDatetime, BaseModel, Field, ValidationError

from inchmark.walk.forms.presses import NAME

WORDS = r"^[^\x00-\x08\x0b-\x1f\x7f]*$"


class MarkSent(BaseModel):
    """A place tapped, a note, or something looked at before the first frame."""

    kind: Literal["place", "note", "ready"]
    at: AwareDatetime
    stop: str = Field(default="", max_length=60, pattern=NAME)
    rig: str = Field(default="", max_length=8, pattern=NAME)
    condition: str = Field(default="", max_length=60, pattern=NAME)
    receiver: str = Field(default="", max_length=60, pattern=NAME)
    text: str = Field(default="", max_length=600, pattern=WORDS)
    item: Literal["", "read-back", "close-range", "units", "cautions"] = ""
    skipped: bool = False


class Marks(BaseModel):
    """Marks of one page in order, numbered from 1 since it was opened first."""

    start: str = Field(min_length=1, max_length=40, pattern=r"^[\w.:+-]+$")
    first: int = Field(ge=1, le=10**9)
    marks: list[MarkSent] = Field(min_length=1, max_length=500)


class Here(BaseModel):
    """Where a phone says it is [degrees]."""

    lat: float = Field(ge=-90, le=90)
    lon: float = Field(ge=-180, le=180)

    @classmethod
    def of(cls, given: Mapping[str, str]) -> tuple[float, float] | None:
        """Return the place an address names, None for none or one that is no place."""
        try:
            found = cls.model_validate({name: given.get(name) for name in ("lat", "lon")})
        except ValidationError:
            return None
        return found.lat, found.lon


class PhotoForm(forms.Form):
    """A photo, and of one kept on a phone when and where; what a picture is, the service tells."""

    file = forms.FileField(error_messages={"required": "Choose a picture."})
    text = forms.CharField(max_length=200, required=False)
    at = forms.DateTimeField(required=False)
    stop = forms.CharField(max_length=60, required=False)
