"""The few figures of a visit, computed once from its frames; pages read these, never all frames."""

from __future__ import annotations

from inchmark.core.reception.visit import (
    Counting,
    VisitSummary,
    rssi_holds_noise,
    silent_visit,
    summarise_visit,
)
from inchmark.walk.models import Visit
from inchmark.walk.records import frames_of, summary_as_dict, weak_readings


def summarise(visit: Visit) -> None:
    """Read a visit's frames once and keep its figures.

    A visit without frames or silence is removed.
    """
    frames = frames_of(visit)
    noisy = False
    if frames is not None:
        noisy = _includes_noise(visit)
        counting = Counting(
            counter_bits=visit.walk.counter_bits,
            interval_s=visit.walk.interval_s,
            planned=visit.walk.frames_per_visit,
        )
        summary = summarise_visit(frames, rssi_includes_noise=noisy, counting=counting)
    elif visit.silent_sent:
        summary = silent_visit(visit.silent_sent)
    else:
        visit.delete()
        return
    _keep(visit, summary, noisy)


def _includes_noise(visit: Visit) -> bool:
    if visit.rig.rssi_includes_noise is not None:
        return visit.rig.rssi_includes_noise
    return rssi_holds_noise(*weak_readings(visit.rig_id))


def _keep(visit: Visit, summary: VisitSummary, noisy: bool) -> None:  # noqa: FBT001
    visit.sent, visit.heard = summary.sent, summary.heard
    visit.summary = summary_as_dict(summary) | {"noise_in_rssi": noisy}
    visit.save(update_fields=["sent", "heard", "summary"])
