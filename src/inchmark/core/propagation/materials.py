"""A flat sheet of building material in the way: what a wave loses in it and at its faces.

ITU-R P.2040-3: permittivity a f^b and conductivity c f^d by material, and the single-layer slab with
all reflections inside it. One sheet without reinforcement or frame; a house is P.2109.
"""

from __future__ import annotations

import cmath
import math
from dataclasses import dataclass

from inchmark.core.checks import positive, within
from inchmark.core.constants import SPEED_OF_LIGHT_M_S, VACUUM_PERMITTIVITY_F_M


@dataclass(frozen=True, slots=True, kw_only=True)
class Material:
    """The four parameters of a material (f in GHz) and where the document states them [GHz]."""

    name: str
    a: float
    b: float
    c: float
    d: float
    from_ghz: float
    to_ghz: float

    def holds_at(self, frequency_hz: float) -> bool:
        """Tell whether the document states the parameters there; elsewhere they are extrapolated."""
        return self.from_ghz <= frequency_hz / 1e9 <= self.to_ghz

    def permittivity(self, frequency_hz: float) -> complex:
        """Return the relative permittivity, its imaginary part negative where power is lost."""
        f = float(positive("frequency_hz", frequency_hz))
        loss = self.conductivity_s_per_m(f) / (2 * math.pi * f * VACUUM_PERMITTIVITY_F_M)
        return complex(self.a * (f / 1e9) ** self.b, -loss)

    def conductivity_s_per_m(self, frequency_hz: float) -> float:
        """Return the conductivity [S/m]."""
        return float(self.c * (float(positive("frequency_hz", frequency_hz)) / 1e9) ** self.d)

    def attenuation_db_per_m(self, frequency_hz: float) -> float:
        """Return what a plane wave loses on its way through the material [dB/m]."""
        index = cmath.sqrt(self.permittivity(frequency_hz))
        decay = 2 * math.pi * frequency_hz / SPEED_OF_LIGHT_M_S * -index.imag
        return 20 / math.log(10) * decay


@dataclass(frozen=True, slots=True, kw_only=True)
class Sheet:
    """A sheet of a material as a wave meets it: thickness [m], incidence from the normal [degrees].

    `crossed` is True where the electric field lies across the plane of incidence (TE).
    """

    material: Material
    thickness_m: float
    incidence_deg: float = 0.0
    crossed: bool = True

    def __post_init__(self) -> None:
        """Refuse a sheet that cannot be."""
        positive("thickness_m", self.thickness_m)
        within("incidence_deg", self.incidence_deg, 0, math.nextafter(90, 0))

    def face_loss_db(self, frequency_hz: float) -> float:
        """Return the power lost to reflection at one face [dB]."""
        face, _ = self._face_and_way(frequency_hz)
        return _db(1 - abs(face) ** 2)

    def loss_db(self, frequency_hz: float) -> float:
        """Return what passes the whole sheet, bounces inside it included, as a loss [dB]."""
        face, once = self._face_and_way(frequency_hz)
        through = (1 - face**2) * once / (1 - (face * once) ** 2)
        return _db(abs(through) ** 2)

    def reflection_db(self, frequency_hz: float) -> float:
        """Return what the sheet throws back, as a loss [dB]."""
        face, once = self._face_and_way(frequency_hz)
        back = face * (1 - once**2) / (1 - (face * once) ** 2)
        return _db(abs(back) ** 2)

    def _face_and_way(self, frequency_hz: float) -> tuple[complex, complex]:
        """Return the reflection coefficient of a face, and the factor of one way through."""
        eta = self.material.permittivity(frequency_hz)
        turned = math.radians(self.incidence_deg)
        root = cmath.sqrt(eta - math.sin(turned) ** 2)
        straight = math.cos(turned) if self.crossed else eta * math.cos(turned)
        face = (straight - root) / (straight + root)
        way = 2 * math.pi * frequency_hz / SPEED_OF_LIGHT_M_S * self.thickness_m * root
        return face, cmath.exp(-1j * way)


def _db(share: float) -> float:
    return -10 * math.log10(share) if share > 0 else math.inf


# ITU-R P.2040-3, table 3, from memory (the editions before it differ for some)
MATERIALS = {
    one.name: one
    for one in (
        Material(name="concrete", a=5.24, b=0, c=0.0462, d=0.7822, from_ghz=1, to_ghz=100),
        Material(name="brick", a=3.91, b=0, c=0.0238, d=0.16, from_ghz=1, to_ghz=40),
        Material(name="plasterboard", a=2.73, b=0, c=0.0085, d=0.9395, from_ghz=1, to_ghz=100),
        Material(name="wood", a=1.99, b=0, c=0.0047, d=1.0718, from_ghz=0.001, to_ghz=100),
        Material(name="glass", a=6.31, b=0, c=0.0036, d=1.3394, from_ghz=0.1, to_ghz=100),
        Material(name="chipboard", a=2.58, b=0, c=0.0217, d=0.78, from_ghz=1, to_ghz=100),
        Material(name="metal", a=1, b=0, c=1e7, d=0, from_ghz=1, to_ghz=100),
        Material(name="ground_medium_dry", a=15, b=-0.1, c=0.035, d=1.63, from_ghz=1, to_ghz=10),
    )
}
