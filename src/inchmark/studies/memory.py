"""What does not change between two revisions of a study is worked out once and kept in the process.

A revision is raised by everything a reading rests on (`studies.services.touch`), so what follows
from rigs, stops, site and visits alone can be kept under it. Values are handed out as they are, to
many requests at once: whoever gets one reads it and changes nothing. Every process keeps its own;
losing it costs time only.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Lock
from typing import Any, TypeVar

from inchmark.studies.models import Study

MOST = 400  # values; a page's table is some 100 kB

Value = TypeVar("Value")
_kept: OrderedDict[Hashable, Any] = OrderedDict()
_lock = Lock()


def per_revision(study: Study, what: str, make: Callable[[], Value], *more: Hashable) -> Value:
    """Return a value of a study's revision, made if this process has not kept it.

    `more` is what else it depends on, like the number of the reading or what was asked.
    """
    key = (what, study.pk, study.revision, *more)
    with _lock:
        if key in _kept:
            _kept.move_to_end(key)
            found: Value = _kept[key]
            return found
    made = make()
    with _lock:
        _kept[key] = made
        while len(_kept) > MOST:
            _kept.popitem(last=False)
    return made


def forget() -> None:
    """Forget everything; tests roll revisions back."""
    with _lock:
        _kept.clear()
