"""Words and signs: keys with values, and figures among fixed words."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import NamedTuple

from inchmark.core.recipe.names import VERBS
from inchmark.core.recipe.parts import EVENTS, MOST_PARTS, UNITS, WORDS, Part, Pieces, told_by

# words after which a name stands without any sign between, as in “from node-2”, “stop B”
TAKES = frozenset(
    [
        "from",
        "via",
        "by",
        "node",
        "board",
        "rig",
        "dev",
        "device",
        "unit",
        "gateway",
        "gw",
        "stop",
        "place",
        "point",
        "sender",
        "src",
        "station",
        "von",
    ]
)
_SMALL_WORDS = frozenset(
    [
        "is",
        "of",
        "at",
        "with",
        "no",
        "nr",
        "the",
        "a",
        "an",
        "and",
        "to",
        "was",
        "in",
        "by",
        "on",
        "for",
        "from",
        "dbm",
        "db",
    ]
)

_DENIALS = frozenset(["no", "not", "none", "never"])
_TOKEN = re.compile(
    r"""(?P<quoted>"[^"]{0,400}"|'[^']{0,400}')
      | (?P<boxed>\[(?:[0-9A-Fa-f]{2}|[0-9A-Fa-f]{4}|[0-9A-Fa-f]{8})\])
      | (?P<hex>(?:[0-9A-Fa-f]{2}(?:[ :-][0-9A-Fa-f]{2}){3,255})(?![\w]))
      | (?P<base64>(?:[A-Za-z0-9+/]{4}){1,100}(?:[A-Za-z0-9+/]{2}==|[A-Za-z0-9+/]{3}=)(?![\w=])(?!\s*[-+\d]))
      | (?P<number>(?<![\w.])[-+]?(?:0[xX][0-9a-fA-F]{1,16}|\d{1,20}(?:[.,]\d{1,12})?(?:[eE][-+]?\d{1,3})?)(?![\w.]?[A-Za-z0-9_]))
      | (?P<measured>(?<![\w.])[-+]?\d{1,12}(?:[.,]\d{1,12})?(?=(?:dBm|dB|DBM|ms|us|µs|mV|MHz|kHz|km|V|C|s|m)(?![\w])))
      | (?P<word>[A-Za-zÀ-ÿµ°_][\wÀ-ÿ.]*(?:-\w+)*|\d[\w]*(?:[-.]\w+)*)
      | (?P<sign>[^\s\w])""",
    re.VERBOSE,
)


def in_words(text: str, stamp: str) -> Pieces:
    """Return a line as words and signs, with the figures among them."""
    walk = _Walk(text)
    walk.run()
    parts = tuple(walk.parts)
    words = frozenset(piece for word in walk.words for piece in re.findall(r"[a-zà-ÿ]+", word))
    return Pieces(WORDS, parts, words=words | told_by(parts), stamp=stamp)


class _Token(NamedTuple):
    kind: str
    text: str
    at: int = -1


class _Walk:
    """Goes over a line's tokens once, holding the words that may name the next value."""

    def __init__(self, text: str) -> None:
        found = (m for _, m in zip(range(600), _TOKEN.finditer(text), strict=False))
        self.tokens = [_Token(m.lastgroup or "", m.group(), m.start()) for m in found]
        self.parts: list[Part] = []
        self.words: list[str] = []
        self.label: list[str] = []  # words since the last value
        self.last, self.again = "", 1  # what named the last value, and how often since
        self.seen: dict[str, int] = {}

    def run(self) -> None:
        """Fill parts and words."""
        i = 0
        while i < len(self.tokens) and len(self.parts) < MOST_PARTS:
            i = self._step(i)

    def _step(self, i: int) -> int:
        kind, text, at = self.tokens[i]
        if kind in ("number", "measured"):
            return self._value(i, text)
        if kind in ("quoted", "hex", "base64", "boxed"):
            self._part(text.strip("\"'[]"), at + (kind in ("quoted", "boxed")))
            return i + 1
        if kind == "word":
            return self._word(i, text)
        if text == "#":
            self.label.append("#")
        elif text in ",;|" and self.label and not self._is(i + 1, "=:"):
            self.label = []
        return i + 1

    def _word(self, i: int, text: str) -> int:
        """Take a word: the value of a key, a name after “from” or “stop”, or a name to come."""
        if self._is(i - 1, "=:") and self.label and not self._is(i + 1, "=:"):
            return self._phrase(i)
        if self.label and _takes(self.label[-1].lower(), text):
            self.label = self.label[-1:]
            self._part(text, self.tokens[i].at)
            return i + 1
        if self._is(i + 1, "=:"):
            self.label = []
        self.label.append(text)
        if not self._is(i + 1, "="):  # a key is no verb: “ack=none” tells of no answer
            self.words.append(text.lower())
        return i + 1

    def _is(self, i: int, signs: str) -> bool:
        return 0 <= i < len(self.tokens) and self.tokens[i].text in tuple(signs)

    def _value(self, i: int, text: str) -> int:
        following = self.tokens[i + 1] if i + 1 < len(self.tokens) else _Token("", "")
        unit = UNITS.get(following.text.lower(), "")
        if unit and not self._is(i + 2, "=:"):
            self._part(text, self.tokens[i].at, unit)
            return i + 2
        self._part(text, self.tokens[i].at)
        return i + 1

    def _phrase(self, i: int) -> int:
        """Take words after a key as its value, up to the next key or sign."""
        end = i + 1
        while end < len(self.tokens) and self.tokens[end].kind in ("word", "number"):
            if self._is(end + 1, "=:") or self.tokens[end].kind == "number":
                break
            end += 1
        end = self._without_verb(i, end)
        if self._is(i - 1, ":"):  # “radio: tx seq=4” tells of a frame sent
            self.words += [token.text.lower() for token in self.tokens[i:end]]
        if end < len(self.tokens) and self.tokens[end].kind == "number":
            # "Received: hello 12": the words belong to the number's name as well
            self._part(" ".join(t.text for t in self.tokens[i:end]), self.tokens[i].at)
            self.label = [t.text for t in self.tokens[i:end]]
            return end
        self._part(" ".join(t.text for t in self.tokens[i:end]), self.tokens[i].at)
        return end

    def _without_verb(self, start: int, end: int) -> int:
        """Return where a value ends that a verb follows: “rig=A sent seq=4” is rig A, and a frame sent."""
        words = [token.text.lower() for token in self.tokens[start:end]]
        named = _name_of(self.label) in EVENTS
        if named or len(words) < 2 or words[-1] not in VERBS or _DENIALS.intersection(words):
            return end
        if not self._is(start - 1, "="):
            return end
        return end - 1

    def _part(self, text: str, at: int, unit: str = "") -> None:
        name = _name_of(self.label)
        if not name:
            name = f"{self.last or 'value'}[{self.again + 1}]" if self.parts else "value"
            self.again += 1
        else:
            self.last, self.again = name, 1
        self.seen[name] = self.seen.get(name, 0) + 1
        if self.seen[name] > 1:
            name = f"{name}[{self.seen[name]}]"
        self.parts.append(Part(name, text[:400], unit, at))
        self.label = []


def _takes(word: str, following: str) -> bool:
    """Tell whether a name follows a word: any after “from”, one with a digit or a letter after “stop”."""
    if word not in TAKES:
        return False
    if any(c.isdigit() for c in following) or (len(following) == 1 and following.isupper()):
        return True
    return word == "from" and following.lower() not in _SMALL_WORDS


def _name_of(label: Sequence[str]) -> str:
    """Return the word that names a value: the last that says something."""
    telling = [word for word in label if word.lower() not in _SMALL_WORDS] or list(label)
    return telling[-1].lower() if telling else ""
