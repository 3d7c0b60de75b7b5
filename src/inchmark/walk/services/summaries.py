"""The few figures of a visit, computed once from its frames; pages read these, never all frames."""

from __future__ import annotations

from inchmark.core.reception.sequence import expected_sent
from inchmark.core.reception.visit import (
    VisitSummary,
    rssi_holds_noise,
    silent_visit,
    summarise_visit,
)
from inchmark.walk.models import Visit, Walk
from inchmark.walk.records import frames_of, summary_as_dict, weak_readings


def summarise(visit: Visit) -> None:
    """Read a visit's frames once and keep its figures.

    A visit without frames or silence is removed.
    """
    frames = frames_of(visit)
    noisy = False
    if frames is not None:
        noisy = _includes_noise(visit)
        summary = summarise_visit(
            frames, rssi_includes_noise=noisy, interval_s=visit.walk.interval_s,
            counter_bits=visit.walk.counter_bits, planned=_planned(visit.walk, frames.time_s),
        )  # fmt: skip
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


def _planned(walk: Walk, times_s: object) -> int | None:
    """Return the frames known to have gone out: as typed, or the time logged over the interval."""
    import numpy as np

    times = np.asarray(times_s)
    times = times[np.isfinite(times)]
    by_time = None
    if walk.interval_s and len(times) > 1:
        by_time = expected_sent(duration_s=float(np.ptp(times)), interval_s=walk.interval_s)
    return max((n for n in (walk.frames_per_visit, by_time) if n), default=None)


def _keep(visit: Visit, summary: VisitSummary, noisy: bool) -> None:  # noqa: FBT001
    visit.sent, visit.heard = summary.sent, summary.heard
    visit.summary = summary_as_dict(summary) | {"noise_in_rssi": noisy}
    visit.save(update_fields=["sent", "heard", "summary"])
