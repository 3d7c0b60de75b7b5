"""Walks, the logs they came from, visits and frames: facts, only ever added."""

from inchmark.walk.models.logs import (
    BadLine,
    FileChunk,
    FrameFile,
    ImportProgress,
    LineCorrection,
    ReadBack,
)
from inchmark.walk.models.marks import Mark, Photo
from inchmark.walk.models.visits import Frame, HandCount, Visit, VisitColumns
from inchmark.walk.models.walks import FieldPass, Stay, Track, Walk, WalkUnit

__all__ = [
    "BadLine",
    "FieldPass",
    "FileChunk",
    "Frame",
    "FrameFile",
    "HandCount",
    "ImportProgress",
    "LineCorrection",
    "Mark",
    "Photo",
    "ReadBack",
    "Stay",
    "Track",
    "Visit",
    "VisitColumns",
    "Walk",
    "WalkUnit",
]
