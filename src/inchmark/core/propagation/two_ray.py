"""Two rays: the direct one and one reflected from flat ground, added with their phases.

Plane-wave Fresnel reflection with the ground's complex permittivity (ITU-R P.527, textbook).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from inchmark.core.checks import Floats, positive, within
from inchmark.core.constants import SPEED_OF_LIGHT_M_S, VACUUM_PERMITTIVITY_F_M

NEAR_SHARE, NEAR_POINTS = 0.1, 21  # over which the ripples of two rays are averaged
POLARISATIONS = ("vertical", "horizontal")


@dataclass(frozen=True, slots=True, kw_only=True)
class Ground:
    """Relative permittivity (1 and up) and conductivity [S/m, 0 and up]."""

    permittivity: float
    conductivity_s_m: float

    def __post_init__(self) -> None:
        """Refuse what no ground is."""
        within("permittivity", self.permittivity, 1, 1000)
        within("conductivity_s_m", self.conductivity_s_m, 0, 1e8)

    def complex_permittivity(self, frequency_hz: ArrayLike) -> NDArray[np.complex128]:
        """Return eps_r - j sigma / (2 pi f eps_0)."""
        f = positive("frequency_hz", frequency_hz)
        loss = self.conductivity_s_m / (2 * np.pi * f * VACUUM_PERMITTIVITY_F_M)
        return np.asarray(self.permittivity - 1j * loss, dtype=np.complex128)


# usual figures, from memory of ITU-R P.527 at UHF
GROUNDS = {
    "dry ground": Ground(permittivity=4.0, conductivity_s_m=0.001),
    "ground": Ground(permittivity=15.0, conductivity_s_m=0.005),
    "wet ground": Ground(permittivity=30.0, conductivity_s_m=0.02),
    "fresh water": Ground(permittivity=80.0, conductivity_s_m=0.01),
    "sea water": Ground(permittivity=80.0, conductivity_s_m=5.0),
}


def grazing_angle_rad(height1_m: ArrayLike, height2_m: ArrayLike, distance_m: ArrayLike) -> Floats:
    """Return the angle between the reflected ray and the ground [rad]."""
    angle: Floats = np.arctan2(
        positive("height1_m", height1_m) + positive("height2_m", height2_m),
        positive("distance_m", distance_m),
    )
    return angle


def reflection(
    angle_rad: ArrayLike, frequency_hz: ArrayLike, ground: Ground, polarisation: str
) -> NDArray[np.complex128]:
    """Return the reflection coefficient at a grazing angle [rad]."""
    if polarisation not in POLARISATIONS:
        raise ValueError(f"polarisation={polarisation!r} must be {' or '.join(POLARISATIONS)}")
    eps = ground.complex_permittivity(frequency_hz)
    sine = np.sin(angle_rad)
    root = np.sqrt(eps - np.cos(angle_rad) ** 2)
    own = eps * sine if polarisation == "vertical" else sine
    found: NDArray[np.complex128] = (own - root) / (own + root)
    return found


def two_ray_loss_db(
    height1_m: ArrayLike,
    height2_m: ArrayLike,
    distance_m: ArrayLike,
    frequency_hz: ArrayLike,
    *,
    ground: Ground,
    polarisation: str = "vertical",
) -> Floats:
    """Return the loss [dB] between isotropic antennas over flat ground; distance along it [m]."""
    h1, h2 = positive("height1_m", height1_m), positive("height2_m", height2_m)
    d = positive("distance_m", distance_m)
    k = 2 * np.pi * positive("frequency_hz", frequency_hz) / SPEED_OF_LIGHT_M_S
    direct, bounced = np.hypot(d, h1 - h2), np.hypot(d, h1 + h2)
    gamma = reflection(grazing_angle_rad(h1, h2, d), frequency_hz, ground, polarisation)
    field = np.exp(-1j * k * direct) / direct + gamma * np.exp(-1j * k * bounced) / bounced
    loss: Floats = -20 * np.log10(np.abs(field) / (2 * k))
    return loss


def smoothed_two_ray_loss_db(
    height1_m: ArrayLike,
    height2_m: ArrayLike,
    distance_m: Floats,
    frequency_hz: float,
    *,
    ground: Ground,
) -> Floats:
    """Return two rays averaged in power over ten per cent of each distance, shape (distances,) [dB].

    A place is no point: the ripples of two rays are finer than anybody knows its distance.
    """
    near = distance_m[:, None] * np.geomspace(1 - NEAR_SHARE, 1 + NEAR_SHARE, NEAR_POINTS)
    first, second = (
        np.reshape(np.asarray(one, dtype=np.float64), (-1, 1)) for one in (height1_m, height2_m)
    )
    loss = two_ray_loss_db(first, second, near, frequency_hz, ground=ground)
    found: Floats = -10 * np.log10(np.mean(10 ** (-loss / 10), axis=1))
    return found


def break_distance_m(height1_m: ArrayLike, height2_m: ArrayLike, frequency_hz: ArrayLike) -> Floats:
    """Return 4 h1 h2 / lambda [m]: from there the ground takes 40 dB per tenfold distance.

    ITU-R P.1411.
    """
    h1, h2 = positive("height1_m", height1_m), positive("height2_m", height2_m)
    distance: Floats = 4 * h1 * h2 * positive("frequency_hz", frequency_hz) / SPEED_OF_LIGHT_M_S
    return distance
