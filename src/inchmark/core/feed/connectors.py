"""Which connectors mate, which only screw together, and what a chain of them needs.

A gender names the body: male carries the nut inside. Plain male bodies carry a pin, female ones a
hole; reverse polarity swaps pin and hole and leaves the bodies, so the threads still fit.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

FAMILIES = {
    "sma": "SMA",
    "tnc": "TNC",
    "bnc": "BNC",
    "n": "N",
    "mcx": "MCX",
    "mmcx": "MMCX",
    "micro": "micro snap-on",
}
GENDERS = {"m": "male", "f": "female"}
WITH_REVERSE = ("sma", "tnc", "bnc", "n")
SOLDERED = "wire"


@dataclass(frozen=True, slots=True)
class Connector:
    """A family, a body ("m" or "f"), reverse polarity or not."""

    family: str
    gender: str = ""
    reverse: bool = False

    @classmethod
    def from_key(cls, key: str) -> Connector:
        """Return the connector of a key like "rp-sma-f", or a soldered wire."""
        if key == SOLDERED:
            return cls(SOLDERED)
        bare = key.removeprefix("rp-")
        family, _, gender = bare.rpartition("-")
        if family not in FAMILIES or gender not in GENDERS:
            raise ValueError(f"key={key!r} is no connector; {', '.join(connector_names())} are")
        return cls(family, gender, key != bare)

    @property
    def key(self) -> str:
        """Return the key it is kept under."""
        if self.family == SOLDERED:
            return SOLDERED
        return f"{'rp-' if self.reverse else ''}{self.family}-{self.gender}"

    @property
    def name(self) -> str:
        """Return what people call it."""
        if self.family == SOLDERED:
            return "soldered"
        return f"{'RP-' if self.reverse else ''}{FAMILIES[self.family]} {GENDERS[self.gender]}"

    @property
    def pin(self) -> bool:
        """Tell whether the middle is a pin."""
        return (self.gender == "m") != self.reverse

    @property
    def mate(self) -> Connector:
        """Return what it mates with."""
        other = "f" if self.gender == "m" else "m"
        return Connector(self.family, other if self.gender else "", self.reverse)


def connector_names() -> dict[str, str]:
    """Return every connector's name by its key."""
    found = {SOLDERED: "soldered"}
    for family in FAMILIES:
        for reverse in (False, True) if family in WITH_REVERSE else (False,):
            for gender in GENDERS:
                one = Connector(family, gender, reverse)
                found[one.key] = one.name
    return found


@dataclass(frozen=True, slots=True, kw_only=True)
class Joint:
    """Two connectors meant to meet: whether they do, and in words what happens."""

    fits: bool
    words: str
    adapter: str = ""


def joint(a: Connector, b: Connector) -> Joint:
    """Return what happens where two connectors meet."""
    if SOLDERED in (a.family, b.family):
        return Joint(fits=True, words="soldered, nothing to screw together")
    adapter = f"adapter {a.mate.name} to {b.mate.name}"
    if a.family != b.family:
        words = f"{a.name} and {b.name} do not go together: another family"
        return Joint(fits=False, words=words, adapter=adapter)
    if a.gender == b.gender:
        words = f"{a.name} and {b.name} do not go together: two {GENDERS[a.gender]} bodies"
        return Joint(fits=False, words=words, adapter=adapter)
    if a.pin == b.pin:
        meeting = (
            "pin presses on pin and may break" if a.pin else "hole meets hole and makes no contact"
        )
        words = f"{a.name} and {b.name} screw together, but {meeting}: one is reverse polarity"
        return Joint(fits=False, words=words, adapter=adapter)
    return Joint(fits=True, words=f"{a.name} on {b.name} fits")


@dataclass(frozen=True, slots=True, kw_only=True)
class Piece:
    """A part in the chain: its name, its two ends (None where it has none), its impedance [Ohm]."""

    name: str
    near: Connector | None
    far: Connector | None
    impedance_ohm: float = 50.0


def chain_problems(pieces: Sequence[Piece]) -> list[Joint]:
    """Return the joints of a chain that make no link, the radio first and the antenna last."""
    return list(_problems(pieces))


def _problems(pieces: Sequence[Piece]) -> Iterator[Joint]:
    for one, other in itertools.pairwise(pieces):
        where = f"{one.name} to {other.name}: "
        if one.far is not None and other.near is not None:
            met = joint(one.far, other.near)
            if not met.fits:
                yield Joint(fits=False, words=where + met.words, adapter=met.adapter)
        if one.impedance_ohm != other.impedance_ohm:
            yield Joint(
                fits=False,
                words=where
                + f"{one.impedance_ohm:g} Ω meets {other.impedance_ohm:g} Ω; pins differ in size too, so a 50 Ω pin can spread a 75 Ω hole (common practice)",
            )
