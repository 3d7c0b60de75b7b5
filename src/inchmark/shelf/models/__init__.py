"""What stands on the shelf: parts, their settings, bench checks, and rigs composed of them."""

from inchmark.shelf.models.bench import (
    Centring,
    CloseRange,
    ConductedCheck,
    CurrentTrace,
    Sweep,
)
from inchmark.shelf.models.parts import Antenna, Battery, Feed, Module, Part, Unit
from inchmark.shelf.models.rigs import MeasuredItem, Rig
from inchmark.shelf.models.settings import Setting, SettingFields

__all__ = [
    "Antenna",
    "Battery",
    "Centring",
    "CloseRange",
    "ConductedCheck",
    "CurrentTrace",
    "Feed",
    "MeasuredItem",
    "Module",
    "Part",
    "Rig",
    "Setting",
    "SettingFields",
    "Sweep",
    "Unit",
]
