"""A line of a console made plain: no colours, no control bytes, one kind of minus."""

from __future__ import annotations

import re

# ECMA-48: control sequences, operating-system commands up to their end, and two-byte escapes
_ESCAPES = re.compile(
    r"\x1b\[[0-?]{0,64}[ -/]{0,16}[@-~]|\x1b\][^\x07\x1b]{0,512}(?:\x07|\x1b\\)?|\x1b[@-Z\\-_]|\x9b[0-?]{0,64}[@-~]"
)
_CONTROL = re.compile(r"[\x00-\x08\x0b-\x1f\x7f-\x9f\ufeff\ufffd]")
_PLAIN = str.maketrans({"\u2212": "-", "\u2013": "-", "\u00a0": " ", "\u202f": " ", "\u2019": "'"})
MOST_CHARACTERS = 8_192  # of a line that are taken apart; what is longer is no frame


def plain(text: str) -> str:
    """Return a line as a person reads it: without colour codes and control bytes, ends stripped."""
    if "\x1b" in text or "\x9b" in text:
        text = _ESCAPES.sub("", text)
    if not text.isascii():
        text = text.translate(_PLAIN)
    if not text.isprintable():
        text = _CONTROL.sub("", text)
    return text.strip()
