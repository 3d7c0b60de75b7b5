"""Verbs on sweeps: keep one, take one off."""

from __future__ import annotations

from django.db import transaction
from django.utils import timezone

from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.touchstone import read_one_port
from inchmark.shelf.models import Sweep
from inchmark.studies.models import Study

FILE_LIMIT_BYTES = 4 * 1024 * 1024


def next_sweep(study: Study) -> Sweep:
    """Return an unsaved sweep that takes over what the last one said of antenna and band."""
    last = study.sweeps.last()
    start = Sweep(swept_on=timezone.localdate())
    for name in ("antenna", "unit", "band_low_hz", "band_high_hz", "series", "changed"):
        if last:
            setattr(start, name, getattr(last, name))
    return start


@transaction.atomic
def keep_sweep(study: Study, sweep: Sweep, *, name: str, data: bytes) -> Sweep:
    """Read a Touchstone file and keep it with the sweep; the file is kept as it came.

    Raises
    ------
    UnreadableFileError
        The file is no one-port sweep, or too large.
    ValidationError
        The band or the trim value is missing or impossible.
    """
    if len(data) > FILE_LIMIT_BYTES:
        raise UnreadableFileError("The file is over 4 MB, which is no sweep of one antenna.")
    found = read_one_port(data)
    reflection = found.reflection
    columns = zip(found.frequency_hz, reflection.real, reflection.imag, strict=True)
    sweep.study, sweep.name, sweep.data = study, name[-200:] or "sweep.s1p", data
    sweep.points = [[float(f), round(float(re), 9), round(float(im), 9)] for f, re, im in columns]
    sweep.full_clean()
    sweep.save()
    return sweep


def remove_sweep(sweep: Sweep) -> None:
    """Take a sweep off the shelf."""
    sweep.delete()
