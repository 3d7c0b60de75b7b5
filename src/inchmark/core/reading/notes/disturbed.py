"""Notes on frames that do not count as they came: disturbed, in a stretch that changed, relayed."""

from __future__ import annotations

from collections.abc import Iterator

from inchmark.core.reading.analysis import Analysis
from inchmark.core.reading.notes.places import Found, counted
from inchmark.core.reading.result import FACT, Note
from inchmark.core.reception.changes import NOISE
from inchmark.core.wording import level, percent, plural


def interfered(analysis: Analysis) -> Iterator[Note]:
    """Name visits whose losses their level does not explain."""
    lossy = list(analysis.fit.interfered) if analysis.fit else []
    if not lossy:
        return
    lossy.sort(key=lambda i: -analysis.loss_of(i).low)
    found, worst = Found(analysis, tuple(lossy)), lossy[0]
    strong = analysis.used[worst].level_mean_dbm
    at = f" at {level(strong)}" if strong is not None else ""
    yield found.note(
        "interference",
        f"Losses that level does not explain at {found.many}",
        f"{found.first}: {percent(analysis.loss_of(worst).estimate)} lost{at}. Interference, a collision or a restart is likelier than weakness. The fit gives such visits a loss of their own, so they do not bend the threshold; their levels count. All of them: {found.places}.",
        remedy="walk",
    )


def changed(analysis: Analysis) -> Iterator[Note]:
    """Name visits of which a stretch is left out."""
    if not analysis.changed:
        return
    found = Found(analysis, tuple(analysis.changed))
    first = found.indices[0]
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
    yield found.note(
        "changed_inside",
        f"Something changed inside {found.many}",
        f"{found.first}: {plural(out, 'frame')} of {sent}, from {percent(change.stretch.start / sent)} to {percent(change.stretch.end / sent)} of the visit, are left out: {why}. The rest of the visit counts. All of them: {found.places}.",
        remedy="walk",
    )


def relayed(analysis: Analysis) -> Iterator[Note]:
    """Say that relayed frames are no evidence of the direct link."""

    def words(found: Found, count: int) -> tuple[str, str]:
        return (
            f"{plural(count, 'frame')} came through a relay",
            f"{found.places}. A relayed frame says nothing of the direct link: it counts as sent and not heard there, and its level, the relay's, is not used.",
        )

    return counted(analysis, "relayed", lambda s: s.relayed, words, kind=FACT)


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
