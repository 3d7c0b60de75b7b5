"""Recipes as a form shows them: parts with what they hold, and how the RSSI is written."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from inchmark.core.recipe.names import Meaning
from inchmark.core.recipe.numbers import Written
from inchmark.core.recipe.propose import Proposal, use_for
from inchmark.core.recipe.recipe import FRAME_MAKERS, Recipe, Use

CHOICES = [
    ("", "kept, not used"),
    (Meaning.SEQ, "counter of the frame"),
    (Meaning.RSSI, "RSSI"),
    (Meaning.SNR, "S/N"),
    (Meaning.NOISE, "noise"),
    (Meaning.RIG, "rig"),
    (Meaning.SOURCE, "sender"),
    (Meaning.STOP, "stop"),
    (Meaning.RECEIVER, "receiver"),
    (Meaning.CONDITION, "how it was carried"),
    (Meaning.DIRECTION, "direction"),
    (Meaning.HOPS, "hops"),
    (Meaning.TIME, "time"),
    (Meaning.DATE, "date"),
    (Meaning.UPTIME, "time since the start"),
    (Meaning.LAT, "latitude"),
    (Meaning.LON, "longitude"),
    (Meaning.HDOP, "how good the position is (HDOP)"),
    (Meaning.SATELLITES, "satellites of the position"),
    (Meaning.DISTANCE, "distance"),
    (Meaning.HEARD, "whether it was heard"),
    (Meaning.ACK, "whether it was answered"),
    (Meaning.CRC, "whether its check held"),
    (Meaning.PAYLOAD, "payload with a counter in it"),
]
PLAIN, NEGATIVE, PERCENT, REGISTER = "plain", "negative", "percent", "register"
MOST_PARTS = 40
MAKERS = frozenset((*FRAME_MAKERS, Meaning.PAYLOAD))


@dataclass(frozen=True, slots=True, kw_only=True)
class LevelSaid:
    """How the RSSI is written: at 0 and at 100 per cent [dBm], or a register's step [dB] and nought."""

    level: str = PLAIN
    low: float | None = None
    high: float | None = None
    factor: float | None = None
    offset: float | None = None

    @classmethod
    def of(cls, recipe: Recipe) -> LevelSaid:
        """Return how a recipe reads its RSSI."""
        use = recipe.use_of(Meaning.RSSI)
        written = use.written if use else Written()
        if written.offset == 0 and abs(written.factor) == 1:
            return cls(level=PLAIN if written.factor == 1 else NEGATIVE)
        top = round(written.offset + 100 * written.factor, 6)
        return cls(
            level=PERCENT if written.factor > 0 and top <= 0 else REGISTER,
            low=written.offset,
            high=top,
            factor=written.factor,
            offset=written.offset,
        )

    def written(self) -> Written:
        """Return it as the reader takes it."""
        if self.level == NEGATIVE:
            return Written(factor=-1.0)
        if self.level == PERCENT:
            low, high = self.low or 0.0, self.high or 0.0
            return Written(offset=low, factor=(high - low) / 100)
        if self.level == REGISTER:
            return Written(offset=self.offset or 0.0, factor=self.factor or 1.0)
        return Written()


@dataclass(frozen=True, slots=True, kw_only=True)
class PartShown:
    """A part of a log's lines: its name, what it is taken for and why, and what it holds."""

    name: str
    meaning: str
    reason: str
    holds: str


def parts_of(proposal: Proposal) -> list[PartShown]:
    """Return the parts of a log's lines, those that are used first."""
    uses = {use.name: use for use in proposal.recipe.uses}
    # beside the parts of frames those of other lines that came more than once, like “stop 3”
    others = [c.name for c in proposal.columns.values() if c.count > 1 and not c.positional]
    names = dict.fromkeys([*uses, *proposal.recipe.unused, *others])
    if not uses:
        names = dict.fromkeys(proposal.columns)
    return [
        PartShown(
            name=name,
            meaning=uses[name].meaning if name in uses else "",
            reason=uses[name].reason if name in uses else "",
            holds=", ".join(dict.fromkeys(proposal.columns[name].texts[:4]))[:60],
        )
        for name in names
        if name in proposal.columns
    ][:MOST_PARTS]


def recipe_said(
    proposal: Proposal, chosen: Mapping[str, str], level: LevelSaid, *, month_first: bool
) -> Recipe:
    """Return the recipe with what a person chose for each part; one left empty is kept, not used."""
    old = proposal.recipe
    known = {use.name: use for use in old.uses}
    uses = tuple(
        _use(proposal, known.get(name), name, Meaning(meaning), level)
        for name, meaning in chosen.items()
        if meaning
    )
    kept = {use.name for use in uses}
    return replace(
        old,
        uses=uses,
        needs=tuple(m for m in old.needs if any(use.meaning is m for use in uses)),
        unused=tuple(name for name in chosen if name not in kept),
        month_first=month_first,
        begins=old.begins if old.begins in kept else "",
    )


def _use(
    proposal: Proposal, known: Use | None, name: str, meaning: Meaning, level: LevelSaid
) -> Use:
    use = known
    if use is None or use.meaning is not meaning:
        use = use_for(proposal.columns[name], meaning)
    return replace(use, written=level.written()) if meaning is Meaning.RSSI else use
