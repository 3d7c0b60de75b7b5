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

from inchmark.pages.personal import current
from inchmark.studies.models import Study

MOST = 400  # values; a page's table is some 100 kB

Value = TypeVar("Value")
_kept: OrderedDict[Hashable, Any] = OrderedDict()
_making: dict[Hashable, Lock] = {}  # one works a value out, whoever else wants it waits for that
_lock = Lock()


def per_revision(study: Study, what: str, make: Callable[[], Value], *more: Hashable) -> Value:
    """Return a value of a study's revision, made if this process has not kept it.

    `more` is what else it depends on, like the number of the reading or what was asked.
    """
    key = (what, study.pk, study.revision, current(), *more)
    known: Value
    with _lock:
        if key in _kept:
            known = _taken(key)
            return known
        making = _making.setdefault(key, Lock())
    with making:
        with _lock:
            if key in _kept:  # somebody made it meanwhile
                known = _taken(key)
                return known
        try:
            made = make()
            _keep(key, made)
        finally:
            with _lock:
                _making.pop(key, None)
        return made


def _taken(key: Hashable) -> Any:
    _kept.move_to_end(key)
    return _kept[key]


def _keep(key: Hashable, made: Any) -> None:
    with _lock:
        _kept[key] = made
        while len(_kept) > MOST:
            _kept.popitem(last=False)


def forget() -> None:
    """Forget everything; tests roll revisions back."""
    with _lock:
        _kept.clear()
