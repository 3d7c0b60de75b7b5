"""Verbs on sweeps: keep one, take one off."""

from __future__ import annotations

from django.db import transaction
from django.utils import timezone

from inchmark.devices.analyser import SweepRange, read_sweep
from inchmark.devices.simulated_analyser import SimulatedAnalyser
from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.touchstone import read_touchstone, touchstone_text
from inchmark.shelf.adapters.rigs import usual_band
from inchmark.shelf.models import Sweep
from inchmark.studies.models import Removed, Study
from inchmark.studies.services.undo import take_away

FILE_LIMIT_BYTES = 4 * 1024 * 1024


def next_sweep(study: Study, like: Sweep | None = None) -> Sweep:
    """Return an unsaved sweep over the band of the study's rigs.

    Only one asked for `like` another takes over what that one said of antenna, band and series: a
    foreign sweep must not be filed under an antenna because the last one was its.
    """
    band = usual_band(study)
    start = Sweep(swept_on=timezone.localdate(), band_low_hz=band.low_hz, band_high_hz=band.high_hz)
    for name in ("part", "antenna", "unit", "band_low_hz", "band_high_hz", "series", "changed"):
        if like:
            setattr(start, name, getattr(like, name))
    return start


@transaction.atomic
def keep_sweep(study: Study, sweep: Sweep, *, name: str, data: bytes, port: int = 1) -> Sweep:
    """Read a port of a Touchstone file and keep it with the sweep; the file is kept as it came.

    Raises
    ------
    UnreadableFileError
        The file is no sweep, or too large.
    ValidationError
        The band or the trim value is missing or impossible.
    """
    if len(data) > FILE_LIMIT_BYTES:
        raise UnreadableFileError("The file is over 4 MB, which is no sweep of one antenna.")
    found = read_touchstone(data, port=port)
    reflection = found.sweep.reflection
    columns = zip(found.sweep.frequency_hz, reflection.real, reflection.imag, strict=True)
    sweep.reference_ohm, sweep.remarks = found.reference_ohm, "; ".join(found.remarks)
    sweep.study, sweep.name, sweep.data = study, name[-200:] or "sweep.s1p", data
    sweep.points = [[float(f), round(float(re), 9), round(float(im), 9)] for f, re, im in columns]
    sweep.full_clean()
    sweep.save()
    return sweep


def read_from_analyser(
    study: Study,
    sweep: Sweep,
    *,
    start_hz: float,
    stop_hz: float,
    points: int,
    address: tuple[str, int] | None,
    virtual: str = "",
) -> Sweep:
    """Sweep with an analyser and keep what it read, as a file like any other.

    Without an address a simulated analyser is started for this one sweep, a virtual antenna on its
    port, and read over the same connection.

    Raises
    ------
    AnalyserError, UnreadableFileError, ValidationError
        The analyser does not answer; what it sent is no sweep; the band is impossible.
    """
    wanted = SweepRange(start_hz=start_hz, stop_hz=stop_hz, points=points)
    if address is None:
        with SimulatedAnalyser(antenna=virtual or "whip") as analyser:
            name, reflection = read_sweep("127.0.0.1", analyser.port, wanted)
    else:
        name, reflection = read_sweep(*address, wanted)
    text = touchstone_text(wanted.frequency_hz, reflection, comment=f"read from {name}")
    return keep_sweep(study, sweep, name="analyser.s1p", data=text.encode())


def remove_sweep(sweep: Sweep) -> Removed:
    """Take a sweep off the shelf."""
    return take_away(sweep, f"Sweep {sweep.name}", sweep.study)
