"""A form in steps: what comes first stands open, the rest folded with its present values in a sentence."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from django import forms

MOST_SAID = 5  # values of a fold
LONGEST = 40  # characters of one of them


@dataclass(frozen=True, slots=True, kw_only=True)
class Fold:
    """Fields that stand together: open, or folded under a sentence."""

    title: str
    words: str
    fields: list[forms.BoundField]
    wrong: bool


def folded(form: forms.BaseForm, groups: Sequence[tuple[str, Sequence[str]]]) -> list[Fold]:
    """Return groups of a form's fields, each with its values in a sentence."""
    return [
        Fold(
            title=title,
            words=", ".join(said_of(form, names)) or "nothing yet",
            fields=[form[name] for name in names],
            wrong=any(name in form.errors for name in names),
        )
        for title, names in groups
    ]


def said_of(form: forms.BaseForm, names: Sequence[str]) -> list[str]:
    """Return the values that some fields hold, each after its label."""
    found = list(_values(form, names))
    more = len(found) - MOST_SAID
    return [*found[:MOST_SAID], *([f"{more} more"] if more > 0 else [])]


def _values(form: forms.BaseForm, names: Sequence[str]) -> Iterator[str]:
    for name in names:
        bound = form[name]
        value = bound.value()
        if value in (None, "", False, [], ()):
            continue
        label = str(bound.label)
        label = label[:1].lower() + label[1:] if label[1:2].islower() else label
        if value is True:
            yield label
            continue
        choices = getattr(bound.field, "choices", None)
        shown = dict(_flat(choices)).get(str(value), value) if choices else value
        text = " / ".join(str(shown).split("\n"))
        yield f"{label} {text if len(text) <= LONGEST else text[: LONGEST - 1] + '…'}"


def _flat(choices: object) -> Iterator[tuple[str, str]]:
    for value, name in choices:  # type: ignore[attr-defined]
        yield str(value), str(name)
