"""A study begun with logs: one question, one walk, the rest from what the logs name."""

from __future__ import annotations

from pathlib import PurePath
from typing import Any

from django.db import transaction
from django.utils import timezone

from inchmark.studies.models import Study
from inchmark.studies.services import start_study
from inchmark.walk.services.outing import start_walk


@transaction.atomic
def study_from_logs(by: Any, title: str) -> Study:
    """Return a new study with a walk of today, named after its first log if nothing else is said."""
    name = PurePath(title).stem if "." in title else title
    study = start_study(by=by, title=name[:120] or "Study", question="Which rig reaches how far?")
    start_walk(study, walked_on=timezone.localdate())
    return study
