"""One-port Touchstone files (.s1p) to sweeps, read by scikit-rf.

Touchstone 1.1, IBIS Open Forum: an option line `# UNIT S FORMAT R OHM`, then rows of frequency and
two numbers; `!` starts a comment.
"""

from __future__ import annotations

import io
import warnings

import numpy as np

from inchmark.core.antenna.match import Sweep
from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.frame_log.lines import check_signature

MOST_POINTS = 20_001
_ONE_PORT, _TWO_PORT = 3, 9  # numbers in a row


def read_one_port(data: bytes) -> Sweep:
    """Return the sweep of a one-port file.

    Raises
    ------
    UnreadableFileError
        The file is no one-port Touchstone file; the message is a sentence for the user.
    """
    check_signature(data)
    text = data.decode("utf-8", "replace").replace("\r\n", "\n").replace("\r", "\n")
    rows = _numbers(text)
    _check(text, rows)
    import skrf  # a second; only sweeps need it

    file = io.StringIO("\n".join([_option_line(text), *(" ".join(row) for row in rows)]) + "\n")
    file.name = "sweep.s1p"
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # it warns of option lines it then reads well
            network = skrf.Network(file)
        frequency = np.asarray(network.f, dtype=np.float64)
        reflection = np.asarray(network.s[:, 0, 0], dtype=np.complex128)
        order = np.argsort(frequency, kind="stable")
        return Sweep(frequency_hz=frequency[order], reflection=reflection[order])
    except UnreadableFileError:
        raise
    except Exception as wrong:
        raise UnreadableFileError(
            f"The sweep could not be read: {wrong}. Export S11 again."
        ) from wrong


def _option_line(text: str) -> str:
    return next(line.strip() for line in text.split("\n") if line.lstrip().startswith("#"))


def _numbers(text: str) -> list[list[str]]:
    rows = (line.split("!")[0].split() for line in text.split("\n"))
    return [row for row in rows if row and not row[0].startswith(("#", "["))]


def _check(text: str, rows: list[list[str]]) -> None:
    """Raise the sentence for the first thing that is wrong."""
    if not any(line.lstrip().startswith("#") for line in text.split("\n")):
        raise UnreadableFileError(
            "There is no option line like “# MHz S RI R 50”. Is this a Touchstone file (.s1p)?"
        )
    if not rows:
        raise UnreadableFileError(
            "The file has an option line but no points. Export the sweep again."
        )
    if len(rows) > MOST_POINTS:
        raise UnreadableFileError(
            f"The sweep has {len(rows)} points; {MOST_POINTS} are read at most."
        )
    if len(rows[0]) == _TWO_PORT:
        raise UnreadableFileError("This is a two-port file. Export S11 alone, as .s1p.")
    for number, row in enumerate(rows, start=1):
        _check_row(number, row)
    if len(rows) == 1:
        raise UnreadableFileError(
            "The sweep has one point. It needs two or more to show a best frequency."
        )


def _check_row(number: int, row: list[str]) -> None:
    if len(row) != _ONE_PORT:
        raise UnreadableFileError(
            f"Point {number} has {len(row)} numbers instead of 3; the file may have been cut off."
        )
    try:
        values = [float(token) for token in row]
    except ValueError:
        raise UnreadableFileError(
            f"Point {number}, “{' '.join(row)[:60]}”, is not three numbers."
        ) from None
    if not np.all(np.isfinite(values)) or values[0] <= 0:
        raise UnreadableFileError(
            f"Point {number}, “{' '.join(row)[:60]}”, is not a possible reading."
        )
