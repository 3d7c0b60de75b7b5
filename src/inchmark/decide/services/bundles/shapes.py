"""What the JSON columns of a study may hold: a bundle that was edited brings nothing that pages trip over."""

from __future__ import annotations

from functools import cache
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from inchmark.decide.models import Decision
from inchmark.decide.services.bundles.carried import Kind
from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.recipe_file import recipe_from_json
from inchmark.plan.models import Design, SiteFeatures, SiteWall, Stop, Terrain
from inchmark.shelf.models import (
    Centring,
    CloseRange,
    ConductedCheck,
    CurrentTrace,
    Feed,
    Module,
    Sweep,
)
from inchmark.walk.adapters.logs import Said
from inchmark.walk.models import FrameFile

Text = Annotated[str, Field(max_length=2000)]
Number = Annotated[float, Field(allow_inf_nan=False)]
Count = Annotated[int, Field(ge=0)]
Lat = Annotated[float, Field(ge=-90, le=90)]
Lon = Annotated[float, Field(ge=-180, le=360)]
Points = list[tuple[Lat, Lon]]
Mapped = dict[Text, Any]  # kept with the version of its shape: what does not fit is read anew


class _Power(BaseModel):
    model_config = ConfigDict(extra="allow")
    studies: Count
    settled: Count
    share: Number
    low: Number
    high: Number
    revision: int


class _Log(BaseModel):
    name: Text
    sha256: Text
    frames: int


class _Evidence(BaseModel):
    model_config = ConfigDict(extra="allow")
    answer: Text = ""
    rule: Text = ""
    served: list[Text] = []
    inputs: list[_Log] = []
    rigs: dict[Text, Text] = {}
    reading: Mapped | None = None


class _Done(BaseModel):
    model_config = ConfigDict(extra="allow")
    on: Text | None = None
    by: Text | None = None
    sent: Count | None = None
    heard: Count | None = None


class _Answer(BaseModel):
    model_config = ConfigDict(extra="allow")
    answer: Text = ""
    swapped: Text = ""
    gave_dbm: Number | None = None


class _Corrections(BaseModel):
    model_config = ConfigDict(extra="forbid")
    edges_a: list[Number] = []
    names: list[Text] = []


SHAPES: dict[tuple[Kind, str], Any] = {
    (Module, "bands"): list[tuple[Number, Number]],
    (Module, "transmit_currents"): list[tuple[Number, Number]],
    (Module, "sensitivities"): list[tuple[Text, Number, Number]],
    (Module, "recipe"): Mapped | None,
    (Feed, "cable_rows"): list[tuple[Number, Number]],
    (Feed, "links"): list[tuple[Text, Text, Text, Number, Number]],
    (Sweep, "points"): list[tuple[Number, Number, Number]],
    (ConductedCheck, "steps"): list[tuple[Number, Count, Count]],
    (ConductedCheck, "reading"): Mapped,
    (Centring, "steps"): list[tuple[Number, Count, Count]],
    (Centring, "edges"): tuple[Number, Number, Number, Number] | tuple[()],
    (Centring, "done"): dict[Text, _Done],
    (CloseRange, "answers"): dict[Text, Text | _Answer],
    (CurrentTrace, "corrections"): _Corrections,
    (CurrentTrace, "reading"): Mapped,
    (SiteFeatures, "features"): list[
        tuple[Literal["mark", "line", "area"], Text, list[Points], Text]
    ],
    (SiteWall, "points"): Points,
    (Terrain, "contours"): list[tuple[Number, Points]],
    (Stop, "profile"): list[tuple[Number, Number, Literal["open", "reeds", "trees", "houses"]]],
    (Design, "ways"): list[Text],
    (Design, "conditions"): list[Text],
    (Design, "power"): _Power | Annotated[Mapped, Field(max_length=0)],
    (FrameFile, "recipe"): Mapped | None,
    (FrameFile, "said"): Said,
    (FrameFile, "unknown"): dict[Text, dict[Text, Count]],
    (Decision, "evidence"): _Evidence,
}
RECIPES = {(Module, "recipe"), (FrameFile, "recipe")}


@cache
def _adapter(kind: Kind, name: str) -> TypeAdapter[Any]:
    return TypeAdapter(SHAPES[kind, name])


def check_shape(kind: Kind, name: str, value: Any, where: str) -> None:
    """Refuse what a column cannot hold.

    Raises
    ------
    UnreadableFileError
        The sentence says which row, which column and what stands there instead.
    """
    try:
        _adapter(kind, name).validate_python(value, strict=False)
        if (kind, name) in RECIPES and value is not None:
            recipe_from_json(value)
    except ValidationError as wrong:
        first = wrong.errors(include_url=False, include_context=False)[0]
        at = ".".join(str(one) for one in first["loc"][:4])
        raise UnreadableFileError(f"{where}: {name} {at}: {first['msg'].lower()}") from None
    except (ValueError, TypeError, KeyError, AttributeError) as wrong:
        raise UnreadableFileError(f"{where}: {name} cannot be read: {str(wrong)[:120]}") from None
