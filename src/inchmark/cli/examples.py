"""`inchmark examples`: published cases, worked by this program, each with its source.

Prints docs/examples.md; a figure that no longer agrees with what was printed elsewhere fails the
command and the tests.
"""

from __future__ import annotations

import argparse
from collections.abc import Iterator
from dataclasses import dataclass

from inchmark.core.airtime.collisions import Traffic
from inchmark.core.antenna.match import Match
from inchmark.core.geodesy import Place, geodesic
from inchmark.core.noise import noise_floor_dbm
from inchmark.core.propagation.free_space import free_space_loss_db
from inchmark.core.propagation.geometry import fresnel_radius_m
from inchmark.core.propagation.knife_edge import knife_edge_loss_db
from inchmark.core.propagation.rain import rain_law
from inchmark.core.reception.paired import PairedCounts
from inchmark.core.reception.proportion import zero_loss_frames


@dataclass(frozen=True, slots=True, kw_only=True)
class Example:
    """A case: what is given, the law with the numbers in it, what was published, what we compute."""

    title: str
    source: str
    given: str
    law: str
    unit: str
    published: float
    digits: int  # after the point, as published
    computed: float

    @property
    def agrees(self) -> bool:
        """Tell whether the figure rounds to the published one."""
        return round(self.computed, self.digits) == round(self.published, self.digits)


def examples() -> Iterator[Example]:
    """Yield the cases."""
    yield Example(
        title="Free-space loss over 1 km at 1 MHz",
        source="ITU-R P.525, the constant of its dB form: 32.4 + 20 lg f + 20 lg d",
        given="d = 1 km, f = 1 MHz, isotropic antennas",
        law="20 lg(4 pi d / lambda) = 20 lg(4 pi 1000 / 299.79)",
        unit="dB", published=32.4, digits=1,
        computed=float(free_space_loss_db(1000.0, 1e6)),
    )  # fmt: skip
    yield Example(
        title="An edge that just touches the line of sight",
        source="ITU-R P.526, clause 4.1: half of the wave passes, J(0) = 6 dB",
        given="nu = 0",
        law="6.9 + 20 lg(sqrt((nu - 0.1)² + 1) + nu - 0.1)",
        unit="dB", published=6.0, digits=0, computed=float(knife_edge_loss_db(0.0)),
    )  # fmt: skip
    yield Example(
        title="First Fresnel zone in the middle of 5 km at 868 MHz",
        source="ITU-R P.526 and P.530, R_n = sqrt(n lambda d1 d2 / (d1 + d2)); the printed 17.3 sqrt form gives 20.8 m",
        given="d1 = d2 = 2.5 km, f = 868 MHz, n = 1",
        law="sqrt(0.3454 · 2500 · 2500 / 5000)",
        unit="m", published=20.8, digits=1,
        computed=float(fresnel_radius_m(2500.0, 2500.0, 868e6)),
    )  # fmt: skip
    yield from _rain()
    yield Example(
        title="Thermal noise in one hertz",
        source="ITU-R P.372, T0 = 290 K: −174 dBm/Hz in every handbook",
        given="B = 1 Hz, T = 290 K, k = 1.380649e-23 J/K",
        law="10 lg(k T B · 1000)",
        unit="dBm", published=-174.0, digits=0, computed=float(noise_floor_dbm(1.0)),
    )  # fmt: skip
    yield from _match()
    yield from _counted()
    start = Place(lat_deg=-(37 + 57 / 60 + 3.72030 / 3600), lon_deg=144 + 25 / 60 + 29.52440 / 3600)
    end = Place(lat_deg=-(37 + 39 / 60 + 10.15610 / 3600), lon_deg=143 + 55 / 60 + 35.38390 / 3600)
    yield Example(
        title="Flinders Peak to Buninyong",
        source="Geocentric Datum of Australia technical manual, printed 54 972.271 m (from memory)",
        given="37°57′03.72030″ S 144°25′29.52440″ E to 37°39′10.15610″ S 143°55′35.38390″ E",
        law="the geodesic on the ellipsoid",
        unit="m", published=54972.271, digits=3, computed=geodesic(start, end).distance_m,
    )  # fmt: skip


def _rain() -> Iterator[Example]:
    for ghz, tilt, k in ((1.0, 0.0, 2.59e-5), (1.0, 90.0, 3.08e-5)):
        law = rain_law(ghz * 1e9, tilt_deg=tilt)
        way = "horizontal" if tilt == 0 else "vertical"
        yield Example(
            title=f"What rain takes at 1 GHz, {way}: the constant k",
            source="ITU-R P.838-3, Table 5",
            given=f"f = {ghz:g} GHz, {way} polarisation, a level path; k in millionths",
            law="equations 1 to 5 of P.838-3 with the constants of its Tables 1 to 4",
            unit="e-6", published=k * 1e6, digits=1, computed=law.k * 1e6,
        )  # fmt: skip


def _match() -> Iterator[Example]:
    match = Match.from_vswr(2.0)
    for name, published, digits, computed in (
        ("Return loss", 9.54, 2, match.return_loss_db),
        ("Mismatch loss", 0.51, 2, match.mismatch_loss_db),
    ):
        yield Example(
            title=f"{name} at a VSWR of 2",
            source="standard transmission-line definitions, as tabulated in any handbook (from memory)",
            given="S = 2, so |G| = (2 - 1) / (2 + 1) = 1/3",
            law="-20 lg |G|" if name == "Return loss" else "-10 lg(1 - |G|²)",
            unit="dB", published=published, digits=digits, computed=float(computed),
        )  # fmt: skip


def _counted() -> Iterator[Example]:
    ratings = PairedCounts(both=794, first=150, second=86, neither=570)
    yield Example(
        title="Two ratings of the same 1600 people: the difference",
        source="Agresti, Categorical Data Analysis, approval ratings: 0.59 − 0.55 = 0.04",
        given="794 both times, 150 only the first, 86 only the second, 570 neither",
        law="(150 - 86) / 1600",
        unit="", published=0.04, digits=2, computed=float(ratings.difference),
    )  # fmt: skip
    yield Example(
        title="No loss seen: how many frames show that 1 in 100 is not lost",
        source="the rule of three, 3/p, and its exact form ln(0.05)/ln(1 - p) (Hanley and Lippman-Hand 1983): 299",
        given="p = 0.01, confidence 95 %",
        law="ln 0.05 / ln 0.99, rounded up",
        unit="frames", published=299.0, digits=0, computed=float(zero_loss_frames(0.01)),
    )  # fmt: skip
    crowd = Traffic(senders=100_001, airtime_s=0.005, period_s=1000.0)
    yield Example(
        title="A channel without agreement, at its best",
        source="Abramson 1970: at most 1/(2e) = 0.184 of the time carries frames, at an offered load of 0.5",
        given="100 001 senders, 5 ms once in 1000 s each: G = 0.5",
        law="G exp(-2 G)",
        unit="", published=0.184, digits=3,
        computed=crowd.offered_load * crowd.success_at_random_times(),
    )  # fmt: skip


def as_markdown(cases: list[Example]) -> str:
    """Return the cases as docs/examples.md."""
    head = """# Published cases, worked here

Each figure was printed somewhere else first; beside it stands what this program computes. `inchmark examples` prints this page anew,
and fails if one no longer agrees. Some 1,000 further rows are checked by `inchmark reference FOLDER`.
"""
    parts = [head]
    for one in cases:
        unit = f" {one.unit}" if one.unit else ""
        parts.append(
            f"""
## {one.title}
Source: {one.source}. Given: {one.given}.

    {one.law} = {one.computed:.6g}{unit}

Published: {one.published:.{one.digits}f}{unit}. Computed: {one.computed:.{one.digits}f}{unit}.
"""
        )
    return "".join(parts)


def add_parser(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Add the command."""
    parser = commands.add_parser("examples", help="work published cases, with their sources")
    parser.set_defaults(run=_run)


def _run(_: argparse.Namespace) -> int:
    cases = list(examples())
    print(as_markdown(cases), end="")
    return 0 if all(one.agrees for one in cases) else 1
