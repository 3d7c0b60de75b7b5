"""A frame log from the conducted bench: the condition column holds the attenuation."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable, Iterator

from inchmark.core.reception.passes import Counting
from inchmark.core.reception.visit import summarise_visit
from inchmark.core.wording import listed
from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.frame_log.visits import joined, load_frames

_ATTENUATION = re.compile(r"^(\d+(?:\.\d+)?)\s*(?:dB)?$", re.IGNORECASE)
HIGHEST_DB = 250.0
MOST_LINES = 100_000


def ladder_steps(
    blocks: Iterable[bytes], *, rigs: Collection[str] = (), frames_per_step: int | None = None
) -> list[list[float]]:
    """Return [attenuation dB, sent, heard] by attenuation from a frame log.

    Parameters
    ----------
    rigs
        The names the ladder's rig goes by in logs; only its frames count. All if empty.
    frames_per_step
        How many were sent at each step; a silent tail then counts as lost.

    Raises
    ------
    UnreadableFileError
        The log cannot be read, a line of it cannot, or a condition is no attenuation.
    """
    loaded = load_frames(_not_too_many(blocks))
    if loaded.bad:
        first = loaded.bad[0]
        raise UnreadableFileError(
            f"{len(loaded.bad)} lines could not be read; the first is line {first.number}: {first.reason} Mend them, so that no step is counted short."
        )
    known = {name.casefold() for name in rigs}
    of_rig = {k: v for k, v in loaded.visits.items() if not known or k.rig.casefold() in known}
    if not of_rig:
        others = listed(sorted({key.rig for key in loaded.visits})[:5])
        raise UnreadableFileError(
            f"The log speaks of rig {others}, not of rig {listed(sorted(rigs))}. Choose the ladder's rig, or give it that name in logs."
        )
    counting = Counting(planned=frames_per_step)
    steps: dict[float, list[float]] = {}
    for key, frames in of_rig.items():
        summary = summarise_visit(joined(frames), counting=counting)
        step = steps.setdefault(_attenuation(key.condition), [0, 0])
        step[0] += summary.sent
        step[1] += summary.heard
    return [[attenuation, *step] for attenuation, step in sorted(steps.items())]


def _not_too_many(blocks: Iterable[bytes]) -> Iterator[bytes]:
    lines = 0
    for block in blocks:
        lines += block.count(b"\n")
        if lines > MOST_LINES:
            raise UnreadableFileError(
                f"The log has over {MOST_LINES:,} lines. A ladder needs some hundred frames a step: cut the rest out."
            )
        yield block


def _attenuation(condition: str) -> float:
    found = _ATTENUATION.match(condition.strip())
    if found is None or float(found.group(1)) > HIGHEST_DB:
        raise UnreadableFileError(
            f"The condition “{condition[:40]}” is no attenuation. Log the attenuator's setting in dB in the condition column, like 96."
        )
    return float(found.group(1))
