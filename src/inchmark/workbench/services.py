"""A study begun with what was asked at the workbench."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.db import transaction

from inchmark.shelf.models import Rig
from inchmark.shelf.services.rigs import save_rig
from inchmark.studies.models import Study
from inchmark.studies.services import start_study

COLUMNS = {
    "frequency": "frequency_hz",
    "power": "power_dbm",
    "gain": "antenna_gain_dbi",
    "sensitivity": "sensitivity_dbm",
    "height1": "fixed_height_m",
    "height2": "height_m",
    "spreading": "spreading_factor",
    "bandwidth": "bandwidth_hz",
    "payload": "payload_bytes",
}


@transaction.atomic
def begin_study(by: Any, said: Mapping[str, Any]) -> Study:
    """Return a new study with a first rig of the figures that were said.

    Raises
    ------
    ValidationError
        A figure is out of the range of a rig; nothing is kept.
    """
    study = start_study(
        by=by,
        title=said["title"],
        question=said["question"] or "Which rig reaches how far?",
        needed_m=said["needed"],
        region=said["region"],
    )
    rig = Rig(letter="A", module="not named", antenna="not named", spreading_factor=7)
    for name, column in COLUMNS.items():
        if said[name] is not None:
            setattr(rig, column, said[name])
    if said["power"] is not None:
        rig.fixed_power_dbm = said["power"]
    save_rig(study, rig)
    return study
