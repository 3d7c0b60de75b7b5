"""Weights a user sets over the columns of options, and their effect in sentences."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from inchmark.core.deciding.weights import Weighed, weighed
from inchmark.core.wording import number
from inchmark.decide.figures.option_columns import BY_KEY
from inchmark.decide.figures.options import Option

WEIGHED = ("served", "in_hand", "share", "life", "air", "node", "fixed")  # what may carry a weight
MOST = 100.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Weights:
    """What the weights come to: each option's score, and sentences on the first."""

    scores: Mapping[int, float]  # by the identity of an option
    words: tuple[str, ...]

    def of(self, option: Option) -> str:
        """Return an option's score, of 100."""
        score = self.scores.get(id(option))
        return "–" if score is None else number(100 * score, 0)


def weights_over(options: Sequence[Option], weights: Mapping[str, float]) -> Weights | None:
    """Return options weighed; None where no weight is set or nothing is left to weigh."""
    keys = [key for key in WEIGHED if weights.get(key, 0.0) > 0]
    if not keys or not options:
        return None
    figures = np.array([[_better(key, one) for key in keys] for one in options])
    found = weighed(figures, np.array([weights[key] for key in keys]))
    return Weights(
        scores={id(one): float(score) for one, score in zip(options, found.scores, strict=True)},
        words=tuple(_words(options, keys, found)),
    )


def _better(key: str, one: Option) -> float:
    """Return a figure so that more is better; NaN where it is not known."""
    column = BY_KEY[key]
    value = column.get(one)
    if value is None:
        return float("nan")
    return value if column.more else -value


def _words(options: Sequence[Option], keys: list[str], found: Weighed) -> list[str]:
    first = options[found.first]
    words = [f"By these weights {_name(first)} comes first."]
    if not first.stands_out:
        words.append(
            "Another option beats it in everything or it is not allowed: the weights leave out what makes the difference."
        )
    if not found.overtaken:
        words.append("It stays first with any one weight halved or doubled.")
    for (column, factor), row in found.overtaken.items():
        how = "halved" if factor < 1 else "doubled"
        words.append(
            f"With the weight of {BY_KEY[keys[column]].name} {how}, {_name(options[row])} would."
        )
    return words


def _name(one: Option) -> str:
    end = f", {one.fixed_antenna} at the fixed end" if one.fixed_antenna else ""
    return f"{one.setting} with {one.antenna}{end}, {one.battery}"
