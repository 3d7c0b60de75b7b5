"""Notes on frames that do not count as they came: disturbed, in a stretch that changed, relayed."""

from __future__ import annotations

from collections.abc import Iterator

from inchmark.core.reading.analysis import Analysis
from inchmark.core.reading.notes.places import about, places, where
from inchmark.core.reading.result import FACT, Note
from inchmark.core.reception.changes import NOISE
from inchmark.core.wording import level, percent, plural


def interfered(analysis: Analysis) -> Iterator[Note]:
    """Name visits whose losses their level does not explain."""
    found = list(analysis.fit.interfered) if analysis.fit else []
    if not found:
        return
    found.sort(key=lambda i: -analysis.loss_of(i).low)
    worst = found[0]
    strong = analysis.used[worst].level_mean_dbm
    at = f" at {level(strong)}" if strong is not None else ""
    yield about(
        analysis,
        found,
        "interference",
        f"Losses that level does not explain at {plural(len(found), 'visit')}",
        f"{where(analysis.visits[worst])}: {percent(analysis.loss_of(worst).estimate)} lost{at}. Interference, a collision or a restart is likelier than weakness. The fit gives such visits a loss of their own, so they do not bend the threshold; their levels count. All of them: {places([analysis.visits[i] for i in found])}.",
        remedy="walk",
    )


def changed(analysis: Analysis) -> Iterator[Note]:
    """Name visits of which a stretch is left out."""
    found = list(analysis.changed)
    if not found:
        return
    first = found[0]
    change = analysis.visits[first].summary.change
    if change is None:
        return
    sent = analysis.visits[first].summary.sent
    out = sent - analysis.used[first].sent
    why = (
        "the noise was more than 5 dB up there"
        if change.stretch.kind == NOISE
        else "it lost far more than the rest"
    )
    yield about(
        analysis,
        found,
        "changed_inside",
        f"Something changed inside {plural(len(found), 'visit')}",
        f"{where(analysis.visits[first])}: {plural(out, 'frame')} of {sent}, from {percent(change.stretch.start / sent)} to {percent(change.stretch.end / sent)} of the visit, are left out: {why}. The rest of the visit counts. All of them: {places([analysis.visits[i] for i in found])}.",
        remedy="walk",
    )


def relayed(analysis: Analysis) -> Iterator[Note]:
    """Say that relayed frames are no evidence of the direct link."""
    found = [i for i, v in enumerate(analysis.visits) if v.summary.relayed]
    if found:
        count = sum(analysis.visits[i].summary.relayed for i in found)
        found.sort(key=lambda i: -analysis.visits[i].summary.relayed)
        yield about(
            analysis,
            found,
            "relayed",
            f"{plural(count, 'frame')} came through a relay",
            f"{places([analysis.visits[i] for i in found])}. A relayed frame says nothing of the direct link: it counts as sent and not heard there, and its level, the relay's, is not used.",
            kind=FACT,
        )


def noise_from_snr(analysis: Analysis) -> Iterator[Note]:
    """Say that the noise was reckoned from RSSI and S/N."""
    rigs = sorted({v.key.rig for v in analysis.visits if v.summary.noise_derived})
    if rigs:
        yield Note(
            code="noise_derived",
            kind=FACT,
            title="Noise is reckoned from RSSI and S/N",
            text=f"No noise was logged for {', '.join(rigs)}; it is the level less the S/N of the frames heard, and the rig's median where nothing was heard.",
        )


MAKERS = (interfered, changed, relayed, noise_from_snr)
