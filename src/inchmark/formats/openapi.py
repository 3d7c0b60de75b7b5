"""The HTTP API as its page tells it: from the schema that its own code gives."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

MEANINGS = {
    "200": "taken, or known already",
    "202": "taken; read in a moment",
    "400": "no JSON",
    "401": "no token, or one that is not good any more",
    "404": "no walk of that number for this token",
    "409": "lines before these are missing",
    "413": "over the limit",
    "422": "refused; the sentence says why",
    "429": "too many in a minute; wait as Retry-After says",
}
OF_ALL = ("401", "404", "413", "429")


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """A part of a body: its name, what it is, whether it must be there."""

    name: str
    kind: str
    required: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Answer:
    """An answer: status, what it means, what it holds."""

    status: str
    meaning: str
    parts: tuple[Part, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Operation:
    """A door: method and address, what it does, what goes in and what comes out."""

    method: str
    path: str
    words: str
    body: tuple[Part, ...]
    answers: tuple[Answer, ...]


def operations(schema: Mapping[str, Any]) -> list[Operation]:
    """Return the operations of an OpenAPI schema, in its order."""
    return [
        Operation(
            method=method.upper(),
            path=path,
            words=found.get("description", ""),
            body=_parts(schema, found.get("requestBody", {})),
            answers=tuple(_answers(schema, found["responses"])),
        )
        for path, methods in schema["paths"].items()
        for method, found in methods.items()
    ]


def _answers(schema: Mapping[str, Any], responses: Mapping[Any, Any]) -> Iterator[Answer]:
    told = {str(status): _parts(schema, one) for status, one in responses.items()}
    for status in sorted({*told, *OF_ALL}):
        yield Answer(status=status, meaning=MEANINGS.get(status, ""), parts=told.get(status, ()))


def _parts(schema: Mapping[str, Any], holder: Mapping[str, Any]) -> tuple[Part, ...]:
    content = holder.get("content", {}).get("application/json", {}).get("schema", {})
    name = content.get("$ref", "").rpartition("/")[2]
    found = schema.get("components", {}).get("schemas", {}).get(name, {})
    needed = found.get("required", ())
    return tuple(
        Part(name=part, kind=_kind(of), required=part in needed)
        for part, of in found.get("properties", {}).items()
    )


def _kind(of: Mapping[str, Any]) -> str:
    """Return a type in words, with its bounds."""
    kind = {"string": "text", "integer": "whole number", "boolean": "true or false"}.get(
        of.get("type", ""), ""
    )
    if of.get("type") == "array":
        kind = f"list of {_kind(of.get('items', {}))}s"
    if of.get("type") == "object":
        kind = f"names with a {_kind(of.get('additionalProperties', {}))} each"
    bounds = [
        f"{words} {of[key]:,}"
        for key, words in (
            ("minimum", "from"),
            ("maximum", "to"),
            ("maxLength", "at most"),
            ("maxItems", "at most"),
        )
        if key in of
    ]
    return ", ".join([kind, " ".join(bounds)] if bounds else [kind])
