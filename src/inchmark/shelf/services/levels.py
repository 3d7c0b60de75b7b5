"""The level a conducted ladder measured, in the rigs it serves."""

from __future__ import annotations

from inchmark.shelf.adapters.conducted import measured_with
from inchmark.shelf.figures.conducted import result_of
from inchmark.shelf.models import ConductedCheck, Rig

COLUMNS = ["conducted", "conducted_dbm", "conducted_source"]


def take_level(rig: Rig, check: ConductedCheck | None) -> None:
    """Take a ladder's level over into a rig, or give it up."""
    half = result_of(check).half_lost if check else None
    rig.conducted = check if half else None
    rig.conducted_dbm = half.estimate if half else None
    rig.conducted_source = (
        f"half lost, conducted {check.checked_on:%-d %b %Y}" if check and half else ""
    )


def follow_ladder(rig: Rig) -> None:
    """Let a rig that is kept anew have the ladder in use for its module and setting, and no other."""
    kind = measured_with(rig)
    if rig.conducted and rig.conducted.measured_with == kind:
        return
    checks = ConductedCheck.objects.filter(study=rig.study, measured_with=kind)
    take_level(rig, checks.filter(rigs_in_use__isnull=False).order_by("-pk").first())
