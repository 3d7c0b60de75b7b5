"""Tables of paths: Fresnel zones, knife edge, two rays, terrain profiles, buildings and plants."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path

import numpy as np

from inchmark.cli.reference import formulas
from inchmark.cli.reference.rows import Row, Values, number
from inchmark.core.propagation import clutter, geometry, indoors, knife_edge, two_ray, woodland
from inchmark.core.propagation.diffraction import delta_bullington
from inchmark.core.propagation.free_space import free_space_loss_db


def fresnel_horizon(row: Row) -> Values:
    """Return a Fresnel radius, an earth bulge or a horizon."""
    if row["quantity"] == "radio_horizon":
        heights = number(row, "height1_m"), number(row, "height2_m")
        return {"value_m": float(formulas.radio_horizon_m(*heights, k=number(row, "k_factor")))}
    ends = number(row, "distance1_m"), number(row, "distance2_m")
    if row["quantity"] == "earth_bulge":
        return {"value_m": float(geometry.earth_bulge_m(*ends, k=number(row, "k_factor")))}
    zone = int(row["zone_number"])
    hertz = _hertz(row)
    return {"value_m": float(geometry.fresnel_radius_m(*ends, hertz, zone=zone))}


def knife(row: Row) -> Values:
    """Return nu, and the loss by the approximation and by the integrals."""
    if row["nu_given"]:
        nu = number(row, "nu_given")
    else:
        hertz = _hertz(row)
        names = ("height_above_line_m", "distance1_m", "distance2_m")
        nu = float(knife_edge.fresnel_parameter(*(number(row, name) for name in names), hertz))
    return {
        "nu": nu,
        "loss_approx_db": float(knife_edge.knife_edge_loss_db(nu)),
        "loss_exact_db": float(formulas.exact_knife_edge_loss_db(nu)),
    }


def two_rays(row: Row) -> Values:
    """Return reflection and loss over flat ground."""
    h1, h2 = number(row, "height_tx_m"), number(row, "height_rx_m")
    d, hertz = number(row, "distance_m"), _hertz(row)
    ground = two_ray.Ground(
        permittivity=number(row, "eps_r"), conductivity_s_m=number(row, "sigma_s_per_m")
    )
    angle = float(two_ray.grazing_angle_rad(h1, h2, d))
    gamma = complex(two_ray.reflection(angle, hertz, ground, row["polarisation"]))
    loss = two_ray.two_ray_loss_db(
        h1, h2, d, hertz, ground=ground, polarisation=row["polarisation"]
    )
    return {
        "grazing_angle_deg": float(np.degrees(angle)),
        "reflection_real": gamma.real,
        "reflection_imag": gamma.imag,
        "path_loss_db": float(loss),
        "free_space_loss_direct_db": float(free_space_loss_db(np.hypot(d, h1 - h2), hertz)),
        "break_distance_m": float(two_ray.break_distance_m(h1, h2, hertz)),
        "asymptote_loss_db": float(formulas.far_ground_loss_db(h1, h2, d)),
    }


def diffraction(folder: Path) -> Callable[[Row], Values]:
    """Return the function of the profiles kept beside the table."""
    found = json.loads((folder / "diffraction_profiles.json").read_text("utf-8"))
    profiles = {one["profile_id"]: one for one in found["profiles"]}

    def compute(row: Row) -> Values:
        profile = profiles[row["profile_id"]]
        one = delta_bullington(
            profile["distance_m"],
            profile["height_m"],
            height1_m=number(row, "height_tx_above_ground_m"),
            height2_m=number(row, "height_rx_above_ground_m"),
            frequency_hz=_hertz(row),
            polarisation=row["polarisation"],
            k=number(row, "k_factor"),
            ground=two_ray.Ground(
                permittivity=number(row, "eps_r"), conductivity_s_m=number(row, "sigma_s_per_m")
            ),
        )
        return {
            "diffraction_loss_db": float(one.loss_db),
            "bullington_nu": float(one.bullington_nu),
            "bullington_loss_db": float(one.bullington_db),
            "smooth_height_tx_m": float(one.smooth_height1_m),
            "smooth_height_rx_m": float(one.smooth_height2_m),
            "smooth_bullington_loss_db": float(one.smooth_bullington_db),
            "spherical_loss_db": float(one.spherical_db),
        }

    return compute


def building_vegetation(row: Row) -> Values:
    """Return the loss of the model the row names."""
    return {"loss_db": float(_MODELS[row["model"]](row))}


def _entry(row: Row) -> float:
    return float(
        indoors.building_entry_loss_db(
            _hertz(row),
            building=row["building_type"],
            share=number(row, "probability_percent") / 100,
            elevation_deg=number(row, "elevation_deg"),
        )
    )


def _statistical(row: Row) -> float:
    share = number(row, "probability_percent") / 100
    hertz = _hertz(row)
    return float(clutter.statistical_clutter_loss_db(number(row, "distance_m"), hertz, share=share))


def _hertz(row: Row) -> float:
    return number(row, "frequency_mhz") * 1e6


def _height_gain(row: Row) -> float:
    return float(
        clutter.height_gain_loss_db(
            number(row, "antenna_height_m"),
            _hertz(row),
            kind=row["clutter_type"],
            clutter_height_m=number(row, "clutter_height_m"),
            street_width_m=number(row, "street_width_m"),
        )
    )


def _nominal(row: Row) -> float:
    return float(
        formulas.nominal_clutter_loss_db(
            number(row, "antenna_height_m"),
            _hertz(row),
            clutter_height_m=number(row, "clutter_height_m"),
            clutter_distance_m=number(row, "nominal_distance_m"),
        )
    )


def _woodland(row: Row) -> float:
    most, rate = number(row, "max_attenuation_db"), number(row, "specific_attenuation_db_per_m")
    depth = number(row, "distance_m")
    return float(woodland.woodland_loss_db(depth, most_db=most, per_metre_db=rate))


def _indoor(row: Row) -> float:
    return float(
        indoors.indoor_loss_db(
            number(row, "distance_m"),
            _hertz(row),
            coefficient=number(row, "power_loss_coefficient"),
            floors_db=number(row, "floor_loss_db"),
        )
    )


_MODELS: dict[str, Callable[[Row], float]] = {
    "itu_p2109_building_entry": _entry,
    "itu_p2108_terrestrial_statistical": _statistical,
    "itu_p2108_height_gain": _height_gain,
    "itu_p452_clutter": _nominal,
    "itu_p833_woodland_one_terminal": _woodland,
    "itu_p1238_site_general_old": _indoor,
}
