"""The docs as pages of the app: sections with anchors, and where words stand in them."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

from django.conf import settings
from django.utils.safestring import SafeString
from django.utils.text import slugify
from markdown_it import MarkdownIt
from markdown_it.token import Token

# what a user reads, in the order it is offered: file, what it is about
DOCS = {
    "method": "how figures come about",
    "glossary": "the words used here, and the field's",
    "notes": "every side note with its reason and an example",
    "formats": "what goes in and out, byte by byte",
    "examples": "published cases worked by this program",
    "deploy": "running it for others",
    "security": "what is guarded, and how",
    "performance": "what takes how long, measured",
}
OURS = (  # wide things scroll by themselves, by keyboard too
    ("<table>", '<div class="scroll" tabindex="0"><table class="ledger">'),
    ("</table>", "</table></div>"),
    ("<pre>", '<pre tabindex="0">'),
)
LINE = 160  # characters of a passage that is found


@dataclass(frozen=True, slots=True, kw_only=True)
class Section:
    """A heading with what stands under it as plain text."""

    doc: str
    title: str
    anchor: str
    text: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Doc:
    """A page of the docs."""

    name: str
    title: str
    html: SafeString
    sections: tuple[Section, ...]


@lru_cache(maxsize=len(DOCS))
def doc_of(name: str) -> Doc:
    """Return a page of the docs.

    Raises
    ------
    KeyError
        There is none of that name.
    """
    if name not in DOCS:
        raise KeyError(name)
    text = (Path(settings.ROOT) / "docs" / f"{name}.md").read_text(encoding="utf-8")
    reader = MarkdownIt("commonmark", {"html": False}).enable("table")
    tokens = reader.parse(text)
    sections = tuple(_anchored(name, tokens))
    _own_links(tokens)
    html = reader.renderer.render(tokens, reader.options, {})
    for plain, ours in OURS:
        html = html.replace(plain, ours)
    # our own files, read with raw HTML off
    safe = SafeString(html)
    return Doc(
        name=name, title=sections[0].title if sections else name, html=safe, sections=sections
    )


def _anchored(doc: str, tokens: list[Token]) -> Iterator[Section]:
    """Give headings an anchor, and yield what stands under each."""
    title, anchor, held = "", "", list[str]()
    for i, token in enumerate(tokens):
        if token.type == "heading_open":
            if title:
                yield Section(doc=doc, title=title, anchor=anchor, text=" ".join(held))
            title = _plain(tokens[i + 1].content)
            anchor, held = slugify(title), []
            token.attrSet("id", anchor)
        elif (
            token.content
            and token.type in ("inline", "fence", "code_block")
            and (not i or tokens[i - 1].type != "heading_open")
        ):
            held.append(_plain(token.content))
    if title:
        yield Section(doc=doc, title=title, anchor=anchor, text=" ".join(held))


def _own_links(tokens: list[Token]) -> None:
    """Let links between the docs lead to pages of the app; others outside stand as they are."""
    for token in tokens:
        for inside in token.children or ():
            href = str(inside.attrGet("href") or "") if inside.type == "link_open" else ""
            found = re.fullmatch(r"(?:\./)?(\w+)\.md(#.*)?", href)
            if found and found[1] in DOCS:
                inside.attrSet("href", f"/help/{found[1]}/{found[2] or ''}")


def _plain(text: str) -> str:
    return re.sub(r"[*`\[\]]|\(\S+\.md\S*\)", "", text)


def every_section() -> list[Section]:
    """Return all sections of all docs."""
    return [section for name in DOCS for section in doc_of(name).sections]


@dataclass(frozen=True, slots=True, kw_only=True)
class Passage:
    """Where words stand: the section, and the line around the first of them."""

    section: Section
    line: str


def passages(asked: str) -> list[Passage]:
    """Return the sections that hold all of some words, those with them in the title first."""
    words = [word for word in re.split(r"\W+", asked.lower()) if word]
    if not words:
        return []
    found: list[tuple[int, int, Passage]] = []
    for one in every_section():
        title, text = one.title.lower(), f"{one.title} {one.text}".lower()
        if all(word in text for word in words):
            in_title = sum(word in title for word in words)
            found.append(
                (-in_title, len(found), Passage(section=one, line=_around(one.text, words)))
            )
    return [passage for _, _, passage in sorted(found, key=lambda one: one[:2])]


def _around(text: str, words: list[str]) -> str:
    low = text.lower()
    at = min((low.find(word) for word in words if word in low), default=0)
    start = max(low.rfind(" ", 0, max(at - LINE // 3, 0)) + 1, 0)
    piece = text[start : start + LINE]
    return f"{'… ' if start else ''}{piece}{' …' if start + LINE < len(text) else ''}"
