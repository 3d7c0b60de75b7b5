"""Walks, the logs they came from, visits and frames: facts, only ever added."""

from inchmark.walk.models.logs import (
    BadLine,
    FileChunk,
    FrameFile,
    ImportProgress,
    LineCorrection,
    ReadBack,
)
from inchmark.walk.models.visits import Frame, HandCount, Visit, VisitColumns
from inchmark.walk.models.walks import FieldPass, Stay, Walk, WalkUnit

__all__ = [
    "BadLine",
    "FieldPass",
    "FileChunk",
    "Frame",
    "FrameFile",
    "HandCount",
    "ImportProgress",
    "LineCorrection",
    "ReadBack",
    "Stay",
    "Visit",
    "VisitColumns",
    "Walk",
    "WalkUnit",
]
