"""Photos of a walk: made small, and without what the camera wrote into them, its position first."""

from __future__ import annotations

import hashlib
import io
import warnings
from datetime import UTC, datetime
from typing import Any, BinaryIO

from django.db import transaction
from PIL import Image, ImageOps, UnidentifiedImageError

from inchmark.plan.models import Stop
from inchmark.walk.models import Photo, Walk
from inchmark.walk.services.news import MARK, tell
from inchmark.walk.services.receive import RefusedError

MOST_BYTES = 15_000_000
MOST_PIXELS = 60_000_000
SIDE = 1600  # of what is kept
QUALITY = 82
MOST_PHOTOS = 200  # of a walk
FORMATS = ("JPEG", "PNG", "WEBP")


@transaction.atomic
def keep_photo(
    walk: Walk, file: BinaryIO, *, by: Any, text: str = "", at: datetime | None = None,
    stop: Stop | None = None,
) -> Photo:  # fmt: skip
    """Keep a picture at a size that a page shows; the same file once more adds nothing.

    Raises
    ------
    RefusedError
        It is no picture of a kind that browsers take, is too large, or the walk has too many.
    """
    data = file.read(MOST_BYTES + 1)
    if len(data) > MOST_BYTES:
        raise RefusedError("The picture is over 15 MB. Send a smaller one.")
    digest = hashlib.sha256(data).hexdigest()
    known: Photo | None = walk.photos.filter(sha256=digest).first()
    if known is not None:
        return known
    if walk.photos.count() >= MOST_PHOTOS:
        raise RefusedError(f"This walk has {MOST_PHOTOS} photos already.")
    small, size = _small(data)
    photo: Photo = Photo.objects.create(
        walk=walk, at=at or datetime.now(UTC), data=small, width=size[0], height=size[1],
        sha256=digest, text="".join(c for c in text if c.isprintable())[:200], stop=stop, by=by,
    )  # fmt: skip
    tell(walk.pk, MARK)
    return photo


def _small(data: bytes) -> tuple[bytes, tuple[int, int]]:
    """Return a JPEG no side of which is over `SIDE`, turned upright, with nothing but its pixels."""
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            picture = Image.open(io.BytesIO(data), formats=FORMATS)
            if picture.width * picture.height > MOST_PIXELS:
                raise RefusedError(
                    f"The picture has {picture.width} × {picture.height} points. Send a smaller one."
                )
            picture.draft("RGB", (SIDE, SIDE))
            upright = ImageOps.exif_transpose(picture).convert("RGB")
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError,
            Image.DecompressionBombWarning):  # fmt: skip
        raise RefusedError("This is no JPEG, PNG or WebP picture that can be read.") from None
    upright.thumbnail((SIDE, SIDE))
    bare = Image.new("RGB", upright.size)
    bare.paste(upright)
    out = io.BytesIO()
    bare.save(out, "JPEG", quality=QUALITY, optimize=True)
    return out.getvalue(), bare.size
