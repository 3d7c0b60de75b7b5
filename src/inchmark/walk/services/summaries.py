"""The few figures of a visit, computed once from its frames; pages read these, never all frames."""

from __future__ import annotations

from collections.abc import Iterable

from inchmark.core.reception.rssi_noise import rssi_holds_noise
from inchmark.core.reception.visit import (
    Counting,
    counted_visit,
    silent_visit,
    summarise_visit,
)
from inchmark.shelf.models import Rig
from inchmark.walk.adapters.columns import frames_of
from inchmark.walk.adapters.visits import latest_counts, summary_as_dict, weak_readings
from inchmark.walk.models import Visit


def summarise(visits: Iterable[Visit]) -> None:
    """Read each visit's frames once and keep its figures; rig and walk are already loaded.

    A visit without frames or silence is removed. What a rig's RSSI holds is looked up once.
    """
    noisy: dict[int, bool] = {}
    for visit in visits:
        if visit.rig_id not in noisy:
            noisy[visit.rig_id] = _includes_noise(visit.rig)
        _summarise(visit, includes_noise=noisy[visit.rig_id])


def _includes_noise(rig: Rig) -> bool:
    if rig.rssi_includes_noise is not None:
        return rig.rssi_includes_noise
    return rssi_holds_noise(*weak_readings(rig.pk))


def _summarise(visit: Visit, *, includes_noise: bool) -> None:
    frames, walk = frames_of(visit), visit.walk
    if frames is not None:
        counting = Counting(
            counter_bits=walk.counter_bits,
            interval_s=walk.interval_s,
            planned=walk.frames_per_visit,
        )
        summary = summarise_visit(frames, rssi_includes_noise=includes_noise, counting=counting)
    elif counts := latest_counts(visit):
        summary = counted_visit(counts)
    elif visit.silent_sent:
        summary = silent_visit(visit.silent_sent)
    else:
        visit.delete()
        return
    visit.sent, visit.heard = summary.sent, summary.heard
    visit.summary = summary_as_dict(summary) | {"noise_in_rssi": includes_noise}
    visit.save(update_fields=["sent", "heard", "summary"])
