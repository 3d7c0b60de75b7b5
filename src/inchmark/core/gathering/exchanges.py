"""Tries and answers in one log: a try counts as heard when its answer came before the next try."""

from __future__ import annotations

from dataclasses import replace

from inchmark.core.gathering.source import Row, Source
from inchmark.core.recipe.names import Act

SAME = 0.5  # of the frames heard must bear the counter of the try before, to be its answer


def tries_of(source: Source) -> list[Row] | None:
    """Return the tries of a log that tells of tries and answers; None for another kind of log."""
    told = source.told
    numbered = any(row.seq is not None for act, row in told if act is Act.SENT)
    told = [one for one in told if one[0] is not Act.SENT or one[1].seq is not None or not numbered]
    if not any(act is Act.SENT for act, _ in told) or not _answered(told):
        return None
    rows: list[Row] = []
    for act, row in told:
        if act is Act.SENT:
            seq = len(rows) if row.seq is None else row.seq
            rows.append(replace(row, seq=seq, heard=False))
        elif act is not Act.LOST and rows and _answers(rows, row):
            rows[-1] = _with_answer(rows[-1], row)
    return rows


def _answered(told: list[tuple[Act, Row]]) -> bool:
    if any(act is Act.REPLY for act, _ in told):
        return True
    last: int | None = None
    heard = same = 0
    for act, row in told:
        if act is Act.SENT:
            last = row.seq
        elif act is Act.HEARD:
            heard += 1
            same += row.seq is None or row.seq == last
    return heard > 0 and same >= SAME * heard


def _answers(rows: list[Row], row: Row) -> bool:
    return not rows[-1].heard and row.seq in (None, rows[-1].seq)


def _with_answer(tried: Row, answer: Row) -> Row:
    return replace(
        tried,
        heard=True,
        rssi_dbm=answer.rssi_dbm,
        snr_db=answer.snr_db,
        noise_dbm=answer.noise_dbm if answer.noise_dbm is not None else tried.noise_dbm,
        source=answer.source or tried.source,
        hops=answer.hops,
    )
