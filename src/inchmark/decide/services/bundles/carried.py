"""Which rows make a study, in the order they can be put back, and which are left behind and why."""

from __future__ import annotations

from typing import Any

from django.contrib.auth import get_user_model
from django.db import models

from inchmark.decide.models import Decision, Report
from inchmark.plan.models import (
    Acknowledgement,
    Design,
    Site,
    SiteFeatures,
    SiteMap,
    SitePoint,
    SiteWall,
    Stop,
    Terrain,
)
from inchmark.read.models import ReadingFailure, StudyReading
from inchmark.shelf.models import (
    Antenna,
    Battery,
    BudgetItem,
    Centring,
    CloseRange,
    ConductedCheck,
    CurrentTrace,
    Feed,
    Module,
    Rig,
    Setting,
    Surrounding,
    Sweep,
    Unit,
)
from inchmark.studies.models import Change, Invitation, Membership, NoteDecision, Removed
from inchmark.walk.models import (
    BadLine,
    FieldPass,
    FileChunk,
    Frame,
    FrameFile,
    HandCount,
    ImportProgress,
    LineCorrection,
    Mark,
    Photo,
    ReadBack,
    Stay,
    Track,
    Visit,
    VisitColumns,
    Walk,
    WalkUnit,
)

Kind = type[models.Model]
# each with the way to its study
CARRIED: dict[Kind, str] = {
    NoteDecision: "study",
    Module: "study",
    Antenna: "study",
    Feed: "study",
    Battery: "study",
    Surrounding: "study",
    Unit: "study",
    Setting: "study",
    Sweep: "study",
    Rig: "study",
    BudgetItem: "rig__study",
    ConductedCheck: "study",
    Centring: "study",
    CloseRange: "study",
    CurrentTrace: "study",
    Site: "study",
    SiteFeatures: "study",
    SiteWall: "study",
    Terrain: "study",
    Stop: "study",
    SitePoint: "study",
    Design: "study",
    Acknowledgement: "design__study",
    Walk: "study",
    WalkUnit: "walk__study",
    Stay: "walk__study",
    Track: "walk__study",
    Mark: "walk__study",
    Photo: "walk__study",
    ReadBack: "walk__study",
    Visit: "walk__study",
    FrameFile: "walk__study",
    FileChunk: "file__walk__study",
    BadLine: "file__walk__study",
    LineCorrection: "file__walk__study",
    HandCount: "walk__study",
    Decision: "study",
}
# what the next study may begin with: parts, bench, site and plan
BEFORE_A_WALK = {
    kind
    for kind in CARRIED
    if kind._meta.app_label in ("shelf", "plan") and kind is not Acknowledgement
}
SINCE = {SiteWall}  # kinds that bundles of an older version do not have
FRAMES = Frame  # by the million: as rows of their own
LEFT: dict[Kind, str] = {
    Membership: "people belong to an installation",
    Invitation: "a way in, to an installation",
    FieldPass: "a way in, to an installation",
    Change: "who did what, in an installation",
    SiteMap: "drawn anew",
    StudyReading: "read anew, so that the figures come from the frames",
    ReadingFailure: "of an installation",
    ImportProgress: "of an import",
    VisitColumns: "packed anew from the frames",
    Report: "made anew",
    Removed: "can be put back where it was removed",
}
# worked out anew from the frames, whatever a bundle says
DERIVED = {(Visit, "summary"), (Visit, "sent"), (Visit, "heard")}
USER: Kind = get_user_model()


def name_of(kind: Kind) -> str:
    """Return how a kind of row is called in a bundle."""
    return kind._meta.label_lower


def fields_of(kind: Kind) -> list[Any]:
    """Return the fields of a kind that a bundle carries: not its number, its study, or who."""
    return [
        field
        for field in kind._meta.concrete_fields
        if not field.primary_key
        and (kind, field.name) not in DERIVED
        and not (field.is_relation and field.related_model is USER)
        and not (field.is_relation and field.name == "study")
    ]
