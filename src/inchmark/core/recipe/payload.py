"""A counter among the bytes of payloads: found by how it grows, read by where it stands."""

from __future__ import annotations

import base64
import binascii
import re
from collections.abc import Sequence
from itertools import pairwise

from inchmark.core.recipe.recipe import Counter

LARGEST = 256
_SPACES = re.compile(r"[\s:_-]+")
_HEX_TEXT = re.compile(r"(?:[0-9A-Fa-f]{2}){2,256}")
_LAST_NUMBER = re.compile(rb"\d{1,10}(?!.*\d)", re.DOTALL)
GROWS = 0.8  # of the steps must be small and ahead


def payload_bytes(text: str, *, base64_coded: bool = False) -> bytes | None:
    """Return the bytes a text writes in hex or base64; None for neither."""
    if base64_coded:
        try:
            return base64.b64decode(text, validate=True)[:LARGEST]
        except (binascii.Error, ValueError):
            return None
    joined = _SPACES.sub("", text.removeprefix("0x"))
    return bytes.fromhex(joined)[:LARGEST] if _HEX_TEXT.fullmatch(joined) else None


def counter_in(texts: Sequence[str]) -> Counter | None:
    """Return where a counter stands in payloads in the order they came; None where none does."""
    for coded in (False, True):
        found = [payload_bytes(text, base64_coded=coded) for text in texts]
        known = [data for data in found if data]
        if len(known) >= max(3, 0.8 * len(texts)):
            counter = _text_counter(known, coded) or _byte_counter(known, coded)
            if counter:
                return counter
    return None


def read_counter(text: str, counter: Counter) -> int:
    """Return the counter of a payload; raise ValueError with a sentence."""
    data = payload_bytes(text, base64_coded=counter.base64)
    if data is None:
        raise ValueError(f"“{text[:40]}” is no payload in {'base64' if counter.base64 else 'hex'}")
    if counter.ascii:
        found = _LAST_NUMBER.search(data)
        if found is None:
            raise ValueError(f"“{text[:40]}” holds no number as text")
        return int(found.group())
    end = counter.offset + counter.width
    if end > len(data):
        raise ValueError(f"The payload has {len(data)} bytes; its counter ends at byte {end}")
    return int.from_bytes(data[counter.offset : end], "big" if counter.big_end_first else "little")


def _text_counter(known: Sequence[bytes], coded: bool) -> Counter | None:  # noqa: FBT001
    if not all(all(32 <= byte < 127 for byte in data) for data in known):
        return None
    values = [int(m.group()) for data in known if (m := _LAST_NUMBER.search(data))]
    if len(values) == len(known) and grows(values) >= GROWS:
        return Counter(offset=0, width=0, base64=coded, ascii=True)
    return None


def _byte_counter(known: Sequence[bytes], coded: bool) -> Counter | None:  # noqa: FBT001
    """Return the bytes that grow: those that wrap least, then the smallest, then the widest.

    The low byte of a wide counter grows too, but wraps where the wide one carries; the wrong byte
    order and a constant byte before the counter both make it larger than it is.
    """
    shortest = min(len(data) for data in known)
    best: tuple[tuple[int, int, int], Counter] | None = None
    for width in (4, 2, 1):
        for offset in range(shortest - width + 1):
            for big in (True, False) if width > 1 else (True,):
                counter = Counter(offset=offset, width=width, big_end_first=big, base64=coded)
                order = "big" if big else "little"
                values = [int.from_bytes(d[offset : offset + width], order) for d in known]  # type: ignore[arg-type]
                if grows(values, top=256**width) < GROWS:
                    continue
                wraps = sum(b < a for a, b in pairwise(values))
                rank = (wraps, max(values), -width)
                if best is None or rank < best[0]:
                    best = (rank, counter)
    return best[1] if best else None


def grows(values: Sequence[float], *, top: float = 0) -> float:
    """Return the share of steps that are small and ahead; `top` is where a counter wraps."""
    steps = [b - a for a, b in pairwise(values)]
    if top:
        steps = [step + top if step < -top / 2 else step for step in steps]
    moved = [step for step in steps if step != 0]
    if not moved:
        return 0.0
    return sum(1 for step in moved if 0 < step <= 64) / max(len(steps) * 0.5, len(moved))
