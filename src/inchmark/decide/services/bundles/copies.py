"""A study as the start of the next: its shelf, its site and its plan, and nothing that was walked."""

from __future__ import annotations

import tempfile
from typing import Any

from inchmark.decide.services.bundles.into import take_bundle
from inchmark.decide.services.bundles.out import write_bundle
from inchmark.studies.models import Study
from inchmark.studies.services import change_study

IN_MEMORY = 16 * 1024**2
TITLE = 120


def start_of_next(study: Study, by: Any) -> Study:
    """Return a new study with the shelf and the plan of another, its maker its owner."""
    with tempfile.SpooledTemporaryFile(max_size=IN_MEMORY) as file:
        write_bundle(study, file, walked=False)
        file.seek(0)
        made = take_bundle(file, by)
    return change_study(made, title=f"{study.title[: TITLE - 6]}, next")
