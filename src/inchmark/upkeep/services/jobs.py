"""Jobs whose workers died again and again: what they were for says so, and can be tried again."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from inchmark.plan.models import Design, SiteMap
from inchmark.read.services import record_failure
from inchmark.walk.models import FrameFile

MOST_ATTEMPTS = 3
DIED = (
    "Its worker ended three times while at it, perhaps for want of memory. Nothing is lost; "
    "try again, or split what it works on."
)


def _file(file_id: int) -> None:
    FrameFile.objects.filter(pk=file_id).update(state=FrameFile.FAILED, problem=DIED)


def _reading(study_id: int) -> None:
    record_failure(study_id, DIED)


def _map(map_id: int) -> None:
    SiteMap.objects.filter(pk=map_id).update(state=Design.FAILED, problem=DIED)


def _power(design_id: int) -> None:
    Design.objects.filter(pk=design_id).update(power_state=Design.FAILED)


_OF: dict[str, Callable[..., None]] = {
    "inchmark.walk.tasks.import_file": _file,
    "inchmark.walk.tasks.walk_with_boards": _file,
    "inchmark.read.tasks.read_study": _reading,
    "inchmark.plan.tasks.draw_map": _map,
    "inchmark.plan.tasks.work_out_power": _power,
}


def give_up(task: str, arguments: dict[str, Any]) -> None:
    """Say at what a job was for that it was given up; jobs by the clock come again by themselves."""
    if task in _OF:
        _OF[task](**{name: value for name, value in arguments.items() if name != "request_id"})
