"""The answer of a reading in one sentence."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from inchmark.core.interval import Estimate
from inchmark.core.reading.result import Difference, Reading, RigReading
from inchmark.core.wording import decibels, distance, level, listed, number

WIDE_NOISE_DB = 3.0  # between visits: then the noise a range holds at is named
HOLDS, SHORT, OPEN, UNKNOWN = "holds", "short", "open", "unknown"


@dataclass(frozen=True, slots=True, kw_only=True)
class Answer:
    """The sentence, its limits in a short tail, and what it means for the needed distance."""

    sentence: str
    limits: str = ""
    needed: str = ""
    rule: str = ""
    rig: str = ""  # the rig the sentence is about


def answer_of(reading: Reading) -> Answer:
    """Return the answer; it never claims a winner whose limits include zero."""
    words = f"Range here = {reading.rules.words}{_holds_at(reading)}."
    if not reading.rigs:
        return Answer(sentence="No frames yet.")
    ranged = {one.rig: one.loss_range_m for one in reading.rigs if one.loss_range_m}
    if not ranged:
        return Answer(sentence=_without_range(reading.rigs), rule=words)
    parts = (
        _beyond(reading.rigs),
        _needed(ranged, reading.needed_m),
        _unranged(reading.rigs, ranged),
    )
    needed = " ".join(part for part in parts if part)
    best = max(ranged, key=lambda rig: ranged[rig].estimate)
    if len(reading.rigs) == 1:
        return _single(best, ranged[best], words, needed)
    return _comparison(reading.main_differences, ranged, best, words, needed)


def _holds_at(reading: Reading) -> str:
    """Return what the ranges stand for, where there is more than one thing it could be."""
    kinds = {one.range_words for one in reading.rigs if one.range_words}
    parts = [f"; {listed(sorted(kinds))}"] if kinds else []
    if reading.penalties:
        parts.append(f"; condition: {reading.site.condition or 'as usual'}")
    noise = [one.noise_dbm for one in reading.visits if one.noise_dbm is not None]
    if reading.site.noise_dbm is not None and noise and max(noise) - min(noise) >= WIDE_NOISE_DB:
        parts.append(f"; at a noise of {level(reading.site.noise_dbm)}")
    return "".join(parts)


def _beyond(rigs: Sequence[RigReading]) -> str:
    """Say which ranges lie outside what was walked."""
    names = [one.rig for one in rigs if one.extrapolated]
    if not names:
        return ""
    verb = "lies" if len(names) == 1 else "lie"
    return f"{listed(names)} {verb} more than half beyond the farthest stop: extrapolated."


def _without_range(rigs: Sequence[RigReading]) -> str:
    least = [f"{one.rig}: {one.least_words}" for one in rigs if one.least_words]
    if least:
        return f"No edge was found, so no range: {'; '.join(least)}"
    last = {one.rig: metres for one in rigs if (metres := one.last_heard_m)}
    if not last:
        return "Nothing was heard at any stop."
    best = max(last, key=lambda rig: last[rig])
    return f"{best} was last heard at {distance(last[best])}; the log cannot carry a range yet."


def _single(rig: str, reach: Estimate, words: str, needed: str) -> Answer:
    return Answer(
        sentence=f"{rig} reaches {distance(reach.estimate)}",
        limits=f"95 % {distance(reach.low)} … {distance(reach.high)}",
        needed=needed,
        rule=words,
        rig=rig,
    )


def _comparison(
    differences: Sequence[Difference],
    ranged: Mapping[str, Estimate],
    best: str,
    words: str,
    needed: str,
) -> Answer:
    """Compare the farthest rig with the reference, or the reference's runner-up with it."""
    known = {
        row.rig: (row.against, row.margin_db)
        for row in differences
        if row.margin_db and row.rig in ranged and row.against in ranged
    }
    if not known:
        return _single(best, ranged[best], words, needed)
    rig = best if best in known else max(known, key=lambda name: known[name][1].estimate)
    reference, db = known[rig]
    if db.low <= 0 <= db.high:
        sentence = f"{rig} and {reference} cannot be told apart yet: {decibels(db.estimate)}"
    elif db.low > 0:
        factor = number(ranged[rig].estimate / ranged[reference].estimate, 2)
        sentence = f"{rig} reaches {factor}× as far as {reference}: {decibels(db.estimate)}"
    else:
        sentence = f"{reference} reaches farthest; {rig} has {decibels(db.estimate)} against it"
    limits = f"95 % {number(db.low, sign=True)} … {number(db.high, sign=True)} dB"
    return Answer(sentence=sentence, limits=limits, needed=needed, rule=words, rig=rig)


def verdict(reach: Estimate | None, needed_m: float) -> str:
    """Return what a range says of a needed distance [m]: holds, short, open or unknown."""
    if reach is None:
        return UNKNOWN
    if reach.low >= needed_m:
        return HOLDS
    return SHORT if reach.high < needed_m else OPEN


def _needed(ranged: Mapping[str, Estimate], needed_m: float | None) -> str:
    if not needed_m:
        return ""
    groups: dict[str, list[str]] = {HOLDS: [], OPEN: [], SHORT: []}
    for rig, reach in ranged.items():
        groups[verdict(reach, needed_m)].append(rig)
    verbs = {
        HOLDS: ("holds", "hold"),
        OPEN: ("is open: the limits lie on both sides", "are open: the limits lie on both sides"),
        SHORT: ("falls short", "fall short"),
    }
    parts = [
        f"{listed(names)} {verbs[kind][len(names) > 1]}" for kind, names in groups.items() if names
    ]
    return f"At the needed {distance(needed_m)}: {'; '.join(parts)}."


def _unranged(rigs: Sequence[RigReading], ranged: Mapping[str, Estimate]) -> str:
    """Name the rigs that may reach farther than any range says, because no edge was found."""
    heard = {one.rig: one.last_heard_m for one in rigs if one.rig not in ranged}
    names = [rig for rig, metres in heard.items() if metres]
    if not names:
        return ""
    far = distance(max(metres for metres in heard.values() if metres))
    least = {one.rig: one.least_words for one in rigs if one.least_words}
    said = "".join(f" {rig}: {least[rig]}." for rig in names if rig in least)
    return f"No range yet for {listed(names)}: heard as far as {far}.{said}"
