"""What stands on the shelf: parts, their settings, bench checks, and rigs composed of them."""

from inchmark.shelf.models.bench import (
    Centring,
    CloseRange,
    ConductedCheck,
    CurrentTrace,
    Sweep,
)
from inchmark.shelf.models.parts import Antenna, Battery, Feed, Module, Part, Surrounding, Unit
from inchmark.shelf.models.rigs import BudgetItem, Rig
from inchmark.shelf.models.settings import Setting, SettingFields

__all__ = [
    "Antenna",
    "Battery",
    "BudgetItem",
    "Centring",
    "CloseRange",
    "ConductedCheck",
    "CurrentTrace",
    "Feed",
    "Module",
    "Part",
    "Rig",
    "Setting",
    "SettingFields",
    "Surrounding",
    "Sweep",
    "Unit",
]
