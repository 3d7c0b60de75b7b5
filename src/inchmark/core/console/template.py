"""A module's template, like "{sf},{bw:code},{cr:code},{preamble}", and strings read by it.

A field is a name in braces. After a colon stands how it is written: a unit ("{bw:kHz}"), "code" for
the usual codes, or codes of the module's own ("{bw:7=125k;8=250k}"). "{_}" skips a position.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

from inchmark.core.console.fields import FIELDS, SCALES, SKIPPED, Field

_PART = re.compile(r"\{([^{}:]*)(?::([^{}]*))?\}")
_SUFFIX = {"k": 1e3, "M": 1e6, "G": 1e9}
_NUMBER = re.compile(r"^([+-]?\d+(?:\.\d+)?)([kMG]?)$")
_VALUE = r"\s*([^\s,;]+?)\s*"
LONGEST = 200
# where a string of values may begin after other words, and end before others
_BEFORE, _AFTER = (
    re.compile(r"[=:>,\[({\"']\s*|\s+|[A-Za-z]+(?=[-+]?\d)"),
    re.compile(r"[\])}\"';*#<!\s]|,(?=\s*[A-Za-z])"),
)
MOST_CUTS = 40


class TemplateError(ValueError):
    """A template or a string that cannot be read; the message is a sentence for the user."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Position:
    """One field of a template: which, its scale, and its codes if it is written in codes."""

    field: Field | None  # None: skipped
    scale: float = 1.0
    codes: dict[str, float] | None = None

    def read(self, text: str) -> float:
        """Return the value in the field's unit."""
        one = self.field
        assert one is not None
        if self.codes is not None:
            return _code(one, self.codes, text)
        if one.base and not text.isdecimal():
            return _in_base(one, text)
        number = _NUMBER.match(text.replace("\N{MINUS SIGN}", "-"))
        if number is None:
            raise TemplateError(f"“{text}” stands where the {one.name} should be, a number.")
        return float(number.group(1)) * _SUFFIX.get(number.group(2), 1.0) * self.scale


def _code(field: Field, codes: dict[str, float], text: str) -> float:
    if text.lower() in codes:
        return codes[text.lower()]
    raise TemplateError(
        f"“{text}” is no code for the {field.name}; the template knows {', '.join(codes)}."
    )


def _in_base(field: Field, text: str) -> float:
    try:
        return float(int(text.lower().removeprefix("0x"), int(field.base)))
    except ValueError:
        raise TemplateError(f"“{text}” is no {field.name}; write it like 0x34.") from None


@dataclass(frozen=True, slots=True, kw_only=True)
class Template:
    """Positions and the text between them."""

    positions: tuple[Position, ...]
    pattern: re.Pattern[str]

    @property
    def names(self) -> list[str]:
        """Return the fields in order."""
        return [one.field.name if one.field else "(skipped)" for one in self.positions]

    def values(self, text: str) -> list[str]:
        """Return the raw values by position."""
        found = self._found(text.strip()[:LONGEST])
        if found is not None:
            return found
        count = len(re.findall(r"[^\s,;]+", text))
        raise TemplateError(
            f"“{text.strip()[:60]}” does not fit the template, which takes {len(self.positions)} values ({', '.join(self.names)}); {count} were found."
        )

    def _found(self, text: str) -> list[str] | None:
        """Return the values of a text, or of a stretch of it: consoles print words before and after.

        The longest stretch that fits counts in which every value reads as its field; where none does
        the longest that fits, so that the wrong value can be named.
        """
        fits: list[str] | None = None
        for stretch in _stretches(text):
            found = self.pattern.match(stretch)
            if found is None:
                continue
            values = list(found.groups())
            if self._reads(values):
                return values
            fits = fits or values
        return fits

    def _reads(self, values: list[str]) -> bool:
        for position, written in zip(self.positions, values, strict=True):
            if position.field is None:
                continue
            try:
                position.read(written)
            except TemplateError:
                return False
        return True


def _are_words(text: str) -> bool:
    """Tell whether what is left out holds no bare number: that would be a value, and shift all others."""
    tokens = re.split(r"[\s,;]+", text)
    return all(
        any(c.isalpha() for c in one) or not any(c.isdigit() for c in one) or one[:1] in "*#"
        for one in tokens
        if one
    )


def _stretches(text: str) -> Iterator[str]:
    """Yield a text, then what lies between its signs, the longest first."""
    yield text
    starts = [0, *(found.end() for found in _BEFORE.finditer(text))][:MOST_CUTS]
    ends = [len(text), *(found.start() for found in _AFTER.finditer(text))][:MOST_CUTS]
    pairs = [
        (start, end)
        for start in starts
        for end in ends
        if start < end and _are_words(text[:start]) and _are_words(text[end:])
    ]
    for start, end in sorted(pairs, key=lambda pair: pair[0] - pair[1]):
        yield text[start:end].strip()


def read_template(text: str) -> Template:
    """Return a template read from its one line.

    Raises
    ------
    TemplateError
        It names no field, an unknown one, one twice, or codes that are none.
    """
    text = text.strip()
    if len(text) > LONGEST:
        raise TemplateError(f"A template has {LONGEST} characters at most.")
    positions: list[Position] = []
    pattern, at = "", 0
    for part in _PART.finditer(text):
        pattern += _between(text[at : part.start()], first=not positions) + _VALUE
        positions.append(_position(part.group(1).strip(), (part.group(2) or "").strip()))
        at = part.end()
    if not positions:
        raise TemplateError("Write a template like “{sf},{bw:code},{cr:code},{preamble}”.")
    keys = [one.field.key for one in positions if one.field]
    twice = next((key for key in keys if keys.count(key) > 1), None)
    if twice:
        raise TemplateError(f"“{twice}” stands in the template twice.")
    whole = re.compile("^" + pattern + _between(text[at:], first=False) + "$", re.IGNORECASE)
    return Template(positions=tuple(positions), pattern=whole)


def _between(text: str, *, first: bool) -> str:
    """Return the pattern of literal text; what stands before the first field may be left out."""
    if "{" in text or "}" in text:
        raise TemplateError("A brace in the template is not closed.")
    if not text.strip():
        return r"\s+" if text and not first else r"\s*"
    literal = re.escape(text.strip())
    return f"(?:{literal})?" if first else rf"\s*{literal}\s*"


def _position(name: str, how: str) -> Position:
    if name == SKIPPED:
        return Position(field=None)
    one = FIELDS.get(name.lower())
    if one is None:
        raise TemplateError(f"“{name}” is no field. Known are {', '.join(FIELDS)}, and _.")
    if how == "code":
        if not one.codes:
            raise TemplateError(f"The {one.name} has no usual codes; write them, like 1=14;2=20.")
        return Position(field=one, codes=dict(one.codes))
    if "=" in how:
        return Position(field=one, codes=_own_codes(how))
    if how not in SCALES:
        raise TemplateError(f"“{how}” is neither a unit nor “code” nor codes like 7=125k.")
    return Position(field=one, scale=SCALES[how])


def _own_codes(how: str) -> dict[str, float]:
    codes = {}
    for pair in how.split(";"):
        code, _, value = (part.strip() for part in pair.partition("="))
        number = _NUMBER.match(value)
        if not code or number is None:
            raise TemplateError(f"“{pair.strip()}” is no code; write it like 7=125k.")
        codes[code.lower()] = float(number.group(1)) * _SUFFIX.get(number.group(2), 1.0)
    return codes
