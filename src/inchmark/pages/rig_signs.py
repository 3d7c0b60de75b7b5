"""A rig's sign, the same on every page, map and chart: a letter, a shape, a colour.

Letters past F take the shapes and colours again; the letter tells them apart.
"""

from __future__ import annotations

SHAPES = ("square", "circle", "triangle", "diamond", "cross", "pentagon")
# outlines in a square of twenty, to hold a letter, and of ten, to be a mark
OUTLINES = {
    "square": "M1 1H19V19H1Z",
    "circle": "M10 .5A9.5 9.5 0 1 1 10 19.5A9.5 9.5 0 1 1 10 .5Z",
    "triangle": "M10 0L20 19H0Z",
    "diamond": "M10 -1L21 10L10 21L-1 10Z",
    "cross": "M6 0H14V6H20V14H14V20H6V14H0V6H6Z",
    "pentagon": "M10 0L20 7.5L16 19.5H4L0 7.5Z",
}
DOTS = {
    "square": "M1 1H9V9H1Z",
    "circle": "M5 .5A4.5 4.5 0 1 1 5 9.5A4.5 4.5 0 1 1 5 .5Z",
    "triangle": "M5 0L10 9.5H0Z",
    "diamond": "M5 -.5L10.5 5L5 10.5L-.5 5Z",
    "cross": "M3 0H7V3H10V7H7V10H3V7H0V3H3Z",
    "pentagon": "M5 0L10 3.8L8 9.7H2L0 3.8Z",
}


def _place(letter: str) -> int:
    return (ord(letter[:1].upper() or "A") - ord("A")) % len(SHAPES)


def shape(letter: str) -> str:
    """Return the name of the shape that goes with a rig's letter."""
    return SHAPES[_place(letter)]


def hue(letter: str) -> str:
    """Return the colour class of a rig's letter: rig-a to rig-f."""
    return f"rig-{'abcdef'[_place(letter)]}"


def dot(letter: str) -> str:
    """Return the outline of a rig's shape in a square of ten."""
    return DOTS[shape(letter)]
