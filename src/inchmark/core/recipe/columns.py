"""What the texts of one named part look like over many lines: numbers, steps, distinct words."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise

from inchmark.core.recipe.names import Act, Meaning, meaning_of, unit_in
from inchmark.core.recipe.numbers import is_hex, is_number, plain_number

KEPT = 4_000  # texts looked at; more tell no more
NUMERIC = 0.9  # of the texts must be figures for a part to be one


@dataclass(slots=True)
class Column:
    """The texts of one named part in the order they came, and the lines they came in."""

    name: str
    texts: list[str] = field(default_factory=list)
    lines: list[int] = field(default_factory=list)
    unit: str = ""
    count: int = 0
    acts: set[Act] = field(default_factory=set)

    def add(self, text: str, unit: str, line: int, act: Act) -> None:
        """Take one text."""
        self.count += 1
        self.acts.add(act)
        if len(self.texts) < KEPT:
            self.texts.append(text)
            self.lines.append(line)
            self.unit = self.unit or unit

    @property
    def meaning(self) -> Meaning | None:
        """Return what its name usually means."""
        return None if self.positional else meaning_of(self.name)

    @property
    def positional(self) -> bool:
        """Tell whether nothing named it but its place."""
        return "/" in self.name.split("[")[0] or self.name.startswith("value")

    @property
    def stated_unit(self) -> str:
        """Return the unit behind the values, or in the name."""
        return self.unit or unit_in(self.name)

    @property
    def numbers(self) -> list[float]:
        """Return the texts that are figures."""
        return [plain_number(text) for text in self.texts if is_number(text)]

    @property
    def numeric(self) -> bool:
        """Tell whether nearly all texts are figures."""
        return len(self.numbers) >= NUMERIC * len(self.texts) > 0

    @property
    def hexadecimal(self) -> bool:
        """Tell whether the texts are hexadecimal: 0x before them, or letters among equal widths."""
        if not all(is_hex(text) for text in self.texts):
            return False
        if all(text[:2].lower() == "0x" for text in self.texts):
            return True
        widths = {len(text) for text in self.texts}
        return len(widths) == 1 and any(c in "abcdefABCDEF" for t in self.texts for c in t)

    @property
    def whole(self) -> bool:
        """Tell whether all figures are whole and none is below zero."""
        return all(x >= 0 and x == int(x) for x in self.numbers)

    @property
    def distinct(self) -> int:
        """Return how many different texts there are."""
        return len(set(self.texts))

    def counts_up(self, groups: Sequence[str] | None = None) -> float:
        """Return the share of steps that go on by one to sixty-four; repeated values are passed over.

        `groups` names whose counter each text is, where a log tells of several.
        """
        figures = self._figures()
        by_group: dict[str, list[float]] = {}
        for i, value in enumerate(figures):
            by_group.setdefault(groups[i] if groups else "", []).append(value)
        steps = [b - a for own in by_group.values() for a, b in pairwise(own) if a != b]
        if len(steps) < 2:
            return 0.5 if steps and 0 < steps[0] <= 64 else 0.0
        return sum(1 for step in steps if 0 < step <= 64) / len(steps)

    def by_one(self) -> float:
        """Return the share of steps that are exactly one."""
        steps = [b - a for a, b in pairwise(self._figures())]
        return sum(1 for step in steps if step == 1) / len(steps) if steps else 0.0

    def _figures(self) -> list[float]:
        if self.hexadecimal and not self.numeric:
            return [float(int(text, 16)) for text in self.texts]
        if self.hexadecimal and self.texts and self.texts[0][:2].lower() == "0x":
            return [float(int(text, 16)) for text in self.texts]
        return self.numbers
