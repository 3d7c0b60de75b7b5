"""Recipes known before: a log's own, those of the study's logs, those kept with its modules."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import UTC

from inchmark.core.recipe.propose import Proposal, propose, sample_of
from inchmark.core.recipe.reader import Clocking, Reader
from inchmark.core.recipe.reader import Told as ToldLine
from inchmark.core.recipe.recipe import Recipe
from inchmark.formats.console_text import console_lines
from inchmark.formats.recipe_file import recipe_from_json
from inchmark.shelf.models import Module
from inchmark.walk.adapters.logs import said_of
from inchmark.walk.models import FrameFile
from inchmark.walk.services.receive import file_bytes

FITS = 0.8  # of the frames that the best proposal finds, for a kept recipe to be offered
MOST_LOOKED_AT = 5


@dataclass(frozen=True, slots=True, kw_only=True)
class Begun:
    """What a log's recipe begins with, and where that was known from ("" where it is new)."""

    proposal: Proposal
    known_from: str = ""


def first_lines(file: FrameFile) -> list[str]:
    """Return the first lines of a log, as many as a proposal looks at."""
    return sample_of(line.text for line in console_lines(file_bytes(file)))


def proposal_for(file: FrameFile) -> Proposal:
    """Return the recipe to begin with: the log's own, one kept before that fits, or a new one."""
    return begun(file).proposal


def begun(file: FrameFile) -> Begun:
    """Return the recipe to begin with, and whose it was."""
    lines = first_lines(file)
    found = propose(lines)
    if file.recipe is not None:
        own = replace(found, recipe=recipe_from_json(file.recipe), questions=())
        return Begun(proposal=own)
    for recipe, owner in _kept(file):
        if _fits(recipe, lines, found):
            kept = replace(found, recipe=recipe, questions=())
            return Begun(proposal=kept, known_from=owner)
    return Begun(proposal=found)


def _kept(file: FrameFile) -> Iterator[tuple[Recipe, str]]:
    study = file.walk.study
    logs = FrameFile.objects.filter(walk__study=study, recipe__isnull=False).exclude(pk=file.pk)
    for log in logs.order_by("-pk")[:MOST_LOOKED_AT]:
        yield recipe_from_json(log.recipe), log.name
    for module in study.module_parts.filter(recipe__isnull=False).order_by("-pk"):
        yield recipe_from_json(module.recipe), f"module {module.name}"


def _fits(recipe: Recipe, lines: Sequence[str], found: Proposal) -> bool:
    same = {use.name for use in recipe.uses} == {use.name for use in found.recipe.uses}
    return same and _frames(recipe, lines) >= FITS * found.frames


def _frames(recipe: Recipe, lines: Sequence[str]) -> int:
    reader = Reader(recipe, Clocking(zone=UTC, anchor_s=0.0))
    return sum(
        isinstance(event, ToldLine)
        for i, line in enumerate(lines, 1)
        for event in reader.read(i, line)
    )


def keep_with_modules(file: FrameFile, named: Iterable[str]) -> None:
    """Keep a log's recipe with the modules of the rigs it names, for the next log that looks like it."""
    means = said_of(file).names.rigs
    letters = {means.get(name, name) for name in named}
    rigs = file.walk.study.rigs.filter(setting_part__isnull=False).select_related("setting_part")
    modules = {
        rig.setting_part.module_id
        for rig in rigs
        if rig.letter in letters or (rig.log_name and rig.log_name in letters)
    }
    Module.objects.filter(pk__in=modules).update(recipe=file.recipe, recipe_from=file.name[:80])
