"""The answer in one sentence, from a reading as plain data."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from inchmark.core.reading.rules import RangeRules
from inchmark.core.wording import decibels, distance, listed, number


@dataclass(frozen=True, slots=True, kw_only=True)
class Answer:
    """The sentence, its limits in a short tail, and what it means for the needed distance."""

    sentence: str
    limits: str = ""
    needed: str = ""
    rule: str = ""
    rig: str = ""  # the rig the sentence is about


def answer_of(
    reading: dict[str, Any], *, needed_m: float | None = None, rules: RangeRules | None = None
) -> Answer:
    """Return the answer; it never claims a winner whose limits include zero."""
    rules = rules or RangeRules()
    rigs = reading["rigs"]
    words = f"Range here = {rules.words}."
    if not rigs:
        return Answer(sentence="No frames yet.")
    ranged = {r: x for r, one in rigs.items() if (x := one["range_m"]["loss_rule"])["estimate"]}
    if not ranged:
        return Answer(sentence=_without_range(rigs), rule=words)
    needed = " ".join(part for part in (_needed(ranged, needed_m), _unranged(rigs, ranged)) if part)
    best = max(ranged, key=lambda r: ranged[r]["estimate"])
    if len(rigs) == 1:
        return _single(best, ranged[best], words, needed)
    return _comparison(reading, ranged, best, words, needed)


def _without_range(rigs: dict[str, Any]) -> str:
    last = {r: d for r, one in rigs.items() if (d := one["range_m"]["last_heard"])}
    if not last:
        return "Nothing was heard at any stop."
    best = max(last, key=lambda r: last[r])
    return f"{best} was last heard at {distance(last[best])}; the log cannot carry a range yet."


def _single(rig: str, reach: dict[str, float], words: str, needed: str) -> Answer:
    return Answer(
        sentence=f"{rig} reaches {distance(reach['estimate'])}",
        limits=_between(reach),
        needed=needed, rule=words, rig=rig,
    )  # fmt: skip


def _comparison(
    reading: dict[str, Any], ranged: dict[str, Any], best: str, words: str, needed: str
) -> Answer:
    """Compare the farthest rig with the reference, or the reference's runner-up with it."""
    rows = [
        d for d in reading["differences"] if d["db"]["estimate"] is not None and d["rig"] in ranged
    ]
    reference = reading["differences"][0]["against"]
    rows = [d for d in rows if d["against"] in ranged]
    if not rows:
        return _single(best, ranged[best], words, needed)
    row = next((d for d in rows if d["rig"] == best), None) or max(
        rows, key=lambda d: d["db"]["estimate"]
    )
    rig, db = row["rig"], row["db"]
    limits = f"95 % {number(db['low'], sign=True)} … {number(db['high'], sign=True)} dB"
    if db["low"] <= 0 <= db["high"]:
        sentence = f"{rig} and {reference} cannot be told apart yet: {decibels(db['estimate'])}"
    elif db["low"] > 0:
        factor = ranged[rig]["estimate"] / ranged[reference]["estimate"]
        sentence = (
            f"{rig} reaches {number(factor, 2)}× as far as {reference}: {decibels(db['estimate'])}"
        )
    else:
        sentence = f"{reference} reaches farthest; {rig} has {decibels(db['estimate'])} against it"
    return Answer(sentence=sentence, limits=limits, needed=needed, rule=words, rig=rig)


def _between(reach: dict[str, float]) -> str:
    return f"95 % {distance(reach['low'])} … {distance(reach['high'])}"


def verdict(reach: dict[str, float | None], needed_m: float) -> str:
    """Return "holds", "short" or "open" for a range estimate at a needed distance."""
    if reach["low"] is None or reach["high"] is None:
        return "unknown"
    if reach["low"] >= needed_m:
        return "holds"
    return "short" if reach["high"] < needed_m else "open"


def _needed(ranged: dict[str, Any], needed_m: float | None) -> str:
    if not needed_m:
        return ""
    groups: dict[str, list[str]] = {"holds": [], "open": [], "short": []}
    for rig, reach in ranged.items():
        groups[verdict(reach, needed_m)].append(rig)
    parts = []
    if groups["holds"]:
        parts.append(f"{listed(groups['holds'])} {_verb(groups['holds'], 'holds', 'hold')}")
    if groups["open"]:
        parts.append(
            f"{listed(groups['open'])} {_verb(groups['open'], 'is', 'are')} open: the limits "
            f"lie on both sides"
        )
    if groups["short"]:
        parts.append(f"{listed(groups['short'])} {_verb(groups['short'], 'falls', 'fall')} short")
    return f"At the needed {distance(needed_m)}: {'; '.join(parts)}."


def _unranged(rigs: dict[str, Any], ranged: dict[str, Any]) -> str:
    """Name the rigs that may reach farther than any range says, because no edge was found."""
    heard = {r: one["range_m"].get("last_heard") for r, one in rigs.items() if r not in ranged}
    names = [r for r, metres in heard.items() if metres]
    if not names:
        return ""
    far = distance(max(metres for metres in heard.values() if metres))
    return f"No range yet for {listed(names)}: heard as far as {far}, and no edge was reached."


def _verb(names: list[str], one: str, many: str) -> str:
    return one if len(names) == 1 else many
