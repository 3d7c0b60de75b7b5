"""Touchstone files to sweeps and back; scikit-rf reads, renormalises and writes.

Touchstone 1.1, IBIS Open Forum: an option line `# UNIT S FORMAT R OHM`, then rows of frequency and
two numbers for each S parameter; `!` starts a comment. Without an option line the standard's default
holds: GHz, S, MA, 50 ohm.
"""

from __future__ import annotations

import io
import re
import warnings
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from inchmark.core.antenna.match import REFERENCE_OHM, Sweep
from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.frame_log.lines import check_signature

MOST_POINTS = 20_001
MOST_PORTS = 2
MORE_THAN_ALL = 1.02  # of a calibrated bench; past it the calibration is off
LONGEST_LINE = 4_000  # characters; a point of two ports has nine numbers
_PROMISE = re.compile(r"\[\s*Number\s+of\s+(Ports|Frequencies)\s*\]\s*(\d+)", re.IGNORECASE)
_OPTION_LINE = re.compile(r"^[ \t]*#([^\n]*)", re.MULTILINE)
_OPTIONS = (
    (("hz", "khz", "mhz", "ghz"), "GHz"),
    (("s", "y", "z", "g", "h"), "S"),
    (("ma", "db", "ri"), "MA"),
)
_DECIMAL_COMMA = re.compile(r"(?<=\d),(?=\d)")


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadSweep:
    """A sweep brought to 50 ohm, the reference it was measured in [Ohm], and what was assumed."""

    sweep: Sweep
    reference_ohm: float
    remarks: tuple[str, ...] = ()


def read_touchstone(data: bytes, *, port: int = 1) -> ReadSweep:
    """Return the reflection at one port of a file, brought to 50 ohm.

    Of a two-port file the port's own reflection is taken, the other staying closed with the file's
    reference.

    Raises
    ------
    UnreadableFileError
        The file is no sweep of a port; the message is a sentence for the user.
    """
    check_signature(data)
    text, remarks = _plain(data.decode("utf-8-sig", "replace"))
    network = _network(text)
    ports = network.s.shape[1]
    if not 1 <= port <= ports:
        raise UnreadableFileError(f"The file has {ports} port, so there is no port {port}.")
    if ports > 1:
        remarks.append(f"port {port} of {ports}, the other closed with the file's reference")
    frequency = np.asarray(network.f, dtype=np.float64)
    reflection = np.asarray(network.s[:, port - 1, port - 1], dtype=np.complex128)
    _check(frequency, reflection)
    reference = complex(network.z0[0, port - 1])
    if abs(reference - REFERENCE_OHM) > 1e-9:
        remarks.append(f"measured in {reference.real:g} Ω, brought to {REFERENCE_OHM:g} Ω")
    largest = float(np.max(np.abs(reflection)))
    if largest > MORE_THAN_ALL:
        remarks.append(
            f"{largest:.3g} times what was sent comes back at one point, which no antenna does: the calibration is off"
        )
    order = np.argsort(frequency, kind="stable")
    try:
        sweep = Sweep(
            frequency_hz=frequency[order], reflection=renormalised(reflection, reference)[order]
        )
    except ValueError as wrong:
        raise UnreadableFileError(
            f"The sweep could not be read: {wrong}. Export it again."
        ) from wrong
    return ReadSweep(sweep=sweep, reference_ohm=reference.real, remarks=tuple(remarks))


def renormalised(
    reflection: NDArray[np.complex128], reference_ohm: complex, to_ohm: float = REFERENCE_OHM
) -> NDArray[np.complex128]:
    """Return reflections seen in one reference as they are seen in another [Ohm], shape (points,)."""
    import skrf

    network = skrf.Network(
        f=np.arange(1, len(reflection) + 1),
        f_unit="Hz",
        s=np.asarray(reflection).reshape(-1, 1, 1),
        z0=reference_ohm,
    )
    network.renormalize(to_ohm)
    return np.asarray(network.s[:, 0, 0], dtype=np.complex128)


def touchstone_text(
    frequency_hz: NDArray[np.float64], reflection: NDArray[np.complex128], *, comment: str
) -> str:
    """Return a sweep in 50 ohm as a one-port file with a comment of ASCII letters."""
    import skrf

    network = skrf.Network(
        f=frequency_hz, f_unit="Hz", s=reflection.reshape(-1, 1, 1), z0=REFERENCE_OHM, name="sweep"
    )
    network.comments = comment.encode("ascii", "replace").decode()[:120]
    return str(network.write_touchstone(return_string=True, form="ri"))


def _plain(text: str) -> tuple[str, list[str]]:
    """Return text with decimal points and an option line, and what was taken for granted."""
    remarks = []
    text = text.replace("\r\n", "\n").replace("\r", "\n")
    _refuse_promises(text)
    rows = [
        line.split("!")[0] for line in text.split("\n") if line.strip()[:1] not in ("!", "#", "[")
    ]
    if not any(row.strip() for row in rows):
        raise UnreadableFileError("The file has no points. Export the sweep again.")
    if sum(map(bool, rows)) > MOST_POINTS:
        raise UnreadableFileError(f"The sweep has over {MOST_POINTS} points, more than are read.")
    if max(map(len, rows)) > LONGEST_LINE:
        raise UnreadableFileError(
            "A line is over 4,000 characters long, which is no point. Line ends may have been lost: export the sweep again."
        )
    if any(_DECIMAL_COMMA.search(row) for row in rows) and not any("." in row for row in rows):
        text = _DECIMAL_COMMA.sub(".", text)
        remarks.append("decimal commas read as points")
    if not any(line.lstrip().startswith("#") for line in text.split("\n")):
        remarks.append("no option line, so read as GHz S MA R 50, the standard's default")
        text = f"# GHz S MA R 50\n{text}"
    return _OPTION_LINE.sub(_ordered, text, count=1), remarks


def _ordered(found: re.Match[str]) -> str:
    """Return an option line in the usual order: the standard allows any, scikit-rf reads but one."""
    words = found.group(1).split("!")[0].split()
    lower = [word.lower() for word in words]
    at = lower.index("r") if "r" in lower else len(lower)
    chosen = [
        next((word for word, low in zip(words, lower, strict=True) if low in allowed), usual)
        for allowed, usual in _OPTIONS
    ]
    left = set(lower[:at] + lower[at + 2 :]) - {one for allowed, _ in _OPTIONS for one in allowed}
    if left:  # what is no option stays, so that it is refused by its name
        return found.group(0)
    return " ".join(["#", *chosen, "R", words[at + 1] if at + 1 < len(words) else "50"])


def _refuse_promises(text: str) -> None:
    """Refuse keywords that say more ports or points than are read: arrays are made by what they say."""
    for found in _PROMISE.finditer(text):
        most = MOST_PORTS if found.group(1).lower() == "ports" else MOST_POINTS
        if len(found.group(2)) > len(str(most)) or int(found.group(2)) > most:
            raise UnreadableFileError(
                f"The file says it holds {found.group(2)[:20]} {found.group(1).lower()}; {most} are read at most. Export S11 alone."
            )


def _network(text: str) -> Any:
    """Return scikit-rf's network of a one-port file, or of a two-port one."""
    import skrf  # a second; only sweeps need it

    problem: Exception | None = None
    for ports in range(1, MOST_PORTS + 1):
        file = io.StringIO(text)
        file.name = f"sweep.s{ports}p"
        try:
            with warnings.catch_warnings():
                warnings.simplefilter("ignore")  # it warns of option lines it then reads well
                return skrf.Network(file)
        except Exception as wrong:  # it raises whatever its arrays do
            problem = problem or wrong
    raise UnreadableFileError(_sentence(text, problem)) from problem


def _sentence(text: str, problem: Exception | None) -> str:
    """Return what is wrong with a file that scikit-rf does not read."""
    said = " ".join(str(problem).split())
    if "could not convert string to float" in said:
        token = said.rpartition(": ")[2].strip("'\"")[:60]
        return f"“{token}” is no number. Is this a Touchstone file (.s1p)? Export S11 again."
    if "reshape" in said or "broadcast" in said:
        return "Some point has too few or too many numbers; the file may have been cut off. Export the sweep again, S11 alone as .s1p or two ports as .s2p."
    return f"The sweep could not be read: {said[:120]}. Export S11 again."


def _check(frequency: NDArray[np.float64], reflection: NDArray[np.complex128]) -> None:
    fine = np.isfinite(frequency) & (frequency > 0) & np.isfinite(reflection)
    if not np.all(fine):
        raise UnreadableFileError(
            f"Point {int(np.argmin(fine)) + 1} is not a possible reading. Mend it or export the sweep again."
        )
    if len(frequency) < 2:
        raise UnreadableFileError(
            "The sweep has one point. It needs two or more to show a best frequency."
        )
