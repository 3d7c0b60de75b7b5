"""A page as PDF: fonts, styles and drawings of the app, nothing fetched from anywhere."""

from __future__ import annotations

import gc
import re
from collections.abc import Iterator
from contextlib import contextmanager
from functools import lru_cache
from io import BytesIO
from pathlib import Path

from django.contrib.staticfiles import finders

STYLES = ("pages/report.css",)
SVG_STYLE = "pages/report-svg.css"
FONTS = "vendor/atkinson-hyperlegible-{name}-5.3.0/atkinson-hyperlegible-{name}-latin-{weight}-normal.woff2"
# family, name of its file, weight; each costs a tenth of a second, so only those a report uses
FACES = (
    ("Hyperlegible Next", "next", 400),
    ("Hyperlegible Next", "next", 600),
    ("Hyperlegible Next", "next", 700),
    ("Hyperlegible Mono", "mono", 400),
)
BODY = 'body { font-family: "Hyperlegible Next", sans-serif; color: #20262d; margin: 0; }'


def pdf_of(html: str) -> tuple[bytes, int]:
    """Return a page as a tagged PDF with its fonts in it, and how many pages it has."""
    # WeasyPrint and its fonts take a second to load; only who sets a report waits for it
    from weasyprint import CSS, HTML
    from weasyprint.text.fonts import FontConfiguration
    from weasyprint.urls import URLFetcher, URLFetcherResponse

    class OnlyOurs(URLFetcher):  # type: ignore[misc]
        """The app's own fonts; anything else a page might name is refused."""

        def fetch(self, url: str, headers: object = None) -> object:
            return URLFetcherResponse(url, _font(url), {"Content-Type": "font/ttf"})

    with _boxes_left_alone():
        fetcher, fonts = OnlyOurs(), FontConfiguration()
        sheets = [_faces(), *(_static(name) for name in STYLES), BODY]
        styles = [CSS(string=one, url_fetcher=fetcher, font_config=fonts) for one in sheets]
        page = HTML(string=_with_svg_styles(html), url_fetcher=fetcher)
        document = page.render(stylesheets=styles, font_config=fonts, pdf_tags=True)
        found: bytes = document.write_pdf(pdf_tags=True, pdf_variant="pdf/ua-1")
        return found, len(document.pages)


@contextmanager
def _boxes_left_alone() -> Iterator[None]:
    """No search for garbage among the boxes of a page: a third of the time, and all of them are in use."""
    was = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if was:
            gc.enable()


def _with_svg_styles(html: str) -> str:
    """Return a page whose drawings carry their style: a drawing sees none of the page's."""
    style = f"<style>{_static(SVG_STYLE)}</style>"
    return re.sub(r"(<svg\b[^>]*>)", lambda found: found.group(1) + style, html)


def _font(url: str) -> bytes:
    path = url.removeprefix("file://")
    if path not in {_path(FONTS.format(name=name, weight=w)) for _, name, w in FACES}:
        raise ValueError(f"a report fetches nothing, not {url[:80]}")
    return _unpacked(path)


@lru_cache(maxsize=len(FACES))
def _unpacked(path: str) -> bytes:
    """Return a font as TrueType, unpacked once a process: WeasyPrint would for each report."""
    from fontTools.ttLib import woff2

    unpacked = BytesIO()
    with Path(path).open("rb") as packed:
        woff2.decompress(packed, unpacked)
    return unpacked.getvalue()


def _faces() -> str:
    return "".join(
        f'@font-face {{ font-family: "{family}"; font-weight: {weight}; src: url("file://{_path(FONTS.format(name=name, weight=weight))}"); }}\n'
        for family, name, weight in FACES
    )


def _path(name: str) -> str:
    found = finders.find(name)
    if not found:
        raise FileNotFoundError(name)
    return str(found)


def _static(name: str) -> str:
    return Path(_path(name)).read_text(encoding="utf-8")
