"""A QR code as a picture for the run sheet."""

from __future__ import annotations

from functools import lru_cache

import segno


@lru_cache(maxsize=1024)
def qr_picture(address: str) -> str:
    """Return the address as a QR code, a data URI of an SVG picture."""
    code = segno.make(address, error="m", micro=False)
    return str(code.svg_data_uri(scale=3, border=2))
