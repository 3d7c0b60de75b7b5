"""Recipes as a small open file: JSON, with a schema (docs/formats.md)."""

from __future__ import annotations

import json
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError

from inchmark.core.recipe.recipe import Recipe
from inchmark.formats.errors import UnreadableFileError

LARGEST_BYTES = 1_000_000
_RECIPE = TypeAdapter(Recipe)


class NamedRecipe(BaseModel):
    """A recipe and the log it was made for."""

    model_config = ConfigDict(extra="forbid")
    made_for: str = ""
    recipe: Recipe


class RecipeFile(BaseModel):
    """One recipe for each kind of log; a log is read by the one that fits it best."""

    model_config = ConfigDict(extra="forbid")
    format: Literal["inchmark recipe"] = "inchmark recipe"
    version: Literal[1] = 1
    recipes: list[NamedRecipe] = Field(min_length=1, max_length=64)


def recipe_text(recipes: list[NamedRecipe]) -> str:
    """Return recipes as the text of a file."""
    return RecipeFile(recipes=recipes).model_dump_json(indent=1, exclude_defaults=False) + "\n"


def read_recipes(data: bytes) -> list[NamedRecipe]:
    """Return the recipes of a file.

    Raises
    ------
    UnreadableFileError
        It is no recipe file; says where and what.
    """
    if len(data) > LARGEST_BYTES:
        raise UnreadableFileError("A recipe file is under 1 MB. Is this a log?")
    try:
        return RecipeFile.model_validate(json.loads(data)).recipes
    except ValidationError as wrong:
        first = wrong.errors()[0]
        where = ".".join(str(place) for place in first["loc"])
        raise UnreadableFileError(
            f"The recipe file is wrong at {where or 'its start'}: {first['msg']}."
        ) from wrong
    except RecursionError:
        raise UnreadableFileError("The recipe file nests without end, so it is none.") from None
    except ValueError as wrong:
        raise UnreadableFileError(f"The recipe file is no JSON ({wrong}).") from wrong


def recipe_to_json(recipe: Recipe) -> dict[str, Any]:
    """Return a recipe as plain JSON data, to be stored."""
    return dict(_RECIPE.dump_python(recipe, mode="json"))


def recipe_from_json(data: object) -> Recipe:
    """Return a stored recipe; raise ValueError where it is none."""
    return _RECIPE.validate_python(data)


def recipe_schema() -> dict[str, Any]:
    """Return the JSON Schema of a recipe file."""
    return RecipeFile.model_json_schema()
